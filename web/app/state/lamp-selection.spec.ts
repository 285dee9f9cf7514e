import '@angular/compiler';
import { createEnvironmentInjector, type EnvironmentInjector } from '@angular/core';
import { firstValueFrom } from 'rxjs';
import { describe, expect, it } from 'vitest';
import type { PlacedLamp } from '../../../core/lamp/placed-lamp';
import { NO_THINGS, PlayedLive } from '../testing/station';
import { Areas } from './areas';
import { LampSelection } from './lamp-selection';
import { Live } from './live';
import { PictureState } from './picture-state';
import { Revisions } from './revisions';
import { SceneState } from './scene-state';

const spot = (x: number): PlacedLamp => ({
  kind: 'lamp', name: 'Spot', circuit: 'Placed here', type: 'Spot', position: [x, 0, 3], direction: [0, 0, -1], turnDeg: 0,
  form: { kind: 'spot', radiusM: 0.03, beamDeg: 24, fieldDeg: 42 }, power: { unit: 'lm', value: 800 }, colour: { kelvin: 3000 },
}); // prettier-ignore

describe('chosen lamps', () => {
  it('are drawn, or all are, where they are now; one that is taken away is no longer', async () => {
    const live = new PlayedLive();
    const injector = createEnvironmentInjector(
      [{ provide: Live, useValue: live }, Areas, PictureState, Revisions, SceneState, NO_THINGS, LampSelection],
      null as unknown as EnvironmentInjector,
    );
    const selection = injector.get(LampSelection);
    const shown = async () => (await firstValueFrom(selection.shown$)).map(({ id }) => id);
    live.put('thing/a', spot(1));
    live.put('thing/b', spot(2));
    expect(await shown()).toEqual([]);
    selection.choose(['b']);
    expect(await shown()).toEqual(['b']);
    selection.showsAll$.next(true);
    expect(await shown()).toEqual(['a', 'b']);
    live.put('thing/b', spot(5));
    expect((await firstValueFrom(selection.shown$))[1]!.lamp.position).toEqual([5, 0, 3]);
    selection.showsAll$.next(false);
    live.entries$.next(new Map());
    expect(await shown()).toEqual([]);
  });
});
