import '@angular/compiler';
import { createEnvironmentInjector, ElementRef, EnvironmentInjector, type InputSignal, type Type } from '@angular/core';
import { SIGNAL } from '@angular/core/primitives/signals';
import { BehaviorSubject, Subject } from 'rxjs';
import type { HistoryRow, PrintsNow, SourceSummary } from '../../../core/project/live';
import type { Model } from '../../../core/model/model';
import type { Command } from '../../../core/project/command';
import type { Entries } from '../../../core/project/project';
import { Areas } from '../state/areas';
import { Controls } from '../state/controls';
import { Findings } from '../state/findings';
import { Revisions } from '../state/revisions';
import { Live } from '../state/live';
import { LightTable } from '../state/light-table';
import { PictureState } from '../state/picture-state';
import { Proofs } from '../state/proofs';
import { ViewThumbnails } from '../state/view-thumbnails';
import { ViewBeside } from '../state/view-beside';
import { ViewGoer } from '../state/views';
import { PrintOrders } from '../state/print-orders';
import { QuickRecording } from '../state/quick-recording';
import { PrintSettings } from '../state/print-settings';
import { Favourites } from '../state/favourites';
import { PersonalLibrary } from '../state/personal-library';
import { PreviewQueue } from '../state/previews';
import { ScheduleState } from '../state/schedule-state';
import { SectionHandles } from '../state/section-handles';
import { SceneState } from '../state/scene-state';
import { LandState } from '../state/land-state';
import { SettingState } from '../state/setting-state';
import type { ThingKinds } from '../../../core/setting/setting-model';
import { ThingLibrary } from '../state/thing-library';

/** The live connection, played: what a test puts in arrives, what a station asks for is written down. */
export class PlayedLive {
  readonly project$ = new BehaviorSubject({ name: 'Marram Landing', linkToken: 'token', watchFolders: [] as string[] });
  readonly entries$ = new BehaviorSubject<Entries>(new Map());
  readonly before$ = new BehaviorSubject<Entries | undefined>(undefined);
  readonly models$ = new BehaviorSubject<ReadonlyMap<string, Model>>(new Map());
  readonly sources$ = new BehaviorSubject<readonly SourceSummary[]>([]);
  readonly prints$ = new BehaviorSubject<PrintsNow>({
    prints: [],
    deliveries: [],
    paused: false,
    samplesPerSecond: 100_000,
    makesFilms: true,
  });
  readonly history$ = new BehaviorSubject<readonly HistoryRow[]>([]);
  readonly refusals$ = new Subject<string>();
  readonly commands: Command[] = [];

  run(command: Command): void {
    this.commands.push(command);
  }

  put(key: string, value: unknown): void {
    this.entries$.next(new Map(this.entries$.value).set(key, value));
  }
}

export interface Stage<T> {
  /** The component's class without its template; what templates may call is open to tests too. */
  part: T;
  live: PlayedLive;
  picture: PictureState;
  scene: SceneState;
  areas: Areas;
  schedule: ScheduleState;
  /** Takes the component off the sheet. */
  leave: () => void;
}

/** A library that is still to be fetched. */
export const NO_THINGS = {
  provide: ThingLibrary,
  useValue: { kinds$: new BehaviorSubject<ThingKinds>(new Map()), own$: new BehaviorSubject([]) },
};

/** A part of the sheet over played services. `Parts` names the protected members that the test uses. */
export function onStage<Parts>(component: Type<unknown>, prepare: (live: PlayedLive) => void = () => undefined): Stage<Parts> {
  const live = new PlayedLive();
  prepare(live);
  const injector = createEnvironmentInjector(
    [
      { provide: Live, useValue: live },
      { provide: ElementRef, useValue: new ElementRef({ querySelector: () => null }) },
      LightTable,
      PictureState,
      Proofs,
      ViewBeside,
      ViewGoer,
      ViewThumbnails,
      PrintOrders,
      PrintSettings,
      SectionHandles,
      QuickRecording,
      SettingState,
      LandState,
      NO_THINGS,
      SceneState,
      Areas,
      ScheduleState,
      Controls,
      Favourites,
      PersonalLibrary,
      PreviewQueue,
      Findings,
      Revisions,
      component,
    ],
    null as unknown as EnvironmentInjector,
  );
  return {
    part: injector.get(component) as Parts,
    live,
    picture: injector.get(PictureState),
    scene: injector.get(SceneState),
    areas: injector.get(Areas),
    schedule: injector.get(ScheduleState),
    leave: () => {
      injector.destroy();
    },
  };
}

/** An event of a control that holds a value. */
export const typed = (value: string): Event =>
  ({ target: { value, checked: value === 'on' }, preventDefault: () => undefined }) as unknown as Event;

/** Sets an input of a component that stands outside any template. */
export function give<T>(input: InputSignal<T>, value: T): void {
  const node = input[SIGNAL];
  node.applyValueToInputSignal(node, value);
}
