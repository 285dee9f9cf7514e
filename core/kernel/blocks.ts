/** First-fit bookkeeping of blocks in a row of bytes; it owns no memory itself. */
export class Blocks {
  private readonly sizes = new Map<number, number>();
  private readonly free: { at: number; size: number }[] = [];
  private top: number;

  constructor(
    start: number,
    private readonly align: number,
  ) {
    this.top = start;
  }

  /** End of what has ever been taken. */
  get end(): number {
    return this.top;
  }

  get usedBytes(): number {
    let sum = 0;
    for (const size of this.sizes.values()) sum += size;
    return sum;
  }

  sizeOf(at: number): number {
    return this.sizes.get(at)!;
  }

  /** Where a block of at least `bytes` begins. `reach` is told how far the row has to go before it is taken, and may throw. */
  take(bytes: number, reach?: (end: number) => void): number {
    const size = Math.max(this.align, Math.ceil(bytes / this.align) * this.align);
    const hole = this.free.findIndex((h) => h.size >= size);
    let at: number;
    if (hole >= 0) {
      const h = this.free[hole]!;
      at = h.at;
      if (h.size === size) this.free.splice(hole, 1);
      else this.free[hole] = { at: h.at + size, size: h.size - size };
    } else {
      at = this.top;
      reach?.(at + size);
      this.top = at + size;
    }
    this.sizes.set(at, size);
    return at;
  }

  /** Gives a block back; what is none is left alone. */
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

  private join(index: number): void {
    const a = this.free[index];
    const b = this.free[index + 1];
    if (a && b && a.at + a.size === b.at) {
      a.size += b.size;
      this.free.splice(index + 1, 1);
    }
  }
}
