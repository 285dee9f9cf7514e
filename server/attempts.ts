/** Wrong tries by whom or what they were counted for; too many, and it has to wait for a while. */

const WAIT_MS = 60_000;
/** From then on those whose wait is over are forgotten. */
const MOST_KEPT = 1000;

export class Attempts {
  private readonly wrong = new Map<string, { count: number; until: number }>();

  constructor(
    private readonly most: number,
    private readonly now: () => number,
  ) {}

  mustWait(by: string): boolean {
    const tried = this.wrong.get(by);
    return tried !== undefined && tried.count >= this.most && tried.until > this.now();
  }

  /** Counts one try. Called before it is looked at, many at once are no more than many in turn. */
  count(by: string): void {
    const tried = this.wrong.get(by);
    if (this.wrong.size > MOST_KEPT) for (const [known, { until }] of this.wrong) if (until <= this.now()) this.wrong.delete(known);
    this.wrong.set(by, { count: tried && tried.until > this.now() ? tried.count + 1 : 1, until: this.now() + WAIT_MS });
  }

  /** The last try was right after all: it alone is not counted. */
  takeBack(by: string): void {
    const tried = this.wrong.get(by);
    if (tried) tried.count--;
  }

  forget(by: string): void {
    this.wrong.delete(by);
  }
}
