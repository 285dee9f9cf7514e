/**
 * Ray traversal of the two-level tree: four boxes or four triangles at once.
 * Triangle test: Möller & Trumbore 1997. Results are left in module variables, one set per thread's instance.
 */
import {
  CUT_FACE,
  INSTANCE_CUT,
  INSTANCE_FILL,
  INSTANCE_MASK,
  INSTANCE_MESH,
  INSTANCE_SIZE,
  MESH_NODES,
  MASK_EARTH,
  MESH_PACKETS,
  NODE_SHEAR,
  PLANE_SIZE,
  SCENE_EARTH,
  SCENE_INSTANCES,
  SCENE_INSTANCE_COUNT,
  SCENE_PLANES,
  SCENE_TLAS_NODES,
} from './layout';

const RAY_ORIGIN: usize = 16;
const RAY_DIRECTION: usize = 64;
const STACK: usize = 128;
const NONE: i32 = i32.MIN_VALUE;
const LEAN: f32 = 1e-36;

/** Entries, see `entryOf`, 8 bytes each; in front of them one f32x4 for lanes, and the ray in the present mesh, splat, for nodes with a frame. */
let stackBase: usize = 0;
let lanes: usize = 0;
let scene: usize = 0;

export let hitDistance: f32 = 0;
export let hitInstance: i32 = -1;
export let hitPacket: usize = 0;
export let hitLane: usize = 0;
export let hitU: f32 = 0;
export let hitV: f32 = 0;

/** Scratch: 8 KiB, 16-byte aligned, owned by this thread. */
export function attachTrace(scenePointer: usize, scratch: usize): void {
  scene = scenePointer;
  lanes = scratch;
  stackBase = scratch + STACK;
}

/** A child and where the ray enters it, as one number that sorts by distance. */
// @ts-ignore: decorator
@inline
function entryOf(lanes: usize, node: usize, lane: usize): i64 {
  return ((<i64>load<i32>(lanes + lane)) << 32) | <i64>load<u32>(node + lane, 96);
}

// @ts-ignore: decorator
@inline
function distanceOf(entry: i64): f32 {
  return reinterpret<f32>(<i32>(entry >> 32));
}

// @ts-ignore: decorator
@inline
function nearer(a: i64, b: i64): i64 {
  return select<i64>(a, b, a < b);
}

// @ts-ignore: decorator
@inline
function farther(a: i64, b: i64): i64 {
  return select<i64>(b, a, a < b);
}

/** Loads whose values nobody uses: they bring a child into the cache while its nearer sibling is walked. */
// @ts-ignore: decorator
@inline
function bring(nodes: usize, packets: usize, entry: i64): void {
  const child = <i32>entry;
  const at = child >= 0 ? nodes + <usize>child : packets + <usize>~child;
  load<i32>(at);
  load<i32>(at, 64);
}

/**
 * Walks a tree and the instances or triangles in its leaves; shortens hitDistance and records the hit. Without packets it is
 * the tree over instances, otherwise that over the triangles of one, with the ray in its object space. Returns true as soon as
 * `any` is set and something is hit. What all nodes need comes by parameters, or the engine would work it out again at each.
 */
function walkTree(
  nodes: usize, packets: usize, instance: i32, vox: v128, voy: v128, voz: v128, vdx: v128, vdy: v128, vdz: v128,
  rx: v128, ry: v128, rz: v128, nx: usize, ny: usize, nz: usize, mask: i32, any: bool, stack: usize, lanes: usize,
): bool {
  const zero = f32x4.splat(0),
    one = f32x4.splat(1);
  if (packets) {
    v128.store(lanes, vox, RAY_ORIGIN);
    v128.store(lanes, voy, RAY_ORIGIN + 16);
    v128.store(lanes, voz, RAY_ORIGIN + 32);
    v128.store(lanes, vdx, RAY_DIRECTION);
    v128.store(lanes, vdy, RAY_DIRECTION + 16);
    v128.store(lanes, vdz, RAY_DIRECTION + 32);
  }
  let far = hitDistance;
  let limit = f32x4.splat(far);
  let found = false;
  let sp = stack;
  let current = 0;
  while (sp >= stack) {
    while (current >= 0) {
      const p = nodes + <usize>current;
      const shear = load<u32>(p, NODE_SHEAR + 12);
      let enter = zero,
        leave = zero;
      if (shear) {
        const k = lanes + <usize>shear * 16;
        const ok = v128.load(k, RAY_ORIGIN - 16),
          dk = v128.load(k, RAY_DIRECTION - 16);
        const ux = v128.load32_splat(p, NODE_SHEAR),
          uy = v128.load32_splat(p, NODE_SHEAR + 4),
          uz = v128.load32_splat(p, NODE_SHEAR + 8);
        const sx = f32x4.sub(vox, f32x4.mul(ux, ok)),
          sy = f32x4.sub(voy, f32x4.mul(uy, ok)),
          sz = f32x4.sub(voz, f32x4.mul(uz, ok));
        const lean = f32x4.splat(LEAN);
        const ix = f32x4.div(one, f32x4.add(f32x4.sub(vdx, f32x4.mul(ux, dk)), lean)),
          iy = f32x4.div(one, f32x4.add(f32x4.sub(vdy, f32x4.mul(uy, dk)), lean)),
          iz = f32x4.div(one, f32x4.add(f32x4.sub(vdz, f32x4.mul(uz, dk)), lean));
        const ax = f32x4.mul(f32x4.sub(v128.load(p), sx), ix),
          bx = f32x4.mul(f32x4.sub(v128.load(p, 16), sx), ix);
        const ay = f32x4.mul(f32x4.sub(v128.load(p, 32), sy), iy),
          by = f32x4.mul(f32x4.sub(v128.load(p, 48), sy), iy);
        const az = f32x4.mul(f32x4.sub(v128.load(p, 64), sz), iz),
          bz = f32x4.mul(f32x4.sub(v128.load(p, 80), sz), iz);
        enter = f32x4.pmax(f32x4.pmax(f32x4.pmin(ax, bx), f32x4.pmin(ay, by)), f32x4.pmax(f32x4.pmin(az, bz), zero));
        leave = f32x4.pmin(f32x4.pmin(f32x4.pmax(ax, bx), f32x4.pmax(ay, by)), f32x4.pmin(f32x4.pmax(az, bz), limit));
      } else {
        const nearX = f32x4.mul(f32x4.sub(v128.load(p + nx), vox), rx),
          farX = f32x4.mul(f32x4.sub(v128.load(p + (16 - nx)), vox), rx);
        const nearY = f32x4.mul(f32x4.sub(v128.load(p + ny, 32), voy), ry),
          farY = f32x4.mul(f32x4.sub(v128.load(p + (16 - ny), 32), voy), ry);
        const nearZ = f32x4.mul(f32x4.sub(v128.load(p + nz, 64), voz), rz),
          farZ = f32x4.mul(f32x4.sub(v128.load(p + (16 - nz), 64), voz), rz);
        enter = f32x4.pmax(f32x4.pmax(nearX, nearY), f32x4.pmax(nearZ, zero));
        leave = f32x4.pmin(f32x4.pmin(farX, farY), f32x4.pmin(farZ, limit));
      }
      let open = i32x4.bitmask(f32x4.le(enter, leave));
      if (open == 0) {
        current = NONE;
        break;
      }
      const k0 = <usize>ctz(open) * 4;
      open &= open - 1;
      if (open == 0) {
        current = load<i32>(p + k0, 96);
        continue;
      }
      v128.store(lanes, enter);
      const a = entryOf(lanes, p, k0);
      const k1 = <usize>ctz(open) * 4;
      open &= open - 1;
      const b = entryOf(lanes, p, k1);
      bring(nodes, packets, b);
      const first = nearer(a, b),
        second = farther(a, b);
      if (open == 0) {
        store<i64>(sp, second);
        sp += 8;
        current = <i32>first;
        continue;
      }
      const k2 = <usize>ctz(open) * 4;
      open &= open - 1;
      const c = entryOf(lanes, p, k2);
      bring(nodes, packets, c);
      if (open == 0) {
        const rest = farther(first, c);
        store<i64>(sp, farther(second, rest));
        store<i64>(sp, nearer(second, rest), 8);
        sp += 16;
        current = <i32>nearer(first, c);
        continue;
      }
      const d = entryOf(lanes, p, <usize>ctz(open) * 4);
      bring(nodes, packets, d);
      const third = nearer(c, d),
        fourth = farther(c, d);
      const rest = farther(first, third),
        last = farther(second, fourth),
        middle = nearer(second, fourth);
      const between = nearer(last, rest);
      store<i64>(sp, farther(last, rest));
      store<i64>(sp, farther(between, middle), 8);
      store<i64>(sp, nearer(between, middle), 16);
      sp += 24;
      current = <i32>nearer(first, third);
    }
    if (!packets && current != NONE) {
      hitDistance = far;
      if (enterInstance(~current, f32x4.extract_lane(vox, 0), f32x4.extract_lane(voy, 0), f32x4.extract_lane(voz, 0), f32x4.extract_lane(vdx, 0), f32x4.extract_lane(vdy, 0), f32x4.extract_lane(vdz, 0), mask, any, sp)) {
        if (any) return true;
        found = true;
        far = hitDistance;
        limit = f32x4.splat(far);
      }
    } else if (current != NONE) {
      const q = packets + <usize>~current;
      const e1x = v128.load(q, 48),
        e1y = v128.load(q, 64),
        e1z = v128.load(q, 80);
      const e2x = v128.load(q, 96),
        e2y = v128.load(q, 112),
        e2z = v128.load(q, 128);
      const px = f32x4.sub(f32x4.mul(vdy, e2z), f32x4.mul(vdz, e2y)),
        py = f32x4.sub(f32x4.mul(vdz, e2x), f32x4.mul(vdx, e2z)),
        pz = f32x4.sub(f32x4.mul(vdx, e2y), f32x4.mul(vdy, e2x));
      const det = f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz));
      const sign = v128.and(det, f32x4.splat(-0.0)),
        size = f32x4.abs(det);
      const tx = f32x4.sub(vox, v128.load(q)),
        ty = f32x4.sub(voy, v128.load(q, 16)),
        tz = f32x4.sub(voz, v128.load(q, 32));
      // Scaled by the determinant's size: most packets are missed, and then no division is made.
      const u = v128.xor(f32x4.add(f32x4.add(f32x4.mul(tx, px), f32x4.mul(ty, py)), f32x4.mul(tz, pz)), sign);
      const qx = f32x4.sub(f32x4.mul(ty, e1z), f32x4.mul(tz, e1y)),
        qy = f32x4.sub(f32x4.mul(tz, e1x), f32x4.mul(tx, e1z)),
        qz = f32x4.sub(f32x4.mul(tx, e1y), f32x4.mul(ty, e1x));
      const v = v128.xor(f32x4.add(f32x4.add(f32x4.mul(vdx, qx), f32x4.mul(vdy, qy)), f32x4.mul(vdz, qz)), sign);
      const inside = v128.and(v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero)), f32x4.le(f32x4.add(u, v), size));
      let closer = i32x4.bitmask(inside);
      let t = zero;
      if (closer) {
        t = v128.xor(f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)), sign);
        const ahead = v128.and(f32x4.gt(t, zero), f32x4.lt(t, f32x4.mul(size, limit)));
        closer = i32x4.bitmask(v128.and(inside, ahead));
      }
      if (closer) {
        found = true;
        hitInstance = instance;
        hitPacket = q;
        if (any) return true;
        const inv = f32x4.div(one, size);
        v128.store(lanes, f32x4.mul(t, inv));
        let lane: usize = 0;
        while (closer) {
          const k = <usize>ctz(closer);
          closer &= closer - 1;
          const d = load<f32>(lanes + k * 4);
          if (d < far) {
            far = d;
            lane = k;
          }
        }
        limit = f32x4.splat(far);
        hitLane = lane;
        v128.store(lanes, f32x4.mul(u, inv));
        hitU = load<f32>(lanes + lane * 4);
        v128.store(lanes, f32x4.mul(v, inv));
        hitV = load<f32>(lanes + lane * 4);
      }
    }
    current = NONE;
    while (sp > stack) {
      sp -= 8;
      const e = load<i64>(sp);
      if (distanceOf(e) <= far) {
        current = <i32>e;
        break;
      }
    }
    if (current == NONE) break;
  }
  hitDistance = far;
  return found;
}

function startTree(nodes: usize, packets: usize, instance: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, mask: i32, any: bool, stack: usize): bool {
  // A ray along an axis leans by nothing that counts: 0 times infinity would say that it misses what lies on a box's side.
  const ix: f32 = 1 / (dx + LEAN),
    iy: f32 = 1 / (dy + LEAN),
    iz: f32 = 1 / (dz + LEAN);
  return walkTree(
    nodes, packets, instance, f32x4.splat(ox), f32x4.splat(oy), f32x4.splat(oz), f32x4.splat(dx), f32x4.splat(dy), f32x4.splat(dz),
    f32x4.splat(ix), f32x4.splat(iy), f32x4.splat(iz), ix < 0 ? 16 : 0, iy < 0 ? 16 : 0, iz < 0 ? 16 : 0, mask, any, stack, lanes,
  );
}

/** One instance: the ray goes to object space unnormalised, so that distances stay those of the world ray. */
function enterInstance(instance: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, mask: i32, any: bool, stack: usize): bool {
  const p = <usize>load<u32>(scene, SCENE_INSTANCES) + <usize>instance * INSTANCE_SIZE;
  if (!(load<i32>(p, INSTANCE_MASK) & mask)) return false;
  const cut = load<u32>(p, INSTANCE_CUT);
  if (cut && !uncut) return enterCut(p, cut, instance, ox, oy, oz, dx, dy, dz, mask, any, stack);
  return enterWhole(p, instance, ox, oy, oz, dx, dy, dz, mask, any, stack);
}

/** How much of a ray lies in what planes leave: where it comes in, through which plane (-1: it begins there), and where it goes out. */
let keptFrom: f32 = 0;
let keptTo: f32 = Infinity;
let keptThrough: i32 = -1;
/** Rays of this thread are cut by no plane. */
let uncut: bool = false;

export function setUncut(on: i32): void {
  uncut = on != 0;
}

/** False: nothing of it does. */
function meetPlanes(planes: u32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): bool {
  keptFrom = 0;
  keptTo = Infinity;
  keptThrough = -1;
  const table = <usize>load<u32>(scene, SCENE_PLANES);
  while (planes) {
    const k = ctz(planes);
    planes &= planes - 1;
    const q = table + <usize>k * PLANE_SIZE;
    const x = load<f32>(q),
      y = load<f32>(q, 4),
      z = load<f32>(q, 8);
    const outside = x * ox + y * oy + z * oz - load<f32>(q, 12),
      slope = x * dx + y * dy + z * dz;
    if (slope == 0) {
      if (outside > 0) return false;
      continue;
    }
    const t = -outside / slope;
    if (slope > 0) keptTo = min(keptTo, t);
    else if (t > keptFrom) {
      keptFrom = t;
      keptThrough = k;
    }
  }
  return keptFrom < keptTo;
}

/** An instance that planes cut. What a ray first meets from within, coming in through a plane, is met on the cut face. */
function enterCut(p: usize, cut: u32, instance: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, mask: i32, any: bool, stack: usize): bool {
  const known = hitDistance;
  if (!meetPlanes(cut, ox, oy, oz, dx, dy, dz) || keptFrom >= known) return false;
  const from = keptFrom,
    through = keptThrough;
  const filled = !any && from > 0 && load<u32>(p, INSTANCE_FILL) != 0;
  const knownInstance = hitInstance,
    packet = hitPacket,
    lane = hitLane,
    u = hitU,
    v = hitV;
  const to = min(keptTo, known);
  // A body that is filled is followed beyond what is nearer or cut away: the ray may be inside it.
  hitDistance = filled ? Infinity : to - from;
  const found = enterWhole(p, instance, ox + dx * from, oy + dy * from, oz + dz * from, dx, dy, dz, mask, any, stack);
  if (any) {
    hitDistance = known;
    return found;
  }
  if (found && filled && leavesBody(p, dx, dy, dz)) {
    hitDistance = from;
    hitLane = CUT_FACE + <usize>through;
    return true;
  }
  const distance = from + hitDistance;
  if (found && distance < to) {
    hitDistance = distance;
    return true;
  }
  putHit(known, knownInstance, packet, lane, u, v);
  return false;
}

/** Whether the triangle that was hit is seen from within. */
function leavesBody(p: usize, dx: f32, dy: f32, dz: f32): bool {
  const q = hitPacket + hitLane * 4;
  const ax = load<f32>(q, 48),
    ay = load<f32>(q, 64),
    az = load<f32>(q, 80);
  const bx = load<f32>(q, 96),
    by = load<f32>(q, 112),
    bz = load<f32>(q, 128);
  const x = load<f32>(p) * dx + load<f32>(p, 4) * dy + load<f32>(p, 8) * dz,
    y = load<f32>(p, 16) * dx + load<f32>(p, 20) * dy + load<f32>(p, 24) * dz,
    z = load<f32>(p, 32) * dx + load<f32>(p, 36) * dy + load<f32>(p, 40) * dz;
  return (ay * bz - az * by) * x + (az * bx - ax * bz) * y + (ax * by - ay * bx) * z > 0;
}

/** Ground is no body: what lies under it where a plane cuts is earth. */
function meetEarth(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): bool {
  if (!meetPlanes(load<u32>(scene, SCENE_EARTH), ox, oy, oz, dx, dy, dz)) return false;
  if (keptThrough < 0 || keptFrom >= hitDistance) return false;
  const from = keptFrom,
    through = keptThrough,
    distance = hitDistance,
    instance = hitInstance,
    packet = hitPacket,
    lane = hitLane,
    u = hitU,
    v = hitV;
  uncut = true;
  const under = walk(ox + dx * from, oy + dy * from, oz + dz * from, <f32>0.0007, <f32>0.0003, 1, Infinity, MASK_EARTH, true);
  uncut = false;
  if (under) putHit(from, hitInstance, hitPacket, CUT_FACE + <usize>through, 0, 0);
  else putHit(distance, instance, packet, lane, u, v);
  return under;
}

function enterWhole(p: usize, instance: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, mask: i32, any: bool, stack: usize): bool {
  const mesh = <usize>load<u32>(p, INSTANCE_MESH);
  return startTree(
    <usize>load<u32>(mesh, MESH_NODES),
    <usize>load<u32>(mesh, MESH_PACKETS),
    instance,
    load<f32>(p) * ox + load<f32>(p, 4) * oy + load<f32>(p, 8) * oz + load<f32>(p, 12),
    load<f32>(p, 16) * ox + load<f32>(p, 20) * oy + load<f32>(p, 24) * oz + load<f32>(p, 28),
    load<f32>(p, 32) * ox + load<f32>(p, 36) * oy + load<f32>(p, 40) * oz + load<f32>(p, 44),
    load<f32>(p) * dx + load<f32>(p, 4) * dy + load<f32>(p, 8) * dz,
    load<f32>(p, 16) * dx + load<f32>(p, 20) * dy + load<f32>(p, 24) * dz,
    load<f32>(p, 32) * dx + load<f32>(p, 36) * dy + load<f32>(p, 40) * dz,
    mask,
    any,
    stack,
  );
}

function walk(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, limit: f32, mask: i32, any: bool): bool {
  hitDistance = limit;
  hitInstance = -1;
  if (load<i32>(scene, SCENE_INSTANCE_COUNT) == 0) return false;
  return startTree(<usize>load<u32>(scene, SCENE_TLAS_NODES), 0, -1, ox, oy, oz, dx, dy, dz, mask, any, stackBase);
}

/** Puts back what an earlier ray has hit, `distance` along another one. */
export function putHit(distance: f32, ofInstance: i32, packet: usize, lane: usize, u: f32, v: f32): void {
  hitDistance = distance;
  hitInstance = ofInstance;
  hitPacket = packet;
  hitLane = lane;
  hitU = u;
  hitV = v;
}

/** Nearest hit within `limit` among instances that carry a bit of `mask`; details in the hit* variables. */
export function traceClosest(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, limit: f32, mask: i32): bool {
  const found = walk(ox, oy, oz, dx, dy, dz, limit, mask, false);
  if (uncut || load<u32>(scene, SCENE_EARTH) == 0) return found;
  return meetEarth(ox, oy, oz, dx, dy, dz) || found;
}

/** Whether anything that carries a bit of `mask` lies within `limit`. */
export function traceAny(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, limit: f32, mask: i32): bool {
  return walk(ox, oy, oz, dx, dy, dz, limit, mask, true);
}

/** For measurements: nearest hits of `count` rays (origin, direction: f32x6). Returns the hits; distances are stored if `out`. */
export function traceBatch(rays: usize, count: i32, out: usize): i32 {
  let hits = 0;
  for (let i = 0; i < count; i++) {
    const r = rays + <usize>i * 24;
    const hit = traceClosest(
      load<f32>(r),
      load<f32>(r, 4),
      load<f32>(r, 8),
      load<f32>(r, 12),
      load<f32>(r, 16),
      load<f32>(r, 20),
      Infinity,
      -1,
    );
    if (hit) hits++;
    if (out) store<f32>(out + <usize>i * 4, hit ? hitDistance : -1);
  }
  return hits;
}
