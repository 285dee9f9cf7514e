import { balanceMatrix, type WhiteBalance } from './white-balance';

/**
 * From luminance to the screen: exposure as photographers count it, white balance, a curve that holds highlights, and sRGB.
 * The same numbers stand in the working picture's shader (`TONE_GLSL`) and here, for the kernel's picture and the print.
 */

/** How a picture is developed. */
export interface Development {
  ev100: number;
  white: WhiteBalance;
}

/** A meter's constant K for reflected light, cd s/m2 (ISO 2720), and what it reads at EV 0 and ISO 100, cd/m2. */
const METER = 12.5;
const METERED = METER / 100;
/** Middle grey, which is coded 118 of 255. */
const GREY = 0.18;

/** What luminance in cd/m2 is multiplied with: what a meter reads becomes middle grey (standard output sensitivity, ISO 12232). */
export function exposureScale(ev100: number): number {
  return GREY / (METERED * Math.pow(2, ev100));
}

/** EV100 of a camera setting: log2(N^2 / t), corrected for ISO. */
export function evOfCamera(fNumber: number, seconds: number, iso = 100): number {
  return Math.log2((fNumber * fNumber) / seconds) - Math.log2(iso / 100);
}

/** EV100 that a reflected-light meter (K = 12.5) reads from a mean luminance in cd/m2. */
export function evOfLuminance(cdM2: number): number {
  return Math.log2(cdM2 / METERED);
}

/** IEC 61966-2-1, linear 0..1 to coded 0..1. */
export function encodeSrgb(x: number): number {
  return x <= 0.0031308 ? 12.92 * x : 1.055 * Math.pow(x, 1 / 2.4) - 0.055;
}

/** IEC 61966-2-1, coded 0..1 to linear 0..1. */
export function decodeSrgb(x: number): number {
  return x <= 0.04045 ? x / 12.92 : Math.pow((x + 0.055) / 1.055, 2.4);
}

/** From here on the curve bends; below it colours are reproduced as they are. And how soon what is brighter turns white. */
const KNEE = 0.76;
const FADE = 0.15;

/**
 * Compresses one exposed linear colour into 0..1, keeping its hue: the peak channel follows a hyperbola above the knee. The curve of
 * the Khronos PBR Neutral Tone Mapper (Khronos Group 2024) with its constants, but without its toe, which takes a veil of mirrored
 * white off single goods in a studio, and would make every shadow black here.
 */
export function toneCurve(rgb: [number, number, number]): void {
  const peak = Math.max(rgb[0], rgb[1], rgb[2]);
  if (peak <= KNEE) return;
  const room = 1 - KNEE;
  const held = 1 - (room * room) / (peak - KNEE + room);
  const fade = 1 - 1 / (FADE * (peak - held) + 1);
  for (let c = 0; c < 3; c++) rgb[c] = rgb[c]! * (held / peak) * (1 - fade) + held * fade;
}

export const TONE_GLSL = /* glsl */ `
vec3 toneCurve(vec3 rgb) {
  float peak = max(rgb.r, max(rgb.g, rgb.b));
  if (peak <= ${KNEE.toFixed(3)}) return rgb;
  float room = ${(1 - KNEE).toFixed(3)};
  float held = 1.0 - room * room / (peak - ${KNEE.toFixed(3)} + room);
  float fade = 1.0 - 1.0 / (${FADE.toFixed(3)} * (peak - held) + 1.0);
  return mix(rgb * (held / peak), vec3(held), fade);
}
vec3 encodeSrgb(vec3 x) {
  return mix(12.92 * x, 1.055 * pow(max(x, vec3(0.0)), vec3(1.0 / 2.4)) - 0.055, step(0.0031308, x));
}
`;

/** Rows after one another: from cd/m2 to what the curve is given. */
export function developingMatrix({ ev100, white }: Development): number[] {
  const scale = exposureScale(ev100);
  return balanceMatrix(white).map((m) => m * scale);
}

/**
 * Develops radiance (f32x4 a pixel: rgb in cd/m2 and coverage) to RGBA8. Pixels without coverage get alpha 0.
 * A fixed pattern of under half a step hides banding in skies and is the same in every run.
 */
export function develop(radiance: Float32Array, width: number, development: Development, out: Uint8ClampedArray | Uint8Array): void {
  const m = developingMatrix(development);
  const rgb: [number, number, number] = [0, 0, 0];
  const table = srgbTable();
  for (let y = 0, i = 0; i < radiance.length; y++)
    for (let x = 0; x < width; x++, i += 4) {
      const [r, g, b] = [radiance[i]!, radiance[i + 1]!, radiance[i + 2]!];
      for (let c = 0; c < 3; c++) rgb[c] = Math.max(0, m[3 * c]! * r + m[3 * c + 1]! * g + m[3 * c + 2]! * b);
      toneCurve(rgb);
      // Truncated after a half is added, which is rounding for what is not negative, and quicker.
      const dither = (((x * 171 + y * 231) % 256) / 256 - 0.5) * 0.9 + 0.5;
      for (let c = 0; c < 3; c++) {
        const coded = table[Math.min(TABLE, rgb[c]! * TABLE + 0.5) | 0]! + dither;
        out[i + c] = coded > 255 ? 255 : coded < 0 ? 0 : coded | 0;
      }
      out[i + 3] = radiance[i + 3]! > 0 ? 255 : 0;
    }
}

const TABLE = 16384;
let cached: Float32Array | undefined;

function srgbTable(): Float32Array {
  cached ??= Float32Array.from({ length: TABLE + 1 }, (_, i) => encodeSrgb(i / TABLE) * 255);
  return cached;
}

const CODED = Uint8Array.from({ length: 4096 }, (_, i) => Math.round(encodeSrgb(i / 4095) * 255));

/** sRGB byte of a linear value. Fine enough for a map: within one step of the exact byte from 0.002 up. */
export const codedByte = (x: number): number =>
  x < 0.02 ? Math.round(encodeSrgb(Math.max(0, x)) * 255) : CODED[Math.min(4095, Math.round(x * 4095))]!;
