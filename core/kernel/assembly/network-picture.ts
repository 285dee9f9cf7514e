/** From the film to what the denoising network reads, and from what it gives back to radiance. */
import {
  NETWORK_INPUTS,
  NETWORK_OUTPUTS,
  PIXEL_ALBEDO,
  PIXEL_COUNT,
  PIXEL_FEATURES,
  PIXEL_NORMAL,
  PIXEL_SIZE,
  SCENE_FILM,
  SCENE_HEIGHT,
  SCENE_WIDTH,
} from './layout';

/**
 * How the network was taught to read light: evenly spaced for the eye (Aydin and others 2008, "Extending Quality Metrics to Full
 * Luminance Range Images"), by a fit that came with its weights, so that the brightest half float is 1.
 */
const A: f32 = 1.41283765e3;
const B: f32 = 1.64593172;
const C: f32 = 4.31384981e-1;
const D: f32 = -2.94139609e-3;
const E: f32 = 1.92653254e-1;
const F: f32 = 6.26026094e-3;
const G: f32 = 9.98620152e-1;
const LINEAR_UP_TO: f32 = 1.5794576e-6;
const POWER_UP_TO: f32 = 3.22087631e-2;
const CODED_LINEAR_UP_TO: f32 = 2.23151711e-3;
const CODED_POWER_UP_TO: f32 = 3.70974749e-1;
const BRIGHTEST: f32 = 65504;
const TOP: f32 = E * Mathf.log(BRIGHTEST + F) + G;

function encode(light: f32): f32 {
  const y = max<f32>(0, min(light, BRIGHTEST));
  const coded = y <= LINEAR_UP_TO ? A * y : y <= POWER_UP_TO ? B * Mathf.pow(y, C) + D : E * Mathf.log(y + F) + G;
  return coded / TOP;
}

function decode(coded: f32): f32 {
  const x = max<f32>(0, coded) * TOP;
  return x <= CODED_LINEAR_UP_TO ? x / A : x <= CODED_POWER_UP_TO ? Mathf.pow((x - D) / B, 1 / C) : Mathf.exp((x - G) / E) - F;
}

/** Pixel of a line of `length` that is mirrored beyond its ends, less than its length before it. */
// @ts-ignore: decorator
@inline
function mirrored(i: i32, length: i32): i32 {
  const period = 2 * length;
  const k = (i < 0 ? -1 - i : i) % period;
  return k < length ? k : period - 1 - k;
}

/**
 * Rows y0 to y1 of what the network reads (NETWORK_INPUTS a pixel), so many pixels wide, from the film at `left`, `top` on. `scale`
 * brings cd/m2 to what it was taught.
 */
export function networkInput(scene: usize, left: i32, top: i32, width: i32, y0: i32, y1: i32, scale: f32, target: usize): void {
  const filmWidth = load<i32>(scene, SCENE_WIDTH),
    filmHeight = load<i32>(scene, SCENE_HEIGHT);
  for (let y = y0; y < y1; y++)
    for (let x = 0; x < width; x++) {
      const at = mirrored(top + y, filmHeight) * filmWidth + mirrored(left + x, filmWidth);
      const q = <usize>load<u32>(scene, SCENE_FILM) + <usize>at * PIXEL_SIZE;
      const o = target + (<usize>((y * width + x) * NETWORK_INPUTS) << 2);
      const exposed: f32 = scale / max<f32>(1, load<f32>(q, PIXEL_COUNT));
      const features = load<f32>(q, PIXEL_FEATURES);
      const share: f32 = features > 0 ? 1 / features : 0;
      for (let c: usize = 0; c < 12; c += 4) {
        store<f32>(o + c, encode(load<f32>(q + c) * exposed));
        store<f32>(o + c, features > 0 ? min<f32>(1, load<f32>(q + c, PIXEL_ALBEDO) * share) : 1, 12);
        store<f32>(o + c, load<f32>(q + c, PIXEL_NORMAL) * share * 0.5 + 0.5, 24);
        store<f32>(o + c, 0, 36);
      }
    }
}

/**
 * Rows y0 to y1 of the picture (f32x4: radiance and 1), so many pixels from `left` on, from what the network gave back, which is
 * `inset` pixels wider to the left, and `above` rows higher.
 */
export function networkOutput(
  scene: usize, left: i32, top: i32, width: i32, y0: i32, y1: i32, scale: f32, source: usize, line: i32, inset: i32, above: i32, out: usize,
): void {
  const filmWidth = load<i32>(scene, SCENE_WIDTH);
  const inverse: f32 = 1 / scale;
  for (let y = y0; y < y1; y++)
    for (let x = 0; x < width; x++) {
      const p = source + (<usize>(((y + above) * line + x + inset) * NETWORK_OUTPUTS) << 2);
      const o = out + (<usize>((top + y) * filmWidth + left + x) << 4);
      for (let c: usize = 0; c < 12; c += 4) store<f32>(o + c, decode(load<f32>(p + c)) * inverse);
      store<f32>(o, 1, 12);
    }
}

/** Rows y0 to y1 of the picture (f32x4: mean radiance, and 1 where there is a sample). */
export function meanRadiance(scene: usize, y0: i32, y1: i32, out: usize): void {
  const width = load<i32>(scene, SCENE_WIDTH);
  for (let i = y0 * width; i < y1 * width; i++) {
    const q = <usize>load<u32>(scene, SCENE_FILM) + <usize>i * PIXEL_SIZE;
    const n = load<f32>(q, PIXEL_COUNT);
    const mean = f32x4.mul(v128.load(q), f32x4.splat(n > 0 ? 1 / n : 0));
    v128.store(out + (<usize>i << 4), f32x4.replace_lane(mean, 3, n > 0 ? 1 : 0));
  }
}
