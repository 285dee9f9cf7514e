import { describe, expect, it } from 'vitest';
import { matching, type Findable } from './findable';

const one = (kind: Findable['kind'], name: string, about?: string): Findable => ({
  kind,
  name,
  ...(about && { about }),
  act: () => undefined,
});
const ALL = [
  one('station', 'Views', 'station 5'),
  one('view', 'Waiting hall'),
  one('view', 'Over the water'),
  one('finish', 'Water, estuary', 'in the schedule'),
  one('element', 'Hall door', 'Door'),
  one('element', 'Bench in the waiting hall', 'Furniture'),
];

describe('finding by name', () => {
  it('takes all words in any order, by name, kind and what stands beside it; names that begin so come first', () => {
    expect(matching(ALL, 'hall', 9).map(({ name }) => name)).toEqual(['Hall door', 'Waiting hall', 'Bench in the waiting hall']);
    expect(matching(ALL, 'hall waiting', 9).map(({ name }) => name)).toEqual(['Waiting hall', 'Bench in the waiting hall']);
    expect(matching(ALL, 'door element', 9).map(({ name }) => name)).toEqual(['Hall door']);
    expect(matching(ALL, 'WATER', 9).map(({ kind }) => kind)).toEqual(['finish', 'view']);
    expect(matching(ALL, 'nothing of that name', 9)).toEqual([]);
  });

  it('shows all but elements while nothing is typed, and no more than asked for', () => {
    expect(matching(ALL, ' ', 9)).toHaveLength(4);
    expect(matching(ALL, 'a', 2)).toHaveLength(2);
  });
});
