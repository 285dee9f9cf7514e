import { cellular, fractal, hash01, smoothstep, valueNoise } from './noise';
import type { Painter, Point } from './paint';

/** One painter for each kind of surface; u and v run over one repeat, whose real size stands in ../library.ts. */

type Colour = readonly [number, number, number];

function tint(p: Point, colour: Colour, k: number): void {
  p.r = colour[0] * k;
  p.g = colour[1] * k;
  p.b = colour[2] * k;
}

function blend(p: Point, a: Colour, b: Colour, t: number, k: number): void {
  p.r = (a[0] + (b[0] - a[0]) * t) * k;
  p.g = (a[1] + (b[1] - a[1]) * t) * k;
  p.b = (a[2] + (b[2] - a[2]) * t) * k;
}

/** Distance to the nearest edge of a cell 0..1, in the units of `size`. */
const edge = (t: number, size: number) => Math.min(t, 1 - t) * size;

interface Boards {
  count: number;
  boardM: number;
  gapM: number;
  dark: Colour;
  light: Colour;
  spread: number;
  weathering: number;
  roughness: number;
  endJoints: boolean;
}

/** Boards along v: growth rings drawn out along the grain, a shadow gap, each board cut from another place. */
function boards(o: Boards): Painter {
  return (u, v, p) => {
    const board = Math.min(o.count - 1, Math.floor(u * o.count));
    const across = u * o.count - board;
    const shift = hash01(board, 3, 41);
    const along = (v + shift) % 1;
    const end = o.endJoints ? Math.abs(((v + hash01(board, 9, 5)) % 1) - 0.5) : 1;
    const wander = fractal(across * 0.4 + board * 0.37, along, 2, 2, 3, 11 + board) * 0.9;
    const rings = Math.sin((across * 5 + wander * 2.2 + shift * 9) * Math.PI * 2) * 0.5 + 0.5;
    const fibre = valueNoise((across * 0.125 + board * 0.131) % 1, along, 256, 6, 71);
    const fine = fractal(u, along, o.count * 12, 8, 2, 23);
    const tone = 1 + (hash01(board, 1, 77) - 0.5) * 2 * o.spread;
    const t = Math.min(1, Math.max(0, 0.35 + rings * 0.4 + fibre * 0.18 + fine * 0.15));
    blend(p, o.dark, o.light, t, tone * (1 + fibre * 0.05));
    const grey = o.weathering * (0.6 + 0.4 * hash01(board, 5, 19)) * (0.75 + 0.25 * fine);
    const y = 0.3 * p.r + 0.55 * p.g + 0.15 * p.b;
    p.r += (y * 1.02 - p.r) * grey;
    p.g += (y - p.g) * grey;
    p.b += (y * 0.97 - p.b) * grey;
    const gap = Math.min(edge(across, o.boardM), o.endJoints ? end * 2 : 1);
    const cut = 1 - smoothstep(o.gapM * 0.5, o.gapM * 0.5 + 0.0012, gap);
    const round = smoothstep(0, o.gapM + 0.003, gap);
    tint(p, [p.r, p.g, p.b], 1 - cut * 0.82);
    p.roughness = Math.min(1, o.roughness + cut * 0.2 + (1 - t) * 0.08);
    p.heightM = round * 0.003 + rings * 0.00008 + fibre * 0.00005 - cut * 0.002;
  };
}

const larchBoards = boards({
  count: 8, boardM: 0.12, gapM: 0.006, dark: [0.42, 0.33, 0.24], light: [0.66, 0.54, 0.41], spread: 0.13, weathering: 0.5,
  roughness: 0.72, endJoints: false,
}); // prettier-ignore

const oakBoards = boards({
  count: 6, boardM: 0.2, gapM: 0.0008, dark: [0.5, 0.36, 0.23], light: [0.7, 0.54, 0.37], spread: 0.09, weathering: 0,
  roughness: 0.5, endJoints: true,
}); // prettier-ignore

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

/** Formwork boards along v and tie holes left in the concrete. */
const concrete: Painter = (u, v, p) => {
  const cloud = fractal(u, v, 4, 4, 6, 5);
  const grain = fractal(u, v, 160, 160, 2, 15);
  const board = Math.floor(v * 8);
  const d = edge(v * 8 - board, 0.3);
  const joint = 1 - smoothstep(0.001, 0.004, d);
  const pore = cellular(u, v, 70, 21);
  const hole = pore.id > 0.86 ? 1 - smoothstep(0.06, 0.16, pore.near) : 0;
  const wood = fractal(u, v, 6, 128, 2, 35 + board);
  const tone = 0.6 + cloud * 0.07 + grain * 0.025 + (hash01(board, 2, 8) - 0.5) * 0.04 - hole * 0.22 - joint * 0.07;
  tint(p, [1.01, 1, 0.975], tone);
  p.roughness = 0.94 + cloud * 0.06;
  p.heightM = cloud * 0.0003 + wood * 0.00025 - hole * 0.0016 + joint * 0.0016 + grain * 0.00012;
};

const plaster: Painter = (u, v, p) => {
  const trowel = fractal(u, v, 5, 5, 4, 3);
  const sand = fractal(u, v, 190, 190, 2, 8);
  tint(p, [1, 0.985, 0.955], 0.93 + trowel * 0.016 + sand * 0.014);
  p.roughness = 0.97;
  p.heightM = trowel * 0.0009 + sand * 0.00022;
};

/** Stretcher bond, 240 x 71 mm with 12 mm joints. */
const brick: Painter = (u, v, p) => {
  const courses = 12;
  const columns = 4;
  const course = Math.floor(v * courses);
  const shifted = u * columns + (course % 2) * 0.5;
  const column = Math.floor(shifted) % columns;
  const wobble = fractal(u, v, 40, 40, 2, 5) * 0.0022;
  const d = Math.min(edge(shifted - Math.floor(shifted), 0.25), edge(v * courses - course, 0.083)) + wobble;
  const face = smoothstep(0.0055, 0.0085, d);
  const k = hash01(column, course, 9);
  const cloud = fractal(u, v, 24, 24, 4, 3);
  blend(p, [0.44, 0.2, 0.14], [0.68, 0.36, 0.24], k, 1 + cloud * 0.2);
  if (hash01(column, course, 33) > 0.9) tint(p, [p.r, p.g, p.b], 0.66);
  const mortar = 0.62 + fractal(u, v, 120, 120, 2, 7) * 0.06;
  p.r = p.r * face + mortar * (1 - face);
  p.g = p.g * face + mortar * 0.97 * (1 - face);
  p.b = p.b * face + mortar * 0.91 * (1 - face);
  p.roughness = 0.9 + cloud * 0.08;
  p.heightM = face * 0.005 + fractal(u, v, 100, 100, 2, 17) * 0.0006;
};

const tile: Painter = (u, v, p) => {
  const n = 4;
  const i = Math.floor(u * n);
  const j = Math.floor(v * n);
  const d = Math.min(edge(u * n - i, 0.15), edge(v * n - j, 0.15));
  const face = smoothstep(0.0012, 0.0024, d);
  const cloud = fractal(u, v, 12, 12, 3, 3);
  const tone = 0.84 + (hash01(i, j, 4) - 0.5) * 0.05 + cloud * 0.02;
  blend(p, [0.5, 0.5, 0.48], [tone, tone * 1.0, tone * 0.97], face, 1);
  p.roughness = face > 0.5 ? 0.35 + cloud * 0.1 : 1;
  p.heightM = smoothstep(0.001, 0.005, d) * 0.0014 + cloud * 0.00012;
};

const stone: Painter = (u, v, p) => {
  const rows = 4;
  const j = Math.floor(v * rows);
  const shifted = u * 2 + (j % 2) * 0.5;
  const i = Math.floor(shifted) % 2;
  const d = Math.min(edge(shifted - Math.floor(shifted), 0.6), edge(v * rows - j, 0.3));
  const face = smoothstep(0.002, 0.004, d);
  const bed = fractal(u, v, 3, 14, 5, 7 + i + j * 5);
  const speck = fractal(u, v, 150, 150, 2, 9);
  blend(p, [0.52, 0.5, 0.46], [0.72, 0.69, 0.62], 0.5 + bed * 0.6, 1 + speck * 0.06 + (hash01(i, j, 2) - 0.5) * 0.1);
  tint(p, [p.r, p.g, p.b], 0.55 + 0.45 * face);
  p.roughness = 0.85;
  p.heightM = face * 0.003 + bed * 0.0006 + speck * 0.0002;
};

/** Blades seen from above: short strokes in all directions over a darker ground. */
const grass: Painter = (u, v, p) => {
  let height = 0;
  let shade = 0;
  for (let layer = 0; layer < 3; layer++) {
    const cells = 48 + layer * 31;
    const cell = cellular(u + fractal(u, v, 64, 64, 2, layer) * 0.006, v, cells, 51 + layer * 17);
    const blade = smoothstep(0.62, 0.1, cell.near);
    if (blade * (0.6 + layer * 0.2) > height) {
      height = blade * (0.6 + layer * 0.2);
      shade = cell.id;
    }
  }
  const patch = fractal(u, v, 4, 4, 4, 5);
  const dry = smoothstep(0.25, 0.9, fractal(u, v, 9, 9, 3, 88) + 0.25);
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

const brushed: Painter = (u, v, p) => {
  const line = fractal(u, v, 512, 3, 2, 3);
  tint(p, [1, 1, 1], 0.94 + line * 0.05);
  p.roughness = 0.85 + line * 0.15;
  p.heightM = line * 0.00001;
};

/** Small waves: crossing wavelets of several directions, all whole numbers of waves over the repeat. */
const ripples: Painter = (u, v, p) => {
  let height = 0;
  for (let i = 0; i < 14; i++) {
    const kx = Math.round((hash01(i, 1, 5) - 0.35) * (6 + i * 2.2));
    const ky = Math.round((hash01(i, 2, 5) - 0.2) * (6 + i * 2.2)) || 1;
    const k = Math.hypot(kx, ky);
    height += (Math.sin((kx * u + ky * v + hash01(i, 3, 5)) * 2 * Math.PI) * 0.026) / Math.pow(k, 0.95);
  }
  height += fractal(u, v, 24, 24, 3, 77) * 0.002;
  tint(p, [1, 1, 1], 1);
  p.roughness = 1;
  p.heightM = height;
};

export const PAINTERS: Readonly<Record<string, Painter>> = {
  'larch-boards': larchBoards, 'oak-boards': oakBoards, 'seamed-zinc': seamedZinc, concrete, plaster, brick, tile, stone, grass,
  soil, asphalt, carpet, felt, leather, brushed, ripples,
}; // prettier-ignore
