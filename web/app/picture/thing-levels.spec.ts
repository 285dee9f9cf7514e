import { expect, it } from 'vitest';
import { thingLevels } from './thing-levels';

const TREE = [12_000, 2000, 400, 4] as const;
const levelsOf = (sizes: number[], budget = 1e9, away = sizes.map(() => 10)) =>
  [...thingLevels(Float32Array.from(sizes), Float32Array.from(away), new Uint16Array(sizes.length), [TREE], budget)]; // prettier-ignore

it('things are drawn the simpler the smaller they look; the smallest not at all', () => {
  expect(levelsOf([500, 100, 40, 10, 0.5])).toEqual([0, 1, 2, 3, -1]);
});

it('what is out of sight is drawn for its shadow alone, where that may be seen', () => {
  expect(levelsOf([0, 0], 1e9, [20, 200])).toEqual([3, -1]);
});

it('twenty thousand trees keep within the budget, the nearest the best', () => {
  const sizes = Array.from({ length: 20_000 }, (_, i) => 3000 / (1 + i * 0.05));
  const levels = levelsOf(sizes, 600_000);
  expect(levels.reduce((sum, level) => sum + (level < 0 ? 0 : TREE[level]!), 0)).toBeLessThanOrEqual(600_000);
  expect(levels[0]).toBe(0);
  for (let i = 1; i < levels.length; i++) if (levels[i]! >= 0) expect(levels[i]).toBeGreaterThanOrEqual(levels[i - 1]!);
});
