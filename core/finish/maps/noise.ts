/** Deterministic, seamless noise on the unit square. */

/** Integer hash to 0..1 (after Wellons's search for good 32-bit mixers). */
export function hash01(x: number, y: number, seed: number): number {
  let h = Math.imul(x | 0, 0x27d4eb2d) ^ Math.imul((y | 0) + 0x165667b1, 0x85ebca6b) ^ Math.imul((seed | 0) + 0x9e3779b9, 0xc2b2ae35);
  h ^= h >>> 16;
  h = Math.imul(h, 0x21f0aaad);
  h ^= h >>> 15;
  h = Math.imul(h, 0x735a2d97);
  h ^= h >>> 15;
  return (h >>> 0) / 4294967296;
}

const wrap = (i: number, n: number): number => {
  const r = i % n;
  return r < 0 ? r + n : r;
};
const fade = (t: number) => t * t * t * (t * (t * 6 - 15) + 10);

/** Value noise with `cellsX` x `cellsY` cells over the square, repeating; -1..1. */
export function valueNoise(u: number, v: number, cellsX: number, cellsY: number, seed: number): number {
  const x = u * cellsX;
  const y = v * cellsY;
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  const fx = fade(x - x0);
  const fy = fade(y - y0);
  const i = wrap(x0, cellsX);
  const j = wrap(y0, cellsY);
  const i1 = i + 1 === cellsX ? 0 : i + 1;
  const j1 = j + 1 === cellsY ? 0 : j + 1;
  const top = hash01(i, j, seed) * (1 - fx) + hash01(i1, j, seed) * fx;
  const bottom = hash01(i, j1, seed) * (1 - fx) + hash01(i1, j1, seed) * fx;
  return (top * (1 - fy) + bottom * fy) * 2 - 1;
}

/** Sum of octaves of value noise, each twice as fine and half as strong; about -1..1. */
export function fractal(u: number, v: number, cellsX: number, cellsY: number, octaves: number, seed: number, gain = 0.5): number {
  let sum = 0;
  let weight = 1;
  let total = 0;
  for (let o = 0; o < octaves; o++) {
    sum += valueNoise(u, v, cellsX << o, cellsY << o, seed + o * 101) * weight;
    total += weight;
    weight *= gain;
  }
  return sum / total;
}

/** Distances to the nearest and second nearest feature point, in cells, and the nearest cell's own random number. */
export function cellular(u: number, v: number, cells: number, seed: number): { near: number; second: number; id: number } {
  const x = u * cells;
  const y = v * cells;
  const x0 = Math.floor(x);
  const y0 = Math.floor(y);
  let near = 81;
  let second = 81;
  let cx = 0;
  let cy = 0;
  for (let j = -1; j <= 1; j++) {
    const row = wrap(y0 + j, cells);
    for (let i = -1; i <= 1; i++) {
      const column = wrap(x0 + i, cells);
      const dx = x0 + i + hash01(column, row, seed) - x;
      const dy = y0 + j + hash01(column, row, seed + 7) - y;
      const d = dx * dx + dy * dy;
      if (d < near) {
        second = near;
        near = d;
        cx = column;
        cy = row;
      } else if (d < second) second = d;
    }
  }
  return { near: Math.sqrt(near), second: Math.sqrt(second), id: hash01(cx, cy, seed + 13) };
}

export const smoothstep = (a: number, b: number, x: number): number => {
  const t = Math.min(1, Math.max(0, (x - a) / (b - a)));
  return t * t * (3 - 2 * t);
};
