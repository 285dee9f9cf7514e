import { expect, it } from 'vitest';
import { soften } from './soften';

const grey = (values: number[]) => Uint8Array.from(values.flatMap((v) => [v, v, v, 255]));
const reds = (rgba: Uint8Array) => [...rgba].filter((_, i) => i % 4 === 0);

it('spreads a dot by a quarter to each side, across and down, and keeps its light', () => {
  const picture = grey([0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 160, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]);
  soften(picture, 5, 5);
  expect(reds(picture)).toEqual([0, 0, 0, 0, 0, 0, 10, 20, 10, 0, 0, 20, 40, 20, 0, 0, 10, 20, 10, 0, 0, 0, 0, 0, 0]);
});

it('leaves what is even, its edges and its opacity as they are', () => {
  const picture = Uint8Array.from({ length: 6 * 4 * 4 }, (_, i) => [90, 120, 30, 0][i % 4]!);
  const before = Uint8Array.from(picture);
  soften(picture, 6, 4);
  expect(picture).toEqual(before);
});
