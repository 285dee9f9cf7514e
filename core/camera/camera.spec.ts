import { describe, expect, it } from 'vitest';
import { dot, length, subtract, type Vec3 } from '../geometry/vec3';
import { cameraFrame, cameraOn, horizontalFovRad, placeIn, sharpFrom, verticalFovRad } from './camera';
import { parallelView, PARALLEL_VIEWS, widthSeenM } from './parallel-views';

describe('the lens', () => {
  it('sees 2 atan(18 / f) across (35 mm equivalent)', () => {
    expect((horizontalFovRad(18) * 180) / Math.PI).toBeCloseTo(90, 6);
    expect((horizontalFovRad(35) * 180) / Math.PI).toBeCloseTo(54.43, 2);
    expect(Math.tan(verticalFovRad(35, 1.5) / 2) * 1.5).toBeCloseTo(Math.tan(horizontalFovRad(35) / 2), 9);
  });

  it('frames the picture with axes at right angles, also straight down', () => {
    for (const target of [
      [5, 3, 1],
      [0, 0, -9],
    ] as const) {
      const f = cameraFrame({ position: [0, 0, 2], target: [...target], focalMm: 30 }, 16 / 9);
      expect(dot(f.forward, f.right)).toBeCloseTo(0, 9);
      expect(dot(f.forward, f.up)).toBeCloseTo(0, 9);
      expect(length(f.right) / length(f.up)).toBeCloseTo(16 / 9, 9);
    }
  });
});

describe('a camera brought near a place', () => {
  it('looks at it from its side, a little from above, with the thing filling about half the picture', () => {
    const now = { position: [0, -10, 1.6] as [number, number, number], target: [0, 0, 1.6] as [number, number, number], focalMm: 36 };
    const camera = cameraOn(now, [5, 5, 0], 2);
    expect(camera.target).toEqual([5, 5, 0]);
    // At 36 mm the picture is as wide as it is far away.
    expect(Math.hypot(...camera.position.map((v, i) => v - camera.target[i]!))).toBeCloseTo(4, 6);
    expect(camera.position[2]).toBeCloseTo(1, 6);
    expect(camera.position[1]).toBeLessThan(5);
    expect(cameraOn(now, [0, 0, 0], 0.001).position[2]).toBeGreaterThan(0.3);
  });
});

describe('framing', () => {
  const tilted = { position: [2, -14, 1.6] as [number, number, number], target: [6, 3, 7] as [number, number, number], focalMm: 24 };
  const seen = (camera: Parameters<typeof cameraFrame>[0], place: Vec3) =>
    placeIn(cameraFrame(camera, 1.5), subtract(place, camera.position))!;

  it('keeps verticals upright by shifting the lens, and what is looked at where it was', () => {
    for (const [x, y] of [[-3, 2], [11, 5], [4, 0]] as const) {
      const edge = [0, 4, 9].map((z) => seen({ ...tilted, upright: true }, [x, y, z])[0]);
      for (const at of edge) expect(Math.abs(at - edge[0]!)).toBeLessThan(1e-12);
      const leaning = [0, 9].map((z) => seen(tilted, [x, y, z])[0]);
      if (x !== 4) expect(Math.abs(leaning[1]! - leaning[0]!)).toBeGreaterThan(0.01);
    }
    for (const camera of [tilted, { ...tilted, upright: true as const }]) expect(Math.hypot(...seen(camera, tilted.target))).toBeLessThan(1e-12);
    // Looking level, nothing changes.
    const level = { ...tilted, target: [6, 3, 1.6] as [number, number, number] };
    for (const [x, y, z] of [[1, 5, 0], [9, 0, 6]] as const) for (const axis of [0, 1]) expect(seen({ ...level, upright: true }, [x, y, z])[axis]).toBeCloseTo(seen(level, [x, y, z])[axis]!, 12);
  }); // prettier-ignore

  it('draws plans, elevations and axonometric views in parallel, as wide as what was seen', () => {
    for (const view of PARALLEL_VIEWS) {
      const camera = parallelView(tilted, view);
      const frame = cameraFrame(camera, 1.5);
      expect(frame.projection).toBe('orthographic');
      expect(length(frame.right) * 2).toBeCloseTo(widthSeenM(tilted), 2);
      if (view === 'plan') expect(frame.up[1]).toBeGreaterThan(0);
      if (view === 'south') expect([frame.right[0] > 0, frame.up[2] > 0, Math.abs(frame.forward[2])]).toEqual([true, true, 0]);
    }
    // Isometric: a metre along each axis is as long on paper.
    const { right, up } = cameraFrame(parallelView(tilted, 'axonometric'), 1);
    const onPaper = ([[1, 0, 0], [0, 1, 0], [0, 0, 1]] as const).map((axis) => Math.hypot(dot([...axis], right) / length(right), dot([...axis], up) / length(up)));
    for (const metre of onPaper) expect(metre).toBeCloseTo(Math.sqrt(2 / 3), 6);
  }); // prettier-ignore

  it('is sharp from and to where tables of depth of field say (50 mm, f/8, at 5 m, 0.03 mm: 3.39 to 9.5 m; from memory)', () => {
    const { nearM, farM } = sharpFrom(50, 8, 5, 0.03);
    expect(nearM).toBeCloseTo(3.39, 1);
    expect(farM).toBeCloseTo(9.5, 1);
    // From the hyperfocal distance on all is sharp to infinity, from half of it.
    const hyperfocal = 50 ** 2 / (8 * 0.03) / 1000 + 0.05;
    expect(sharpFrom(50, 8, hyperfocal, 0.03).farM).toBe(Infinity);
    expect(sharpFrom(50, 8, hyperfocal, 0.03).nearM).toBeCloseTo(hyperfocal / 2, 1);
  });
});
