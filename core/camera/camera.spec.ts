import { describe, expect, it } from 'vitest';
import { dot, length } from '../geometry/vec3';
import { cameraFrame, cameraOn, horizontalFovRad, verticalFovRad } from './camera';

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
