import { decodeSrgb } from '../../image/tone';

/** How far apart the texels are that are looked at, each way. */
const STRIDE = 4;
const LINEAR = Float64Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255));

/** Mean of RGBA8 texels, linear 0..1, of every fourth each way; the first three channels decoded if `srgb`. */
export function meanTexel(texels: Uint8Array, width: number, height: number, srgb: boolean): [number, number, number, number] {
  const sum: [number, number, number, number] = [0, 0, 0, 0];
  let count = 0;
  for (let y = 0; y < height; y += STRIDE)
    for (let x = 0; x < width; x += STRIDE) {
      const i = (y * width + x) * 4;
      for (let k = 0; k < 3; k++) sum[k]! += srgb ? LINEAR[texels[i + k]!]! : texels[i + k]! / 255;
      sum[3] += texels[i + 3]! / 255;
      count++;
    }
  return sum.map((s) => s / count) as typeof sum;
}
