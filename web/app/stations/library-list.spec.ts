import { describe, expect, it, vi } from 'vitest';
import type { Finish } from '../../../core/finish/finish';
import { overSmallModel } from '../testing/small-model';
import { LibraryList } from './library-list';

interface Parts {
  onShelf(): Finish[];
  chooseShelf(value: string): void;
  previewsToCome(): string;
  give(finish: string): void;
  recipients(): string | undefined;
  favourites: { turn(finish: string): void };
  dragStart(event: DragEvent, finish: string): void;
  dragEnd(): void;
}

const library = () => overSmallModel<Parts>(LibraryList);
const ids = (part: Parts) => part.onShelf().map((f) => f.id);

describe('the library', () => {
  it('tells how many previews the server has made beforehand, until the last one', async () => {
    const progress = [{ made: 3, of: 144 }, { made: 144, of: 144 }];
    vi.useFakeTimers();
    vi.stubGlobal('fetch', () => Promise.resolve(new Response(JSON.stringify(progress.shift()))));
    const { part } = library();
    await vi.advanceTimersByTimeAsync(10);
    expect(part.previewsToCome()).toBe(', previews made: 3 of 144');
    await vi.advanceTimersByTimeAsync(2100);
    expect(part.previewsToCome()).toBe('');
    vi.useRealTimers();
    vi.unstubAllGlobals();
  }); // prettier-ignore

  it('has shelves: what is used here by area, what was given last, and favourites', () => {
    const { part, live } = library();
    part.chooseShelf('used here');
    expect(ids(part)).toEqual(['plaster', 'oak']);
    live.put('assign/s/odd', { finish: 'brick', at: '2026-01-02' });
    live.put('element/s/w1', { finish: 'zinc', at: '2026-01-03' });
    expect(ids(part)).toEqual(['plaster', 'oak', 'brick', 'zinc']);
    part.chooseShelf('recent');
    expect(ids(part)).toEqual(['zinc', 'brick']);
    part.chooseShelf('favourites');
    expect(ids(part)).toEqual([]);
    part.favourites.turn('water');
    expect(ids(part)).toEqual(['water']);
    part.favourites.turn('water');
    expect(ids(part)).toEqual([]);
  });

  it('gives to the open row, to chosen rows before it, and to none when there are none', () => {
    const { part, live, schedule } = library();
    part.give('brick');
    expect(live.commands).toEqual([]);
    schedule.opened.set('s/deck');
    expect(part.recipients()).toBe('Bodenbelag Eiche');
    part.give('brick');
    expect(live.commands).toEqual([{ type: 'assign-finish', source: 's', material: 'deck', finish: 'brick' }]);
    schedule.chosen.set(new Set(['s/wall', 's/odd']));
    expect(part.recipients()).toBe('2 rows');
    part.give('oak');
    expect(live.commands[1]).toMatchObject({ type: 'assign-many', assignments: [{ material: 'wall' }, { material: 'odd' }] });
  });

  it('shows a finish on its recipients while the pointer is on it', () => {
    const { schedule, scene } = library();
    schedule.preview('brick');
    expect(scene.preview$.value).toBeUndefined();
    schedule.opened.set('s/deck');
    schedule.preview('brick');
    expect(scene.preview$.value).toEqual({ on: [{ source: 's', material: 'deck' }], finish: 'brick' });
    schedule.endPreview();
    expect(scene.preview$.value).toBeUndefined();
  });

  it('ends what a dragged finish shows when it is let go outside the picture', () => {
    const { part, picture, scene } = library();
    const data = new Map<string, string>();
    const dataTransfer = { setData: (type: string, text: string) => data.set(type, text), effectAllowed: '' };
    part.dragStart({ dataTransfer } as unknown as DragEvent, 'brick');
    expect([picture.dragged$.value, data.get('text/plain')]).toEqual(['brick', 'brick']);
    scene.preview$.next({ on: [{ source: 's', material: 'wall' }], finish: 'brick' });
    part.dragEnd();
    expect([picture.dragged$.value, scene.preview$.value]).toEqual([undefined, undefined]);
  });
});
