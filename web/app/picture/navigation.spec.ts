import { describe, expect, it } from 'vitest';
import { EYE_HEIGHT_M, type Cast } from '../../../core/camera/walker';
import { Navigation } from './navigation';

const start = { position: [0, -10, 1.65] as [number, number, number], target: [0, 0, 1.65] as [number, number, number], focalMm: 35 };
/** Nothing but a floor. */
const floor =
  (heightAt: (place: readonly number[]) => number | undefined): Cast =>
  (from, way, reach) => {
    const z = way[2] < 0 ? heightAt(from) : undefined;
    return z !== undefined && from[2] - z <= reach ? { distance: from[2] - z, normal: [0, 0, 1], kind: 'solid' } : undefined;
  };
const distance = ({ position: p, target: t }: typeof start) => Math.hypot(p[0] - t[0], p[1] - t[1], p[2] - t[2]);

describe('moving about', () => {
  it('turns about the target in orbit, at the same distance, and never over the top', () => {
    const n = new Navigation(
      start,
      floor(() => 0),
    );
    n.drag(0.25, 0, false);
    expect(distance(n.camera)).toBeCloseTo(10, 6);
    for (let i = 0; i < 20; i++) n.drag(0, 0.5, false);
    expect(n.camera.position[2]).toBeLessThanOrEqual(1.65 + 10);
    expect(Math.hypot(n.camera.position[0], n.camera.position[1])).toBeGreaterThan(0.1);
  });

  it('approaches by the wheel without passing the target', () => {
    const n = new Navigation(
      start,
      floor(() => 0),
    );
    for (let i = 0; i < 100; i++) n.approach(1);
    expect(distance(n.camera)).toBeCloseTo(0.6, 2);
  });

  it('walks level at eye height over whatever floor there is', () => {
    const n = new Navigation(
      start,
      floor(([, y]) => (y! > -9 ? 0.3 : 0)),
    );
    n.setMode('walk');
    n.begin('ahead');
    n.advance(1);
    expect(n.camera.position[1]).toBeCloseTo(-7.8, 6);
    expect(n.camera.position[2]).toBeCloseTo(0.3 + EYE_HEIGHT_M, 6);
    n.end('ahead');
    expect(n.isMoving).toBe(false);
  });

  it('is steered by sticks as far as they are pushed, and comes back to where that began', () => {
    const n = new Navigation(start, () => undefined);
    n.setMode('fly');
    n.steer({ ahead: 0.5, aside: 0, turn: 0, look: 0, rise: -0.1 });
    expect(n.isMoving).toBe(true);
    n.advance(1);
    expect(n.camera.position[1]).toBeCloseTo(-6.5, 6);
    expect(n.camera.position[2]).toBeCloseTo(0.95, 6);
    n.steer({ ahead: 0, aside: 0, turn: 1, look: 0, rise: 0 });
    n.advance(0.5);
    expect(n.camera.target[0]).toBeGreaterThan(n.camera.position[0]);
    n.steer({ ahead: 0, aside: 0, turn: 0, look: 0, rise: 0 });
    expect(n.isMoving).toBe(false);
    n.back();
    expect(n.camera).toEqual(start);
  });

  it('rises and sinks when flying', () => {
    const n = new Navigation(start, () => undefined);
    n.setMode('fly');
    n.begin('rise');
    n.advance(1);
    expect(n.camera.position[2]).toBeCloseTo(8.65, 6);
  });

  it('jumps to stand before a point, and finds the way back', () => {
    const n = new Navigation(
      start,
      floor(() => 0),
    );
    n.setMode('walk');
    n.jumpTo([3, 2, 0]);
    expect(n.camera.position[2]).toBeCloseTo(EYE_HEIGHT_M, 6);
    expect(Math.hypot(n.camera.position[0] - 3, n.camera.position[1] - 2)).toBeLessThan(0.5);
    expect(n.canGoBack).toBe(true);
    const there = n.camera;
    n.back();
    expect(n.camera.position).toEqual(start.position);
    n.next();
    expect(n.camera).toEqual(there);
    n.next();
    expect(n.camera).toEqual(there);
    n.back();
    // Whoever goes elsewhere has no next place any more.
    n.goTo({ ...start, focalMm: 90 });
    n.next();
    expect(n.camera.focalMm).toBe(90);
  });

  it('is not sunk where there is only water, and walks at a pace that the wheel sets', () => {
    const water: Cast = (from, way) => (way[2] < 0 ? { distance: from[2] + 1.35, normal: [0, 0, 1], kind: 'water' } : undefined);
    const over = new Navigation(start, water);
    over.setMode('walk');
    expect(over.camera.position[2]).toBe(1.65);
    const n = new Navigation(
      start,
      floor(() => 0),
    );
    n.setMode('walk');
    n.begin('ahead');
    n.advance(0.5);
    const slow = n.camera.position[1] - start.position[1];
    n.approach(4);
    n.advance(0.5);
    expect((n.camera.position[1] - start.position[1] - slow) / slow).toBeCloseTo(1.25 ** 4, 2);
  });
});
