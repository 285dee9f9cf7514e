/** Heights of a building's floors, from looking down through it again and again. */

/** Cells of a floor for each that is built, that make it a storey. */
const LEAST_SHARE = 0.03;
/** Floors nearer to each other than this are one storey with a step in it, metres. */
const APART_M = 1.2;

/** Heights of storeys, the lowest first: those that enough of the heights lie about. `heights`: of floors, in any order; `built`: how many places there are. */
export function storeysOf(heights: readonly number[], built: number): number[] {
  const sorted = [...heights].sort((a, b) => a - b);
  const groups: number[][] = [];
  for (const z of sorted) {
    const last = groups.at(-1);
    if (last && z - last[0]! < APART_M) last.push(z);
    else groups.push([z]);
  }
  const floors = groups.filter((group) => group.length >= Math.max(3, built * LEAST_SHARE));
  return floors.map((group) => Math.round(group[Math.floor(group.length / 2)]! * 100) / 100);
}
