/** What is left of light on its way between two points: nothing behind opaque things, tinted by clear ones. */
import { BODY_SHEET, BODY_SOLID, MASK_CLEAR, MASK_OPAQUE, SCENE_HAS_CLEAR } from './layout';
import { depth, isFoggy } from './fog';
import { fresnel, layersReflectance, SMOOTH_ROUGHNESS } from './bsdf';
import * as m from './maths';
import * as s from './surface';
import { filmB, filmG, filmR, mirrorFilm } from './thin-film';
import { hitDistance, traceAny, traceClosest } from './trace';

const MAX_PANES: i32 = 24;

export let passR: f32 = 1;
export let passG: f32 = 1;
export let passB: f32 = 1;

/**
 * Straight line from a point over `limit` metres. False when nothing passes. Overwrites surface.ts. Light that paths find through solids,
 * bent as it is, is stopped by them here; of sun and lamps, which are too small to be found, solids let it through unbent.
 */
export function transmittance(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, limit: f32, throughSolids: bool): bool {
  passR = passG = passB = 1;
  if (isFoggy(scene)) {
    passR = passG = passB = Mathf.exp(-depth(scene, oz, dz, limit));
    if (passR < <f32>1e-5) return false;
  }
  if (traceAny(ox, oy, oz, dx, dy, dz, limit, MASK_OPAQUE)) return false;
  if (!load<i32>(scene, SCENE_HAS_CLEAR)) return true;
  /** By which the ray's beginning was lifted off the face before: a stretch like any other. */
  let lifted: f32 = 0;
  for (let k = 0; k < MAX_PANES; k++) {
    if (!traceClosest(ox, oy, oz, dx, dy, dz, limit, MASK_CLEAR)) return true;
    const travelled = hitDistance;
    s.resolveHit(scene, ox, oy, oz, dx, dy, dz);
    absorb(travelled + lifted);
    const open: f32 = 1 - s.opacity;
    const clear = s.transmission > 0 && s.roughness < SMOOTH_ROUGHNESS && (throughSolids || s.body != BODY_SOLID);
    if (clear) cross(dx, dy, dz, open);
    else {
      if (open <= <f32>0.001) return false;
      passR *= open;
      passG *= open;
      passB *= open;
    }
    if (max(passR, max(passG, passB)) < <f32>1e-4) return false;
    const gap = clearance(s.px, s.py, s.pz);
    ox = s.px + dx * gap;
    oy = s.py + dy * gap;
    oz = s.pz + dz * gap;
    limit -= travelled + gap;
    lifted = gap;
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

/** One face on a straight line, of which a share is open; what lies behind a face within a solid sees it under the outer angle, as a pane's do. */
function cross(dx: f32, dy: f32, dz: f32, open: f32): void {
  const cosine = -m.dot(dx, dy, dz, s.nx, s.ny, s.nz);
  meetFace(cosine, s.ior);
  const covered: f32 = 1 - open,
    share: f32 = s.clearShare() * (1 - layersOver(dx, dy, dz, cosine));
  passR *= open + covered * share * (1 - faceR) * surfaceTint(s.baseR);
  passG *= open + covered * share * (1 - faceG) * surfaceTint(s.baseG);
  passB *= open + covered * share * (1 - faceB) * surfaceTint(s.baseB);
}

/** Share of the light on a clear surface that varnish and fibres on it send back themselves. */
export function layersOver(dx: f32, dy: f32, dz: f32, cosine: f32): f32 {
  if (s.coat <= 0 && s.sheenR + s.sheenG + s.sheenB <= 0) return 0;
  return layersReflectance(cosine, m.dot(dx, dy, dz, s.coatX, s.coatY, s.coatZ));
}

/** What a clear surface mirrors of each colour, as found last. */
export let faceR: f32 = 0;
export let faceG: f32 = 0;
export let faceB: f32 = 0;

/**
 * Reflectance of one crossing, into an index that is `eta` times the one before. A sheet stands for both faces of a thin pane,
 * 2F/(1+F); a pane's rays go straight, so both its faces see the outer angle; a solid refracts, and is left with its real angle.
 */
export function meetFace(cosine: f32, eta: f32): void {
  const c = max<f32>(<f32>1e-4, min<f32>(1, abs(cosine)));
  const f = fresnel(c, eta);
  faceR = faceG = faceB = f;
  if (s.film > 0 && f < 1) {
    const f0 = fresnel(1, eta);
    mirrorFilm(c, s.filmIor, s.filmNm, f0, f0, f0);
    faceR += s.film * (filmR - f);
    faceG += s.film * (filmG - f);
    faceB += s.film * (filmB - f);
  }
  if (s.body != BODY_SHEET) return;
  faceR = (2 * faceR) / (1 + faceR);
  faceG = (2 * faceG) / (1 + faceG);
  faceB = (2 * faceB) / (1 + faceB);
}

/** The index that a path meets, over the one it comes from: only solids are left from within. */
// @ts-ignore: decorator
@inline
export function indexAhead(): f32 {
  return s.body == BODY_SOLID && s.backSide ? 1 / s.ior : s.ior;
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
  return <f32>5e-6 + <f32>1e-6 * max(abs(x), max(abs(y), abs(z)));
}
