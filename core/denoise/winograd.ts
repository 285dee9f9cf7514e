import type { Tensor } from './tensor-archive';

/** Output channels that the kernel sums at once, and places of a transformed tile. */
const BLOCK = 8;
const PLACES = 16;

/** One row or column of three weights, transformed (Lavin & Gray 2016, F(2x2, 3x3)). */
const transformed = (a: number, b: number, c: number): readonly number[] => [a, (a + b + c) / 2, (a - b + c) / 2, c];

/**
 * Weights of a 3x3 convolution as the kernel multiplies with them: [block of output channels][place][input channel][BLOCK].
 * `inputs` names for each channel that the kernel reads the one of the tensor, or none: those count nothing.
 */
export function transformWeights({ dims, data }: Tensor, inputs: readonly (number | undefined)[]): Float32Array {
  const [outputs = 0, channels = 0] = dims;
  const blocks = Math.ceil(outputs / BLOCK);
  const out = new Float32Array(blocks * BLOCK * PLACES * inputs.length);
  for (let o = 0; o < outputs; o++)
    for (const [i, channel] of inputs.entries()) {
      if (channel === undefined) continue;
      const g = (row: number, column: number) => data[((o * channels + channel) * 3 + row) * 3 + column]!;
      const rows = [0, 1, 2].map((row) => transformed(g(row, 0), g(row, 1), g(row, 2)));
      for (let column = 0; column < 4; column++)
        for (const [row, value] of transformed(rows[0]![column]!, rows[1]![column]!, rows[2]![column]!).entries())
          out[((Math.floor(o / BLOCK) * PLACES + row * 4 + column) * inputs.length + i) * BLOCK + (o % BLOCK)] = value;
    }
  return out;
}
