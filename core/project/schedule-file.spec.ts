import { describe, expect, it } from 'vitest';
import { applyChange, EMPTY_MODEL } from '../model/model';
import { testChange, testElement, testSurface } from '../model/testing';
import { effectOf } from './command';
import { applyChanges, assignmentKey, chooseFinish, overrideKey, type Entries } from './project';
import { scheduleRows } from './schedule';
import { matchSchedule, readSchedule, scheduleCsv, scheduleJson, scheduleLines, type ScheduleLine } from './schedule-file';

const GUID = '3rPX_Juz59peXXY6wDJl18';
const model = applyChange(
  EMPTY_MODEL,
  testChange({
    elements: [testElement(GUID, { name: 'Wall, "north"', parts: [{ mesh: 'a'.repeat(64), material: 'm1' }] })],
    materials: [{ id: 'm1', name: 'Putz; weiß', colour: [1, 1, 1] }, { id: 'm2', name: '=HYPERLINK("x")', colour: [1, 1, 1] }],
  }),
); // prettier-ignore
const sources = [{ id: 's', name: 'House.ifc', model }];
const NOW = '2026-10-16T10:00:00.000Z';
const decided: Entries = new Map<string, unknown>([
  [assignmentKey('s', 'm1'), { finish: 'brick', at: NOW }],
  [overrideKey('s', GUID), { finish: 'oak', at: NOW }],
]);
const rowsOf = (entries: Entries) => scheduleRows('s', model, new Map([['a'.repeat(64), testSurface(12.3456)]]), entries);
const lines = scheduleLines(rowsOf(decided), sources, decided);

function brought(text: string, into: Entries = new Map()) {
  const read = readSchedule('x.csv', text);
  if ('fault' in read) throw new Error(read.fault);
  return matchSchedule(read, sources, rowsOf(into), into);
}

describe('a finish schedule in a file', () => {
  it('holds source materials with area and reason, and single elements by GlobalId', () => {
    expect(lines.map((l) => [l.kind, l.source, l.id, l.finish, l.areaM2])).toEqual([
      ['source material', 'House.ifc', 'm1', 'brick', 12.346],
      ['source material', 'House.ifc', 'm2', '', 0],
      ['element', 'House.ifc', GUID, 'oak', undefined],
    ]);
  });

  it('comes back from CSV and JSON as one step that makes the same project', () => {
    for (const text of [scheduleCsv(lines), scheduleJson(lines)]) {
      const { command, changed, unmatched } = brought(text);
      expect([changed, unmatched]).toEqual([2, []]);
      const effect = effectOf(new Map(), command!, NOW);
      if ('refused' in effect) throw new Error(effect.refused);
      const after = applyChanges(new Map(), effect.changes);
      expect([...after].sort()).toEqual([...decided].sort());
      expect(chooseFinish(after, 's', { id: 'm1', name: '' }).finish?.id).toBe('brick');
      // A second time there is nothing left to do.
      expect(brought(text, after).command).toBeUndefined();
    }
  });

  it('survives a spreadsheet: semicolons, quotes, and names that look like formulas', () => {
    const csv = scheduleCsv(lines);
    expect(csv).toContain(`"'=HYPERLINK(""x"")"`);
    const read = readSchedule('x.csv', csv) as ScheduleLine[];
    expect(read.map((l) => l.name)).toEqual(['Putz; weiß', '=HYPERLINK("x")', 'Wall, "north"']);
    expect(brought(`\uFEFFkind;source;id;name;finish\r\nsource material;House.ifc;m1;Putz;zinc\r\n\r\n`).changed).toBe(1);
  });

  it('is matched by name where ids differ, and says what fits nothing', () => {
    const { changed, unmatched } = brought(scheduleJson([
      { kind: 'source material', source: 'Other.ifc', id: 'else', name: 'Putz; weiß', finish: 'zinc' },
      { kind: 'element', source: 'House.ifc', id: 'gone', name: 'Gone', finish: 'oak' },
      { kind: 'source material', source: 'House.ifc', id: 'm2', name: '', finish: 'no such finish' },
    ])); // prettier-ignore
    expect(changed).toBe(1);
    expect(unmatched.map((l) => l.id)).toEqual(['gone', 'm2']);
  });

  it('that is none is told so', () => {
    const fault = (text: string) => (readSchedule('x.csv', text) as { fault: string }).fault;
    expect(fault('a,b\n1,2')).toBe('x.csv is no finish schedule: it has no column kind, id, finish.');
    expect(fault('{"lines": 3}')).toBe('x.csv is JSON, but no finish schedule: it has no lines.');
    expect(fault('{"lines": [')).toBe('x.csv is broken JSON.');
    expect(fault('kind,source,id,name,finish\nroom,s,i,n,oak')).toContain('Line 1 of x.csv: kind');
    expect(fault('')).toContain('no finish schedule');
  });
});

describe('many assignments', () => {
  it('are refused whole when one finish is not there', () => {
    const command = { type: 'assign-many', assignments: [{ source: 's', material: 'm1', finish: 'oak' }, { source: 's', element: 'e', finish: 'none' }], name: 'x' } as const; // prettier-ignore
    expect(effectOf(new Map(), { ...command, assignments: [...command.assignments] }, NOW)).toEqual({
      refused: 'There is no finish “none” in this project.',
    });
  });
});
