/**
 * Repeat breaking: the maps are laid in soft-edged patches, each moved at random, and blended so that contrast stays.
 * Patches after Heitz & Neyret, "High-Performance By-Example Noise using a Histogram-Preserving Blending Operator" (HPG 2018):
 * a triangle grid whose corners carry the moves; here the blend is of variance about the mean, which is theirs for maps of
 * normally spread values, with weights sharpened as in Mikkelsen, "Practical Real-Time Hex-Tiling" (JCGT 11(2), 2022).
 * Moves come from pcg2d (Jarzynski & Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020).
 * The kernel (assembly/texture.ts) and the shaders do the same; this is what both are tested against.
 */

/** Triangles of the grid for each repeat of the maps, from the paper. */
export const GRID = 2 * Math.sqrt(3);
/** How sharply one patch gives way to the next. */
export const SHARPNESS = 3;

export interface Patch {
  /** Moves the lookup, in repeats. */
  u: number;
  v: number;
  /** The three add up to 1. */
  weight: number;
}

/** The three patches about a place, given in repeats of the maps. */
export function patchesAt(u: number, v: number): [Patch, Patch, Patch] {
  const x = GRID * (u - v / Math.sqrt(3));
  const y = GRID * v * (2 / Math.sqrt(3));
  const [cx, cy] = [Math.floor(x), Math.floor(y)];
  const [fx, fy] = [x - cx, y - cy];
  const z = 1 - fx - fy;
  const corners: readonly (readonly [number, number, number])[] =
    z > 0
      ? [[cx, cy, z], [cx, cy + 1, fy], [cx + 1, cy, fx]]
      : [[cx + 1, cy + 1, -z], [cx + 1, cy, 1 - fy], [cx, cy + 1, 1 - fx]]; // prettier-ignore
  const sharp = corners.map(([, , weight]) => weight ** SHARPNESS);
  const total = sharp[0]! + sharp[1]! + sharp[2]!;
  return corners.map(([i, j], k) => {
    const [du, dv] = pcg2d(i, j);
    return { u: du, v: dv, weight: sharp[k]! / total };
  }) as [Patch, Patch, Patch];
}

/** What three values with their weights make, about the mean of the whole map. */
export function blended(values: readonly [number, number, number], patches: readonly [Patch, Patch, Patch], mean: number): number {
  let sum = 0;
  let squares = 0;
  patches.forEach(({ weight }, k) => {
    sum += weight * (values[k]! - mean);
    squares += weight * weight;
  });
  return Math.min(1, Math.max(0, mean + sum / Math.sqrt(squares)));
}

/** Two numbers in [0, 1) of two whole ones. */
export function pcg2d(i: number, j: number): [number, number] {
  let x = (Math.imul(i, 1664525) + 1013904223) | 0;
  let y = (Math.imul(j, 1664525) + 1013904223) | 0;
  x = (x + Math.imul(y, 1664525)) | 0;
  y = (y + Math.imul(x, 1664525)) | 0;
  x ^= x >>> 16;
  y ^= y >>> 16;
  x = (x + Math.imul(y, 1664525)) | 0;
  y = (y + Math.imul(x, 1664525)) | 0;
  x ^= x >>> 16;
  y ^= y >>> 16;
  return [(x >>> 8) / 2 ** 24, (y >>> 8) / 2 ** 24];
}

/** `tiledTexture(map, st, mean, dx, dy)`: a lookup with the repeat broken, linear; `dx` and `dy` as textureGrad has them. */
export const HEX_TILING_GLSL = /* glsl */ `
vec2 patchMove(ivec2 corner) {
  uvec2 v = uvec2(corner) * 1664525u + 1013904223u;
  v.x += v.y * 1664525u;
  v.y += v.x * 1664525u;
  v ^= v >> 16u;
  v.x += v.y * 1664525u;
  v.y += v.x * 1664525u;
  v ^= v >> 16u;
  return vec2(v >> 8u) / 16777216.0;
}
vec4 tiledTexture(sampler2D map, vec2 st, vec4 mean, vec2 dx, vec2 dy) {
  vec2 skewed = ${GRID.toFixed(8)} * vec2(st.x - st.y * 0.57735027, st.y * 1.15470054);
  vec2 cell = floor(skewed);
  vec2 f = skewed - cell;
  float z = 1.0 - f.x - f.y;
  ivec2 c = ivec2(cell);
  bool lower = z > 0.0;
  ivec2 c1 = lower ? c : c + 1;
  ivec2 c2 = c + (lower ? ivec2(0, 1) : ivec2(1, 0));
  ivec2 c3 = c + (lower ? ivec2(1, 0) : ivec2(0, 1));
  vec3 w = lower ? vec3(z, f.y, f.x) : vec3(-z, 1.0 - f.y, 1.0 - f.x);
  w = pow(w, vec3(${SHARPNESS.toFixed(1)}));
  w /= w.x + w.y + w.z;
  vec4 sum = w.x * (textureGrad(map, st + patchMove(c1), dx, dy) - mean)
    + w.y * (textureGrad(map, st + patchMove(c2), dx, dy) - mean)
    + w.z * (textureGrad(map, st + patchMove(c3), dx, dy) - mean);
  return clamp(mean + sum * inversesqrt(dot(w, w)), 0.0, 1.0);
}
`;
