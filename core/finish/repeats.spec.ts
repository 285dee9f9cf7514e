import { expect, it } from 'vitest';
import { PLAIN_FINISH, PLAIN_VARIATION } from './finish';
import { inRepeats } from './repeats';

it('metres become repeats: by the size of the maps, turned, moved, and as an element has them', () => {
  const finish = { ...PLAIN_FINISH, widthM: 2, heightM: 0.5, rotationDeg: 0, offsetM: [0, 0] as [number, number] };
  expect([...inRepeats([1, 1], finish)]).toEqual([0.5, 2]);
  expect([...inRepeats([1, 0], { ...finish, rotationDeg: 90 })]).toEqual([expect.closeTo(0, 6), expect.closeTo(-2, 6)]);
  expect([...inRepeats([1, 1], { ...finish, offsetM: [1, 0.25] })]).toEqual([1, 2.5]);
  expect([...inRepeats([1, 1], finish, { ...PLAIN_VARIATION, uM: 2, size: 2 }, 4)]).toEqual([2, 4]);
});
