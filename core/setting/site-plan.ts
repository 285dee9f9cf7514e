/** The site from above as a drawing: what a survey of a grid tells, as paper, tints and ink. */

/** Metres: the corner at the lower left, and how much is shown. */
export interface PlanBox {
  x: number;
  y: number;
  widthM: number;
  heightM: number;
}

export interface SurveyedGrid {
  z: ArrayLike<number>;
  /** Place in the list of families; 255: nothing. */
  family: ArrayLike<number>;
  surface: ArrayLike<number>;
  /** 1: cut by the plan's height. */
  cut?: ArrayLike<number> | undefined;
}

type Rgb = readonly [number, number, number];
/** sRGB. */
const INK: Rgb = [43, 41, 36];
const PAPER: Rgb = [252, 250, 244];
const TINTS: Readonly<Record<string, Rgb>> = { ground: [229, 234, 212], water: [208, 222, 226], paving: [238, 233, 222], concrete: [238, 233, 222], glass: [226, 234, 236] }; // prettier-ignore
const NOTHING: Rgb = [240, 237, 229];
/** A step of this height is drawn as an edge, metres; a small one lightly. */
const EDGE_M = 0.6;
/** Of ink, what is cut has. */
const CUT = 0.85;
const KERB_M = 0.12;

/** Middles of the cells of a grid, x and y one after the other, row by row from the top. */
export function gridOf({ x, y, widthM, heightM }: PlanBox, columns: number, rows: number): [number, number][] {
  const places: [number, number][] = [];
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) places.push([x + ((i + 0.5) / columns) * widthM, y + (1 - (j + 0.5) / rows) * heightM]);
  return places;
}

/** RGBA of the drawing, as many pixels as the grid has cells. */
export function drawPlan({ z, family, surface, cut }: SurveyedGrid, families: readonly string[], columns: number): Uint8ClampedArray<ArrayBuffer> {
  const count = z.length;
  const out = new Uint8ClampedArray(count * 4);
  const edge = (a: number, b: number): number => {
    if (b >= count || surface[a] === surface[b]) return 0;
    const [za, zb] = [z[a]!, z[b]!];
    const step = Math.abs(za - zb);
    if (Number.isFinite(za) !== Number.isFinite(zb) || step > EDGE_M) return 1;
    if (step > KERB_M) return 0.45;
    return family[a] === family[b] ? 0 : 0.25;
  };
  for (let i = 0; i < count; i++) {
    const tint = family[i] === 255 ? NOTHING : (TINTS[families[family[i]!] ?? ''] ?? PAPER);
    const isLast = (i + 1) % columns === 0;
    const ink = cut?.[i] ? CUT : Math.max(isLast ? 0 : edge(i, i + 1), edge(i, i + columns));
    for (let c = 0; c < 3; c++) out[i * 4 + c] = tint[c]! + (INK[c]! - tint[c]!) * ink;
    out[i * 4 + 3] = 255;
  }
  return out;
} // prettier-ignore

/** The box about what is built, as a coarse grid of the site shows it, with room about it; undefined: nothing is. */
export function builtBox(places: readonly (readonly [number, number])[], { family }: SurveyedGrid, families: readonly string[], marginM: number, shape: number): PlanBox | undefined {
  const isBuilt = (i: number) => family[i] !== 255 && !['ground', 'water'].includes(families[family[i]!] ?? '');
  const built = places.filter((_, i) => isBuilt(i));
  if (built.length === 0) return undefined;
  const [xs, ys] = [built.map(([x]) => x), built.map(([, y]) => y)];
  const [x0, x1, y0, y1] = [Math.min(...xs) - marginM, Math.max(...xs) + marginM, Math.min(...ys) - marginM, Math.max(...ys) + marginM];
  return shaped((x0 + x1) / 2, (y0 + y1) / 2, Math.max(x1 - x0, (y1 - y0) * shape), shape);
} // prettier-ignore

/** A box about a middle, `shape` times as wide as high. */
export const shaped = (x: number, y: number, widthM: number, shape: number): PlanBox => ({
  x: x - widthM / 2,
  y: y - widthM / shape / 2,
  widthM,
  heightM: widthM / shape,
});
