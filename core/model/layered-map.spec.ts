import { describe, expect, it } from 'vitest';
import { randomInteger } from '../random';
import { LayeredMap } from './layered-map';

describe('the layered map', () => {
  it('answers as a plain map would, over thousands of changes', () => {
    let layered = LayeredMap.of(new Map<string, number>());
    const plain = new Map<string, number>();
    const random = randomInteger(5);
    for (let i = 0; i < 4000; i++) {
      const removed = Array.from({ length: random(3) }, () => String(random(300)));
      const put = Array.from({ length: random(4) }, () => [String(random(300)), i] as const);
      layered = layered.with(removed, put);
      for (const key of removed) plain.delete(key);
      for (const [key, value] of put) plain.set(key, value);
      if (i % 97 !== 0) continue;
      expect(layered.size).toBe(plain.size);
      expect(new Map(layered)).toEqual(plain);
      for (let k = 0; k < 300; k++) {
        expect(layered.get(String(k))).toBe(plain.get(String(k)));
        expect(layered.has(String(k))).toBe(plain.has(String(k)));
      }
    }
  });

  it('leaves the one before as it was', () => {
    const first = LayeredMap.of(new Map([['a', 1], ['b', 2]])); // prettier-ignore
    const second = first.with(['a'], [['c', 3]]);
    const third = second.with([], [['a', 9]]);
    expect([...first]).toEqual([['a', 1], ['b', 2]]); // prettier-ignore
    expect([...second]).toEqual([['b', 2], ['c', 3]]); // prettier-ignore
    expect([...third.keys()]).toEqual(['a', 'b', 'c']);
    expect([...third.values()]).toEqual([9, 2, 3]);
  });

  it('keeps its order when a value is replaced, and takes what is removed and put at once as put', () => {
    const map = LayeredMap.of(new Map([['a', 1], ['b', 2], ['c', 3]])).with(['b'], [['b', 5]]); // prettier-ignore
    expect([...map]).toEqual([['a', 1], ['b', 5], ['c', 3]]); // prettier-ignore
    const seen: string[] = [];
    map.forEach((value, key) => seen.push(`${key}${String(value)}`));
    expect(seen).toEqual(['a1', 'b5', 'c3']);
  });
});
