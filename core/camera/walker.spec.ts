import { describe, expect, it } from 'vitest';
import type { Mesh } from '../geometry/mesh';
import type { Vec3 } from '../geometry/vec3';
import { box, darkSky, matt, testScene } from '../kernel/testing';
import { random } from '../random';
import { EYE_HEIGHT_M, Walker, type Cast, type Met } from './walker';

/** Boxes, each a kind of thing, as the kernel's rays meet them. */
function walkerAmong(parts: readonly { mesh: Mesh; kind?: Met['kind'] }[]): Walker {
  const scene = testScene(parts.map(({ mesh }) => ({ mesh, finish: matt(0.5) })), darkSky()); // prettier-ignore
  const bounds = parts.map(({ mesh }) =>
    [0, 1, 2].map((axis) => {
      const values = [...mesh.positions].filter((_, i) => i % 3 === axis);
      return [Math.min(...values), Math.max(...values)] as const;
    }),
  );
  const cast: Cast = (from, way, reach) => {
    const { kernel } = scene;
    if (!kernel.traceClosest(...from, ...way, reach, -1)) return undefined;
    const distance = kernel.hitDistance.value;
    const part = parts[kernel.hitInstance.value]!;
    // The boxes stand square: the face that is nearest to the place tells the normal.
    const place = from.map((value, axis) => value + way[axis]! * distance);
    let normal: Vec3 = [0, 0, 1];
    let nearest = Infinity;
    for (const [axis, ends] of bounds[kernel.hitInstance.value]!.entries())
      for (const [k, at] of ends.entries()) {
        const off = Math.abs(at - place[axis]!);
        if (off >= nearest) continue;
        nearest = off;
        normal = [0, 1, 2].map((n) => (n === axis ? (k ? 1 : -1) : 0)) as unknown as Vec3;
      }
    return { distance, normal, kind: part.kind ?? 'solid' };
  };
  return new Walker(cast);
}

const ground = { mesh: box([-50, -50, -1], [50, 50, 0]) };
const eyeAt = (x: number, y: number, z = 0): Vec3 => [x, y, z + EYE_HEIGHT_M];
const walk = (walker: Walker, from: Vec3, dx: number, dy: number, steps: number): Vec3 => {
  let eye = from;
  for (let i = 0; i < steps; i++) eye = walker.step(eye, dx, dy);
  return eye;
};

describe('who walks', () => {
  it('goes up stairs and ramps, over kerbs, and not onto tables', () => {
    const stairs = Array.from({ length: 10 }, (_, i) => ({ mesh: box([2 + i * 0.28, -1, 0], [9, 1, (i + 1) * 0.17]) }));
    expect(walk(walkerAmong([ground, ...stairs]), eyeAt(0, 0), 0.1, 0, 60)[2]).toBeCloseTo(1.7 + EYE_HEIGHT_M, 3);
    const kerb = { mesh: box([2, -5, 0], [9, 5, 0.14]) };
    expect(walk(walkerAmong([ground, kerb]), eyeAt(0, 0), 0.1, 0, 40)[2]).toBeCloseTo(0.14 + EYE_HEIGHT_M, 3);
    const table = { mesh: box([2, -1, 0.7], [4, 1, 0.75]) };
    expect(walk(walkerAmong([ground, table]), eyeAt(0, 0), 0.1, 0, 60)[0]).toBeLessThan(2);
  });

  it('stands on a floor at any height, at nought too', () => {
    expect(walkerAmong([ground]).stand([1, 2, 3])).toEqual([1, 2, expect.closeTo(EYE_HEIGHT_M, 6)]);
  });

  it('is stopped by walls and goes along them, and through doors', () => {
    const wall = { mesh: box([3, -20, 0], [3.2, 20, 3]) };
    const along = walk(walkerAmong([ground, wall]), eyeAt(0, 0), 0.1, 0.1, 80);
    expect(along[0]).toBeLessThan(3 - 0.15);
    expect(along[1]).toBeGreaterThan(7);
    const leaf = { mesh: box([3, -0.5, 0], [3.05, 0.5, 2.1]), kind: 'open' as const };
    const door = [{ mesh: box([3, -20, 0], [3.2, -0.5, 3]) }, { mesh: box([3, 0.5, 0], [3.2, 20, 3]) }, leaf];
    expect(walk(walkerAmong([ground, ...door]), eyeAt(0, 0), 0.1, 0, 60)[0]).toBeGreaterThan(4);
  });

  it('walks neither on water nor under it, nor off a quay, and does not sink where there is nothing to stand on', () => {
    const quay = { mesh: box([-50, -50, -3], [2, 50, 0]) };
    const water = { mesh: box([2, -50, -3], [50, 50, -0.4]), kind: 'water' as const };
    const walker = walkerAmong([quay, water]);
    expect(walk(walker, eyeAt(0, 0), 0.1, 0, 80)).toEqual([expect.closeTo(2, 0), 0, expect.closeTo(EYE_HEIGHT_M, 5)]);
    expect(walker.stand([10, 0, 2])).toBeUndefined();
    expect(walk(walkerAmong([quay]), eyeAt(0, 0), 0.1, 0, 80)[0]).toBeLessThanOrEqual(2.01);
  });

  it('never leaves a room but by its door, in 1,000 random walks', () => {
    const [w, d, h, t] = [6, 4, 2.7, 0.15];
    const walls = [
      { mesh: box([-t, -t, 0], [0, d + t, h]) }, { mesh: box([w, -t, 0], [w + t, d + t, h]) }, { mesh: box([0, d, 0], [w, d + t, h]) },
      { mesh: box([0, -t, 0], [2.5, 0, h]) }, { mesh: box([3.4, -t, 0], [w, 0, h]) }, { mesh: box([2.5, -t, 2.1], [3.4, 0, h]) },
      { mesh: box([1, 2, 0], [2.2, 3, 0.75]) },
    ]; // prettier-ignore
    const walker = walkerAmong([ground, ...walls]);
    const next = random(17);
    let left = 0;
    for (let i = 0; i < 1000; i++) {
      let eye = eyeAt(3 + next(), 1 + next());
      let turn = next() * 2 * Math.PI;
      let isOut = false;
      for (let k = 0; k < 90 && !isOut; k++) {
        turn += (next() - 0.5) * 0.8;
        const before = eye;
        eye = walker.step(eye, Math.cos(turn) * 0.12, Math.sin(turn) * 0.12);
        isOut = eye[0] < 0 || eye[0] > w || eye[1] < 0 || eye[1] > d;
        // Out only over the door's threshold.
        const over = before[0] + ((eye[0] - before[0]) * before[1]) / (before[1] - eye[1]);
        if (isOut) expect([over > 2.5 && over < 3.4, eye[1] < 0]).toEqual([true, true]);
      }
      if (isOut) left++;
    }
    expect(left).toBeGreaterThan(20);
    expect(left).toBeLessThan(900);
  });
}); // prettier-ignore
