/**
 * Edge-avoiding à-trous filter over the light without its surface colour, guided by normal, depth and the spread of the
 * samples: Dammertz et al. 2010; variance guidance after Schied et al. 2017. Pixels without samples are filled from
 * their neighbours, so a picture of which only every sixteenth pixel is known can be shown.
 */
import {
  PIXEL_ALBEDO,
  PIXEL_COUNT,
  PIXEL_DEPTH,
  PIXEL_GUIDES,
  PIXEL_LUMINANCE_SQUARED,
  PIXEL_NORMAL,
  PIXEL_SIZE,
  SCENE_FILM,
  SCENE_HEIGHT,
  SCENE_WIDTH,
} from './layout';
import * as m from './maths';

/** Light over albedo (rgb) and variance of its luminance; a negative variance marks a pixel without samples. */
const LIGHT_BYTES: usize = 16;
/** Normal and depth. */
const GUIDE_BYTES: usize = 16;
const FLOOR: f32 = 1e-4;

// @ts-ignore: decorator
@inline
function meanAlbedo(q: usize, channel: usize): f32 {
  return max<f32>(<f32>0.01, load<f32>(q + PIXEL_ALBEDO + channel) / max<f32>(1, load<f32>(q, PIXEL_GUIDES)));
}

/** Fills the light (16 bytes a pixel) and guide (16 bytes a pixel) buffers of rows y0 to y1. */
export function denoiseInput(scene: usize, y0: i32, y1: i32, light: usize, guide: usize): void {
  const width = load<i32>(scene, SCENE_WIDTH);
  for (let i = y0 * width; i < y1 * width; i++) {
    const q = <usize>load<u32>(scene, SCENE_FILM) + <usize>i * PIXEL_SIZE;
    const out = light + <usize>i * LIGHT_BYTES,
      g = guide + <usize>i * GUIDE_BYTES;
    const guides = max<f32>(1, load<f32>(q, PIXEL_GUIDES));
    m.normalise(load<f32>(q, PIXEL_NORMAL), load<f32>(q, PIXEL_NORMAL + 4), load<f32>(q, PIXEL_NORMAL + 8));
    store<f32>(g, m.rx);
    store<f32>(g, m.ry, 4);
    store<f32>(g, m.rz, 8);
    store<f32>(g, load<f32>(q, PIXEL_DEPTH) / guides, 12);
    const n = load<f32>(q, PIXEL_COUNT);
    if (n == 0) {
      v128.store(out, f32x4.splat(0));
      store<f32>(out, -1, 12);
      continue;
    }
    const inverse: f32 = 1 / n;
    const r = load<f32>(q) * inverse,
      gr = load<f32>(q, 4) * inverse,
      b = load<f32>(q, 8) * inverse;
    const ar = meanAlbedo(q, 0),
      ag = meanAlbedo(q, 4),
      ab = meanAlbedo(q, 8);
    store<f32>(out, r / ar);
    store<f32>(out, gr / ag, 4);
    store<f32>(out, b / ab, 8);
    const y = m.luminance(r, gr, b),
      albedo = m.luminance(ar, ag, ab);
    const spread = max<f32>(0, load<f32>(q, PIXEL_LUMINANCE_SQUARED) * inverse - y * y) * (n > 1 ? n / (n - 1) : 1);
    store<f32>(out, (n > 1 ? spread * inverse : y * y) / (albedo * albedo), 12);
  }
}

/** Neighbourhood mean of the variance (and of the luminance where samples are few), so that one quiet pixel is not trusted. */
function smoothVariance(light: usize, x: i32, y: i32, width: i32, height: i32, reach: i32): f32 {
  let sum: f32 = 0,
    weight: f32 = 0;
  for (let dy = -1; dy <= 1; dy++)
    for (let dx = -1; dx <= 1; dx++) {
      const qx = x + dx * reach,
        qy = y + dy * reach;
      if (qx < 0 || qy < 0 || qx >= width || qy >= height) continue;
      const v = load<f32>(light + <usize>(qy * width + qx) * LIGHT_BYTES, 12);
      if (v < 0) continue;
      const w: f32 = (dx ? 1 : 2) * (dy ? 1 : 2);
      sum += v * w;
      weight += w;
    }
  return weight > 0 ? sum / weight : -1;
}

// @ts-ignore: decorator
@inline
function depthAt(guide: usize, x: i32, y: i32, width: i32): f32 {
  return load<f32>(guide + <usize>(y * width + x) * GUIDE_BYTES, 12);
}

/** exp(-x) to about one per cent for the weights: (1 - x/16)^16. */
// @ts-ignore: decorator
@inline
function fallOff(x: f32): f32 {
  let a: f32 = 1 - x * <f32>0.0625;
  if (a <= 0) return 0;
  a *= a;
  a *= a;
  a *= a;
  return a * a;
}

/** A pixel whose own spread is at least this share of its light may be an outlier. */
const UNSURE: f32 = 0.12;
/** So many samples weigh as much as the neighbourhood in telling how far a pixel may be off. */
const TRUSTED_SAMPLES: f32 = 6;
const REACH: i32 = 3;

/**
 * Prepares the light of rows y0 to y1. Few samples tell little of their own spread (a dark pixel may only have found no
 * light yet), so the spread of the neighbourhood is added, the less the more samples there are. Pixels that are still
 * unsure and outshine all but one of their neighbours are capped: a lucky path is given no more light than is plausible.
 */
export function capOutliers(scene: usize, y0: i32, y1: i32, source: usize, target: usize, guide: usize): void {
  const width = load<i32>(scene, SCENE_WIDTH),
    height = load<i32>(scene, SCENE_HEIGHT);
  for (let y = y0; y < y1; y++) for (let x = 0; x < width; x++) capPixel(scene, x, y, width, height, source, target, guide);
}

function capPixel(scene: usize, x: i32, y: i32, width: i32, height: i32, source: usize, target: usize, guide: usize): void {
  const i = <usize>(y * width + x);
  const p = source + i * LIGHT_BYTES,
    out = target + i * LIGHT_BYTES,
    g = guide + i * GUIDE_BYTES;
  v128.store(out, v128.load(p));
  const variance = load<f32>(p, 12);
  const own = m.luminance(load<f32>(p), load<f32>(p, 4), load<f32>(p, 8));
  if (variance < 0) return;
  let brightest: f32 = -1,
    next: f32 = -1,
    sum: f32 = 0,
    squares: f32 = 0,
    count: f32 = 0;
  for (let dy = -REACH; dy <= REACH; dy++)
    for (let dx = -REACH; dx <= REACH; dx++) {
      const qx = x + dx,
        qy = y + dy;
      if (qx < 0 || qy < 0 || qx >= width || qy >= height) continue;
      const j = <usize>(qy * width + qx);
      const q = source + j * LIGHT_BYTES;
      if (load<f32>(q, 12) < 0) continue;
      const l = m.luminance(load<f32>(q), load<f32>(q, 4), load<f32>(q, 8));
      if (facesAlike(g, guide + j * GUIDE_BYTES)) {
        sum += l;
        squares += l * l;
        count += 1;
      }
      if (abs(dx) > 1 || abs(dy) > 1 || (!dx && !dy)) continue;
      if (l > brightest) {
        next = brightest;
        brightest = l;
      } else if (l > next) next = l;
    }
  let spread = variance;
  if (count > 1) {
    const samples = load<f32>(<usize>load<u32>(scene, SCENE_FILM) + i * PIXEL_SIZE, PIXEL_COUNT);
    const mean = sum / count;
    spread += (max<f32>(0, squares / count - mean * mean) * TRUSTED_SAMPLES) / (TRUSTED_SAMPLES + samples * samples);
  }
  store<f32>(out, spread, 12);
  if (variance < UNSURE * UNSURE * own * own || next < 0 || own <= next) return;
  const share = next / own;
  v128.store(out, f32x4.mul(v128.load(p), f32x4.splat(share)));
  store<f32>(out, spread * share * share, 12);
}

// @ts-ignore: decorator
@inline
function facesAlike(g: usize, h: usize): bool {
  return m.dot(load<f32>(g), load<f32>(g, 4), load<f32>(g, 8), load<f32>(h), load<f32>(h, 4), load<f32>(h, 8)) > <f32>0.8;
}

// @ts-ignore: decorator
@inline
function luminanceOf(light: v128): f32 {
  return m.luminance(f32x4.extract_lane(light, 0), f32x4.extract_lane(light, 1), f32x4.extract_lane(light, 2));
}

/** How many pixels share what was capped at (x, y), itself among them. */
function receivers(x: i32, y: i32, width: i32, height: i32, light: usize, guide: usize): f32 {
  const g = guide + <usize>(y * width + x) * GUIDE_BYTES;
  let count: f32 = 1;
  for (let qy = max(0, y - REACH); qy <= min(height - 1, y + REACH); qy++)
    for (let qx = max(0, x - REACH); qx <= min(width - 1, x + REACH); qx++) {
      if (qx == x && qy == y) continue;
      const j = <usize>(qy * width + qx);
      if (load<f32>(light + j * LIGHT_BYTES, 12) >= 0 && facesAlike(g, guide + j * GUIDE_BYTES)) count += 1;
    }
  return count;
}

/**
 * Gives the light that was capped back to the neighbourhood, in equal shares to pixels of the same facing, so that the
 * picture keeps its brightness but for the strongest glints: `before` holds the light as it was, `capped` what was left of it.
 */
export function returnExcess(scene: usize, y0: i32, y1: i32, before: usize, capped: usize, target: usize, guide: usize): void {
  const width = load<i32>(scene, SCENE_WIDTH),
    height = load<i32>(scene, SCENE_HEIGHT);
  for (let y = y0; y < y1; y++)
    for (let x = 0; x < width; x++) {
      const i = <usize>(y * width + x);
      const g = guide + i * GUIDE_BYTES,
        p = capped + i * LIGHT_BYTES,
        out = target + i * LIGHT_BYTES;
      v128.store(out, v128.load(p));
      const variance = load<f32>(p, 12);
      if (variance < 0) continue;
      let excess = f32x4.splat(0);
      for (let dy = -REACH; dy <= REACH; dy++)
        for (let dx = -REACH; dx <= REACH; dx++) {
          const qx = x + dx,
            qy = y + dy;
          if (qx < 0 || qy < 0 || qx >= width || qy >= height) continue;
          const j = <usize>(qy * width + qx);
          const b = before + j * LIGHT_BYTES;
          if (load<f32>(b, 12) < 0) continue;
          const given = f32x4.sub(v128.load(b), v128.load(capped + j * LIGHT_BYTES));
          if (!(f32x4.extract_lane(given, 0) + f32x4.extract_lane(given, 1) + f32x4.extract_lane(given, 2) > 0)) continue;
          if ((dx || dy) && !facesAlike(g, guide + j * GUIDE_BYTES)) continue;
          excess = f32x4.add(excess, f32x4.mul(given, f32x4.splat(1 / receivers(qx, qy, width, height, before, guide))));
        }
      // A glint far brighter than all about it would show as a square; so nobody is given more than it has.
      const own = luminanceOf(v128.load(p)),
        more = luminanceOf(excess);
      if (more > own) excess = f32x4.mul(excess, f32x4.splat(own / more));
      v128.store(out, f32x4.add(v128.load(p), excess));
      store<f32>(out, variance, 12);
    }
}

/**
 * One pass over rows y0 to y1 with taps `step` pixels apart; `strictness` divides the tolerated spread (smaller is stricter).
 * With a `grid` above one only every so manieth pixel of every so manieth row is known and filtered.
 */
export function denoisePass(scene: usize, y0: i32, y1: i32, step: i32, grid: i32, strictness: f32, source: usize, target: usize, guide: usize): void {
  const width = load<i32>(scene, SCENE_WIDTH),
    height = load<i32>(scene, SCENE_HEIGHT);
  for (let y = y0; y < y1; y++)
    for (let x = 0; x < width; x++) {
      if (x % grid || y % grid) store<f32>(target + <usize>(y * width + x) * LIGHT_BYTES, -1, 12);
      else filterPixel(x, y, width, height, step, grid, strictness, source, target, guide);
    }
}

/** Gives pixels of rows y0 to y1 that have no light yet what their neighbours have; the others keep theirs. */
export function fillGaps(scene: usize, y0: i32, y1: i32, source: usize, target: usize, guide: usize): void {
  const width = load<i32>(scene, SCENE_WIDTH),
    height = load<i32>(scene, SCENE_HEIGHT);
  for (let y = y0; y < y1; y++)
    for (let x = 0; x < width; x++) {
      const at = <usize>(y * width + x) * LIGHT_BYTES;
      if (load<f32>(source + at, 12) >= 0) v128.store(target + at, v128.load(source + at));
      else filterPixel(x, y, width, height, 1, 1, 1, source, target, guide);
    }
}

/** Fills a pixel that nothing about it is like, or that is sky, from the mean of what is known about it. */
function takeNearest(x: i32, y: i32, width: i32, height: i32, source: usize, target: usize, guide: usize, sky: bool): void {
  let sum = f32x4.splat(0);
  let weights: f32 = 0;
  for (let dy = -2; dy <= 2; dy++)
    for (let dx = -2; dx <= 2; dx++) {
      const qx = x + dx,
        qy = y + dy;
      if (qx < 0 || qy < 0 || qx >= width || qy >= height) continue;
      const j = <usize>(qy * width + qx);
      if (load<f32>(source + j * LIGHT_BYTES, 12) < 0) continue;
      const h = guide + j * GUIDE_BYTES;
      const isSky = load<f32>(h) == 0 && load<f32>(h, 4) == 0 && load<f32>(h, 8) == 0;
      if (isSky != sky) continue;
      const apart: i32 = 1 + dx * dx + dy * dy;
      const w: f32 = 1 / <f32>apart;
      sum = f32x4.add(sum, f32x4.mul(v128.load(source + j * LIGHT_BYTES), f32x4.splat(w)));
      weights += w;
    }
  const out = target + <usize>(y * width + x) * LIGHT_BYTES;
  if (weights > 0) v128.store(out, f32x4.mul(sum, f32x4.splat(1 / weights)));
  else v128.store(out, v128.load(source + <usize>(y * width + x) * LIGHT_BYTES));
}

function filterPixel(x: i32, y: i32, width: i32, height: i32, step: i32, grid: i32, strictness: f32, source: usize, target: usize, guide: usize): void {
  const i = <usize>(y * width + x);
  const p = source + i * LIGHT_BYTES,
    g = guide + i * GUIDE_BYTES;
  const nx = load<f32>(g),
    ny = load<f32>(g, 4),
    nz = load<f32>(g, 8),
    depth = load<f32>(g, 12);
  if (nx == 0 && ny == 0 && nz == 0) {
    if (load<f32>(p, 12) >= 0) v128.store(target + i * LIGHT_BYTES, v128.load(p));
    else takeNearest(x, y, width, height, source, target, guide, true);
    return;
  }
  const known = load<f32>(p, 12) >= 0;
  const y0 = m.luminance(load<f32>(p), load<f32>(p, 4), load<f32>(p, 8));
  const spread = smoothVariance(source, x, y, width, height, grid);
  const tolerance: f32 = known && spread >= 0 ? 1 / (strictness * sqrt<f32>(spread) + FLOOR * max<f32>(y0, FLOOR)) : 0;
  const left = x > 0 ? depth - depthAt(guide, x - 1, y, width) : <f32>1e9,
    right = x < width - 1 ? depthAt(guide, x + 1, y, width) - depth : <f32>1e9,
    up = y > 0 ? depth - depthAt(guide, x, y - 1, width) : <f32>1e9,
    down = y < height - 1 ? depthAt(guide, x, y + 1, width) - depth : <f32>1e9;
  const slopeX = abs(left) < abs(right) ? left : right,
    slopeY = abs(up) < abs(down) ? up : down;
  let sum = f32x4.splat(0);
  let weights: f32 = 0,
    variance: f32 = 0;
  for (let ky = -2; ky <= 2; ky++) {
    const qy = y + ky * step;
    if (qy < 0 || qy >= height) continue;
    const hy: f32 = ky == 0 ? 0.375 : abs(ky) == 1 ? 0.25 : 0.0625;
    for (let kx = -2; kx <= 2; kx++) {
      const qx = x + kx * step;
      if (qx < 0 || qx >= width) continue;
      const j = <usize>(qy * width + qx);
      const q = source + j * LIGHT_BYTES;
      const v = load<f32>(q, 12);
      if (v < 0) continue;
      const h = guide + j * GUIDE_BYTES;
      let wn = m.dot(nx, ny, nz, load<f32>(h), load<f32>(h, 4), load<f32>(h, 8));
      if (wn <= <f32>0.5) continue;
      wn *= wn;
      wn *= wn;
      wn *= wn;
      const dx = <f32>(kx * step),
        dy = <f32>(ky * step);
      const expected = slopeX * dx + slopeY * dy;
      const dz = abs(load<f32>(h, 12) - depth - expected) / (<f32>0.01 * depth + <f32>0.3 * abs(expected) + <f32>1e-3);
      let exponent = dz;
      if (known) exponent += abs(m.luminance(load<f32>(q), load<f32>(q, 4), load<f32>(q, 8)) - y0) * tolerance;
      const w = fallOff(exponent) * wn * hy * (kx == 0 ? <f32>0.375 : abs(kx) == 1 ? <f32>0.25 : <f32>0.0625);
      if (w <= 0) continue;
      sum = f32x4.add(sum, f32x4.mul(v128.load(q), f32x4.splat(w)));
      variance += v * w * w;
      weights += w;
    }
  }
  const out = target + i * LIGHT_BYTES;
  if (weights <= <f32>1e-9) {
    if (known) v128.store(out, v128.load(p));
    else takeNearest(x, y, width, height, source, target, guide, false);
    return;
  }
  const inverse: f32 = 1 / weights;
  v128.store(out, f32x4.mul(sum, f32x4.splat(inverse)));
  store<f32>(out, variance * inverse * inverse, 12);
}

/** Writes rows y0 to y1 as radiance (f32x4: rgb and 1), from filtered light times albedo, or straight from the film if `light` is 0. */
export function denoiseOutput(scene: usize, y0: i32, y1: i32, light: usize, out: usize): void {
  const width = load<i32>(scene, SCENE_WIDTH);
  for (let i = y0 * width; i < y1 * width; i++) {
    const q = <usize>load<u32>(scene, SCENE_FILM) + <usize>i * PIXEL_SIZE;
    const o = out + <usize>i * 16;
    const n = load<f32>(q, PIXEL_COUNT);
    if (light) {
      const p = light + <usize>i * LIGHT_BYTES;
      const known = load<f32>(p, 12) >= 0;
      store<f32>(o, load<f32>(p) * meanAlbedo(q, 0));
      store<f32>(o, load<f32>(p, 4) * meanAlbedo(q, 4), 4);
      store<f32>(o, load<f32>(p, 8) * meanAlbedo(q, 8), 8);
      store<f32>(o, known ? 1 : 0, 12);
    } else {
      const inverse: f32 = n > 0 ? 1 / n : 0;
      store<f32>(o, load<f32>(q) * inverse);
      store<f32>(o, load<f32>(q, 4) * inverse, 4);
      store<f32>(o, load<f32>(q, 8) * inverse, 8);
      store<f32>(o, n > 0 ? 1 : 0, 12);
    }
  }
}
