import { decodeSrgb } from '../image/tone';

/** A picture in linear light: f32 rgb, three numbers a pixel, top row first. */
export interface LinearPicture {
  width: number;
  height: number;
  data: Float32Array;
}

const LINEAR = Float32Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255));

/** Of sRGB-coded RGBA8. */
export function linearPicture(rgba: Uint8Array | Uint8ClampedArray, width: number, height: number): LinearPicture {
  const data = new Float32Array(width * height * 3);
  for (let i = 0; i < width * height; i++) for (let k = 0; k < 3; k++) data[i * 3 + k] = LINEAR[rgba[i * 4 + k]!]!;
  return { width, height, data };
}

export const luminanceOf = (p: LinearPicture): Float32Array =>
  Float32Array.from(
    { length: p.width * p.height },
    (_, i) => 0.2126 * p.data[i * 3]! + 0.7152 * p.data[i * 3 + 1]! + 0.0722 * p.data[i * 3 + 2]!,
  );

/** Three box blurs, near a Gaussian of that standard deviation in pixels; the field goes on beyond its borders as `edge` says. */
export function blurred(field: Float32Array, width: number, height: number, sigma: number, edge: 'wraps' | 'stays'): Float32Array {
  const r = Math.max(1, Math.round(Math.sqrt((12 * sigma * sigma) / 3 + 1) / 2 - 0.5));
  let out = field;
  for (let pass = 0; pass < 3; pass++) out = boxAlong(boxAlong(out, width, height, r, 1, width, edge), height, width, r, width, 1, edge);
  return out;
}

/** Box blur along one axis: `length` cells `step` apart, in `lines` lines `lineStep` apart. */
function boxAlong(
  field: Float32Array,
  length: number,
  lines: number,
  r: number,
  step: number,
  lineStep: number,
  edge: 'wraps' | 'stays',
): Float32Array {
  const out = new Float32Array(field.length);
  const place = (i: number) => (edge === 'wraps' ? ((i % length) + length) % length : Math.min(length - 1, Math.max(0, i)));
  for (let line = 0; line < lines; line++) {
    const start = line * lineStep;
    let sum = 0;
    for (let i = -r; i <= r; i++) sum += field[start + place(i) * step]!;
    for (let i = 0; i < length; i++) {
      out[start + i * step] = sum / (2 * r + 1);
      sum += field[start + place(i + r + 1) * step]! - field[start + place(i - r) * step]!;
    }
  }
  return out;
}
