import { describe, expect, it } from 'vitest';
import { EYE_HEIGHT_M, Navigation } from './navigation';

const start = { position: [0, -10, 1.65] as [number, number, number], target: [0, 0, 1.65] as [number, number, number], focalMm: 35 };
const distance = ({ position: p, target: t }: typeof start) => Math.hypot(p[0] - t[0], p[1] - t[1], p[2] - t[2]);

describe('moving about', () => {
  it('turns about the target in orbit, at the same distance, and never over the top', () => {
    const n = new Navigation(start, () => 0);
    n.drag(0.25, 0, false);
    expect(distance(n.camera)).toBeCloseTo(10, 6);
    for (let i = 0; i < 20; i++) n.drag(0, 0.5, false);
    expect(n.camera.position[2]).toBeLessThanOrEqual(1.65 + 10);
    expect(Math.hypot(n.camera.position[0], n.camera.position[1])).toBeGreaterThan(0.1);
  });

  it('approaches by the wheel without passing the target', () => {
    const n = new Navigation(start, () => 0);
    for (let i = 0; i < 100; i++) n.approach(1);
    expect(distance(n.camera)).toBeCloseTo(0.6, 2);
  });

  it('walks level at eye height over whatever floor there is', () => {
    const n = new Navigation(start, ([, y]) => (y > -9 ? 0.5 : 0));
    n.setMode('walk');
    expect(n.keyDown('w')).toBe(true);
    n.advance(1);
    expect(n.camera.position[1]).toBeCloseTo(-7.8, 6);
    expect(n.camera.position[2]).toBeCloseTo(0.5 + EYE_HEIGHT_M, 6);
    n.keyUp('w');
    expect(n.isMoving).toBe(false);
    expect(n.keyDown('x')).toBe(false);
  });

  it('rises and sinks when flying', () => {
    const n = new Navigation(start, () => undefined);
    n.setMode('fly');
    n.keyDown('e');
    n.advance(1);
    expect(n.camera.position[2]).toBeCloseTo(8.65, 6);
  });

  it('jumps to stand before a point, and finds the way back', () => {
    const n = new Navigation(start, () => 0);
    n.setMode('walk');
    n.jumpTo([3, 2, 0]);
    expect(n.camera.position[2]).toBeCloseTo(EYE_HEIGHT_M, 6);
    expect(Math.hypot(n.camera.position[0] - 3, n.camera.position[1] - 2)).toBeLessThan(0.5);
    expect(n.canGoBack).toBe(true);
    n.back();
    expect(n.camera.position).toEqual(start.position);
  });
});
