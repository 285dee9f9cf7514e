import { placeIn, type CameraFrame } from '../camera/camera';
import type { Vec3 } from '../geometry/vec3';
import * as L from '../kernel/assembly/layout';

/** Another distance, as a share, or another normal than this is another surface. */
const SAME_DISTANCE = 0.03;
const SAME_NORMAL = 0.9;
/** Light that differs by more than this share has changed; by less, it is what denoising has made differently of other noise. */
const CHANGED = 0.35;
const LEAST_ALBEDO = 0.02;
const LEAST_LIGHT = 1e-4;
/** So many pictures at most are averaged. */
const MOST = 8;
const FLOATS = L.PIXEL_SIZE / 4;
const ALBEDO = L.PIXEL_ALBEDO / 4;
const FEATURES = L.PIXEL_FEATURES / 4;
const NORMAL = L.PIXEL_NORMAL / 4;
const DEPTH = L.PIXEL_DEPTH / 4;

/** Of each pixel: light over colour and how many pictures it is of; normal and distance. */
const KEPT = 8;

export interface SteadyState {
  width: number;
  height: number;
  camera: CameraFrame;
  kept: Float32Array;
}

/**
 * Pictures of a film, each denoised by itself, boil: what the denoiser makes of one picture's noise differs from what it makes of the
 * next. Where an earlier picture has shown the same place, its light is averaged in (reverse reprojection by distance and motion,
 * Nehab and others 2007), as long as it differs by little; colours stay those of the picture.
 *
 * `radiance`: f32x4 a pixel, denoised, changed in place; `film`: its film, for colour, normal and distance. Perspective only.
 */
export function steady(
  radiance: Float32Array,
  film: Float32Array,
  width: number,
  camera: CameraFrame,
  before: SteadyState | undefined,
): SteadyState {
  const height = radiance.length / 4 / width;
  const kept = new Float32Array(width * height * KEPT);
  const { origin, forward, right, up } = camera;
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const q = i * FLOATS;
      const to = i * KEPT;
      const share = film[q + FEATURES]! > 0 ? 1 / film[q + FEATURES]! : 0;
      const colour = (c: number) => Math.max(LEAST_ALBEDO, film[q + ALBEDO + c]! * share);
      for (let c = 0; c < 3; c++) kept[to + c] = radiance[i * 4 + c]! / colour(c);
      kept[to + 3] = 1;
      for (let c = 0; c < 3; c++) kept[to + 4 + c] = film[q + NORMAL + c]! * share;
      kept[to + 7] = film[q + DEPTH]! * share;
      if (!before || share === 0) continue;
      const [sx, sy] = [(2 * (x + 0.5)) / width - 1, 1 - (2 * (y + 0.5)) / height];
      let [dx, dy, dz] = [0, 1, 2].map((k) => forward[k]! + sx * right[k]! + sy * up[k]!) as [number, number, number];
      const length = kept[to + 7]! / Math.hypot(dx, dy, dz);
      dx *= length;
      dy *= length;
      dz *= length;
      if (!recall(before, origin[0] + dx, origin[1] + dy, origin[2] + dz, kept, to)) continue;
      const old = recalled[3]!;
      const now = kept[to]! + kept[to + 1]! + kept[to + 2]!;
      const then = recalled[0]! + recalled[1]! + recalled[2]!;
      const differs = Math.abs(now - then) / (Math.max(now, then) + LEAST_LIGHT);
      const known = old * Math.max(0, 1 - (differs / CHANGED) ** 2);
      const weight = known / (known + 1);
      for (let c = 0; c < 3; c++) {
        kept[to + c] = kept[to + c]! + (recalled[c]! - kept[to + c]!) * weight;
        radiance[i * 4 + c] = kept[to + c]! * colour(c);
      }
      kept[to + 3] = Math.min(MOST, known + 1);
    }
  return { width, height, camera, kept };
}

const recalled = new Float32Array(4);

/** What is known of a place, into `recalled`: from the four pixels about it that show the same surface. */
function recall({ width, height, camera, kept }: SteadyState, px: number, py: number, pz: number, now: Float32Array, at: number): boolean {
  const { origin } = camera;
  const v: Vec3 = [px - origin[0], py - origin[1], pz - origin[2]];
  const place = placeIn(camera, v);
  if (!place) return false;
  const x = ((place[0] + 1) / 2) * width - 0.5;
  const y = ((1 - place[1]) / 2) * height - 0.5;
  if (!(x > -0.5 && y > -0.5 && x < width - 0.5 && y < height - 0.5)) return false;
  const away = Math.hypot(...v);
  const [left, top] = [Math.floor(x), Math.floor(y)];
  let weights = 0;
  recalled.fill(0);
  for (let j = 0; j < 2; j++)
    for (let i = 0; i < 2; i++) {
      const [cx, cy] = [left + i, top + j];
      if (cx < 0 || cy < 0 || cx >= width || cy >= height) continue;
      const k = (cy * width + cx) * KEPT;
      if (Math.abs(kept[k + 7]! - away) > SAME_DISTANCE * away) continue;
      const facing = kept[k + 4]! * now[at + 4]! + kept[k + 5]! * now[at + 5]! + kept[k + 6]! * now[at + 6]!;
      // The sky faces nowhere.
      const isSky = now[at + 4] === 0 && now[at + 5] === 0 && now[at + 6] === 0;
      if (!isSky && facing < SAME_NORMAL * Math.hypot(now[at + 4]!, now[at + 5]!, now[at + 6]!)) continue;
      const weight = (1 - Math.abs(x - cx)) * (1 - Math.abs(y - cy));
      for (let c = 0; c < 4; c++) recalled[c] = recalled[c]! + weight * kept[k + c]!;
      weights += weight;
    }
  if (weights < 0.05) return false;
  for (let c = 0; c < 4; c++) recalled[c] = recalled[c]! / weights;
  return true;
}
