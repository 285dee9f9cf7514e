/**
 * What the denoiser is featured by: colour, normal and distance of the first rough surface that a path shows. What lies behind clear
 * panes or in mirrors counts as if it were seen directly; where a pane both shows and mirrors, each by its share.
 */
import { SMOOTH_ROUGHNESS } from './bsdf';
import * as s from './surface';

const MIRROR_METALNESS: f32 = 0.9;
const FAR: f32 = 1e5;

/** Sums by share: albedo, normal, distance from the eye in metres, and the shares themselves. */
export let albedoR: f32 = 0;
export let albedoG: f32 = 0;
export let albedoB: f32 = 0;
export let normalX: f32 = 0;
export let normalY: f32 = 0;
export let normalZ: f32 = 0;
export let distance: f32 = 0;
export let shares: f32 = 0;
/** The path has its feature, or is to have none. */
export let featured: bool = false;
/** The path left by chance what its pixel shows: it says nothing of it. */
export let astray: bool = false;

/** Share of the pixel that the path stands for, and what mirrors have left of each colour. */
let share: f32 = 1;
let tintR: f32 = 1;
let tintG: f32 = 1;
let tintB: f32 = 1;

export function begin(): void {
  albedoR = albedoG = albedoB = 0;
  normalX = normalY = normalZ = 0;
  distance = shares = 0;
  featured = astray = false;
  take(1);
}

/** The path that follows stands for a share of the pixel. */
export function take(part: f32): void {
  share = part;
  tintR = tintG = tintB = 1;
  featured = false;
}

/** From here on nothing is a feature. */
export function stop(): void {
  featured = true;
}

export function goAstray(): void {
  if (!featured) featured = astray = true;
}

/** The surface that surface.ts has resolved, so far from the eye: a feature, unless it is a mirror. */
export function meet(depth: f32): void {
  if (featured) return;
  if (s.metalness >= MIRROR_METALNESS && s.roughness < SMOOTH_ROUGHNESS) {
    tintR *= s.baseR;
    tintG *= s.baseG;
    tintB *= s.baseB;
  } else add(s.baseR * tintR, s.baseG * tintG, s.baseB * tintB, s.nx, s.ny, s.nz, depth);
}

/** What is featured by without being a surface of its own, as murky water. */
export function show(r: f32, g: f32, b: f32, x: f32, y: f32, z: f32, depth: f32): void {
  if (!featured) add(r * tintR, g * tintG, b * tintB, x, y, z, depth);
}

/** The path has left the scene: the sky is white and faces nowhere. */
export function leave(): void {
  if (!featured) add(tintR, tintG, tintB, 0, 0, 0, FAR);
}

function add(r: f32, g: f32, b: f32, x: f32, y: f32, z: f32, depth: f32): void {
  featured = true;
  albedoR += share * r;
  albedoG += share * g;
  albedoB += share * b;
  normalX += share * x;
  normalY += share * y;
  normalZ += share * z;
  distance += share * min(FAR, depth);
  shares += share;
}
