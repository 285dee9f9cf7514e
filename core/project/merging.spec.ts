import { expect, it } from 'vitest';
import { effectOf, type Command } from './command';
import { mergedChanges, seenBy } from './merging';
import { applyChanges, type Entries } from './project';

const view = (name: string, focalMm: number): Command => ({ type: 'keep-view', id: 'v', name, camera: { position: [0, 0, 1], target: [1, 0, 1], focalMm } }); // prettier-ignore
const after = (entries: Entries, command: Command, seen: ReturnType<typeof seenBy> = {}): Entries => {
  const effect = effectOf(entries, command, '2026-12-02T10:00:00.000Z');
  if ('refused' in effect) throw new Error(effect.refused);
  const changes = mergedChanges(effect.changes, seen);
  if ('refused' in changes) throw new Error(changes.refused);
  return applyChanges(entries, changes);
};

it('of two who change one view at once, one its name and one its lens, both are kept', () => {
  const start = after(new Map(), view('Bank', 28));
  const seenByBoth = seenBy(start, view('Bank', 28));
  const renamed = after(start, view('Bank at dusk', 28), seenByBoth);
  const both = after(renamed, view('Bank', 50), seenByBoth);
  expect(both.get('view/v')).toMatchObject({ name: 'Bank at dusk', focalMm: 50 });
});

it('what somebody has deleted does not come back by another’s change; a field that is taken away is', () => {
  const start = after(new Map(), { ...view('Bank', 28), folder: 'Outside' } as Command);
  const seen = seenBy(start, view('Bank', 28));
  expect(() => after(new Map(), view('Bank', 50), seen)).toThrow('Somebody else has deleted this');
  const renamed = after(start, { ...view('Quay', 28), folder: 'Outside' } as Command, seen);
  const outside = after(renamed, view('Bank', 28), seen).get('view/v');
  expect(outside).toMatchObject({ name: 'Quay', focalMm: 28 });
  expect(outside).not.toHaveProperty('folder');
}); // prettier-ignore
