import { expect, it } from 'vitest';
import { compose, translation } from '../geometry/mat4';
import { sceneBounds } from './scene-bounds';

it('the box about a scene leaves far landscape out, if there is anything else', () => {
  const positions: Record<string, Float32Array> = {
    house: new Float32Array([0, 0, 0, 2, 1, 3]),
    ground: new Float32Array([-400, -400, -1, 400, 400, 0]),
    empty: new Float32Array(),
  };
  const meshOf = (key: string) => (positions[key] ? { positions: positions[key] } : undefined);
  const house = { mesh: 'house', transform: translation(10, 0, 0) };
  // Turned by a quarter: its x runs along y.
  const turned = { mesh: 'house', transform: compose([0, 20, 0], [0, 0, Math.SQRT1_2, Math.SQRT1_2], [2, 2, 2]) };
  const ground = { mesh: 'ground', transform: translation(0, 0, 0) };
  const near = (bounds: ReturnType<typeof sceneBounds>) => [...bounds!.min, ...bounds!.max].map((v) => Math.round(v * 1e6) / 1e6 + 0);
  expect(near(sceneBounds([house, turned, ground], meshOf))).toEqual([-2, 0, 0, 12, 24, 6]);
  expect(near(sceneBounds([ground], meshOf))).toEqual([-400, -400, -1, 400, 400, 0]);
  expect(
    sceneBounds(
      [
        { ...house, mesh: 'gone' },
        { ...house, mesh: 'empty' },
      ],
      meshOf,
    ),
  ).toBeUndefined();
});
