import '@angular/compiler';
import { createEnvironmentInjector, type EnvironmentInjector } from '@angular/core';
import { BehaviorSubject, of, Subject } from 'rxjs';
import { expect, it } from 'vitest';
import { EMPTY_MODEL } from '../../../core/model/model';
import { PlayedLive } from '../testing/station';
import { Live } from './live';
import { PictureState } from './picture-state';
import { Proofs, type WantedProof } from './proofs';
import { SceneState } from './scene-state';
import { ViewBeside, type Beside } from './view-beside';

it('the picture of a view is made anew with every change, and the last one stays until then', async () => {
  const live = new PlayedLive();
  const scene = {
    entries$: live.entries$,
    sources$: of([{ id: 's', model: EMPTY_MODEL }]),
    scene$: new BehaviorSubject({ instances: [{}] }),
  };
  const asked: { wanted: readonly WantedProof[]; made$: Subject<{ id: string; picture: string }> }[] = [];
  const proofs = { make: (_: string, wanted: readonly WantedProof[]) => { const made$ = new Subject<{ id: string; picture: string }>(); asked.push({ wanted, made$ }); return made$; } }; // prettier-ignore
  const injector = createEnvironmentInjector(
    [
      { provide: Live, useValue: live },
      { provide: SceneState, useValue: scene },
      { provide: Proofs, useValue: proofs },
      PictureState,
      ViewBeside,
    ],
    null as unknown as EnvironmentInjector,
  );
  const [beside, picture] = [injector.get(ViewBeside), injector.get(PictureState)];
  live.put('view/v', { name: 'Door', position: [0, 0, 1.6], target: [0, 5, 1.6], focalMm: 24, frame: { width: 1000, height: 500 } });
  const seen: (Beside | undefined)[] = [];
  beside.shown$.subscribe((now) => seen.push(now));
  expect(seen).toEqual([undefined]);
  beside.turn('v');
  await expect.poll(() => seen.length).toBe(2);
  expect(seen[1]).toMatchObject({ view: { name: 'Door' }, aspect: 2, picture: undefined });
  // Not before the picture that is looked at has begun.
  expect(asked).toEqual([]);
  picture.status$.next({ state: 'refining', progress: 0.2, fault: null });
  expect(asked[0]!.wanted).toMatchObject([{ camera: { focalMm: 24 }, aspect: 2 }]);
  asked[0]!.made$.next({ id: 'v', picture: 'first' });
  expect(seen.at(-1)).toMatchObject({ picture: 'first' });
  live.put('sun', { date: '2026-06-01', minutes: 600 });
  await expect.poll(() => asked.length).toBe(2);
  expect(seen.at(-1)).toMatchObject({ picture: 'first' });
  asked[1]!.made$.next({ id: 'v', picture: 'second' });
  expect(seen.at(-1)).toMatchObject({ picture: 'second' });
  beside.turn('v');
  expect(seen.at(-1)).toBeUndefined();
});
