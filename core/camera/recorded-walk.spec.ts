import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { distance, type Vec3 } from '../geometry/vec3';
import type { Camera } from '../model/schema';
import { recordedWalk, type PlaceAt } from './recorded-walk';
import { keptWalkSchema, walkOf, WalkWay } from './walk';

const EVERY_S = 0.05;
const looking = (x: number, y: number, towards: number): Camera => ({
  position: [x, y, 1.65],
  target: [x + 4 * Math.cos(towards), y + 4 * Math.sin(towards), 1.65],
  focalMm: 26,
});
/** Down a corridor of 10 m, round its corner in two seconds, two seconds of standing, and 6 m on; at 1.5 m/s. */
function corridor(): PlaceAt[] {
  const cameras: Camera[] = [];
  for (let x = 0; x <= 10; x += 1.5 * EVERY_S) cameras.push(looking(x, 0, 0));
  for (let t = 0; t <= 1; t += EVERY_S / 2) cameras.push(looking(10, 0, (t * Math.PI) / 2));
  for (let s = 0; s < 2; s += EVERY_S) cameras.push(looking(10, 0, Math.PI / 2));
  for (let y = 0; y <= 6; y += 1.5 * EVERY_S) cameras.push(looking(10, y, Math.PI / 2));
  return cameras.map((camera, i) => ({ atS: i * EVERY_S, camera }));
}

describe('a walk that was recorded', () => {
  it('goes where the eye went, stands where it stood, and takes as long', () => {
    const places = corridor();
    const walk = recordedWalk('To the hall', places)!;
    expect(v.is(keptWalkSchema, walk)).toBe(true);
    expect(walk.stops.length).toBeLessThan(8);
    const held = walk.stops.filter(({ holdS = 0 }) => holdS > 0);
    expect(held.map(({ position }) => position)).toEqual([[10, 0, 1.65]]);
    expect(held[0]!.holdS).toBeCloseTo(2, 0);
    const way = new WalkWay(walkOf(walk));
    expect(way.seconds).toBeCloseTo(places.at(-1)!.atS, 0);
    // No place that was gone through lies farther from the walk than a step aside.
    const seen = Array.from({ length: 400 }, (_, i) => way.cameraAt((way.seconds * i) / 399).position as Vec3);
    for (const { camera } of places) expect(Math.min(...seen.map((place) => distance(place, camera.position)))).toBeLessThan(0.3);
  });

  it('has no more stops than a walk may have, however winding it was', () => {
    const places = Array.from({ length: 3000 }, (_, i) => ({
      atS: i * EVERY_S,
      camera: looking(i * 0.05, Math.sin(i / 9) * 2, Math.cos(i / 9)),
    }));
    const walk = recordedWalk('Winding', places)!;
    expect(v.is(keptWalkSchema, walk)).toBe(true);
    expect(walk.stops.length).toBe(50);
    expect(walk.seconds).toBeCloseTo(2999 * EVERY_S, 0);
  });

  it('leads to its end however often somebody stood on the way', () => {
    const places = Array.from({ length: 140 }, (_, i) => ({ atS: i * 2, camera: looking(Math.floor(i / 2), 0, 0) }));
    const walk = recordedWalk('With many rests', places)!;
    expect(walk.stops).toHaveLength(50);
    expect(walk.stops.at(-1)!.position).toEqual([69, 0, 1.65]);
  });

  it('is none where nobody went', () => {
    expect(recordedWalk('Nowhere', [])).toBeUndefined();
    expect(recordedWalk('Nowhere', [0, 1, 2].map((atS) => ({ atS, camera: looking(0, 0, 0) })))).toBeUndefined(); // prettier-ignore
  });
});
