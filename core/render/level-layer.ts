/**
 * Light adds up: a picture under a row of lamps at another level is the picture there is and so much more or less of what those
 * lamps give alone. Nothing is rendered for it.
 */
export interface LevelLayer {
  /** Of the luminaire schedule. */
  row: string;
  /** That the row had in the base, 0 to 1. */
  level: number;
  width: number;
  height: number;
  /** The picture as it is, and what the row adds at its whole level: f32x4 a pixel, cd/m2. */
  base: Float32Array;
  light: Float32Array;
}

/** The picture with the row at a level, 0 to 1. */
export function pictureAt({ base, light, level: was }: LevelLayer, level: number): Float32Array {
  const more = level - was;
  return base.map((value, i) => (i % 4 === 3 ? value : Math.max(0, value + more * light[i]!)));
}

/** A picture of so many pixels made smaller: the mean of those that fall into each. */
export function shrunk(radiance: Float32Array, width: number, height: number, toWidth: number, toHeight: number): Float32Array {
  if (width === toWidth && height === toHeight) return Float32Array.from(radiance);
  const out = new Float32Array(toWidth * toHeight * 4);
  for (let y = 0; y < toHeight; y++)
    for (let x = 0; x < toWidth; x++) {
      const [x0, y0] = [Math.floor((x * width) / toWidth), Math.floor((y * height) / toHeight)];
      const [x1, y1] = [Math.max(x0 + 1, Math.floor(((x + 1) * width) / toWidth)), Math.max(y0 + 1, Math.floor(((y + 1) * height) / toHeight))];
      const share = 1 / ((x1 - x0) * (y1 - y0));
      const at = (y * toWidth + x) * 4;
      for (let j = y0; j < y1; j++)
        for (let i = x0; i < x1; i++) for (let c = 0; c < 4; c++) out[at + c]! += radiance[(j * width + i) * 4 + c]! * share;
    }
  return out;
} // prettier-ignore
