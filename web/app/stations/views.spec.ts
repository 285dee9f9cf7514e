import { describe, expect, it } from 'vitest';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange } from '../../../core/model/testing';
import type { Shown } from '../../../core/model/shown';
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
  ordered(): (Row & { heads: boolean })[];
  update(row: Row, change: object, camera?: boolean): void;
  shown(): Shown;
  keep(event: Event, input: { value: string }): void;
  moveBefore(id: string, before: string): void;
  step(id: string, by: 1 | -1): void;
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

  it('holds what is shown, and shows it again where something else is shown', () => {
    const { part, live } = station();
    live.put('variant/s', { option: 'folded', phase: null });
    const row = part.rows().find(({ kept }) => kept)!;
    part.update(row, { shown: part.shown() });
    expect(live.commands.at(-1)).toMatchObject({
      type: 'keep-view',
      id: 'v1',
      shown: { variants: { s: { option: 'folded', phase: null } } },
    });
    const shown = part.shown();
    live.put('view/v1', { name: 'At the door', position: [0, 0, 1.6], target: [0, 5, 1.6], focalMm: 24, shown });
    const count = live.commands.length;
    live.put('visibility', shown.visibility);
    part.go(part.rows().find(({ kept }) => kept)!);
    expect(live.commands).toHaveLength(count);
    live.put('variant/s', { option: 'pitched', phase: null });
    part.go(part.rows().find(({ kept }) => kept)!);
    expect(live.commands.at(-1)).toMatchObject({ type: 'show-as-in-view', name: 'At the door', shown });
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

  it('changes a kept view part by part, and heads its folders', () => {
    const { part, live } = station();
    part.update(part.rows()[1]!, { folder: 'Council' });
    expect(live.commands).toEqual([{ type: 'keep-view', id: 'v1', name: 'At the door', camera: { position: [0, 0, 1.6], target: [0, 5, 1.6], focalMm: 24 }, folder: 'Council' }]); // prettier-ignore
    live.put('view/v1', {
      name: 'At the door',
      position: [0, 0, 1.6],
      target: [0, 5, 1.6],
      focalMm: 24,
      folder: 'Council',
      frame: { width: 1200, height: 1500 },
    });
    live.put('view/v2', { name: 'A stair', position: [0, 0, 1.6], target: [0, 5, 1.6], focalMm: 24, folder: 'Council' });
    expect(part.ordered().map(({ name, heads }) => [name, heads])).toEqual([['From the bank', false], ['At the door', true], ['A stair', false]]); // prettier-ignore
    part.update(part.rows()[1]!, {}, true);
    expect(live.commands.at(-1)).toMatchObject({ folder: 'Council', frame: { width: 1200, height: 1500 }, camera: { focalMm: 26 } });
  });

  it('is ordered by drag and by keys; what is dropped in a folder goes into it', () => {
    const { part, live } = station();
    live.put('view/v2', { name: 'Hall', position: [0, 0, 1.6], target: [0, 5, 1.6], focalMm: 24, folder: 'Council' });
    part.moveBefore('v1', 'bank');
    expect(live.commands).toEqual([{ type: 'order-views', order: ['v1', 'bank', 'v2'] }]);
    live.put('view-order', ['v1', 'bank', 'v2']);
    expect(part.ordered().map(({ id }) => id)).toEqual(['v1', 'bank', 'v2']);
    part.step('v1', -1);
    part.step('v1', 1);
    part.moveBefore('v1', 'v2');
    part.moveBefore('gone', 'v2');
    expect(live.commands.slice(1)).toMatchObject([
      { type: 'order-views', order: ['bank', 'v1', 'v2'] },
      { type: 'order-views', order: ['bank', 'v1', 'v2'] },
      { type: 'keep-view', id: 'v1', folder: 'Council' },
    ]);
  });
});
