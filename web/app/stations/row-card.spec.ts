import { describe, expect, it } from 'vitest';
import type { InputSignal } from '@angular/core';
import { assignmentKey, overrideKey } from '../../../core/project/project';
import type { UvOverride } from '../../../core/finish/uv-override';
import type { Pointed } from '../state/picture-state';
import type { ScheduleRow } from '../../../core/project/schedule';
import { overSmallModel } from '../testing/small-model';
import { give } from '../testing/station';
import { RowCard, type PickedElement } from './row-card';

interface Parts {
  row: InputSignal<ScheduleRow>;
  element: InputSignal<PickedElement | undefined>;
  isAssigned(): boolean;
  assign(finish: string): void;
  own(): PickedElement | undefined;
  elementFinish(): string;
  assignElement(finish: string): void;
  quarterTurn(): void;
  alignToEdge(): void;
  isLaid(): boolean;
  lay(laid: UvOverride | null): void;
  showSurfaces(): void;
  note(change: { code?: string; note?: string }): void;
  addRule(pattern: string): void;
  replace(to: string): void;
}

function card(material: string) {
  const stage = overSmallModel<Parts>(RowCard);
  const row = () => stage.schedule.rows().find((r) => r.material === material)!;
  give(stage.part.row, row());
  return { ...stage, row };
}

describe('a row of the schedule', () => {
  it('takes a choice back to the guess', () => {
    const { part, live } = card('wall');
    expect(part.isAssigned()).toBe(false);
    live.put(assignmentKey('s', 'wall'), { finish: 'oak', at: '' });
    expect(part.isAssigned()).toBe(true);
    part.assign('');
    expect(live.commands).toEqual([{ type: 'assign-finish', source: 's', material: 'wall', finish: null }]);
  });

  it('gives the clicked element a finish of its own', () => {
    const { part, live } = card('wall');
    give(part.element, { source: 's', id: 'w2', name: 'West wall', material: 'wall' });
    expect([part.own()?.id, part.elementFinish()]).toEqual(['w2', '']);
    part.assignElement('brick');
    expect(live.commands).toEqual([{ type: 'assign-element-finish', source: 's', element: 'w2', finish: 'brick' }]);
    live.put(overrideKey('s', 'w2'), { finish: 'brick', at: '' });
    expect(part.elementFinish()).toBe('brick');
    give(part.element, { source: 's', id: 'd', name: 'Deck', material: 'deck' });
    expect(part.own()).toBeUndefined();
  });

  it('lays the maps of the clicked element by quarters, and along an edge that is clicked', () => {
    const { part, live, picture } = card('wall');
    give(part.element, { source: 's', id: 'w2', name: 'West wall', material: 'wall' });
    part.quarterTurn();
    expect(live.commands.at(-1)).toMatchObject({ type: 'lay-maps', element: 'w2', laid: { turnDeg: 90, offsetM: [0, 0] } });
    part.alignToEdge();
    const click = (element: string, edge?: object) => {
      picture.pointTaker$.value!({ source: 's', element, edge: () => edge } as unknown as Pointed);
    };
    click('w1', { near: [0, 0], far: [1, 0] });
    expect([live.commands.length, picture.pointTaker$.value]).toEqual([1, undefined]);
    part.alignToEdge();
    click('w2', { near: [2, 0], far: [0, 0] });
    expect(live.commands.at(-1)).toMatchObject({ laid: { turnDeg: 90 } });
    part.alignToEdge();
    part.alignToEdge();
    expect(picture.pointTaker$.value).toBeUndefined();
    live.put('laid/s/w2', { turnDeg: 90, offsetM: [0, 0] });
    expect(part.isLaid()).toBe(true);
    part.lay(null);
    expect(live.commands.at(-1)).toMatchObject({ laid: null });
  });

  it('shows where the material is, and stops when pressed again', () => {
    const { part, picture } = card('wall');
    part.showSurfaces();
    expect(picture.highlighted$.value).toBe('s/wall');
    part.showSurfaces();
    expect(picture.highlighted$.value).toBeUndefined();
  });

  it('keeps a code and a note, and says nothing when neither has changed', () => {
    const { part, live } = card('wall');
    part.note({ code: '' });
    part.note({ code: 'W-01' });
    expect(live.commands).toEqual([{ type: 'note-row', source: 's', material: 'wall', code: 'W-01', note: '' }]);
  });

  it('makes a rule of its finish, and has it replaced everywhere', () => {
    const { part, live } = card('wall');
    part.addRule('  ');
    part.addRule(' putz* ');
    part.replace('concrete');
    expect(live.commands).toEqual([
      { type: 'set-rules', rules: [{ pattern: 'putz*', finish: 'plaster' }] },
      { type: 'assign-many', name: 'Lime plaster, trowelled replaced by Concrete, board-marked', assignments: [{ source: 's', material: 'wall', finish: 'concrete' }] },
    ]); // prettier-ignore
  });
});
