import { decodeSrgb, codedByte } from '../../image/tone';
import type { TextureImage } from './texture-image';

/** A map set in the working picture. */
export interface MapUse {
  name: string;
  /** At full resolution. */
  bytes: number;
  /** Texels that one pixel of the picture covers where the set is nearest; below 1 it is enlarged. */
  texelsPerPixel: number;
}

/** Half of the size each way so often at most: 1024 becomes 32. */
const MOST_HALVINGS = 5;

/**
 * How often each map set is halved so that all together stay within a budget: what is seen most finely divided, from far
 * away, comes first. None is halved while the budget holds them all.
 */
export function halvingsWithin(uses: readonly MapUse[], budgetBytes: number): ReadonlyMap<string, number> {
  const halvings = new Map(uses.map(({ name }) => [name, 0]));
  const sizeOf = ({ name, bytes }: MapUse) => bytes / 4 ** halvings.get(name)!;
  let total = uses.reduce((sum, use) => sum + sizeOf(use), 0);
  while (total > budgetBytes) {
    const left = uses.filter(({ name }) => halvings.get(name)! < MOST_HALVINGS);
    if (left.length === 0) break;
    const spared = (use: MapUse) => use.texelsPerPixel / 2 ** halvings.get(use.name)!;
    const next = left.reduce((a, b) => (spared(b) > spared(a) ? b : a));
    total -= sizeOf(next);
    halvings.set(next.name, halvings.get(next.name)! + 1);
    total += sizeOf(next);
  }
  return halvings;
}

const LINEAR = Float32Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255));

/** A picture of half the size each way, each texel the mean of four; the first three channels in linear light if `srgb`. */
export function halved({ width, height, texels }: TextureImage, srgb: boolean): TextureImage & { texels: Uint8Array<ArrayBuffer> } {
  const [w, h] = [Math.max(1, width >> 1), Math.max(1, height >> 1)];
  const out = new Uint8Array(w * h * 4);
  for (let y = 0; y < h; y++) {
    const [upper, lower] = [y * 2 * width, Math.min(height - 1, y * 2 + 1) * width];
    for (let x = 0; x < w; x++) {
      const [left, right] = [x * 2, Math.min(width - 1, x * 2 + 1)];
      const [a, b, c, d] = [(upper + left) * 4, (upper + right) * 4, (lower + left) * 4, (lower + right) * 4];
      const o = (y * w + x) * 4;
      for (let k = 0; k < 4; k++)
        out[o + k] =
          srgb && k < 3
            ? codedByte((LINEAR[texels[a + k]!]! + LINEAR[texels[b + k]!]! + LINEAR[texels[c + k]!]! + LINEAR[texels[d + k]!]!) / 4)
            : Math.round((texels[a + k]! + texels[b + k]! + texels[c + k]! + texels[d + k]!) / 4);
    }
  }
  return { width: w, height: h, texels: out };
}
