import { cellular, fractal, hash01, smoothstep, valueNoise } from '../noise';
import type { Painter } from '../paint';
import { blend, edge, over, tint } from './colour';

/** Ground, water, textiles. */

/** Blades seen from above: short strokes in all directions over a darker ground. */
const grass: Painter = (u, v, p) => {
  let height = 0;
  let shade = 0;
  for (let layer = 0; layer < 3; layer++) {
    const cells = 48 + layer * 31;
    const cell = cellular(u + valueNoise(u, v, 80, 80, layer) * 0.006, v, cells, 51 + layer * 17);
    const blade = smoothstep(0.62, 0.1, cell.near);
    if (blade * (0.6 + layer * 0.2) > height) {
      height = blade * (0.6 + layer * 0.2);
      shade = cell.id;
    }
  }
  const patch = fractal(u, v, 4, 4, 2, 5);
  const dry = smoothstep(0.25, 0.9, fractal(u, v, 9, 9, 2, 88) + 0.25);
  blend(p, [0.2, 0.26, 0.1], [0.4, 0.46, 0.2], shade, 0.5 + height * 0.55 + patch * 0.12);
  p.r += dry * 0.13 * height;
  p.g += dry * 0.1 * height;
  p.b += dry * 0.04 * height;
  p.roughness = 0.95;
  p.heightM = height * 0.02 + patch * 0.01;
};

const soil: Painter = (u, v, p) => {
  const lump = fractal(u, v, 10, 10, 6, 3, 0.6);
  const stoneCell = cellular(u, v, 40, 5);
  const pebble = stoneCell.id > 0.82 ? smoothstep(0.42, 0.3, stoneCell.near) : 0;
  blend(p, [0.26, 0.2, 0.15], [0.42, 0.35, 0.27], 0.5 + lump * 0.7, 1);
  blend(p, [p.r, p.g, p.b], [0.5, 0.48, 0.44], pebble, 1);
  p.roughness = 0.96;
  p.heightM = lump * 0.012 + pebble * 0.008;
};

const asphalt: Painter = (u, v, p) => {
  const chip = cellular(u, v, 90, 3);
  const k = smoothstep(0.45, 0.15, chip.near);
  const patch = fractal(u, v, 4, 4, 4, 9);
  tint(p, [1, 1, 1.01], 0.25 + k * (0.06 + chip.id * 0.12) + patch * 0.03);
  p.roughness = 0.92;
  p.heightM = k * 0.003;
};

const carpet: Painter = (u, v, p) => {
  const tuft = cellular(u, v, 110, 3);
  const k = smoothstep(0.7, 0.1, tuft.near);
  tint(p, [1, 1, 1], 0.6 + k * 0.3 + (tuft.id - 0.5) * 0.12 + fractal(u, v, 6, 6, 2, 4) * 0.04);
  p.roughness = 1;
  p.heightM = k * 0.004;
};

/** Felted fibres: fine, long, in all directions. */
const felt: Painter = (u, v, p) => {
  const a = fractal(u + v, v, 40, 160, 2, 5);
  const b = fractal(u, v + u, 160, 40, 2, 9);
  const c = fractal(u, v, 24, 24, 4, 15);
  tint(p, [1, 1, 1], 0.82 + (a + b) * 0.1 + c * 0.08);
  p.roughness = 1;
  p.heightM = (a + b) * 0.0006 + c * 0.0004;
};

const leather: Painter = (u, v, p) => {
  const cell = cellular(u + fractal(u, v, 12, 12, 2, 3) * 0.01, v, 60, 5);
  const crease = smoothstep(0.02, 0.16, cell.second - cell.near);
  tint(p, [1, 1, 1], 0.78 + crease * 0.17 + fractal(u, v, 5, 5, 3, 7) * 0.08);
  p.roughness = 0.8 - crease * 0.15;
  p.heightM = crease * 0.0004;
};

/** Cells over the repeat and a seed, the largest stones first. */
const GRAVEL = [[26, 3], [38, 13], [54, 23]] as const; // prettier-ignore

/** Stones of several sizes heaped on each other. */
const gravel: Painter = (u, v, p) => {
  let top = 0;
  let id = 0;
  const warp = valueNoise(u, v, 40, 40, 3) * 0.004;
  for (const [cells, seed] of GRAVEL) {
    const cell = cellular(u + warp, v, cells, seed);
    const dome = Math.sqrt(Math.max(0, 1 - (cell.near / 0.62) ** 2)) * (0.55 + 0.45 * cell.id) * (26 / cells) ** 0.4;
    if (dome > top) [top, id] = [dome, cell.id];
  }
  const tone = 0.34 + id * 0.36;
  tint(p, [1, 0.97, 0.92], tone * (0.45 + top * 0.6) + valueNoise(u, v, 200, 200, 5) * 0.02);
  p.roughness = 0.92;
  p.heightM = top * 0.016;
};

const sand: Painter = (u, v, p) => {
  const ripple = Math.sin((v * 9 + fractal(u, v, 3, 3, 4, 7) * 0.7) * 2 * Math.PI);
  const grain = fractal(u, v, 256, 256, 2, 3);
  tint(p, [0.8, 0.7, 0.54], 0.94 + ripple * 0.03 + grain * 0.09 + fractal(u, v, 4, 4, 3, 15) * 0.04);
  p.roughness = 0.97;
  p.heightM = ripple * 0.004 + grain * 0.0004;
};

const snow: Painter = (u, v, p) => {
  const drift = fractal(u, v, 3, 3, 5, 7);
  const grain = fractal(u, v, 220, 220, 2, 3);
  tint(p, [0.97, 0.985, 1], 0.95 + drift * 0.02 + grain * 0.02);
  p.roughness = 0.9;
  p.heightM = drift * 0.03 + grain * 0.0005;
};

/** Threads over and under each other. */
/** `float`: how many threads one passes over. */
function weave(threads: number, float: number, heightM: number): Painter {
  return (u, v, p) => {
    const [x, y] = [u * threads, v * threads];
    const [i, j] = [Math.floor(x), Math.floor(y)];
    const warpOnTop = (i + j) % (float * 2) < float;
    const [fx, fy] = [x - i, y - j];
    const round = Math.sqrt(Math.max(0, 1 - (2 * (warpOnTop ? fx : fy) - 1) ** 2));
    const bow = Math.sin((warpOnTop ? fy : fx) * Math.PI);
    const fibre = valueNoise(u, v, warpOnTop ? threads * 5 : threads, warpOnTop ? threads : threads * 5, 5);
    const thread = hash01(warpOnTop ? i : j, warpOnTop ? 1 : 2, 9);
    tint(p, [1, 1, 1], (0.62 + round * 0.3) * (0.93 + thread * 0.12) + fibre * 0.05);
    p.roughness = 1;
    p.heightM = (round * 0.6 + bow * 0.4) * heightM;
  };
}
const linen = weave(96, 1, 0.0004);
const twill = weave(96, 2, 0.0004);

/** Needle-punched floor mat with ribs along v. */
const ribbedMat: Painter = (u, v, p) => {
  const n = 60;
  const x = u * n - Math.floor(u * n);
  const rib = Math.sin(x * Math.PI);
  const fluff = fractal(u, v, 180, 180, 2, 3);
  tint(p, [1, 1, 1], 0.55 + rib * 0.3 + fluff * 0.1);
  over(p, [p.r * 0.7, p.g * 0.7, p.b * 0.7], 1 - smoothstep(0, 0.12, edge(x, 1)));
  p.roughness = 1;
  p.heightM = rib * 0.002 + fluff * 0.0004;
};

export const GROUND: Readonly<Record<string, Painter>> = {
  grass, soil, asphalt, carpet, felt, leather, gravel, sand, snow, linen, twill, 'ribbed-mat': ribbedMat,
}; // prettier-ignore
