import { cameraFrame, type CameraFrame } from '../camera/camera';
import { IDENTITY } from '../geometry/mat4';
import type { Entries } from '../project/project';
import { compileScene } from '../scene/compile';
import type { Scene } from '../scene/scene';
import { SETTING, SettingModel } from '../setting/setting-model';
import type { ThingForm, ThingKind } from '../setting/thing-kind';

/** A thing of the library as one looks at it: by itself on plain ground, a little from above. */

const DECIDED: Entries = new Map([['ground', 'always']]);
/** Turned so that its front and its left are seen. */
const TURN_DEG = 28;
const FOCAL_MM = 50;
/** Width of the picture that lens lengths are told for, mm. */
const FRAME_MM = 36;
const MARGIN = 0.94;

/** `turnDeg`: how it stands; `decided`: what is settled about the scene. */
export function thingCardScene(kind: ThingKind, form: string, state?: string, turnDeg = TURN_DEG, decided = DECIDED): Scene {
  const thing = {
    name: kind.name, layer: 'card', of: [{ kind: kind.id, form, share: 1 }], pattern: { kind: 'one' as const }, turnDeg, size: 1, spread: 0, seed: 1,
    members: [0, 0, 0], ...(state !== undefined && { state }),
  }; // prettier-ignore
  const model = new SettingModel().modelOf([{ id: 'card', thing, at: IDENTITY }], new Map([[kind.id, kind]]))!;
  return compileScene([{ id: SETTING, model }], decided);
}

/** The whole of it is in the picture. */
export function thingCardCamera(
  { group }: Pick<ThingKind, 'group'>,
  { heightM, acrossM }: Pick<ThingForm, 'heightM' | 'acrossM'>,
  aspect: number,
): CameraFrame {
  // What closes the horizon is looked at from its middle.
  if (group === 'surround') return cameraFrame({ position: [0, 0, 20], target: [0, 100, 24], focalMm: 35 }, aspect);
  const half = (heightM / 2) * MARGIN;
  const away = (Math.max(half * aspect, (acrossM / 2) * MARGIN) * 2 * FOCAL_MM) / FRAME_MM + acrossM / 2;
  const position: [number, number, number] = [0, -away, Math.max(heightM / 2 + away * 0.12, 0.3)];
  return cameraFrame({ position, target: [0, 0, heightM / 2], focalMm: FOCAL_MM }, aspect);
}
