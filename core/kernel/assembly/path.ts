/**
 * One light path, from the eye: next-event estimation towards sun, sky and lamps, joined with scattering by the balance
 * heuristic (Veach 1997, chapter 9), and ended by Russian roulette. Clear panes are crossed in a straight line both by
 * paths and by shadow rays, so a window casts no noise and no light is counted twice.
 */
import { BODY_SHEET, BODY_SOLID, SCENE_LIGHT_COUNT, SCENE_LIT_ONLY, SCENE_MAX_DEPTH, SCENE_SKY_NORMALISER, SCENE_SUN_COS, SCENE_SUN_DIRECTION, SCENE_SUN_ON } from './layout';
import * as b from './bsdf';
import * as g from './guide';
import * as l from './lights';
import * as m from './maths';
import * as outline from './outline';
import * as relief from './relief';
import { nextPair, second } from './sampler';
import { clearance, interfaceReflectance, passB, passG, passR, surfaceTint, transmittance } from './shadow';
import * as k from './sky';
import * as s from './surface';
import { hitDistance, traceClosest } from './trace';
import { leftB, leftG, leftR, wander } from './wander';

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

let tR: f32 = 1;
let tG: f32 = 1;
let tB: f32 = 1;
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
}

/** The path is still on its way to the first surface that is lit, and what shines by itself is left out there. */
// @ts-ignore: decorator
@inline
function leavesOut(scene: usize): bool {
  return !g.guided && load<i32>(scene, SCENE_LIT_ONLY) != 0;
}

/** Sky and sun at the end of a path that left the scene. */
function escape(scene: usize, dx: f32, dy: f32, dz: f32, pdf: f32, share: f32): void {
  const leftOut = leavesOut(scene);
  g.leave();
  if (leftOut) return;
  if (pdf < 0) {
    k.seeSky(scene, dx, dy, dz);
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
function connect(
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
): void {
  m.toLocal(dx, dy, dz);
  b.evaluate(ox, oy, oz, m.rx, m.ry, m.rz);
  if (b.fR + b.fG + b.fB <= 0) return;
  const fr = b.fR * r,
    fg = b.fG * g,
    fb = b.fB * bl;
  const weight: f32 = lightPdf > 0 ? 1 / (share * lightPdf + (lightsAlone ? 0 : b.pdf)) : 1 / share;
  const gap = clearance(x, y, z);
  const front = m.dot(dx, dy, dz, gX, gY, gZ) >= 0;
  const out: f32 = front ? gap : -gap;
  let inside: f32 = 0;
  if (relief.heldOn && front) {
    if (!relief.rises(scene, dx, dy, dz)) return;
    inside = relief.length;
  }
  if (!transmittance(scene, x + gX * out + dx * inside, y + gY * out + dy * inside, z + gZ * out + dz * inside, dx, dy, dz, limit - inside - 2 * gap)) return;
  add(fr * passR, fg * passG, fb * passB, weight);
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

/** The clear surface that the path stands on, kept while others are looked at. */
let keptX: f32 = 0, keptY: f32 = 0, keptZ: f32 = 0; // prettier-ignore
let keptGX: f32 = 0, keptGY: f32 = 0, keptGZ: f32 = 0; // prettier-ignore
let keptNX: f32 = 0, keptNY: f32 = 0, keptNZ: f32 = 0; // prettier-ignore
let keptBaseR: f32 = 0, keptBaseG: f32 = 0, keptBaseB: f32 = 0; // prettier-ignore
let keptIor: f32 = 0, keptThrough: f32 = 0; // prettier-ignore
let keptMurkR: f32 = 0, keptMurkG: f32 = 0, keptMurkB: f32 = 0, keptSlopes: f32 = 0; // prettier-ignore
let keptBack: bool = false;
let keptBody: i32 = 0;

function keepSurface(): void {
  keptX = s.px; keptY = s.py; keptZ = s.pz; // prettier-ignore
  keptGX = s.gx; keptGY = s.gy; keptGZ = s.gz; // prettier-ignore
  keptNX = s.nx; keptNY = s.ny; keptNZ = s.nz; // prettier-ignore
  keptBaseR = s.baseR; keptBaseG = s.baseG; keptBaseB = s.baseB; // prettier-ignore
  keptIor = s.ior; keptThrough = s.transmission; keptBack = s.backSide; keptBody = s.body; // prettier-ignore
  keptMurkR = s.scatteredR; keptMurkG = s.scatteredG; keptMurkB = s.scatteredB; keptSlopes = s.unseenSlopes; // prettier-ignore
}

function returnToSurface(): void {
  s.putBack(keptX, keptY, keptZ, keptGX, keptGY, keptGZ, keptNX, keptNY, keptNZ, keptBack, keptBaseR, keptBaseG, keptBaseB, keptIor, keptThrough, keptBody);
  s.putBackWater(keptMurkR, keptMurkG, keptMurkB, keptSlopes);
}

/** Light that enters the body at hand, by a share, and is scattered back out by what floats in it, evenly to all sides. */
function scatterBack(scene: usize, share: f32, bounce: i32): void {
  const r = tR,
    gr = tG,
    bl = tB;
  keepSurface();
  tR *= s.scatteredR * share;
  tG *= s.scatteredG * share;
  tB *= s.scatteredB * share;
  relief.release();
  s.setWhite();
  brushed = false;
  b.prepare(1);
  gX = keptGX;
  gY = keptGY;
  gZ = keptGZ;
  setFrame(gX, gY, gZ);
  lightsAlone = true;
  gather(scene, keptX, keptY, keptZ, gX, gY, gZ, 0, 0, 1, bounce);
  lightsAlone = false;
  tR = r;
  tG = gr;
  tB = bl;
  returnToSurface();
}

/**
 * The sun in waves too fine to be seen: the share of facets that mirror it to the eye, for slopes spread evenly to all sides (Cox &
 * Munk 1954, "Measurement of the Roughness of the Sea Surface from Photographs of the Sun's Glitter").
 */
function glitter(scene: usize, dx: f32, dy: f32, dz: f32): void {
  if (!load<i32>(scene, SCENE_SUN_ON) || s.gz < <f32>0.5) return;
  const sun = scene + SCENE_SUN_DIRECTION;
  const sx = load<f32>(sun),
    sy = load<f32>(sun, 4),
    sz = load<f32>(sun, 8);
  if (sz <= 0) return;
  m.normalise(sx - dx, sy - dy, sz - dz);
  const hx = m.rx,
    hy = m.ry,
    hz = m.rz;
  if (hz <= <f32>0.05 || s.nz <= <f32>0.05) return;
  const offX = hx / hz - s.nx / s.nz,
    offY = hy / hz - s.ny / s.nz;
  const variance = s.unseenSlopes;
  const spread = (offX * offX + offY * offY) / variance;
  if (spread > 12) return;
  const facets: f32 = Mathf.exp(-spread) / (<f32>3.14159265 * variance);
  const reflected = b.fresnel(max<f32>(<f32>1e-3, m.dot(hx, hy, hz, sx, sy, sz)), s.ior);
  const weight: f32 = (reflected * facets * sunSolidAngle(scene)) / (4 * max<f32>(<f32>0.02, -dz) * hz * hz * hz * hz);
  keepSurface();
  const gap = clearance(keptX, keptY, keptZ);
  if (transmittance(scene, keptX, keptY, keptZ + gap, sx, sy, sz, FAR)) {
    k.readSun(scene);
    add(k.skyR * passR, k.skyG * passG, k.skyB * passB, weight);
  }
  returnToSurface();
}

function sunSolidAngle(scene: usize): f32 {
  return <f32>6.2831853 * (1 - load<f32>(scene, SCENE_SUN_COS));
}

/** Tilts the normal at hand by slopes too fine to be seen, drawn from their normal distribution; never away from the eye. */
function ruffle(dx: f32, dy: f32, dz: f32): void {
  const u = max<f32>(<f32>1e-6, nextPair());
  const slope = Mathf.sqrt(-s.unseenSlopes * Mathf.log(u)),
    way: f32 = second * <f32>6.2831853;
  const up: f32 = s.gz > 0 ? 1 : -1;
  m.normalise(s.nx - slope * Mathf.cos(way) * up, s.ny - slope * Mathf.sin(way) * up, s.nz);
  if (-m.dot(dx, dy, dz, m.rx, m.ry, m.rz) <= <f32>0.01 || m.dot(m.rx, m.ry, m.rz, s.gx, s.gy, s.gz) <= <f32>0.05) return;
  s.tilt(m.rx, m.ry, m.rz);
}

/** Direct light at the present vertex from sun, sky and lamps: all of them at the first vertex, one at random later. */
function gather(scene: usize, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32, ox: f32, oy: f32, oz: f32, bounce: i32): f32 {
  const sun = load<i32>(scene, SCENE_SUN_ON) != 0,
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
      k.readSun(scene);
      setFrame(nx, ny, nz);
      connect(scene, x, y, z, ox, oy, oz, dx, dy, dz, FAR, k.skyR, k.skyG, k.skyB, k.sunPdf(scene), share);
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
      connect(scene, x, y, z, ox, oy, oz, dx, dy, dz, FAR, k.skyR, k.skyG, k.skyB, k.skyPdf, share);
    }
    index++;
  }
  if (lamps) {
    const u = nextPair();
    if ((chosen < 0 || chosen == index) && l.sampleLight(scene, x, y, z, lampChoice, u, second)) {
      setFrame(nx, ny, nz);
      connect(scene, x, y, z, ox, oy, oz, l.toX, l.toY, l.toZ, l.distance, l.powerR, l.powerG, l.powerB, l.lightPdf, share);
    }
  }
  return share;
}

/** No light is asked for, and a path ends where it has its guide. */
let onlyGuides: bool = false;

/** Finds the guides for denoising alone, see guide.ts. */
export function traceGuides(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): void {
  onlyGuides = true;
  tracePath(scene, ox, oy, oz, dx, dy, dz);
  onlyGuides = false;
}

/** Radiance arriving at a point from a direction, into radiance*; the guides for denoising are left in guide.ts. */
export function tracePath(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): void {
  radianceR = radianceG = radianceB = 0;
  tR = tG = tB = 1;
  onlyColour = -1;
  g.begin();
  scattered = sunless = false;
  walkPath(scene, ox, oy, oz, dx, dy, dz, -1, 1, 0, 0);
}

function walkPath(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, pdf: f32, share: f32, firstBounce: i32, metresFromEye: f32): void {
  const maxDepth = load<i32>(scene, SCENE_MAX_DEPTH);
  let travelled: f32 = 0,
    fromEye = metresFromEye;
  let bounce = firstBounce,
    crossings = 0;
  /** The path leaves a place on a relief. */
  let leaves = false;
  /** Least roughness of what is met next. */
  let blur: f32 = 0;
  for (;;) {
    const stays = leaves && !relief.rises(scene, dx, dy, dz);
    if (stays) s.resolveInRelief(scene, ox, oy, oz, dx, dy, dz);
    else {
      if (leaves) {
        ox += dx * relief.length;
        oy += dy * relief.length;
        oz += dz * relief.length;
      }
      if (!traceClosest(ox, oy, oz, dx, dy, dz, FAR, -1)) {
        escape(scene, dx, dy, dz, pdf, share);
        return;
      }
      s.resolveHit(scene, ox, oy, oz, dx, dy, dz);
    }
    leaves = false;
    const stretch = hitDistance;
    travelled += stretch;
    fromEye += stretch;
    if (s.backSide && s.body != BODY_SHEET && s.transmission > 0) {
      tR *= Mathf.exp(-s.absorptionR * stretch);
      tG *= Mathf.exp(-s.absorptionG * stretch);
      tB *= Mathf.exp(-s.absorptionB * stretch);
    }
    let gap = clearance(s.px, s.py, s.pz);
    if (outline.passes(dx, dy, dz)) {
      if (++crossings > MAX_CROSSINGS) return;
      ox = outline.x;
      oy = outline.y;
      oz = outline.z;
      continue;
    }
    if (s.emissionR + s.emissionG + s.emissionB > 0 && !leavesOut(scene)) {
      if (pdf < 0) add(s.emissionR, s.emissionG, s.emissionB, 1);
      else if (s.light >= 0) {
        const cosine = abs(m.dot(dx, dy, dz, s.gx, s.gy, s.gz));
        add(s.emissionR, s.emissionG, s.emissionB, pdf / (pdf + share * l.trianglePdf(scene, s.light, travelled, cosine)));
      }
    }
    const u = nextPair();
    if (s.opacity < 1 && second >= s.opacity) {
      if (++crossings > MAX_CROSSINGS) return;
      ox = s.px + dx * gap;
      oy = s.py + dy * gap;
      oz = s.pz + dz * gap;
      continue;
    }
    if (s.transmission > 0 && s.roughness < b.SMOOTH_ROUGHNESS) {
      const ruffled = s.unseenSlopes > 0 && !onlyGuides;
      if (ruffled) {
        if (!s.backSide && !scattered) glitter(scene, dx, dy, dz);
        ruffle(dx, dy, dz);
      }
      const cosine = -m.dot(dx, dy, dz, s.nx, s.ny, s.nz);
      let reflectance = interfaceReflectance(cosine);
      const cloudy = !s.backSide && s.scatteredR + s.scatteredG + s.scatteredB > 0,
        murkR = s.scatteredR,
        murkG = s.scatteredG,
        murkB = s.scatteredB;
      if (cloudy && !onlyGuides) scatterBack(scene, 1 - reflectance, bounce);
      let lift: f32;
      if (bounce == 0 && crossings == 0 && reflectance < 1 && s.transmission >= <f32>0.999) {
        // The first pane that the eye meets is split, so that what it shows and what it mirrors are both in every sample.
        const keptR = tR,
          keptG = tG,
          keptB = tB;
        const x = s.px,
          y = s.py,
          z = s.pz,
          ngx = s.gx,
          ngy = s.gy,
          ngz = s.gz;
        const back = s.backSide,
          br = s.baseR,
          bg = s.baseG,
          bb = s.baseB,
          index = s.ior,
          pass = s.transmission,
          kind = s.body;
        const snx = s.nx,
          sny = s.ny,
          snz = s.nz;
        tR *= reflectance;
        tG *= reflectance;
        tB *= reflectance;
        const mx = dx + 2 * cosine * snx,
          my = dy + 2 * cosine * sny,
          mz = dz + 2 * cosine * snz;
        const colour = onlyColour;
        g.take(reflectance);
        sunless = ruffled;
        if (reflectance > <f32>0.001) walkPath(scene, x + ngx * gap, y + ngy * gap, z + ngz * gap, mx, my, mz, -1, 1, 1, fromEye);
        g.take(1 - reflectance);
        onlyColour = colour;
        scattered = sunless = false;
        // What lies under murky water is seen less than the water.
        if (cloudy) g.show(murkR, murkG, murkB, ngx, ngy, ngz, fromEye);
        const rest: f32 = 1 - reflectance;
        tR = keptR * rest;
        tG = keptG * rest;
        tB = keptB * rest;
        s.putBack(x, y, z, ngx, ngy, ngz, snx, sny, snz, back, br, bg, bb, index, pass, kind);
        reflectance = 0;
      }
      // Guides go straight on; by chance they would be missing here and there.
      if (u < reflectance && !onlyGuides) {
        dx += 2 * cosine * s.nx;
        dy += 2 * cosine * s.ny;
        dz += 2 * cosine * s.nz;
        lift = gap;
        pdf = -1;
        sunless = ruffled;
        g.goAstray();
        bounce++;
      } else if ((u - reflectance) / (1 - reflectance) < s.transmission) {
        tR *= surfaceTint(s.baseR);
        tG *= surfaceTint(s.baseG);
        tB *= surfaceTint(s.baseB);
        lift = -gap;
        if (s.body == BODY_SOLID) {
          if (s.indexSpread > 0) bendOneColour();
          refract(dx, dy, dz, cosine);
          dx = m.rx;
          dy = m.ry;
          dz = m.rz;
          pdf = -1;
        }
      } else {
        s.dropTransmission();
        lift = 0;
      }
      if (lift != 0) {
        if (++crossings > MAX_CROSSINGS || bounce > maxDepth) return;
        ox = s.px + s.gx * lift;
        oy = s.py + s.gy * lift;
        oz = s.pz + s.gz * lift;
        if (pdf < 0) travelled = 0;
        continue;
      }
    }
    g.meet(fromEye);
    if (bounce >= maxDepth || (onlyGuides && g.guided)) return;
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
    const wx = m.rx,
      wy = m.ry,
      wz = max<f32>(<f32>2e-4, m.rz);
    if (scattered) s.soften(blur);
    if (s.coat > 0) {
      m.toLocal(s.coatX, s.coatY, s.coatZ);
      b.layCoat(m.rx, m.ry, m.rz);
    }
    b.prepare(wz);
    s.holdRelief();
    if (!onlyGuides) share = gather(scene, x, y, z, nx, ny, nz, wx, wy, wz, bounce);

    const choice = nextPair(),
      roulette = second;
    const u1 = nextPair();
    if (!b.sample(wx, wy, wz, choice, u1, second)) return;
    if (b.enters) {
      const held: f32 = 1 / b.pdf;
      tR *= b.fR * held;
      tG *= b.fG * held;
      tB *= b.fB * held;
      if (!wander(scene)) return;
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
      share = gather(scene, x, y, z, nx, ny, nz, 0, 0, 1, bounce);
      const out = nextPair();
      if (!b.sample(0, 0, 1, 1, out, second)) return;
    }
    const inverse: f32 = 1 / b.pdf;
    tR *= b.fR * inverse;
    tG *= b.fG * inverse;
    tB *= b.fB * inverse;
    pdf = b.pdf;
    scattered = true;
    sunless = false;
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

/** One sample of the illuminance (lux, rgb in radiance*) on a virtual surface element at a point, facing `n`. */
export function sampleIlluminance(scene: usize, x: f32, y: f32, z: f32, nx: f32, ny: f32, nz: f32): void {
  radianceR = radianceG = radianceB = 0;
  tR = tG = tB = <f32>3.14159265;
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
  const share = gather(scene, x, y, z, nx, ny, nz, 0, 0, 1, 0);
  b.prepare(1);
  const u = nextPair();
  if (!b.sample(0, 0, 1, 1, u, second)) return;
  setFrame(nx, ny, nz);
  m.toWorld(b.wiX, b.wiY, b.wiZ);
  const gap = clearance(x, y, z);
  walkPath(scene, x + nx * gap, y + ny * gap, z + nz * gap, m.rx, m.ry, m.rz, b.pdf, share, 1, 0);
}
