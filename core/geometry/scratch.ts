/** Makes zeroed arrays. */
export interface Arrays {
  floats(length: number): Float32Array;
  doubles(length: number): Float64Array;
  ints(length: number): Int32Array;
  bytes(length: number): Uint8Array;
}

/** Arrays of their own, for as long as somebody holds them. */
export const OWN_ARRAYS: Arrays = {
  floats: (length) => new Float32Array(length),
  doubles: (length) => new Float64Array(length),
  ints: (length) => new Int32Array(length),
  bytes: (length) => new Uint8Array(length),
};

const FIRST_BYTES = 1024 * 1024;
/** What a very large mesh has needed is not kept. */
const MOST_BYTES_KEPT = 64 * 1024 * 1024;

/**
 * Arrays that all go at once, in memory that is taken again: to make and drop an array of a few hundred numbers takes longer than to
 * fill it. They hold until `clear`.
 */
export class Scratch implements Arrays {
  private buffer = new ArrayBuffer(FIRST_BYTES);
  private used = 0;

  /** Ends the life of all arrays that were given. */
  clear(): void {
    if (this.used > this.buffer.byteLength) this.buffer = new ArrayBuffer(Math.min(MOST_BYTES_KEPT, this.used * 2));
    this.used = 0;
  }

  floats(length: number): Float32Array {
    const at = this.take(length * 4);
    return at < 0 ? OWN_ARRAYS.floats(length) : new Float32Array(this.buffer, at, length).fill(0);
  }

  doubles(length: number): Float64Array {
    const at = this.take(length * 8);
    return at < 0 ? OWN_ARRAYS.doubles(length) : new Float64Array(this.buffer, at, length).fill(0);
  }

  ints(length: number): Int32Array {
    const at = this.take(length * 4);
    return at < 0 ? OWN_ARRAYS.ints(length) : new Int32Array(this.buffer, at, length).fill(0);
  }

  bytes(length: number): Uint8Array {
    const at = this.take(length);
    return at < 0 ? OWN_ARRAYS.bytes(length) : new Uint8Array(this.buffer, at, length).fill(0);
  }

  /** Where so many bytes lie, or -1 where there is no room until the next `clear` has made some. */
  private take(bytes: number): number {
    const at = this.used;
    this.used += Math.ceil(bytes / 8) * 8;
    return this.used <= this.buffer.byteLength ? at : -1;
  }
}
