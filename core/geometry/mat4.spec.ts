import { Matrix4, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { determinant, IDENTITY, invert, multiply, rotationZ, transformPoint, translation, type Mat4 } from './mat4';

/** Against the matrices of three.js, which are someone else's. */

const samples: Mat4[] = [
  translation(3, -2, 7),
  rotationZ(0.8),
  multiply(translation(1, 2, 3), rotationZ(-2.1)),
  [2, 0.3, 0, 0, -0.1, 1.5, 0.4, 0, 0.2, 0, 0.7, 0, 5, -6, 7, 1],
  [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0.5, 0, 0, 1],
];
const theirs = (m: Mat4) => new Matrix4().fromArray(m);
const near = (a: Iterable<number>, b: Iterable<number>) => {
  const other = [...b];
  [...a].forEach((value, i) => {
    expect(value).toBeCloseTo(other[i]!, 9);
  });
};

describe('transforms', () => {
  it('multiply as three.js multiplies', () => {
    for (const a of samples) for (const b of samples) near(multiply(a, b), theirs(a).multiply(theirs(b)).elements);
  });

  it('invert as three.js inverts, and undo themselves', () => {
    for (const m of samples) {
      near(invert(m)!, theirs(m).invert().elements);
      near(multiply(m, invert(m)!), IDENTITY);
    }
    expect(invert([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1])).toBeUndefined();
  });

  it('move points as three.js moves them', () => {
    for (const m of samples) near(transformPoint(m, [0.3, -4, 2]), new Vector3(0.3, -4, 2).applyMatrix4(theirs(m)));
  });

  it('have a negative determinant when they mirror', () => {
    for (const m of samples) expect(determinant(m)).toBeCloseTo(theirs(m).determinant(), 9);
    expect(determinant(samples[4]!)).toBe(-1);
  });
});
