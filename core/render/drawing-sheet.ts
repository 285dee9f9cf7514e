import { LINE_WEIGHTS, type LineDrawing, type LineWeight } from './line-drawing';

/** A drawing in lines on paper. */

const INK = '#262421';
/** Of a perspective; and the widest that a drawing to scale is. */
const PERSPECTIVE_MM = 400;
const WIDEST_MM = 800;
const SCALES = [20, 50, 100, 200, 500, 1000, 2000] as const;

export interface Sheet {
  widthMm: number;
  heightMm: number;
  /** 1 to so much; only what is drawn in parallel has a scale. */
  scale?: number | undefined;
}

/** The paper that a picture of a shape (width over height) is drawn on, to the first usual scale at which it fits. */
export function sheetOf(aspect: number, parallelM: number | undefined): Sheet {
  if (parallelM === undefined) return { widthMm: PERSPECTIVE_MM, heightMm: PERSPECTIVE_MM / aspect };
  const scale = SCALES.find((s) => (parallelM * 1000) / s <= WIDEST_MM) ?? SCALES.at(-1)!;
  const widthMm = (parallelM * 1000) / scale;
  return { widthMm, heightMm: widthMm / aspect, scale };
}

/** Each line as x1 y1 x2 y2 in millimetres, with its weight. */
export function* linesOnPaper(
  drawing: LineDrawing,
  width: number,
  { widthMm }: Sheet,
): Generator<[LineWeight, number, number, number, number]> {
  const mm = widthMm / width;
  for (const weight of Object.keys(LINE_WEIGHTS) as LineWeight[])
    for (let i = 0; i < drawing[weight].length; i += 4) {
      const [x1, y1, x2, y2] = drawing[weight].slice(i, i + 4) as [number, number, number, number];
      yield [weight, x1 * mm, y1 * mm, x2 * mm, y2 * mm];
    }
}

/** As SVG, in millimetres. */
export function drawingSvg(drawing: LineDrawing, width: number, sheet: Sheet, title: string): string {
  const paths: Record<LineWeight, string[]> = { cut: [], outline: [], bend: [] };
  for (const [weight, ...ends] of linesOnPaper(drawing, width, sheet)) {
    const [x1, y1, x2, y2] = ends.map((value) => value.toFixed(3)) as [string, string, string, string];
    paths[weight].push(`M${x1} ${y1}L${x2} ${y2}`);
  }
  const groups = (Object.keys(LINE_WEIGHTS) as LineWeight[]).map(
    (weight) => `<path id="${weight}" stroke-width="${String(LINE_WEIGHTS[weight])}" d="${paths[weight].join('')}"/>`,
  );
  const [w, h] = [sheet.widthMm.toFixed(2), sheet.heightMm.toFixed(2)];
  const name = title.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${w}mm" height="${h}mm" viewBox="0 0 ${w} ${h}" fill="none" stroke="${INK}" stroke-linecap="round"><title>${name}${sheet.scale ? `, 1:${String(sheet.scale)}` : ''}</title>\n${groups.join('\n')}\n</svg>\n`;
}
