import { type Finish, PLAIN_VARIATION } from '../finish/finish';
import type { TextureImage } from '../finish/maps/texture-image';
import { uvSet, type PreparedMesh } from '../geometry/prepare-mesh';
import { meanScale } from '../geometry/mat4';
import { decodeSrgb } from '../image/tone';
import type { SceneInstance } from '../scene/scene';

export type EmissivePart = Pick<SceneInstance, 'transform' | 'finish' | 'emissionScale' | 'variation'>;

/** A triangle is looked at in the middles of as many equal ones: so many along a side, squared. */
const ALONG = 8;
const MIDDLES: readonly (readonly [number, number])[] = Array.from({ length: ALONG }, (_, i) =>
  Array.from({ length: ALONG - i }, (_, j): [number, number][] => {
    const middle = (third: number): [number, number] => [(i + third) / ALONG, (j + third) / ALONG];
    return i + j < ALONG - 1 ? [middle(1 / 3), middle(2 / 3)] : [middle(1 / 3)];
  }).flat(),
).flat();

/** A picture of light, and the set of a mesh's coordinates that it lies by. */
export interface Glow {
  picture: TextureImage;
  set: number;
}

/** Linear mean of an sRGB picture over a triangle of a part that has it; `t` is its first corner's place among the indices. */
export function glowOver(
  mesh: PreparedMesh,
  { transform, finish, variation }: EmissivePart,
  { picture, set }: Glow,
): (t: number) => [number, number, number] {
  const place = placing(finish, meanScale(transform), variation ?? PLAIN_VARIATION);
  const uvs = uvSet(mesh, set);
  return (t) => {
    const corners = [0, 1, 2].map((k) => place(uvs[mesh.indices[t + k]! * 2]!, uvs[mesh.indices[t + k]! * 2 + 1]!));
    const sum: [number, number, number] = [0, 0, 0];
    for (const [b, c] of MIDDLES) {
      const at = texelAt(picture, mixed(corners, 0, b, c), mixed(corners, 1, b, c));
      for (let k = 0; k < 3; k++) sum[k]! += decodeSrgb(picture.texels[at + k]! / 255);
    }
    return sum.map((s) => s / MIDDLES.length) as typeof sum;
  };
}

const mixed = (corners: readonly (readonly [number, number])[], axis: 0 | 1, b: number, c: number): number =>
  corners[0]![axis] * (1 - b - c) + corners[1]![axis] * b + corners[2]![axis] * c;

const fraction = (x: number): number => x - Math.floor(x);

const texelAt = ({ width, height }: TextureImage, s: number, t: number): number =>
  (Math.min(height - 1, Math.floor(fraction(t) * height)) * width + Math.min(width - 1, Math.floor(fraction(s) * width))) * 4;

/** Where in its maps, in repeats, a finish shows a place of a mesh: as surface.ts of the kernel reckons it. */
function placing({ rotationDeg, widthM, heightM, offsetM }: Finish, scale: number, { uM, vM, turnRad, size }: typeof PLAIN_VARIATION) {
  const larger = scale / size;
  const turn = [Math.cos(turnRad) * larger, Math.sin(turnRad) * larger] as const;
  const own = [Math.cos((rotationDeg * Math.PI) / 180), Math.sin((rotationDeg * Math.PI) / 180)] as const;
  return (m: number, n: number): [number, number] => {
    const u = turn[0] * m + turn[1] * n + uM;
    const v = turn[0] * n - turn[1] * m + vM;
    return [(own[0] * u + own[1] * v + offsetM[0]) / widthM, (own[0] * v - own[1] * u + offsetM[1]) / heightM];
  };
}
