import { describe, expect, it } from 'vitest';
import { FINISHES } from '../finish/library';
import { effectOf } from './command';
import {
  allFinishes, applyChanges, assignmentKey, chooseFinish, entry, findFinish, invertChanges, overrideKey, type Entries, type EntryChange,
} from './project'; // prettier-ignore

const NOW = '2026-10-16T10:00:00.000Z';
const oak = FINISHES.find((f) => f.id === 'oak')!;
const darkOak = { ...oak, baseColour: [0.3, 0.2, 0.1] as [number, number, number] };

function labelOf(command: Parameters<typeof effectOf>[1], entries: Entries = new Map()): string {
  const effect = effectOf(entries, command, NOW);
  if ('refused' in effect) throw new Error(effect.refused);
  return effect.label;
}

describe('finishes of a project', () => {
  it('are the shipped ones until one is edited, and again when it is reset', () => {
    expect(allFinishes(new Map())).toEqual(FINISHES);
    const edited = applyChanges(new Map(), [{ key: 'finish/oak', before: undefined, after: darkOak }]);
    expect(findFinish(edited, 'oak')).toBe(darkOak);
    expect(allFinishes(edited)).toHaveLength(FINISHES.length);
    expect(allFinishes(edited).find((f) => f.id === 'oak')).toBe(darkOak);
    const effect = effectOf(edited, { type: 'reset-finish', finish: 'oak' }, NOW);
    if ('refused' in effect) throw new Error(effect.refused);
    expect(findFinish(applyChanges(edited, effect.changes), 'oak')).toBe(oak);
  });

  it('may be the project’s own, which follow the shipped ones', () => {
    const own: Entries = new Map([['finish/quay-oak', { ...darkOak, id: 'quay-oak', name: 'Quay oak' }]]);
    expect(allFinishes(own).at(-1)).toMatchObject({ id: 'quay-oak' });
    expect(findFinish(own, 'quay-oak')?.name).toBe('Quay oak');
    expect(findFinish(own, 'nothing')).toBeUndefined();
  });

  it('that were assigned and are gone leave the guess in their place', () => {
    const entries: Entries = new Map([[assignmentKey('s', 'm'), { finish: 'deleted', at: NOW }]]);
    expect(chooseFinish(entries, 's', { id: 'm', name: 'Zink' })).toMatchObject({ origin: 'by name', finish: { id: 'zinc' } });
  });

  it('are chosen for each source by itself', () => {
    const entries: Entries = new Map([[assignmentKey('one', 'm'), { finish: 'oak', at: NOW }]]);
    expect(chooseFinish(entries, 'one', { id: 'm', name: '?' }).finish?.id).toBe('oak');
    expect(chooseFinish(entries, 'two', { id: 'm', name: '?' }).finish).toBeUndefined();
    expect(overrideKey('one', 'm')).not.toBe(assignmentKey('one', 'm'));
  });
});

describe('entries', () => {
  const changes: EntryChange[] = [
    { key: 'a', before: undefined, after: 1 },
    { key: 'b', before: 2, after: undefined },
    { key: 'a', before: 1, after: 3 },
  ];

  it('take changes in their order and leave what they were', () => {
    const before: Entries = new Map([['b', 2]]);
    expect([...applyChanges(before, changes)]).toEqual([['a', 3]]);
    expect([...before]).toEqual([['b', 2]]);
  });

  it('go back by the inverse, also when a key was changed twice', () => {
    const before: Entries = new Map([['b', 2]]);
    expect([...applyChanges(applyChanges(before, changes), invertChanges(changes))]).toEqual([...before]);
  });
});

describe('the history’s words', () => {
  it('tell what was done', () => {
    expect(labelOf({ type: 'assign-finish', source: 's', material: 'cladding', finish: 'oak' })).toBe(`${oak.name} on cladding`);
    expect(labelOf({ type: 'assign-element-finish', source: 's', element: 'e', finish: 'oak' })).toBe(`${oak.name} on one element`);
    expect(labelOf({ type: 'assign-finish', source: 's', material: 'cladding', finish: null })).toBe('Finish taken off cladding');
    expect(labelOf({ type: 'set-sun', date: '2026-06-21', minutes: 605 })).toBe('Sun at 2026-06-21 10:05');
    expect(labelOf({ type: 'choose-site', site: null })).toBe('Site from the model');
    expect(labelOf({ type: 'set-exposure', mode: 'auto', ev100: 1 })).toBe('Exposure automatic');
    expect(labelOf({ type: 'set-exposure', mode: 'fixed', ev100: 12.34 })).toBe('Exposure EV 12.3');
  });

  it('stay short, whatever the model calls its things', () => {
    const label = labelOf({ type: 'assign-finish', source: 's', material: 'x'.repeat(200), finish: 'oak' });
    expect(label.length).toBeLessThan(120);
  });

  it('keep the end of the day within the day', () => {
    const effect = effectOf(new Map(), { type: 'set-sun', date: '2026-06-21', minutes: 1440 }, NOW);
    if ('refused' in effect) throw new Error(effect.refused);
    expect(entry(applyChanges(new Map(), effect.changes), 'sun')).toEqual({ date: '2026-06-21', minutes: 1439 });
  });
});
