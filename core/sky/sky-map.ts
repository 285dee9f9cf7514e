import { Atmosphere, hazeOf, refractionDeg, type Rgb } from './atmosphere';
import type { Clouds, CloudsInSky } from './clouds';
import type { Fog, FogInSky } from './fog';
import type { SkyPictureChoice } from './sky-picture';
import { directionOf, SUN_RADIUS_RAD } from './sun';

/** Everything above the scene: a radiance map without the sun, and the sun as a disc of its own. */
export interface Sky {
  width: number;
  height: number;
  /** Linear Rec.709 in cd/m2, row 0 at the zenith; column 0 faces +y, turning to +x. The lower half is the haze of the far ground. */
  radiance: Float32Array;
  sun: {
    /** Unit vector in model coordinates. */
    direction: [number, number, number];
    /** On a surface that faces the sun, outside any shadow; 0 when it is down. */
    normalLux: Rgb;
    /** Of its disc, cd/m2. */
    radiance: Rgb;
    radiusRad: number;
    /** Of the moon: towards the sun that lights it. */
    litFrom?: [number, number, number];
  };
  fog?: FogInSky;
  clouds?: CloudsInSky;
  /** What is seen in its place, lighting nothing; laid out as the sky. */
  backdrop?: { width: number; height: number; radiance: Float32Array };
  /** Stars are seen where nothing hides them. */
  stars?: boolean;
}

/** How a sky's day is made but for the sun's place. */
export interface Weather {
  /** Of the clear sky: how many times the haze of clean air (Linke); light that the far ground throws back, 0 to 1. */
  turbidity?: number | undefined;
  groundAlbedo?: number | undefined;
  fog?: Fog | undefined;
  clouds?: Clouds | undefined;
}

export interface SkyInput {
  /** True altitude, without refraction. */
  trueAltitudeDeg: number;
  azimuthDeg: number;
  trueNorthDeg: number;
  /** One of the general skies, 1 to 15, in place of the computed clear one; its level illuminance where that is set, lux. */
  general?: { type: number; lux?: number | undefined } | undefined;
  weather?: Weather | undefined;
  picture?: SkyPictureChoice | undefined;
  /** Where the moon stands, and the share of its disc that is lit. */
  moon?: { trueAltitudeDeg: number; azimuthDeg: number; litShare: number } | undefined;
  /** The moment for what drifts, seconds. */
  timeS?: number | undefined;
  width?: number;
  /** As it moves: from a fan of fewer directions, seven times as quickly. */
  coarse?: boolean;
}

const DEG = Math.PI / 180;
/** Luminance of a moonless, unlit night sky, about 2e-4 cd/m2 with airglow and stars (common value, from memory). */
export const NIGHT: Rgb = [1.6e-4, 1.9e-4, 2.6e-4];

/** Tables of an atmosphere take long; the last few are kept. */
const atmospheres = new Map<string, Atmosphere>();

function atmosphereOf({ turbidity, groundAlbedo }: Weather = {}): Atmosphere {
  const key = `${String(turbidity)} ${String(groundAlbedo)}`;
  const made = atmospheres.get(key) ?? new Atmosphere(turbidity === undefined ? undefined : hazeOf(turbidity), groundAlbedo);
  if (atmospheres.size > 4) atmospheres.clear();
  atmospheres.set(key, made);
  return made;
}

/** The clear sky of a moment. The atmosphere is evaluated on a coarse fan of directions and read off smoothly. */
export function clearSky({
  trueAltitudeDeg,
  azimuthDeg,
  trueNorthDeg,
  weather,
  coarse = false,
  width = coarse ? 128 : 256,
}: SkyInput): Sky {
  const clear = atmosphereOf(weather);
  const height = width / 2;
  const apparentAltitude = trueAltitudeDeg + refractionDeg(trueAltitudeDeg);
  const fan = tabulateFan(clear, trueAltitudeDeg * DEG, coarse ? COARSE : FINE);
  const radiance = new Float32Array(width * height * 3);
  const columns = columnsOf(fan, width, (azimuthDeg + trueNorthDeg) * DEG);
  const line = new Float32Array(fan.azimuths * 3);
  for (let y = 0; y < height; y++) {
    const elevation = (0.5 - (y + 0.5) / height) * Math.PI;
    readLine(fan, Math.max(0, elevation), farGround(elevation), line);
    for (let x = 0; x < width; x++) {
      const from = columns.first[x]! * 3;
      const share = columns.share[x]!;
      const o = (y * width + x) * 3;
      for (let c = 0; c < 3; c++) radiance[o + c] = line[from + c]! * (1 - share) + line[from + 3 + c]! * share;
    }
  }
  const direction = directionOf(apparentAltitude, azimuthDeg, trueNorthDeg);
  return { width, height, radiance, sun: sunDisc(direction, clear.directNormalLux(trueAltitudeDeg)) };
}

/** Below the horizon the far ground is shown as haze that darkens downwards: a share of what is at the horizon. */
export const farGround = (elevationRad: number): number => (elevationRad < 0 ? 0.55 + 0.45 * Math.exp(elevationRad / 0.03) : 1);

export function sunDisc(direction: [number, number, number], normalLux: Rgb, radiusRad = SUN_RADIUS_RAD): Sky['sun'] {
  const solidAngle = 2 * Math.PI * (1 - Math.cos(radiusRad));
  return { direction, normalLux, radiance: normalLux.map((e) => e / solidAngle) as Rgb, radiusRad };
}

/** The standard overcast sky of the CIE (Moon & Spencer 1942): L = Lz (1 + 2 sin g) / 3, for a zenith luminance in cd/m2. */
export function overcastSky(zenithCdM2: number, width = 128): Sky {
  const height = width / 2;
  const radiance = new Float32Array(width * height * 3);
  for (let y = 0; y < height; y++) {
    const elevation = (0.5 - (y + 0.5) / height) * Math.PI;
    const l = elevation > 0 ? (zenithCdM2 * (1 + 2 * Math.sin(elevation))) / 3 : 0;
    radiance.fill(l, y * width * 3, (y + 1) * width * 3);
  }
  return {
    width,
    height,
    radiance,
    sun: sunDisc([0, 0, 1], [0, 0, 0]),
  };
}

/** Illuminance (lux) of the sky alone on level ground, summed over the map. */
export function skyHorizontalLux(sky: Sky): number {
  let sum = 0;
  for (let y = 0; y < sky.height / 2; y++) {
    const top = (y / sky.height) * Math.PI;
    const bottom = ((y + 1) / sky.height) * Math.PI;
    const weight = ((Math.sin(bottom) ** 2 - Math.sin(top) ** 2) / 2) * ((2 * Math.PI) / sky.width);
    for (let x = 0; x < sky.width; x++) {
      const o = (y * sky.width + x) * 3;
      sum += weight * (0.2126 * sky.radiance[o]! + 0.7152 * sky.radiance[o + 1]! + 0.0722 * sky.radiance[o + 2]!);
    }
  }
  return sum;
}

/** Directions that the atmosphere is evaluated at, closer to each other near the horizon and the sun. */
interface Fan {
  elevations: number;
  azimuths: number;
  radiance: Float32Array;
}
const FINE = { elevations: 40, azimuths: 48 };
const COARSE = { elevations: 15, azimuths: 18 };

function tabulateFan(clear: Atmosphere, sunAltitudeRad: number, { elevations, azimuths }: typeof FINE): Fan {
  const radiance = new Float32Array(elevations * azimuths * 3);
  for (let e = 0; e < elevations; e++)
    for (let a = 0; a < azimuths; a++) {
      const elevation = (e / (elevations - 1)) ** 2 * (Math.PI / 2);
      const azimuth = (a / (azimuths - 1)) ** 1.5 * Math.PI;
      radiance.set(clear.skyRadiance(Math.max(0.0015, elevation), azimuth, sunAltitudeRad), (e * azimuths + a) * 3);
    }
  return { elevations, azimuths, radiance };
}

/** Between which two azimuths of a fan each column of a map lies: the first, and how far towards the next. */
function columnsOf({ azimuths }: Fan, width: number, sunBearing: number): { first: Int32Array; share: Float32Array } {
  const [first, share] = [new Int32Array(width), new Float32Array(width)];
  for (let x = 0; x < width; x++) {
    const azimuth = ((x + 0.5) / width) * 2 * Math.PI - sunBearing;
    const turned = Math.abs(((((azimuth + Math.PI) % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI)) - Math.PI);
    const a = Math.pow(turned / Math.PI, 1 / 1.5) * (azimuths - 1);
    first[x] = Math.min(azimuths - 2, Math.floor(a));
    share[x] = a - first[x]!;
  }
  return { first, share };
}

/** What a fan has all round at an elevation, and the night beside it, by a factor. */
function readLine({ elevations, azimuths, radiance }: Fan, elevation: number, factor: number, line: Float32Array): void {
  const e = Math.sqrt(elevation / (Math.PI / 2)) * (elevations - 1);
  const below = Math.min(elevations - 2, Math.floor(e));
  const share = e - below;
  const [low, high] = [below * azimuths * 3, (below + 1) * azimuths * 3];
  for (let i = 0; i < line.length; i++) line[i] = (radiance[low + i]! * (1 - share) + radiance[high + i]! * share + NIGHT[i % 3]!) * factor;
}

/** The same from all sides, cd/m2, without a sun. */
export function uniformSky(cdM2: number): Sky {
  const [width, height] = [16, 8];
  return {
    width,
    height,
    radiance: new Float32Array(width * height * 3).fill(cdM2),
    sun: { direction: [0, 0, 1], normalLux: [0, 0, 0], radiance: [0, 0, 0], radiusRad: SUN_RADIUS_RAD },
  };
}
