import * as THREE from 'three';
import type { MapSet } from '../../../core/finish/maps/texture-image';

/** A map that lies by a further set of coordinates (Mesh.furtherUvs), over those that lie by the first. */
export interface OverMap {
  set: number;
  kind: keyof MapSet;
  texture: { value: THREE.Texture };
}

/** The maps that a material of the working picture has beside those that three.js knows. */

export type FinishMaterial = THREE.MeshStandardMaterial | THREE.MeshLambertMaterial;

/** A map on the GPU, and its mean. */
export interface PlacedMap {
  texture: THREE.DataTexture;
  mean: THREE.Vector4;
}
export type PlacedMaps = { base: PlacedMap } & { [K in Exclude<keyof MapSet, 'base'>]?: PlacedMap | undefined };
/** Maps that three.js knows nothing of, by the define that says that the material has them. */
const BESIDE = {
  FILM_AND_COAT_MAP: 'filmAndCoat',
  SHEEN_MAP: 'sheen',
  COAT_NORMAL_MAP: 'coatNormal',
  SPECULAR_MAP: 'specular',
  DIFFUSE_TRANSMISSION_MAP: 'diffuseTransmission',
} as const;

const uniform = <T>(value: T) => ({ value });

/** The maps' means, and the maps that three.js does not set itself, as the material's shader will read them. */
export function mapsOf(material: FinishMaterial) {
  const data = material.userData as { maps?: ReturnType<typeof emptyMaps> };
  return (data.maps ??= emptyMaps());
}

const emptyMaps = () => ({
  means: {
    mapMean: uniform(new THREE.Vector4()),
    surfaceMean: uniform(new THREE.Vector4()),
    packedFactorsMean: uniform(new THREE.Vector4()),
    filmAndCoatMean: uniform(new THREE.Vector4()),
    sheenMean: uniform(new THREE.Vector4()),
    coatNormalMean: uniform(new THREE.Vector4()),
    specularMean: uniform(new THREE.Vector4()),
    diffuseTransmissionMean: uniform(new THREE.Vector4()),
  },
  beside: {
    filmAndCoatMap: uniform<THREE.Texture | null>(null),
    sheenMap: uniform<THREE.Texture | null>(null),
    coatNormalMap: uniform<THREE.Texture | null>(null),
    specularMap: uniform<THREE.Texture | null>(null),
    diffuseTransmissionMap: uniform<THREE.Texture | null>(null),
  },
  over: { maps: new Map<string, OverMap>(), normalScale: uniform(1) },
});

/** Gives a material the maps that it has no place of its own for. */
export function putMapsBeside(material: FinishMaterial, maps: PlacedMaps): void {
  const { means, beside } = mapsOf(material);
  for (const [define, kind] of Object.entries(BESIDE)) {
    const map = maps[kind];
    if (!map) continue;
    beside[`${kind}Map`].value = map.texture;
    means[`${kind}Mean`].value = map.mean;
    material.defines = { ...material.defines, [define]: '' };
  }
}

export const BESIDE_GLSL = Object.entries(BESIDE)
  .map(([define, kind]) => `#ifdef ${define}\nuniform sampler2D ${kind}Map;\n#endif\n`)
  .join('');
