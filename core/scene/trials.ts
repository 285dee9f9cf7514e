import { clock } from '../project/clock';
import { effectOf, type Command } from '../project/command';
import { applyChanges, type Entries } from '../project/project';
import { inMonth } from '../sky/calendar';
import { dayCourse } from '../sky/day';
import { GENERAL_SKIES } from '../sky/general-sky';
import type { Moment } from './moment';

/** A dozen ways to light a view, to choose from on a contact sheet. */

export const TRIAL_KINDS = ['hours', 'dates', 'skies'] as const;
export type TrialKind = (typeof TRIAL_KINDS)[number];

export interface Trial {
  id: string;
  label: string;
  /** What takes it over. */
  command: Command;
  /** The project's decisions as they would be. */
  entries: Entries;
  /** It is what the project shows now. */
  isNow: boolean;
}

const FRAMES = 12;
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
/** Minutes before sunrise and after sunset that a day's sheet begins and ends. */
const TWILIGHT = 50;
const ROUND = 5;
/** Of the general skies: from overcast to clear. */
const SHOWN_SKIES = [1, 3, 5, 6, 7, 8, 10, 11, 12, 13, 15];

export function trialsOf(kind: TrialKind, entries: Entries, { sun, site, sky }: Moment): Trial[] {
  const trial = (label: string, command: Command, isNow: boolean): Trial => {
    const effect = effectOf(entries, command, '');
    return { id: label, label, command, isNow, entries: 'changes' in effect ? applyChanges(entries, effect.changes) : entries };
  };
  const at = (date: string, minutes: number, label: string, isNow: boolean) => trial(label, { type: 'set-sun', date, minutes }, isNow);
  if (kind === 'hours') {
    const times = hoursOf(sun.date, site);
    const nearest = times.reduce((a, b) => (Math.abs(b - sun.minutes) < Math.abs(a - sun.minutes) ? b : a));
    return times.map((minutes) => at(sun.date, minutes, clock(minutes), !sun.byHand && minutes === nearest));
  }
  if (kind === 'dates')
    return Array.from({ length: FRAMES }, (_, month) => {
      const date = inMonth(`${sun.date.slice(0, 8)}21`, month);
      return at(date, sun.minutes, `21 ${MONTHS[month]!}`, !sun.byHand && Number(sun.date.slice(5, 7)) - 1 === month);
    });
  return [
    trial('Clear, computed', { type: 'choose-sky', sky: null }, sky === undefined),
    ...SHOWN_SKIES.map((type) =>
      trial(GENERAL_SKIES[type - 1]!.name, { type: 'choose-sky', sky: { type } }, sky !== undefined && 'type' in sky && sky.type === type),
    ),
  ];
}

/** Even hours of a day from before sunrise to after sunset; every other hour where the sun does not rise or set. */
function hoursOf(date: string, site: Moment['site']): number[] {
  const { sunrise, sunset } = dayCourse(date, site);
  if (sunrise === null || sunset === null || sunset <= sunrise) return Array.from({ length: FRAMES }, (_, i) => i * 120);
  const [first, last] = [Math.max(0, sunrise - TWILIGHT), Math.min(1439, sunset + TWILIGHT)];
  return Array.from({ length: FRAMES }, (_, i) => Math.round((first + ((last - first) * i) / (FRAMES - 1)) / ROUND) * ROUND);
}
