/**
 * Fog that thins with height: optical depth of a straight way and its inverse (closed forms for an exponential layer; Wenzel 2007), and
 * the phase function of Henyey & Greenstein 1941, sampled exactly.
 */
import { SCENE_FOG, SCENE_FOG_ALBEDO, SCENE_FOG_BASE, SCENE_FOG_FALLOFF, SCENE_FOG_GLOW, SCENE_SUN_DIRECTION, SCENE_SUN_ON, SCENE_SUN_RADIANCE, SCENE_SUN_VERSINE } from './layout';
import * as m from './maths';

const PI: f32 = 3.14159265;
/** How far forward droplets of fog throw light. */
const FORWARD: f32 = 0.7;

// @ts-ignore: decorator
@inline
export function isFoggy(scene: usize): bool {
  return load<f32>(scene, SCENE_FOG) > 0;
}

/** Fog far below its base is no thicker than this many times what it is there, as a power of e. */
const MOST: f32 = 60;

/** How much thicker than at its base fog is at a height. */
// @ts-ignore: decorator
@inline
function thickness(scene: usize, z: f32): f32 {
  return Mathf.exp(min<f32>(MOST, -load<f32>(scene, SCENE_FOG_FALLOFF) * (z - load<f32>(scene, SCENE_FOG_BASE))));
}

/** Optical depth of `length` metres from a height, upwards by `dz` a metre. */
export function depth(scene: usize, z: f32, dz: f32, length: f32): f32 {
  const fog = load<f32>(scene, SCENE_FOG),
    slope = load<f32>(scene, SCENE_FOG_FALLOFF) * dz,
    here = thickness(scene, z);
  const steps = slope * length;
  if (abs(steps) < <f32>1e-4) return fog * here * length;
  // From afar one end underflows where the way between them overflows: each end is looked at by itself.
  if (abs(steps) > 1) return (fog * (here - thickness(scene, z + dz * length))) / slope;
  return (fog * here * (1 - Mathf.exp(-steps))) / slope;
}

/** Metres after which an optical depth is reached; that it is reached must be known. */
export function lengthOf(scene: usize, z: f32, dz: f32, opticalDepth: f32): f32 {
  const falloff = load<f32>(scene, SCENE_FOG_FALLOFF),
    slope = falloff * dz,
    here = thickness(scene, z),
    share = (slope * opticalDepth) / load<f32>(scene, SCENE_FOG);
  if (abs(share) < <f32>1e-4 * here) return opticalDepth / (load<f32>(scene, SCENE_FOG) * here);
  if (share > <f32>-0.5 * here) return -Mathf.log(max<f32>(<f32>1e-30, 1 - share / here)) / slope;
  return (load<f32>(scene, SCENE_FOG_BASE) - Mathf.log(here - share) / falloff - z) / dz;
}

/** 1/sr for light that is turned by an angle of this cosine. */
export function phase(cosine: f32): f32 {
  const d: f32 = 1 + FORWARD * FORWARD - 2 * FORWARD * cosine;
  return (1 - FORWARD * FORWARD) / (4 * PI * d * sqrt<f32>(d));
}

/** Cosine of the angle that light is turned by, for a random number. */
export function sampleTurn(u: f32): f32 {
  const t: f32 = (1 - FORWARD * FORWARD) / (1 - FORWARD + 2 * FORWARD * u);
  return max<f32>(-1, min<f32>(1, (1 + FORWARD * FORWARD - t * t) / (2 * FORWARD)));
}

export let veilR: f32 = 0;
export let veilG: f32 = 0;
export let veilB: f32 = 0;
export let left: f32 = 1;

/** What of a picture is left after a stretch, and the light that comes to it, by the sun scattered once and the glow: veil*. For pictures that move. */
export function veil(scene: usize, z: f32, dx: f32, dy: f32, dz: f32, length: f32): void {
  left = Mathf.exp(-depth(scene, z, dz, length));
  const shut: f32 = 1 - left;
  let sun: f32 = 0;
  if (load<i32>(scene, SCENE_SUN_ON)) {
    const s = scene + SCENE_SUN_DIRECTION;
    const disc: f32 = 2 * PI * load<f32>(scene, SCENE_SUN_VERSINE);
    // As bright as it is where it comes in from above.
    const through = Mathf.exp(-depth(scene, z, max<f32>(<f32>0.02, load<f32>(s, 8)), <f32>1e5));
    sun = disc * through * phase(m.dot(dx, dy, dz, load<f32>(s), load<f32>(s, 4), load<f32>(s, 8)));
  }
  veilR = shut * load<f32>(scene, SCENE_FOG_ALBEDO) * (load<f32>(scene, SCENE_SUN_RADIANCE) * sun + load<f32>(scene, SCENE_FOG_GLOW));
  veilG = shut * load<f32>(scene, SCENE_FOG_ALBEDO + 4) * (load<f32>(scene, SCENE_SUN_RADIANCE + 4) * sun + load<f32>(scene, SCENE_FOG_GLOW + 4));
  veilB = shut * load<f32>(scene, SCENE_FOG_ALBEDO + 8) * (load<f32>(scene, SCENE_SUN_RADIANCE + 8) * sun + load<f32>(scene, SCENE_FOG_GLOW + 8));
}
