import type { Finish } from '../finish/finish';

/** The finishes that instances have. Each keeps its number as long as anything has it; numbers that come free are given again. */
export class AssignedFinishes {
  private readonly assigned = new Map<Finish, { number: number; users: number }>();
  private readonly free: number[] = [];

  /** Returns the finish's number. */
  assign(finish: Finish): number {
    let entry = this.assigned.get(finish);
    if (!entry) this.assigned.set(finish, (entry = { number: this.free.pop() ?? this.assigned.size, users: 0 }));
    entry.users++;
    return entry.number;
  }

  release(finish: Finish): void {
    const entry = this.assigned.get(finish)!;
    if (--entry.users > 0) return;
    this.assigned.delete(finish);
    this.free.push(entry.number);
  }

  /** Above every number. */
  get end(): number {
    return this.assigned.size + this.free.length;
  }

  *[Symbol.iterator](): Generator<[Finish, number]> {
    for (const [finish, { number }] of this.assigned) yield [finish, number];
  }
}
