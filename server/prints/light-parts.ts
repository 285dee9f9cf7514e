import type { LightChannel } from './channel-files';

/** Parts of a picture's light, each denoised for itself (f32x4 a pixel), brought together again. */

/** Values that differ by no more than this have no noise. */
const EVEN = 1e-3;

/**
 * What shines by itself mostly has no noise: where it is even it stays as it was, and where there is none it gets none from beside it.
 * `plain` has a width of its own, and begins `left` in a row of what was denoised.
 */
export function keepEven(denoised: Float32Array, width: number, left: number, plain: Float32Array, plainWidth: number): void {
  const height = plain.length / 4 / plainWidth;
  const at = (x: number, y: number) => (Math.min(height - 1, Math.max(0, y)) * plainWidth + Math.min(plainWidth - 1, Math.max(0, x))) * 4;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < plainWidth; x++) {
      const [from, to] = [at(x, y), (y * width + left + x) * 4];
      const about = [at(x - 1, y), at(x + 1, y), at(x, y - 1), at(x, y + 1)];
      for (let c = 0; c < 3; c++) {
        const own = plain[from + c]!;
        if (own === 0 || about.every((p) => Math.abs(plain[p + c]! - own) <= EVEN * own)) denoised[to + c] = own;
      }
    }
}

/** Scales direct and indirect light so that all parts add up to the whole, which is no less than what shines by itself. */
export function addUp(whole: Float32Array, { direct, indirect, emission }: Record<LightChannel, Float32Array>): void {
  for (let i = 0; i < whole.length; i++) {
    if (i % 4 === 3) continue;
    const rest = Math.max(0, whole[i]! - emission[i]!);
    whole[i] = emission[i]! + rest;
    const parts = direct[i]! + indirect[i]!;
    direct[i] = parts > 0 ? (direct[i]! * rest) / parts : 0;
    indirect[i] = rest - direct[i]!;
  }
}
