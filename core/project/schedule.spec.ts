import { describe, expect, it } from 'vitest';
import { applyChange, EMPTY_MODEL } from '../model/model';
import { testChange, testElement } from '../model/testing';
import type { Entries } from './project';
import { scheduleRows } from './schedule';

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
const areas = new Map([[WALL, 12], [SILL, 0.5]]); // prettier-ignore
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
