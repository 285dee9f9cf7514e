import * as THREE from 'three';
import type { Optics } from '../finish/finish';

/** Raw values of a material as its own file writes them, by key in lower case. */
export type RawMaterial = Readonly<Record<string, string | readonly number[]>>;

const unit = (x: number) => Math.min(1, Math.max(0, x));

/** What three's parsers give a material that says nothing of its shine. */
const SAYS_NOTHING = { specular: 0x111111, shininess: 30 };

/**
 * Roughness of a Phong lobe: alpha^2 = 2 / (n + 2) (Walter and others, "Microfacet Models for Refraction through Rough Surfaces",
 * 2007), alpha the square of the roughness. Exponents below one are taken as shares of 128, as some tools write them.
 */
export const roughnessOfExponent = (n: number): number => (2 / ((n > 0 && n < 1 ? n * 128 : Math.max(0, n)) + 2)) ** 0.25;

/** How a material of three's parsers meets light, as far as its file says. */
export function opticsOfThree(material: THREE.Material, raw: RawMaterial | undefined): Partial<Optics> {
  const optics: Partial<Optics> = {};
  if (material instanceof THREE.MeshStandardMaterial) {
    Object.assign(optics, { roughness: unit(material.roughness), metalness: unit(material.metalness) });
  } else if (material instanceof THREE.MeshPhongMaterial) {
    const { specular, shininess } = material;
    if (Math.max(specular.r, specular.g, specular.b) < 0.002) optics.roughness = 1;
    else if (specular.getHex() !== SAYS_NOTHING.specular || shininess !== SAYS_NOTHING.shininess)
      optics.roughness = roughnessOfExponent(shininess);
  } else if (material instanceof THREE.MeshLambertMaterial) optics.roughness = 1;
  return raw ? { ...optics, ...opticsOfRaw(raw) } : optics;
}

/** The physical values that newer MTL files have beside the old ones; common practice, no source. */
function opticsOfRaw(raw: RawMaterial): Partial<Optics> {
  const value = (key: string): number | undefined => {
    const said = raw[key];
    const number = typeof said === 'string' ? Number.parseFloat(said) : NaN;
    return Number.isFinite(number) ? number : undefined;
  };
  const optics: Partial<Optics> = {};
  const take = (key: string, field: 'roughness' | 'metalness' | 'clearCoat' | 'clearCoatRoughness' | 'sheen' | 'anisotropy') => {
    const share = value(key);
    if (share !== undefined) optics[field] = unit(share);
  };
  take('pr', 'roughness');
  take('pm', 'metalness');
  take('pc', 'clearCoat');
  take('pcr', 'clearCoatRoughness');
  take('ps', 'sheen');
  take('aniso', 'anisotropy');
  // One is what tools write that do not know it.
  const ior = value('ni');
  if (ior !== undefined && ior > 1.001) optics.ior = Math.min(3, ior);
  return optics;
}

/** Where a picture lies: by which of a geometry's coordinates, and how they are moved, turned and scaled. */
interface AuthoredUvs {
  attribute: string;
  matrix: THREE.Matrix3;
}

function authoredUvsOf(texture: THREE.Texture): AuthoredUvs {
  texture.updateMatrix();
  return { attribute: texture.channel === 0 ? 'uv' : `uv${String(texture.channel)}`, matrix: texture.matrix };
}

const keyOf = ({ attribute, matrix }: AuthoredUvs): string => [attribute, ...matrix.elements.map((e) => e.toFixed(6))].join(' ');

/** Textures by what they tell. Colour alone, unless the file tells normals from heights, as MTL's `norm` does. */
export function texturesOfThree(
  material: THREE.Material,
  raw: RawMaterial | undefined,
): { part: 'image' | 'normal'; texture: THREE.Texture }[] {
  const { map, normalMap } = material as Partial<THREE.MeshPhongMaterial>;
  return [
    ...(map ? [{ part: 'image' as const, texture: map }] : []),
    ...(normalMap && raw?.['norm'] !== undefined ? [{ part: 'normal' as const, texture: normalMap }] : []),
  ];
}

/** The sets of coordinates that textures lie by on a geometry, the first one's first, and the number of each. */
export function uvSetsOf(textures: readonly THREE.Texture[], geometry: THREE.BufferGeometry): { sets: Float32Array[]; numbers: number[] } {
  const known = new Map<string, number>();
  const sets: Float32Array[] = [];
  const numbers = textures.map((texture) => {
    const laid = authoredUvsOf(texture);
    const key = keyOf(laid);
    const uvs = known.has(key) ? undefined : authoredUvs(geometry, laid);
    if (uvs) known.set(key, sets.push(uvs) - 1);
    return known.get(key) ?? 0;
  });
  return { sets, numbers };
}

function authoredUvs(geometry: THREE.BufferGeometry, { attribute, matrix }: AuthoredUvs): Float32Array | undefined {
  const uv = (geometry.getAttribute(attribute) ?? geometry.getAttribute('uv')) as THREE.BufferAttribute | undefined;
  if (!uv) return undefined;
  const out = new Float32Array(uv.count * 2);
  const place = new THREE.Vector2();
  for (let i = 0; i < uv.count; i++)
    place
      .set(uv.getX(i), uv.getY(i))
      .applyMatrix3(matrix)
      .toArray(out, i * 2);
  return out.every(Number.isFinite) ? out : undefined;
}
