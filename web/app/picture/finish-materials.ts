import * as THREE from 'three';
import type { Finish } from '../../../core/finish/finish';
import { isMurky } from '../../../core/finish/clear-body';
import { MAP_IS_SRGB, MAP_KINDS, type MapSet } from '../../../core/finish/maps/texture-image';
import type { MapImages } from './refine-messages';
import { halved } from '../../../core/finish/maps/texture-budget';
import { mapSetsOf, picturesOf } from '../../../core/scene/material-pictures';
import { meanTexel } from '../../../core/finish/maps/mean';
import type { SkyLight } from './sky-light';
import { tintSunlight, type SunTint } from './sun-tint';
import { lightByWebs } from './lamp-webs';
import { cutShader, cutUniforms } from './cut-faces';
import { adaptShader, adjustShader, KEPT_COLOUR, lookupShader, mirrorWhole, NORMAL_FROM_TWO, waveShader, vary } from './finish-shaders';
import { putMapsOver } from './map-layings';
import type { MapExtent } from './map-uses';
import { mapsOf, putMapsBeside, type FinishMaterial, type PlacedMap, type PlacedMaps } from './material-maps';

const oneTexel = (...texel: number[]) => ({ width: 1, height: 1, texels: Uint8Array.from(texel) });

/** Of the finish's plain colour, and even. */
const AWAITED: MapImages = { base: oneTexel(255, 255, 255, 255), surface: oneTexel(128, 128, 255, 255) }; // prettier-ignore

/** three.js materials for finishes. Maps arrive later than the first picture and are then put in place. */
export class FinishMaterials {
  private readonly made = new Map<string, { material: FinishMaterial; finish: Finish }>();
  private readonly maps = new Map<string, PlacedMaps>();
  /** Stands for maps on their way: with them in place the shader is the one that is needed then, and made once. */
  private awaited: PlacedMaps | undefined;
  /** As they came, and how often they are halved just now. */
  private readonly whole = new Map<string, { images: MapImages; halvings: number }>();

  /** What sections cut. */
  readonly cut = cutUniforms();
  private cutting = false;

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

  /** Map sets as they came. */
  get mapExtents(): ReadonlyMap<string, MapExtent> {
    return new Map([...this.whole].map(([name, { images }]) => [name, { side: images.base.width, bytes: bytesOf(images) }]));
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
      const smaller = (kind: keyof MapSet) => {
        let image = entry.images[kind];
        for (let i = 0; i < halvings && image; i++) image = halved(image, MAP_IS_SRGB[kind]);
        return image;
      };
      this.place(name, Object.fromEntries(MAP_KINDS.map((kind) => [kind, smaller(kind)])) as unknown as MapImages);
    }
    return changed;
  }

  private place(name: string, images: MapImages): void {
    const before = this.maps.get(name);
    for (const kind of MAP_KINDS) before?.[kind]?.texture.dispose();
    this.maps.set(name, this.texturesOf(images));
    for (const { material, finish } of this.made.values()) if (mapSetsOf(finish.maps).includes(name)) this.putMaps(material, finish);
  }

  private texturesOf(images: MapImages): PlacedMaps {
    const texture = (kind: keyof MapSet): PlacedMap | undefined => {
      const image = images[kind];
      if (!image) return undefined;
      const { width, height, texels } = image;
      const srgb = MAP_IS_SRGB[kind];
      const t = new THREE.DataTexture(texels, width, height, THREE.RGBAFormat);
      t.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
      t.wrapS = t.wrapT = THREE.RepeatWrapping;
      t.magFilter = THREE.LinearFilter;
      t.minFilter = THREE.LinearMipmapLinearFilter;
      t.generateMipmaps = true;
      t.anisotropy = this.anisotropy;
      t.needsUpdate = true;
      return { texture: t, mean: new THREE.Vector4(...meanTexel(texels, width, height, srgb)) };
    };
    return Object.fromEntries(MAP_KINDS.map((kind) => [kind, texture(kind)])) as PlacedMaps;
  }

  /** Whether shaders look for cuts at all. */
  setCutting(cutting: boolean): void {
    if (cutting === this.cutting) return;
    this.cutting = cutting;
    for (const { material } of this.made.values()) this.defineCut(material);
  }

  private defineCut(material: FinishMaterial): void {
    if (this.cutting) material.defines = { ...material.defines, CUT: '' };
    else if (material.defines) Reflect.deleteProperty(material.defines, 'CUT');
    material.needsUpdate = true;
  }

  private make(finish: Finish): FinishMaterial {
    const matt =
      finish.transmission === 0 &&
      finish.metalness < 0.5 &&
      finish.roughness > 0.35 &&
      finish.clearCoat === 0 &&
      finish.film === 0 &&
      finish.sheen <= 0.5;
    const material = this.software && matt ? this.makeMatt(finish) : this.makePhysical(finish);
    this.putMaps(material, finish);
    if (this.cutting) this.defineCut(material);
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
    vary(material, finish);
    material.onBeforeCompile = (shader) => {
      lightByWebs(shader);
      shader.fragmentShader = shader.fragmentShader.replace('#include <normal_fragment_maps>', NORMAL_FROM_TWO);
      tintSunlight(shader, this.tint);
      adjustShader(shader, material, finish, true);
      cutShader(shader, this.cut);
      if (finish.breakRepeat || finish.reliefM > 0) lookupShader(shader, material, finish, this.software);
    };
    return material;
  }

  private makePhysical(finish: Finish): THREE.MeshStandardMaterial {
    const clear = finish.transmission > 0;
    const coated = finish.clearCoat > 0;
    const fibrous = finish.sheen > 0;
    const pictures = finish.maps === null ? undefined : picturesOf(finish.maps);
    const dulled =
      finish.specular < 1 || finish.specularColour.some((c) => c < 1) || pictures?.has('specular') || pictures?.has('specularColour');
    const brushed = finish.anisotropy > 0;
    const filmed = finish.film > 0;
    const material = new (coated || fibrous || brushed || filmed || dulled ? THREE.MeshPhysicalMaterial : THREE.MeshStandardMaterial)({
      ...(fibrous && {
        sheen: finish.sheen,
        sheenColor: new THREE.Color().setRGB(...finish.sheenColour, THREE.SRGBColorSpace),
        sheenRoughness: finish.sheenRoughness,
      }),
      ...(filmed && {
        iridescence: finish.film,
        iridescenceIOR: finish.filmIor,
        iridescenceThicknessMinimum: finish.filmLeastNm,
        iridescenceThicknessMaximum: finish.filmNm,
      }),
      ...((filmed || dulled) && { ior: finish.ior }),
      ...(dulled && {
        specularIntensity: finish.specular,
        specularColor: new THREE.Color().setRGB(...finish.specularColour, THREE.SRGBColorSpace),
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
      if (isMurky(finish)) material.color.setRGB(...finish.scatteredBack).multiplyScalar(1 / material.opacity);
      else material.color.multiplyScalar(KEPT_COLOUR);
      material.side = THREE.FrontSide;
    } else if (finish.opacity < 1) {
      material.transparent = true;
      material.opacity = finish.opacity;
    }
    if (finish.cutOut) material.alphaTest = 0.5;
    vary(material, finish);
    material.onBeforeCompile = (shader) => {
      Object.assign(shader.uniforms, this.sky);
      lightByWebs(shader);
      adaptShader(shader, material, finish);
      // A clear body would be tinted by itself.
      if (!clear) tintSunlight(shader, this.tint);
      adjustShader(shader, material, finish);
      cutShader(shader, this.cut);
      if (finish.breakRepeat || finish.reliefM > 0) lookupShader(shader, material, finish, this.software);
      if (finish.waves) waveShader(shader, finish.waves, this.time);
      if (clear) mirrorWhole(shader, finish);
    };
    return material;
  }

  private putMaps(material: FinishMaterial, finish: Finish): void {
    if (finish.maps === null) return;
    const [first = '', ...others] = mapSetsOf(finish.maps);
    const maps = this.maps.get(first) ?? (this.awaited ??= this.texturesOf(AWAITED));
    const placed = (texture: THREE.DataTexture) => {
      const own = texture.clone();
      own.repeat.set(1 / finish.widthM, 1 / finish.heightM);
      own.rotation = (finish.rotationDeg * Math.PI) / 180;
      own.offset.set(finish.offsetM[0] / finish.widthM, finish.offsetM[1] / finish.heightM);
      return own;
    };
    material.map?.dispose();
    material.map = placed(maps.base.texture);
    const { means } = mapsOf(material);
    means.mapMean.value = maps.base.mean;
    if (maps.surface) {
      material.normalMap?.dispose();
      material.normalMap = placed(maps.surface.texture);
      means.surfaceMean.value = maps.surface.mean;
      if (material instanceof THREE.MeshStandardMaterial) material.roughnessMap = material.normalMap;
      material.normalScale.setScalar(finish.normalScale);
    }
    if (maps.packedFactors && material instanceof THREE.MeshStandardMaterial) {
      material.metalnessMap?.dispose();
      material.metalnessMap = placed(maps.packedFactors.texture);
      means.packedFactorsMean.value = maps.packedFactors.mean;
    }
    putMapsBeside(material, maps);
    putMapsOver(material, others.map((name) => this.maps.get(name)), finish.normalScale); // prettier-ignore
    // three.js lays the grain by the map of normals, which is turned already, or by the mesh's own coordinates.
    if (material instanceof THREE.MeshPhysicalMaterial)
      material.anisotropyRotation = ((finish.anisotropyDeg + (maps.surface ? 0 : finish.rotationDeg)) * Math.PI) / 180;
    if (maps.emission && finish.emissionCdM2 > 0) {
      material.emissiveMap?.dispose();
      material.emissiveMap = placed(maps.emission.texture);
    }
    material.needsUpdate = true;
  }
}

/** Of RGBA8 with mip levels, which add a third. */
const bytesOf = (images: MapImages): number => MAP_KINDS.reduce((sum, kind) => sum + ((images[kind]?.texels.byteLength ?? 0) * 4) / 3, 0);
