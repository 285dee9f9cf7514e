import { describe, expect, it } from 'vitest';
import { overrideKey } from '../../../core/project/project';
import type { ScheduleRow } from '../../../core/project/schedule';
import type { ScheduleView } from '../../../core/project/schedule-view';
import { overSmallModel } from '../testing/small-model';
import { FinishesStation } from './finishes';
import type { PickedElement } from './row-card';
import { ScheduleList } from './schedule-list';

interface Parts {
  shown(): ScheduleRow[];
  look(change: Partial<ScheduleView>): void;
  view(): ScheduleView;
  element(): PickedElement | undefined;
  toggle(row: ScheduleRow): void;
  choose(row: ScheduleRow, event?: Partial<MouseEvent>): void;
  chosen(): ScheduleRow[];
  chooseShown(): void;
  chooseNone(): void;
  rest(row: ScheduleRow): string;
  area(m2: number): string;
}

const list = () => overSmallModel<Parts>(ScheduleList);

describe('the finish schedule', () => {
  it('lists source materials by area, with elements, finish and reason', () => {
    const { part } = list();
    expect(part.shown().map((r) => [r.material, r.areaM2, r.elements])).toEqual([
      ['wall', 80, 2],
      ['deck', 12, 1],
      ['odd', 12, 1],
    ]);
    expect(part.shown()[0]!.choice).toMatchObject({ origin: 'by name', finish: { id: 'plaster' } });
    expect(part.rest(part.shown()[0]!)).toBe('2 elements · s · “putz” reads as plaster');
  });

  it('is searched by the model’s names, and by what things look like here, in any order of words', () => {
    const { part } = list();
    const found = (words: string) => {
      part.look({ words });
      return part.shown().map((r) => r.material);
    };
    expect(found('putz')).toEqual(['wall']);
    expect(found('EICHE boden')).toEqual(['deck']);
    expect(found('plaster')).toEqual(['wall']);
    expect(found('nothing of the kind')).toEqual([]);
    expect(found('   ')).toHaveLength(3);
  });

  it('gives one finish to several rows as one step', () => {
    const { part, schedule, live } = list();
    part.choose(part.shown()[0]!);
    part.choose(part.shown()[2]!, { shiftKey: true });
    expect(part.chosen().map((r) => r.material)).toEqual(['deck', 'wall', 'odd']);
    part.choose(part.shown()[1]!);
    expect(part.chosen().map((r) => r.material)).toEqual(['wall', 'odd']);
    schedule.assign(part.chosen(), 'brick');
    expect(live.commands).toEqual([
      {
        type: 'assign-many',
        name: 'Brick, red-brown, stretcher bond',
        assignments: [{ source: 's', material: 'wall', finish: 'brick' }, { source: 's', material: 'odd', finish: 'brick' }],
      },
    ]); // prettier-ignore
    part.chooseNone();
    expect(part.chosen()).toEqual([]);
    part.look({ show: 'unassigned' });
    part.chooseShown();
    expect(part.chosen().map((r) => r.material)).toEqual(['odd']);
  });

  it('opens the row of a surface that is clicked, whatever was searched for', () => {
    const { part, picture, schedule } = list();
    part.look({ words: 'oak', show: 'unassigned' });
    const surface = {
      source: 's', element: 'w2', material: 'wall', elementName: 'West wall', materialName: 'Putz', finishName: 'Plaster', point: [0, 0, 0] as const, x: 0, y: 0,
    }; // prettier-ignore
    picture.picked$.next(surface);
    expect(schedule.opened()).toBe('s/wall');
    expect(part.shown()).toHaveLength(3);
    expect(part.element()).toMatchObject({ id: 'w2', name: 'West wall' });
    expect(picture.picked$.value).toBeUndefined();
  });

  it('stops pointing surfaces out when a row opens, or when the station is left', () => {
    const { part, picture, leave } = list();
    picture.highlighted$.next('s/wall');
    part.toggle(part.shown()[0]!);
    expect(picture.highlighted$.value).toBeUndefined();
    picture.highlighted$.next('s/wall');
    leave();
    expect(picture.highlighted$.value).toBeUndefined();
  });

  it('writes areas as one reads them', () => {
    const { part } = list();
    expect([0.04, 12.34, 99.96, 1234.5].map((m2) => part.area(m2))).toEqual(['0.0', '12.3', '100.0', '1 235']);
  });

  it('counts what nobody has chosen', () => {
    const { part, live } = overSmallModel<{ counts(): string }>(FinishesStation);
    expect(part.counts()).toBe('1 unassigned, 2 guessed, 3 rows');
    live.put('assign/s/odd', { finish: 'oak', at: '' });
    live.put(overrideKey('s', 'w1'), { finish: 'oak', at: '' });
    expect(part.counts()).toBe('2 guessed, 3 rows');
  });
});
