/** What is left of light on its way between two points: nothing behind opaque things, tinted by clear ones. */
import { BODY_SHEET, BODY_SOLID, MASK_CLEAR, MASK_OPAQUE, SCENE_HAS_CLEAR } from './layout';
import { fresnel, SMOOTH_ROUGHNESS } from './bsdf';
import * as m from './maths';
import * as s from './surface';
import { hitDistance, traceAny, traceClosest } from './trace';

const MAX_PANES: i32 = 24;

export let passR: f32 = 1;
export let passG: f32 = 1;
export let passB: f32 = 1;

/** Straight line from a point over `limit` metres. False when nothing passes. Overwrites surface.ts. */
export function transmittance(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, limit: f32): bool {
  passR = passG = passB = 1;
  if (traceAny(ox, oy, oz, dx, dy, dz, limit, MASK_OPAQUE)) return false;
  if (!load<i32>(scene, SCENE_HAS_CLEAR)) return true;
  for (let k = 0; k < MAX_PANES; k++) {
    if (!traceClosest(ox, oy, oz, dx, dy, dz, limit, MASK_CLEAR)) return true;
    const travelled = hitDistance;
    s.resolveHit(scene, ox, oy, oz, dx, dy, dz);
    absorb(travelled);
    if (s.opacity >= <f32>0.999) {
      if (s.transmission <= 0 || s.roughness >= SMOOTH_ROUGHNESS) return false;
      cross(-m.dot(dx, dy, dz, s.nx, s.ny, s.nz));
    } else {
      const pass: f32 = 1 - s.opacity;
      passR *= pass;
      passG *= pass;
      passB *= pass;
    }
    if (max(passR, max(passG, passB)) < <f32>1e-4) return false;
    const gap = clearance(s.px, s.py, s.pz);
    ox = s.px + dx * gap;
    oy = s.py + dy * gap;
    oz = s.pz + dz * gap;
    limit -= travelled + gap;
    if (limit <= 0) return true;
  }
  return false;
}

/** Beer-Lambert over the stretch that was travelled inside the body just being left. */
function absorb(travelled: f32): void {
  if (!s.backSide || s.body == BODY_SHEET) return;
  passR *= Mathf.exp(-s.absorptionR * travelled);
  passG *= Mathf.exp(-s.absorptionG * travelled);
  passB *= Mathf.exp(-s.absorptionB * travelled);
}

function cross(cosine: f32): void {
  const f = interfaceReflectance(cosine);
  const pass: f32 = (1 - f) * s.transmission;
  passR *= pass * surfaceTint(s.baseR);
  passG *= pass * surfaceTint(s.baseG);
  passB *= pass * surfaceTint(s.baseB);
}

/**
 * Reflectance of one crossing. A sheet stands for both faces of a thin pane, 2F/(1+F); a pane's rays go straight, so both
 * its faces see the outer angle; a solid refracts, and is left with its real angle.
 */
export function interfaceReflectance(cosine: f32): f32 {
  const inward = s.body != BODY_SOLID || !s.backSide;
  const f = fresnel(max<f32>(<f32>1e-4, min<f32>(1, abs(cosine))), inward ? s.ior : 1 / s.ior);
  return s.body == BODY_SHEET ? (2 * f) / (1 + f) : f;
}

/** A body with two faces takes half of its tint at each. */
// @ts-ignore: decorator
@inline
export function surfaceTint(base: f32): f32 {
  return s.body == BODY_SHEET ? base : sqrt<f32>(base);
}

/** Distance that lifts a ray's origin off a surface, growing with the coordinates' own rounding. */
// @ts-ignore: decorator
@inline
export function clearance(x: f32, y: f32, z: f32): f32 {
  return <f32>5e-5 + <f32>4e-6 * max(abs(x), max(abs(y), abs(z)));
}
