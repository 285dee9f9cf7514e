import { describe, expect, it } from 'vitest';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange } from '../../../core/model/testing';
import { onStage, typed } from '../testing/station';
import { ViewsStation } from './views';

interface Row {
  id: string;
  name: string;
  kept: boolean;
  focalMm: number;
}
interface Parts {
  rows(): Row[];
  current(): string | undefined;
  go(row: Row): void;
  drop(row: Row): void;
  setFocal(event: Event): void;
  keep(event: Event, input: { value: string }): void;
}

const model = applyChange(
  EMPTY_MODEL,
  testChange({ cameras: [{ id: 'bank', name: 'From the bank', position: [-8, -14, 1.6], target: [10, 3, 2.6], focalMm: 28 }] }),
);

const station = () =>
  onStage<Parts>(ViewsStation, (live) => {
    live.models$.next(new Map([['s', model]]));
    live.put('view/v1', { name: 'At the door', camera: undefined, position: [0, 0, 1.6], target: [0, 5, 1.6], focalMm: 24 });
  });

describe('the view schedule', () => {
  it('lists the model’s cameras and the views kept here', () => {
    const { part } = station();
    expect(part.rows().map((r) => [r.name, r.kept, r.focalMm])).toEqual([
      ['From the bank', false, 28],
      ['At the door', true, 24],
    ]);
  });

  it('goes to a view with its lens', () => {
    const { part, picture } = station();
    const went: unknown[] = [];
    picture.goTo$.subscribe((to) => went.push(to));
    part.go(part.rows()[0]!);
    expect(went).toEqual([{ camera: { position: [-8, -14, 1.6], target: [10, 3, 2.6], focalMm: 28 }, name: 'From the bank' }]);
  });

  it('keeps the present view under a name, and nothing without one', () => {
    const { part, live, picture } = station();
    const input = { value: '   ' };
    part.keep(typed(''), input);
    expect(live.commands).toEqual([]);
    input.value = ' Jetty, low ';
    part.keep(typed(''), input);
    expect(live.commands).toMatchObject([{ type: 'keep-view', name: 'Jetty, low', camera: picture.camera$.value }]);
    expect(part.current()).toBe('Jetty, low');
    expect(input.value).toBe('');
  });

  it('drops a view that was kept here', () => {
    const { part, live } = station();
    part.drop(part.rows()[1]!);
    expect(live.commands).toEqual([{ type: 'drop-view', id: 'v1' }]);
  });

  it('takes a focal length between 10 and 200 mm and no other', () => {
    const { part, picture } = station();
    const lenses: number[] = [];
    picture.goTo$.subscribe(({ camera }) => lenses.push(camera.focalMm));
    for (const text of ['35', '9', '201', 'wide', '', '200']) part.setFocal(typed(text));
    expect(lenses).toEqual([35, 200]);
  });
});
