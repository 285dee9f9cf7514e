import { firstValueFrom, of, type Observable } from 'rxjs';
import { describe, expect, it } from 'vitest';
import type { Site } from '../../../core/model/schema';
import { onStage, typed } from '../testing/station';
import { LightStation } from './light';

interface Parts {
  fault(): string;
  moment(): unknown;
  search: (text$: Observable<string>) => Observable<Site[]>;
  choose(event: { item: Site }): void;
  setCoordinates(event: Event, latitude: string, longitude: string, north: string): void;
}

const SITE: Site = { name: 'Marram Landing', latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 4, trueNorthDeg: 12 };
const station = async () => {
  const stage = onStage<Parts>(LightStation, (live) => {
    live.put('site', SITE);
  });
  await expect.poll(() => stage.part.moment()).toBeTruthy();
  return stage;
};

describe('site and sun', () => {
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
});
