/** Edges rounded in shading, see core/geometry/edge-normals.ts. */
import { lane, normalToWorld, vectorToWorld } from './face';
import * as m from './maths';
import { hitU, hitV } from './trace';

let nx: f32 = 0;
let ny: f32 = 0;
let nz: f32 = 0;

/** Turns the normal towards that of the face beyond each sharp edge, half way at the edge itself. `w`: the share of the first corner; (fx, fy, fz): the normal as it was. Left in maths.r*. */
export function roundEdges(
  p: usize, edges: usize, radius: f32, w: f32, side: f32, fx: f32, fy: f32, fz: f32,
): void {
  vectorToWorld(p, lane(48), lane(64), lane(80));
  const ax = m.rx,
    ay = m.ry,
    az = m.rz;
  vectorToWorld(p, lane(96), lane(112), lane(128));
  const bx = m.rx,
    by = m.ry,
    bz = m.rz;
  const cx = ay * bz - az * by,
    cy = az * bx - ax * bz,
    cz = ax * by - ay * bx;
  const twice = sqrt<f32>(cx * cx + cy * cy + cz * cz);
  nx = fx;
  ny = fy;
  nz = fz;
  // The distance from a side is the share of the corner across, times the height over that side.
  bevel(p, edges, hitV * twice, ax, ay, az, radius, side, fx, fy, fz);
  bevel(p, edges + 12, w * twice, bx - ax, by - ay, bz - az, radius, side, fx, fy, fz);
  bevel(p, edges + 24, hitU * twice, bx, by, bz, radius, side, fx, fy, fz);
  m.normalise(nx, ny, nz);
}

function bevel(
  p: usize, edge: usize, reach: f32, ex: f32, ey: f32, ez: f32, radius: f32, side: f32, fx: f32, fy: f32, fz: f32,
): void {
  const x = load<f32>(edge),
    y = load<f32>(edge, 4),
    z = load<f32>(edge, 8);
  if (x == 0 && y == 0 && z == 0) return;
  const far = reach / sqrt<f32>(ex * ex + ey * ey + ez * ez);
  if (far >= radius) return;
  normalToWorld(p, x, y, z);
  const turn: f32 = 0.5 * (1 - far / radius);
  nx += (m.rx * side - fx) * turn;
  ny += (m.ry * side - fy) * turn;
  nz += (m.rz * side - fz) * turn;
}
