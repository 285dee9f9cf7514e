/**
 * Builds a four-wide bounding volume hierarchy over primitive bounds: binned surface-area heuristic
 * (Wald 2007, "On fast Construction of SAH-based Bounding Volume Hierarchies"), two-wide first, then collapsed.
 * All working memory comes from the host, so that a build leaves nothing behind.
 */
import { BOUNDS_SIZE, NODE_SHEAR, NODE_SIZE, PACKET_SIZE } from './layout';
import { presplit, referenceCapacity } from './presplit';
import { attachSlant, frameAt, slantOf, slantScratchSize, stretchOf } from './slant';

const BIN_COUNT: i32 = 16;
const FEW: i32 = 24;
const BIN_SIZE: usize = 48;
const LEAF_MAX: i32 = 4;

let bounds: usize = 0;
let order: usize = 0;
/** Binary nodes, 32 bytes: min xyz, max xyz, left child or first primitive, primitive count; for inner ones 0, less the frame of their children. */
let binary: usize = 0;
let binaryCount: i32 = 0;
let bins: usize = 0;
let sweep: usize = 0;
let nodes: usize = 0;
let nodeCount: i32 = 0;
let leaves: usize = 0;
let leafCount: i32 = 0;
/** Triangles are tested four at a time; instances one by one, each behind its own box. */
let leafMax: i32 = LEAF_MAX;
let positions: usize = 0;
let indices: usize = 0;
/** Triangle of each reference, u32. */
let owners: usize = 0;

/** What the faces across x, y and z count in the frame that is being built in. */
let stretchX: f32 = 1;
let stretchY: f32 = 1;
let stretchZ: f32 = 1;

function buildIn(stretch: v128): void {
  stretchX = f32x4.extract_lane(stretch, 0);
  stretchY = f32x4.extract_lane(stretch, 1);
  stretchZ = f32x4.extract_lane(stretch, 2);
}

// @ts-ignore: decorator
@inline
function halfArea(extent: v128): f32 {
  const x = f32x4.extract_lane(extent, 0),
    y = f32x4.extract_lane(extent, 1),
    z = f32x4.extract_lane(extent, 2);
  return x * y * stretchZ + y * z * stretchX + z * x * stretchY;
}

/** Boxes lie in the order of the tree, so that every pass over a node's boxes walks through memory. */
// @ts-ignore: decorator
@inline
function minOf(position: i32): v128 {
  return v128.load(bounds + <usize>position * BOUNDS_SIZE);
}

// @ts-ignore: decorator
@inline
function maxOf(position: i32): v128 {
  return v128.load(bounds + <usize>position * BOUNDS_SIZE + 16);
}

// @ts-ignore: decorator
@inline
function primitiveAt(position: i32): i32 {
  return load<i32>(order + <usize>position * 4);
}

function swap(i: i32, j: i32): void {
  const p = bounds + <usize>i * BOUNDS_SIZE,
    q = bounds + <usize>j * BOUNDS_SIZE;
  const low = v128.load(p),
    high = v128.load(p, 16);
  v128.store(p, v128.load(q));
  v128.store(p, v128.load(q, 16), 16);
  v128.store(q, low);
  v128.store(q, high, 16);
  const primitive = primitiveAt(i);
  store<i32>(order + <usize>i * 4, primitiveAt(j));
  store<i32>(order + <usize>j * 4, primitive);
}

/** What a leaf side costs: triangles are tested in fours. */
// @ts-ignore: decorator
@inline
function tests(n: i32): f32 {
  return <f32>(leafMax == 1 ? n : (n + LEAF_MAX - 1) / LEAF_MAX);
}

function storeBinary(node: i32, low: v128, high: v128, first: i32, count: i32): void {
  const p = binary + <usize>node * 32;
  v128.store(p, low);
  store<f32>(p, f32x4.extract_lane(high, 0), 12);
  store<f32>(p, f32x4.extract_lane(high, 1), 16);
  store<f32>(p, f32x4.extract_lane(high, 2), 20);
  store<i32>(p, first, 24);
  store<i32>(p, count, 28);
}

let bestAxis: i32 = -1;
let bestBin: i32 = 0;
/** Bins in use: a handful of boxes needs no more than half of them. */
let binCount: i32 = BIN_COUNT;

/** Bin of a box on each axis, from where the bins begin and how many there are a metre (twice the box's centre). */
// @ts-ignore: decorator
@inline
function binsOf(position: i32, low: v128, scale: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(f32x4.add(minOf(position), maxOf(position)), low), scale));
}

// @ts-ignore: decorator
@inline
function putInBin(axis: usize, bin: i32, low: v128, high: v128): void {
  const q = bins + (axis * <usize>BIN_COUNT + <usize>bin) * BIN_SIZE;
  v128.store(q, f32x4.pmin(v128.load(q), low));
  v128.store(q, f32x4.pmax(v128.load(q, 16), high), 16);
  store<i32>(q, load<i32>(q, 32) + 1, 32);
}

function fillBins(first: i32, count: i32, low: v128, scale: v128): void {
  for (let axis = 0; axis < 3; axis++)
    for (let b = 0; b < binCount; b++) {
      const q = bins + <usize>(axis * BIN_COUNT + b) * BIN_SIZE;
      v128.store(q, f32x4.splat(Infinity));
      v128.store(q, f32x4.splat(-Infinity), 16);
      store<i32>(q, 0, 32);
    }
  for (let i = first; i < first + count; i++) {
    const at = binsOf(i, low, scale);
    const a = minOf(i),
      b = maxOf(i);
    putInBin(0, i32x4.extract_lane(at, 0), a, b);
    putInBin(1, i32x4.extract_lane(at, 1), a, b);
    putInBin(2, i32x4.extract_lane(at, 2), a, b);
  }
}

/** Least cost of a split along an axis, if it is less than `best`; where is left in best*. */
function sweepBins(count: i32, axis: i32, best: f32): f32 {
  const row = bins + <usize>(axis * BIN_COUNT) * BIN_SIZE;
  let lo = f32x4.splat(Infinity),
    hi = f32x4.splat(-Infinity),
    n = 0;
  for (let b = 0; b < binCount - 1; b++) {
    const q = row + <usize>b * BIN_SIZE;
    lo = f32x4.pmin(lo, v128.load(q));
    hi = f32x4.pmax(hi, v128.load(q, 16));
    n += load<i32>(q, 32);
    store<f32>(sweep + <usize>b * 4, n ? halfArea(f32x4.sub(hi, lo)) * tests(n) : 0);
  }
  lo = f32x4.splat(Infinity);
  hi = f32x4.splat(-Infinity);
  n = 0;
  for (let b = binCount - 1; b > 0; b--) {
    const q = row + <usize>b * BIN_SIZE;
    lo = f32x4.pmin(lo, v128.load(q));
    hi = f32x4.pmax(hi, v128.load(q, 16));
    n += load<i32>(q, 32);
    if (!n || n == count) continue;
    const cost = halfArea(f32x4.sub(hi, lo)) * tests(n) + load<f32>(sweep + <usize>(b - 1) * 4);
    if (cost < best) {
      best = cost;
      bestAxis = axis;
      bestBin = b;
    }
  }
  return best;
}

function partition(first: i32, count: i32, low: v128, scale: v128): i32 {
  let i = first,
    j = first + count - 1;
  while (i <= j) {
    const at = binsOf(i, low, scale);
    const bin = bestAxis == 0 ? i32x4.extract_lane(at, 0) : bestAxis == 1 ? i32x4.extract_lane(at, 1) : i32x4.extract_lane(at, 2);
    if (bin < bestBin) i++;
    else swap(i, j--);
  }
  return i;
}

/** Bins a metre; none along an axis on which all centres are as good as the same. */
// @ts-ignore: decorator
@inline
function binScale(extent: v128): v128 {
  const wide = f32x4.gt(extent, f32x4.splat(1e-7));
  return v128.and(f32x4.div(f32x4.splat(<f32>binCount * <f32>0.9999), extent), wide);
}

let low: v128 = f32x4.splat(0);
let high: v128 = f32x4.splat(0);
let centreLow: v128 = f32x4.splat(0);
let centreHigh: v128 = f32x4.splat(0);

/** Bounds of boxes, and of twice their centres. */
function measure(first: i32, count: i32): void {
  low = centreLow = f32x4.splat(Infinity);
  high = centreHigh = f32x4.splat(-Infinity);
  for (let i = first; i < first + count; i++) {
    const a = minOf(i),
      b = maxOf(i),
      c = f32x4.add(a, b);
    low = f32x4.pmin(low, a);
    high = f32x4.pmax(high, b);
    centreLow = f32x4.pmin(centreLow, c);
    centreHigh = f32x4.pmax(centreHigh, c);
  }
}

/** `frame`: that of the boxes, 0 while they are upright. */
function split(node: i32, first: i32, count: i32, frame: i32): void {
  measure(first, count);
  if (count <= leafMax) {
    storeBinary(node, low, high, first, count);
    return;
  }
  const left = binaryCount;
  binaryCount += 2;
  const found = frame == 0 && positions ? slantOf(bounds, order, owners, first, count, low, high) : 0;
  storeBinary(node, low, high, left, -(frame | found));
  if (found) {
    buildIn(stretchOf(v128.load(frameAt(found))));
    measure(first, count);
  }
  bestAxis = -1;
  binCount = count > FEW ? BIN_COUNT : BIN_COUNT / 2;
  const from = centreLow;
  const scale = binScale(f32x4.sub(centreHigh, centreLow));
  fillBins(first, count, from, scale);
  let best: f32 = Infinity;
  for (let axis = 0; axis < 3; axis++) best = sweepBins(count, axis, best);
  let middle = first + count / 2;
  if (bestAxis >= 0) {
    const m = partition(first, count, from, scale);
    if (m > first && m < first + count) middle = m;
  }
  split(left, first, middle - first, frame | found);
  split(left + 1, middle, first + count - middle, frame | found);
  if (found) buildIn(f32x4.splat(1));
}

// @ts-ignore: decorator
@inline
function isInner(node: i32): bool {
  return load<i32>(binary + <usize>node * 32, 28) <= 0;
}

/** Frame in which a node's children have their boxes. */
// @ts-ignore: decorator
@inline
function frameOf(node: i32): i32 {
  return -load<i32>(binary + <usize>node * 32, 28);
}

function areaOf(node: i32): f32 {
  const p = binary + <usize>node * 32;
  const x = load<f32>(p, 12) - load<f32>(p),
    y = load<f32>(p, 16) - load<f32>(p, 4),
    z = load<f32>(p, 20) - load<f32>(p, 8);
  return x * y + y * z + z * x;
}

function trianglePacket(first: i32, count: i32): i32 {
  const q = leaves + <usize>leafCount * PACKET_SIZE;
  memory.fill(q, 0, PACKET_SIZE);
  for (let k = 0; k < LEAF_MAX; k++) {
    const lane = <usize>k * 4;
    if (k >= count) {
      store<i32>(q + lane, -1, 144);
      continue;
    }
    const t = load<i32>(owners + <usize>primitiveAt(first + k) * 4);
    const i = indices + <usize>t * 12;
    const a = positions + <usize>load<u32>(i) * 12,
      b = positions + <usize>load<u32>(i, 4) * 12,
      c = positions + <usize>load<u32>(i, 8) * 12;
    for (let axis: usize = 0; axis < 3; axis++) {
      const v = load<f32>(a + axis * 4);
      store<f32>(q + axis * 16 + lane, v);
      store<f32>(q + 48 + axis * 16 + lane, load<f32>(b + axis * 4) - v);
      store<f32>(q + 96 + axis * 16 + lane, load<f32>(c + axis * 4) - v);
    }
    store<i32>(q + lane, t, 144);
  }
  return leafCount++;
}

function leafOf(node: i32): i32 {
  const p = binary + <usize>node * 32;
  const first = load<i32>(p, 24),
    count = load<i32>(p, 28);
  return ~(positions ? trianglePacket(first, count) * <i32>PACKET_SIZE : primitiveAt(first));
}

function storeChild(p: usize, lane: usize, source: i32): void {
  const s = binary + <usize>source * 32;
  store<f32>(p + lane, load<f32>(s));
  store<f32>(p + lane, load<f32>(s, 12), 16);
  store<f32>(p + lane, load<f32>(s, 4), 32);
  store<f32>(p + lane, load<f32>(s, 16), 48);
  store<f32>(p + lane, load<f32>(s, 8), 64);
  store<f32>(p + lane, load<f32>(s, 20), 80);
}

/** Opens the largest inner children until four are held, then writes the wide node. */
function collapse(root: i32): i32 {
  const me = nodeCount++;
  const p = nodes + <usize>me * NODE_SIZE;
  const frame = frameOf(root);
  if (frame > 0) v128.store(p, v128.load(frameAt(frame)), NODE_SHEAR);
  else v128.store(p, i32x4.splat(0), NODE_SHEAR);
  let c0 = root,
    c1 = -1,
    c2 = -1,
    c3 = -1,
    n = 1;
  while (n < 4) {
    let widest = -1;
    let widestArea: f32 = -1;
    for (let k = 0; k < n; k++) {
      const c = k == 0 ? c0 : k == 1 ? c1 : c2;
      if (!isInner(c) || frameOf(c) != frame) continue;
      const a = areaOf(c);
      if (a > widestArea) {
        widestArea = a;
        widest = k;
      }
    }
    if (widest < 0) break;
    const left = load<i32>(binary + <usize>(widest == 0 ? c0 : widest == 1 ? c1 : c2) * 32, 24);
    if (widest == 0) c0 = left;
    else if (widest == 1) c1 = left;
    else c2 = left;
    if (n == 1) c1 = left + 1;
    else if (n == 2) c2 = left + 1;
    else c3 = left + 1;
    n++;
  }
  for (let k = 0; k < 4; k++) {
    const lane = <usize>k * 4;
    if (k < n) {
      const c = k == 0 ? c0 : k == 1 ? c1 : k == 2 ? c2 : c3;
      storeChild(p, lane, c);
      store<i32>(p + lane, isInner(c) ? collapse(c) * <i32>NODE_SIZE : leafOf(c), 96);
    } else {
      for (let plane: usize = 0; plane < 6; plane++) store<f32>(p + plane * 16 + lane, NaN);
      store<i32>(p + lane, 0, 96);
    }
  }
  return me;
}

/** The greatest coordinate of all boxes, either way. */
function farthest(count: i32): f32 {
  let most = f32x4.splat(0);
  for (let i = 0; i < count; i++) most = f32x4.pmax(most, f32x4.pmax(f32x4.abs(minOf(i)), f32x4.abs(maxOf(i))));
  return max(f32x4.extract_lane(most, 0), max(f32x4.extract_lane(most, 1), f32x4.extract_lane(most, 2)));
}

function build(primitiveBounds: usize, count: i32, outNodes: usize, outLeaves: usize, scratch: usize): void {
  bounds = primitiveBounds;
  bins = scratch;
  sweep = bins + <usize>(3 * BIN_COUNT) * BIN_SIZE;
  order = sweep + <usize>BIN_COUNT * 4;
  binary = (order + <usize>count * 4 + 15) & ~15;
  if (positions) attachSlant(positions, indices, count, farthest(count), binary + <usize>count * 64);
  nodes = outNodes;
  leaves = outLeaves;
  nodeCount = 0;
  leafCount = 0;
  binaryCount = 1;
  leafMax = positions ? LEAF_MAX : 1;
  for (let i = 0; i < count; i++) store<i32>(order + <usize>i * 4, i);
  split(0, 0, count, 0);
  collapse(0);
}

/** Bytes of scratch memory a build over `count` references or instances needs. */
export function bvhScratchSize(count: i32): usize {
  return <usize>BIN_COUNT * (3 * BIN_SIZE + 4) + <usize>count * (4 + 4 + 64) + slantScratchSize(count) + 256;
}

/**
 * Tree over the triangles of one mesh. Positions are f32x3, indices u32x3.
 * `boundsScratch` holds 32 bytes for each of `referenceCapacity`; nodes and packets need room for as many.
 * Returns the number of nodes; `builtLeafCount` tells the packets.
 */
export function buildMesh(
  positionsPointer: usize,
  indicesPointer: usize,
  triangles: i32,
  boundsScratch: usize,
  outNodes: usize,
  outPackets: usize,
  scratch: usize,
): i32 {
  for (let t = 0; t < triangles; t++) {
    const i = indicesPointer + <usize>t * 12;
    const a = positionsPointer + <usize>load<u32>(i) * 12,
      b = positionsPointer + <usize>load<u32>(i, 4) * 12,
      c = positionsPointer + <usize>load<u32>(i, 8) * 12;
    const q = boundsScratch + <usize>t * BOUNDS_SIZE;
    for (let axis: usize = 0; axis < 12; axis += 4) {
      const u = load<f32>(a + axis),
        v = load<f32>(b + axis),
        w = load<f32>(c + axis);
      store<f32>(q + axis, min(u, min(v, w)));
      store<f32>(q + axis, max(u, max(v, w)), 16);
    }
    store<f32>(q, 0, 12);
    store<f32>(q, 0, 28);
  }
  positions = positionsPointer;
  indices = indicesPointer;
  owners = scratch;
  const references = presplit(positions, indices, triangles, boundsScratch, owners);
  build(boundsScratch, references, outNodes, outPackets, (owners + <usize>referenceCapacity(triangles) * 4 + 15) & ~15);
  return nodeCount;
}

/** Tree over instances, from their world bounds. A leaf is the instance's number. Returns the number of nodes. */
export function buildInstances(instanceBounds: usize, count: i32, outNodes: usize, scratch: usize): i32 {
  positions = 0;
  build(instanceBounds, count, outNodes, 0, scratch);
  return nodeCount;
}

export function builtLeafCount(): i32 {
  return leafCount;
}
