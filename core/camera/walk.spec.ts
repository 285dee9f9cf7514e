import { describe, expect, it } from 'vitest';
import { distance, dot, normalise, subtract, type Vec3 } from '../geometry/vec3';
import type { Camera } from '../model/schema';
import { random } from '../random';
import { frameCount, WalkWay, type Walk } from './walk';

const stop = (x: number, y: number, towardsDeg: number, focalMm = 28): Camera => {
  const turn = (towardsDeg * Math.PI) / 180;
  return { position: [x, y, 1.6], target: [x + 4 * Math.cos(turn), y + 4 * Math.sin(turn), 1.6], focalMm };
};
const walk = (stops: Camera[], extra: Partial<Walk> = {}): Walk => ({ stops, seconds: 10, eased: false, ...extra });
const ahead = ({ position, target }: Camera): Vec3 => normalise(subtract(target, position));
const facingDeg = (camera: Camera) => (Math.atan2(ahead(camera)[1], ahead(camera)[0]) * 180) / Math.PI;

describe('a walk', () => {
  it('begins at its first stop, ends at its last, and goes straight at one pace between two', () => {
    const way = new WalkWay(walk([stop(0, 0, 0), stop(10, 0, 0)]));
    expect(way.lengthM).toBeCloseTo(10, 6);
    for (const seconds of [0, 2.5, 5, 9.99, 10, 12]) {
      const { position } = way.cameraAt(seconds);
      expect(position[0]).toBeCloseTo(Math.min(10, seconds), 2);
      expect(Math.hypot(position[1], position[2] - 1.6)).toBeLessThan(1e-9);
    }
    expect(way.cameraAt(-1)).toEqual(way.cameraAt(0));
  });

  it('passes through every stop, without corners, loops or cusps', () => {
    const stops = [stop(0, 0, 0), stop(6, 0, 0), stop(6.5, 3, 90), stop(20, 4, 0), stop(20, 12, 90)];
    const way = new WalkWay(walk(stops, { seconds: 60 }));
    const path = Array.from({ length: 6001 }, (_, i) => way.cameraAt(i / 100));
    for (const { position } of stops) expect(Math.min(...path.map((c) => distance(c.position, position)))).toBeLessThan(0.02);
    let sharpest = 1;
    for (let i = 2; i < path.length; i++) {
      const [a, b] = [subtract(path[i - 1]!.position, path[i - 2]!.position), subtract(path[i]!.position, path[i - 1]!.position)];
      if (Math.hypot(...a) > 1e-9 && Math.hypot(...b) > 1e-9) sharpest = Math.min(sharpest, dot(normalise(a), normalise(b)));
    }
    // A polyline through the stops turns by 80 degrees and more at them.
    expect(sharpest).toBeGreaterThan(Math.cos((10 * Math.PI) / 180));
    // Not much longer than the straight way.
    const straight = stops.slice(1).reduce((sum, s, i) => sum + distance(s.position, stops[i]!.position), 0);
    expect(way.lengthM / straight).toBeGreaterThanOrEqual(1);
    expect(way.lengthM / straight).toBeLessThan(1.2);
  });

  it('keeps its pace on a bent leg to a few in a hundred', () => {
    const way = new WalkWay(walk([stop(0, 0, 0), stop(5, 0, 0), stop(5, 5, 0)]));
    const steps = Array.from({ length: 200 }, (_, i) => distance(way.cameraAt(i / 20).position, way.cameraAt((i + 1) / 20).position));
    expect(Math.max(...steps) / Math.min(...steps)).toBeLessThan(1.05);
  });

  it('turns by the shorter way, on the spot as well, and changes its lens by ratios', () => {
    const way = new WalkWay(walk([stop(0, 0, 170, 20), stop(0, 0, -170, 80)]));
    expect(way.lengthM).toBe(0);
    const middle = way.cameraAt(5);
    expect(Math.abs(facingDeg(middle))).toBeCloseTo(180, 4);
    expect(middle.focalMm).toBeCloseTo(40, 6);
    // Opposite directions: level, not over the head.
    expect(ahead(new WalkWay(walk([stop(0, 0, 0), stop(0, 0, 180)])).cameraAt(5))[2]).toBeCloseTo(0, 6);
    // A turn between two ways takes its share of the time.
    const round = new WalkWay(walk([stop(0, 0, 0), stop(4, 0, 0), stop(4, 0, 90), stop(4, 4, 90)]));
    expect(facingDeg(round.cameraAt(5))).toBeCloseTo(45, 3);
    expect(distance(round.cameraAt(5).position, [4, 0, 1.6])).toBeLessThan(0.01);
  });

  it('sets off and arrives slowly where it is asked to', () => {
    const at = (seconds: number) => new WalkWay(walk([stop(0, 0, 0), stop(10, 0, 0)], { eased: true })).cameraAt(seconds).position[0];
    expect(at(1)).toBeLessThan(0.3);
    expect(at(5)).toBeCloseTo(5, 6);
    expect(10 - at(9)).toBeLessThan(0.3);
  });

  it('holds for any stops, far ones and equal ones among them', () => {
    const next = random(5);
    for (let round = 0; round < 300; round++) {
      const stops = Array.from({ length: 2 + Math.floor(next() * 6) }, () => stop(Math.round(next() * 3), Math.round(next() * 3), Math.round(next() * 4) * 90, 15 + next() * 80)); // prettier-ignore
      const way = new WalkWay(walk(stops, { eased: round % 2 === 0 }));
      for (let i = 0; i <= 20; i++) {
        const { position, target, focalMm } = way.cameraAt(i / 2);
        expect([...position, ...target, focalMm].every(Number.isFinite)).toBe(true);
        expect(distance(position, target)).toBeCloseTo(4, 3);
      }
    }
  });

  it('has as many pictures as its seconds say', () => {
    expect([frameCount({ seconds: 10 }, 25), frameCount({ seconds: 0.1 }, 24), frameCount({ seconds: 0.01 }, 24)]).toEqual([250, 2, 1]);
  });
});
