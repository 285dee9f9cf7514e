import * as v from 'valibot';
import { cross, normalise, scale, subtract, type Vec3 } from '../geometry/vec3';
import type { Camera } from '../model/schema';
import { cameraFrame, type CameraFrame } from './camera';

/** How a picture is projected. A cube is six perspective pictures. */
export const projectionSchema = v.variant('kind', [
  v.strictObject({ kind: v.literal('perspective') }),
  /** Parallel; so many metres of what lies across the view are as wide as the picture. */
  v.strictObject({ kind: v.literal('orthographic'), widthM: v.pipe(v.number(), v.minValue(0.01), v.maxValue(100_000)) }),
  /** All round; with eyes so far apart, the left one's picture above the right one's. */
  v.strictObject({ kind: v.literal('equirectangular'), eyesM: v.optional(v.pipe(v.number(), v.minValue(0.01), v.maxValue(1))) }),
  v.strictObject({ kind: v.literal('cube') }),
]);
export type Projection = v.InferOutput<typeof projectionSchema>;
export const PERSPECTIVE: Projection = { kind: 'perspective' };

/** Between the eyes of most adults; common practice. */
export const EYES_M = 0.064;

/** The faces of a cube, as a strip of six shows them from left to right. */
export const CUBE_FACES = ['front', 'right', 'back', 'left', 'up', 'down'] as const;
export type CubeFace = (typeof CUBE_FACES)[number];

/** A part of a picture that has a camera of its own, and where it lies in the whole, pixels. */
export interface Plate {
  frame: CameraFrame;
  left: number;
  top: number;
  width: number;
  height: number;
}

/** Height over width that a projection asks for; undefined: any. */
export function fixedShape(projection: Projection): number | undefined {
  if (projection.kind === 'equirectangular') return projection.eyesM ? 1 : 0.5;
  return projection.kind === 'cube' ? 1 / 6 : undefined;
}

/** What a picture of a size is put together of: one plate, the two of a pair of eyes, or the six faces of a cube. */
export function platesOf(camera: Camera, projection: Projection, width: number, height: number): Plate[] {
  const whole = (frame: CameraFrame): Plate => ({ frame, left: 0, top: 0, width, height });
  switch (projection.kind) {
    case 'perspective':
      return [whole(cameraFrame(camera, width / height))];
    case 'orthographic':
      return [whole(parallelFrame(camera, projection.widthM, width / height))];
    case 'cube':
      return CUBE_FACES.map((face, i) => ({ frame: faceFrame(camera, face), left: i * height, top: 0, width: height, height }));
    case 'equirectangular': {
      const { eyesM } = projection;
      if (!eyesM) return [whole(roundFrame(camera, 0))];
      return [-1, 1].map((side, i) => ({
        frame: roundFrame(camera, (side * eyesM) / 2),
        left: 0,
        top: (i * height) / 2,
        width,
        height: height / 2,
      }));
    }
  }
}

function parallelFrame(camera: Camera, widthM: number, aspect: number): CameraFrame {
  const frame = cameraFrame(camera, aspect);
  const right = scale(normalise(frame.right), widthM / 2);
  return { ...frame, right, up: scale(normalise(frame.up), widthM / 2 / aspect), projection: 'orthographic' };
}

/** Level axes of length one, ahead being where the camera looks. */
function levelAxes({ position, target }: Camera): Pick<CameraFrame, 'forward' | 'right' | 'up'> {
  const [x, y] = subtract(target, position);
  const forward: Vec3 = Math.hypot(x, y) > 1e-9 ? normalise([x, y, 0]) : [0, 1, 0];
  const up: Vec3 = [0, 0, 1];
  return { forward, right: cross(forward, up), up };
}

/** All round about the camera, the horizon level, its middle where the camera looks. */
export function roundFrame(camera: Camera, eyeM: number): CameraFrame {
  return { origin: camera.position, ...levelAxes(camera), projection: 'equirectangular', eyeM };
}

/** A face with so many pixels of its neighbours all round it, and where it lies in that. */
export function faceWithMargin(camera: Camera, face: CubeFace, size: number, margin: number): { plate: Plate; region: { left: number; top: number; width: number; height: number } } {
  const whole = size + 2 * margin;
  const { right, up, ...frame } = faceFrame(camera, face);
  const wider = whole / size;
  return {
    plate: { frame: { ...frame, right: scale(right, wider), up: scale(up, wider) }, left: 0, top: 0, width: whole, height: whole },
    region: { left: margin, top: margin, width: size, height: size },
  };
} // prettier-ignore

/** A face of a cube about the camera: a square of a right angle each way. */
export function faceFrame(camera: Camera, face: CubeFace): CameraFrame {
  const { forward: f, right: r, up: u } = levelAxes(camera);
  const back = scale(f, -1);
  const axes: Record<CubeFace, readonly [forward: Vec3, right: Vec3, up: Vec3]> = {
    front: [f, r, u], right: [r, back, u], back: [back, scale(r, -1), u], left: [scale(r, -1), f, u],
    up: [u, r, back], down: [scale(u, -1), r, f],
  }; // prettier-ignore
  const [forward, right, up] = axes[face];
  return { origin: camera.position, forward, right, up };
}
