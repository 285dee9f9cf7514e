import type { GrowingMesh } from './subdivide';

/** Corners whose light is so much darker than that of those about them stand in something else. */
const BURIED_SHARE = 0.25;
const SAME_WAY = 0.9;
const ROUNDS = 4;

/** Takes the noise out of baked light: the mean with neighbours on the same face, and what is buried as its neighbours are. f32x3 a corner, in place. */
export function smoothLight({ positions, normals, indices }: GrowingMesh, light: Float32Array): void {
  const count = positions.length / 3;
  for (let round = 0; round < ROUNDS; round++) {
    const [sums, weights] = [new Float64Array(count * 3), new Float64Array(count)];
    for (let t = 0; t < indices.length; t += 3)
      for (let k = 0; k < 3; k++) {
        const [a, b] = [indices[t + k]!, indices[t + ((k + 1) % 3)]!];
        const same = normals[a * 3]! * normals[b * 3]! + normals[a * 3 + 1]! * normals[b * 3 + 1]! + normals[a * 3 + 2]! * normals[b * 3 + 2]!;
        if (same < SAME_WAY) continue;
        for (const [to, from] of [[a, b], [b, a]] as const) {
          weights[to]!++;
          for (let c = 0; c < 3; c++) sums[to * 3 + c]! += light[from * 3 + c]!;
        }
      }
    for (let i = 0; i < count; i++) {
      const weight = weights[i]!;
      if (weight === 0) continue;
      const [own, about] = [light[i * 3]! + light[i * 3 + 1]! + light[i * 3 + 2]!, (sums[i * 3]! + sums[i * 3 + 1]! + sums[i * 3 + 2]!) / weight];
      const keep = round === 0 && own < BURIED_SHARE * about ? 0 : 0.5;
      for (let c = 0; c < 3; c++) light[i * 3 + c] = keep * light[i * 3 + c]! + (1 - keep) * (sums[i * 3 + c]! / weight);
    }
  }
} // prettier-ignore
