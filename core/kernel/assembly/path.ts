/**
 * One light path, from the eye: next-event estimation towards sun, sky and lamps, joined with scattering by the balance
 * heuristic (Veach 1997, chapter 9), and ended by Russian roulette. Clear panes are crossed in a straight line both by
 * paths and by shadow rays, so a window casts no noise. Through solids light of sky and of what shines is found by paths alone, that of sun
 * and lamps by shadow rays alone: no light is counted twice.
 */
import {
  BODY_SHEET,
  BODY_SOLID,
  INSTANCE_LENS,
  INSTANCE_SIZE,
  LIGHT_OF_PATHS,
  NO_LIGHT,
  SCENE_FOG_ALBEDO,
  SCENE_INSTANCES,
  SCENE_LIGHT_COUNT,
  SCENE_LIT_ONLY,
  SCENE_MAX_DEPTH,
  SCENE_SKY_NORMALISER,
  SCENE_SUN_DIRECTION,
  SCENE_SUN_ON,
} from './layout';
import * as b from './bsdf';
import * as fog from './fog';
import * as g from './features';
import * as l from './lights';
import * as m from './maths';
import * as outline from './outline';
import * as relief from './relief';
import { nextPair, second } from './sampler';
import { clearance, faceB, faceG, faceR, indexAhead, layersOver, meetFace, passB, passG, passR, surfaceTint, transmittance } from './shadow';
import * as k from './sky';
import * as s from './surface';
import { hitDistance, hitInstance, hitLane, hitPacket, hitU, hitV, putHit, traceClosest } from './trace';
import { leftB, leftG, leftR, randomWalk } from './subsurface';
import { glitter, ruffle } from './water';

const MAX_CROSSINGS: i32 = 32;
/**
 * What a path meets after it was scattered is shown as rough as the scattering was wide (in GGX's alpha, from the density of the
 * direction): that sun which a varnished floor throws at the walls comes as a glow then, not as sparks that hardly any path
 * finds (Kaplanyan & Dachsbacher 2013, "Path Space Regularization for Holistic and Robust Light Transport").
 */
const BLUR: f32 = 0.1;
const MOST_BLUR: f32 = 0.2;
const FAR: f32 = 1e30;

export let radianceR: f32 = 0;
export let radianceG: f32 = 0;
export let radianceB: f32 = 0;

/** What of the radiance shines by itself where it is seen or mirrored, and what lights directly what is seen. */
export let shiningR: f32 = 0;
export let shiningG: f32 = 0;
export let shiningB: f32 = 0;
export let directR: f32 = 0;
export let directG: f32 = 0;
export let directB: f32 = 0;

let tR: f32 = 1;
let tG: f32 = 1;
let tB: f32 = 1;
/** So often has the path been scattered, and one more while light is sampled at where it is. */
let lightBounces: i32 = 0;
/** The path has left a surface in a sampled, not mirrored, direction. */
let scattered: bool = false;

function add(r: f32, g: f32, bl: f32, weight: f32): void {
  const cr = tR * r * weight,
    cg = tG * g * weight,
    cb = tB * bl * weight;
  if (!(cr + cg + cb < FAR)) return;
  radianceR += cr;
  radianceG += cg;
  radianceB += cb;
  if (lightBounces == 0) {
    shiningR += cr;
    shiningG += cg;
    shiningB += cb;
  } else if (lightBounces == 1) {
    directR += cr;
    directG += cg;
    directB += cb;
  }
}

/** The path is still on its way to the first surface that is lit, and what shines by itself is left out there. */
// @ts-ignore: decorator
@inline
function leavesOut(scene: usize): bool {
  return !g.featured && load<i32>(scene, SCENE_LIT_ONLY) != 0;
}

/** Sky and sun at the end of a path that left the scene. */
function escape(scene: usize, dx: f32, dy: f32, dz: f32, pdf: f32, share: f32): void {
  const leftOut = leavesOut(scene);
  g.leave();
  if (leftOut) return;
  if (pdf < 0) {
    // Only what the sky's map holds lights anything: what stands before it is for the eye.
    if (scattered) k.lookAtSky(scene, dx, dy, dz);
    else k.seeSky(scene, dx, dy, dz);
    add(k.skyR, k.skyG, k.skyB, 1);
  } else {
    k.lookAtSky(scene, dx, dy, dz);
    add(k.skyR, k.skyG, k.skyB, pdf / (pdf + share * k.skyPdf));
  }
  // The sun mirrored onto a matt surface by a pane (a caustic) cannot be sampled by this method and would only show as sparks.
  if (pdf < 0 && (scattered || sunless)) return;
  if (k.lookAtSun(scene, dx, dy, dz)) add(k.skyR, k.skyG, k.skyB, pdf < 0 ? 1 : pdf / (pdf + share * k.sunPdf(scene)));
}

/** Lights are found by being sampled alone: no path goes on from here that might meet them. */
let lightsAlone: bool = false;

/** Adds what one sampled direction to a light brings; the light's value is in r, g, bl, its density in `lightPdf`. */
function addDirectLight(
  scene: usize,
  x: f32,
  y: f32,
  z: f32,
  ox: f32,
  oy: f32,
  oz: f32,
  dx: f32,
  dy: f32,
  dz: f32,
  limit: f32,
  r: f32,
  g: f32,
  bl: f32,
  lightPdf: f32,
  share: f32,
  throughSolids: bool,
): void {
  m.toLocal(dx, dy, dz);
  const front = m.dot(dx, dy, dz, gX, gY, gZ) >= 0;
  // Where the shading normal and the face disagree, light does not come from the other side of the face.
  if (front != m.rz >= 0) return;
  b.evaluate(ox, oy, oz, m.rx, m.ry, m.rz);
  if (b.fR + b.fG + b.fB <= 0) return;
  const fr = b.fR * r,
    fg = b.fG * g,
    fb = b.fB * bl;
  const weight: f32 = lightPdf > 0 ? 1 / (share * lightPdf + (lightsAlone ? 0 : b.pdf)) : 1 / share;
  const gap = clearance(x, y, z);
  const out: f32 = front ? gap : -gap;
  let inside: f32 = 0;
  if (relief.heldOn && front) {
    if (!relief.rises(scene, dx, dy, dz)) return;
    inside = relief.length;
  }
  if (!transmittance(scene, x + gX * out + dx * inside, y + gY * out + dy * inside, z + gZ * out + dz * inside, dx, dy, dz, limit - inside - 2 * gap, throughSolids)) return;
  lightBounces++;
  add(fr * passR, fg * passG, fb * passB, weight);
  lightBounces--;
}

/** Way across the grain at the present vertex, kept while other surfaces are looked at. */
let brushed: bool = false;
let bX: f32 = 0;
let bY: f32 = 0;
let bZ: f32 = 0;

function holdGrain(): void {
  brushed = s.anisotropy > 0;
  bX = s.acrossX;
  bY = s.acrossY;
  bZ = s.acrossZ;
}

function setFrame(nx: f32, ny: f32, nz: f32): void {
  if (brushed) m.setFrameAlong(nx, ny, nz, bX, bY, bZ);
  else m.setFrame(nx, ny, nz);
}

let gX: f32 = 0;
let gY: f32 = 0;
let gZ: f32 = 1;

/** The path was mirrored by waves too fine to be seen: the sun in them is counted by `glitter`. */
let sunless: bool = false;
/** Since it was scattered, a solid has bent the path. */
let bentSince: bool = false;

/** What of the light on a clear body, by a share of it, is scattered back out by what floats in it (r, gr, bl), evenly to all sides. Overwrites surface.ts. */
function scatterBack(scene: usize, x: f32, y: f32, z: f32, r: f32, gr: f32, bl: f32, share: f32, bounce: i32): void {
  const keptR = tR,
    keptG = tG,
    keptB = tB;
  tR *= r * share;
  tG *= gr * share;
  tB *= bl * share;
  relief.release();
  s.setWhite();
  brushed = false;
  b.prepare(1);
  setFrame(gX, gY, gZ);
  lightsAlone = true;
  directLighting(scene, x, y, z, gX, gY, gZ, 0, 0, 1, bounce);
  lightsAlone = false;
  tR = keptR;
  tG = keptG;
  tB = keptB;
}

/** The sun that water throws back from waves too fine to be seen, by a weight of its radiance. Overwrites surface.ts. */
function addGlitter(scene: usize, x: f32, y: f32, z: f32, weight: f32): void {
  const sun = scene + SCENE_SUN_DIRECTION;
  if (!transmittance(scene, x, y, z + clearance(x, y, z), load<f32>(sun), load<f32>(sun, 4), load<f32>(sun, 8), FAR, true)) return;
  k.readSunAt(scene, x, y, z);
  lightBounces++;
  add(k.skyR * passR, k.skyG * passG, k.skyB * passB, weight);
  lightBounces--;
}

/** Direct light at the present vertex from sun, sky and lamps, but for that whose lens the vertex lies on: all of them at the first vertex, one at random later. */
function directLighting(scene: usize, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32, ox: f32, oy: f32, oz: f32, bounce: i32, lens: i32 = 0): f32 {
  const sun = !withoutSun && load<i32>(scene, SCENE_SUN_ON) != 0,
    sky = load<f32>(scene, SCENE_SKY_NORMALISER) > 0,
    lamps = load<i32>(scene, SCENE_LIGHT_COUNT) > 0;
  const kinds = (sun ? 1 : 0) + (sky ? 1 : 0) + (lamps ? 1 : 0);
  if (!kinds) return 1;
  const choice = nextPair(),
    lampChoice = second;
  const chosen: i32 = bounce <= 1 ? -1 : <i32>(choice * <f32>kinds);
  const share: f32 = bounce <= 1 ? 1 : 1 / <f32>kinds;
  let index = 0;
  if (sun) {
    const u = nextPair();
    if ((chosen < 0 || chosen == index) && k.sampleSun(scene, u, second)) {
      const dx = m.rx,
        dy = m.ry,
        dz = m.rz;
      k.readSunAt(scene, x, y, z);
      setFrame(nx, ny, nz);
      addDirectLight(scene, x, y, z, ox, oy, oz, dx, dy, dz, FAR, k.skyR, k.skyG, k.skyB, k.sunPdf(scene), share, true);
    }
    index++;
  }
  if (sky) {
    const u = nextPair();
    if ((chosen < 0 || chosen == index) && k.sampleSky(scene, u, second)) {
      const dx = m.rx,
        dy = m.ry,
        dz = m.rz;
      setFrame(nx, ny, nz);
      addDirectLight(scene, x, y, z, ox, oy, oz, dx, dy, dz, FAR, k.skyR, k.skyG, k.skyB, k.skyPdf, share, false);
    }
    index++;
  }
  if (lamps) {
    const u = nextPair();
    if ((chosen < 0 || chosen == index) && l.sampleLight(scene, x, y, z, lens, lampChoice, u, second)) {
      setFrame(nx, ny, nz);
      addDirectLight(scene, x, y, z, ox, oy, oz, l.toX, l.toY, l.toZ, l.distance, l.powerR, l.powerG, l.powerB, l.lightPdf, share, l.lightPdf == 0);
    }
  }
  return share;
}

/** Number of the luminaire whose lens an instance is; 0: of none. */
// @ts-ignore: decorator
@inline
function lensOf(scene: usize, instance: i32): i32 {
  return load<i32>(<usize>load<u32>(scene, SCENE_INSTANCES) + <usize>instance * INSTANCE_SIZE, INSTANCE_LENS);
}

/** Metres after which a path is scattered by fog on a stretch; below 0: not on this one. */
function meetsFog(scene: usize, z: f32, dz: f32, length: f32): f32 {
  const u = nextPair();
  const opticalDepth = -Mathf.log(max<f32>(<f32>1e-9, 1 - u));
  if (opticalDepth >= fog.depth(scene, z, dz, length)) return -1;
  return min<f32>(length, fog.lengthOf(scene, z, dz, opticalDepth));
}

/** What one direction to a light brings to fog that is seen along d; the light's value is in r, gr, bl. */
function addFogLight(scene: usize, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, tx: f32, ty: f32, tz: f32, limit: f32, r: f32, gr: f32, bl: f32, lightPdf: f32, share: f32, throughSolids: bool): void {
  const scatters = fog.phase(m.dot(dx, dy, dz, tx, ty, tz));
  if (!transmittance(scene, x, y, z, tx, ty, tz, limit, throughSolids)) return;
  const weight: f32 = scatters * (lightPdf > 0 ? 1 / (share * lightPdf + scatters) : 1 / share);
  lightBounces++;
  add(r * passR, gr * passG, bl * passB, weight);
  lightBounces--;
}

/** Direct light from one of sun, sky and lamps on fog that is seen along d; the share of each is returned. */
function lightFog(scene: usize, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, bounce: i32): f32 {
  const sun = load<i32>(scene, SCENE_SUN_ON) != 0,
    sky = load<f32>(scene, SCENE_SKY_NORMALISER) > 0,
    lamps = load<i32>(scene, SCENE_LIGHT_COUNT) > 0;
  const kinds = (sun ? 1 : 0) + (sky ? 1 : 0) + (lamps ? 1 : 0);
  if (!kinds) return 1;
  const choice = nextPair(),
    lampChoice = second;
  const chosen = min<i32>(kinds - 1, <i32>(choice * <f32>kinds));
  const share: f32 = 1 / <f32>kinds;
  const u = nextPair(),
    v = second;
  if (sun && chosen == 0) {
    if (k.sampleSun(scene, u, v)) {
      const tx = m.rx,
        ty = m.ry,
        tz = m.rz;
      k.readSunAt(scene, x, y, z);
      addFogLight(scene, x, y, z, dx, dy, dz, tx, ty, tz, FAR, k.skyR, k.skyG, k.skyB, k.sunPdf(scene), share, true);
    }
  } else if (sky && chosen == (sun ? 1 : 0)) {
    if (k.sampleSky(scene, u, v)) {
      const tx = m.rx,
        ty = m.ry,
        tz = m.rz;
      addFogLight(scene, x, y, z, dx, dy, dz, tx, ty, tz, FAR, k.skyR, k.skyG, k.skyB, k.skyPdf, share, false);
    }
  } else if (l.sampleLight(scene, x, y, z, 0, lampChoice, u, v))
    addFogLight(scene, x, y, z, dx, dy, dz, l.toX, l.toY, l.toZ, l.distance, l.powerR, l.powerG, l.powerB, l.lightPdf, share, l.lightPdf == 0);
  return share;
}

/** No light is asked for, and a path ends where it has its feature. */
let onlyFeatures: bool = false;

/** Finds the features for denoising alone, see features.ts. */
export function traceFeatures(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, metresFromEye: f32): void {
  onlyFeatures = true;
  tracePath(scene, ox, oy, oz, dx, dy, dz, metresFromEye);
  onlyFeatures = false;
}

/** Metres to the first surface along a ray, resolved in surface.ts; cut-outs are passed through. Below 0: there is none. */
export function firstSurface(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): f32 {
  let distance: f32 = 0;
  for (let crossings = 0; crossings < MAX_CROSSINGS; crossings++) {
    if (!traceClosest(ox, oy, oz, dx, dy, dz, FAR, -1)) return -1;
    s.resolveHit(scene, ox, oy, oz, dx, dy, dz);
    distance += hitDistance;
    const gap = clearance(s.px, s.py, s.pz);
    if (outline.passes(dx, dy, dz)) {
      ox = outline.x;
      oy = outline.y;
      oz = outline.z;
    } else if (s.opacity < 0.5) {
      ox = s.px + dx * gap;
      oy = s.py + dy * gap;
      oz = s.pz + dz * gap;
    } else return distance;
  }
  return -1;
}

/** Radiance arriving at a point from a direction, into radiance*; the features for denoising are left in features.ts, their distance with what lies before the point. */
export function tracePath(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, metresFromEye: f32 = 0): void {
  begin(1);
  g.begin();
  scattered = false;
  walkPath(scene, ox, oy, oz, dx, dy, dz, -1, 1, 0, metresFromEye);
}

/** Forgets the path before. */
function begin(throughput: f32): void {
  radianceR = radianceG = radianceB = 0;
  shiningR = shiningG = shiningB = 0;
  directR = directG = directB = 0;
  lightBounces = 0;
  tR = tG = tB = throughput;
  onlyColour = -1;
  sunless = bentSince = false;
}

function walkPath(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, pdf: f32, share: f32, firstBounce: i32, metresFromEye: f32): void {
  const maxDepth = load<i32>(scene, SCENE_MAX_DEPTH);
  let travelled: f32 = 0,
    fromEye = metresFromEye;
  let bounce = firstBounce,
    crossings = 0;
  /** The path leaves a place on a relief. */
  let leaves = false;
  /** Metres of the way that the ray's beginning was lifted over, off the face before. */
  let lifted: f32 = 0;
  /** Least roughness of what is met next. */
  let blur: f32 = 0;
  const foggy = fog.isFoggy(scene) && !onlyFeatures && load<i32>(scene, SCENE_LIT_ONLY) == 0;
  for (;;) {
    const stays = leaves && !relief.rises(scene, dx, dy, dz);
    if (stays) s.resolveInRelief(scene, ox, oy, oz, dx, dy, dz);
    else {
      if (leaves) {
        ox += dx * relief.length;
        oy += dy * relief.length;
        oz += dz * relief.length;
      }
      const isMet = traceClosest(ox, oy, oz, dx, dy, dz, FAR, -1);
      if (isMet) s.resolveHit(scene, ox, oy, oz, dx, dy, dz);
      if (foggy && !(isMet && s.backSide && s.body != BODY_SHEET && s.transmission > 0)) {
        const reached = meetsFog(scene, oz, dz, isMet ? hitDistance : FAR);
        if (reached >= 0) {
          g.goAstray();
          if (++bounce > maxDepth) return;
          ox += dx * reached;
          oy += dy * reached;
          oz += dz * reached;
          tR *= load<f32>(scene, SCENE_FOG_ALBEDO);
          tG *= load<f32>(scene, SCENE_FOG_ALBEDO + 4);
          tB *= load<f32>(scene, SCENE_FOG_ALBEDO + 8);
          share = lightFog(scene, ox, oy, oz, dx, dy, dz, bounce);
          const around = nextPair();
          const cosine = fog.sampleTurn(around),
            sine = sqrt<f32>(max<f32>(0, 1 - cosine * cosine));
          m.turn(second);
          m.setFrame(dx, dy, dz);
          m.toWorld(sine * m.cosine, sine * m.sine, cosine);
          dx = m.rx;
          dy = m.ry;
          dz = m.rz;
          pdf = fog.phase(cosine);
          scattered = true;
          lightBounces++;
          sunless = bentSince = false;
          travelled = 0;
          leaves = false;
          continue;
        }
      }
      if (!isMet) {
        escape(scene, dx, dy, dz, pdf, share);
        return;
      }
    }
    leaves = false;
    const stretch = hitDistance;
    travelled += stretch;
    fromEye += stretch;
    if (s.backSide && s.body != BODY_SHEET && s.transmission > 0) {
      const within = stretch + lifted;
      tR *= Mathf.exp(-s.absorptionR * within);
      tG *= Mathf.exp(-s.absorptionG * within);
      tB *= Mathf.exp(-s.absorptionB * within);
    }
    lifted = 0;
    let gap = clearance(s.px, s.py, s.pz);
    if (outline.passes(dx, dy, dz)) {
      if (++crossings > MAX_CROSSINGS) return;
      ox = outline.x;
      oy = outline.y;
      oz = outline.z;
      continue;
    }
    const u = nextPair();
    if (s.opacity < 1 && second >= s.opacity) {
      if (++crossings > MAX_CROSSINGS) return;
      ox = s.px + dx * gap;
      oy = s.py + dy * gap;
      oz = s.pz + dz * gap;
      continue;
    }
    if (s.emissionR + s.emissionG + s.emissionB > 0 && !leavesOut(scene)) {
      // The lamp behind a lens has sent its light through the solids that the path was bent by.
      if (s.light == NO_LIGHT ? pdf < 0 && !bentSince : pdf < 0 || s.light == LIGHT_OF_PATHS) add(s.emissionR, s.emissionG, s.emissionB, 1);
      else if (s.light >= 0) {
        const cosine = abs(m.dot(dx, dy, dz, s.gx, s.gy, s.gz));
        add(s.emissionR, s.emissionG, s.emissionB, pdf / (pdf + share * l.trianglePdf(scene, s.light, travelled, cosine)));
      }
    }
    if (s.transmission > 0 && s.roughness < b.SMOOTH_ROUGHNESS) {
      const way = crossClear(scene, ox, oy, oz, dx, dy, dz, u, bounce, crossings, fromEye);
      if (way != STAYS) {
        if (way == MIRRORED) bounce++;
        else if (way == BENT) bentSince = scattered;
        if (++crossings > MAX_CROSSINGS || bounce > maxDepth) return;
        const lift: f32 = way == MIRRORED ? gap : -gap;
        ox = s.px + s.gx * lift;
        oy = s.py + s.gy * lift;
        oz = s.pz + s.gz * lift;
        if (way != STRAIGHT_ON) {
          dx = m.rx;
          dy = m.ry;
          dz = m.rz;
          pdf = -1;
          travelled = 0;
        }
        lifted = gap / max<f32>(<f32>0.01, abs(m.dot(dx, dy, dz, s.gx, s.gy, s.gz)));
        continue;
      }
    }
    g.meet(fromEye);
    if (bounce >= maxDepth || (onlyFeatures && g.featured)) return;
    let x = s.px,
      y = s.py,
      z = s.pz,
      nx = s.nx,
      ny = s.ny,
      nz = s.nz;
    gX = s.gx;
    gY = s.gy;
    gZ = s.gz;
    holdGrain();
    setFrame(nx, ny, nz);
    m.toLocal(-dx, -dy, -dz);
    // Seen along the surface, or from behind a bent normal: the nearest direction that is just above it. Square on, rounding makes more than 1.
    const wz = min<f32>(1, max<f32>(<f32>2e-4, m.rz)),
      level: f32 = sqrt<f32>((1 - wz * wz) / max<f32>(<f32>1e-12, m.rx * m.rx + m.ry * m.ry)),
      wx = m.rx * level,
      wy = m.ry * level;
    if (scattered) s.soften(blur);
    if (s.coat > 0) {
      m.toLocal(s.coatX, s.coatY, s.coatZ);
      b.layCoat(m.rx, m.ry, m.rz);
    }
    b.prepare(wz);
    s.holdRelief();
    const home = s.instance;
    if (!onlyFeatures) share = directLighting(scene, x, y, z, nx, ny, nz, wx, wy, wz, bounce, lensOf(scene, home));

    const choice = nextPair(),
      roulette = second;
    const u1 = nextPair();
    if (!b.sample(wx, wy, wz, choice, u1, second)) return;
    if (b.enters) {
      const held: f32 = 1 / b.pdf;
      tR *= b.fR * held;
      tG *= b.fG * held;
      tB *= b.fB * held;
      if (!randomWalk(scene, home, x, y, z, gX, gY, gZ)) return;
      tR *= leftR;
      tG *= leftG;
      tB *= leftB;
      x = s.px;
      y = s.py;
      z = s.pz;
      nx = -s.nx;
      ny = -s.ny;
      nz = -s.nz;
      gX = -s.gx;
      gY = -s.gy;
      gZ = -s.gz;
      gap = clearance(x, y, z);
      relief.release();
      brushed = false;
      setFrame(nx, ny, nz);
      b.prepareExit();
      share = directLighting(scene, x, y, z, nx, ny, nz, 0, 0, 1, bounce);
      const out = nextPair();
      if (!b.sample(0, 0, 1, 1, out, second)) return;
    }
    const inverse: f32 = 1 / b.pdf;
    tR *= b.fR * inverse;
    tG *= b.fG * inverse;
    tB *= b.fB * inverse;
    pdf = b.pdf;
    scattered = true;
    lightBounces++;
    sunless = bentSince = false;
    blur = max<f32>(blur, Mathf.sqrt(min<f32>(MOST_BLUR, BLUR / Mathf.sqrt(pdf))));
    setFrame(nx, ny, nz);
    m.toWorld(b.wiX, b.wiY, b.wiZ);
    dx = m.rx;
    dy = m.ry;
    dz = m.rz;
    const front = m.dot(dx, dy, dz, gX, gY, gZ) >= 0;
    if (front != b.wiZ >= 0) return;
    const lift: f32 = front ? gap : -gap;
    leaves = front && relief.heldOn;
    ox = x + gX * lift;
    oy = y + gY * lift;
    oz = z + gZ * lift;
    travelled = 0;
    bounce++;
    if (bounce > 3) {
      const survive = min<f32>(<f32>0.95, max(tR, max(tG, tB)));
      if (roulette >= survive) return;
      const keep: f32 = 1 / survive;
      tR *= keep;
      tG *= keep;
      tB *= keep;
    }
  }
}

/** What becomes of a path at a clear surface: it meets it as an opaque one, goes on unbent, is mirrored or bent into maths.r*. */
const STAYS: i32 = 0;
const STRAIGHT_ON: i32 = 1;
const MIRRORED: i32 = 2;
const BENT: i32 = 3;

/** Crosses, or not, the smooth clear surface that surface.ts has resolved; a mirrored branch of what the eye sees first is followed at once. */
function crossClear(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, choice: f32, bounce: i32, crossings: i32, fromEye: f32): i32 {
  const distance = hitDistance,
    instance = hitInstance,
    packet = hitPacket,
    lane = hitLane,
    hu = hitU,
    hv = hitV;
  const share = s.clearShare();
  let u = choice;
  if (u >= share) {
    s.dropTransmission();
    return STAYS;
  }
  u /= share;
  const ruffled = s.unseenSlopes > 0 && !onlyFeatures;
  let sparkle: f32 = 0;
  if (ruffled) {
    if (!s.backSide && !scattered) sparkle = glitter(scene, dx, dy, dz);
    ruffle(dx, dy, dz);
  }
  const nx = s.nx,
    ny = s.ny,
    nz = s.nz,
    cosine = -m.dot(dx, dy, dz, nx, ny, nz);
  const over = layersOver(dx, dy, dz, cosine);
  if (over > 0 && !onlyFeatures) {
    if (u < over) {
      // By chance: what the pixel shows is told by the paths that go on.
      g.goAstray();
      s.dropBody();
      const inverse: f32 = 1 / over;
      tR *= inverse;
      tG *= inverse;
      tB *= inverse;
      return STAYS;
    }
    u = (u - over) / (1 - over);
  }
  meetFace(cosine, indexAhead());
  const r = faceR,
    gr = faceG,
    bl = faceB;
  let mirrored: f32 = (r + gr + bl) / 3;
  const mx = dx + 2 * cosine * nx,
    my = dy + 2 * cosine * ny,
    mz = dz + 2 * cosine * nz;
  const x = s.px,
    y = s.py,
    z = s.pz,
    murkR = s.scatteredR,
    murkG = s.scatteredG,
    murkB = s.scatteredB,
    cloudy = !s.backSide && murkR + murkG + murkB > 0;
  gX = s.gx;
  gY = s.gy;
  gZ = s.gz;
  const splits = bounce == 0 && crossings == 0 && mirrored < 1 && share >= <f32>0.999 && over == 0;
  if (sparkle > 0) addGlitter(scene, x, y, z, sparkle);
  if (cloudy && !onlyFeatures) scatterBack(scene, x, y, z, murkR, murkG, murkB, 1 - mirrored, bounce);
  if (splits) {
    // The first pane that the eye meets is split, so that what it shows and what it mirrors are both in every sample.
    const keptR = tR,
      keptG = tG,
      keptB = tB,
      gx = gX,
      gy = gY,
      gz = gZ,
      gap = clearance(x, y, z),
      colour = onlyColour;
    tR *= r;
    tG *= gr;
    tB *= bl;
    g.take(mirrored);
    sunless = ruffled;
    if (mirrored > <f32>0.001) walkPath(scene, x + gx * gap, y + gy * gap, z + gz * gap, mx, my, mz, -1, 1, 1, fromEye);
    g.take(1 - mirrored);
    onlyColour = colour;
    scattered = sunless = false;
    lightBounces = 0;
    // What lies under murky water is seen less than the water.
    if (cloudy) g.show(murkR, murkG, murkB, gx, gy, gz, fromEye);
    tR = keptR * (1 - r);
    tG = keptG * (1 - gr);
    tB = keptB * (1 - bl);
  }
  if (splits || cloudy || sparkle > 0) {
    putHit(distance, instance, packet, lane, hu, hv);
    s.resolveHit(scene, ox, oy, oz, dx, dy, dz);
    s.tilt(nx, ny, nz);
  }
  if (!splits) {
    // Features go straight on; by chance they would be missing here and there.
    if (onlyFeatures) mirrored = 0;
    const goesBack = u < mirrored;
    const weight: f32 = onlyFeatures ? 1 : 1 / (goesBack ? mirrored : 1 - mirrored);
    tR *= weight * (goesBack ? r : 1 - r);
    tG *= weight * (goesBack ? gr : 1 - gr);
    tB *= weight * (goesBack ? bl : 1 - bl);
    if (goesBack) {
      sunless = ruffled;
      g.goAstray();
      m.set(mx, my, mz);
      return MIRRORED;
    }
  }
  tR *= surfaceTint(s.baseR);
  tG *= surfaceTint(s.baseG);
  tB *= surfaceTint(s.baseB);
  if (s.body != BODY_SOLID) return STRAIGHT_ON;
  if (s.indexSpread > 0) bendOneColour();
  refract(dx, dy, dz, cosine);
  // Radiance is greater within, by the square of the index (Veach 1997, 5.2).
  const within: f32 = s.backSide ? s.ior * s.ior : 1 / (s.ior * s.ior);
  tR *= within;
  tG *= within;
  tB *= within;
  return BENT;
}

/** Which colour a path goes on with, once a body has bent them apart; -1: with all. */
let onlyColour: i32 = -1;

function bendOneColour(): void {
  if (onlyColour < 0) {
    onlyColour = min(2, <i32>(nextPair() * 3));
    tR *= onlyColour == 0 ? 3 : 0;
    tG *= onlyColour == 1 ? 3 : 0;
    tB *= onlyColour == 2 ? 3 : 0;
  }
  s.bendOnly(onlyColour);
}

/** Snell's law for the solid body just hit; the direction is left in maths.r*. */
function refract(dx: f32, dy: f32, dz: f32, cosine: f32): void {
  const eta: f32 = s.backSide ? s.ior : 1 / s.ior;
  const c2 = sqrt<f32>(max<f32>(0, 1 - eta * eta * (1 - cosine * cosine)));
  const k = eta * cosine - c2;
  m.normalise(eta * dx + k * s.nx, eta * dy + k * s.ny, eta * dz + k * s.nz);
}

/** The sun does not light the point itself that is asked about. */
let withoutSun: bool = false;

/** One sample of the illuminance (lux, rgb in radiance*) on a virtual surface element at a point, facing `n`; without what the sun's own rays bring where `shaded`. */
export function sampleIlluminance(scene: usize, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32, shaded: bool): void {
  begin(<f32>3.14159265);
  g.stop();
  scattered = true;
  relief.release();
  s.setWhite();
  holdGrain();
  b.prepare(1);
  gX = nx;
  gY = ny;
  gZ = nz;
  setFrame(nx, ny, nz);
  withoutSun = shaded;
  const share = directLighting(scene, x, y, z, nx, ny, nz, 0, 0, 1, 0);
  withoutSun = false;
  const u = nextPair();
  if (!b.sample(0, 0, 1, 1, u, second)) return;
  setFrame(nx, ny, nz);
  m.toWorld(b.wiX, b.wiY, b.wiZ);
  const gap = clearance(x, y, z);
  walkPath(scene, x + nx * gap, y + ny * gap, z + nz * gap, m.rx, m.ry, m.rz, b.pdf, share, 1, 0);
}
