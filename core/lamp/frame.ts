import { transformDirection, type Mat4 } from '../geometry/mat4';
import { cross, dot, normalise, type Vec3 } from '../geometry/vec3';

/** How a lamp lies: its axis, and the direction of its plane C0, at right angles to the axis. */
export interface LampFrame {
  axis: Vec3;
  right: Vec3;
}

/** Unturned, C0 is level; of a lamp that shines straight up or down it is along x. */
export function lampFrame(direction: Vec3, turnDeg: number): LampFrame {
  const axis = normalise(direction);
  const level: Vec3 = Math.abs(axis[2]) > 0.9999 ? [1, 0, 0] : normalise(cross(axis, [0, 0, 1]));
  const across = cross(axis, level);
  const [c, s] = [Math.cos((turnDeg * Math.PI) / 180), Math.sin((turnDeg * Math.PI) / 180)];
  return { axis, right: [0, 1, 2].map((k) => level[k]! * c + across[k]! * s) as unknown as Vec3 };
}

/** A direction and a turn after what the lamp belongs to was placed elsewhere: also its plane C0 goes with it. */
export function movedFrame(m: Mat4, direction: Vec3, turnDeg: number): { direction: Vec3; turnDeg: number } {
  const after = normalise(transformDirection(m, direction));
  const right = normalise(transformDirection(m, lampFrame(direction, turnDeg).right));
  const unturned = lampFrame(after, 0).right;
  return { direction: after, turnDeg: (Math.atan2(dot(cross(after, unturned), right), dot(unturned, right)) * 180) / Math.PI };
}
