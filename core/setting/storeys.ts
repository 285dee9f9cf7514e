/** Heights of a building's floors, from looking down through it again and again. */

/** Cells of a floor for each that is built, that make it a storey. */
const LEAST_SHARE = 0.03;
/** Floors nearer to each other than this are one storey with a step in it, metres. */
const APART_M = 1.2;
/** A floor is level to this, metres. */
const LEVEL_M = 0.15;

/** Heights of storeys, the lowest first: those that enough of the heights lie about. `heights`: of floors, in any order; `built`: how many places there are. */
export function storeysOf(heights: readonly number[], built: number): number[] {
  const storeys: number[] = [];
  let left = [...heights].sort((a, b) => a - b);
  while (left.length > 0) {
    const storey = levelOf(left);
    const others = left.filter((z) => Math.abs(z - storey) >= APART_M);
    if (left.length - others.length >= Math.max(3, built * LEAST_SHARE)) storeys.push(Math.round(storey * 100) / 100);
    left = others;
  }
  return storeys.sort((a, b) => a - b);
}

/** The height that most lie about: the middle of the level that holds the most of them. `heights`: the lowest first. */
function levelOf(heights: readonly number[]): number {
  let [most, from, first] = [0, 0, 0];
  heights.forEach((z, last) => {
    while (z - heights[first]! > LEVEL_M) first++;
    if (last - first + 1 > most) [most, from] = [last - first + 1, first];
  });
  return heights[from + (most >> 1)]!;
}
