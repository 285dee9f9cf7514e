/** The triangle that a ray has hit, brought to the world. Results are left in maths.r*. */
import { INSTANCE_FORWARD, INSTANCE_INVERSE } from './layout';
import * as m from './maths';
import { hitLane, hitPacket } from './trace';

/** Object-space vector to world as a normal: multiplied by the transposed inverse. */
export function normalToWorld(p: usize, x: f32, y: f32, z: f32): void {
  const q = p + INSTANCE_INVERSE;
  m.normalise(
    load<f32>(q) * x + load<f32>(q, 16) * y + load<f32>(q, 32) * z,
    load<f32>(q, 4) * x + load<f32>(q, 20) * y + load<f32>(q, 36) * z,
    load<f32>(q, 8) * x + load<f32>(q, 24) * y + load<f32>(q, 40) * z,
  );
}

/** Object-space vector to world with its length; in maths.r*. */
export function vectorToWorld(p: usize, x: f32, y: f32, z: f32): void {
  const q = p + INSTANCE_FORWARD;
  m.set(
    load<f32>(q) * x + load<f32>(q, 4) * y + load<f32>(q, 8) * z,
    load<f32>(q, 16) * x + load<f32>(q, 20) * y + load<f32>(q, 24) * z,
    load<f32>(q, 32) * x + load<f32>(q, 36) * y + load<f32>(q, 40) * z,
  );
}

/** Object-space place to world; in maths.r*. */
export function pointToWorld(p: usize, x: f32, y: f32, z: f32): void {
  const q = p + INSTANCE_FORWARD;
  vectorToWorld(p, x, y, z);
  m.set(m.rx + load<f32>(q, 12), m.ry + load<f32>(q, 28), m.rz + load<f32>(q, 44));
}

// @ts-ignore: decorator
@inline
export function lane(offset: usize): f32 {
  return load<f32>(hitPacket + hitLane * 4 + offset);
}
