import { Body, Observer, SearchRiseSet } from 'astronomy-engine';
import { describe, expect, it } from 'vitest';
import { dayCourse } from './day';
import { formatOffset, instantOf, offsetMinutes, timeZoneAt } from './local-time';

const PLACES = [
  { latitudeDeg: 57.2, longitudeDeg: -4.1 },
  { latitudeDeg: 48.86, longitudeDeg: 2.35 },
  { latitudeDeg: 1.35, longitudeDeg: 103.82 },
  { latitudeDeg: -33.87, longitudeDeg: 151.21 },
  { latitudeDeg: -54.8, longitudeDeg: -68.3 },
  { latitudeDeg: 61.22, longitudeDeg: -149.9 },
];

describe('the course of a day', () => {
  it('has sunrise and sunset where a search by astronomy-engine finds them, within two minutes', () => {
    for (const { latitudeDeg, longitudeDeg } of PLACES)
      for (const date of ['2026-03-20', '2026-06-21', '2026-10-16', '2026-12-21']) {
        const place = { latitudeDeg, longitudeDeg, elevationM: 0 };
        const { zone, sunrise, sunset } = dayCourse(date, place);
        const observer = new Observer(latitudeDeg, longitudeDeg, 0);
        const midnight = instantOf(date, 0, zone);
        for (const [minutes, way] of [[sunrise, 1], [sunset, -1]] as const) {
          const found = SearchRiseSet(Body.Sun, observer, way, midnight, 1);
          if (minutes === null) {
            expect(found === null || found.date.getTime() >= instantOf(date, 1439, zone).getTime()).toBe(true);
            continue;
          }
          expect(Math.abs(instantOf(date, minutes, zone).getTime() - found!.date.getTime())).toBeLessThan(120_000);
        } // prettier-ignore
      }
  });

  it('stands highest near 12:00 by the sun, later by summer time and by the place in its zone', () => {
    expect(Math.abs(dayCourse('2026-03-20', { latitudeDeg: 51.48, longitudeDeg: 0, elevationM: 0 }).noon - 727)).toBeLessThan(10);
    // Madrid keeps Central European summer time 3.7 degrees west of Greenwich: noon after 14:00.
    expect(dayCourse('2026-07-01', { latitudeDeg: 40.42, longitudeDeg: -3.7, elevationM: 650 }).noon).toBeGreaterThan(14 * 60);
  });
});

describe('clocks', () => {
  it('shift on the days that the tz database says (2026: last Sundays of March and October in Europe)', () => {
    const london = timeZoneAt(51.5, -0.1);
    expect(london).toBe('Europe/London');
    const before = offsetMinutes(london, new Date('2026-03-29T00:59:00Z'));
    const after = offsetMinutes(london, new Date('2026-03-29T01:00:00Z'));
    expect([before, after]).toEqual([0, 60]);
    expect(offsetMinutes(london, new Date('2026-10-25T01:00:00Z'))).toBe(0);
  });

  it('go the other way round the year in the south, and by odd steps in some places', () => {
    expect(offsetMinutes('Australia/Sydney', new Date('2026-01-15T00:00:00Z'))).toBe(660);
    expect(offsetMinutes('Australia/Sydney', new Date('2026-07-15T00:00:00Z'))).toBe(600);
    expect(offsetMinutes(timeZoneAt(27.72, 85.32), new Date('2026-07-15T00:00:00Z'))).toBe(345);
    expect(formatOffset(345)).toBe('UTC+5:45');
    expect(formatOffset(-210)).toBe('UTC−3:30');
    expect(formatOffset(0)).toBe('UTC');
  });

  it('are right for every hour of a whole year: clock to instant and back', () => {
    for (const zone of ['Europe/London', 'America/St_Johns', 'Australia/Lord_Howe', 'Asia/Kathmandu'])
      for (let day = 0; day < 365; day += 3) {
        const date = new Date(Date.UTC(2026, 0, 1 + day)).toISOString().slice(0, 10);
        for (const minutes of [0, 300, 720, 1380]) {
          const instant = instantOf(date, minutes, zone);
          const shown = new Date(instant.getTime() + offsetMinutes(zone, instant) * 60_000).toISOString();
          expect(shown.slice(0, 16)).toBe(`${date}T${String(minutes / 60).padStart(2, '0')}:00`);
        }
      }
  });
});
