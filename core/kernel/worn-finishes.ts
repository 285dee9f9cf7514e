import type { Finish } from '../finish/finish';

/** The finishes that instances wear. Each keeps its number as long as anything wears it; numbers that come free are given again. */
export class WornFinishes {
  private readonly worn = new Map<Finish, { number: number; wearers: number }>();
  private readonly free: number[] = [];

  /** Returns the finish's number. */
  wear(finish: Finish): number {
    let entry = this.worn.get(finish);
    if (!entry) this.worn.set(finish, (entry = { number: this.free.pop() ?? this.worn.size, wearers: 0 }));
    entry.wearers++;
    return entry.number;
  }

  shed(finish: Finish): void {
    const entry = this.worn.get(finish)!;
    if (--entry.wearers > 0) return;
    this.worn.delete(finish);
    this.free.push(entry.number);
  }

  /** Above every number. */
  get end(): number {
    return this.worn.size + this.free.length;
  }

  *[Symbol.iterator](): Generator<[Finish, number]> {
    for (const [finish, { number }] of this.worn) yield [finish, number];
  }
}
