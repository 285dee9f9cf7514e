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
