import { describe, expect, it } from 'vitest';
import { lampOutline } from './outline';

const DOWN = { position: [1, 2, 3] as [number, number, number], direction: [0, 0, -1] as [number, number, number], turnDeg: 0 };
const spans = (segments: readonly (readonly [readonly number[], readonly number[]])[]) =>
  [0, 1, 2].map((k) => {
    const all = segments.flatMap(([a, b]) => [a[k]!, b[k]!]);
    return Number((Math.max(...all) - Math.min(...all)).toFixed(3));
  });

describe('the outline of a lamp', () => {
  it('is as large as the lamp is', () => {
    expect(spans(lampOutline({ ...DOWN, form: { kind: 'point', radiusM: 0.2 } }))).toEqual([0.4, 0.4, 0.4]);
    expect(spans(lampOutline({ ...DOWN, form: { kind: 'rectangle', lengthM: 1.2, widthM: 0.3 } }))).toEqual([0.3, 1.2, 0.4]);
    expect(spans(lampOutline({ ...DOWN, form: { kind: 'disc', radiusM: 0.15 } }))).toEqual([0.3, 0.3, 0.4]);
    expect(spans(lampOutline({ ...DOWN, form: { kind: 'line', lengthM: 3 } }))).toEqual([0, 3, 0.4]);
  });

  it('opens as a spot’s beam does, and turns with it', () => {
    const [x, , z] = spans(lampOutline({ ...DOWN, form: { kind: 'spot', radiusM: 0.02, beamDeg: 60, fieldDeg: 80 } }));
    expect(x! / 2).toBeCloseTo(0.02 + 0.8 * Math.tan(Math.PI / 6), 2);
    expect(z).toBe(0.8);
    expect(spans(lampOutline({ ...DOWN, turnDeg: 90, form: { kind: 'line', lengthM: 3 } }))[0]).toBe(3);
  });
});
