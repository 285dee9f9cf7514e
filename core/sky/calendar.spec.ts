import { describe, expect, it } from 'vitest';
import { addDays, addMinutes, inMonth } from './calendar';
import { skyPhase } from './day';

describe('the calendar', () => {
  it('steps days over months, years and leap days', () => {
    expect(addDays('2026-10-31', 1)).toBe('2026-11-01');
    expect(addDays('2026-12-31', 1)).toBe('2027-01-01');
    expect(addDays('2028-02-28', 1)).toBe('2028-02-29');
    expect(addDays('2026-03-01', -1)).toBe('2026-02-28');
  });

  it('steps hours through the night into the next day, and back', () => {
    expect(addMinutes({ date: '2026-10-16', minutes: 23 * 60 + 50 }, 15)).toEqual({ date: '2026-10-17', minutes: 5 });
    expect(addMinutes({ date: '2026-10-17', minutes: 5 }, -15)).toEqual({ date: '2026-10-16', minutes: 23 * 60 + 50 });
    expect(addMinutes({ date: '2026-10-16', minutes: 600 }, 60)).toEqual({ date: '2026-10-16', minutes: 660 });
    expect(addMinutes({ date: '2026-12-31', minutes: 1439 }, 1)).toEqual({ date: '2027-01-01', minutes: 0 });
  });

  it('keeps the day of the month where the month has it', () => {
    expect(inMonth('2026-10-16', 5)).toBe('2026-06-16');
    expect(inMonth('2026-10-31', 1)).toBe('2026-02-28');
    expect(inMonth('2028-10-31', 1)).toBe('2028-02-29');
    expect(inMonth('2026-10-31', 3)).toBe('2026-04-30');
  });
});

describe('phases of the day', () => {
  it('change where the almanac has them: at -0.833, -6, -12 and -18 degrees', () => {
    expect([10, -0.8, -0.9, -5.9, -6.1, -11.9, -12.1, -17.9, -18.1].map(skyPhase)).toEqual([
      'day', 'day', 'civil twilight', 'civil twilight', 'nautical twilight', 'nautical twilight',
      'astronomical twilight', 'astronomical twilight', 'night',
    ]); // prettier-ignore
  });
});
