import { describe, expect, it } from 'vitest';
import { PLAIN_GRADING } from '../image/grading';
import { effectOf, type Command } from './command';
import { conditionsOf, isShown, withCondition } from './conditions';
import { applyChanges, invertChanges, type Entries } from './project';

const after = (entries: Entries, ...commands: Command[]): Entries =>
  commands.reduce((now, command) => {
    const effect = effectOf(now, command, '2026-11-29T10:00:00Z');
    if ('refused' in effect) throw new Error(effect.refused);
    return applyChanges(now, effect.changes);
  }, entries);
const dim = (key: string, level: number): Command => ({ type: 'dim-lamps', keys: [key], level, modelLevels: {}, name: key });
const off = (key: string): Command => ({ type: 'switch-lamps', keys: [key], on: false, name: key });
const keep = (id: string, parts: ('sun' | 'lamps' | 'exposure' | 'development')[]): Command => ({
  type: 'keep-condition', id, name: id, parts,
}); // prettier-ignore
const recall = (id: string): Command => ({ type: 'recall-condition', id });

const DUSK = after(
  new Map(),
  { type: 'set-sun', date: '2026-10-16', minutes: 1110 },
  { type: 'choose-sky', sky: { type: 5 } },
  dim('circuit/Hall', 0.4),
  off('circuit/Workshop'),
  { type: 'set-exposure', mode: 'fixed', ev100: 6 },
  { type: 'develop', grading: { ...PLAIN_GRADING, contrast: 0.2 }, name: 'contrast' },
  keep('dusk', ['sun', 'lamps', 'exposure', 'development']),
);
const NOON: Command[] = [
  { type: 'set-sun', date: '2026-06-21', minutes: 720 },
  { type: 'choose-sky', sky: null },
  dim('circuit/Hall', 1),
  { type: 'switch-lamps', keys: ['circuit/Workshop'], on: true, name: 'Workshop' },
  off('lamp/model/lamp-3'),
  { type: 'set-exposure', mode: 'auto', ev100: 14 },
  { type: 'develop', grading: PLAIN_GRADING, name: 'plain' },
];

describe('conditions', () => {
  it('bring back sun, sky, lamps, exposure and development as they were, in one step that is undone as one', () => {
    const noon = after(DUSK, ...NOON);
    const [condition] = conditionsOf(noon);
    expect(isShown(DUSK, condition!)).toBe(true);
    expect(isShown(noon, condition!)).toBe(false);
    const effect = effectOf(noon, recall('dusk'), '') as { changes: Parameters<typeof applyChanges>[1] & object[] };
    const again = applyChanges(noon, effect.changes);
    for (const key of ['sun', 'sky', 'exposure', 'grading', 'circuit/Hall', 'circuit/Workshop'])
      expect(again.get(key)).toEqual(DUSK.get(key));
    expect(again.get('lamp/model/lamp-3')).toBeUndefined();
    const undone = applyChanges(again, invertChanges([...effect.changes]));
    expect([...undone].sort()).toEqual([...noon].sort());
  });

  it('change only the parts that they keep', () => {
    const kept = after(DUSK, keep('sun alone', ['sun']), ...NOON, recall('sun alone'));
    expect(kept.get('sun')).toEqual(DUSK.get('sun'));
    expect(kept.get('sky')).toEqual({ type: 5 });
    expect(kept.get('exposure')).toMatchObject({ mode: 'auto' });
    expect(kept.get('circuit/Hall')).toMatchObject({ level: 1 });
  });

  it('leave circuits, names and photometric files of lamps as they are', () => {
    const moved = after(
      DUSK,
      { type: 'put-on-circuit', lamps: [{ source: 'model', lamp: 'lamp-3' }], circuit: 'Night', name: 'lamp' },
      { type: 'name-circuit', circuit: 'Hall', name: 'Great hall' },
      ...NOON,
      recall('dusk'),
    );
    expect(moved.get('lamp/model/lamp-3')).toEqual({ circuit: 'Night' });
    expect(moved.get('circuit/Hall')).toEqual({ name: 'Great hall', level: 0.4 });
  });

  it('are seen without being recalled, renamed and dropped', () => {
    const noon = after(DUSK, ...NOON);
    const seen = withCondition(noon, conditionsOf(noon)[0]!);
    expect(seen.get('sun')).toEqual(DUSK.get('sun'));
    expect(noon.get('sun')).toEqual({ date: '2026-06-21', minutes: 720 });
    expect(conditionsOf(after(noon, { type: 'name-condition', id: 'dusk', name: 'October dusk' }))[0]!.name).toBe('October dusk');
    expect(conditionsOf(after(noon, { type: 'drop-condition', id: 'dusk' }))).toEqual([]);
    expect(effectOf(noon, recall('gone'), '')).toMatchObject({ refused: expect.stringMatching(/dropped/) as string });
  });
});
