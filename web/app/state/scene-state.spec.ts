import { firstValueFrom, skip, timeout } from 'rxjs';
import { beforeEach, describe, expect, it } from 'vitest';
import { FINISHES } from '../../../core/finish/library';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange, testElement } from '../../../core/model/testing';
import { assignmentKey } from '../../../core/project/project';
import { onStage, type PlayedLive } from '../testing/station';
import type { NumberedScene } from '../../../core/scene/compile';
import { SceneState } from './scene-state';

/** What both pictures are told, from models, decisions and what is only being tried. */

const model = applyChange(
  EMPTY_MODEL,
  testChange({
    materials: [{ id: 'wall', name: 'Putz', colour: [1, 1, 1] }],
    elements: [testElement('w', { parts: [{ mesh: 'a'.repeat(64), material: 'wall' }] })],
    site: { name: 'Quay', latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 4, trueNorthDeg: -12 },
    time: '2026-06-21T09:30',
  }),
);

let live: PlayedLive;
let state: SceneState;
beforeEach(() => {
  ({ live, scene: state } = onStage(SceneState, (played) => { played.models$.next(new Map([['s', model]])); })); // prettier-ignore
});

const sceneNow = () => firstValueFrom(state.scene$);
const finishNow = async () => (await sceneNow()).instances[0]!.finish;
const put = (key: string, value: unknown) => {
  live.entries$.next(new Map(live.entries$.value).set(key, value));
};

describe('the scene', () => {
  it('follows models and decisions', async () => {
    expect((await finishNow()).id).toBe('plaster');
    const next = firstValueFrom(state.scene$.pipe(skip(1), timeout(60_000)));
    put(assignmentKey('s', 'wall'), { finish: 'oak', at: '' });
    expect((await next).instances[0]!.finish.id).toBe('oak');
    const gone = firstValueFrom(state.scene$.pipe(skip(1), timeout(60_000)));
    live.models$.next(new Map());
    expect((await gone).instances).toEqual([]);
  });

  it('is compiled only for what it is made of: not for sun, exposure, views or notes, and by a step for a finish', async () => {
    const scenes: NumberedScene[] = [];
    const subscription = state.scene$.subscribe((scene) => scenes.push(scene));
    await expect.poll(() => scenes.length).toBe(1);
    put('exposure', { mode: 'fixed', ev100: 11 });
    put('view/v', { name: 'Here', position: [0, 0, 0], target: [1, 0, 0], focalMm: 35 });
    put('note/s/wall', { code: 'W1', note: 'as the sample' });
    for (let minutes = 600; minutes < 640; minutes++) {
      state.sunPreview$.next({ date: '2026-10-16', minutes });
      put('sun', { date: '2026-10-16', minutes });
    }
    await expect.poll(async () => (await firstValueFrom(state.moment$)).sun.minutes).toBe(639);
    expect(scenes).toHaveLength(1);
    state.sunPreview$.next(undefined);
    put('finish/plaster', { ...FINISHES.find(({ id }) => id === 'plaster')!, roughness: 0.31 });
    await expect.poll(() => scenes.length).toBe(2);
    expect(scenes[1]!.step).toMatchObject({ from: scenes[0]!.number });
    expect(scenes[1]!.step!.added.map(({ finish }) => finish.roughness)).toEqual([0.31]);
    subscription.unsubscribe();
  });

  it('is shown as it was before the last step, for as long as that is asked for', async () => {
    live.before$.next(live.entries$.value);
    live.put('assign/s/wall', { finish: 'brick', at: '' });
    const subscription = state.scene$.subscribe();
    await expect.poll(async () => (await finishNow()).id).toBe('brick');
    state.showsBefore$.next(true);
    await expect.poll(async () => (await finishNow()).id).toBe('plaster');
    state.showsBefore$.next(false);
    await expect.poll(async () => (await finishNow()).id).toBe('brick');
    subscription.unsubscribe();
  });

  it('shows a finish that is only held over it, and takes it back, without deciding anything', async () => {
    const subscription = state.scene$.subscribe();
    state.preview$.next({ on: [{ source: 's', material: 'wall' }], finish: 'brick' });
    await expect.poll(async () => (await finishNow()).id).toBe('brick');
    expect(live.entries$.value.size).toBe(0);
    state.preview$.next(undefined);
    await expect.poll(async () => (await finishNow()).id).toBe('plaster');
    subscription.unsubscribe();
  });

  it('shows a parameter while its control is dragged', async () => {
    const subscription = state.scene$.subscribe();
    const plaster = FINISHES.find((f) => f.id === 'plaster')!;
    state.finishPreview$.next({ ...plaster, roughness: 0.123 });
    await expect.poll(async () => (await finishNow()).roughness).toBe(0.123);
    state.finishPreview$.next(undefined);
    await expect.poll(async () => (await finishNow()).roughness).toBe(plaster.roughness);
    subscription.unsubscribe();
  });
});

describe('the moment', () => {
  const altitude = async () => (await firstValueFrom(state.moment$)).position.altitudeDeg;

  it('follows the sun’s handle while it is dragged', async () => {
    const subscription = state.moment$.subscribe();
    const before = await altitude();
    state.sunPreview$.next({ date: '2026-06-21', minutes: 780 });
    await expect.poll(altitude).toBeGreaterThan(before + 20);
    state.sunPreview$.next(undefined);
    await expect.poll(altitude).toBeCloseTo(before, 6);
    subscription.unsubscribe();
  });

  it('follows the author’s time once that is switched on', async () => {
    const subscription = state.moment$.subscribe();
    expect((await firstValueFrom(state.moment$)).followed).toBe(false);
    put('follow', { camera: false, time: true });
    await expect.poll(async () => (await firstValueFrom(state.moment$)).sun).toEqual({ date: '2026-06-21', minutes: 570 });
    subscription.unsubscribe();
  });

  it('sets the sky anew only when sun or north have changed', async () => {
    let skies = 0;
    const subscription = state.sky$.subscribe(() => skies++);
    await expect.poll(() => skies).toBe(1);
    put('exposure', { mode: 'fixed', ev100: 11 });
    put(assignmentKey('s', 'wall'), { finish: 'oak', at: '' });
    await expect.poll(async () => (await finishNow()).id).toBe('oak');
    expect(skies).toBe(1);
    put('sun', { date: '2026-10-16', minutes: 600 });
    await expect.poll(() => skies).toBe(2);
    subscription.unsubscribe();
  });
});

describe('exposure and following', () => {
  it('have sound values before anybody decides, and tell only what changes', async () => {
    expect(await firstValueFrom(state.exposure$)).toMatchObject({ mode: 'auto' });
    expect(await firstValueFrom(state.follow$)).toEqual({ camera: false, time: false });
    const told: unknown[] = [];
    const subscription = state.exposure$.subscribe((value) => told.push(value));
    put('exposure', { mode: 'fixed', ev100: 11 });
    put('sun', { date: '2026-10-16', minutes: 1 });
    put('exposure', { mode: 'fixed', ev100: 11 });
    expect(told).toEqual([expect.objectContaining({ mode: 'auto' }), { mode: 'fixed', ev100: 11 }]);
    subscription.unsubscribe();
  });
});
