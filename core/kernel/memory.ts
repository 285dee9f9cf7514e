import { Blocks } from './blocks';

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
  private readonly blocks = new Blocks(RESERVED, ALIGN);

  constructor(initialPages = 64, maximumPages = MAX_PAGES) {
    this.memory = new WebAssembly.Memory({ initial: initialPages, maximum: maximumPages, shared: true });
  }

  /** Zeroed block of at least `bytes`, 128-byte aligned. Throws KernelMemoryError when 4 GiB are used up. */
  allocate(bytes: number): number {
    const at = this.room(bytes);
    new Uint8Array(this.memory.buffer, at, this.blocks.sizeOf(at)).fill(0);
    return at;
  }

  /** A block as `allocate` gives it, with whatever was there before, for what is written whole anyway. */
  room(bytes: number): number {
    return this.blocks.take(bytes, (end) => {
      this.reach(end);
    });
  }

  release(at: number): void {
    this.blocks.release(at);
  }

  get usedBytes(): number {
    return this.blocks.usedBytes;
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
