import { inject, Injectable } from '@angular/core';
import { filter, firstValueFrom, map, Observable, take, tap } from 'rxjs';
import { cameraFrame } from '../../../core/camera/camera';
import type { Camera } from '../../../core/model/schema';
import { DEFAULT_EXPOSURE, entry, type Entries } from '../../../core/project/project';
import { makeSameScene, SceneCompiler } from '../../../core/scene/compile';
import { gradingOf } from '../../../core/scene/grading-of';
import { momentOf, skyInputOf } from '../../../core/scene/moment';
import { atMostSamples, smallPictureWidth } from './picture-limits';
import { PictureState } from './picture-state';
import { SceneState } from './scene-state';

/** A picture of what is seen now under the light of other decisions. */
export interface WantedProof {
  id: string;
  entries: Entries;
  /** Seen through another camera, in a picture of its own shape. */
  camera?: Camera;
  aspect?: number;
}

export interface Proof {
  id: string;
  /** URL of the picture. */
  picture: string;
}

/** Has small denoised pictures made, one after another; what is asked for later of the same lane takes their place. */
@Injectable({ providedIn: 'root' })
export class Proofs {
  private readonly picture = inject(PictureState);
  private readonly scene = inject(SceneState);
  private orders = 0;

  make(lane: string, wanted: readonly WantedProof[], width: number, samples: number): Observable<Proof> {
    const order = `${lane} ${String(++this.orders)} `;
    return new Observable<Proof>((subscriber) => {
      let isWhole = false;
      const made = this.picture.proof$
        .pipe(
          filter((proof) => proof.lane === lane && proof.id.startsWith(order)),
          map(({ id, ...proof }) => ({ id: id.slice(order.length), picture: asUrl(proof) })),
          take(wanted.length),
          tap({ complete: () => (isWhole = true) }),
        )
        .subscribe(subscriber);
      void this.ask(lane, order, wanted, smallPictureWidth(width), atMostSamples(samples));
      return () => {
        made.unsubscribe();
        if (!isWhole) this.picture.proofsWanted$.next({ lane, proofs: [] });
      };
    });
  }

  private async ask(lane: string, order: string, wanted: readonly WantedProof[], width: number, samples: number): Promise<void> {
    const [sources, now] = [await firstValueFrom(this.scene.sources$), await firstValueFrom(this.scene.entries$)];
    const compiler = new SceneCompiler();
    const size = this.picture.size$.value;
    const proofs = wanted.map(({ id, entries, camera, aspect = size.width / size.height }) => {
      const lit = makeSameScene(entries, now) ? undefined : compiler.compile(sources, entries);
      return {
        id: order + id,
        width,
        height: Math.max(1, Math.round(width / aspect)),
        ...(camera && { frame: cameraFrame(camera, aspect) }),
        samples,
        sky: skyInputOf(momentOf(sources.map(({ model }) => model), entries)), // prettier-ignore
        exposure: entry(entries, 'exposure') ?? DEFAULT_EXPOSURE,
        grading: gradingOf(entries),
        ...(lit && { lamps: { lamps: lit.lamps, emission: lit.instances.map(({ emissionScale }) => emissionScale) } }),
      };
    });
    this.picture.proofsWanted$.next({ lane, proofs });
  }
}

function asUrl({ width, height, rgba }: { width: number; height: number; rgba: Uint8ClampedArray<ArrayBuffer> }): string {
  const canvas = Object.assign(document.createElement('canvas'), { width, height });
  canvas.getContext('2d')!.putImageData(new ImageData(rgba, width, height), 0, 0);
  return canvas.toDataURL('image/jpeg', 0.9);
}
