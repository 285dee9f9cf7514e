import { describe, expect, it } from 'vitest';
import { hoursAbove, sunPath, turningDays } from './sun-path';

const NORTH = { latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 0 };

describe('the sun’s path', () => {
  it('is highest at noon, at 90 degrees less latitude and declination (spherical astronomy; obliquity 23.44 degrees)', () => {
    const [long, even, short] = turningDays(2026).map((date) => Math.max(...sunPath(date, NORTH).points.map((p) => p.altitudeDeg)));
    expect(long).toBeCloseTo(90 - 57.2 + 23.44, 0);
    expect(even).toBeCloseTo(90 - 57.2, 0);
    expect(short).toBeCloseTo(90 - 57.2 - 23.44, 0);
  });

  it('rises due east and sets due west when day and night are even', () => {
    const { points } = sunPath('2026-03-20', NORTH);
    expect(Math.abs(points[0]!.azimuthDeg - 90)).toBeLessThan(4);
    expect(Math.abs(points.at(-1)!.azimuthDeg - 270)).toBeLessThan(4);
  });

  it('is counted above what stands in its way', () => {
    const path = sunPath('2026-03-20', NORTH);
    const open = hoursAbove(path, new Array<number>(72).fill(0));
    expect(open).toBeGreaterThan(11.7);
    expect(open).toBeLessThan(12.5);
    // A wall that hides all of the west leaves the morning.
    const walled = hoursAbove(
      path,
      Array.from({ length: 72 }, (_, i) => (i * 5 > 180 ? 90 : 0)),
    );
    expect(Math.abs(walled / open - 0.5)).toBeLessThan(0.03);
    expect(hoursAbove(path, new Array<number>(72).fill(90))).toBe(0);
  });
});
