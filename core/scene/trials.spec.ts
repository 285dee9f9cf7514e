import { describe, expect, it } from 'vitest';
import { dayCourse } from '../sky/day';
import { momentOf } from './moment';
import { trialsOf } from './trials';

const now = (date: string, minutes: number) => new Map<string, unknown>([['sun', { date, minutes }], ['site', { name: 'Marram Landing', latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 4, trueNorthDeg: 0, chosen: true }]]); // prettier-ignore

describe('trials of light', () => {
  it('go through a day from before sunrise to after sunset, with a ring around the hour that is nearest', () => {
    const entries = now('2026-10-16', 880);
    const moment = momentOf([], entries);
    const trials = trialsOf('hours', entries, moment);
    const { sunrise, sunset } = dayCourse('2026-10-16', moment.site);
    const minutes = trials.map(({ entries: after }) => (after.get('sun') as { minutes: number }).minutes);
    expect(minutes).toHaveLength(12);
    expect(minutes[0]).toBeLessThan(sunrise!);
    expect(minutes.at(-1)).toBeGreaterThan(sunset!);
    expect(trials.filter(({ isNow }) => isNow)).toHaveLength(1);
    expect(Math.abs(minutes[trials.findIndex(({ isNow }) => isNow)]! - 880)).toBeLessThan(40);
  });

  it('have a dozen frames of each kind, each with what takes it over', () => {
    const entries = now('2026-06-21', 720);
    for (const kind of ['hours', 'dates', 'skies'] as const) {
      const trials = trialsOf(kind, entries, momentOf([], entries));
      expect(new Set(trials.map(({ id }) => id)).size).toBe(12);
      expect(trials.filter(({ isNow }) => isNow)).toHaveLength(1);
      const differing = trials.filter(({ entries: after }) => JSON.stringify([...after]) !== JSON.stringify([...entries]));
      expect(differing.length).toBeGreaterThanOrEqual(11);
    }
  });

  it('take every other hour where the sun does not set', () => {
    const entries = new Map<string, unknown>([...now('2026-06-21', 720), ['site', { name: 'North', latitudeDeg: 78, longitudeDeg: 15, elevationM: 0, trueNorthDeg: 0, chosen: true }]]); // prettier-ignore
    expect(trialsOf('hours', entries, momentOf([], entries)).map(({ label }) => label)[1]).toBe('02:00');
  });
});
