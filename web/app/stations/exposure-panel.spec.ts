import { describe, expect, it } from 'vitest';
import { onStage, typed } from '../testing/station';
import { whiteOf, type WhiteSetting } from '../../../core/image/white-balance';
import type { Pointed } from '../state/picture-state';
import { ExposurePanel } from './exposure-panel';

interface Parts {
  setMode(mode: 'auto' | 'fixed'): void;
  setEv(event: Event): void;
  ev(): number;
  meter(over: string): void;
  shutterWords(): string;
  setCamera(change: { fNumber?: number; iso?: number }): void;
  setShutter(words: string): void;
  white(): WhiteSetting;
  setWhite(white: WhiteSetting | undefined): void;
  setKelvin(event: Event): void;
  setTint(event: Event): void;
  picksGrey(): boolean;
  pickGrey(): void;
}

const station = () => onStage<Parts>(ExposurePanel);

describe('exposure and white', () => {
  it('fixes the exposure where the automatic one stands, and takes EV from -10 to 24', async () => {
    const { part, live, picture } = station();
    picture.ev100$.next(12.347);
    part.setMode('fixed');
    expect(live.commands.at(-1)).toEqual({ type: 'set-exposure', mode: 'fixed', ev100: 12.3 });
    live.put('exposure', { mode: 'fixed', ev100: 12.3 });
    await expect.poll(() => part.ev()).toBe(12.3);
    // A picture that is exposed late takes nothing away from who types.
    picture.ev100$.next(13.1);
    expect(part.ev()).toBe(12.3);
    for (const text of ['-11', '25', 'bright']) part.setEv(typed(text));
    expect(live.commands).toHaveLength(1);
    part.setEv(typed('9.5'));
    expect(live.commands.at(-1)).toEqual({ type: 'set-exposure', mode: 'fixed', ev100: 9.5 });
  });

  it('fixes the white where the automatic one stands, by temperature and tint, and lets it go again', () => {
    const { part, live, picture } = station();
    picture.white$.next(whiteOf({ kelvin: 3010, tint: 0 }));
    part.setWhite(part.white());
    expect(live.commands.at(-1)).toMatchObject({ type: 'set-exposure', mode: 'auto', white: { kelvin: 3000, tint: 0 } });
    for (const text of ['1500', '13000', 'warm']) part.setKelvin(typed(text));
    expect(live.commands).toHaveLength(1);
    part.setKelvin(typed('4100'));
    part.setTint(typed('-7'));
    expect(live.commands.slice(-2)).toMatchObject([{ white: { kelvin: 4100 } }, { white: { tint: -7 } }]);
    part.setWhite(undefined);
    expect(live.commands.at(-1)).not.toHaveProperty('white');
  });

  it('takes the white that makes a place in the picture grey', () => {
    const { part, live, picture } = station();
    const places: { x: number; y: number }[] = [];
    picture.greyAt$.subscribe((place) => {
      places.push(place);
      picture.pickedWhite$.next({ kelvin: 2871, tint: 3.4 });
    });
    part.pickGrey();
    expect(part.picksGrey()).toBe(true);
    picture.pointTaker$.value!({ x: 40, y: 30 } as Pointed);
    expect([places, part.picksGrey(), picture.pointTaker$.value]).toEqual([[{ x: 40, y: 30 }], false, undefined]);
    expect(live.commands.at(-1)).toMatchObject({ type: 'set-exposure', mode: 'auto', white: { kelvin: 2871, tint: 3 } });
  });

  it('tells an exposure as a camera does, and takes one so', async () => {
    const { part, live } = station();
    live.put('exposure', { mode: 'fixed', ev100: 15, camera: { fNumber: 16, iso: 100 } });
    // "Sunny 16" (common practice, no source): f/16 and one over the ISO, EV 15 to a thirtieth.
    await expect.poll(() => part.shutterWords()).toBe('1/130');
    part.setShutter('1/60');
    expect(live.commands.at(-1)).toMatchObject({ type: 'set-exposure', mode: 'fixed', camera: { fNumber: 16, iso: 100 } });
    expect((live.commands.at(-1) as { ev100: number }).ev100).toBeCloseTo(13.907, 3);
    part.setCamera({ iso: 400 });
    expect(live.commands.at(-1)).toMatchObject({ ev100: 15, camera: { fNumber: 16, iso: 400 } });
    const count = live.commands.length;
    for (const words of ['', 'fast', '1/0', '-2']) part.setShutter(words);
    for (const fNumber of [0, 90, NaN]) part.setCamera({ fNumber });
    expect(live.commands).toHaveLength(count);
  });

  it('meters over what is chosen', () => {
    const { part, live } = station();
    part.meter('highlights');
    expect(live.commands.at(-1)).toMatchObject({ mode: 'auto', metering: 'highlights' });
  });
});
