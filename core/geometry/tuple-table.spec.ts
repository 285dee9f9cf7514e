import { describe, expect, it } from 'vitest';
import { randomInteger } from '../random';
import { TupleTable } from './tuple-table';

describe('the table of tuples', () => {
  it('numbers tuples in the order of their first coming, as a map of texts would', () => {
    const table = new TupleTable(3, 5000);
    const plain = new Map<string, number>();
    const random = randomInteger(9);
    for (let i = 0; i < 5000; i++) {
      const tuple = Int32Array.of(random(12) - 6, random(12), -random(12));
      const text = tuple.join();
      if (!plain.has(text)) plain.set(text, plain.size);
      expect(table.numberOf(tuple)).toBe(plain.get(text));
    }
    expect(table.count).toBe(plain.size);
  });

  it('keeps tuples apart that differ only in one sign or place', () => {
    const table = new TupleTable(2, 8);
    const numbers = [[1, 2], [2, 1], [-1, 2], [1, -2], [1, 2]].map((t) => table.numberOf(Int32Array.from(t))); // prettier-ignore
    expect(numbers).toEqual([0, 1, 2, 3, 0]);
  });
});
