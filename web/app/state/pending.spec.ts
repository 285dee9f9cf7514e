import { expect, it } from 'vitest';
import { Pending } from './pending';

it('what was sent counts until the server tells it, in whatever order of keys, or tells something else', () => {
  const pending = new Pending<{ a: number; b?: number }>();
  const first = { a: 1 };
  pending.tell('w', first);
  expect(pending.newest('w', first)).toEqual({ a: 1 });
  pending.send('w', { a: 2 });
  pending.send('w', { b: 3, a: 2 });
  // Told once more as it was, it tells nothing.
  pending.tell('w', first);
  expect(pending.newest('w', first)).toEqual({ a: 2, b: 3 });
  pending.tell('w', { a: 2 });
  expect(pending.newest('w', { a: 2 })).toEqual({ a: 2, b: 3 });
  pending.tell('w', { a: 2, b: 3 });
  expect(pending.newest('w', { a: 7 })).toEqual({ a: 7 });
  pending.send('w', { a: 9 });
  pending.tell('w', { a: 5 });
  expect(pending.newest('w', { a: 5 })).toEqual({ a: 5 });
});
