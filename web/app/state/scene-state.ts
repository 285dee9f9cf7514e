import { inject, Injectable } from '@angular/core';
import { auditTime, BehaviorSubject, combineLatest, combineLatestWith, distinctUntilChanged, map, shareReplay, Subject, tap } from 'rxjs';
import { walkOf } from '../../../core/camera/walk';
import { isLit, WalkLight } from '../../../core/camera/walk-light';
import type { Finish } from '../../../core/finish/finish';
import {
  assignmentKey,
  DEFAULT_EXPOSURE,
  DEFAULT_FOLLOW,
  entry,
  type Entries,
  type EntryTypes,
  type Exposure,
} from '../../../core/project/project';
import { placedSources } from '../../../core/project/placed-sources';
import { cutsOf, type Section } from '../../../core/project/sections';
import { NO_DRAWING, sameDrawing, type Drawing } from '../../../core/project/style';
import { entriesUnder, timeOfCondition } from '../../../core/project/under';
import { withSetting } from '../../../core/project/setting-source';
import { SettingModel } from '../../../core/setting/setting-model';
import { gradingOf } from '../../../core/scene/grading-of';
import { momentOf, skyInputOf } from '../../../core/scene/moment';
import { differOnlyIn, makeSameScene, SceneCompiler } from '../../../core/scene/compile';
import { Areas } from './areas';
import { Live } from './live';
import { PictureState } from './picture-state';
import { Revisions } from './revisions';
import { ThingLibrary } from './thing-library';

/** Decisions that say nothing of where sources stand and in which order. */
const NO_PLACE = /^(?!placement\/|set\/|land\/|stand-ins$|source-order$)/;

/** A finish that is shown on source materials before anybody has decided. */
export interface FinishPreview {
  on: readonly { source: string; material: string }[];
  finish: string;
}

/** What both pictures show, from what the models hold and the person has decided. */
@Injectable({ providedIn: 'root' })
export class SceneState {
  private readonly live = inject(Live);
  private readonly compiler = new SceneCompiler();
  readonly preview$ = new BehaviorSubject<FinishPreview | undefined>(undefined);
  /** A finish while one of its controls is being dragged. */
  readonly finishPreview$ = new BehaviorSubject<Finish | undefined>(undefined);
  /** The sun while its handle is being dragged. */
  readonly sunPreview$ = new BehaviorSubject<{ date: string; minutes: number } | undefined>(undefined);

  /** Rows of the luminaire schedule while a level is being dragged. */
  readonly lightingPreview$ = new BehaviorSubject<ReadonlyMap<string, unknown> | undefined>(undefined);

  /** Sky and weather while one of their controls is being dragged. */
  readonly skyPreview$ = new BehaviorSubject<Partial<Pick<EntryTypes, 'sky' | 'weather'>> | undefined>(undefined);
  /** Lines and paper while they are being dragged. */
  readonly drawingPreview$ = new BehaviorSubject<Drawing | undefined>(undefined);
  /** A section while it is being dragged. */
  readonly sectionPreview$ = new BehaviorSubject<{ id: string; section: Section } | undefined>(undefined);
  /** Exposure and development while one of their controls is being dragged. */
  readonly developmentPreview$ = new BehaviorSubject<Partial<Pick<EntryTypes, 'exposure' | 'grading'>> | undefined>(undefined);

  /** The picture is shown as it was before this page's last step, for as long as that is asked for. */
  readonly showsBefore$ = new BehaviorSubject(false);
  private readonly picture = inject(PictureState);
  /** What the walk that is open is seen under at its moment, to the minute, where its stops tell that. */
  private readonly under$ = combineLatest([this.picture.openWalk$, this.live.entries$]).pipe(
    map(([walk, entries]) =>
      walk && walk.stops.length > 1 && isLit(walk) ? new WalkLight(walkOf(walk), (id) => timeOfCondition(entries, id)) : undefined,
    ),
    combineLatestWith(this.picture.walkAt$),
    map(([light, seconds]) => light?.at(seconds)),
    map((under) => under && { ...under, ...(under.minutes !== undefined && { minutes: Math.round(under.minutes) }) }),
    distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
  );
  private readonly decided$ = combineLatest([this.live.entries$, this.live.before$, this.showsBefore$, this.under$]).pipe(
    map(([entries, before, shows, under]) => {
      const decided = shows && before ? before : entries;
      return (under && entriesUnder(decided, under)) ?? decided;
    }),
    distinctUntilChanged(),
  );

  /** Decisions with what is only tried. */
  readonly entries$ = combineLatest([
    this.decided$,
    this.preview$,
    this.sunPreview$,
    this.finishPreview$,
    this.lightingPreview$,
    this.developmentPreview$,
    this.skyPreview$,
  ]).pipe(
    map(([entries, preview, sun, finish, lighting, development, sky]): Entries => {
      if (!preview && !sun && !finish && !lighting && !development && !sky) return entries;
      const shown = new Map(entries);
      for (const { source, material } of preview?.on ?? []) shown.set(assignmentKey(source, material), { finish: preview!.finish, at: '' });
      for (const [key, value] of lighting ?? []) shown.set(key, value);
      for (const [key, value] of Object.entries({ ...development, ...sky })) shown.set(key, value);
      if (sun) shown.set('sun', sun);
      if (finish) shown.set(`finish/${finish.id}`, finish);
      return shown;
    }),
    shareReplay(1),
  );
  private readonly setting = new SettingModel();
  /** Models where they are placed, in their order, and what is set about them. */
  readonly sources$ = combineLatest([
    inject(Revisions).models$,
    this.live.entries$.pipe(distinctUntilChanged((a, b) => a === b || differOnlyIn(NO_PLACE, a, b))),
    inject(ThingLibrary).kinds$,
    // Boxes of meshes are asked for by stand-ins alone.
    combineLatest([this.live.entries$, inject(Areas).bounds$]).pipe(
      map(([entries, bounds]) => ((entry(entries, 'stand-ins') ?? []).length > 0 ? bounds : undefined)),
      distinctUntilChanged(),
    ),
  ]).pipe(
    map(([models, entries, kinds, bounds]) => {
      const placed = placedSources(
        [...models].map(([id, model]) => ({ id, model })),
        entries,
      );
      return withSetting(placed, entries, kinds, this.setting, (mesh) => bounds?.get(mesh));
    }),
    shareReplay(1),
  );

  /** Another scene is about to be compiled: whoever works on the present one may stop. */
  readonly changing$ = new Subject<void>();
  readonly scene$ = combineLatest([this.sources$, this.entries$.pipe(distinctUntilChanged(makeSameScene))]).pipe(
    tap(() => {
      this.changing$.next();
    }),
    auditTime(0),
    map(([sources, entries]) => this.compiler.compile(sources, entries)),
    shareReplay(1),
  );
  /** What the sections that are shown cut away. */
  readonly cuts$ = combineLatest([this.live.entries$, this.picture.sections$, this.sectionPreview$]).pipe(
    map(([entries, on, preview]) => cutsOf(preview ? new Map(entries).set(`section/${preview.id}`, preview.section) : entries, on)),
    distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
    shareReplay(1),
  );
  readonly moment$ = combineLatest([this.sources$, this.entries$]).pipe(
    auditTime(0),
    map(([sources, entries]) =>
      momentOf(
        sources.map((s) => s.model),
        entries,
      ),
    ),
    distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
    shareReplay(1),
  );
  readonly sky$ = this.moment$.pipe(
    map(skyInputOf),
    distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
    shareReplay(1),
  );
  readonly exposure$ = this.entries$.pipe(
    combineLatestWith(this.picture.viewName$),
    map(([entries, view]): Exposure => {
      const held = view === undefined ? undefined : entry(entries, `view-exposure/${view}`);
      return held ? { mode: 'fixed', ...held } : (entry(entries, 'exposure') ?? DEFAULT_EXPOSURE);
    }),
    distinctUntilChanged((a, b) => JSON.stringify(a) === JSON.stringify(b)),
    shareReplay(1),
  );
  readonly grading$ = this.entries$.pipe(
    map(gradingOf),
    distinctUntilChanged((a, b) => a.look === b.look && JSON.stringify(a.grading) === JSON.stringify(b.grading)),
    shareReplay(1),
  );
  /** Lines and paper over the picture. */
  readonly drawing$ = combineLatest([this.entries$, this.drawingPreview$]).pipe(
    map(([entries, preview]) => preview ?? entry(entries, 'drawing') ?? NO_DRAWING),
    distinctUntilChanged(sameDrawing),
    shareReplay(1),
  );
  readonly follow$ = this.live.entries$.pipe(
    map((entries) => entry(entries, 'follow') ?? DEFAULT_FOLLOW),
    distinctUntilChanged((a, b) => a.camera === b.camera && a.time === b.time),
    shareReplay(1),
  );
}
