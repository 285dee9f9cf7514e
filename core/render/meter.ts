import { cameraFrame } from '../camera/camera';
import { WalkWay, type Walk } from '../camera/walk';
import { automaticEv } from '../image/exposure';
import type { Denoiser } from '../denoise/denoiser';
import type { KernelPool } from '../kernel/pool';
import { renderGlance } from './glance';

/** EV100 along a walk, at even moments from its start to its end. */
export interface Exposures {
  seconds: number;
  ev100: readonly number[];
}

/** A glance tells how light it is; its longer side, pixels. */
const METER_WIDTH = 320;
const MOST_READINGS = 24;

/** Exposure at a moment, straight between the readings. */
export function evAt({ seconds, ev100 }: Exposures, at: number): number {
  const x = Math.min(1, Math.max(0, at / seconds)) * (ev100.length - 1);
  const i = Math.min(ev100.length - 2, Math.floor(x));
  return ev100.length === 1 ? ev100[0]! : ev100[i]! + (ev100[i + 1]! - ev100[i]!) * (x - i);
}

/**
 * Measures how a walk has to be exposed, about once a second, so that neither what lies in the sun nor a room is burnt out or
 * black; readings lean on their neighbours, as an eye adapts. Undefined when cancelled. The scene and its sky must be set; camera
 * and film are changed.
 */
export async function meterWalk(pool: KernelPool, denoiser: Denoiser, walk: Walk, aspect: number): Promise<Exposures | undefined> {
  const way = new WalkWay(walk);
  const last = Math.min(MOST_READINGS, Math.max(1, Math.ceil(walk.seconds)));
  const [width, height] = aspect >= 1 ? [METER_WIDTH, Math.round(METER_WIDTH / aspect)] : [Math.round(METER_WIDTH * aspect), METER_WIDTH];
  const read: number[] = [];
  for (let i = 0; i <= last; i++) {
    pool.scene.camera(cameraFrame(way.cameraAt((i / last) * walk.seconds), aspect));
    const glance = await renderGlance(pool, denoiser, width, height);
    if (!glance) return undefined;
    read.push(automaticEv(glance.radiance));
  }
  const ev100 = read.map((ev, i) => ((read[i - 1] ?? ev) + 2 * ev + (read[i + 1] ?? ev)) / 4);
  return { seconds: walk.seconds, ev100 };
}
