import * as THREE from 'three';
import type { Finish } from '../../../core/finish/finish';
import type { MapImages } from './refine-messages';
import { SKY_GLSL, type SkyLight } from './sky-light';

type FinishMaterial = THREE.MeshStandardMaterial | THREE.MeshLambertMaterial;

/** three.js materials for finishes. Maps arrive later than the first picture and are then put in place. */
export class FinishMaterials {
  private readonly made = new Map<string, { material: FinishMaterial; finish: Finish }>();
  private readonly maps = new Map<string, { base: THREE.DataTexture; surface: THREE.DataTexture | undefined }>();

  constructor(
    private readonly sky: SkyLight['uniforms'],
    private readonly anisotropy: number,
    private readonly software: boolean,
  ) {}

  /** `unit` is the exposure scale by which emission is brought to picture units. */
  get(finish: Finish, emissionScale: number, unit: number, highlighted: boolean): FinishMaterial {
    const key = `${finish.id} ${emissionScale.toFixed(3)} ${highlighted ? 'lit' : ''}`;
    let entry = this.made.get(key);
    if (entry && entry.finish !== finish) {
      entry.material.dispose();
      entry = undefined;
    }
    if (!entry) {
      entry = { material: this.make(finish), finish };
      this.made.set(key, entry);
    }
    const { material } = entry;
    if (highlighted) {
      material.emissive.set(0xb8492a);
      material.emissiveIntensity = 0.45;
    } else {
      material.emissive.setRGB(...finish.baseColour, THREE.SRGBColorSpace);
      material.emissiveIntensity = finish.emissionCdM2 * emissionScale * unit;
    }
    return material;
  }

  setMaps(name: string, { size, base, surface }: MapImages): void {
    const texture = (data: Uint8Array<ArrayBuffer>, srgb: boolean) => {
      const t = new THREE.DataTexture(data, size.width, size.height, THREE.RGBAFormat);
      t.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
      t.wrapS = t.wrapT = THREE.RepeatWrapping;
      t.magFilter = THREE.LinearFilter;
      t.minFilter = THREE.LinearMipmapLinearFilter;
      t.generateMipmaps = true;
      t.anisotropy = this.anisotropy;
      t.needsUpdate = true;
      return t;
    };
    this.maps.set(name, { base: texture(base, true), surface: surface && texture(surface, false) });
    for (const { material, finish } of this.made.values()) if (finish.maps === name) this.putMaps(material, finish);
  }

  private make(finish: Finish): FinishMaterial {
    const matt = finish.transmission === 0 && finish.metalness < 0.5 && finish.roughness > 0.35;
    const material = this.software && matt ? this.makeMatt(finish) : this.makePhysical(finish);
    this.putMaps(material, finish);
    return material;
  }

  /** Where a CPU shades every fragment, what hardly shines is drawn without its shine; the kernel adds it a moment later. */
  private makeMatt(finish: Finish): THREE.MeshLambertMaterial {
    const material = new THREE.MeshLambertMaterial({
      color: new THREE.Color().setRGB(...finish.baseColour, THREE.SRGBColorSpace),
      transparent: finish.opacity < 1,
      opacity: finish.opacity,
      side: THREE.DoubleSide,
      shadowSide: THREE.DoubleSide,
    });
    material.onBeforeCompile = (shader) => {
      shader.fragmentShader = shader.fragmentShader.replace('#include <normal_fragment_maps>', NORMAL_FROM_TWO);
    };
    return material;
  }

  private makePhysical(finish: Finish): THREE.MeshStandardMaterial {
    const clear = finish.transmission > 0;
    const material = new THREE.MeshStandardMaterial({
      color: new THREE.Color().setRGB(...finish.baseColour, THREE.SRGBColorSpace),
      roughness: Math.max(0.03, finish.roughness),
      metalness: finish.metalness,
      side: THREE.DoubleSide,
      shadowSide: THREE.DoubleSide,
    });
    if (clear) {
      // What a clear body takes away is drawn as its opacity; what it mirrors stays at full strength.
      const dense = finish.attenuationDistanceM !== null;
      material.transparent = true;
      material.premultipliedAlpha = true;
      material.depthWrite = dense;
      material.opacity = 1 - finish.transmission * (dense ? 0.3 : 0.94);
      material.color.multiplyScalar(dense ? 0.12 : 0.3);
      material.side = THREE.FrontSide;
      if (dense) material.color.lerp(new THREE.Color().setRGB(...finish.attenuationColour, THREE.SRGBColorSpace).multiplyScalar(0.08), 0.8);
    } else if (finish.opacity < 1) {
      material.transparent = true;
      material.opacity = finish.opacity;
    }
    material.onBeforeCompile = (shader) => {
      Object.assign(shader.uniforms, this.sky);
      adaptShader(shader);
    };
    return material;
  }

  private putMaps(material: FinishMaterial, finish: Finish): void {
    const maps = finish.maps === null ? undefined : this.maps.get(finish.maps);
    if (!maps) return;
    const placed = (texture: THREE.DataTexture) => {
      const own = texture.clone();
      own.repeat.set(1 / finish.widthM, 1 / finish.heightM);
      own.rotation = (finish.rotationDeg * Math.PI) / 180;
      return own;
    };
    material.map = placed(maps.base);
    if (maps.surface) {
      material.normalMap = placed(maps.surface);
      if (material instanceof THREE.MeshStandardMaterial) material.roughnessMap = material.normalMap;
      material.normalScale.setScalar(finish.normalScale);
    }
    material.needsUpdate = true;
  }
}

/** The normal's third component follows from the other two. */
const NORMAL_FROM_TWO = THREE.ShaderChunk.normal_fragment_maps.replaceAll(
  'mapN.xy *= normalScale;',
  'mapN.xy *= normalScale; mapN.z = sqrt(max(0.01, 1.0 - dot(mapN.xy, mapN.xy)));',
);

/**
 * Our surface map holds normal x and y in red and green, roughness in blue; three expects them elsewhere. What is mirrored
 * comes from the sky map.
 */
function adaptShader(shader: THREE.WebGLProgramParametersWithUniforms): void {
  shader.fragmentShader = shader.fragmentShader
    .replace('#include <common>', `#include <common>\n${SKY_GLSL}`)
    .replace(
      '#include <lights_fragment_maps>',
      /* glsl */ `#include <lights_fragment_maps>
      vec3 mirrored = inverseTransformDirection(reflect(-geometryViewDir, geometryNormal), viewMatrix);
      radiance += skyTowards(mirrored, material.roughness * 6.0);`,
    )
    .replace('#include <roughnessmap_fragment>', THREE.ShaderChunk.roughnessmap_fragment.replace('texelRoughness.g', 'texelRoughness.b'))
    .replace('#include <normal_fragment_maps>', NORMAL_FROM_TWO);
}
