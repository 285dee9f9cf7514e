import type { Shown } from '../model/shown';
import { WalkWay, type Stop, type Walk } from './walk';

/** What the project is seen under at a moment of a walk; what is absent is as it is without. */
export interface Under {
  shown?: Shown;
  condition?: string;
  option?: { source: string; option: string };
  /** Local time of day, minutes. */
  minutes?: number;
}

const told = ({ shown, condition, option, minutes }: Stop): boolean => [shown, condition, option, minutes].some((one) => one !== undefined);

/** Whether light or building change along a walk. */
export const isLit = ({ stops }: Pick<Walk, 'stops'>): boolean => stops.some(told);

/**
 * What is shown, condition, option and time of day along a walk. What a stop tells holds from there on until another tells otherwise. Within a shot
 * the time of day runs evenly from one stop that tells it to the next; `timeOf` gives the time that a condition brings, if it does.
 */
export class WalkLight {
  private readonly way: WalkWay;
  private readonly clocks: readonly (number | undefined)[];
  private readonly shots: readonly number[];

  constructor(
    private readonly walk: Walk,
    timeOf: (condition: string) => number | undefined,
  ) {
    this.way = new WalkWay(walk);
    this.clocks = walk.stops.map(({ minutes, condition }) => minutes ?? (condition === undefined ? undefined : timeOf(condition)));
    let shot = -1;
    this.shots = walk.stops.map(({ by = 'leg' }, i) => (i === 0 || by !== 'leg' ? ++shot : shot));
  }

  at(seconds: number): Under {
    const { stops } = this.walk;
    const here = Math.max(
      0,
      this.way.stopsAt.findLastIndex((at) => at <= seconds + 1e-6),
    );
    const before = stops.slice(0, here + 1);
    const shown = before.findLast((stop) => stop.shown !== undefined)?.shown;
    const condition = before.findLast((stop) => stop.condition !== undefined)?.condition;
    const option = before.findLast((stop) => stop.option !== undefined)?.option;
    const minutes = this.minutesAt(seconds, here);
    return {
      ...(shown && { shown }),
      ...(condition !== undefined && { condition }),
      ...(option && { option }),
      ...(minutes !== undefined && { minutes }),
    };
  }

  private minutesAt(seconds: number, here: number): number | undefined {
    const { clocks, shots, way } = this;
    const last = clocks.findLastIndex((clock, i) => i <= here && clock !== undefined);
    if (last < 0) return undefined;
    const from = clocks[last]!;
    const next = clocks.findIndex((clock, i) => i > here && shots[i] === shots[here] && clock !== undefined);
    if (next < 0 || shots[last] !== shots[here]) return from;
    const left = way.stopsAt[last]! + (this.walk.stops[last]!.holdS ?? 0);
    const share = (seconds - left) / Math.max(1e-6, way.stopsAt[next]! - left);
    return from + (clocks[next]! - from) * Math.min(1, Math.max(0, share));
  }
}
