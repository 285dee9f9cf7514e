import type * as THREE from 'three';
import { cameraFrame, verticalFovRad } from '../../../core/camera/camera';
import { cross, dot, normalise } from '../../../core/geometry/vec3';
import type { Camera } from '../../../core/model/schema';

const LEAST_NEAR_M = 0.1;

/** Has a camera of WebGL's see what the kernel sees: in perspective, with the lens shifted where verticals are upright, or in parallel. */
export function poseCamera(to: THREE.PerspectiveCamera, camera: Camera): void {
  const { position, target, focalMm, parallelM } = camera;
  const frame = cameraFrame(camera, to.aspect);
  to.position.set(...position);
  if (camera.upright && parallelM === undefined) {
    const normal = normalise(cross(frame.up, frame.right));
    to.lookAt(position[0] + normal[0], position[1] + normal[1], position[2] + normal[2]);
  } else to.lookAt(...target);
  to.near = Math.max(LEAST_NEAR_M, camera.nearM ?? 0);
  to.fov = (verticalFovRad(focalMm, to.aspect) * 180) / Math.PI;
  to.updateProjectionMatrix();
  const { projectionMatrix } = to;
  if (parallelM !== undefined) {
    const [x, y] = [parallelM / 2, parallelM / 2 / to.aspect];
    projectionMatrix.makeOrthographic(-x, x, y, -y, to.near, to.far, to.coordinateSystem);
  } else projectionMatrix.elements[9] = projectionMatrix.elements[5] * dot(frame.forward, normalise(frame.up));
  to.projectionMatrixInverse.copy(projectionMatrix).invert();
  to.updateMatrixWorld();
}
