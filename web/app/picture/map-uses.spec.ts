import { expect, it } from 'vitest';
import type { SceneInstance } from '../../../core/scene/scene';
import { mapUses } from './map-uses';

const part = (maps: string | null, widthM: number, x: number, radiusM: number) => ({
  instances: [{ finish: { maps, widthM } } as SceneInstance],
  spheres: Float32Array.of(x, 0, 0, radiusM),
});
const sets = new Map([
  ['brick', { side: 256, bytes: 1 }],
  ['oak', { side: 1024, bytes: 2 }],
  ['marble', { side: 1024, bytes: 3 }],
]);

it('says how many texels a pixel covers where a map set is seen from nearest', () => {
  const parts = [part('brick', 2, 12, 2), part('brick', 2, 40, 2), part('oak', 1, 5, 0), part(null, 1, 1, 0)];
  // 500 pixels to a metre at one metre: at 10 m a pixel is 20 mm, and a texel 2 m / 256.
  const uses = mapUses(sets, parts, [0, 0, 0], (distanceM) => distanceM / 500);
  expect(uses.map(({ name, bytes }) => [name, bytes])).toEqual([['brick', 1], ['oak', 2], ['marble', 3]]); // prettier-ignore
  expect(uses[0]!.texelsPerPixel).toBeCloseTo(0.02 / (2 / 256));
  expect(uses[1]!.texelsPerPixel).toBeCloseTo(0.01 * 1024);
  expect(uses[2]!.texelsPerPixel).toBe(Infinity);
});
