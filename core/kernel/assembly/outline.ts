/**
 * Outlines of faces with relief. A ray that comes in low near an edge, and has not met the relief by there, goes on into the
 * open: seen from the side a wall's joints are notches. Where another face covers the place that the ray was to meet, the wall
 * goes on, and the ray stays.
 */
import { MASK_OPAQUE } from './layout';
import * as relief from './relief';
import { clearance } from './shadow';
import * as s from './surface';
import { hitDistance, hitInstance, hitLane, hitPacket, hitU, hitV, putHit, traceAny, traceClosest } from './trace';

/** Where the ray goes on. */
export let x: f32 = 0;
export let y: f32 = 0;
export let z: f32 = 0;

/** Whether the ray that surface.ts has resolved last passes. */
export function passes(dx: f32, dy: f32, dz: f32): bool {
  return s.leavesTriangle && passesEdge(dx, dy, dz);
}

function passesEdge(dx: f32, dy: f32, dz: f32): bool {
  const distance = hitDistance,
    instance = hitInstance,
    packet = hitPacket,
    lane = hitLane,
    u = hitU,
    v = hitV;
  const gap = clearance(s.px, s.py, s.pz);
  let along: f32 = gap;
  let passed = false;
  if (!traceAny(s.px, s.py, s.pz, s.gx, s.gy, s.gz, relief.below() * <f32>1.02 + 2 * gap, MASK_OPAQUE)) {
    // From just under the face to the far side of what the ray went into; a lone face has none.
    const start = gap - relief.length;
    if (!traceClosest(s.px + dx * start - s.gx * gap, s.py + dy * start - s.gy * gap, s.pz + dz * start - s.gz * gap, dx, dy, dz, -start, MASK_OPAQUE))
      passed = true;
    else if (hitInstance == instance) {
      passed = true;
      along += start + hitDistance;
    }
  }
  putHit(distance, instance, packet, lane, u, v);
  x = s.px + dx * along;
  y = s.py + dy * along;
  z = s.pz + dz * along;
  return passed;
}
