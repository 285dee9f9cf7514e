import type { Camera } from '../model/schema';
import { cross, dot, length, normalise, scale, subtract, type Vec3 } from '../geometry/vec3';

/** Width of the 35 mm frame; focal lengths are told as if the picture were this wide. */
export const FRAME_WIDTH_MM = 36;

/** Horizontal angle of view of a 35 mm equivalent focal length: 2 atan(18 / f). */
export function horizontalFovRad(focalMm: number): number {
  return 2 * Math.atan(FRAME_WIDTH_MM / 2 / focalMm);
}

export function verticalFovRad(focalMm: number, aspect: number): number {
  return 2 * Math.atan(FRAME_WIDTH_MM / 2 / focalMm / aspect);
}

/** Steeper than this, verticals are not kept upright: the shift would be more than the picture is high several times. */
const LEAST_FLAT = 0.25;

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
  /** Thin lens: radius of its opening, and how far ahead what is sharp lies; metres. Without: all is sharp. */
  lens?: { radiusM: number; focusM: number } | undefined;
  /** What is nearer along the view is not seen, metres. */
  nearM?: number | undefined;
}

/** Where a place, told from the eye, is seen: -1 to 1 to the right and up. Undefined: behind the eye. Perspective only. */
export function placeIn({ forward, right, up }: CameraFrame, v: Vec3): [number, number] | undefined {
  const ahead = dot(v, normalise(cross(up, right)));
  if (ahead <= 0) return undefined;
  const along = (axis: Vec3) => (dot(v, axis) / ahead - dot(forward, axis)) / dot(axis, axis);
  return [along(right), along(up)];
}

/** Radius of the opening of a 35 mm camera's lens, metres. */
export const apertureRadiusM = (focalMm: number, fNumber: number): number => focalMm / 1000 / fNumber / 2;

/** Nearest and furthest place that is still sharp, metres from the lens, for a circle of confusion of a thousandth of the frame's width. */
export function sharpFrom(
  focalMm: number,
  fNumber: number,
  focusM: number,
  confusionMm = FRAME_WIDTH_MM / 1000,
): { nearM: number; farM: number } {
  // Hyperfocal distance, as in handbooks of photography: H = f^2 / (N c) + f.
  const hyperfocal = focalMm ** 2 / (fNumber * confusionMm) / 1000 + focalMm / 1000;
  const f = focalMm / 1000;
  const nearM = (focusM * (hyperfocal - f)) / (hyperfocal + focusM - 2 * f);
  return { nearM, farM: focusM >= hyperfocal ? Infinity : (focusM * (hyperfocal - f)) / (hyperfocal - focusM) };
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
  const frame = framed(camera, aspect);
  return camera.nearM === undefined ? frame : { ...frame, nearM: camera.nearM };
}

function framed(camera: Camera, aspect: number): CameraFrame {
  const towards = normalise(subtract(camera.target, camera.position));
  const level = cross(towards, [0, 0, 1]);
  const right = Math.hypot(...level) > 1e-6 ? normalise(level) : ([1, 0, 0] as Vec3);
  const { upright, parallelM, aperture } = camera;
  if (parallelM !== undefined) {
    const up = cross(right, towards);
    return {
      origin: camera.position,
      forward: towards,
      right: scale(right, parallelM / 2),
      up: scale(up, parallelM / 2 / aspect),
      projection: 'orthographic',
    };
  }
  const half = Math.tan(horizontalFovRad(camera.focalMm) / 2);
  const lens = aperture && {
    radiusM: apertureRadiusM(camera.focalMm, aperture.fNumber),
    focusM: aperture.focusM ?? length(subtract(camera.target, camera.position)),
  };
  const flat = Math.hypot(towards[0], towards[1]);
  // The picture stands upright, and the lens is shifted up or down to where one looks; straight up or down there is no upright.
  if (upright && flat > LEAST_FLAT) {
    const forward: Vec3 = [towards[0] / flat, towards[1] / flat, towards[2] / flat];
    return { origin: camera.position, forward, right: scale(right, half), up: [0, 0, half / aspect], ...(lens && { lens }) };
  }
  const up = cross(right, towards);
  return { origin: camera.position, forward: towards, right: scale(right, half), up: scale(up, half / aspect), ...(lens && { lens }) };
}
