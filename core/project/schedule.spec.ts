import { describe, expect, it } from 'vitest';
import { applyChange, EMPTY_MODEL } from '../model/model';
import { testChange, testElement, testSurface } from '../model/testing';
import { PlacedArea } from '../geometry/placed-area';
import { MeshBuilder } from '../geometry/shapes';
import { AS_IT_COMES } from './placement';
import type { Entries } from './project';
import { scheduleRows } from './schedule';
import { FIRST_VIEW, replaceEverywhere, viewSchedule, type ScheduleView } from './schedule-view';

const [WALL, SILL] = ['a'.repeat(64), 'b'.repeat(64)];
const placed = (scale: number) => [scale, 0, 0, 0, 0, scale, 0, 0, 0, 0, scale, 0, 5, 6, 7, 1];
const element = (id: string, scale: number, ...parts: [string, string][]) =>
  testElement(id, { transform: placed(scale), parts: parts.map(([mesh, material]) => ({ mesh, material })) });
const model = applyChange(
  EMPTY_MODEL,
  testChange({
    materials: [
      { id: 'p', name: 'Putz weiss', colour: [1, 1, 1] },
      { id: 's', name: 'Generic 03', colour: [0.2, 0.3, 0.4] },
      { id: 'unused', name: 'Glas', colour: [0, 0, 1] },
    ],
    elements: [element('w1', 1, [WALL, 'p'], [SILL, 's'], [SILL, 's']), element('w2', 1, [WALL, 'p']), element('w3', -1, [WALL, 'p'])],
  }),
);
const areas = new Map([[WALL, testSurface(12)], [SILL, testSurface(0.5)]]); // prettier-ignore
const rows = (entries: Entries = new Map()) => scheduleRows('s1', model, areas, entries);

describe('the finish schedule', () => {
  it('sums areas and counts elements once each, repeats and mirrored ones included', () => {
    expect(rows().map((r) => [r.material, r.elements, r.areaM2])).toEqual([
      ['p', 3, 36],
      ['s', 1, 1],
      ['unused', 0, 0],
    ]);
  });

  it('counts true size: a part placed at twice its size has four times the area', () => {
    const doubled = applyChange(model, testChange({ elements: [element('w2', 2, [WALL, 'p'])] }));
    expect(scheduleRows('s1', doubled, areas, new Map())[0]!.areaM2).toBeCloseTo(12 + 48 + 12, 9);
  });

  it('counts the triangles as they are placed, also where they are scaled unevenly, or the source is', () => {
    // A cube of 1 m scaled to 4 x 3 x 0.2 m.
    const cube = new PlacedArea(new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build());
    const part = testElement('slab', {
      transform: [4, 0, 0, 0, 0, 3, 0, 0, 0, 0, 0.2, 0, 0, 0, 0, 1],
      parts: [{ mesh: WALL, material: 'p' }],
    });
    const slab = applyChange(
      EMPTY_MODEL,
      testChange({ materials: [{ id: 'p', name: 'Putz weiss', colour: [1, 1, 1] }], elements: [part] }),
    );
    const areaIn = (entries: Entries) => scheduleRows('s1', slab, new Map([[WALL, cube]]), entries)[0]!.areaM2;
    expect(areaIn(new Map())).toBeCloseTo(26.8, 5);
    expect(areaIn(new Map([['placement/s1', { ...AS_IT_COMES, scale: 2 }]]))).toBeCloseTo(4 * 26.8, 4);
  });

  it('counts the option and the phase that are looked at, and not what is only hidden', () => {
    const options = [{ id: 'a', name: 'A' }, { id: 'b', name: 'B' }]; // prettier-ignore
    const both = applyChange(
      model,
      testChange({
        elements: [{ ...element('w1', 1, [WALL, 'p']), option: 'a' }, { ...element('w2', 1, [WALL, 'p']), option: 'b' }],
        presentation: { ...EMPTY_MODEL.presentation, hiddenLayers: ['L'], options, option: 'a' },
      }),
    ); // prettier-ignore
    const counted = (entries: Entries) => scheduleRows('s1', both, areas, entries).map((r) => [r.elements, r.areaM2])[0];
    expect(counted(new Map())).toEqual([2, 24]);
    expect(counted(new Map([['variant/s1', { option: 'b', phase: null }]]))).toEqual([2, 24]);
    const alone = applyChange(both, testChange({ remove: { elements: ['w2'], materials: [], luminaires: [], cameras: [] } }));
    expect(scheduleRows('s1', alone, areas, new Map([['variant/s1', { option: 'b', phase: null }]]))[0]!.elements).toBe(1);
  });

  it('knows no area before a mesh has arrived', () => {
    expect(scheduleRows('s1', model, new Map(), new Map()).map((r) => r.areaM2)).toEqual([0, 0, 0]);
  });

  it('tells the choice and its reason: read from the name, set by hand, or none', () => {
    const [plaster, generic] = rows();
    expect(plaster!.choice).toMatchObject({ origin: 'by name', finish: { id: 'plaster' }, reason: '“putz” reads as plaster' });
    expect(generic!.choice).toMatchObject({ origin: 'none', finish: undefined });
    const entries: Entries = new Map([['assign/s1/s', { finish: 'oak', at: '2026-10-16T08:00:00Z' }]]);
    expect(rows(entries)[1]!.choice).toMatchObject({ origin: 'by hand', finish: { id: 'oak' }, reason: 'Set by hand, 2026-10-16' });
    expect(scheduleRows('other', model, areas, entries)[1]!.choice.origin).toBe('none');
  });

  it('keeps what was set by hand when the author renames and recolours', () => {
    const entries: Entries = new Map([['assign/s1/p', { finish: 'brick', at: '2026' }]]);
    const renamed = applyChange(model, testChange({ materials: [{ id: 'p', name: 'Zinc', colour: [1, 0, 0] }] }));
    expect(scheduleRows('s1', renamed, areas, entries)[0]).toMatchObject({
      name: 'Zinc',
      choice: { origin: 'by hand', finish: { id: 'brick' } },
    });
  });
});

describe('a view of the schedule', () => {
  const entries: Entries = new Map<string, unknown>([
    ['assign/s1/s', { finish: 'oak', at: '2026' }],
    ['note/s1/p', { code: 'W-10', note: 'as sample 3' }],
    ['note/s1/unused', { code: 'W-9', note: '' }],
    ['element/s1/w3', { finish: 'oak', at: '2026' }],
    ['element/s1/w1', { finish: 'brick', at: '2026' }],
  ]);
  const shown = (view: Partial<ScheduleView>) =>
    viewSchedule(rows(entries), { ...FIRST_VIEW, ...view }, (s) => `Source ${s}`).map((g) => [g.name, ...g.rows.map((r) => r.material)]);

  it('is sorted by area, names, codes as people count them, finishes and elements', () => {
    expect(shown({})).toEqual([['', 'p', 's', 'unused']]);
    expect(shown({ sort: 'source material' })).toEqual([['', 's', 'unused', 'p']]);
    // W-9 stands before W-10; without a code comes last.
    expect(shown({ sort: 'code' })).toEqual([['', 'unused', 'p', 's']]);
    // Clear glass, Lime plaster, Oak boards.
    expect(shown({ sort: 'finish' })).toEqual([['', 'unused', 'p', 's']]);
  });

  it('is grouped, with the area of each group, and filtered by where a finish comes from', () => {
    expect(shown({ group: 'reason' })).toEqual([['By name', 'p', 'unused'], ['Set by hand', 's']]); // prettier-ignore
    expect(shown({ group: 'family', show: 'by hand' })).toEqual([['wood', 's']]);
    expect(shown({ group: 'source' })).toEqual([['Source s1', 'p', 's', 'unused']]);
    expect(shown({ show: 'guessed' })).toEqual([['', 'p', 'unused']]);
    expect(shown({ show: 'unassigned' })).toEqual([]);
    expect(viewSchedule(rows(entries), { ...FIRST_VIEW, group: 'reason' })[0]!.areaM2).toBe(36);
  });

  it('is searched by code and note too', () => {
    expect(shown({ words: 'w-10' })).toEqual([['', 'p']]);
    expect(shown({ words: 'sample weiss' })).toEqual([['', 'p']]);
  });

  it('has one finish replaced everywhere: guessed rows, chosen rows and single elements, as one command', () => {
    expect(replaceEverywhere(rows(entries), entries, 'oak', 'ash-boards', 'Oak')).toEqual({
      type: 'assign-many',
      name: 'Oak',
      assignments: [{ source: 's1', material: 's', finish: 'ash-boards' }, { source: 's1', element: 'w3', finish: 'ash-boards' }],
    }); // prettier-ignore
    expect(replaceEverywhere(rows(entries), entries, 'plaster', 'brick', 'Plaster')!.assignments).toEqual([
      { source: 's1', material: 'p', finish: 'brick' },
    ]);
    expect(replaceEverywhere(rows(entries), entries, 'marble', 'brick', 'Marble')).toBeUndefined();
  });

  it('follows rules between what is chosen by hand and what the names say', () => {
    const ruled: Entries = new Map([...entries, ['rules', [{ pattern: 'generic', finish: 'brick' }, { pattern: 'putz', finish: 'concrete' }]]]); // prettier-ignore
    expect(rows(ruled).map((r) => [r.choice.origin, r.choice.finish?.id])).toEqual([
      ['by rule', 'concrete'],
      ['by hand', 'oak'],
      ['by name', 'glass'],
    ]);
    expect(rows(ruled)[0]!.choice.reason).toBe('By the rule “putz”');
  });
});
