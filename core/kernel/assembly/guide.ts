/** What the denoiser is guided by: colour, normal and distance of the first surface of a path that is not clear. */
import * as m from './maths';
import * as outline from './outline';
import { clearance } from './shadow';
import { SMOOTH_ROUGHNESS } from './bsdf';
import * as s from './surface';
import { hitDistance, traceClosest } from './trace';

const MAX_CROSSINGS: i32 = 32;
const FAR: f32 = 1e30;

export let albedoR: f32 = 1;
export let albedoG: f32 = 1;
export let albedoB: f32 = 1;
export let guideX: f32 = 0;
export let guideY: f32 = 0;
export let guideZ: f32 = 0;
export let guideDepth: f32 = FAR;
/** The path has its guide, or is to have none. */
export let guided: bool = false;
/** The path left by chance what its pixel shows: it says nothing of it. */
export let astray: bool = false;

export function begin(): void {
  albedoR = albedoG = albedoB = 1;
  guideX = guideY = guideZ = 0;
  guideDepth = FAR;
  guided = astray = false;
}

export function goAstray(): void {
  if (!guided) guided = astray = true;
}

export function hold(on: bool): void {
  guided = on;
}

/** The surface that surface.ts has resolved, so far from the eye; the first one counts. */
export function guide(depth: f32): void {
  if (guided) return;
  guided = true;
  albedoR = max<f32>(<f32>0.01, s.baseR);
  albedoG = max<f32>(<f32>0.01, s.baseG);
  albedoB = max<f32>(<f32>0.01, s.baseB);
  guideX = s.nx;
  guideY = s.ny;
  guideZ = s.nz;
  guideDepth = depth;
}

/** Only the guides of what a ray shows: the first surface that is not clear. */
export function traceGuide(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): void {
  begin();
  let depth: f32 = 0;
  for (let k = 0; k < MAX_CROSSINGS; k++) {
    if (!traceClosest(ox, oy, oz, dx, dy, dz, FAR, -1)) return;
    depth += hitDistance;
    s.resolveHit(scene, ox, oy, oz, dx, dy, dz);
    if (outline.passes(dx, dy, dz)) {
      ox = outline.x;
      oy = outline.y;
      oz = outline.z;
      continue;
    }
    const clear = s.transmission > 0 && s.roughness < SMOOTH_ROUGHNESS && -m.dot(dx, dy, dz, s.nx, s.ny, s.nz) >= <f32>0.35;
    if (!clear && s.opacity >= <f32>0.5) {
      guide(depth);
      return;
    }
    const gap = clearance(s.px, s.py, s.pz);
    ox = s.px + dx * gap;
    oy = s.py + dy * gap;
    oz = s.pz + dz * gap;
  }
}

