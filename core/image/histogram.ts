export const HISTOGRAM_BINS = 64;

/** Shares of the pixels by their coded value, from 0 to 255 in even steps; each sums to 1. */
export interface Histogram {
  red: Float32Array;
  green: Float32Array;
  blue: Float32Array;
  luma: Float32Array;
  /** Shares of pixels of which a channel is as dark or as bright as can be. */
  black: number;
  white: number;
}

const MOST_LOOKED_AT = 60_000;

/** Of a picture that was developed, RGBA8. */
export function histogramOf(rgba: Uint8ClampedArray | Uint8Array): Histogram {
  const pixels = rgba.length / 4;
  const stride = Math.max(1, Math.floor(pixels / MOST_LOOKED_AT));
  const bins = () => new Float32Array(HISTOGRAM_BINS);
  const out = { red: bins(), green: bins(), blue: bins(), luma: bins(), black: 0, white: 0 };
  const one = 1 / Math.ceil(pixels / stride);
  const bin = (value: number) => (value * HISTOGRAM_BINS) >> 8;
  for (let p = 0; p < pixels; p += stride) {
    const [r, g, b] = [rgba[p * 4]!, rgba[p * 4 + 1]!, rgba[p * 4 + 2]!];
    out.red[bin(r)]! += one;
    out.green[bin(g)]! += one;
    out.blue[bin(b)]! += one;
    out.luma[bin(0.2126 * r + 0.7152 * g + 0.0722 * b)]! += one;
    if (Math.min(r, g, b) === 0) out.black += one;
    if (Math.max(r, g, b) === 255) out.white += one;
  }
  return out;
}
