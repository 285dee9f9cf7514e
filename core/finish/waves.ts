import { random } from '../random';
import type { Finish } from './finish';

/**
 * Waves on water: a sum of plain ones of many lengths and directions, each running at its own speed by the dispersion of
 * deep water, w^2 = g k (H. Lamb, Hydrodynamics, 6th edition 1932, art. 229). As in a sea raised by wind, short waves are as
 * steep as long ones (O. M. Phillips 1958, "The equilibrium range in the spectrum of wind-generated waves") and run more
 * astray. Both pictures take their slopes from the same table, at the same moment.
 */
export type Waves = NonNullable<Finish['waves']>;

export const GRAVITY = 9.81;
export const WAVE_COUNT = 32;
/** Floats of a wave: k along x and y (1/m), amplitude (m), phase at time 0, frequency (1/s); of the first, variance of the slopes of finer waves; 0, 0. */
export const WAVE_FLOATS = 8;
/** Each is shorter than the last by this. */
const STEP = 2 ** (1 / 5.3);

/** The waves of a surface, the longest first. */
export function wavesOf({ heightM, lengthM, towardsDeg, windMs }: Waves): Float32Array {
  const out = new Float32Array(WAVE_COUNT * WAVE_FLOATS);
  const next = random(0x5ea);
  let squares = 0;
  for (let i = 0; i < WAVE_COUNT; i++) {
    // The longest are a little longer than what is called the length, as in a sea.
    const length = ((lengthM * 1.3) / STEP ** i) * (0.9 + 0.2 * next());
    const k = (2 * Math.PI) / length;
    // Waves of wind run to all sides, the shorter the more; lengths that do not divide each other never line up into stripes.
    const astray = (next() + next() - 1) * (1.2 + 1.4 * (i / WAVE_COUNT));
    const towards = (towardsDeg * Math.PI) / 180 + astray;
    out.set([k * Math.cos(towards), k * Math.sin(towards), length, 2 * Math.PI * next(), Math.sqrt(GRAVITY * k)], i * WAVE_FLOATS);
    squares += length * length;
  }
  // Significant height: four times the standard deviation of the surface (common practice), which is half the sum of squares.
  const scale = heightM / 4 / Math.sqrt(squares / 2);
  for (let i = 0; i < WAVE_COUNT; i++) out[i * WAVE_FLOATS + 2]! *= scale;
  out[5] = Math.max(LEAST_RUFFLED, meanSquareSlope(windMs) - ownMeanSquareSlope(out));
  return out;
}

/** Slopes that no water is without, so that the sun in it is never a point. */
const LEAST_RUFFLED = 0.0005;

/** Variance of the slopes of a clean sea, along and across the wind together, by the wind in m/s at 12.5 m (Cox & Munk 1954). */
export const meanSquareSlope = (windMs: number): number => 0.003 + 0.00512 * windMs;

/** The same of the waves in a table alone: half the sum of the squares of their steepness. */
export function ownMeanSquareSlope(waves: Float32Array): number {
  let sum = 0;
  for (let o = 0; o < waves.length; o += WAVE_FLOATS) sum += (Math.hypot(waves[o]!, waves[o + 1]!) * waves[o + 2]!) ** 2;
  return sum / 2;
}

/** Height (m) and slopes along x and y of the surface at a place (m) and time (s). */
export function waveAt(waves: Float32Array, x: number, y: number, timeS: number): { height: number; alongX: number; alongY: number } {
  const sum = { height: 0, alongX: 0, alongY: 0 };
  for (let o = 0; o < waves.length; o += WAVE_FLOATS) {
    const [kx, ky, amplitude, phase, frequency] = waves.subarray(o, o + 5) as unknown as [number, number, number, number, number];
    const angle = kx * x + ky * y + phase - frequency * timeS;
    sum.height += amplitude * Math.cos(angle);
    sum.alongX -= amplitude * kx * Math.sin(angle);
    sum.alongY -= amplitude * ky * Math.sin(angle);
  }
  return sum;
}

/** `waveSlopes(place, right, up)`: slopes at a place, and the variance of those that are too fine for a pixel, whose sides these are (m). */
export const WAVES_GLSL = /* glsl */ `
uniform vec4 waves[${String(WAVE_COUNT * 2)}];
uniform float waveTime;
vec3 waveSlopes(vec2 place, vec2 right, vec2 up) {
  vec3 slopes = vec3(0.0, 0.0, waves[1].y);
  for (int i = 0; i < ${String(WAVE_COUNT)}; i++) {
    vec4 wave = waves[i * 2];
    float shown = clamp(6.2831853 / max(length(vec2(dot(wave.xy, right), dot(wave.xy, up))), 1e-6) - 1.0, 0.0, 1.0);
    if (shown > 0.0) slopes.xy -= shown * wave.z * wave.xy * sin(dot(wave.xy, place) + wave.w - waves[i * 2 + 1].x * waveTime);
    slopes.z += 0.5 * (1.0 - shown * shown) * wave.z * wave.z * dot(wave.xy, wave.xy);
  }
  return slopes;
}
`;
