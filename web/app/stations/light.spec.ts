import { firstValueFrom, of, type Observable } from 'rxjs';
import { describe, expect, it } from 'vitest';
import type { Site } from '../../../core/model/schema';
import { onStage, typed } from '../testing/station';
import { whiteOf, type WhiteSetting } from '../../../core/image/white-balance';
import type { Pointed } from '../state/picture-state';
import { LightStation } from './light';

interface Parts {
  fault(): string;
  moment(): unknown;
  search: (text$: Observable<string>) => Observable<Site[]>;
  choose(event: { item: Site }): void;
  setCoordinates(event: Event, latitude: string, longitude: string, north: string): void;
  setMode(mode: 'auto' | 'fixed'): void;
  setEv(event: Event): void;
  ev(): number;
  white(): WhiteSetting;
  setWhite(white: WhiteSetting | undefined): void;
  setKelvin(event: Event): void;
  setTint(event: Event): void;
  picksGrey(): boolean;
  pickGrey(): void;
}

const SITE: Site = { name: 'Marram Landing', latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 4, trueNorthDeg: 12 };
const station = async () => {
  const stage = onStage<Parts>(LightStation, (live) => {
    live.put('site', SITE);
  });
  await expect.poll(() => stage.part.moment()).toBeTruthy();
  return stage;
};

describe('site, sun and exposure', () => {
  it('finds cities without any network, and keeps the model’s north when one is chosen', async () => {
    const { part, live } = await station();
    const cities = await firstValueFrom(part.search(of('lis')));
    expect(cities.map((c) => c.name)).toContain('Lisbon');
    const lisbon = cities.find((c) => c.name === 'Lisbon')!;
    part.choose({ item: lisbon });
    expect(live.commands).toEqual([{ type: 'choose-site', site: { ...lisbon, trueNorthDeg: 12 } }]);
  });

  it('takes coordinates, and says what is wrong with others', async () => {
    const { part, live } = await station();
    for (const [latitude, longitude, north] of [['91', '0', '0'], ['0', '-181', '0'], ['0', '0', '400'], ['north', '0', '0']] as const)
      part.setCoordinates(typed(''), latitude, longitude, north); // prettier-ignore
    expect(live.commands).toEqual([]);
    expect(part.fault()).toMatch(/Latitude runs from/);
    part.setCoordinates(typed(''), '-33.9', '18.4', '0');
    expect(part.fault()).toBe('');
    expect(live.commands).toEqual([
      { type: 'choose-site', site: { name: 'By coordinates', latitudeDeg: -33.9, longitudeDeg: 18.4, elevationM: 4, trueNorthDeg: 0 } },
    ]);
  });

  it('keeps the place’s name when only its north is turned', async () => {
    const { part, live } = await station();
    part.setCoordinates(typed(''), '57.2', '-4.1', '30');
    expect(live.commands).toEqual([{ type: 'choose-site', site: { ...SITE, trueNorthDeg: 30 } }]);
  });

  it('fixes the exposure where the automatic one stands, and takes EV from -10 to 24', async () => {
    const { part, live, picture } = await station();
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

  it('fixes the white where the automatic one stands, by temperature and tint, and lets it go again', async () => {
    const { part, live, picture } = await station();
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

  it('takes the white that makes a place in the picture grey', async () => {
    const { part, live, picture } = await station();
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
});
