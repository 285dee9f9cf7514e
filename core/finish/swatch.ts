import { decodeSrgb, encodeSrgb } from '../image/tone';
import { adjusted, adjustmentMatrix } from './adjust';
import type { Finish } from './finish';

/** RGBA8 texels, row 0 at v = 0. */
interface Texels {
  width: number;
  height: number;
  texels: Uint8Array;
}

const LINEAR = Float64Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255));
/** Texels that are looked at for one pixel, each way. */
const LOOKS = 4;

/**
 * A flat picture of a finish, `side` pixels square, RGB8, top row first: one repeat of its colour map, adjusted as in both
 * pictures, averaged in linear light. Glass shows what it takes away from white.
 */
export function swatchPixels(finish: Finish, base: Texels | undefined, side: number): Uint8Array {
  const out = new Uint8Array(side * side * 3);
  const matrix = adjustmentMatrix(finish);
  const tint = finish.baseColour.map(decodeSrgb) as [number, number, number];
  if (finish.transmission > 0 && finish.attenuationDistanceM !== null)
    finish.attenuationColour.forEach((c, k) => {
      tint[k]! *= decodeSrgb(c);
    });
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const mean = base ? meanOf(base, x, side - 1 - y, side) : ([1, 1, 1] as const);
      const colour = adjusted([mean[0] * tint[0], mean[1] * tint[1], mean[2] * tint[2]], matrix, finish.contrast);
      const o = (y * side + x) * 3;
      for (let k = 0; k < 3; k++) out[o + k] = Math.round(encodeSrgb(Math.min(1, colour[k]!)) * 255);
    }
  return out;
}

function meanOf({ width, height, texels }: Texels, x: number, y: number, side: number): [number, number, number] {
  const sum: [number, number, number] = [0, 0, 0];
  for (let j = 0; j < LOOKS; j++)
    for (let i = 0; i < LOOKS; i++) {
      const tx = Math.min(width - 1, Math.floor(((x + (i + 0.5) / LOOKS) / side) * width));
      const ty = Math.min(height - 1, Math.floor(((y + (j + 0.5) / LOOKS) / side) * height));
      const o = (ty * width + tx) * 4;
      for (let k = 0; k < 3; k++) sum[k]! += LINEAR[texels[o + k]!]!;
    }
  return sum.map((s) => s / LOOKS ** 2) as typeof sum;
}
