import { expect, it } from 'vitest';
import { bearingTo, linksBySight, planAround } from './tour';

const at = (x: number, y: number) => ({ position: [x, y, 1.6] as [number, number, number] });

it('points that see each other and are near are linked; what would be reached from nowhere is linked to the nearest', () => {
  const points = [at(0, 0), at(5, 0), at(5, 9), at(100, 0)];
  // 0 and 1 see each other; 2 sees 0, but not 1; the last is in sight of all, but far away.
  expect(linksBySight(points, [[1, 3], [0, 3], [0, 3], [0, 1, 2]])).toEqual([[0, 1], [0, 2], [1, 3]]); // prettier-ignore
  expect(linksBySight([at(0, 0)], [[]])).toEqual([]);
});

it('bearings run clockwise from north, and up from the horizon', () => {
  expect(bearingTo([0, 0, 0], [1, 1, 0])).toEqual({ azimuthDeg: 45, altitudeDeg: 0 });
  expect(bearingTo([0, 0, 0], [-1, 0, 1]).azimuthDeg).toBeCloseTo(270);
  expect(bearingTo([0, 0, 0], [-1, 0, 1]).altitudeDeg).toBeCloseTo(45);
});

it('the plan holds all points with a margin, and is square', () => {
  expect(planAround([at(0, 0), at(10, 4)], 2)).toEqual({ minX: -2, minY: -5, maxX: 12, maxY: 9 });
});
