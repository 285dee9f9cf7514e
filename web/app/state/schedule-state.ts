import { computed, inject, Injectable, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, distinctUntilChanged, map } from 'rxjs';
import type { Finish } from '../../../core/finish/finish';
import type { Model } from '../../../core/model/model';
import { LAND_MATERIALS } from '../../../core/setting/land';
import { SETTING } from '../../../core/setting/setting-model';
import { allFinishes, findFinish } from '../../../core/project/project';
import { scheduleRows, type ScheduleRow } from '../../../core/project/schedule';
import { Areas } from './areas';
import { Live } from './live';
import { SceneState } from './scene-state';

/** The rows of the finish schedule, and what its parts tell each other. */
@Injectable({ providedIn: 'root' })
export class ScheduleState {
  private readonly live = inject(Live);
  private readonly scene = inject(SceneState);
  private readonly areas = inject(Areas);
  private readonly models = toSignal(this.live.models$, { requireSync: true });
  private readonly sources = toSignal(this.live.sources$, { requireSync: true });
  readonly entries = toSignal(this.live.entries$, { requireSync: true });
  /** Ground that was shaped has finishes as the models have; things of the library look as they come. */
  private readonly setting$ = this.scene.sources$.pipe(
    map((sources) => sources.find(({ id }) => id === SETTING)?.model),
    distinctUntilChanged(),
    map((model): [string, Model][] => (model ? [[SETTING, groundOf(model)]] : [])),
  );
  readonly rows = toSignal(
    combineLatest([this.live.models$, this.setting$, this.live.entries$, this.areas.areas$]).pipe(
      map(([models, setting, entries, areas]) =>
        [...models, ...setting].flatMap(([source, model]) => scheduleRows(source, model, areas, entries)),
      ),
    ),
    { initialValue: [] as ScheduleRow[] },
  );
  readonly finishes = computed(() => allFinishes(this.entries()));
  /** Key of the row whose card is open. */
  readonly opened = signal<string | undefined>(undefined);
  /** Keys of the rows that are worked on together. */
  readonly chosen = signal<ReadonlySet<string>>(new Set());
  /** The rows that the library gives to: those that are chosen, or else the one that is open. */
  readonly recipients = computed(() => {
    const chosen = this.rows().filter((row) => this.chosen().has(row.key));
    return chosen.length > 0 ? chosen : this.rows().filter((row) => row.key === this.opened());
  });

  nameOfSource(id: string): string {
    if (id === SETTING) return 'Setting';
    return this.sources().find((s) => s.id === id)?.name ?? id;
  }

  /** Linked models with the names of their files. */
  files() {
    return [...this.models()].map(([id, model]) => ({ id, name: this.nameOfSource(id), model }));
  }

  /** A finish for rows, or with '' none but what their names say. */
  assign(rows: readonly ScheduleRow[], finish: string): void {
    this.endPreview();
    const [first] = rows;
    if (!first) return;
    if (rows.length === 1) {
      this.live.run({ type: 'assign-finish', source: first.source, material: first.material, finish: finish || null });
      return;
    }
    this.live.run({
      type: 'assign-many',
      assignments: rows.map(({ source, material }) => ({ source, material, finish: finish || null })),
      name: (finish && findFinish(this.entries(), finish)?.name) || 'Back to the guess',
    });
  }

  /** A new finish, assigned by the recipients. */
  make(finish: Finish): void {
    this.live.run({
      type: 'make-finishes',
      finishes: [finish],
      on: this.recipients().map(({ source, material }) => ({ source, material })),
    });
  }

  /** Shows a finish on the recipients before anybody has decided. */
  preview(finish: string): void {
    const rows = this.recipients();
    if (rows.length === 0 || this.scene.preview$.value?.finish === finish) return;
    this.scene.preview$.next({ on: rows.map(({ source, material }) => ({ source, material })), finish });
  }

  endPreview(): void {
    if (this.scene.preview$.value) this.scene.preview$.next(undefined);
  }
}

const groundOf = (model: Model): Model => ({
  ...model,
  materials: new Map([...model.materials].filter(([id]) => id.startsWith(LAND_MATERIALS))),
  elements: new Map([...model.elements].filter(([, { parts }]) => parts.some(({ material }) => material.startsWith(LAND_MATERIALS)))),
});
