import { existsSync, readFileSync } from 'node:fs';
import { writeWhole } from '../whole-file';

/** Numbers that are kept beside a print while it is made, so that a killed one goes on: marks that say what of, then floats. */

/** The file is whole, or as it was before. */
export async function keepFloats(file: string, marks: readonly number[], floats: Float32Array): Promise<void> {
  const head = Float64Array.from([marks.length, ...marks]);
  const out = new Uint8Array(head.byteLength + floats.byteLength);
  out.set(new Uint8Array(head.buffer));
  out.set(new Uint8Array(floats.buffer, floats.byteOffset, floats.byteLength), head.byteLength);
  await writeWhole(file, out);
}

/** What is kept; undefined: nothing, or not so many floats. */
export function readFloats(file: string, count: number): { marks: number[]; floats: Float32Array } | undefined {
  if (!existsSync(file)) return undefined;
  const bytes = readFileSync(file);
  const marks = bytes.length >= 8 ? bytes.readDoubleLE(0) : NaN;
  if (bytes.length !== 8 * (marks + 1) + count * 4) return undefined;
  return {
    marks: Array.from({ length: marks }, (_, i) => bytes.readDoubleLE(8 * (i + 1))),
    floats: new Float32Array(bytes.buffer.slice(bytes.byteOffset + 8 * (marks + 1), bytes.byteOffset + bytes.length)),
  };
}
