import * as L from '../kernel/assembly/layout';

/** A square of so many pixels a side is judged as one, and at least so much light counts as light, of the mean. */
const SQUARE = 8;
const LEAST = 0.02;
/** From the mean size of what is normally distributed about nothing to its standard deviation. */
const TO_DEVIATION = Math.sqrt(Math.PI / 2);

/**
 * Noise that is left in a film, as a share of its light: of a pixel's standard error, the mean over squares, from how the first half of
 * its samples differs from the second. `half`: luminance sums of the film after `samples / 2`.
 */
export function noiseLeft(film: Float32Array, half: Float32Array, width: number, samples: number): number {
  const floats = L.PIXEL_SIZE / 4;
  const height = film.length / floats / width;
  const light = (i: number) => 0.2126 * film[i * floats]! + 0.7152 * film[i * floats + 1]! + 0.0722 * film[i * floats + 2]!;
  let all = 0;
  for (let i = 0; i < half.length; i++) all += light(i);
  const least = (LEAST * all) / half.length;
  let sum = 0;
  let squares = 0;
  for (let y0 = 0; y0 < height; y0 += SQUARE)
    for (let x0 = 0; x0 < width; x0 += SQUARE) {
      let mean = 0;
      let apart = 0;
      let count = 0;
      for (let y = y0; y < Math.min(height, y0 + SQUARE); y++)
        for (let x = x0; x < Math.min(width, x0 + SQUARE); x++) {
          const i = y * width + x;
          const both = light(i);
          mean += both;
          apart += Math.abs(both - 2 * half[i]!);
          count++;
        }
      if (mean / count < least) continue;
      // The halves' sums differ by as much as the whole strays.
      sum += (TO_DEVIATION * apart) / mean;
      squares++;
    }
  return squares > 0 && samples > 1 ? sum / squares : Infinity;
}

/** Luminance sums of a film, to be compared with it later. */
export function lightOf(film: Float32Array): Float32Array {
  const floats = L.PIXEL_SIZE / 4;
  return Float32Array.from(
    { length: film.length / floats },
    (_, i) => 0.2126 * film[i * floats]! + 0.7152 * film[i * floats + 1]! + 0.0722 * film[i * floats + 2]!,
  );
}
