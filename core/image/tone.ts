import { BLOOM_GLSL, PLAIN_LAYOUT, withBloom, type Layout } from './bloom';
import { CUBE_GLSL, throughCube, type ColourCube } from './colour-cube';
import { filmicCurve, GRADING_GLSL, GREY, PLAIN_GRADING, tabulatedTone, vignetteFactor, type Grading } from './grading';
import { balanceMatrix, type WhiteBalance } from './white-balance';

/**
 * From luminance to the screen: exposure as photographers count it, white balance, a curve that holds highlights, and sRGB.
 * The same numbers stand in the working picture's shader (`DEVELOPING_GLSL`) and here, for the kernel's picture and the print.
 */

/** How a picture is developed. */
export interface Development {
  ev100: number;
  white: WhiteBalance;
  /** Without: nothing but the curve. */
  grading?: Grading | undefined;
  /** The table of the look that the grading names. */
  cube?: ColourCube | undefined;
}

/** A meter's constant K for reflected light, cd s/m2 (ISO 2720), and what it reads at EV 0 and ISO 100, cd/m2. */
const METER = 12.5;
const METERED = METER / 100;

/** What luminance in cd/m2 is multiplied with: what a meter reads becomes middle grey (standard output sensitivity, ISO 12232). */
export function exposureScale(ev100: number): number {
  return GREY / (METERED * Math.pow(2, ev100));
}

/** EV100 of a camera setting: log2(N^2 / t), corrected for ISO. */
export function evOfCamera(fNumber: number, seconds: number, iso = 100): number {
  return Math.log2((fNumber * fNumber) / seconds) - Math.log2(iso / 100);
}

/** Seconds that a camera's shutter is open for an EV100. */
export function shutterOf(ev100: number, fNumber: number, iso = 100): number {
  return ((fNumber * fNumber) / 2 ** ev100) * (100 / iso);
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

/** `toneCurve` and `encodeSrgb`. */
export const CURVE_GLSL = /* glsl */ `
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

/** `developed(at)`: the coded colour at a place of a picture whose light is exposed already. */
export const DEVELOPING_GLSL = /* glsl */ `
uniform sampler2D picture;
uniform vec2 size;
uniform mat3 balance;
uniform float bloom;
${CURVE_GLSL}${GRADING_GLSL}${CUBE_GLSL}${BLOOM_GLSL}
vec3 developed(vec2 at) {
  vec3 seen = texture2D(picture, at).rgb;
  if (bloom > 0.0) seen += bloom * (veil(picture, at, size) - seen);
  vec2 off = (at - 0.5) * size;
  vec3 rgb = graded(max(balance * seen, vec3(0.0)), dot(off, off) * 4.0 / dot(size, size));
  rgb = encodeSrgb(filmic ? filmicCurve(rgb) : toneCurve(rgb));
  return lookStrength > 0.0 ? mix(rgb, throughCube(rgb), lookStrength) : rgb;
}
`;

/** Rows after one another: from cd/m2 to what the curve is given. */
export function developingMatrix({ ev100, white }: Development): number[] {
  const scale = exposureScale(ev100);
  return balanceMatrix(white).map((m) => m * scale);
}

/**
 * Develops radiance (f32x4 a pixel: rgb in cd/m2 and coverage) to RGBA of 8 or 16 bits. Pixels without coverage get alpha 0.
 * A fixed pattern of under half a step hides banding in skies and is the same in every run.
 */
export function develop(
  radiance: Float32Array,
  width: number,
  development: Development,
  out: Uint8ClampedArray | Uint8Array | Uint16Array,
  layout: Layout = PLAIN_LAYOUT,
): void {
  const most = out.BYTES_PER_ELEMENT === 2 ? 65535 : 255;
  const { grading = PLAIN_GRADING } = development;
  let light = radiance;
  if (grading.bloom > 0) withBloom(radiance, width, grading.bloom, (light = new Float32Array(radiance.length)), layout);
  const height = radiance.length / 4 / width;
  const { code, rgb } = coder(development, width, height);
  const coded = grading.sharpening > 0 ? new Float32Array(width * height * 3) : undefined;
  if (coded)
    for (let i = 0, p = 0; i < light.length; i += 4, p += 3) {
      code(light, i);
      coded.set(rgb, p);
    }
  const sharp = coded && sharpened(coded, width, grading.sharpening);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i += 4) {
      if (!sharp) code(light, i);
      // Truncated after a half is added, which is rounding for what is not negative, and quicker.
      const dither = (((x * 171 + y * 231) % 256) / 256 - 0.5) * 0.9 + 0.5;
      for (let c = 0; c < 3; c++) {
        const step = (sharp ? sharp[(i / 4) * 3 + c]! : rgb[c]!) * most + dither;
        out[i + c] = step > most ? most : step < 0 ? 0 : step | 0;
      }
      out[i + 3] = radiance[i + 3]! > 0 ? most : 0;
    }
}

/** Codes the radiance of the pixel whose values begin at a place, 0 to 1 in sRGB, into `rgb`. */
function coder({ cube, grading = PLAIN_GRADING, ...exposed }: Development, width: number, height: number) {
  const m = developingMatrix(exposed);
  const rgb: [number, number, number] = [0, 0, 0];
  const looked = [0, 0, 0];
  const table = srgbTable();
  const tone = tabulatedTone(grading);
  const { vignette, saturation, curve } = grading;
  const strength = cube ? (grading.look?.strength ?? 0) : 0;
  const reach = (width * width + height * height) / 4;
  const code = (light: Float32Array, i: number): void => {
    const [r, g, b] = [light[i]!, light[i + 1]!, light[i + 2]!];
    for (let c = 0; c < 3; c++) rgb[c] = Math.max(0, m[3 * c]! * r + m[3 * c + 1]! * g + m[3 * c + 2]! * b);
    if (vignette > 0) {
      const pixel = i / 4;
      const [x, y] = [(pixel % width) + 0.5 - width / 2, Math.floor(pixel / width) + 0.5 - height / 2];
      const left = vignetteFactor((x * x + y * y) / reach, vignette);
      for (let c = 0; c < 3; c++) rgb[c]! *= left;
    }
    if (tone ?? saturation !== 0) {
      const y = 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2];
      const factor = tone ? tone(y) : 1;
      for (let c = 0; c < 3; c++) rgb[c] = Math.max(0, (y + (rgb[c]! - y) * (1 + saturation)) * factor);
    }
    if (curve === 'filmic') for (let c = 0; c < 3; c++) rgb[c] = filmicCurve(rgb[c]!);
    else toneCurve(rgb);
    for (let c = 0; c < 3; c++) rgb[c] = table[Math.min(TABLE, rgb[c]! * TABLE + 0.5) | 0]!;
    if (strength > 0) {
      throughCube(cube!, rgb, looked);
      for (let c = 0; c < 3; c++) rgb[c] = rgb[c]! + (looked[c]! - rgb[c]!) * strength;
    }
  };
  return { code, rgb };
}

/** What of the difference to its four neighbours a pixel's luma is given more of, at full sharpening. */
const MOST_SHARPENED = 1.5;

/** Coded RGB with finer contrast of luma; hues stay. */
function sharpened(coded: Float32Array, width: number, sharpening: number): Float32Array {
  const height = coded.length / 3 / width;
  const out = new Float32Array(coded.length);
  const luma = (x: number, y: number) => {
    const p = (Math.min(height - 1, Math.max(0, y)) * width + Math.min(width - 1, Math.max(0, x))) * 3;
    return 0.2126 * coded[p]! + 0.7152 * coded[p + 1]! + 0.0722 * coded[p + 2]!;
  };
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p += 3) {
      const about = (luma(x - 1, y) + luma(x + 1, y) + luma(x, y - 1) + luma(x, y + 1)) / 4;
      const more = MOST_SHARPENED * sharpening * (luma(x, y) - about);
      for (let c = 0; c < 3; c++) out[p + c] = coded[p + c]! + more;
    }
  return out;
}

/** Of a developed picture: luma of each pixel against its neighbours, as `sharpened`. */
export const SHARPENING_GLSL = /* glsl */ `
uniform float sharpening;
vec3 sharpened(sampler2D coded, vec2 at, vec2 texel) {
  const vec3 luma = vec3(0.2126, 0.7152, 0.0722);
  vec3 here = texture2D(coded, at).rgb;
  float about = dot(luma, texture2D(coded, at + vec2(texel.x, 0.0)).rgb + texture2D(coded, at - vec2(texel.x, 0.0)).rgb
    + texture2D(coded, at + vec2(0.0, texel.y)).rgb + texture2D(coded, at - vec2(0.0, texel.y)).rgb) / 4.0;
  return here + ${MOST_SHARPENED.toFixed(2)} * sharpening * (dot(luma, here) - about);
}
`;

const TABLE = 16384;
let cached: Float32Array | undefined;

function srgbTable(): Float32Array {
  cached ??= Float32Array.from({ length: TABLE + 1 }, (_, i) => encodeSrgb(i / TABLE));
  return cached;
}

const CODED = Uint8Array.from({ length: 4096 }, (_, i) => Math.round(encodeSrgb(i / 4095) * 255));

/** sRGB byte of a linear value. Fine enough for a map: within one step of the exact byte from 0.002 up. */
export const codedByte = (x: number): number =>
  x < 0.02 ? Math.round(encodeSrgb(Math.max(0, x)) * 255) : CODED[Math.min(4095, Math.round(x * 4095))]!;
