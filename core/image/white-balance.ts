import { locusXy } from './colour-temperature';

/** The light that is held for white: its chromaticity (CIE 1931), and how far the picture adapts to it, 0 to 1. */
export interface WhiteBalance {
  x: number;
  y: number;
  degree: number;
}

/** How a photographer names it: kelvin, and how far off the colours of glowing and day light, in thousandths of CIE 1960 uv, green above 0. */
export interface WhiteSetting {
  kelvin: number;
  tint: number;
}

export type Rgb = readonly [number, number, number];

/** D65, the white of the screen: nothing changes. */
export const SCREEN_WHITE: WhiteBalance = { x: 0.3127, y: 0.329, degree: 0 };
export const LEAST_KELVIN = 2000;
export const MOST_KELVIN = 12_000;
export const MOST_TINT = 50;

/** Linear Rec.709 to XYZ (IEC 61966-2-1), and to cone responses after Bradford (Lam 1985). */
const TO_XYZ = [0.4124564, 0.3575761, 0.1804375, 0.2126729, 0.7151522, 0.072175, 0.0193339, 0.119192, 0.9503041];
const BRADFORD = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296];
const TO_CONES = multiply(BRADFORD, TO_XYZ);
const FROM_CONES = inverse(TO_CONES);

/** Least share that a cone's response to white may have, so that no lamp makes a colour endless. */
const LEAST_RESPONSE = 0.02;

/**
 * Matrix, rows after one another, that brings linear Rec.709 light under a white to what it would look like under the screen's
 * (von Kries's rule on Bradford's responses), as far as `degree` says.
 */
export function balanceMatrix({ x, y, degree }: WhiteBalance): number[] {
  const seen = conesOf(x, y);
  const screen = conesOf(SCREEN_WHITE.x, SCREEN_WHITE.y);
  const gains = seen.map((response, i) => degree * (screen[i]! / Math.max(LEAST_RESPONSE, response)) + 1 - degree);
  return multiply(FROM_CONES, multiply([gains[0]!, 0, 0, 0, gains[1]!, 0, 0, 0, gains[2]!], TO_CONES));
}

/** Degree to which one adapts at a luminance of the surroundings in cd/m2 (CIECAM02, CIE 159:2004, average surround F = 1). */
export function adaptationDegree(luminanceCdM2: number): number {
  return 1 - Math.exp((-luminanceCdM2 - 42) / 92) / 3.6;
}

/** Chromaticity of linear Rec.709 light. */
export function chromaticity([r, g, b]: Rgb): [number, number] {
  const [x, y, z] = times(TO_XYZ, [r, g, b]);
  const sum = x! + y! + z!;
  return sum > 0 ? [x! / sum, y! / sum] : [SCREEN_WHITE.x, SCREEN_WHITE.y];
}

/** A white that is set by hand holds wholly. */
export function whiteOf({ kelvin, tint }: WhiteSetting): WhiteBalance {
  const [u, v] = toUv(locusXy(kelvin));
  const [across, along] = normalAt(kelvin);
  const [x, y] = fromUv([u + (across * tint) / 1000, v + (along * tint) / 1000]);
  return { x, y, degree: 1 };
}

/** Even steps of reciprocal temperature are even steps for the eye. */
const MIREDS = Array.from({ length: 84 }, (_, i) => 1e6 / MOST_KELVIN + (i / 83) * (1e6 / LEAST_KELVIN - 1e6 / MOST_KELVIN));
let locus: readonly (readonly [number, number])[] | undefined;

/** The setting nearest to a chromaticity, within what can be set. */
export function settingOf(x: number, y: number): WhiteSetting {
  const [u, v] = toUv([x, y]);
  locus ??= MIREDS.map((mired) => toUv(locusXy(1e6 / mired)));
  let best = MIREDS[0]!;
  let least = Infinity;
  for (let i = 0; i + 1 < locus.length; i++) {
    const [[a, b], [c, d]] = [locus[i]!, locus[i + 1]!];
    const along = ((u - a) * (c - a) + (v - b) * (d - b)) / ((c - a) ** 2 + (d - b) ** 2);
    const share = Math.min(1, Math.max(0, along));
    const off = (a + share * (c - a) - u) ** 2 + (b + share * (d - b) - v) ** 2;
    if (off < least) [best, least] = [MIREDS[i]! + share * (MIREDS[i + 1]! - MIREDS[i]!), off];
  }
  const kelvin = 1e6 / best;
  const [a, b] = toUv(locusXy(kelvin));
  const [across, along] = normalAt(kelvin);
  const tint = ((u - a) * across + (v - b) * along) * 1000;
  return { kelvin: Math.round(kelvin), tint: Math.min(MOST_TINT, Math.max(-MOST_TINT, tint)) };
}

/** Unit vector across the locus in CIE 1960 uv, towards green. */
function normalAt(kelvin: number): [number, number] {
  const [a, b] = [toUv(locusXy(kelvin * 0.99)), toUv(locusXy(kelvin * 1.01))];
  const [du, dv] = [b[0] - a[0], b[1] - a[1]];
  const length = Math.hypot(du, dv);
  return [dv / -length, du / length].map((c) => (du < 0 ? -c : c)) as [number, number];
}

function toUv([x, y]: readonly [number, number]): [number, number] {
  const d = -2 * x + 12 * y + 3;
  return [(4 * x) / d, (6 * y) / d];
}

function fromUv([u, v]: readonly [number, number]): [number, number] {
  const d = 2 * u - 8 * v + 4;
  return [(3 * u) / d, (2 * v) / d];
}

function conesOf(x: number, y: number): number[] {
  return times(BRADFORD, [x / y, 1, (1 - x - y) / y]);
}

function times(m: readonly number[], v: readonly number[]): number[] {
  return [0, 3, 6].map((row) => m[row]! * v[0]! + m[row + 1]! * v[1]! + m[row + 2]! * v[2]!);
}

function multiply(a: readonly number[], b: readonly number[]): number[] {
  return Array.from({ length: 9 }, (_, i) => {
    const row = i - (i % 3);
    return a[row]! * b[i % 3]! + a[row + 1]! * b[3 + (i % 3)]! + a[row + 2]! * b[6 + (i % 3)]!;
  });
}

function inverse(m: readonly number[]): number[] {
  const [a, b, c, d, e, f, g, h, i] = m as [number, number, number, number, number, number, number, number, number];
  const cofactors = [e * i - f * h, c * h - b * i, b * f - c * e, f * g - d * i, a * i - c * g, c * d - a * f, d * h - e * g, b * g - a * h, a * e - b * d]; // prettier-ignore
  const determinant = a * cofactors[0]! + b * cofactors[3]! + c * cofactors[6]!;
  return cofactors.map((x) => x / determinant);
}
