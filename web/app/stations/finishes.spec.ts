import { describe, expect, it } from 'vitest';
import type { Finish } from '../../../core/finish/finish';
import { FINISHES } from '../../../core/finish/library';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange, testElement } from '../../../core/model/testing';
import { assignmentKey, overrideKey } from '../../../core/project/project';
import type { ScheduleRow } from '../../../core/project/schedule';
import { onStage } from '../testing/station';
import { FinishesStation } from './finishes';

const [large, small] = ['a'.repeat(64), 'b'.repeat(64)];
const model = applyChange(
  EMPTY_MODEL,
  testChange({
    materials: [
      { id: 'deck', name: 'Bodenbelag Eiche', colour: [0.6, 0.5, 0.4] },
      { id: 'wall', name: 'Putz', colour: [1, 1, 1] },
      { id: 'odd', name: 'M-0417', colour: [0, 0.2, 1] },
    ],
    elements: [
      testElement('w1', { parts: [{ mesh: large, material: 'wall' }] }),
      testElement('w2', { parts: [{ mesh: large, material: 'wall' }] }),
      testElement('d', {
        parts: [
          { mesh: small, material: 'deck' },
          { mesh: small, material: 'odd' },
        ],
      }),
    ],
  }),
);

interface Parts {
  rows(): ScheduleRow[];
  search: { set(text: string): void };
  tab(): string;
  opened(): string | undefined;
  unassigned(): number;
  total(): number;
  chooseFamily(value: string): void;
  turnTag(tag: string): void;
  tagWords(tag: string): string;
  tags(): string[];
  shownFinishes(): Finish[];
  toggle(row: ScheduleRow): void;
  give(finish: string): void;
  assign(row: ScheduleRow, finish: string): void;
  assignElement(finish: string): void;
  elementFinish(): string;
  isAssigned(row: ScheduleRow): boolean;
  showSurfaces(row: ScheduleRow): void;
  area(m2: number): string;
  dragEnd(): void;
  dragStart(event: DragEvent, finish: string): void;
}

function station() {
  const stage = onStage<Parts>(FinishesStation, (live) => {
    live.models$.next(new Map([['s', model]]));
  });
  stage.areas.areas$.next(new Map([[large, 40], [small, 12]])); // prettier-ignore
  return stage;
}

describe('the finish schedule', () => {
  it('lists source materials by area, with elements, finish and reason, and counts what has none', () => {
    const { part } = station();
    expect(part.rows().map((r) => [r.material, r.areaM2, r.elements])).toEqual([
      ['wall', 80, 2],
      ['deck', 12, 1],
      ['odd', 12, 1],
    ]);
    expect(part.rows()[0]!.choice).toMatchObject({ origin: 'by name', finish: { id: 'plaster' } });
    expect(part.unassigned()).toBe(1);
    expect(part.total()).toBe(3);
  });

  it('is searched by the model’s names, and by what things look like here, in any order of words', () => {
    const { part } = station();
    const found = (text: string) => {
      part.search.set(text);
      return part.rows().map((r) => r.material);
    };
    expect(found('putz')).toEqual(['wall']);
    expect(found('EICHE boden')).toEqual(['deck']);
    expect(found('plaster')).toEqual(['wall']);
    expect(found('nothing of the kind')).toEqual([]);
    expect(found('   ')).toHaveLength(3);
  });

  it('searches the library with the same words', () => {
    const { part } = station();
    expect(part.shownFinishes()).toHaveLength(FINISHES.length);
    part.search.set('oak boards -smoked');
    expect(part.shownFinishes().map((f) => f.id)).toEqual(['oak']);
  });

  it('narrows the library by family, by tags that are asked for and by tags that are left out', () => {
    const { part } = station();
    part.chooseFamily('stone');
    const stone = part.shownFinishes();
    expect(stone.every((f) => f.family === 'stone')).toBe(true);
    part.turnTag('polished');
    const polished = part.shownFinishes();
    expect(polished).toEqual(stone.filter((f) => f.tags.includes('polished')));
    expect(part.tagWords('polished')).toBe('polished: asked for');
    part.turnTag('polished');
    expect(part.shownFinishes()).toEqual(stone.filter((f) => !f.tags.includes('polished')));
    expect(part.tagWords('polished')).toBe('polished: left out');
    part.turnTag('polished');
    expect(part.shownFinishes()).toEqual(stone);
    expect(part.tags()).not.toContain('parquet');
    part.chooseFamily('');
    expect(part.shownFinishes()).toHaveLength(FINISHES.length);
  });

  it('gives from the library to the open row, and to none when none is open', () => {
    const { part, live } = station();
    part.give('brick');
    expect(live.commands).toEqual([]);
    part.toggle(part.rows()[1]!);
    part.give('brick');
    expect(live.commands).toEqual([{ type: 'assign-finish', source: 's', material: 'deck', finish: 'brick' }]);
    part.toggle(part.rows()[1]!);
    expect(part.opened()).toBeUndefined();
  });

  it('takes a choice back to the guess', () => {
    const { part, live } = station();
    const row = part.rows()[0]!;
    expect(part.isAssigned(row)).toBe(false);
    live.put(assignmentKey('s', 'wall'), { finish: 'oak', at: '' });
    expect(part.isAssigned(part.rows()[0]!)).toBe(true);
    expect(part.rows()[0]!.choice.origin).toBe('by hand');
    part.assign(part.rows()[0]!, '');
    expect(live.commands).toEqual([{ type: 'assign-finish', source: 's', material: 'wall', finish: null }]);
  });

  it('opens the row of a surface that is clicked, whatever was searched for, and gives that one element a finish of its own', () => {
    const { part, live, picture } = station();
    part.search.set('oak');
    const surface = {
      source: 's',
      element: 'w2',
      material: 'wall',
      elementName: 'West wall',
      materialName: 'Putz',
      finishName: 'Plaster',
      point: [0, 0, 0] as const,
      x: 0,
      y: 0,
    };
    picture.picked$.next(surface); // prettier-ignore
    expect(part.opened()).toBe('s/wall');
    expect(part.rows()).toHaveLength(3);
    expect(picture.picked$.value).toBeUndefined();
    expect(part.elementFinish()).toBe('');
    part.assignElement('brick');
    expect(live.commands).toEqual([{ type: 'assign-element-finish', source: 's', element: 'w2', finish: 'brick' }]);
    live.put(overrideKey('s', 'w2'), { finish: 'brick', at: '' });
    expect(part.elementFinish()).toBe('brick');
  });

  it('shows where a material is, and stops when pressed again, when a row opens, or when the station is left', () => {
    const { part, picture, leave } = station();
    const [wall] = part.rows();
    const shown = () => picture.highlighted$.value;
    part.showSurfaces(wall!);
    expect(shown()).toBe('s/wall');
    part.showSurfaces(wall!);
    expect(shown()).toBeUndefined();
    part.showSurfaces(wall!);
    part.toggle(wall!);
    expect(shown()).toBeUndefined();
    part.showSurfaces(wall!);
    leave();
    expect(shown()).toBeUndefined();
  });

  it('ends what a dragged finish shows when it is let go outside the picture', () => {
    const { part, picture, scene } = station();
    const data = new Map<string, string>();
    const dataTransfer = { setData: (type: string, text: string) => data.set(type, text), effectAllowed: '' };
    part.dragStart({ dataTransfer } as unknown as DragEvent, 'brick');
    expect([picture.dragged$.value, data.get('text/plain')]).toEqual(['brick', 'brick']);
    scene.preview$.next({ source: 's', material: 'wall', finish: 'brick' });
    part.dragEnd();
    expect([picture.dragged$.value, scene.preview$.value]).toEqual([undefined, undefined]);
  });

  it('writes areas as one reads them', () => {
    const { part } = station();
    expect([0.04, 12.34, 99.96, 1234.5].map((m2) => part.area(m2))).toEqual(['0.0', '12.3', '100.0', '1 235']);
  });
});
