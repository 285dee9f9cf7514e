import { describe, expect, it } from 'vitest';
import { Scratch } from './scratch';

describe('scratch memory', () => {
  it('gives zeroed arrays that do not overlap, whatever stood there before', () => {
    const scratch = new Scratch();
    for (let turn = 0; turn < 3; turn++) {
      scratch.clear();
      const arrays = [scratch.bytes(3), scratch.doubles(5), scratch.ints(7), scratch.floats(2)];
      for (const array of arrays) expect(array.every((v) => v === 0)).toBe(true);
      arrays.forEach((array, i) => array.fill(i + 1));
      expect(arrays.map((array) => [...new Set<number>(array)])).toEqual([[1], [2], [3], [4]]);
    }
  });

  it('has room for more than it holds, and holds it the next time', () => {
    const scratch = new Scratch();
    const large = () => [scratch.ints(400_000), scratch.doubles(10)];
    const [first, beside] = large();
    expect([first!.length, first!.every((v) => v === 0), beside!.length]).toEqual([400_000, true, 10]);
    expect(first!.buffer).not.toBe(beside!.buffer);
    scratch.clear();
    const [again, next] = large();
    expect(again!.buffer).toBe(next!.buffer);
  });
});
