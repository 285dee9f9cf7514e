import { cellular, fractal, hash01, smoothstep, valueNoise } from '../noise';
import type { Painter } from '../paint';
import { blend, edge, over, tint } from './colour';

/** Concrete, plaster and polished stone. */

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

/** Cast against smooth panels: joints every 1.2 m, four tie holes a panel. */
const castConcrete: Painter = (u, v, p) => {
  const cloud = fractal(u, v, 3, 3, 7, 5, 0.58);
  const [x, y] = [(u * 2) % 1, (v * 2) % 1];
  const joint = 1 - smoothstep(0.0008, 0.003, Math.min(edge(x, 1.2), edge(y, 1.2)));
  const [tx, ty] = [Math.abs(((x * 2) % 1) - 0.5) * 0.6, Math.abs(((y * 2) % 1) - 0.5) * 0.6];
  const hole = 1 - smoothstep(0.011, 0.0125, Math.hypot(tx, ty));
  const pore = cellular(u, v, 60, 21);
  const pit = pore.id > 0.9 ? 1 - smoothstep(0.05, 0.13, pore.near) : 0;
  const tone = 0.62 + cloud * 0.09 + fractal(u, v, 200, 200, 2, 15) * 0.02 - pit * 0.2 - joint * 0.12 - hole * 0.34;
  tint(p, [1, 0.995, 0.975], tone);
  p.roughness = 0.88 + cloud * 0.08;
  p.heightM = cloud * 0.0002 - pit * 0.0014 - hole * 0.006 - joint * 0.0008;
};

/** Washed until the stones stand out. */
const exposedAggregate: Painter = (u, v, p) => {
  const cell = cellular(u + fractal(u, v, 40, 40, 2, 3) * 0.004, v, 44, 5);
  const stoneShare = smoothstep(0.5, 0.3, cell.near);
  const tone = 0.34 + cell.id * 0.42;
  blend(
    p,
    [0.55, 0.53, 0.49],
    [tone, tone * (0.9 + 0.1 * cell.id), tone * (0.78 + 0.2 * hash01(Math.floor(cell.id * 999), 2, 5))],
    stoneShare,
    1,
  );
  p.roughness = 0.9 - stoneShare * 0.2;
  p.heightM = stoneShare * 0.003 + fractal(u, v, 160, 160, 2, 9) * 0.0003;
};

/** Ground and sealed floor. */
const screed: Painter = (u, v, p) => {
  const cloud = fractal(u, v, 4, 4, 6, 25, 0.56);
  const swirl = fractal(u + cloud * 0.05, v, 12, 12, 3, 8);
  const sand = cellular(u, v, 150, 31);
  tint(p, [1, 0.99, 0.97], 0.52 + cloud * 0.09 + swirl * 0.03 + (sand.id - 0.5) * 0.05 * smoothstep(0.4, 0.1, sand.near));
  p.roughness = 0.55 + cloud * 0.1;
  p.heightM = cloud * 0.00015;
};

/** Thrown and left rough. */
const roughRender: Painter = (u, v, p) => {
  const grit = cellular(u, v, 130, 7);
  const k = smoothstep(0.6, 0.15, grit.near);
  const cloud = fractal(u, v, 4, 4, 4, 3);
  tint(p, [1, 0.985, 0.95], 0.82 + k * 0.08 + cloud * 0.02);
  p.roughness = 0.98;
  p.heightM = k * (0.0012 + grit.id * 0.0008) + cloud * 0.0006;
};

/** Clay with straw, smoothed by hand. */
const clayPlaster: Painter = (u, v, p) => {
  const hand = fractal(u, v, 5, 5, 5, 3);
  const straw = cellular(u * 1, v, 46, 15);
  const fleck = straw.id > 0.8 ? 1 - smoothstep(0.03, 0.1, straw.near) : 0;
  tint(p, [0.66, 0.53, 0.4], 1 + hand * 0.07 + fractal(u, v, 170, 170, 2, 8) * 0.04);
  over(p, [0.78, 0.68, 0.48], fleck);
  p.roughness = 0.97;
  p.heightM = hand * 0.0011 + fleck * 0.0004;
};

/** Veins along the folds of a warped field. */
const marble: Painter = (u, v, p) => {
  const wx = fractal(u, v, 3, 3, 3, 41) * 0.16;
  const wy = fractal(u, v, 3, 3, 3, 87) * 0.16;
  const fold = Math.abs(fractal(u + wx, v + wy, 2, 3, 4, 7));
  const fine = Math.abs(fractal(u - wy, v + wx, 5, 4, 3, 19));
  const vein = Math.max(1 - smoothstep(0, 0.022, fold), 0.4 * (1 - smoothstep(0, 0.014, fine)));
  const cloud = fractal(u, v, 4, 4, 2, 3);
  tint(p, [1, 0.995, 0.985], 0.88 + cloud * 0.04);
  over(p, [0.45, 0.46, 0.48], vein * 0.5);
  p.roughness = 0.22 + vein * 0.06;
  p.heightM = 0;
};

/** Grains of three minerals grown into each other. */
const granite: Painter = (u, v, p) => {
  const a = cellular(u, v, 110, 3);
  const b = cellular(u, v, 64, 9);
  const tone = a.id < 0.2 ? 0.3 : a.id < 0.62 ? 0.54 : 0.66;
  tint(p, [1, 0.985, 0.97], tone + (b.id - 0.5) * 0.1 + fractal(u, v, 6, 6, 3, 5) * 0.03);
  p.roughness = 0.3 + (a.id < 0.2 ? 0.08 : 0);
  p.heightM = 0;
};

/** Layers with pores drawn out along them. */
const travertine: Painter = (u, v, p) => {
  const warp = fractal(u, v, 3, 6, 4, 5) * 0.03;
  const layer = fractal(u, v + warp, 2, 26, 4, 17);
  const pore = fractal(u, v + warp, 24, 90, 3, 29);
  const hole = smoothstep(0.42, 0.62, pore) * smoothstep(-0.1, 0.3, layer);
  blend(p, [0.66, 0.57, 0.45], [0.85, 0.79, 0.68], 0.5 + layer * 0.7, 1 - hole * 0.45);
  p.roughness = 0.5 + hole * 0.4;
  p.heightM = -hole * 0.0015;
};

/** Cells over the repeat, a seed, and how far a chip reaches in its cell. */
const CHIPS = [[16, 3, 0.42], [34, 13, 0.4], [70, 23, 0.38]] as const; // prettier-ignore

/** Chips of stone in a ground matrix. */
const terrazzo: Painter = (u, v, p) => {
  tint(p, [0.86, 0.85, 0.82], 1 + valueNoise(u, v, 120, 120, 9) * 0.02);
  const warp = valueNoise(u, v, 60, 60, 5) * 0.006;
  for (const [cells, seed, reach] of CHIPS) {
    const chip = cellular(u + warp, v - warp, cells, seed);
    if (chip.id < 0.45) continue;
    const kind = hash01(Math.floor(chip.id * 4096), 1, seed);
    const tone = 0.3 + kind * 0.5;
    over(p, kind > 0.75 ? [0.62, 0.36, 0.27] : [tone, tone * 0.97, tone * 0.93], smoothstep(reach, reach - 0.03, chip.near));
  }
  p.roughness = 0.26;
  p.heightM = 0;
};

export const MINERAL: Readonly<Record<string, Painter>> = {
  concrete, plaster, 'cast-concrete': castConcrete, 'exposed-aggregate': exposedAggregate, screed, 'rough-render': roughRender,
  'clay-plaster': clayPlaster, marble, granite, travertine, terrazzo,
}; // prettier-ignore
