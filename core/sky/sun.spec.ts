import { describe, expect, it } from 'vitest';
import { getPosition } from 'suncalc';
import { Body, Equator, Observer } from 'astronomy-engine';
import { dayCourse } from './day';
import { formatOffset, instantOf, offsetMinutes, timeZoneAt } from './local-time';
import { directionOf, sunPosition } from './sun';

describe('the sun', () => {
  it('stands where the NREL SPA worked example says (Reda & Andreas 2003; values from memory), to 0.01 degrees', () => {
    const p = sunPosition(new Date('2003-10-17T19:30:30Z'), { latitudeDeg: 39.742476, longitudeDeg: -105.1786, elevationM: 1830.14 });
    expect(Math.abs(90 - p.altitudeDeg - 50.11162)).toBeLessThan(0.01);
    expect(Math.abs(p.azimuthDeg - 194.34024)).toBeLessThan(0.01);
  });

  it('has the apparent place of Meeus, Astronomical Algorithms, example 25.a (from memory): RA 198.38, declination -7.785', () => {
    // 0h dynamical time is 59 s before 0h UT in 1992; the geocentre's parallax is under 0.003 degrees.
    const e = Equator(Body.Sun, new Date('1992-10-12T23:59:01Z'), new Observer(0, 0, 0), true, true);
    expect(Math.abs(e.ra * 15 - 198.38)).toBeLessThan(0.01);
    expect(Math.abs(e.dec + 7.785)).toBeLessThan(0.01);
  });

  it('agrees with an independent rough formula (suncalc) to 0.3 degrees all over the earth and the year', () => {
    for (const latitudeDeg of [-65, -33, 0, 25, 57, 70])
      for (const longitudeDeg of [-150, 0, 139])
        for (const month of [1, 4, 6, 9, 12])
          for (const hour of [2, 9, 15, 21]) {
            const time = new Date(Date.UTC(2026, month - 1, 21, hour));
            const ours = sunPosition(time, { latitudeDeg, longitudeDeg, elevationM: 0 });
            const other = getPosition(time, latitudeDeg, longitudeDeg);
            // Below the horizon it still refracts, which means nothing there.
            if (ours.trueAltitudeDeg > 2) expect(Math.abs(ours.altitudeDeg - other.altitude)).toBeLessThan(0.3);
          }
  });

  it('casts a noon shadow of height over tan(altitude) along the direction given', () => {
    const d = directionOf(40, 180);
    const shadow = (3 / d[2]) * Math.hypot(d[0], d[1]);
    expect(shadow).toBeCloseTo(3 / Math.tan((40 * Math.PI) / 180), 6);
    expect(d[1]).toBeLessThan(0);
  });

  it('turns with true north', () => {
    // True north lies 90 degrees clockwise of the model's y: the model's x. A sun in the true south then stands at -x.
    expect(directionOf(0, 180, 90)[0]).toBeCloseTo(-1, 6);
  });
});

describe('local time', () => {
  it('finds zones and their offsets, daylight saving included', () => {
    expect(timeZoneAt(57.2, -4.1)).toBe('Europe/London');
    expect(offsetMinutes('Europe/London', new Date('2026-07-01T12:00:00Z'))).toBe(60);
    expect(offsetMinutes('Australia/Adelaide', new Date('2026-01-01T00:00:00Z'))).toBe(630);
    expect(formatOffset(-210)).toBe('UTC−3:30');
  });

  it('reads the clock right on the days on which it changes (Berlin, 2026-03-29 and 2026-10-25)', () => {
    const iso = (date: string, minutes: number) => instantOf(date, minutes, 'Europe/Berlin').toISOString().slice(0, 16);
    expect(iso('2026-03-29', 60)).toBe('2026-03-29T00:00');
    expect(iso('2026-03-29', 240)).toBe('2026-03-29T02:00');
    expect(iso('2026-10-25', 60)).toBe('2026-10-24T23:00');
    expect(iso('2026-10-25', 240)).toBe('2026-10-25T03:00');
    // 02:30 does not exist in spring and comes twice in autumn.
    expect(iso('2026-03-29', 150)).toBe('2026-03-29T01:30');
    expect(iso('2026-10-25', 150)).toBe('2026-10-25T00:30');
  });

  it('knows sunrise, sunset, polar day and polar night', () => {
    const inverness = dayCourse('2026-10-16', { latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 4 });
    // An independent almanac rule: day length at this latitude and date is 10 h 20 min within a few minutes.
    expect(inverness.sunset! - inverness.sunrise!).toBeGreaterThan(610);
    expect(inverness.sunset! - inverness.sunrise!).toBeLessThan(630);
    expect(dayCourse('2026-06-21', { latitudeDeg: 69.65, longitudeDeg: 18.96, elevationM: 0 }).sunset).toBeNull();
    expect(Math.max(...dayCourse('2026-12-21', { latitudeDeg: 69.65, longitudeDeg: 18.96, elevationM: 0 }).altitudesDeg)).toBeLessThan(0);
  });
});
