import { cameraFrame } from '../camera/camera';
import { DISSOLVE_S, WalkWay, type Walk } from '../camera/walk';
import { meteredEv, type Metering } from '../image/exposure';
import type { Development } from '../image/tone';
import type { MovingPicture } from './moving-picture';
import { automaticWhite } from './white';

type Reading = Pick<Development, 'ev100' | 'white'>;

/** Exposure and white along a walk, shot by shot: across a cut nothing adapts. */
export interface Exposures {
  shots: readonly ShotExposures[];
}

/** Of one shot, at moments that rise. */
export interface ShotExposures {
  fromS: number;
  /** It passes over into this shot, rather than being cut to it. */
  dissolves: boolean;
  readings: readonly (Reading & { at: number })[];
}

/** A small picture tells how light it is; its longer side, pixels. */
const METER_WIDTH = 208;
/** Where light changes more than this from one reading to the next, stops, it is read between them too, down to this distance. */
const MOST_STEP_EV = 0.5;
const LEAST_STEP_S = 0.2;
const MOST_READINGS = 240;
/** So long before and after a moment does it lean on its neighbours, as an eye adapts, seconds. */
const ADAPTS_S = 0.5;
const A_LITTLE_S = 1e-4;

/** Exposure and white at a moment, straight between the readings of its shot; while shots pass over into each other, of both. */
export function developmentAt({ shots }: Exposures, at: number): Reading {
  const next = shots.find(({ fromS, dissolves }) => dissolves && Math.abs(at - fromS) < DISSOLVE_S / 2);
  if (next) {
    const share = (at - next.fromS) / DISSOLVE_S + 0.5;
    return mixed([readingAt(shots[shots.indexOf(next) - 1]!.readings, at), 1 - share], [readingAt(next.readings, at), share]);
  }
  return readingAt((shots.findLast(({ fromS }) => fromS <= at) ?? shots[0]!).readings, at);
}

function readingAt(readings: ShotExposures['readings'], at: number): Reading {
  const i = readings.findLastIndex((reading) => reading.at <= at);
  const [a, b] = [readings[Math.max(0, i)]!, readings[Math.min(readings.length - 1, i + 1)]!];
  const share = b.at > a.at ? Math.min(1, Math.max(0, (at - a.at) / (b.at - a.at))) : 0;
  return mixed([a, 1 - share], [b, share]);
}

/** Developments by weights that add up to 1. */
function mixed(...parts: readonly (readonly [Reading, number])[]): Reading {
  const sum = (value: (d: Reading) => number) => parts.reduce((total, [d, weight]) => total + value(d) * weight, 0);
  return { ev100: sum((d) => d.ev100), white: { x: sum((d) => d.white.x), y: sum((d) => d.white.y), degree: sum((d) => d.white.degree) } };
}

/**
 * Measures how a walk has to be exposed, about once a second or as often as `everyS` says, and oftener where the light changes, so that
 * neither what lies in the sun nor a room is burnt out or black. Undefined when cancelled. The scene and its sky must be set, for each
 * moment by `light` where they change along the walk; camera and film are changed.
 */
export async function meterWalk(
  moving: MovingPicture,
  walk: Walk,
  aspect: number,
  { light, everyS = 1, metering = 'all' }: { light?: (seconds: number) => void; everyS?: number; metering?: Metering | undefined } = {},
): Promise<Exposures | undefined> {
  const way = new WalkWay(walk);
  const width = Math.round(METER_WIDTH * Math.min(1, aspect));
  const read = async (at: number): Promise<ShotExposures['readings'][number] | undefined> => {
    // Each reading stands for itself, so that it is the same whichever came before.
    moving.forget();
    light?.(at);
    const picture = await moving.frame(cameraFrame(way.cameraAt(at), aspect), aspect, { width });
    if (!picture) return undefined;
    const film = moving.pool.scene.filmData();
    return { at, ev100: meteredEv(picture.radiance, picture.width, metering), white: automaticWhite(picture.radiance, film) };
  };
  const begins = [{ at: 0, dissolves: false }, ...way.cuts];
  const shots: ShotExposures[] = [];
  let count = 0;
  for (const [i, { at: fromS, dissolves }] of begins.entries()) {
    const toS = Math.max(fromS, (begins[i + 1]?.at ?? way.seconds + A_LITTLE_S) - A_LITTLE_S);
    const steps = Math.max(1, Math.min(Math.ceil((toS - fromS) / everyS), Math.floor(MOST_READINGS / begins.length / 2)));
    const readings: ShotExposures['readings'][number][] = [];
    for (let k = 0; k <= steps; k++) {
      const reading = await read(fromS + ((toS - fromS) * k) / steps);
      if (!reading) return undefined;
      readings.push(reading);
    }
    count += readings.length;
    for (let k = 1; k < readings.length && count < MOST_READINGS;) {
      const [a, b] = [readings[k - 1]!, readings[k]!];
      if (Math.abs(a.ev100 - b.ev100) <= MOST_STEP_EV || b.at - a.at < 2 * LEAST_STEP_S) {
        k++;
        continue;
      }
      const between = await read((a.at + b.at) / 2);
      if (!between) return undefined;
      readings.splice(k, 0, between);
      count++;
    }
    shots.push({ fromS, dissolves, readings: adapted(readings) });
  }
  return { shots };
}

/** Each reading with what lies a little before and after it. */
const adapted = (readings: ShotExposures['readings']): ShotExposures['readings'] =>
  readings.map(({ at }) => ({
    at,
    ...mixed(...[-1, -0.5, 0, 0.5, 1].map((k) => [readingAt(readings, at + k * ADAPTS_S), 0.2] as const)),
  }));
