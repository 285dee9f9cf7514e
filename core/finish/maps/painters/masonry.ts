import { cellular, fractal, hash01, smoothstep } from '../noise';
import type { Painter, Point } from '../paint';
import { blend, bond, edge, over, tint, type Colour } from './colour';

/** Bricks, tiles and laid stones. */

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

function brickFace(p: Point, column: number, row: number, u: number, v: number, d: number, colours: readonly [Colour, Colour]): void {
  const face = smoothstep(0.0055, 0.0085, d + fractal(u, v, 40, 40, 2, 5) * 0.0022);
  const cloud = fractal(u, v, 24, 24, 4, 3);
  blend(p, colours[0], colours[1], hash01(column, row, 9), 1 + cloud * 0.18);
  const mortar = 0.62 + fractal(u, v, 120, 120, 2, 7) * 0.06;
  over(p, [mortar, mortar * 0.97, mortar * 0.91], 1 - face);
  p.roughness = 0.9 + cloud * 0.08;
  p.heightM = face * 0.005 + fractal(u, v, 100, 100, 2, 17) * 0.0006;
}

const CLAY: readonly [Colour, Colour] = [[0.46, 0.22, 0.15], [0.66, 0.36, 0.25]]; // prettier-ignore

/** Flemish bond: a stretcher and a header in turn in every course, headers over the middle of stretchers. */
const flemishBrick: Painter = (u, v, p) => {
  const courses = 12;
  const course = Math.floor(v * courses);
  // Three pairs of 240 + 115 + two joints of 12.5 mm over the repeat.
  const pairs = 3;
  const at = u * pairs + (course % 2) * 0.5 + 0.5;
  const pair = Math.floor(at) % pairs;
  const x = at - Math.floor(at);
  const split = 0.6645;
  const header = x >= split;
  const across = header ? (x - split) / (1 - split) : x / split;
  const d = Math.min(edge(across, header ? 0.1275 : 0.2525), edge(v * courses - course, 0.083));
  brickFace(p, pair * 2 + (header ? 1 : 0), course, u, v, d, CLAY);
};

/** Long, thin bricks in thirds. */
const longBrick: Painter = (u, v, p) => {
  const piece = bond(u, v, 2, 20, 1 / 3, [0.5, 0.05]);
  brickFace(p, piece.column, piece.row, u, v, piece.edgeM, CLAY);
};

/** Bricks one over the other, no bond. */
const stackedBrick: Painter = (u, v, p) => {
  const piece = bond(u, v, 4, 12, 0, [0.25, 0.083]);
  brickFace(p, piece.column, piece.row, u, v, piece.edgeM, CLAY);
};

function glazed(p: Point, column: number, row: number, u: number, v: number, edgeM: number, jointM: number): void {
  const face = smoothstep(jointM * 0.5, jointM * 0.5 + 0.0012, edgeM);
  const cloud = fractal(u, v, 12, 12, 3, 3);
  const tone = 0.86 + (hash01(column, row, 4) - 0.5) * 0.05 + cloud * 0.02;
  blend(p, [0.52, 0.51, 0.49], [tone, tone, tone * 0.98], face, 1);
  p.roughness = face > 0.5 ? 0.35 + cloud * 0.1 : 1;
  p.heightM = smoothstep(jointM * 0.4, jointM * 0.4 + 0.004, edgeM) * 0.0014 + cloud * 0.0001;
}

const bevelledTile: Painter = (u, v, p) => {
  const piece = bond(u, v, 4, 8, 0.5, [0.15, 0.075]);
  glazed(p, piece.column, piece.row, u, v, piece.edgeM, 0.002);
  p.heightM += smoothstep(0.002, 0.014, piece.edgeM) * 0.003;
};

/** Large squares of fine stoneware with thin joints. */
const largeTile: Painter = (u, v, p) => {
  const piece = bond(u, v, 2, 2, 0, [0.6, 0.6]);
  const face = smoothstep(0.001, 0.002, piece.edgeM);
  const cloud = fractal(u, v, 5, 5, 5, 3 + piece.column + piece.row * 2);
  const speck = fractal(u, v, 240, 240, 2, 9);
  const tone = 0.72 + cloud * 0.06 + speck * 0.02 + (hash01(piece.column, piece.row, 3) - 0.5) * 0.03;
  blend(p, [0.45, 0.44, 0.42], [tone, tone * 0.99, tone * 0.965], face, 1);
  p.roughness = face > 0.5 ? 0.8 + cloud * 0.05 : 1;
  p.heightM = face * 0.0008 + speck * 0.00003;
};

/** Hexagons with a corner up: two lattices of rectangles, whichever middle is nearer. Lengths in widths of a hexagon. */
const hexTile: Painter = (u, v, p) => {
  const columns = 6;
  const rows = 4;
  const [x, y] = [u * columns, v * rows];
  const near = (shift: number) => {
    const [i, j] = [Math.round(x - shift), Math.round(y - shift)];
    const [dx, dy] = [Math.abs(x - shift - i), Math.abs(y - shift - j) * Math.sqrt(3)];
    return { i: i % columns, j: (j % rows) + shift * 20, dx, dy, d: dx * dx + dy * dy };
  };
  const [a, b] = [near(0), near(0.5)];
  const hex = a.d < b.d ? a : b;
  const inside = 0.5 - Math.max(hex.dx, hex.dx * 0.5 + (hex.dy * Math.sqrt(3)) / 2);
  glazed(p, hex.i, hex.j, u, v, inside * 0.1, 0.002);
};

/** Small stones set in sand, rounded by use. */
const setts: Painter = (u, v, p) => {
  const bent = v + Math.sin(u * 2 * Math.PI) * 0.02;
  const piece = bond(u, ((bent % 1) + 1) % 1, 10, 10, 0.5, [0.1, 0.1]);
  const round = smoothstep(0.002, 0.016, piece.edgeM + fractal(u, v, 30, 30, 2, 6) * 0.003);
  const speck = fractal(u, v, 160, 160, 2, 9);
  const tone = 0.42 + (hash01(piece.column, piece.row, 5) - 0.5) * 0.16 + speck * 0.09;
  blend(p, [0.3, 0.27, 0.22], [tone, tone * 0.99, tone * 0.97], round, 1);
  p.roughness = 0.9 - round * 0.15;
  p.heightM = round * 0.012 + speck * 0.0006;
};

/** Rough stones of all shapes in wide joints. */
const rubble: Painter = (u, v, p) => {
  const warp = fractal(u, v, 8, 8, 3, 5) * 0.012;
  const cell = cellular(u + warp, v - warp, 7, 11);
  const face = smoothstep(0.05, 0.14, cell.second - cell.near);
  const bed = fractal(u, v, 10, 24, 4, 7);
  const tone = 0.46 + (cell.id - 0.5) * 0.2 + bed * 0.1;
  blend(p, [0.58, 0.56, 0.5], [tone, tone * 0.97, tone * 0.91], face, 1 + fractal(u, v, 120, 120, 2, 3) * 0.08);
  p.roughness = 0.95;
  p.heightM = face * 0.02 + bed * 0.006 * face;
};

/** Slate in courses of different height, split along its bed. */
const slatePaving: Painter = (u, v, p) => {
  const piece = bond(u, v, 2, 4, 0.37, [0.6, 0.3]);
  const face = smoothstep(0.002, 0.004, piece.edgeM);
  const split = fractal(u, v, 3, 3, 6, 13 + piece.column * 5 + piece.row, 0.62);
  const rust = smoothstep(0.25, 0.7, fractal(u, v, 5, 5, 4, 61));
  tint(p, [0.94, 1, 1.04], 0.3 + split * 0.05 + (hash01(piece.column, piece.row, 3) - 0.5) * 0.06);
  over(p, [0.4, 0.31, 0.22], rust * 0.35);
  over(p, [0.3, 0.29, 0.27], 1 - face);
  p.roughness = 0.78 + split * 0.1;
  p.heightM = face * 0.003 + Math.round(split * 6) * 0.0004 + split * 0.0012;
};

export const MASONRY: Readonly<Record<string, Painter>> = {
  brick, tile, stone, 'flemish-brick': flemishBrick, 'long-brick': longBrick, 'stacked-brick': stackedBrick, 'bevelled-tile': bevelledTile,
  'large-tile': largeTile, 'hex-tile': hexTile, setts, rubble, 'slate-paving': slatePaving,
}; // prettier-ignore
