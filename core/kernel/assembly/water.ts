/** The sun in waves too fine to be seen, and normals drawn from them (Cox & Munk 1954, "Measurement of the Roughness of the Sea Surface from Photographs of the Sun's Glitter"). */
import * as b from './bsdf';
import { SCENE_SUN_DIRECTION, SCENE_SUN_ON, SCENE_SUN_VERSINE } from './layout';
import * as m from './maths';
import { nextPair, second } from './sampler';
import * as s from './surface';

/**
 * How much of the sun's radiance the water that surface.ts has resolved throws back against a direction: the share of facets that mirror
 * it there, for slopes spread evenly to all sides.
 */
export function glitter(scene: usize, dx: f32, dy: f32, dz: f32): f32 {
  if (!load<i32>(scene, SCENE_SUN_ON) || s.gz < <f32>0.5) return 0;
  const sun = scene + SCENE_SUN_DIRECTION;
  const sx = load<f32>(sun),
    sy = load<f32>(sun, 4),
    sz = load<f32>(sun, 8);
  if (sz <= 0) return 0;
  m.normalise(sx - dx, sy - dy, sz - dz);
  const hx = m.rx,
    hy = m.ry,
    hz = m.rz;
  if (hz <= <f32>0.05 || s.nz <= <f32>0.05) return 0;
  const offX = hx / hz - s.nx / s.nz,
    offY = hy / hz - s.ny / s.nz;
  const variance = s.unseenSlopes;
  const spread = (offX * offX + offY * offY) / variance;
  if (spread > 12) return 0;
  const facets: f32 = Mathf.exp(-spread) / (<f32>3.14159265 * variance);
  const reflected = b.fresnel(max<f32>(<f32>1e-3, m.dot(hx, hy, hz, sx, sy, sz)), s.ior);
  return (reflected * facets * sunSolidAngle(scene)) / (4 * max<f32>(<f32>0.02, -dz) * hz * hz * hz * hz);
}

function sunSolidAngle(scene: usize): f32 {
  return <f32>6.2831853 * load<f32>(scene, SCENE_SUN_VERSINE);
}

/** Tilts the normal at hand by slopes too fine to be seen, drawn from their normal distribution; never away from the eye. */
export function ruffle(dx: f32, dy: f32, dz: f32): void {
  const u = max<f32>(<f32>1e-6, nextPair());
  const slope = Mathf.sqrt(-s.unseenSlopes * Mathf.log(u)),
    way: f32 = second * <f32>6.2831853;
  const up: f32 = s.gz > 0 ? 1 : -1;
  m.normalise(s.nx - slope * Mathf.cos(way) * up, s.ny - slope * Mathf.sin(way) * up, s.nz);
  if (-m.dot(dx, dy, dz, m.rx, m.ry, m.rz) <= <f32>0.01 || m.dot(m.rx, m.ry, m.rz, s.gx, s.gy, s.gz) <= <f32>0.05) return;
  s.tilt(m.rx, m.ry, m.rz);
}
