import { expect, it, vi } from 'vitest';
import { FAMILIES } from '../../../core/finish/finish';
import type { Camera } from '../../../core/model/schema';
import { onStage } from '../testing/station';
import { KeyPlan } from './key-plan';

interface Parts {
  find(): Promise<void>;
  storeys(): readonly number[];
  storey(): number;
  box(): { x: number; y: number; widthM: number; heightM: number } | undefined;
  go(place: readonly [number, number], towards?: readonly [number, number]): void;
  key(event: KeyboardEvent): void;
  level(metres: number): string;
}

/** A house of two storeys, 20 m square about the origin, on a meadow. */
function stage() {
  const stage = onStage<Parts>(KeyPlan);
  stage.picture.surveys$.subscribe(({ places, headroomM, resolve }) => {
    const count = places.length / 3;
    const isIn = (i: number) => Math.abs(places[i * 3]!) < 10 && Math.abs(places[i * 3 + 1]!) < 10;
    const height = (i: number) => {
      const from = places[i * 3 + 2]!;
      if (!isIn(i)) return 0;
      if (headroomM === undefined && from > 6.5) return 6.5;
      return from > 3.2 ? 3.2 : from > 0.1 ? 0.1 : NaN;
    };
    const z = Float64Array.from({ length: count }, (_, i) => height(i));
    resolve({
      z,
      family: Uint8Array.from({ length: count }, (_, i) => FAMILIES.indexOf(isIn(i) ? 'wood' : 'ground')),
      surface: new Int32Array(count),
    });
  });
  const cameras: Camera[] = [];
  stage.picture.goTo$.subscribe(({ camera }) => {
    cameras.push(camera);
    stage.picture.camera$.next(camera);
  });
  return { ...stage, cameras };
}

it('finds the building and its storeys, and shows the one that the eye is in', async () => {
  const { part, picture } = stage();
  picture.camera$.next({ position: [0, -15, 1.7], target: [0, 0, 1.7], focalMm: 30 });
  await part.find();
  expect(part.storeys()).toEqual([0.1, 3.2]);
  const { x, y, widthM, heightM } = part.box()!;
  expect([x < -10, y < -10, x + widthM > 10, y + heightM > 10]).toEqual([true, true, true, true]);
  expect(part.storey()).toBe(0);
  picture.camera$.next({ position: [0, 2, 4.85], target: [0, 9, 4.85], focalMm: 30 });
  expect(part.storey()).toBe(1);
});

it('goes where one clicks, at eye height of the storey, and looks where one drags', async () => {
  const { part, picture, cameras } = stage();
  picture.camera$.next({ position: [0, -15, 1.75], target: [0, 0, 1.75], focalMm: 30 });
  await part.find();
  part.go([3, 4]);
  expect(cameras[0]).toEqual({ position: [3, 4, 1.75], target: [3, 10, 1.75], focalMm: 30 });
  part.key({ key: 'PageUp', preventDefault: () => undefined } as KeyboardEvent);
  part.go([3, 4], [9, 4]);
  expect(cameras[1]!.position).toEqual([3, 4, expect.closeTo(4.85, 6)]);
  expect(cameras[1]!.target).toEqual([9, 4, expect.closeTo(4.85, 6)]);
});

it('looks again while nothing was found, as when the shapes of a model are still on their way', async () => {
  vi.useFakeTimers();
  const stage = onStage<Parts>(KeyPlan);
  let isThere = false;
  stage.picture.surveys$.subscribe(({ places, resolve }) => {
    const count = places.length / 3;
    const z = Float64Array.from({ length: count }, (_, i) => (isThere && Math.hypot(places[i * 3]!, places[i * 3 + 1]!) < 10 ? 3 : NaN));
    resolve({ z, family: new Uint8Array(count).fill(isThere ? FAMILIES.indexOf('wood') : 255), surface: new Int32Array(count) });
  });
  await stage.part.find();
  expect(stage.part.box()).toBeUndefined();
  isThere = true;
  stage.picture.frameShown$.next();
  await vi.advanceTimersByTimeAsync(3000);
  expect(stage.part.box()).toBeDefined();
  vi.useRealTimers();
});

it('writes levels with a minus that is one, and none before nought', () => {
  const { part } = stage();
  expect([-0.04, 0.1, -1.26, 3].map((z) => part.level(z))).toEqual(['0.0', '0.1', '−1.3', '3.0']);
});
