import { instantOf, timeZoneAt } from './local-time';
import { sunPosition, type Place } from './sun';

/** The sun's way over a day as seen from a place. */
export interface SunPath {
  date: string;
  /** Every ten minutes that the sun is up: apparent altitude and azimuth from true north, degrees. */
  points: { azimuthDeg: number; altitudeDeg: number; minutes: number }[];
}

const STEP = 10;

export function sunPath(date: string, place: Place): SunPath {
  const zone = timeZoneAt(place.latitudeDeg, place.longitudeDeg);
  const points = Array.from({ length: 1440 / STEP }, (_, i) => {
    const minutes = i * STEP;
    const { altitudeDeg, azimuthDeg } = sunPosition(instantOf(date, minutes, zone), place);
    return { azimuthDeg, altitudeDeg, minutes };
  }).filter(({ altitudeDeg }) => altitudeDeg >= 0);
  return { date, points };
}

/** The longest, an even and the shortest day of a year, by the sun's declination, to a day. */
export const turningDays = (year: number): readonly string[] => [`${String(year)}-06-21`, `${String(year)}-03-20`, `${String(year)}-12-21`];

/** Hours that a path's sun stands above a horizon, which is given in even steps of azimuth from true north, degrees. */
export function hoursAbove({ points }: SunPath, horizonDeg: readonly number[]): number {
  const step = 360 / horizonDeg.length;
  const seen = points.filter(({ azimuthDeg, altitudeDeg }) => {
    const at = azimuthDeg / step;
    const i = Math.floor(at);
    const edge = horizonDeg[i % horizonDeg.length]! * (1 - (at - i)) + horizonDeg[(i + 1) % horizonDeg.length]! * (at - i);
    return altitudeDeg > edge;
  });
  return (seen.length * STEP) / 60;
}
