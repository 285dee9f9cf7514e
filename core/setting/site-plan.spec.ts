import { expect, it } from 'vitest';
import { builtBox, drawPlan, gridOf, shaped } from './site-plan';

const FAMILIES = ['ground', 'water', 'roofing'];
const BOX = shaped(0, 0, 20, 2);
const [COLUMNS, ROWS] = [20, 10];
const PLACES = gridOf(BOX, COLUMNS, ROWS);
const isRoof = ([x, y]: readonly [number, number]) => x > 2 && x < 8 && y > -2 && y < 3;
/** A house on ground that ends at water in the south. */
const GRID = {
  z: PLACES.map((place) => (isRoof(place) ? 5 : place[1] < -3 ? -0.5 : 0)),
  family: PLACES.map((place) => (isRoof(place) ? 2 : place[1] < -3 ? 1 : 0)),
  surface: PLACES.map((place) => (isRoof(place) ? 7 : place[1] < -3 ? 9 : 8)),
};

it('a plan has ink where a house ends, lightly where ground meets water, and tints for what lies there', () => {
  const rgba = drawPlan(GRID, FAMILIES, COLUMNS);
  const at = (x: number, y: number) => PLACES.findIndex((place) => Math.abs(place[0] - x) < 0.5 && Math.abs(place[1] - y) < 0.5);
  const red = (i: number) => rgba[i * 4]!;
  expect(PLACES[0]).toEqual([-9.5, 4.5]);
  // The eaves: the last cell before the roof, seen from the left.
  expect(red(at(1.6, 0.6))).toBeLessThan(60);
  expect(red(at(-5.4, -2.4))).toBeGreaterThan(100);
  expect(red(at(-5.4, -2.4))).toBeLessThan(200);
  const [meadow, water] = [at(-5.4, 2.6), at(-5.4, -4.4)];
  expect(rgba[meadow * 4 + 1]).toBeGreaterThan(rgba[meadow * 4 + 2]!);
  expect(rgba[water * 4 + 2]).toBeGreaterThan(rgba[water * 4]!);
});

it('what is built is found, with room about it, in the shape of the plan', () => {
  const box = builtBox(PLACES, GRID, FAMILIES, 4, 2)!;
  expect(box.widthM / box.heightM).toBeCloseTo(2, 9);
  expect(box.x).toBeLessThan(2 - 3);
  expect(box.x + box.widthM / 2).toBeCloseTo(5, 0);
  expect(builtBox(PLACES, { ...GRID, family: GRID.family.map(() => 0) }, FAMILIES, 4, 2)).toBeUndefined();
});
