import { inject, Injectable } from '@angular/core';
import { firstValueFrom, timer } from 'rxjs';
import type { CircuitRow, LampRow, TypeRow } from '../../../core/project/lighting';
import { entry } from '../../../core/project/project';
import { SceneCompiler } from '../../../core/scene/compile';
import { PictureState } from './picture-state';
import { SceneState } from './scene-state';

/** Has the light of a row of lamps known by itself before its level is dragged, so that the picture follows at once. */
@Injectable({ providedIn: 'root' })
export class LevelLayers {
  private readonly picture = inject(PictureState);
  private readonly scene = inject(SceneState);
  private readonly compiler = new SceneCompiler();

  /** Somebody is about to drag a row's level. */
  async prepare(row: CircuitRow | TypeRow | LampRow): Promise<void> {
    // The scene that this moment's steps make is compiled first.
    await firstValueFrom(timer(0));
    const [sources, entries] = [await firstValueFrom(this.scene.sources$), await firstValueFrom(this.scene.entries$)];
    // What others that are lit alone hide gives nothing at any level.
    const solo = entry(entries, 'solo') ?? [];
    if (row.off || (row.level > 0 && row.litLm === 0) || (solo.length > 0 && !solo.includes(row.key))) return;
    const alone = new Map(entries).set(row.key, { ...entry(entries, row.key), level: 1 }).set('solo', [row.key]);
    const { lamps, instances } = this.compiler.compile(sources, alone);
    const emission = instances.map(({ lens, emissionScale }) => (lens ? emissionScale : 0));
    this.picture.levelLayer$.next({ row: row.key, level: row.level, lamps, emission });
  }

  show(row: string, level: number): void {
    this.picture.level$.next({ row, level });
  }
}
