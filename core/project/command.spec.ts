import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { clock } from './clock';
import { commandSchema, effectOf, type Command } from './command';
import { applyChanges, chooseFinish, entry, invertChanges, type Entries } from './project';

const NOW = '2026-10-16T10:00:00.000Z';
function run(entries: Entries, command: Command): Entries {
  const effect = effectOf(entries, command, NOW);
  if ('refused' in effect) throw new Error(effect.refused);
  return applyChanges(entries, effect.changes);
}

describe('a view', () => {
  it('takes what it holds to another name, and leaves nothing to the next of its old one', () => {
    const view = (id: string, name: string): Command => ({ type: 'keep-view', id, name, camera: { position: [0, 0, 1], target: [1, 0, 1], focalMm: 35 } }); // prettier-ignore
    const held = run(run(new Map(), view('v', 'Bank')), { type: 'hold-exposure', view: 'Bank', exposure: { ev100: 4, white: { kelvin: 5000, tint: 0 } } }); // prettier-ignore
    const renamed = run(held, view('v', 'Quay'));
    expect(entry(renamed, 'view-exposure/Quay')?.ev100).toBe(4);
    expect(entry(run(renamed, view('w', 'Bank')), 'view-exposure/Bank')).toBeUndefined();
    const dropped = run(renamed, { type: 'drop-view', id: 'v' });
    expect([...dropped.keys()].filter((key) => key.startsWith('view-exposure/'))).toEqual([]);
  });
});

describe('commands', () => {
  it('assign a finish over the guess, and take it off again', () => {
    const material = { id: 'm1', name: 'Glazing type A' };
    expect(chooseFinish(new Map(), 's', material)).toMatchObject({ origin: 'by name', finish: { id: 'glass' } });
    const assigned = run(new Map(), { type: 'assign-finish', source: 's', material: 'm1', finish: 'oak' });
    expect(chooseFinish(assigned, 's', material)).toMatchObject({ origin: 'by hand', finish: { id: 'oak' } });
    const renamed = chooseFinish(assigned, 's', { ...material, name: 'Something else' });
    expect(renamed.finish?.id).toBe('oak');
    expect(chooseFinish(run(assigned, { type: 'assign-finish', source: 's', material: 'm1', finish: null }), 's', material).origin).toBe(
      'by name',
    );
  });

  it('refuse a finish that is not there, in a sentence', () => {
    expect(effectOf(new Map(), { type: 'assign-finish', source: 's', material: 'm', finish: 'nothing' }, NOW)).toEqual({
      refused: 'There is no finish “nothing” in this project.',
    });
  });

  it('are undone by their inverse, whatever they are', () => {
    const commands: Command[] = [
      { type: 'assign-element-finish', source: 's', element: 'e', finish: 'zinc' },
      { type: 'set-sun', date: '2026-06-21', minutes: 720 },
      { type: 'set-exposure', mode: 'fixed', ev100: 12.3 },
      { type: 'follow-author', camera: true, time: false },
      { type: 'keep-view', id: 'v', name: 'V', camera: { position: [0, 0, 1], target: [1, 0, 1], focalMm: 35 } },
    ];
    let entries: Entries = new Map();
    for (const command of commands) {
      const effect = effectOf(entries, command, NOW);
      if ('refused' in effect) throw new Error(effect.refused);
      const after = applyChanges(entries, effect.changes);
      expect([...applyChanges(after, invertChanges(effect.changes))]).toEqual([...entries]);
      entries = after;
    }
    expect(entry(entries, 'sun')).toEqual({ date: '2026-06-21', minutes: 720 });
  });

  it('are checked before anything happens', () => {
    const bad = [
      { type: 'set-sun', date: '2026-13-40', minutes: 10 },
      { type: 'set-exposure', mode: 'auto', ev100: 99 },
      { type: 'assign-finish', source: '', material: 'm', finish: null },
      { type: 'erase-everything' },
      { type: 'keep-view', id: 'v', name: 'V', camera: { position: [0, NaN, 1], target: [1, 0, 1], focalMm: 35 } },
    ];
    for (const command of bad) expect(v.safeParse(commandSchema, command).success).toBe(false);
  });

  it('tell the time', () => {
    expect(clock(1068)).toBe('17:48');
    expect(clock(1440)).toBe('00:00');
  });
});
