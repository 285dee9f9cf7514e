import { fractal, hash01, smoothstep } from '../noise';
import type { Painter } from '../paint';
import { blend, edge, over, tint } from './colour';

/** Metals and roof coverings. */

/** Standing seams along v, every 430 mm, with the slight oil-canning of thin sheet. */
const seamedZinc: Painter = (u, v, p) => {
  const seams = 3;
  const bay = Math.floor(u * seams);
  const across = u * seams - bay;
  const d = edge(across, 0.43);
  const cloud = fractal(u, v, 6, 6, 4, 3);
  const streak = fractal(u, v, 96, 3, 2, 9);
  blend(p, [0.5, 0.53, 0.55], [0.62, 0.645, 0.66], 0.5 + cloud * 0.5 + streak * 0.15, 1 + (hash01(bay, 0, 4) - 0.5) * 0.05);
  const seam = 1 - smoothstep(0.008, 0.014, d);
  tint(p, [p.r, p.g, p.b], 1 - 0.14 * (1 - smoothstep(0.014, 0.024, d)) * (1 - seam));
  p.roughness = 0.86 + cloud * 0.12;
  p.heightM = seam * 0.012 + fractal(u, v, 5, 4, 2, 31) * 0.0012 + cloud * 0.00005;
};

const brushed: Painter = (u, v, p) => {
  const line = fractal(u, v, 512, 3, 2, 3);
  tint(p, [1, 1, 1], 0.94 + line * 0.05);
  p.roughness = 0.85 + line * 0.15;
  p.heightM = line * 0.00001;
};

/** Sine-shaped sheet, waves of 76 mm along u. */
const corrugated: Painter = (u, v, p) => {
  const wave = Math.sin(u * 10 * 2 * Math.PI);
  const lap = 1 - smoothstep(0.0005, 0.002, edge(v, 2));
  const cloud = fractal(u, v, 5, 5, 4, 3);
  tint(p, [1, 1, 1], 0.86 + cloud * 0.06 - lap * 0.2);
  p.roughness = 0.8 + cloud * 0.15;
  p.heightM = wave * 0.009;
};

/** Round holes in staggered rows. */
const perforated: Painter = (u, v, p) => {
  const [columns, rows] = [20, 23];
  const row = Math.floor(v * rows);
  // An odd number of rows would meet itself out of step; the last one is counted as the first.
  const shift = (row % 2) * 0.5 * (row === rows - 1 ? 0 : 1);
  const x = (u * columns + shift) % 1;
  const y = v * rows - row;
  const d = Math.hypot((x - 0.5) * 0.01, (y - 0.5) * (0.2 / rows));
  tint(p, [1, 1, 1], 0.9 + fractal(u, v, 6, 6, 3, 3) * 0.04);
  p.opacity = smoothstep(0.00285, 0.00315, d);
  p.roughness = 0.85;
  p.heightM = smoothstep(0.0029, 0.0036, d) * 0.0004;
};

/** Rust that has settled: dark where it is dense, streaked by rain. */
const weatheringSteel: Painter = (u, v, p) => {
  const patch = fractal(u, v, 4, 4, 6, 5, 0.6);
  const grain = fractal(u, v, 140, 140, 3, 9);
  const run = fractal(u, v, 60, 3, 3, 17);
  blend(p, [0.32, 0.17, 0.11], [0.56, 0.3, 0.17], 0.5 + patch * 0.55 + grain * 0.22, 1 + run * 0.06);
  p.roughness = 0.9 + grain * 0.08;
  p.heightM = grain * 0.0002 + patch * 0.0002;
};

/** Old copper: green over brown, thinner along the seams. */
const patina: Painter = (u, v, p) => {
  const bays = 2;
  const bay = Math.floor(u * bays);
  const d = edge(u * bays - bay, 0.5);
  const seam = 1 - smoothstep(0.008, 0.014, d);
  const cloud = fractal(u, v, 5, 5, 5, 3, 0.58);
  const run = fractal(u, v, 70, 3, 3, 19);
  blend(p, [0.3, 0.5, 0.43], [0.52, 0.72, 0.63], 0.5 + cloud * 0.5 + run * 0.2, 1);
  over(p, [0.28, 0.2, 0.14], seam * 0.3 + smoothstep(0.35, 0.8, -cloud) * 0.5);
  p.roughness = 0.95;
  p.heightM = seam * 0.012 + cloud * 0.0001;
};

/** Clay pantiles in rows that lap by a fifth. */
const pantiles: Painter = (u, v, p) => {
  const [columns, rows] = [4, 3];
  const i = Math.floor(u * columns);
  const j = Math.floor(v * rows);
  const [x, y] = [u * columns - i, v * rows - j];
  const roll = 0.5 - 0.5 * Math.cos(x * 2 * Math.PI);
  const lap = 1 - smoothstep(0, 0.03, y);
  const cloud = fractal(u, v, 14, 14, 4, 3);
  blend(p, [0.46, 0.2, 0.12], [0.7, 0.37, 0.24], hash01(i, j, 5) * 0.7 + 0.15 + cloud * 0.25, 1 - lap * 0.45);
  p.roughness = 0.88 + cloud * 0.08;
  p.heightM = roll * 0.035 + (1 - y) * 0.012 + cloud * 0.0004;
};

/** Thin plates laid in half bond, each row over the one below. */
function plates(
  columns: number,
  rows: number,
  colours: readonly [readonly [number, number, number], readonly [number, number, number]],
  thickM: number,
  grain: number,
): Painter {
  return (u, v, p) => {
    const j = Math.floor(v * rows);
    const at = u * columns + (j % 2) * 0.5;
    const i = Math.floor(at) % columns;
    const [x, y] = [at - Math.floor(at), v * rows - j];
    const gap = 1 - smoothstep(0.012, 0.026, Math.min(x, 1 - x));
    const lap = 1 - smoothstep(0, 0.05, y);
    const split = fractal(u, v, grain > 1 ? 90 : 12, grain > 1 ? 4 : 12, 4, 7 + ((i * 5 + j) % 11));
    blend(p, colours[0], colours[1], hash01(i, j, 3) * 0.7 + 0.15 + split * 0.35, 1 - Math.max(gap * 0.5, lap * 0.4));
    p.roughness = 0.8 + split * 0.12;
    p.heightM = (1 - y) * thickM * 2 + split * 0.0006 - gap * thickM;
  };
}
const slates = plates(4, 8, [[0.2, 0.22, 0.25], [0.36, 0.38, 0.41]], 0.005, 1); // prettier-ignore
const shingles = plates(8, 6, [[0.34, 0.29, 0.24], [0.56, 0.49, 0.41]], 0.008, 2); // prettier-ignore

export const METAL: Readonly<Record<string, Painter>> = {
  'seamed-zinc': seamedZinc, brushed, corrugated, perforated, 'weathering-steel': weatheringSteel, patina, pantiles, slates, shingles,
}; // prettier-ignore
