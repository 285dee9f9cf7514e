import { Body, Equator, Horizon, Illumination, Observer } from 'astronomy-engine';

export interface Place {
  latitudeDeg: number;
  longitudeDeg: number;
  elevationM: number;
}

/** Where a body of the sky stands. Azimuth clockwise from true north. */
export interface SkyPosition {
  /** With atmospheric refraction. */
  altitudeDeg: number;
  azimuthDeg: number;
  /** Without refraction. */
  trueAltitudeDeg: number;
}

function positionOf(body: Body, time: Date, place: Place): SkyPosition {
  const observer = new Observer(place.latitudeDeg, place.longitudeDeg, place.elevationM);
  const equator = Equator(body, time, observer, true, true);
  const seen = Horizon(time, observer, equator.ra, equator.dec, 'normal');
  const geometric = Horizon(time, observer, equator.ra, equator.dec);
  return { altitudeDeg: seen.altitude, azimuthDeg: seen.azimuth, trueAltitudeDeg: geometric.altitude };
}

/** Topocentric position of the sun's centre, to 0.01 degrees. */
export const sunPosition = (time: Date, place: Place): SkyPosition => positionOf(Body.Sun, time, place);

/** Topocentric position of the moon and the lit share of its disc. */
export function moonPosition(time: Date, place: Place): SkyPosition & { litShare: number } {
  return { ...positionOf(Body.Moon, time, place), litShare: Illumination(Body.Moon, time).phase_fraction };
}

/** Angular radius of the sun's disc (mean of the year: 0.533 degrees across). */
export const SUN_RADIUS_RAD = (0.533 / 2) * (Math.PI / 180);

/**
 * Unit vector towards a position of the sky in model coordinates (x east, y north, z up) of a model whose y axis points
 * `trueNorthDeg` anticlockwise of true north, that is, true north lies `trueNorthDeg` clockwise of y.
 */
export function directionOf(altitudeDeg: number, azimuthDeg: number, trueNorthDeg = 0): [number, number, number] {
  const altitude = (altitudeDeg * Math.PI) / 180;
  const bearing = ((azimuthDeg + trueNorthDeg) * Math.PI) / 180;
  return [Math.cos(altitude) * Math.sin(bearing), Math.cos(altitude) * Math.cos(bearing), Math.sin(altitude)];
}
