import '@angular/compiler';
import { createEnvironmentInjector, type EnvironmentInjector } from '@angular/core';
import { beforeEach, describe, expect, it } from 'vitest';
import { translation } from '../../../core/geometry/mat4';
import type { PlacedLamp } from '../../../core/lamp/placed-lamp';
import { FAMILIES } from '../../../core/finish/finish';
import type { SetThing } from '../../../core/setting/set-thing';
import type { ThingKind } from '../../../core/setting/thing-kind';
import { NO_THINGS, PlayedLive } from '../testing/station';
import { Areas } from './areas';
import { Handlings } from './handlings';
import { LampHandles } from './lamp-handles';
import { LampPlacing } from './lamp-placing';
import { LampSelection } from './lamp-selection';
import { Live } from './live';
import { PictureState } from './picture-state';
import { Revisions } from './revisions';
import { SceneState } from './scene-state';
import { SectionHandles } from './section-handles';
import { SettingState } from './setting-state';
import { ThingHandles } from './thing-handles';

const spot: PlacedLamp = {
  kind: 'lamp', name: 'Spot', circuit: 'Placed here', type: 'Spot', position: [1, 0, 3], direction: [0, 0, -1], turnDeg: 0,
  form: { kind: 'spot', radiusM: 0.03, beamDeg: 24, fieldDeg: 42 }, power: { unit: 'lm', value: 800 }, colour: { kelvin: 3000 },
}; // prettier-ignore
const BENCH: ThingKind = { id: 'bench', name: 'Bench', group: 'street', tags: [], states: [], materials: [], forms: [{ id: 'one', name: '', heightM: 1, acrossM: 2, triangles: 1, parts: [{ mesh: 'm', material: 'm' }] }] }; // prettier-ignore
const bench: SetThing = { name: 'Bench', layer: 'Entourage', of: [{ kind: 'bench', share: 1 }], pattern: { kind: 'one' }, size: 1, spread: 0, seed: 1, members: [4, 5, 0.5] }; // prettier-ignore

let live: PlayedLive;
let injector: EnvironmentInjector;
beforeEach(() => {
  live = new PlayedLive();
  NO_THINGS.useValue.kinds$.next(new Map([[BENCH.id, BENCH]]));
  injector = createEnvironmentInjector(
    [{ provide: Live, useValue: live }, Areas, PictureState, Revisions, SceneState, NO_THINGS, LampSelection, LampPlacing, SettingState, LampHandles, ThingHandles, SectionHandles, Handlings],
    null as unknown as EnvironmentInjector,
  ); // prettier-ignore
});
const handling = () => injector.get(Handlings).handling();

describe('what handles hold', () => {
  it('is nothing until something is chosen', () => {
    live.put('thing/a', spot);
    live.put('set/b', bench);
    expect(handling()).toEqual({ outlines: [], held: undefined });
    expect(injector.get(Handlings).isEmpty()).toBe(true);
  });

  it('is a lamp that is chosen: seen while it is dragged, a step once it is let go', () => {
    live.put('thing/a', spot);
    injector.get(LampSelection).choose(['a']);
    const { held, outlines } = handling();
    expect(outlines).toMatchObject([{ isChosen: true }]);
    expect(held).toMatchObject({ words: 'one lamp', modes: { rotate: { own: true } } });
    expect(held!.frame.slice(12, 15)).toEqual([1, 0, 3]);
    held!.preview(translation(0, 2, 0));
    expect([...injector.get(SceneState).lightingPreview$.value!.values()]).toMatchObject([{ position: [1, 2, 3] }]);
    expect(live.commands).toEqual([]);
    held!.put(translation(0, 2, 0), 'translate');
    expect(live.commands).toMatchObject([
      { lamps: [{ id: 'a', lamp: { position: [1, 2, 3], direction: [0, 0, -1] } }], name: 'Spot moved' },
    ]);
    expect(injector.get(SceneState).lightingPreview$.value).toBeUndefined();
  });

  it('is a thing that is open in its station: it stands on the ground it is moved to, or where it is lifted to', async () => {
    injector.get(PictureState).surveys$.subscribe(({ places, resolve }) => {
      const count = places.length / 3;
      resolve({ z: new Float64Array(count).fill(0.7), family: new Uint8Array(count).fill(FAMILIES.indexOf('paving')), surface: new Int32Array(count) }); // prettier-ignore
    });
    live.put('set/b', bench);
    const setting = injector.get(SettingState);
    setting.open.set('b');
    expect(handling().held).toBeUndefined();
    setting.look(true);
    const { held, outlines } = handling();
    expect(held).toMatchObject({ words: 'Bench', modes: { rotate: { axes: 'z' }, scale: { own: false } } });
    // A ring, its height, and where it looks.
    expect(outlines[0]!.segments).toHaveLength(26);
    const last = () => live.commands.flatMap((command) => (command.type === 'set-things' ? command.sets : [])).at(-1)!.thing!;
    held!.put(translation(1, 0, 0), 'translate');
    await expect.poll(() => live.commands.length).toBe(1);
    expect(last().members).toEqual([5, 5, 0.7]);
    held!.put(translation(0, 0, 2), 'translate');
    expect(last().members).toEqual([4, 5, 2.5]);
    // It was turned by where it stands: it keeps that turn, though it stands elsewhere.
    const turned = setting.sets()[0]!.members[0]!.transform;
    expect(last().turnDeg).toBeCloseTo((Math.atan2(turned[1]!, turned[0]!) * 180) / Math.PI, 1);
    setting.act('b', 'move');
    expect(handling().held).toBeUndefined();
  });

  it('is the section whose card is open, while it is shown', () => {
    live.put('section/s', { name: 'A', cut: { kind: 'plane', normal: [0, 0, 1], offsetM: 1 } });
    injector.get(SectionHandles).open.set('s');
    expect(handling().held).toBeUndefined();
    injector.get(PictureState).sections$.next(['s']);
    const { held } = handling();
    expect(held).toMatchObject({ words: 'A', modes: { translate: { axes: 'z', own: true } } });
    held!.preview(translation(0, 0, 0.5));
    expect(injector.get(SceneState).sectionPreview$.value).toMatchObject({ id: 's', section: { cut: { offsetM: 1.5 } } });
    held!.put(translation(0, 0, 0.5), 'translate');
    expect(live.commands).toMatchObject([{ type: 'keep-section', id: 's', section: { name: 'A', cut: { offsetM: 1.5 } } }]);
    expect(injector.get(SceneState).sectionPreview$.value).toBeUndefined();
  });
});
