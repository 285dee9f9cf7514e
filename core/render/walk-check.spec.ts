import { expect, it } from 'vitest';
import { box, darkSky, matt, testScene } from '../kernel/testing';
import { checkWalk } from './walk-check';

const stop = (x: number, y = 0, by?: 'cut') => ({ position: [x, y, 1.6] as [number, number, number], target: [x + 1, y, 1.6] as [number, number, number], focalMm: 28, ...(by && { by }) }); // prettier-ignore

it('a walk is told where it goes through a wall and where a head would bump, but not what it cuts over', () => {
  const { kernel } = testScene(
    [
      // A wall across the way at 4 m, with a gap beside it, and a beam at 8 m, ten centimetres above the eye.
      { mesh: box([3.9, -1, 0], [4.1, 1, 3]), finish: matt(0.5) },
      { mesh: box([7.9, -5, 1.7], [8.1, 5, 2]), finish: matt(0.5) },
    ],
    darkSky(),
  );
  const faults = checkWalk(kernel, { stops: [stop(0), stop(10)], seconds: 10, eased: false });
  expect(faults.map(({ kind }) => kind)).toEqual(['wall', 'head']);
  expect(faults[0]!.at).toBeCloseTo(3.9, 0);
  expect(faults[1]!.at).toBeCloseTo(7.9, 0);
  expect(checkWalk(kernel, { stops: [stop(0, 2), stop(7, 2)], seconds: 10, eased: true })).toEqual([]);
  expect(checkWalk(kernel, { stops: [stop(0), stop(3), stop(5, 0, 'cut'), stop(7)], seconds: 10, eased: false })).toEqual([]);
});
