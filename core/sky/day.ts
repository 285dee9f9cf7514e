import { instantOf, offsetMinutes, timeZoneAt } from './local-time';
import { sunPosition, type Place } from './sun';

/** Sun below these true altitudes: civil, nautical, astronomical twilight, night. Sunrise counts the disc's upper edge and refraction. */
export const SUNRISE_ALTITUDE_DEG = -0.833;
export const TWILIGHT_DEG = { civil: -6, nautical: -12, astronomical: -18 } as const;

/** Name of the time of day by the sun's true altitude. */
export function skyPhase(altitudeDeg: number): string {
  if (altitudeDeg > SUNRISE_ALTITUDE_DEG) return 'day';
  if (altitudeDeg > TWILIGHT_DEG.civil) return 'civil twilight';
  if (altitudeDeg > TWILIGHT_DEG.nautical) return 'nautical twilight';
  return altitudeDeg > TWILIGHT_DEG.astronomical ? 'astronomical twilight' : 'night';
}

export interface DayCourse {
  zone: string;
  /** Minutes ahead of UTC at noon. */
  offsetMinutes: number;
  /** True altitude of the sun every `stepMinutes` from 00:00 to 24:00 local time. */
  altitudesDeg: number[];
  stepMinutes: number;
  /** Minutes of the local day, or null on days without it. */
  sunrise: number | null;
  sunset: number | null;
  noon: number;
}

const STEP = 10;

/** The course of the sun over one local day. */
export function dayCourse(date: string, place: Place): DayCourse {
  const zone = timeZoneAt(place.latitudeDeg, place.longitudeDeg);
  const altitude = (minutes: number) => sunPosition(instantOf(date, minutes, zone), place).trueAltitudeDeg;
  const altitudesDeg = Array.from({ length: 1440 / STEP + 1 }, (_, i) => altitude(i * STEP));
  const crossing = (rising: boolean): number | null => {
    for (let i = 1; i < altitudesDeg.length; i++) {
      const a = altitudesDeg[i - 1]! - SUNRISE_ALTITUDE_DEG;
      const b = altitudesDeg[i]! - SUNRISE_ALTITUDE_DEG;
      if (rising ? a < 0 && b >= 0 : a >= 0 && b < 0) return bisect((i - 1) * STEP, i * STEP, rising, altitude);
    }
    return null;
  };
  const top = altitudesDeg.indexOf(Math.max(...altitudesDeg));
  return {
    zone,
    offsetMinutes: offsetMinutes(zone, instantOf(date, 720, zone)),
    altitudesDeg,
    stepMinutes: STEP,
    sunrise: crossing(true),
    sunset: crossing(false),
    noon: top * STEP,
  };
}

function bisect(low: number, high: number, rising: boolean, altitude: (minutes: number) => number): number {
  let [a, b] = [low, high];
  while (b - a > 0.5) {
    const middle = (a + b) / 2;
    if (altitude(Math.round(middle)) >= SUNRISE_ALTITUDE_DEG === rising) b = middle;
    else a = middle;
  }
  return Math.round((a + b) / 2);
}
