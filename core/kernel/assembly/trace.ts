/**
 * Ray traversal of the two-level tree: four boxes or four triangles at once.
 * Triangle test: Möller & Trumbore 1997. Results are left in module variables, one set per thread's instance.
 */
import {
  INSTANCE_MASK,
  INSTANCE_MESH,
  INSTANCE_SIZE,
  MESH_NODES,
  MESH_PACKETS,
  SCENE_INSTANCES,
  SCENE_INSTANCE_COUNT,
  SCENE_TLAS_NODES,
} from './layout';

const NONE: i32 = i32.MIN_VALUE;

/** Entries, see `entryOf`, 8 bytes each; in front of them one f32x4 for lanes. */
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
  stackBase = scratch + 64;
}

/** A child and where the ray enters it, as one number that sorts by distance. */
// @ts-ignore: decorator
@inline
function entryOf(node: usize, lane: usize): i64 {
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
 * Walks the triangles of one mesh with the ray in object space; shortens hitDistance and records the hit.
 * Returns true as soon as `any` is set and something is hit.
 */
function walkMesh(mesh: usize, instance: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, any: bool, stack: usize): bool {
  const nodes = <usize>load<u32>(mesh, MESH_NODES),
    packets = <usize>load<u32>(mesh, MESH_PACKETS);
  const vox = f32x4.splat(ox),
    voy = f32x4.splat(oy),
    voz = f32x4.splat(oz);
  const ix: f32 = 1 / dx,
    iy: f32 = 1 / dy,
    iz: f32 = 1 / dz;
  const rx = f32x4.splat(ix),
    ry = f32x4.splat(iy),
    rz = f32x4.splat(iz);
  const vdx = f32x4.splat(dx),
    vdy = f32x4.splat(dy),
    vdz = f32x4.splat(dz);
  const zero = f32x4.splat(0),
    one = f32x4.splat(1);
  // By the reciprocal's sign: minus zero counts as negative, or a level ray would miss what it starts in.
  const nx: usize = ix < 0 ? 16 : 0,
    ny: usize = iy < 0 ? 16 : 0,
    nz: usize = iz < 0 ? 16 : 0;
  let far = hitDistance;
  let limit = f32x4.splat(far);
  let found = false;
  let sp = stack;
  let current = 0;
  while (sp >= stack) {
    while (current >= 0) {
      const p = nodes + <usize>current;
      const nearX = f32x4.mul(f32x4.sub(v128.load(p + nx), vox), rx),
        farX = f32x4.mul(f32x4.sub(v128.load(p + (16 - nx)), vox), rx);
      const nearY = f32x4.mul(f32x4.sub(v128.load(p + ny, 32), voy), ry),
        farY = f32x4.mul(f32x4.sub(v128.load(p + (16 - ny), 32), voy), ry);
      const nearZ = f32x4.mul(f32x4.sub(v128.load(p + nz, 64), voz), rz),
        farZ = f32x4.mul(f32x4.sub(v128.load(p + (16 - nz), 64), voz), rz);
      const enter = f32x4.pmax(f32x4.pmax(nearX, nearY), f32x4.pmax(nearZ, zero));
      const leave = f32x4.pmin(f32x4.pmin(farX, farY), f32x4.pmin(farZ, limit));
      let mask = i32x4.bitmask(f32x4.le(enter, leave));
      if (mask == 0) {
        current = NONE;
        break;
      }
      const k0 = <usize>ctz(mask) * 4;
      mask &= mask - 1;
      if (mask == 0) {
        current = load<i32>(p + k0, 96);
        continue;
      }
      v128.store(lanes, enter);
      const a = entryOf(p, k0);
      const k1 = <usize>ctz(mask) * 4;
      mask &= mask - 1;
      const b = entryOf(p, k1);
      bring(nodes, packets, b);
      const first = nearer(a, b),
        second = farther(a, b);
      if (mask == 0) {
        store<i64>(sp, second);
        sp += 8;
        current = <i32>first;
        continue;
      }
      const k2 = <usize>ctz(mask) * 4;
      mask &= mask - 1;
      const c = entryOf(p, k2);
      bring(nodes, packets, c);
      if (mask == 0) {
        const rest = farther(first, c);
        store<i64>(sp, farther(second, rest));
        store<i64>(sp, nearer(second, rest), 8);
        sp += 16;
        current = <i32>nearer(first, c);
        continue;
      }
      const d = entryOf(p, <usize>ctz(mask) * 4);
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
    if (current != NONE) {
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
      let mask = i32x4.bitmask(inside);
      let t = zero;
      if (mask) {
        t = v128.xor(f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)), sign);
        const ahead = v128.and(f32x4.gt(t, zero), f32x4.lt(t, f32x4.mul(size, limit)));
        mask = i32x4.bitmask(v128.and(inside, ahead));
      }
      if (mask) {
        found = true;
        hitInstance = instance;
        hitPacket = q;
        if (any) return true;
        const inv = f32x4.div(one, size);
        v128.store(lanes, f32x4.mul(t, inv));
        let lane: usize = 0;
        while (mask) {
          const k = <usize>ctz(mask);
          mask &= mask - 1;
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

/** One instance: the ray goes to object space unnormalised, so that distances stay those of the world ray. */
function enterInstance(instance: i32, mask: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, any: bool, stack: usize): bool {
  const p = <usize>load<u32>(scene, SCENE_INSTANCES) + <usize>instance * INSTANCE_SIZE;
  if (!(load<i32>(p, INSTANCE_MASK) & mask)) return false;
  const lx = load<f32>(p) * ox + load<f32>(p, 4) * oy + load<f32>(p, 8) * oz + load<f32>(p, 12),
    ly = load<f32>(p, 16) * ox + load<f32>(p, 20) * oy + load<f32>(p, 24) * oz + load<f32>(p, 28),
    lz = load<f32>(p, 32) * ox + load<f32>(p, 36) * oy + load<f32>(p, 40) * oz + load<f32>(p, 44);
  const ex = load<f32>(p) * dx + load<f32>(p, 4) * dy + load<f32>(p, 8) * dz,
    ey = load<f32>(p, 16) * dx + load<f32>(p, 20) * dy + load<f32>(p, 24) * dz,
    ez = load<f32>(p, 32) * dx + load<f32>(p, 36) * dy + load<f32>(p, 40) * dz;
  return walkMesh(<usize>load<u32>(p, INSTANCE_MESH), instance, lx, ly, lz, ex, ey, ez, any, stack);
}

function walk(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, limit: f32, mask: i32, any: bool): bool {
  hitDistance = limit;
  hitInstance = -1;
  if (load<i32>(scene, SCENE_INSTANCE_COUNT) == 0) return false;
  const nodes = <usize>load<u32>(scene, SCENE_TLAS_NODES);
  const vox = f32x4.splat(ox),
    voy = f32x4.splat(oy),
    voz = f32x4.splat(oz);
  const ix: f32 = 1 / dx,
    iy: f32 = 1 / dy,
    iz: f32 = 1 / dz;
  const rx = f32x4.splat(ix),
    ry = f32x4.splat(iy),
    rz = f32x4.splat(iz);
  const nx: usize = ix < 0 ? 16 : 0,
    ny: usize = iy < 0 ? 16 : 0,
    nz: usize = iz < 0 ? 16 : 0;
  let sp = stackBase;
  store<i64>(sp, 0);
  sp += 8;
  while (sp > stackBase) {
    sp -= 8;
    const entry = load<i64>(sp);
    if (distanceOf(entry) > hitDistance) continue;
    const current = <i32>entry;
    if (current < 0) {
      if (enterInstance(~current, mask, ox, oy, oz, dx, dy, dz, any, sp) && any) return true;
      continue;
    }
    const p = nodes + <usize>current;
    const nearX = f32x4.mul(f32x4.sub(v128.load(p + nx), vox), rx),
      farX = f32x4.mul(f32x4.sub(v128.load(p + (16 - nx)), vox), rx);
    const nearY = f32x4.mul(f32x4.sub(v128.load(p + ny, 32), voy), ry),
      farY = f32x4.mul(f32x4.sub(v128.load(p + (16 - ny), 32), voy), ry);
    const nearZ = f32x4.mul(f32x4.sub(v128.load(p + nz, 64), voz), rz),
      farZ = f32x4.mul(f32x4.sub(v128.load(p + (16 - nz), 64), voz), rz);
    const enter = f32x4.pmax(f32x4.pmax(nearX, nearY), f32x4.pmax(nearZ, f32x4.splat(0)));
    const leave = f32x4.pmin(f32x4.pmin(farX, farY), f32x4.pmin(farZ, f32x4.splat(hitDistance)));
    let open = i32x4.bitmask(f32x4.le(enter, leave));
    if (!open) continue;
    v128.store(lanes, enter);
    const base = sp;
    while (open) {
      const k = <usize>ctz(open) * 4;
      open &= open - 1;
      const e = entryOf(p, k);
      let q = sp;
      while (q > base && load<i64>(q - 8) < e) {
        store<i64>(q, load<i64>(q - 8));
        q -= 8;
      }
      store<i64>(q, e);
      sp += 8;
    }
  }
  return hitInstance >= 0;
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
  return walk(ox, oy, oz, dx, dy, dz, limit, mask, false);
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
