/** Lamps and emissive triangles, picked in proportion to their power. */
import {
  LIGHT_AREA,
  LIGHT_AXIS,
  LIGHT_COS_INNER,
  LIGHT_COS_OUTER,
  LIGHT_EDGE_1,
  LIGHT_EDGE_2,
  LIGHT_HALF_LENGTH,
  LIGHT_HALF_WIDTH,
  LIGHT_IS_LAMP,
  LIGHT_KIND,
  LIGHT_LENS,
  LIGHT_POSITION,
  LIGHT_POWER,
  LIGHT_PROBABILITY,
  LIGHT_RADIUS,
  LIGHT_RIGHT,
  LIGHT_SIZE,
  LIGHT_WEB,
  SCENE_LIGHTS,
  SCENE_LIGHT_CDF,
  SCENE_LIGHT_COUNT,
} from './layout';
import * as m from './maths';

/** Direction, distance and power of the sampled light; `lightPdf` is per steradian, 0 for a lamp (its power is already E = I/d2). */
export let toX: f32 = 0;
export let toY: f32 = 0;
export let toZ: f32 = 0;
export let distance: f32 = 0;
export let powerR: f32 = 0;
export let powerG: f32 = 0;
export let powerB: f32 = 0;
export let lightPdf: f32 = 0;

function pick(scene: usize, u: f32): i32 {
  const cdf = <usize>load<u32>(scene, SCENE_LIGHT_CDF);
  let low = 0,
    high = load<i32>(scene, SCENE_LIGHT_COUNT) - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (load<f32>(cdf + <usize>middle * 4) > u) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** Samples one light as seen from a point. False when it sends nothing there, or the point is on its own lens. */
export function sampleLight(scene: usize, px: f32, py: f32, pz: f32, lens: i32, choice: f32, u1: f32, u2: f32): bool {
  if (load<i32>(scene, SCENE_LIGHT_COUNT) == 0) return false;
  const p = <usize>load<u32>(scene, SCENE_LIGHTS) + <usize>pick(scene, choice) * LIGHT_SIZE;
  if (load<i32>(p, LIGHT_KIND) != LIGHT_IS_LAMP) return sampleTriangle(p, px, py, pz, u1, u2);
  return (lens == 0 || load<i32>(p, LIGHT_LENS) != lens) && sampleLamp(p, px, py, pz, u1, u2);
}

function aim(x: f32, y: f32, z: f32): bool {
  const d2 = x * x + y * y + z * z;
  if (d2 < 1e-10) return false;
  distance = sqrt<f32>(d2);
  const s: f32 = 1 / distance;
  toX = x * s;
  toY = y * s;
  toZ = z * s;
  return true;
}

/** A point of a flat lamp or a tube, from its middle, into m.rx, m.ry and m.rz. */
function onExtent(p: usize, u1: f32, u2: f32): void {
  const length = load<f32>(p, LIGHT_HALF_LENGTH),
    width = load<f32>(p, LIGHT_HALF_WIDTH);
  let along: f32 = (2 * u1 - 1) * length,
    across: f32 = (2 * u2 - 1) * width;
  if (length < 0) {
    const r = sqrt<f32>(u1) * width;
    m.turn(u2);
    along = r * m.cosine;
    across = r * m.sine;
  }
  const rx = load<f32>(p, LIGHT_RIGHT),
    ry = load<f32>(p, LIGHT_RIGHT + 4),
    rz = load<f32>(p, LIGHT_RIGHT + 8),
    ax = load<f32>(p, LIGHT_AXIS),
    ay = load<f32>(p, LIGHT_AXIS + 4),
    az = load<f32>(p, LIGHT_AXIS + 8);
  m.rx = rx * across + (ay * rz - az * ry) * along;
  m.ry = ry * across + (az * rx - ax * rz) * along;
  m.rz = rz * across + (ax * ry - ay * rx) * along;
}

/** What a lamp sheds at right angles over its intensity: 1/d2; of a ball that is as bright all over never more than at its surface. */
let perIntensity: f32 = 0;

/**
 * A direction to the part of a ball that is seen from a point (x, y, z from the point to its middle), evenly over its solid angle (Pharr, Jakob &
 * Humphreys, "Physically Based Rendering", 6.2.4). What of the ball lies behind the plane that it is mounted on is seen before it.
 */
function aimAtBall(p: usize, x: f32, y: f32, z: f32, u1: f32, u2: f32): bool {
  const radius = load<f32>(p, LIGHT_RADIUS);
  if (!aim(x, y, z)) return false;
  if (radius <= 0) {
    perIntensity = 1 / (distance * distance);
    return true;
  }
  const away = distance,
    sine2: f32 = min<f32>(1, (radius * radius) / (away * away)),
    edge = sqrt<f32>(1 - sine2),
    // 1 - cosine of the ball's rim, without what is lost where it is small.
    fall: f32 = sine2 / (1 + edge),
    fallen = u1 * fall,
    cosine: f32 = 1 - fallen,
    sine = sqrt<f32>(max<f32>(0, fallen * (2 - fallen)));
  perIntensity = (2 * fall) / (radius * radius);
  m.turn(u2);
  m.setFrame(toX, toY, toZ);
  m.toWorld(sine * m.cosine, sine * m.sine, cosine);
  const near: f32 = max<f32>(<f32>1e-4, away * cosine - sqrt<f32>(max<f32>(0, radius * radius - away * away * sine * sine)));
  const ax = load<f32>(p, LIGHT_AXIS),
    ay = load<f32>(p, LIGHT_AXIS + 4),
    az = load<f32>(p, LIGHT_AXIS + 8);
  const behind: f32 = 2 * min<f32>(0, m.dot(m.rx * near - x, m.ry * near - y, m.rz * near - z, ax, ay, az));
  return aim(m.rx * near - behind * ax, m.ry * near - behind * ay, m.rz * near - behind * az);
}

/** Illuminance of a lamp at right angles is I / d2; its edge falls off smoothly between the outer and inner cone. */
function sampleLamp(p: usize, px: f32, py: f32, pz: f32, u1: f32, u2: f32): bool {
  const x = load<f32>(p, LIGHT_POSITION) - px,
    y = load<f32>(p, LIGHT_POSITION + 4) - py,
    z = load<f32>(p, LIGHT_POSITION + 8) - pz;
  if (load<f32>(p, LIGHT_HALF_LENGTH) == 0 && load<f32>(p, LIGHT_HALF_WIDTH) == 0) {
    if (!aimAtBall(p, x, y, z, u1, u2)) return false;
  } else {
    onExtent(p, u1, u2);
    if (!aim(x + m.rx, y + m.ry, z + m.rz)) return false;
    perIntensity = 1 / (distance * distance);
  }
  const web = <usize>load<u32>(p, LIGHT_WEB),
    outer = load<f32>(p, LIGHT_COS_OUTER);
  let share: f32 = 1;
  if (web != 0) share = measured(p, web);
  else if (outer > -1) {
    const c = -m.dot(toX, toY, toZ, load<f32>(p, LIGHT_AXIS), load<f32>(p, LIGHT_AXIS + 4), load<f32>(p, LIGHT_AXIS + 8));
    const t = max<f32>(0, min<f32>(1, (c - outer) / max<f32>(<f32>1e-5, load<f32>(p, LIGHT_COS_INNER) - outer)));
    share = t * t * (3 - 2 * t);
  }
  if (share <= 0) return false;
  const k = (share * perIntensity) / load<f32>(p, LIGHT_PROBABILITY);
  powerR = load<f32>(p, LIGHT_POWER) * k;
  powerG = load<f32>(p, LIGHT_POWER + 4) * k;
  powerB = load<f32>(p, LIGHT_POWER + 8) * k;
  lightPdf = 0;
  return true;
}

/** Intensity of a photometric web towards the point, cd per lm; read between the grid's angles. */
function measured(p: usize, web: usize): f32 {
  const ax = load<f32>(p, LIGHT_AXIS),
    ay = load<f32>(p, LIGHT_AXIS + 4),
    az = load<f32>(p, LIGHT_AXIS + 8),
    rx = load<f32>(p, LIGHT_RIGHT),
    ry = load<f32>(p, LIGHT_RIGHT + 4),
    rz = load<f32>(p, LIGHT_RIGHT + 8),
    along = -m.dot(toX, toY, toZ, ax, ay, az),
    x = -m.dot(toX, toY, toZ, rx, ry, rz),
    y = -m.dot(toX, toY, toZ, ay * rz - az * ry, az * rx - ax * rz, ax * ry - ay * rx);
  const gamma = Mathf.acos(max<f32>(-1, min<f32>(1, along))) * <f32>(180 / Math.PI);
  const gammas = <i32>load<f32>(web),
    planes = <i32>load<f32>(web, 4),
    gammaAt = web + 8,
    planeAt = gammaAt + <usize>gammas * 4,
    values = planeAt + <usize>planes * 4;
  if (gamma < load<f32>(gammaAt) || gamma > load<f32>(gammaAt + <usize>(gammas - 1) * 4)) return 0;
  const row = below(gammaAt, gammas, gamma),
    v = onFrom(gammaAt, gammas, row, gamma);
  if (planes == 1) return inPlane(values, row, v);
  let c = Mathf.atan2(y, x) * <f32>(180 / Math.PI);
  if (c < load<f32>(planeAt)) c += 360;
  const plane = below(planeAt, planes, c),
    u = onFrom(planeAt, planes, plane, c);
  const at = values + <usize>(plane * gammas) * 4;
  return inPlane(at, row, v) * (1 - u) + inPlane(at + <usize>gammas * 4, row, v) * u;
}

/** The last of rising angles that is not above one, but for the very last. */
function below(angles: usize, count: i32, angle: f32): i32 {
  let low = 0,
    high = count - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (load<f32>(angles + <usize>middle * 4) <= angle) low = middle;
    else high = middle;
  }
  return low;
}

/** How far on an angle lies from one of rising ones to the next. */
function onFrom(angles: usize, count: i32, at: i32, angle: f32): f32 {
  if (count == 1) return 0;
  const low = load<f32>(angles + <usize>at * 4),
    high = load<f32>(angles + <usize>at * 4, 4);
  return max<f32>(0, min<f32>(1, (angle - low) / (high - low)));
}

function inPlane(values: usize, row: i32, share: f32): f32 {
  const p = values + <usize>row * 4;
  return share > 0 ? load<f32>(p) * (1 - share) + load<f32>(p, 4) * share : load<f32>(p);
}

function sampleTriangle(p: usize, px: f32, py: f32, pz: f32, u1: f32, u2: f32): bool {
  const root = sqrt<f32>(u1),
    b1 = root * (1 - u2),
    b2 = root * u2;
  const ax = load<f32>(p, LIGHT_EDGE_1),
    ay = load<f32>(p, LIGHT_EDGE_1 + 4),
    az = load<f32>(p, LIGHT_EDGE_1 + 8),
    bx = load<f32>(p, LIGHT_EDGE_2),
    by = load<f32>(p, LIGHT_EDGE_2 + 4),
    bz = load<f32>(p, LIGHT_EDGE_2 + 8);
  if (
    !aim(
      load<f32>(p, LIGHT_POSITION) + ax * b1 + bx * b2 - px,
      load<f32>(p, LIGHT_POSITION + 4) + ay * b1 + by * b2 - py,
      load<f32>(p, LIGHT_POSITION + 8) + az * b1 + bz * b2 - pz,
    )
  )
    return false;
  m.normalise(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx);
  const c = abs(m.dot(toX, toY, toZ, m.rx, m.ry, m.rz));
  if (c < 1e-6) return false;
  lightPdf = (load<f32>(p, LIGHT_PROBABILITY) * distance * distance) / (c * load<f32>(p, LIGHT_AREA));
  powerR = load<f32>(p, LIGHT_POWER);
  powerG = load<f32>(p, LIGHT_POWER + 4);
  powerB = load<f32>(p, LIGHT_POWER + 8);
  return true;
}

/** Density with which `sampleLight` would have chosen a point of emissive triangle `light`, seen at `cosine` over `metres`. */
export function trianglePdf(scene: usize, light: i32, metres: f32, cosine: f32): f32 {
  const p = <usize>load<u32>(scene, SCENE_LIGHTS) + <usize>light * LIGHT_SIZE;
  return (load<f32>(p, LIGHT_PROBABILITY) * metres * metres) / (max<f32>(<f32>1e-6, cosine) * load<f32>(p, LIGHT_AREA));
}
