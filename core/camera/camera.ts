import type { Camera } from '../model/schema';
import { cross, normalise, scale, subtract, type Vec3 } from '../geometry/vec3';

/** Width of the 35 mm frame; focal lengths are told as if the picture were this wide. */
export const FRAME_WIDTH_MM = 36;

/** Horizontal angle of view of a 35 mm equivalent focal length: 2 atan(18 / f). */
export function horizontalFovRad(focalMm: number): number {
  return 2 * Math.atan(FRAME_WIDTH_MM / 2 / focalMm);
}

export function verticalFovRad(focalMm: number, aspect: number): number {
  return 2 * Math.atan(FRAME_WIDTH_MM / 2 / focalMm / aspect);
}

export interface CameraFrame {
  origin: Vec3;
  forward: Vec3;
  /** To the right edge of the picture, at unit distance. */
  right: Vec3;
  /** To its upper edge. */
  up: Vec3;
  /** What `right` and `up` are is told in `projectedFrame`; without: perspective. */
  projection?: 'perspective' | 'orthographic' | 'equirectangular';
  /** Metres to the right, of an eye of a pair that looks all round. */
  eyeM?: number;
}

/** The camera brought near a place so that something of this size about fills half the picture, looking the way it looks now. */
export function cameraOn(now: Camera, place: Vec3, sizeM: number): Camera {
  const away = now.position.map((v, i) => v - now.target[i]!) as [number, number, number];
  const length = Math.hypot(...away) || 1;
  const width = FRAME_WIDTH_MM / now.focalMm;
  const distance = Math.max(1.5, (sizeM * 2) / width);
  // From a little above, so that level things are seen at all.
  const lift = Math.max(away[2] / length, 0.25);
  const level = Math.sqrt(1 - lift * lift) / (Math.hypot(away[0], away[1]) / length || 1);
  const position: [number, number, number] = [
    place[0] + (away[0] / length) * level * distance, place[1] + (away[1] / length) * level * distance, place[2] + lift * distance,
  ]; // prettier-ignore
  return { position, target: [...place], focalMm: now.focalMm };
}

/** The camera's axes, scaled to the edges of a picture of an aspect ratio (width over height). */
export function cameraFrame(camera: Camera, aspect: number): CameraFrame {
  const forward = normalise(subtract(camera.target, camera.position));
  const level = cross(forward, [0, 0, 1]);
  const right = Math.hypot(...level) > 1e-6 ? normalise(level) : ([1, 0, 0] as Vec3);
  const up = cross(right, forward);
  const half = Math.tan(horizontalFovRad(camera.focalMm) / 2);
  return { origin: camera.position, forward, right: scale(right, half), up: scale(up, half / aspect) };
}
