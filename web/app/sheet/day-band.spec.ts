import { describe, expect, it } from 'vitest';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange } from '../../../core/model/testing';
import { onStage } from '../testing/station';
import { DayBand } from './day-band';

interface Mark {
  at: number;
  text: string;
}
interface Drawing {
  slices: { x: number; width: number; colour: string }[];
  curve: string;
}
interface Band {
  sunrise: Mark | null;
  sunset: Mark | null;
  never: string;
  at: number;
  time: string;
  place: string;
  latitude: string;
  monthName: string;
  day: number;
  phase: string;
}
interface Parts {
  band(): Band | undefined;
  drawing(): Drawing | undefined;
  strip: () => unknown;
  keyDown(event: unknown): void;
  setMonth(month: number): void;
  setDay(day: { year: number; month: number; day: number } | string | null): void;
  pointerDown(event: unknown): void;
  pointerMove(event: unknown): void;
  pointerUp(): void;
}

const at =
  (latitudeDeg: number, date = '2026-06-21', minutes = 600) =>
  async () => {
    const stage = onStage<Parts>(DayBand, (live) => {
      live.put('site', { name: 'Marram Landing', latitudeDeg, longitudeDeg: -4.1, elevationM: 4, trueNorthDeg: 0 });
      live.put('sun', { date, minutes });
    });
    await expect.poll(() => stage.part.band()).toBeDefined();
    // Where a day lies on a strip of 1440 pixels that begins at 100.
    stage.part.strip = () => ({
      nativeElement: { setPointerCapture: () => undefined, getBoundingClientRect: () => ({ left: 100, width: 1440 }) },
    });
    return stage;
  };
const key = (name: string, shiftKey = false) => {
  let taken = false;
  return { event: { key: name, shiftKey, preventDefault: () => (taken = true) }, taken: () => taken };
};
const midsummer = at(57.2);

describe('the day band', () => {
  it('covers the day without a gap, from night or twilight to day and back', async () => {
    const { part } = await at(40, '2026-03-20')();
    const { slices } = part.drawing()!;
    expect(slices[0]!.x).toBe(0);
    for (const [i, s] of slices.slice(1).entries()) expect(s.x).toBeLessThanOrEqual(slices[i]!.x + slices[i]!.width);
    expect(slices.at(-1)!.x + slices.at(-1)!.width).toBeGreaterThanOrEqual(1440);
    const brightness = (i: number) => slices[i]!.colour.match(/\d+/g)!.reduce((sum, v) => sum + Number(v), 0);
    expect(brightness(Math.floor(slices.length / 2))).toBeGreaterThan(brightness(0) + 300);
    for (const s of slices) expect(s.colour).toMatch(/^rgb\(\d+,\d+,\d+\)$/);
  });

  it('marks sunrise and sunset, the hour, the place and the phase', async () => {
    const { part } = await midsummer();
    const band = part.band()!;
    expect(band.sunrise!.at).toBeLessThan(band.at);
    expect(band.sunset!.at).toBeGreaterThan(band.at);
    expect(band).toMatchObject({ time: '10:00', place: 'Marram Landing', latitude: '57.2° N', monthName: 'June', day: 21, phase: 'day', never: '' });
  }); // prettier-ignore

  it('says when the sun neither rises nor sets', async () => {
    expect((await at(75)()).part.band()!.never).toBe('The sun does not set today.');
    expect((await at(75, '2026-12-21')()).part.band()!.never).toBe('The sun does not rise today.');
    expect((await at(-33.9)()).part.band()!.latitude).toBe('33.9° S');
  });

  it('steps by keys: a quarter, an hour, a day, over midnight too', async () => {
    const { part, live } = await at(57.2, '2026-06-21', 5)();
    for (const [name, shift] of [['ArrowRight'], ['ArrowRight', true], ['ArrowUp'], ['ArrowLeft'], ['PageUp'], ['PageDown']] as [string, boolean?][]) {
      const { event, taken } = key(name, shift);
      part.keyDown(event);
      expect(taken()).toBe(true);
    } // prettier-ignore
    expect(live.commands.map((c) => c.type === 'set-sun' && [c.date, c.minutes])).toEqual([
      ['2026-06-21', 20],
      ['2026-06-21', 65],
      ['2026-06-21', 65],
      ['2026-06-20', 1430],
      ['2026-06-22', 5],
      ['2026-06-20', 5],
    ]);
    const other = key('Tab');
    part.keyDown(other.event);
    expect(other.taken()).toBe(false);
  });

  it('shows the hour under the pointer at once, then one for each picture, and keeps the last when it is let go', async () => {
    const { part, live, scene, picture } = await midsummer();
    part.pointerMove({ clientX: 400 });
    expect(scene.sunPreview$.value).toBeUndefined();
    part.pointerDown({ clientX: 100 + 482, pointerId: 1 });
    expect(scene.sunPreview$.value).toEqual({ date: '2026-06-21', minutes: 480 });
    part.pointerMove({ clientX: 800 });
    part.pointerMove({ clientX: 99_999 });
    expect(scene.sunPreview$.value!.minutes).toBe(480);
    picture.frameShown$.next();
    expect(scene.sunPreview$.value!.minutes).toBe(1439);
    part.pointerMove({ clientX: -50 });
    expect(scene.sunPreview$.value!.minutes).toBe(1439);
    expect(live.commands).toEqual([]);
    part.pointerUp();
    expect(live.commands).toEqual([{ type: 'set-sun', date: '2026-06-21', minutes: 0 }]);
    expect(scene.sunPreview$.value).toBeUndefined();
    picture.frameShown$.next();
    expect(scene.sunPreview$.value).toBeUndefined();
  });

  it('goes on without a picture after a moment', async () => {
    const { part, scene } = await midsummer();
    part.pointerDown({ clientX: 100 + 482, pointerId: 1 });
    part.pointerMove({ clientX: 100 + 600 });
    await expect.poll(() => scene.sunPreview$.value!.minutes).toBe(600);
    part.pointerUp();
  });

  it('computes the sun’s way only for another day', async () => {
    const { part, scene } = await midsummer();
    const { slices } = part.drawing()!;
    scene.sunPreview$.next({ date: '2026-06-21', minutes: 700 });
    await expect.poll(() => part.band()!.time).toBe('11:40');
    expect(part.drawing()!.slices).toBe(slices);
    scene.sunPreview$.next({ date: '2026-07-21', minutes: 700 });
    await expect.poll(() => part.drawing()!.slices).not.toBe(slices);
  });

  it('keeps the day in another month as far as that month goes, and takes a date as written', async () => {
    const { part, live } = await at(57.2, '2026-05-31')();
    part.setMonth(1);
    part.setDay({ year: 2026, month: 8, day: 9 });
    part.setDay('tomorrow');
    part.setDay(null);
    expect(live.commands).toEqual([
      { type: 'set-sun', date: '2026-02-28', minutes: 600 },
      { type: 'set-sun', date: '2026-08-09', minutes: 600 },
    ]);
  });

  it('leaves the sun to the author while the author’s time is followed', async () => {
    const { part, live, scene } = await midsummer();
    live.models$.next(new Map([['s', applyChange(EMPTY_MODEL, testChange({ time: '2026-09-01T07:45' }))]]));
    live.put('follow', { camera: false, time: true });
    await expect.poll(() => part.band()!.time).toBe('07:45');
    part.keyDown(key('ArrowUp').event);
    part.setMonth(3);
    part.pointerDown({ clientX: 500, pointerId: 1 });
    expect([live.commands, scene.sunPreview$.value]).toEqual([[], undefined]);
  });
});
