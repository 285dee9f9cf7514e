/** How a thing is drawn in the working picture: whole, thinned, more so, or as a billboard; -1: not at all. */
export const LEVELS = { whole: 0, thin: 1, thinner: 2, billboard: 3 } as const;
/** Shares of the triangles that thinned meshes keep. */
export const THINNED = [1, 1 / 3, 1 / 9] as const;
/** From so many pixels across it is drawn so, at best. */
const FROM_PX = [240, 80, 28] as const;
/** Thresholds grow by this until the triangles fit the budget, and so often at most. */
const GROWS = 1.5;
const MOST_TURNS = 14;
/** Out of sight it may still throw a shadow into it, from so near; metres. */
const SHADOW_M = 70;
/** Smaller ones are left out. */
const LEAST_PX = 1;

/**
 * The level of each thing: `sizesPx` as they look (0: out of sight), `awayM` from the eye, `triangles` of each level of its shape.
 * Where they would be more than the budget, all go down together.
 */
export function thingLevels(
  sizesPx: Float32Array,
  awayM: Float32Array,
  shapes: Uint16Array,
  triangles: readonly (readonly [number, number, number, number])[],
  budget: number,
): Int8Array {
  const levels = new Int8Array(sizesPx.length);
  let factor = 1;
  for (let turn = 0; turn < MOST_TURNS; turn++, factor *= GROWS) {
    let sum = 0;
    for (let i = 0; i < levels.length; i++) {
      const px = sizesPx[i]!;
      const level =
        px <= 0 ? (awayM[i]! < SHADOW_M ? LEVELS.billboard : -1)
        : px < LEAST_PX ? -1
        : px >= FROM_PX[0] * factor ? LEVELS.whole
        : px >= FROM_PX[1] * factor ? LEVELS.thin
        : px >= FROM_PX[2] * factor ? LEVELS.thinner
        : LEVELS.billboard; // prettier-ignore
      levels[i] = level;
      if (level !== -1) sum += triangles[shapes[i]!]![level];
    }
    if (sum <= budget) break;
  }
  return levels;
}
