import { expect, it } from 'vitest';
import { compose, multiply, rotationZ, translation } from '../geometry/mat4';
import { carried, inLine, isInBox, middleOf, movedBy } from './arrange';
import type { SetThing } from './set-thing';

const thing = (more: Partial<SetThing> = {}): SetThing => ({
  name: 'Bench', layer: 'Entourage', of: [{ kind: 'bench', share: 1 }], pattern: { kind: 'one' }, size: 1, spread: 0, seed: 1, members: [2, 3, 0.5], ...more,
}); // prettier-ignore

it('moves all that belongs to a thing, at its heights', () => {
  expect(movedBy(thing(), 1, -1).members).toEqual([3, 2, 0.5]);
  const area = thing({ pattern: { kind: 'area', outline: [[0, 0], [4, 0], [4, 2]], perHundredM2: 1, leastM: 1, strokes: [{ at: [1, 1], radiusM: 1, adds: true }], onSurfaceAt: [1, 1] } }); // prettier-ignore
  expect(movedBy(area, 10, 20).pattern).toMatchObject({ outline: [[10, 20], [14, 20], [14, 22]], strokes: [{ at: [11, 21] }], onSurfaceAt: [11, 21] }); // prettier-ignore
  expect(middleOf(thing({ pattern: { kind: 'row', points: [[0, 0], [4, 2]], spacingM: 1 } }))).toEqual([2, 1]); // prettier-ignore
});

it('turns and sizes a thing about a place, with all that belongs to it', () => {
  const quarter = multiply(translation(2, 2, 0), multiply(rotationZ(Math.PI / 2), translation(-2, -2, 0)));
  expect(carried(thing({ turnDeg: 170 }), quarter)).toMatchObject({ members: [1, 2, 0.5], turnDeg: -100, size: 1 });
  // Turned by chance, it stays so.
  expect(carried(thing(), quarter).turnDeg).toBeUndefined();
  const row = thing({ pattern: { kind: 'row', points: [[2, 2], [4, 2]], spacingM: 1 } }); // prettier-ignore
  expect(carried(row, quarter).pattern).toMatchObject({ points: [[2, 2], [2, 4]] }); // prettier-ignore
  expect(carried(thing(), compose([0, 0, 0], [0, 0, 0, 1], [2, 2, 2]))).toMatchObject({ size: 2, members: [4, 6, 1] });
  expect(carried(thing({ size: 15 }), compose([0, 0, 0], [0, 0, 0, 1], [2, 2, 2])).size).toBe(20);
});

it('puts several in line between the two furthest apart, and evenly', () => {
  const places = [[0, 0], [3, 0.4], [4, -0.3], [10, 0]] as const; // prettier-ignore
  expect(inLine(places, false)).toEqual([[0, 0], [3, 0], [4, 0], [10, 0]]); // prettier-ignore
  for (const [i, [x, y]] of inLine(places, true).entries()) {
    expect(x).toBeCloseTo((i * 10) / 3, 9);
    expect(y).toBe(0);
  }
});

it('chooses by their middles what lies in a box, whichever way it was drawn', () => {
  expect([isInBox(thing(), [[0, 5], [4, 0]]), isInBox(thing(), [[3, 0], [9, 9]])]).toEqual([true, false]); // prettier-ignore
});
