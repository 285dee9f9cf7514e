import type { Tensor } from './tensor-archive';

/** Output channels that the kernel sums at once, and places of a transformed tile. */
const BLOCK = 8;
const PLACES = 16;

type Numbers = Float32Array | Float64Array;

/** Three weights in a row or column become four (Lavin & Gray 2016, F(2x2, 3x3)): from `at`, `step` apart, to `to`, `out` apart. */
function transform(from: Numbers, at: number, step: number, into: Numbers, to: number, out: number): void {
  const [a, b, c] = [from[at]!, from[at + step]!, from[at + 2 * step]!];
  into[to] = a;
  into[to + out] = (a + b + c) / 2;
  into[to + 2 * out] = (a - b + c) / 2;
  into[to + 3 * out] = c;
}

/**
 * Weights of a 3x3 convolution as the kernel multiplies with them: [block of output channels][place][input channel][BLOCK].
 * `inputs` names for each channel that the kernel reads the one of the tensor, or none: those count nothing.
 */
export function transformWeights({ dims, data }: Tensor, inputs: readonly (number | undefined)[]): Float32Array {
  const [outputs = 0, channels = 0] = dims;
  const blocks = Math.ceil(outputs / BLOCK);
  const out = new Float32Array(blocks * BLOCK * PLACES * inputs.length);
  const rows = new Float64Array(12);
  for (let o = 0; o < outputs; o++)
    for (let i = 0; i < inputs.length; i++) {
      const channel = inputs[i];
      if (channel === undefined) continue;
      for (let row = 0; row < 3; row++) transform(data, ((o * channels + channel) * 3 + row) * 3, 1, rows, row * 4, 1);
      const place = inputs.length * BLOCK;
      const to = (Math.floor(o / BLOCK) * PLACES * inputs.length + i) * BLOCK + (o % BLOCK);
      for (let column = 0; column < 4; column++) transform(rows, column, 4, out, to + column * place, 4 * place);
    }
  return out;
}
