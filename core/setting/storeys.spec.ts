import { expect, it } from 'vitest';
import { storeysOf } from './storeys';

it('tells storeys by the heights that many places have, a step within one not apart', () => {
  const floor = (z: number, count: number) => Array.from({ length: count }, (_, i) => z + (i % 3) * 0.01);
  expect(storeysOf([...floor(0, 300), ...floor(0.45, 40), ...floor(3.1, 200), ...floor(6.2, 4)], 1000)).toEqual([0.01, 3.11]);
  expect(storeysOf([], 1000)).toEqual([]);
});

it('takes a floor for one, whatever lies a little under it', () => {
  const beds = Array.from({ length: 12 }, (_, i) => -1.19 + i * 0.08);
  const floor = Array.from({ length: 200 }, (_, i) => (i % 5) * 0.01);
  expect(storeysOf([...beds, ...floor], 212)).toEqual([0.02]);
});
