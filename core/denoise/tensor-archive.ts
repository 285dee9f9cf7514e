/** A tensor by the lengths of its dimensions; of weights: output channel, input channel, row, column. */
export interface Tensor {
  dims: readonly number[];
  data: Float32Array;
}

const MAGIC = 0x41d7;

/**
 * Reads a tensor archive (TZA, the format in which the network's weights are published). Little-endian: u16 magic, u8 major and u8
 * minor version, u64 offset of the table; table: u32 count, then for each tensor u16 length of its name, name, u8 rank, u32 lengths
 * of its dimensions, a letter for each of them, u8 type ('h' half, 'f' float), u64 offset of its values. Throws what is no archive.
 */
export function readTensors(bytes: Uint8Array): Map<string, Tensor> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.byteLength < 12 || view.getUint16(0, true) !== MAGIC) throw new Error('These are no weights of a denoising network.');
  let at = Number(view.getBigUint64(4, true));
  const count = view.getUint32(at, true);
  at += 4;
  const tensors = new Map<string, Tensor>();
  for (let i = 0; i < count; i++) {
    const nameEnd = at + 2 + view.getUint16(at, true);
    const name = new TextDecoder().decode(bytes.subarray(at + 2, nameEnd));
    const rank = view.getUint8(nameEnd);
    const dims = Array.from({ length: rank }, (_, k) => view.getUint32(nameEnd + 1 + 4 * k, true));
    at = nameEnd + 1 + 5 * rank;
    const isHalf = view.getUint8(at) === 'h'.charCodeAt(0);
    const values = Number(view.getBigUint64(at + 1, true));
    at += 9;
    const length = dims.reduce((a, b) => a * b, 1);
    const data = new Float32Array(length);
    for (let k = 0; k < length; k++)
      data[k] = isHalf ? halfToNumber(view.getUint16(values + 2 * k, true)) : view.getFloat32(values + 4 * k, true);
    tensors.set(name, { dims, data });
  }
  return tensors;
}

const single = new Float32Array(1);
const singleBits = new Uint32Array(single.buffer);

/** IEEE 754 binary16: by the bits of a binary32, whose exponent is 112 more. */
function halfToNumber(bits: number): number {
  const exponent = (bits >> 10) & 31;
  const fraction = bits & 1023;
  if (exponent === 0) return (bits & 0x8000 ? -fraction : fraction) * 2 ** -24;
  singleBits[0] = ((bits & 0x8000) << 16) | ((exponent === 31 ? 255 : exponent + 112) << 23) | (fraction << 13);
  return single[0]!;
}
