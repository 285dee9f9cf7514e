import { describe, expect, it } from 'vitest';
import { random } from '../random';
import { alongLine, areaOf, distanceFor, growsAt, isInside, scatter, withoutHidden, type Place2 } from './scatter';

const SQUARE: Place2[] = [[-30, 10], [50, 10], [50, 70], [-30, 70]]; // prettier-ignore
const nearest = (places: readonly Place2[]) => places.map(([x, y], i) => Math.min(...places.map(([px, py], k) => (k === i ? Infinity : Math.hypot(px - x, py - y))))); // prettier-ignore

it('strokes that later ones hide wholly say nothing, and are left out', () => {
  const next = random(3);
  const strokes = Array.from({ length: 600 }, () => ({
    at: [next() * 20, next() * 20] as [number, number],
    radiusM: 0.5 + next() * 3,
    adds: next() > 0.4,
  }));
  const left = withoutHidden(strokes);
  expect(left.length).toBeLessThan(strokes.length * 0.6);
  for (let i = 0; i < 2000; i++) {
    const place: Place2 = [next() * 24 - 2, next() * 24 - 2];
    expect(growsAt(place, [], left)).toBe(growsAt(place, [], strokes));
  }
});

describe('an area', () => {
  it('has as many to a square metre as are asked for, within a tenth, none closer than the least distance', () => {
    for (const perM2 of [0.02, 0.1, 0.4]) {
      const distance = distanceFor(perM2, 0.5);
      const places = scatter(SQUARE, [], distance, 7, 20_000);
      expect(Math.abs(places.length / (areaOf(SQUARE) * perM2) - 1)).toBeLessThan(0.1);
      expect(Math.min(...nearest(places))).toBeGreaterThanOrEqual(distance);
      expect(places.every((place) => isInside(place, SQUARE))).toBe(true);
    }
    // The least distance comes before the number.
    expect(distanceFor(4, 1.5)).toBe(1.5);
  });

  it('is filled evenly: with blue noise hardly a place is further than twice the distance from its next', () => {
    const distance = distanceFor(0.05, 0);
    const places = scatter(SQUARE, [], distance, 3, 20_000);
    // Of places at random (Poisson), a fifth and more would have their next nearer than half the mean distance, and many far off.
    expect(nearest(places).filter((d) => d > 1.6 * distance)).toHaveLength(0);
  });

  it('stays where it is when it is made larger or brushed: only what the brush covers comes or goes', () => {
    const key = (places: readonly Place2[]) => new Set(places.map(([x, y]) => `${String(x)} ${String(y)}`));
    const before = key(scatter(SQUARE, [], 2, 5, 20_000));
    const takes = { at: [0, 40] as [number, number], radiusM: 6, adds: false };
    const thinned = scatter(SQUARE, [takes], 2, 5, 20_000);
    for (const place of thinned) expect(Math.hypot(place[0], place[1] - 40)).toBeGreaterThan(6);
    for (const place of key(thinned)) expect(before.has(place)).toBe(true);
    expect(before.size - thinned.length).toBeGreaterThan(10);
    const grown = key(scatter(SQUARE, [{ at: [50, 40], radiusM: 5, adds: true }], 2, 5, 20_000));
    for (const place of before) expect(grown.has(place)).toBe(true);
    expect(grown.size).toBeGreaterThan(before.size);
    expect(scatter(SQUARE, [], 2, 6, 20_000)).not.toEqual(scatter(SQUARE, [], 2, 5, 20_000));
  });

  // How long that takes is told by the bench: a busy machine makes a test slow, not red.
  it('places five thousand where that many are asked for', () => {
    expect(scatter(SQUARE, [], distanceFor(5000 / 4800, 0), 1, 20_000).length).toBeGreaterThan(4500);
  });

  it('grows where the last stroke of the brush says so, else within its outline', () => {
    const at: [number, number] = [0, 40];
    expect(growsAt(at, SQUARE, [{ at, radiusM: 1, adds: false }, { at, radiusM: 1, adds: true }])).toBe(true);
    expect(growsAt([200, 0], SQUARE, [])).toBe(false);
    expect(scatter([], [], 1, 1, 100)).toEqual([]);
  }); // prettier-ignore
});

it('a row stands evenly along its line, round its corners', () => {
  expect(alongLine([[0, 0], [10, 0]], 2.5)).toEqual([[0, 0], [2.5, 0], [5, 0], [7.5, 0], [10, 0]]);
  const bent = alongLine([[0, 0], [3, 0], [3, 9]], 2);
  expect(bent).toHaveLength(7);
  expect(bent[2]).toEqual([3, 1]);
}); // prettier-ignore
