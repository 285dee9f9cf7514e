import * as v from 'valibot';

/** What is done to an exposed picture before it is coded, in the order of a darkroom; the same in the shader (`GRADING_GLSL`). */

const signed = v.pipe(v.number(), v.minValue(-1), v.maxValue(1));
const share = v.pipe(v.number(), v.minValue(0), v.maxValue(1));

export const gradingSchema = v.strictObject({
  curve: v.picklist(['neutral', 'filmic']),
  /** -1 to 1: the slope about middle grey, a half to twice. */
  contrast: signed,
  /** -1 to 1: stops by which what lies four stops over and under middle grey is lifted, up to two. */
  highlights: signed,
  shadows: signed,
  saturation: signed,
  bloom: share,
  vignette: share,
  sharpening: share,
  /** One of the project's looks, and how far it holds. */
  look: v.optional(v.strictObject({ id: v.pipe(v.string(), v.minLength(1), v.maxLength(100)), strength: share })),
});
export type Grading = v.InferOutput<typeof gradingSchema>;

export const PLAIN_GRADING: Grading = {
  curve: 'neutral', contrast: 0, highlights: 0, shadows: 0, saturation: 0, bloom: 0, vignette: 0, sharpening: 0,
}; // prettier-ignore

/** Middle grey, which is coded 118 of 255. */
export const GREY = 0.18;
/** As far from middle grey, in stops, highlights and shadows hold wholly; and as far they are moved at most. */
const REACH = 4;
const MOST_STOPS = 2;
/** Darker than this under middle grey, stops, is black anyhow. */
const DARKEST = -20;

const smooth = (x: number): number => {
  const t = Math.min(1, Math.max(0, x));
  return t * t * (3 - 2 * t);
};

/** What a luminance is multiplied with; steady and rising in the luminance for every setting. */
export function toneFactor(y: number, { contrast, highlights, shadows }: Grading): number {
  const stops = Math.max(DARKEST, Math.log2(Math.max(y, 1e-12) / GREY));
  const lifted = stops + MOST_STOPS * (highlights * smooth(stops / REACH) + shadows * smooth(-stops / REACH));
  return 2 ** (lifted * 2 ** contrast - stops);
}

const TABLE = 512;
const [LOWEST, HIGHEST] = [DARKEST, 12];

/** `toneFactor` for many pixels; undefined where it changes nothing. */
export function tabulatedTone(grading: Grading): ((y: number) => number) | undefined {
  if (!grading.contrast && !grading.highlights && !grading.shadows) return undefined;
  const step = (HIGHEST - LOWEST) / (TABLE - 1);
  const table = Float32Array.from({ length: TABLE }, (_, i) => toneFactor(GREY * 2 ** (LOWEST + i * step), grading));
  return (y) => {
    const at = Math.min(TABLE - 1.001, Math.max(0, (Math.log2(Math.max(y, 1e-12) / GREY) - LOWEST) / step));
    const i = at | 0;
    return table[i]! + (table[i + 1]! - table[i]!) * (at - i);
  };
}

/** Light that is left at a place, as of a lens by the fourth power of the cosine; `r2` is 1 in the corners. */
export const vignetteFactor = (r2: number, vignette: number): number => (1 + vignette * r2) ** -2;

/**
 * The filmic curve of Narkowicz 2015, "ACES filmic tone mapping curve", whose constants stand here, for one channel. What it is
 * given is scaled so that middle grey stays where it is.
 */
const FILM = { a: 2.51, b: 0.03, c: 2.43, d: 0.59, e: 0.14 } as const;
const FILM_SCALE = filmInput(GREY) / GREY;

/** What the curve makes this of. */
function filmInput(y: number): number {
  const { a, b, c, d, e } = FILM;
  const [p, q, r] = [a - c * y, b - d * y, -e * y];
  return (-q + Math.sqrt(q * q - 4 * p * r)) / (2 * p);
}

export function filmicCurve(x: number): number {
  const { a, b, c, d, e } = FILM;
  const s = x * FILM_SCALE;
  return Math.min(1, (s * (a * s + b)) / (s * (c * s + d) + e));
}

const { a, b, c, d, e } = FILM;
const glsl = (x: number) => x.toFixed(8);

export const GRADING_GLSL = /* glsl */ `
uniform vec3 tones;
uniform float saturation;
uniform float vignette;
uniform bool filmic;
float toneFactor(float y) {
  float stops = max(${glsl(DARKEST)}, log2(max(y, 1e-12) / ${glsl(GREY)}));
  float lifted = stops + ${glsl(MOST_STOPS)} * (tones.y * smoothstep(0.0, ${glsl(REACH)}, stops) + tones.z * smoothstep(0.0, ${glsl(REACH)}, -stops));
  return exp2(lifted * exp2(tones.x) - stops);
}
vec3 graded(vec3 rgb, float r2) {
  rgb *= pow(1.0 + vignette * r2, -2.0);
  float y = dot(rgb, vec3(0.2126, 0.7152, 0.0722));
  float factor = toneFactor(y);
  return max(vec3(0.0), (vec3(y) + (rgb - y) * (1.0 + saturation)) * factor);
}
vec3 filmicCurve(vec3 x) {
  vec3 s = x * ${glsl(FILM_SCALE)};
  return min(vec3(1.0), s * (${glsl(a)} * s + ${glsl(b)}) / (s * (${glsl(c)} * s + ${glsl(d)}) + ${glsl(e)}));
}
`;
