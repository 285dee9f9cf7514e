import * as THREE from 'three';
import { ADJUST_GLSL, adjustmentMatrix, isAdjusted } from '../../../core/finish/adjust';
import type { Finish } from '../../../core/finish/finish';
import type { MapSet } from '../../../core/finish/maps/texture-image';
import type { MapImages } from './refine-messages';
import { HEX_TILING_GLSL } from '../../../core/finish/hex-tiling';
import { RELIEF_MOST_STEPS, RELIEF_STEP, reliefGlsl } from '../../../core/finish/relief';
import { halved } from '../../../core/finish/maps/texture-budget';
import { meanTexel } from '../../../core/finish/maps/mean';
import { WAVE_COUNT, WAVES_GLSL, wavesOf, type Waves } from '../../../core/finish/waves';
import { SKY_GLSL, type SkyLight } from './sky-light';
import { tintSunlight, type SunTint } from './sun-tint';

/** Share of even light that a matt face sends back itself, seen at 45 degrees: a line through what the kernel's scattering function gives between roughness 0.4 and 1. */
const faceShareOf = ({ ior, roughness }: Finish): number => ((ior - 1) / (ior + 1)) ** 2 * (1.6 - 1.2 * roughness);

interface PlacedMap {
  texture: THREE.DataTexture;
  mean: THREE.Vector4;
}
type PlacedMaps = { base: PlacedMap } & { [K in Exclude<keyof MapSet, 'base'>]?: PlacedMap | undefined };
const IS_SRGB: Readonly<Record<keyof MapSet, boolean>> = { base: true, surface: false, shares: false, glow: true };
const KINDS = Object.keys(IS_SRGB) as (keyof MapSet)[];
/** Of the finish's plain colour, and even. */
const AWAITED: MapImages = { size: { width: 1, height: 1 }, base: Uint8Array.of(255, 255, 255, 255), surface: Uint8Array.of(128, 128, 255, 255) }; // prettier-ignore

type FinishMaterial = THREE.MeshStandardMaterial | THREE.MeshLambertMaterial;

/** three.js materials for finishes. Maps arrive later than the first picture and are then put in place. */
export class FinishMaterials {
  private readonly made = new Map<string, { material: FinishMaterial; finish: Finish }>();
  private readonly maps = new Map<string, PlacedMaps>();
  /** Stands for maps on their way: with them in place the shader is the one that is needed then, and made once. */
  private awaited: PlacedMaps | undefined;
  /** As they came, and how often they are halved just now. */
  private readonly whole = new Map<string, { images: MapImages; halvings: number }>();

  /** Seconds; what moves is drawn as it is then. */
  readonly time = { value: 0 };

  constructor(
    private readonly sky: SkyLight['uniforms'],
    private readonly tint: SunTint['uniforms'],
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
      material.emissive.setRGB(...(finish.emissionColour ?? finish.baseColour), THREE.SRGBColorSpace);
      material.emissiveIntensity = finish.emissionCdM2 * emissionScale * unit;
    }
    return material;
  }

  /** Map sets with their bytes at full resolution, mip levels included. */
  get mapBytes(): ReadonlyMap<string, number> {
    return new Map([...this.whole].map(([name, { images }]) => [name, bytesOf(images)]));
  }

  /** Bytes that they take just now. */
  get usedMapBytes(): number {
    return [...this.whole.values()].reduce((sum, { images, halvings }) => sum + bytesOf(images) / 4 ** halvings, 0);
  }

  setMaps(name: string, images: MapImages): void {
    this.whole.set(name, { images, halvings: 0 });
    this.place(name, images);
  }

  /** Halves map sets as often as is said; true: some are other than before. */
  halveMaps(wanted: ReadonlyMap<string, number>): boolean {
    let changed = false;
    for (const [name, entry] of this.whole) {
      const halvings = wanted.get(name) ?? 0;
      if (halvings === entry.halvings) continue;
      entry.halvings = halvings;
      changed = true;
      const images = { ...entry.images };
      for (let i = 0; i < halvings; i++) {
        const { width, height } = images.size;
        for (const kind of KINDS) if (images[kind]) images[kind] = halved(images[kind], width, height, IS_SRGB[kind]);
        images.size = { width: Math.max(1, width >> 1), height: Math.max(1, height >> 1) };
      }
      this.place(name, images);
    }
    return changed;
  }

  private place(name: string, images: MapImages): void {
    const before = this.maps.get(name);
    for (const kind of KINDS) before?.[kind]?.texture.dispose();
    this.maps.set(name, this.texturesOf(images));
    for (const { material, finish } of this.made.values()) if (finish.maps === name) this.putMaps(material, finish);
  }

  private texturesOf({ size, ...images }: MapImages): PlacedMaps {
    const texture = (kind: keyof MapSet): PlacedMap | undefined => {
      const data = images[kind];
      if (!data) return undefined;
      const srgb = IS_SRGB[kind];
      const t = new THREE.DataTexture(data, size.width, size.height, THREE.RGBAFormat);
      t.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
      t.wrapS = t.wrapT = THREE.RepeatWrapping;
      t.magFilter = THREE.LinearFilter;
      t.minFilter = THREE.LinearMipmapLinearFilter;
      t.generateMipmaps = true;
      t.anisotropy = this.anisotropy;
      t.needsUpdate = true;
      return { texture: t, mean: new THREE.Vector4(...meanTexel(data, size.width, size.height, srgb)) };
    };
    return { base: texture('base')!, surface: texture('surface'), shares: texture('shares'), glow: texture('glow') };
  }

  private make(finish: Finish): FinishMaterial {
    const matt =
      finish.transmission === 0 && finish.metalness < 0.5 && finish.roughness > 0.35 && finish.clearCoat === 0 && finish.film === 0;
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
    if (finish.cutOut) material.alphaTest = 0.5;
    wear(material, finish);
    material.onBeforeCompile = (shader) => {
      shader.fragmentShader = shader.fragmentShader.replace('#include <normal_fragment_maps>', NORMAL_FROM_TWO);
      tintSunlight(shader, this.tint);
      adjustShader(shader, finish, true);
      if (finish.breakRepeat || finish.reliefM > 0) lookupShader(shader, material, finish, this.software);
    };
    return material;
  }

  private makePhysical(finish: Finish): THREE.MeshStandardMaterial {
    const clear = finish.transmission > 0;
    const coated = finish.clearCoat > 0;
    const fibrous = finish.sheen > 0;
    const brushed = finish.anisotropy > 0;
    const filmed = finish.film > 0;
    const material = new (coated || fibrous || brushed || filmed ? THREE.MeshPhysicalMaterial : THREE.MeshStandardMaterial)({
      ...(fibrous && {
        sheen: finish.sheen,
        sheenColor: new THREE.Color().setRGB(...finish.sheenColour, THREE.SRGBColorSpace),
        sheenRoughness: finish.sheenRoughness,
      }),
      ...(filmed && {
        iridescence: finish.film,
        iridescenceIOR: finish.filmIor,
        iridescenceThicknessMaximum: finish.filmNm,
        ior: finish.ior,
      }),
      ...(brushed && { anisotropy: finish.anisotropy, anisotropyRotation: ((finish.anisotropyDeg + finish.rotationDeg) * Math.PI) / 180 }),
      ...(coated && { clearcoat: finish.clearCoat, clearcoatRoughness: Math.max(0.03, finish.clearCoatRoughness) }),
      color: new THREE.Color().setRGB(...finish.baseColour, THREE.SRGBColorSpace),
      roughness: Math.max(0.03, finish.roughness),
      metalness: finish.metalness,
      side: THREE.DoubleSide,
      shadowSide: THREE.DoubleSide,
    });
    if (clear) {
      // What is seen through it is coloured before (see filters.ts); what it mirrors stays at full strength.
      material.transparent = true;
      material.premultipliedAlpha = true;
      material.depthWrite = false;
      material.opacity = 1 - finish.transmission * 0.94;
      material.color.multiplyScalar(KEPT_COLOUR);
      material.side = THREE.FrontSide;
    } else if (finish.opacity < 1) {
      material.transparent = true;
      material.opacity = finish.opacity;
    }
    if (finish.cutOut) material.alphaTest = 0.5;
    wear(material, finish);
    material.onBeforeCompile = (shader) => {
      Object.assign(shader.uniforms, this.sky);
      adaptShader(shader);
      // A clear body would be tinted by itself.
      if (!clear) tintSunlight(shader, this.tint);
      adjustShader(shader, finish);
      if (finish.breakRepeat || finish.reliefM > 0) lookupShader(shader, material, finish, this.software);
      if (finish.waves) waveShader(shader, finish.waves, this.time);
      if (clear) mirrorWhole(shader, finish);
    };
    return material;
  }

  private putMaps(material: FinishMaterial, finish: Finish): void {
    if (finish.maps === null) return;
    const maps = this.maps.get(finish.maps) ?? (this.awaited ??= this.texturesOf(AWAITED));
    const placed = (texture: THREE.DataTexture) => {
      const own = texture.clone();
      own.repeat.set(1 / finish.widthM, 1 / finish.heightM);
      own.rotation = (finish.rotationDeg * Math.PI) / 180;
      own.offset.set(finish.offsetM[0] / finish.widthM, finish.offsetM[1] / finish.heightM);
      return own;
    };
    material.map?.dispose();
    material.map = placed(maps.base.texture);
    meansOf(material).mapMean.value = maps.base.mean;
    if (maps.surface) {
      material.normalMap?.dispose();
      material.normalMap = placed(maps.surface.texture);
      meansOf(material).surfaceMean.value = maps.surface.mean;
      if (material instanceof THREE.MeshStandardMaterial) material.roughnessMap = material.normalMap;
      material.normalScale.setScalar(finish.normalScale);
    }
    if (maps.shares && material instanceof THREE.MeshStandardMaterial) {
      material.metalnessMap?.dispose();
      material.metalnessMap = placed(maps.shares.texture);
      meansOf(material).sharesMean.value = maps.shares.mean;
    }
    if (maps.glow && finish.emissionCdM2 > 0) {
      material.emissiveMap?.dispose();
      material.emissiveMap = placed(maps.glow.texture);
    }
    material.needsUpdate = true;
  }
}

/** Of RGBA8 with mip levels, which add a third. */
const bytesOf = ({ size, ...images }: MapImages): number =>
  (size.width * size.height * 4 * KINDS.filter((kind) => images[kind]).length * 4) / 3;

/** The maps' means, as the material's shader will read them. */
function meansOf(material: FinishMaterial): { mapMean: THREE.IUniform; surfaceMean: THREE.IUniform; sharesMean: THREE.IUniform } {
  const data = material.userData as { means?: ReturnType<typeof meansOf> };
  return (data.means ??= {
    mapMean: { value: new THREE.Vector4() },
    surfaceMean: { value: new THREE.Vector4() },
    sharesMean: { value: new THREE.Vector4() },
  });
}

/**
 * Looks maps up in moved patches, and where a face with relief shows another place than the one on it. What other chunks
 * have been put in by name is put in by text first.
 */
function lookupShader(shader: THREE.WebGLProgramParametersWithUniforms, material: FinishMaterial, finish: Finish, software: boolean): void {
  Object.assign(shader.uniforms, meansOf(material));
  shader.uniforms['reliefPerWidth'] = { value: finish.reliefM / finish.widthM };
  const [step, most] = software ? [1 / 96, 14] : [RELIEF_STEP, RELIEF_MOST_STEPS];
  shader.fragmentShader = shader.fragmentShader
    .replace('#include <map_fragment>', `findPlace();\n${THREE.ShaderChunk.map_fragment}`)
    .replace('#include <roughnessmap_fragment>', THREE.ShaderChunk.roughnessmap_fragment)
    .replace('texture2D( map, vMapUv )', 'lookUp( map, mapMean )')
    .replace('texture2D( normalMap, vNormalMapUv )', 'lookUp( normalMap, surfaceMean )')
    .replace('texture2D( roughnessMap, vRoughnessMapUv )', 'lookUp( roughnessMap, surfaceMean )')
    .replace('texture2D( metalnessMap, vMetalnessMapUv )', 'lookUp( metalnessMap, sharesMean )')
    .replace(
      'void main() {',
      /* glsl */ `
uniform vec4 mapMean;
uniform vec4 surfaceMean;
uniform vec4 sharesMean;
uniform float reliefPerWidth;
${HEX_TILING_GLSL}
vec2 place;
vec2 placeDx;
vec2 placeDy;
vec4 lookUpAt(sampler2D map, vec2 st, vec4 mean) {
  #ifdef PATCHED
    return tiledTexture(map, st, mean, placeDx, placeDy);
  #else
    return textureGrad(map, st, placeDx, placeDy);
  #endif
}
vec4 lookUp(sampler2D map, vec4 mean) { return lookUpAt(map, place, mean); }
#if defined(RELIEF) && defined(USE_NORMALMAP)
  float heightOf(vec2 st) { return lookUpAt(normalMap, st, surfaceMean).a; }
  ${reliefGlsl(step, most)}
#endif
void findPlace() {
  #ifdef USE_MAP
    place = vMapUv;
    placeDx = dFdx(place);
    placeDy = dFdy(place);
    #if defined(RELIEF) && defined(USE_NORMALMAP)
      vec3 seen = -vViewPosition;
      vec3 right = dFdx(seen);
      vec3 up = dFdy(seen);
      float det = placeDx.x * placeDy.y - placeDx.y * placeDy.x;
      if (abs(det) < 1e-20) return;
      vec3 alongS = (right * placeDy.y - up * placeDx.y) / det;
      vec3 alongT = (up * placeDx.x - right * placeDy.x) / det;
      vec3 face = normalize(cross(right, up));
      vec3 ray = normalize(seen);
      float down = max(1e-3, abs(dot(ray, face)));
      vec2 toGround = vec2(dot(ray, alongS) / dot(alongS, alongS), dot(ray, alongT) / dot(alongT, alongT)) * reliefPerWidth * length(alongS) / down;
      // What moves by less than a pixel is left where it is.
      vec2 pixel = max(abs(placeDx), abs(placeDy));
      if (max(abs(toGround.x) / pixel.x, abs(toGround.y) / pixel.y) > 1.0) place = reliefAt(place, toGround);
    #endif
  #endif
}
void main() {`,
    );
}

/** Bends the normals of level faces by the waves at their place in the world. */
function waveShader(shader: THREE.WebGLProgramParametersWithUniforms, waves: Waves, time: THREE.IUniform<number>): void {
  const table = wavesOf(waves);
  shader.uniforms['waves'] = { value: Array.from({ length: WAVE_COUNT * 2 }, (_, i) => new THREE.Vector4().fromArray(table, i * 4)) };
  shader.uniforms['waveTime'] = time;
  shader.vertexShader = shader.vertexShader
    .replace('#include <common>', '#include <common>\nvarying vec3 wavePlace;')
    .replace('#include <begin_vertex>', '#include <begin_vertex>\nwavePlace = (modelMatrix * vec4(position, 1.0)).xyz;');
  shader.fragmentShader = shader.fragmentShader
    .replace('#include <common>', `#include <common>\nvarying vec3 wavePlace;\n${WAVES_GLSL}`)
    .replace(
      '#include <clearcoat_normal_fragment_begin>',
      /* glsl */ `{
        vec3 level = inverseTransformDirection(normal, viewMatrix);
        if (abs(level.z) > 0.8) {
          vec2 slopes = waveSlopes(wavePlace.xy, max(length(dFdx(wavePlace.xy)), length(dFdy(wavePlace.xy))));
          level.xy -= slopes * sign(level.z);
          normal = normalize((viewMatrix * vec4(normalize(level), 0.0)).xyz);
        }
      }
      #include <clearcoat_normal_fragment_begin>`,
    );
}

/**
 * What a clear surface mirrors is added whole, and what is seen through it is less by as much (Schlick 1994); its opacity
 * holds for its own colour alone.
 */
function mirrorWhole(shader: THREE.WebGLProgramParametersWithUniforms, { ior }: Finish): void {
  shader.uniforms['mirroredAhead'] = { value: ((ior - 1) / (ior + 1)) ** 2 };
  shader.fragmentShader = shader.fragmentShader.replace('#include <common>', '#include <common>\nuniform float mirroredAhead;').replace(
    '#include <premultiplied_alpha_fragment>',
    /* glsl */ `{
        float mirrors = mix(mirroredAhead, 1.0, pow(1.0 - clamp(dot(normal, geometryViewDir), 0.0, 1.0), 5.0));
        gl_FragColor = vec4(outgoingLight - totalDiffuse * (1.0 - gl_FragColor.a), 1.0 - (1.0 - gl_FragColor.a) * (1.0 - mirrors));
      }`,
  );
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
      radiance += skyTowards(mirrored, material.roughness * 6.0);
      #ifdef USE_CLEARCOAT
        clearcoatRadiance += skyTowards(mirrored, material.clearcoatRoughness * 6.0);
      #endif`,
    )
    .replace('#include <roughnessmap_fragment>', THREE.ShaderChunk.roughnessmap_fragment.replace('texelRoughness.g', 'texelRoughness.b'))
    .replace('#include <metalnessmap_fragment>', SHARED_FACTORS)
    .replace(
      '#include <lights_physical_fragment>',
      THREE.ShaderChunk.lights_physical_fragment
        .replace('material.clearcoat = clearcoat;', 'material.clearcoat = clearcoat * factorShares.g;')
        .replace('material.sheenColor = sheenColor;', 'material.sheenColor = sheenColor * factorShares.a;'),
    )
    .replace('#include <normal_fragment_maps>', NORMAL_FROM_TWO);
}

/** How much a clear surface keeps of its own colour where all of it is clear. */
const KEPT_COLOUR = 0.3;

/** Metalness, clear coat, transmission and sheen by one map; see MapSet. */
const SHARED_FACTORS = /* glsl */ `
float metalnessFactor = metalness;
vec4 factorShares = vec4(1.0);
#ifdef USE_METALNESSMAP
  factorShares = texture2D( metalnessMap, vMetalnessMapUv );
  metalnessFactor *= factorShares.r;
  #ifdef CLEAR
    diffuseColor.rgb /= mix(1.0, ${String(KEPT_COLOUR)}, 1.0 - factorShares.b);
    diffuseColor.a = 1.0 - (1.0 - diffuseColor.a) * factorShares.b;
  #endif
#endif
`;

/** Whether elements wear the finish in different colours; then each vertex says how (see SurfaceBatch). */
export const variesColour = ({ vary }: Finish): boolean => vary.hueDeg > 0 || vary.brightness > 0;

/** Says in the material's defines what its shader has to do beside the usual, so that those alike share one. */
function wear(material: FinishMaterial, finish: Finish): void {
  material.defines = {
    ...material.defines,
    ...(isAdjusted(finish) && { ADJUSTED: '' }),
    ...(variesColour(finish) && { VARIED: '' }),
    ...(finish.breakRepeat && { PATCHED: '' }),
    ...(finish.waves && { WAVES: '' }),
    ...(finish.transmission > 0 && { CLEAR: '' }),
    ...(finish.reliefM > 0 && { RELIEF: '' }),
    ...(finish.diffuseTransmission > 0 && { SCATTERS_THROUGH: '' }),
  };
}

/** Colour adjustment, the element's own colour, and light from behind a surface that lets some through. */
function adjustShader(shader: THREE.WebGLProgramParametersWithUniforms, finish: Finish, matt = false): void {
  shader.uniforms['adjustment'] = { value: new THREE.Matrix3().set(...adjustmentMatrix(finish)) };
  shader.uniforms['contrast'] = { value: finish.contrast };
  shader.uniforms['through'] = { value: finish.diffuseTransmission };
  shader.uniforms['faceShare'] = { value: matt ? faceShareOf(finish) : 0 };
  shader.vertexShader = shader.vertexShader
    .replace('#include <common>', '#include <common>\n#ifdef VARIED\nattribute vec3 variation;\nvarying vec3 worn;\n#endif')
    .replace('#include <begin_vertex>', '#include <begin_vertex>\n#ifdef VARIED\nworn = variation;\n#endif');
  shader.fragmentShader = shader.fragmentShader
    .replace(
      '#include <common>',
      /* glsl */ `#include <common>
      #ifdef VARIED
        varying vec3 worn;
      #endif
      uniform mat3 adjustment;
      uniform float contrast;
      uniform float through;
      uniform float faceShare;
      ${ADJUST_GLSL}`,
    )
    .replace(
      '#include <map_fragment>',
      /* glsl */ `#include <map_fragment>
      #ifdef VARIED
        diffuseColor.rgb = min(turnHue(diffuseColor.rgb, worn.xy) * worn.z, vec3(1.0));
      #endif
      #ifdef ADJUSTED
        diffuseColor.rgb = adjustColour(diffuseColor.rgb, adjustment, contrast);
      #endif
      // What its face sends back of all that comes, where its shine is left out: dark surfaces show little else.
      diffuseColor.rgb += faceShare * (1.0 - diffuseColor.rgb);`,
    )
    .replace(
      '#include <lights_fragment_end>',
      /* glsl */ `#include <lights_fragment_end>
      #ifdef SCATTERS_THROUGH
        // The sun on the other side, as if nothing stood before it there.
        reflectedLight.directDiffuse *= 1.0 - through;
        #if NUM_DIR_LIGHTS > 0
          reflectedLight.directDiffuse += through * diffuseColor.rgb * RECIPROCAL_PI
            * directionalLights[0].color * max(0.0, -dot(normal, directionalLights[0].direction));
        #endif
      #endif`,
    );
}
