/** Shared WebAssembly memory with a first-fit allocator. The kernel itself never allocates; everything is placed here. */
const PAGE = 65536;
const RESERVED = PAGE;
/** Two cache lines, which processors fetch as a pair: a tree node lies in one pair. */
const ALIGN = 128;
export const MAX_PAGES = 65536;

export class KernelMemoryError extends Error {
  readonly code = 'kernel-out-of-memory';
}

export class KernelMemory {
  readonly memory: WebAssembly.Memory;
  private readonly sizes = new Map<number, number>();
  private free: { at: number; size: number }[] = [];
  private top = RESERVED;

  constructor(initialPages = 64, maximumPages = MAX_PAGES) {
    this.memory = new WebAssembly.Memory({ initial: initialPages, maximum: maximumPages, shared: true });
  }

  /** Zeroed block of at least `bytes`, 128-byte aligned. Throws KernelMemoryError when 4 GiB are used up. */
  allocate(bytes: number): number {
    const at = this.room(bytes);
    new Uint8Array(this.memory.buffer, at, this.sizes.get(at)).fill(0);
    return at;
  }

  /** A block as `allocate` gives it, with whatever was there before, for what is written whole anyway. */
  room(bytes: number): number {
    const size = Math.max(ALIGN, Math.ceil(bytes / ALIGN) * ALIGN);
    const hole = this.free.findIndex((h) => h.size >= size);
    let at: number;
    if (hole >= 0) {
      const h = this.free[hole]!;
      at = h.at;
      if (h.size === size) this.free.splice(hole, 1);
      else this.free[hole] = { at: h.at + size, size: h.size - size };
    } else {
      at = this.top;
      this.reach(at + size);
      this.top = at + size;
    }
    this.sizes.set(at, size);
    return at;
  }

  release(at: number): void {
    const size = this.sizes.get(at);
    if (size === undefined) return;
    this.sizes.delete(at);
    const index = this.free.findIndex((h) => h.at > at);
    const where = index < 0 ? this.free.length : index;
    this.free.splice(where, 0, { at, size });
    this.join(where);
    if (where > 0) this.join(where - 1);
  }

  get usedBytes(): number {
    let sum = 0;
    for (const size of this.sizes.values()) sum += size;
    return sum;
  }

  view(): DataView {
    return new DataView(this.memory.buffer);
  }

  floats(at: number, count: number): Float32Array {
    return new Float32Array(this.memory.buffer, at, count);
  }

  write(at: number, source: Float32Array | Uint32Array | Uint8Array): void {
    new Uint8Array(this.memory.buffer, at, source.byteLength).set(new Uint8Array(source.buffer, source.byteOffset, source.byteLength));
  }

  private join(index: number): void {
    const a = this.free[index];
    const b = this.free[index + 1];
    if (a && b && a.at + a.size === b.at) {
      a.size += b.size;
      this.free.splice(index + 1, 1);
    }
  }

  private reach(end: number): void {
    const have = this.memory.buffer.byteLength;
    if (end <= have) return;
    const pages = Math.ceil(Math.max(end - have, have / 4) / PAGE);
    try {
      this.memory.grow(pages);
    } catch {
      try {
        this.memory.grow(Math.ceil((end - have) / PAGE));
      } catch {
        throw new KernelMemoryError('The scene needs more memory than the light kernel may use (4 GiB).');
      }
    }
  }
}
