import { fractal, hash01, smoothstep, valueNoise } from '../noise';
import type { Painter, Point } from '../paint';
import { blend, edge, over, tint, type Colour } from './colour';

/** Wood: boards, parquet, veneer. Boards run along v. */

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

/** Grain of one piece of wood, across (0..1) and along it (0..1): 0 dark to 1 light, and its fibre. */
function grain(across: number, along: number, piece: number): { t: number; fibre: number } {
  const shift = hash01(piece, 3, 41);
  const wander = fractal(across * 0.4 + piece * 0.37, along, 2, 2, 3, 11 + (piece % 64)) * 0.9;
  const rings = Math.sin((across * 4 + wander * 2.2 + shift * 9) * Math.PI * 2) * 0.5 + 0.5;
  const fibre = valueNoise((across * 0.125 + piece * 0.131) % 1, along, 256, 6, 71);
  return { t: Math.min(1, Math.max(0, 0.4 + rings * 0.35 + fibre * 0.2)), fibre };
}

const DARK: Colour = [0.5, 0.38, 0.26];
const LIGHT: Colour = [0.72, 0.58, 0.42];

function woodPiece(p: Point, across: number, along: number, piece: number, edgeM: number, gapM: number): void {
  const { t, fibre } = grain(across, along, piece);
  blend(p, DARK, LIGHT, t, 1 + (hash01(piece, 1, 77) - 0.5) * 0.2 + fibre * 0.04);
  const cut = 1 - smoothstep(gapM * 0.5, gapM * 0.5 + 0.0009, edgeM);
  tint(p, [p.r, p.g, p.b], 1 - cut * 0.7);
  p.roughness = 0.62 + cut * 0.3 + (1 - t) * 0.08;
  p.heightM = smoothstep(0, 0.002, edgeM) * 0.0006 + fibre * 0.00004 - cut * 0.001;
}

/** Blocks four times as long as wide, each against the flank of the next; 16 block widths over the repeat. */
const herringbone: Painter = (u, v, p) => {
  const n = 16;
  const long = 4;
  const i = Math.floor(u * n);
  const j = Math.floor(v * n);
  const [fx, fy] = [u * n - i, v * n - j];
  const d = (((i - j) % (2 * long)) + 2 * long) % (2 * long);
  const level = d < long;
  const step = level ? d : 2 * long - 1 - d;
  const across = level ? fy : fx;
  const along = ((level ? fx : fy) + step) / long;
  const piece = level ? ((i - step + n) % n) * n + j : i * n + ((j - step + n) % n) + 1000;
  woodPiece(p, across, along, piece, Math.min(edge(across, 0.07), edge(along, 0.28)), 0.0006);
};

/** Narrow strips of many lengths. */
const strips: Painter = (u, v, p) => {
  const rows = 16;
  const row = Math.floor(u * rows);
  const shifted = v + hash01(row, 3, 21);
  const pieces = 2 + Math.floor(hash01(row, 5, 8) * 2);
  const at = (shifted % 1) * pieces;
  const piece = row * 8 + Math.floor(at);
  const along = at - Math.floor(at);
  woodPiece(p, u * rows - row, along, piece, Math.min(edge(u * rows - row, 0.065), edge(along, 1.8 / pieces)), 0.0006);
};

/** One sheet of sliced veneer: flames about a middle, mirrored to the next sheet. */
const veneer: Painter = (u, v, p) => {
  const sheet = Math.floor(u * 2);
  const x = u * 2 - sheet;
  const across = sheet === 0 ? x : 1 - x;
  const wave = fractal(across * 0.5, v, 2, 2, 4, 31) * 0.5;
  const flame = Math.sin(((across - 0.5) ** 2 * 26 + wave * 2.4 + Math.sin(v * 2 * Math.PI) * 0.35) * Math.PI * 2) * 0.5 + 0.5;
  const fibre = valueNoise(across * 0.5, v, 512, 5, 71);
  blend(p, DARK, LIGHT, Math.min(1, 0.42 + flame * 0.34 + fibre * 0.22), 1 + fibre * 0.03);
  over(p, [p.r * 0.9, p.g * 0.9, p.b * 0.9], 1 - smoothstep(0, 0.0006, edge(x, 0.6)));
  p.roughness = 0.6 + fibre * 0.05;
  p.heightM = fibre * 0.00004;
};

/** Square battens before a dark ground. */
const battens: Painter = (u, v, p) => {
  const n = 10;
  const i = Math.floor(u * n);
  const x = u * n - i;
  const on = smoothstep(0.29, 0.3, x) * (1 - smoothstep(0.99, 1, x));
  const { t, fibre } = grain((x - 0.3) / 0.7, (v + hash01(i, 2, 4)) % 1, i);
  blend(p, DARK, LIGHT, t, (1 + (hash01(i, 1, 77) - 0.5) * 0.22) * on);
  over(p, [0.05, 0.045, 0.04], 1 - on);
  p.roughness = 0.75 + (1 - on) * 0.2;
  p.heightM = on * 0.012 + fibre * 0.00005;
};

export const WOOD: Readonly<Record<string, Painter>> = {
  'larch-boards': larchBoards, 'oak-boards': oakBoards, herringbone, strips, veneer, battens,
}; // prettier-ignore
