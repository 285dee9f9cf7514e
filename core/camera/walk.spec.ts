import { describe, expect, it } from 'vitest';
import { distance, dot, normalise, subtract, type Vec3 } from '../geometry/vec3';
import type { Camera } from '../model/schema';
import { random } from '../random';
import { moveFrom } from './moves';
import { frameCount, walkOf, WalkWay, type SeenThrough, type Walk } from './walk';

const stop = (x: number, y: number, towardsDeg: number, focalMm = 28): Camera => {
  const turn = (towardsDeg * Math.PI) / 180;
  return { position: [x, y, 1.6], target: [x + 4 * Math.cos(turn), y + 4 * Math.sin(turn), 1.6], focalMm };
};
const walk = (stops: Walk['stops'], extra: Partial<Walk> = {}): Walk => ({ stops, seconds: 10, eased: false, ...extra });
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
    expect([10, 0.1, 0.01].map((seconds, i) => frameCount({ stops: [], seconds }, i === 0 ? 25 : 24))).toEqual([250, 2, 1]);
  });
});

describe('a walk with shots', () => {
  it('stands where it is held, and goes on with the time that is left for its legs', () => {
    const way = new WalkWay(walk([stop(0, 0, 0), { ...stop(10, 0, 0), holdS: 3 }, stop(20, 0, 0)]));
    expect(way.seconds).toBe(13);
    expect(way.stopsAt).toEqual([0, 5, 13]);
    for (const [seconds, x] of [[2.5, 5], [5, 10], [7.9, 10], [8, 10], [10.5, 15], [13, 20]] as const) expect(way.cameraAt(seconds).position[0]).toBeCloseTo(x, 6);
    expect(frameCount(walk([stop(0, 0, 0), { ...stop(1, 0, 0), holdS: 0.5 }], { seconds: 1 }), 24)).toBe(36);
  }); // prettier-ignore

  it('jumps at a cut, and passes over at a dissolve: all of one, half of each, all of the other', () => {
    const stops = [stop(0, 0, 0), stop(10, 0, 0), { ...stop(0, 50, 90), by: 'dissolve' as const }, stop(0, 60, 90), { ...stop(99, 0, 0), by: 'cut' as const, holdS: 2 }];
    const way = new WalkWay(walk(stops));
    expect(way.cuts).toEqual([{ at: 5, dissolves: true }, { at: 10, dissolves: false }]);
    expect(way.seconds).toBe(12);
    // No leg leads from one shot to the next.
    expect(way.lengthM).toBeCloseTo(20, 6);
    expect(way.seenAt(4.4)).toHaveLength(1);
    const [a, b] = way.seenAt(5) as [SeenThrough, SeenThrough];
    expect([a.weight, b.weight]).toEqual([0.5, 0.5]);
    expect([a.camera.position[0], b.camera.position[1]]).toEqual([10, 50]);
    expect(way.seenAt(4.75).map(({ weight }) => weight)).toEqual([0.75, 0.25]);
    expect(way.cameraAt(9.99).position[1]).toBeCloseTo(60, 1);
    expect(way.cameraAt(10).position[0]).toBe(99);
    expect(way.cameraAt(12).position[0]).toBe(99);
  }); // prettier-ignore

  it('looks at its target all the way', () => {
    const way = new WalkWay(walk([stop(0, 0, 0), stop(10, 0, 90)], { lookAt: [5, 5, 1] }));
    for (const seconds of [0, 3, 7, 10]) expect(way.cameraAt(seconds).target).toEqual([5, 5, 1]);
  });
});

describe('a move', () => {
  const camera: Camera = { position: [0, -9, 2], target: [0, 0, 1], focalMm: 28 };
  it('round what is looked at keeps its distance and height at one pace, once round or a quarter', () => {
    for (const [move, turn] of [
      ['turntable', 360],
      ['orbit', 90],
    ] as const) {
      const made = moveFrom(camera, move);
      const way = new WalkWay({ ...walkOf({ ...made, name: 'm' }), eased: false });
      const steps = Array.from({ length: 101 }, (_, i) => way.cameraAt((i / 100) * way.seconds));
      for (const { position, target } of steps) {
        expect(Math.abs(Math.hypot(position[0], position[1]) / 9 - 1)).toBeLessThan(0.01);
        expect(position[2]).toBeCloseTo(2, 9);
        expect(target).toEqual([0, 0, 1]);
      }
      expect(way.lengthM / ((9 * turn * Math.PI) / 180)).toBeCloseTo(1, 2);
      const paces = steps.slice(1).map((step, i) => distance(step.position, steps[i]!.position));
      expect(Math.max(...paces) / Math.min(...paces)).toBeLessThan(1.05);
    }
  });

  it('push, slide and rise end where they say', () => {
    const end = (move: 'push' | 'slide' | 'rise') => moveFrom(camera, move).stops.at(-1)!;
    expect(end('push').position).toEqual([0, -4.5, 1.5]);
    const third = Math.hypot(9, 1) / 3;
    expect(end('slide').position[0]).toBeCloseTo(third, 9);
    expect(end('slide').target[0]).toBeCloseTo(third, 9);
    expect(end('rise').position[2]).toBeCloseTo(2 + third, 9);
    expect(end('rise').target).toEqual([0, 0, 1]);
  });

  it('carry what stops hold: upright verticals, the near limit, the aperture, parallel views', () => {
    const stop = (x: number, fNumber: number, nearM: number): Walk['stops'][number] => ({ position: [x, 0, 1.6], target: [x, 10, 1.6], focalMm: 24, upright: true, nearM, aperture: { fNumber, focusM: 4 } }); // prettier-ignore
    const way = new WalkWay({ stops: [stop(0, 2, 1), stop(8, 8, 4)], seconds: 8, eased: false });
    expect(way.cameraAt(0)).toMatchObject({ upright: true, nearM: 1, aperture: { fNumber: 2, focusM: 4 } });
    const half = way.cameraAt(4);
    expect(half.nearM).toBeCloseTo(2, 3);
    expect(half.aperture!.fNumber).toBeCloseTo(4, 3);
    expect(way.cameraAt(8)).toMatchObject({ upright: true, nearM: 4 });
    const flat = new WalkWay({ stops: [{ ...stop(0, 2, 1), parallelM: 10 }, { ...stop(8, 2, 1), parallelM: 40 }], seconds: 8, eased: false }); // prettier-ignore
    expect(flat.cameraAt(4).parallelM).toBeCloseTo(20, 3);
  });
});
