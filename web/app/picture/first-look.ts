import { firstLookOf } from '../../../core/camera/overview';
import type { Bounds } from '../../../core/geometry/mesh';
import type { Model } from '../../../core/model/model';
import type { Camera } from '../../../core/model/schema';

/** What there is to look at. */
export interface Sight {
  models: Iterable<Pick<Model, 'camera' | 'cameras'>>;
  isEmpty: boolean;
  /** All of the building is there. */
  isWhole: () => boolean;
  bounds: () => Bounds | undefined;
  aspect: number;
}

/** Where one looks before anybody has moved: as the author does, from the first camera that a model brings, or as an architect would photograph it. */
export class FirstLook {
  private done = false;

  constructor(private camera: Camera) {}

  /** Where to look now; undefined: where one looks already. */
  at(now: Camera, { models, isEmpty, isWhole, bounds, aspect }: Sight): Camera | undefined {
    if (isEmpty) {
      // What comes next is another building.
      this.camera = now;
      this.done = false;
      return undefined;
    }
    this.done ||= now !== this.camera;
    const known = [...models];
    if (this.done || known.length === 0) return undefined;
    const brought = known.map(({ camera, cameras }) => camera ?? cameras.values().next().value).find((c) => c !== undefined);
    // What is still to come may reach further.
    this.done = brought !== undefined || isWhole();
    const box = brought ? undefined : bounds();
    const wanted = brought ?? (box && firstLookOf(box, aspect));
    if (!wanted) return undefined;
    const { position, target, focalMm } = wanted;
    const camera = { position, target, focalMm };
    if (JSON.stringify(camera) === JSON.stringify(now)) return undefined;
    return (this.camera = camera);
  }
}
