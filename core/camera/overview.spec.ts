import { describe, expect, it } from 'vitest';
import { dot, subtract, type Vec3 } from '../geometry/vec3';
import { cameraFrame } from './camera';
import { firstLookOf, overviewOf } from './overview';

describe('an overview', () => {
  const box = (min: [number, number, number], max: [number, number, number]) => ({ min, max });
  /** How far towards the picture's edge each corner lies: 1 is on it. */
  const reach = (bounds: ReturnType<typeof box>, camera: ReturnType<typeof overviewOf>, aspect: number) => {
    const { origin, forward, right, up } = cameraFrame(camera, aspect);
    return Array.from({ length: 8 }, (_, i) => {
      const corner = [0, 1, 2].map((k) => (i & (1 << k) ? bounds.max : bounds.min)[k]!) as unknown as Vec3;
      const d = subtract(corner, origin);
      const depth = dot(d, forward);
      expect(depth).toBeGreaterThan(0);
      return Math.max(...[right, up].map((axis) => Math.abs(dot(d, axis)) / dot(axis, axis) / depth));
    });
  };

  it('sees every corner, one of them just within the margin, whatever shape is seen through whatever frame', () => {
    for (const bounds of [box([0, 0, 0], [24, 12, 5]), box([-1, -1, 0], [1, 1, 40]), box([100, 200, 3], [101.6, 200.7, 3.9])])
      for (const aspect of [16 / 9, 1, 9 / 16]) {
        const far = reach(bounds, overviewOf(bounds, aspect), aspect);
        expect(Math.max(...far)).toBeCloseTo(0.92, 6);
      }
  });

  it('keeps the way that one looks, and the lens; a point is not run into', () => {
    const now = { position: [0, 30, 10] as [number, number, number], target: [0, 0, 5] as [number, number, number], focalMm: 50 };
    const bounds = box([-4, -4, 0], [4, 4, 8]);
    const all = overviewOf(bounds, 1.5, now);
    expect(all.focalMm).toBe(50);
    const way = (c: typeof now) => subtract(c.target, c.position).map((v) => v / Math.hypot(...subtract(c.target, c.position)));
    way(all).forEach((v, k) => { expect(v).toBeCloseTo(way(now)[k]!, 9); }); // prettier-ignore
    expect(Math.max(...reach(bounds, all, 1.5))).toBeCloseTo(0.92, 6);
    const point = overviewOf(box([1, 2, 3], [1, 2, 3]), 1.5);
    expect(Math.hypot(...subtract(point.position, [1, 2, 3]))).toBeCloseTo(0.5, 9);
  });
});

describe('a first look', () => {
  const house = { min: [100, 200, 3] as [number, number, number], max: [118, 210, 11] as [number, number, number] };

  it('is from eye height outside, at three quarters, level, and sees all of a building', () => {
    for (const aspect of [16 / 9, 1, 9 / 16]) {
      const { position, target, focalMm } = firstLookOf(house, aspect);
      expect(position[2]).toBeCloseTo(3 + 1.65, 9);
      expect(target[2]).toBeCloseTo(position[2], 9);
      const [ahead, aside] = [position[0] - 109, position[1] - 205];
      expect(Math.abs(ahead / aside)).toBeGreaterThan(0.5);
      expect(Math.abs(ahead / aside)).toBeLessThan(2);
      const { forward, right, up } = cameraFrame({ position, target, focalMm }, aspect);
      for (let i = 0; i < 8; i++) {
        const corner = [0, 1, 2].map((k) => (i & (1 << k) ? house.max : house.min)[k]!) as unknown as Vec3;
        const d = subtract(corner, position);
        for (const axis of [right, up]) expect(Math.abs(dot(d, axis)) / dot(axis, axis) / dot(d, forward)).toBeLessThan(0.93);
      }
    }
  });

  it('is from above at a flat site, and at what is smaller than a building', () => {
    for (const max of [[300, 200, 6], [101, 201, 4]] as [number, number, number][]) {
      const look = firstLookOf({ min: [100, 100, 3], max }, 1.5);
      expect(look).toEqual(overviewOf({ min: [100, 100, 3], max }, 1.5));
    }
  }); // prettier-ignore
});
