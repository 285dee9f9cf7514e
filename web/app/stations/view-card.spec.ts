import { expect, it } from 'vitest';
import type { Camera } from '../../../core/model/schema';
import { onStage, typed } from '../testing/station';
import { ViewCard } from './view-card';

interface Parts {
  setFocal(event: Event): void;
  lift(event: Event): void;
  upright(): void;
  open(fNumber: number): void;
  focus(event: Event): void;
  pick(): void;
  project(kind: string): void;
  shape(words: string): void;
  sharp(): string;
  warnings(): string[];
}

function stage() {
  const stage = onStage<Parts>(ViewCard);
  const cameras: Camera[] = [];
  stage.picture.goTo$.subscribe(({ camera }) => {
    cameras.push(camera);
    stage.picture.camera$.next(camera);
  });
  return { ...stage, cameras, last: () => cameras.at(-1)! };
}

it('takes a focal length between 10 and 200 mm and no other', () => {
  const { part, cameras } = stage();
  for (const text of ['35', '9', '201', 'wide', '', '200']) part.setFocal(typed(text));
  expect(cameras.map(({ focalMm }) => focalMm)).toEqual([35, 200]);
});

it('lifts the eye with what it looks at, and warns of what misleads', () => {
  const { part, last } = stage();
  part.lift(typed('3'));
  expect(last().position[2]).toBe(3);
  expect(last().target[2]).toBeCloseTo(3.95, 9);
  expect(part.warnings()).toEqual([expect.stringContaining('From 3.0 m nobody stands there')]);
  part.setFocal(typed('16'));
  expect(part.warnings()[0]).toContain('Under 20 mm');
  part.project('plan');
  expect(part.warnings()).toEqual([]);
});

it('keeps verticals upright, opens the lens, and is sharp where it is told or where one clicks', () => {
  const { part, picture, last } = stage();
  part.upright();
  part.open(2.8);
  expect(last()).toMatchObject({ upright: true, aperture: { fNumber: 2.8 } });
  expect(part.sharp()).toMatch(/^sharp from \d+\.\d m/);
  part.focus(typed('4.5'));
  expect(last().aperture).toEqual({ fNumber: 2.8, focusM: 4.5 });
  part.pick();
  const { position, target } = last();
  const way = target.map((to, axis) => to - position[axis]!);
  const length = Math.hypot(...way);
  picture.pointTaker$.value!({ point: position.map((from, axis) => from + (way[axis]! / length) * 7) } as never);
  expect(last().aperture!.focusM).toBeCloseTo(7, 2);
  expect(picture.pointTaker$.value).toBeUndefined();
  part.open(0);
  part.upright();
  expect(last()).toEqual({ position, target, focalMm: 26 });
});

it('is drawn in parallel and in perspective again, in a picture of another shape', () => {
  const { part, picture, last } = stage();
  part.project('parallel');
  expect(last().parallelM).toBeGreaterThan(10);
  part.project('perspective');
  expect(last().parallelM).toBeUndefined();
  part.shape('4:5');
  expect(picture.frame$.value).toEqual({ width: 1920, height: 2400 });
});
