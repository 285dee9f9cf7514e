/**
 * Directional albedo of white lobes, between the entries of tables that the host has written (core/finish/microfacet.ts and sheen.ts):
 * what share of the light under a cosine a lobe sends back.
 */
import { FACET_TABLE, SCENE_SRGB, SHEEN_TABLE, TABLE_STEPS } from './layout';

let scene: usize = 0;

export function attachAlbedo(at: usize): void {
  scene = at;
}

/** Of the last lookup of facets: the whole of it, and the part that the fifth power of Schlick's approximation weighs. */
export let whole: f32 = 1;
export let edge: f32 = 0;

const STEPS: i32 = <i32>TABLE_STEPS;
const ROW: usize = TABLE_STEPS * 8;

// @ts-ignore: decorator
@inline
function row(cosine: f32): f32 {
  return min<f32>(1, cosine) * <f32>STEPS - <f32>0.5;
}

/** The first of the two rows that a place lies between; before the first row and after the last their line is carried on. */
// @ts-ignore: decorator
@inline
function first(x: f32): f32 {
  return max<f32>(0, min<f32>(<f32>(STEPS - 2), floor<f32>(x)));
}

/** Of GGX facets that mirror all, by roughness (not squared). */
export function facets(cosine: f32, roughness: f32): void {
  const x = row(cosine),
    x0 = first(x);
  between(<usize>x0 * ROW, x - x0, roughness);
  whole = max<f32>(0, min<f32>(1, whole));
  edge = max<f32>(0, min<f32>(whole, edge));
}

/** What facets of the last lookup send back at once, where each mirrors between f0 and f90. */
// @ts-ignore: decorator
@inline
export function mirrored(f0: f32, f90: f32): f32 {
  return f0 * (whole - edge) + f90 * edge;
}

/** Of facets, the mean over the hemisphere. */
export function facetsOverAll(roughness: f32): void {
  between(<usize>STEPS * ROW, 0, roughness);
}

function between(at: usize, fx: f32, roughness: f32): void {
  const y = max<f32>(0, min<f32>(1, roughness)) * <f32>(STEPS - 1),
    y0 = min<f32>(<f32>(STEPS - 2), floor<f32>(y)),
    fy = y - y0;
  const p = <usize>load<u32>(scene, SCENE_SRGB) + FACET_TABLE + at + <usize>y0 * 8;
  whole = load<f32>(p) * (1 - fy) + load<f32>(p, 8) * fy;
  edge = load<f32>(p, 4) * (1 - fy) + load<f32>(p, 12) * fy;
  if (fx == 0) return;
  whole += fx * (load<f32>(p, ROW) * (1 - fy) + load<f32>(p, ROW + 8) * fy - whole);
  edge += fx * (load<f32>(p, ROW + 4) * (1 - fy) + load<f32>(p, ROW + 12) * fy - edge);
}

/** Of white sheen; above 1 at a glance along smooth fibres. */
export function sheen(cosine: f32, roughness: f32): f32 {
  const x = row(cosine),
    x0 = first(x),
    fx = max<f32>(0, x - x0);
  const y = max<f32>(0, min<f32>(<f32>(STEPS - 1), roughness * <f32>STEPS - 1)),
    y0 = min<f32>(<f32>(STEPS - 2), floor<f32>(y)),
    fy = y - y0;
  const p = <usize>load<u32>(scene, SCENE_SRGB) + SHEEN_TABLE + (<usize>x0 * TABLE_STEPS + <usize>y0) * 4;
  const near = load<f32>(p) * (1 - fy) + load<f32>(p, 4) * fy,
    far = load<f32>(p, TABLE_STEPS * 4) * (1 - fy) + load<f32>(p, TABLE_STEPS * 4 + 4) * fy;
  return near * (1 - fx) + far * fx;
}

/** The same, the mean over the hemisphere, where each is 1 at most. */
export function sheenOverAll(roughness: f32): f32 {
  const y = max<f32>(0, min<f32>(<f32>(STEPS - 1), roughness * <f32>STEPS - 1)),
    y0 = min<f32>(<f32>(STEPS - 2), floor<f32>(y));
  const p = <usize>load<u32>(scene, SCENE_SRGB) + SHEEN_TABLE + (TABLE_STEPS * TABLE_STEPS + <usize>y0) * 4;
  return load<f32>(p) * (1 - y + y0) + load<f32>(p, 4) * (y - y0);
}
