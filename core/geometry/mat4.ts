import type { Vec3 } from './vec3';

/** 4x4 affine transform, column-major, as in glTF. */
export type Mat4 = readonly number[];

export const IDENTITY: Mat4 = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** From y-up, as web-ifc and glTF have it, to the model's z-up. */
export const Z_UP: Mat4 = [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0, 0, 0, 0, 1];

export const translation = (x: number, y: number, z: number): Mat4 => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];

/** Turn about the vertical axis, anticlockwise seen from above. */
export function rotationZ(angleRad: number): Mat4 {
  const c = Math.cos(angleRad);
  const s = Math.sin(angleRad);
  return [c, s, 0, 0, -s, c, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
}

export function multiply(a: Mat4, b: Mat4): Mat4 {
  const out = new Array<number>(16);
  for (let column = 0; column < 4; column++)
    for (let row = 0; row < 4; row++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += a[k * 4 + row]! * b[column * 4 + k]!;
      out[column * 4 + row] = sum;
    }
  return out;
}

export function transformPoint(m: Mat4, [x, y, z]: Vec3): Vec3 {
  return [
    m[0]! * x + m[4]! * y + m[8]! * z + m[12]!,
    m[1]! * x + m[5]! * y + m[9]! * z + m[13]!,
    m[2]! * x + m[6]! * y + m[10]! * z + m[14]!,
  ];
}

/** A direction turned and scaled, not moved. */
export function transformDirection(m: Mat4, [x, y, z]: Vec3): Vec3 {
  return [m[0]! * x + m[4]! * y + m[8]! * z, m[1]! * x + m[5]! * y + m[9]! * z, m[2]! * x + m[6]! * y + m[10]! * z];
}

/** Scale, then the turn of a unit quaternion (x y z w), then the move. */
/** A normal by the transposed inverse, so that it stays square to its face where the scale is uneven; not of length one. */
export function transformNormal(inverse: Mat4, [x, y, z]: Vec3): Vec3 {
  return [
    inverse[0]! * x + inverse[1]! * y + inverse[2]! * z,
    inverse[4]! * x + inverse[5]! * y + inverse[6]! * z,
    inverse[8]! * x + inverse[9]! * y + inverse[10]! * z,
  ];
}

export function compose(
  move: readonly number[],
  [x = 0, y = 0, z = 0, w = 1]: readonly number[],
  [sx = 1, sy = 1, sz = 1]: readonly number[],
): Mat4 {
  return [
    (1 - 2 * (y * y + z * z)) * sx, 2 * (x * y + z * w) * sx, 2 * (x * z - y * w) * sx, 0,
    2 * (x * y - z * w) * sy, (1 - 2 * (x * x + z * z)) * sy, 2 * (y * z + x * w) * sy, 0,
    2 * (x * z + y * w) * sz, 2 * (y * z - x * w) * sz, (1 - 2 * (x * x + y * y)) * sz, 0,
    move[0]!, move[1]!, move[2]!, 1,
  ]; // prettier-ignore
}

/** Determinant of the linear part; negative for a mirrored placement. */
export function determinant(m: Mat4): number {
  return m[0]! * (m[5]! * m[10]! - m[9]! * m[6]!) - m[4]! * (m[1]! * m[10]! - m[9]! * m[2]!) + m[8]! * (m[1]! * m[6]! - m[5]! * m[2]!);
}

/** How much a transform lengthens, in the mean of all directions, to six digits; exact where it scales alike in all of them. */
export function meanScale(m: Mat4): number {
  const d = Math.abs(determinant(m));
  return Math.abs(d - 1) < 1e-6 ? 1 : Number(Math.cbrt(d).toPrecision(6));
}

/** Whether a transform leaves space three dimensions. */
export const isInvertible = (m: Mat4): boolean => Math.abs(determinant(m)) > 1e-18;

/** Inverse of an affine transform, or undefined when it flattens space. */
export function invert(m: Mat4): Mat4 | undefined {
  if (!isInvertible(m)) return undefined;
  const i = 1 / determinant(m);
  const r = [
    (m[5]! * m[10]! - m[9]! * m[6]!) * i,
    (m[9]! * m[2]! - m[1]! * m[10]!) * i,
    (m[1]! * m[6]! - m[5]! * m[2]!) * i,
    (m[8]! * m[6]! - m[4]! * m[10]!) * i,
    (m[0]! * m[10]! - m[8]! * m[2]!) * i,
    (m[4]! * m[2]! - m[0]! * m[6]!) * i,
    (m[4]! * m[9]! - m[8]! * m[5]!) * i,
    (m[8]! * m[1]! - m[0]! * m[9]!) * i,
    (m[0]! * m[5]! - m[4]! * m[1]!) * i,
  ] as const;
  const [x, y, z] = [m[12]!, m[13]!, m[14]!];
  return [
    r[0], r[1], r[2], 0,
    r[3], r[4], r[5], 0,
    r[6], r[7], r[8], 0,
    -(r[0] * x + r[3] * y + r[6] * z), -(r[1] * x + r[4] * y + r[7] * z), -(r[2] * x + r[5] * y + r[8] * z), 1,
  ]; // prettier-ignore
}
