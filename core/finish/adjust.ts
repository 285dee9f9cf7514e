import type { Finish } from './finish';

/** Rec.709 weights as the Filter Effects matrices round them. */
const R = 0.213;
const G = 0.715;
const B = 0.072;
/** Contrast turns about this linear value: a mid grey. */
export const CONTRAST_PIVOT = 0.18;

export type ColourMatrix = readonly [number, number, number, number, number, number, number, number, number];

/** Rows of the matrix that turns a linear colour's hue and keeps its luminance (W3C Filter Effects 1, feColorMatrix hueRotate). */
export function hueMatrix(cosine: number, sine: number): ColourMatrix {
  const [c, s] = [cosine, sine];
  return [
    R + c * (1 - R) - s * R, G - c * G - s * G, B - c * B + s * (1 - B),
    R - c * R + s * 0.143, G + c * (1 - G) + s * 0.14, B - c * B - s * 0.283,
    R - c * R - s * (1 - R), G - c * G + s * G, B + c * (1 - B) + s * B,
  ]; // prettier-ignore
}

/** The same for saturation (feColorMatrix saturate): 0 is grey, 1 as it is. */
export function saturationMatrix(s: number): ColourMatrix {
  return [
    R + (1 - R) * s, G - G * s, B - B * s,
    R - R * s, G + (1 - G) * s, B - B * s,
    R - R * s, G - G * s, B + (1 - B) * s,
  ]; // prettier-ignore
}

/** Hue, saturation and brightness of a finish as one matrix on linear colours; contrast follows it. */
export function adjustmentMatrix({ hueDeg, saturation, brightness }: Pick<Finish, 'hueDeg' | 'saturation' | 'brightness'>): ColourMatrix {
  const turn = (hueDeg * Math.PI) / 180;
  const h = hueMatrix(Math.cos(turn), Math.sin(turn));
  const s = saturationMatrix(saturation);
  return Array.from({ length: 9 }, (_, i) => {
    const [row, column] = [i - (i % 3), i % 3];
    return brightness * (s[row]! * h[column]! + s[row + 1]! * h[3 + column]! + s[row + 2]! * h[6 + column]!);
  }) as unknown as ColourMatrix;
}

export const isAdjusted = ({ hueDeg, saturation, brightness, contrast }: Finish): boolean =>
  hueDeg !== 0 || saturation !== 1 || brightness !== 1 || contrast !== 1;

/** A linear colour after a matrix and contrast, within 0 and 1. The kernel and the shaders do the same. */
export function adjusted([r, g, b]: readonly [number, number, number], m: ColourMatrix, contrast: number): [number, number, number] {
  return [0, 3, 6].map((row) => {
    const value = Math.max(0, m[row]! * r + m[row + 1]! * g + m[row + 2]! * b);
    return Math.min(1, contrast === 1 ? value : CONTRAST_PIVOT * (value / CONTRAST_PIVOT) ** contrast);
  }) as [number, number, number];
}

/** `adjusted` for shaders, and a hue turned by cosine and sine. */
export const ADJUST_GLSL = /* glsl */ `
vec3 adjustColour(vec3 colour, mat3 m, float contrast) {
  vec3 c = max(m * colour, vec3(0.0));
  return min(contrast == 1.0 ? c : ${CONTRAST_PIVOT.toFixed(2)} * pow(c / ${CONTRAST_PIVOT.toFixed(2)}, vec3(contrast)), vec3(1.0));
}
vec3 turnHue(vec3 colour, vec2 turn) {
  vec3 y = vec3(dot(colour, vec3(${String(R)}, ${String(G)}, ${String(B)})));
  mat3 s = mat3(${-R}, 0.143, ${R - 1}, ${-G}, 0.14, ${G}, ${1 - B}, -0.283, ${B});
  return max(y + turn.x * (colour - y) + turn.y * (s * colour), vec3(0.0));
}
`;
