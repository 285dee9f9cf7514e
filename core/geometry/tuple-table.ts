import { OWN_ARRAYS, type Arrays } from './scratch';

/** Gives the same number to the same tuple of integers, counting up from 0: open addressing over flat arrays. */
export class TupleTable {
  private readonly slots: Int32Array;
  private readonly keys: Int32Array;
  private readonly mask: number;
  count = 0;

  constructor(
    private readonly width: number,
    mostEntries: number,
    arrays: Arrays = OWN_ARRAYS,
  ) {
    let size = 16;
    while (size < mostEntries * 2) size *= 2;
    this.mask = size - 1;
    this.slots = arrays.ints(size).fill(-1);
    this.keys = arrays.ints(mostEntries * width);
  }

  /** Number of a tuple; `count` grows when it is new. */
  numberOf(tuple: Int32Array): number {
    let hash = 0x9e3779b9;
    for (let i = 0; i < this.width; i++) {
      hash = Math.imul(hash ^ tuple[i]!, 0x85ebca6b);
      hash ^= hash >>> 13;
    }
    for (let slot = hash & this.mask; ; slot = (slot + 1) & this.mask) {
      const found = this.slots[slot]!;
      if (found < 0) {
        this.slots[slot] = this.count;
        for (let i = 0, k = this.count * this.width; i < this.width; i++, k++) this.keys[k] = tuple[i]!;
        return this.count++;
      }
      if (this.holds(found, tuple)) return found;
    }
  }

  private holds(entry: number, tuple: Int32Array): boolean {
    for (let i = 0, k = entry * this.width; i < this.width; i++, k++) if (this.keys[k] !== tuple[i]) return false;
    return true;
  }
}
