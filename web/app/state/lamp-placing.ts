import { inject, Injectable } from '@angular/core';
import { BehaviorSubject } from 'rxjs';
import { transformDirection, type Mat4 } from '../../../core/geometry/mat4';
import { dot, normalise, scale, subtract, type Vec3 } from '../../../core/geometry/vec3';
import { gridBetween, rowBetween, type LampForm, type PlacedLamp } from '../../../core/lamp/placed-lamp';
import { Live } from './live';
import { PictureState, type Pointed } from './picture-state';
import { SceneState } from './scene-state';

/** What is placed, and in which pattern, by the next clicks in the picture. */
export interface Placing {
  form: LampForm;
  name: string;
  pattern: 'one' | 'row' | 'grid';
  columns: number;
  rows: number;
  /** Metres below what was clicked; 0: on it. */
  hangsM: number;
}

const CLICKS = { one: 1, row: 2, grid: 3 } as const;
/** So far from the surface, m, that its light is not shut in by it. */
const CLEAR_M = 0.02;
const DOWN: Vec3 = [0, 0, -1];

/** Places lamps where somebody clicks in the picture, and aims and moves them so. */
@Injectable({ providedIn: 'root' })
export class LampPlacing {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  private models = new Map<string, ReadonlyMap<string, { transform: Mat4 }>>();
  readonly placing$ = new BehaviorSubject<Placing | undefined>(undefined);
  /** Points that were clicked for a row or a grid so far. */
  readonly clicked$ = new BehaviorSubject<readonly Pointed[]>([]);
  /** What the next click does with one lamp. */
  readonly acting$ = new BehaviorSubject<{ id: string; act: 'aim' | 'move' } | undefined>(undefined);
  private taker: ((point: Pointed) => void) | undefined;

  constructor() {
    inject(SceneState).sources$.subscribe((sources) => {
      this.models = new Map(sources.map(({ id, model }) => [id, model.elements]));
    });
  }

  begin(placing: Placing): void {
    this.acting$.next(undefined);
    this.placing$.next(placing);
    this.clicked$.next([]);
    this.take((pointed) => {
      this.click(pointed);
    });
  }

  act(id: string, act: 'aim' | 'move', lamp: PlacedLamp): void {
    this.end();
    this.acting$.next({ id, act });
    this.take((pointed) => {
      const aimed = subtract(pointed.point, lamp.position);
      const { position, direction, stands } = this.placeAt(pointed, 0);
      const after: PlacedLamp =
        act === 'move'
          ? { ...lamp, position: [...position], direction: [...direction], ...(stands && { stands }) }
          : { ...lamp, direction: [...normalise(aimed)] };
      if (act === 'move' || Math.hypot(...aimed) > 0.01)
        this.put([{ id, lamp: after }], `${lamp.name} ${act === 'aim' ? 'aimed' : 'moved'}`);
      this.end();
    });
  }

  end(): void {
    this.placing$.next(undefined);
    this.acting$.next(undefined);
    this.clicked$.next([]);
    this.take(undefined);
  }

  put(lamps: { id: string; lamp: PlacedLamp | null }[], name: string): void {
    this.live.run({ type: 'place-lamps', lamps, name: name.slice(0, 200) });
  }

  private click(pointed: Pointed): void {
    const placing = this.placing$.value!;
    const clicked = [...this.clicked$.value, pointed];
    this.clicked$.next(clicked);
    if (clicked.length < CLICKS[placing.pattern]) return;
    this.clicked$.next([]);
    const [first, second, third] = clicked.map((p) => this.placeAt(p, placing.hangsM));
    const places =
      placing.pattern === 'one'
        ? [first!.position]
        : placing.pattern === 'row'
          ? rowBetween(first!.position, second!.position, placing.columns)
          : gridBetween(first!.position, second!.position, third!.position, placing.columns, placing.rows);
    const lamps = places.map((position, i) => ({
      id: crypto.randomUUID(),
      lamp: this.made(placing, position, first!, places.length > 1 ? ` ${String(i + 1)}` : ''),
    }));
    this.put(lamps, lamps.length === 1 ? `${placing.name} placed` : `${String(lamps.length)} × ${placing.name} placed`);
  }

  private made(
    { form, name }: Placing,
    position: Vec3,
    { direction, stands }: ReturnType<LampPlacing['placeAt']>,
    number: string,
  ): PlacedLamp {
    return {
      kind: 'lamp', name: `${name}${number}`, circuit: 'Placed here', type: name, position: [...position], direction: [...direction], turnDeg: 0, form,
      power: { unit: 'lm', value: 800 }, colour: { kelvin: 3000 }, ...(stands && { stands }),
    }; // prettier-ignore
  }

  /** On the surface and away from it, or hanging below it. */
  private placeAt(pointed: Pointed, hangsM: number): { position: Vec3; direction: Vec3; stands: PlacedLamp['stands'] } {
    const { point, source, element } = pointed;
    const transform = this.models.get(source)?.get(element)?.transform;
    const stands = transform && { source, element, transform: [...transform] };
    if (hangsM > 0) return { position: [point[0], point[1], point[2] - hangsM], direction: DOWN, stands };
    const direction = this.outward(pointed, transform);
    return { position: [0, 1, 2].map((k) => point[k]! + direction[k]! * CLEAR_M) as unknown as Vec3, direction, stands };
  }

  /** Square to the surface, towards who looks at it; of a curved one towards the eye. */
  private outward({ point, plane }: Pointed, transform: Mat4 | undefined): Vec3 {
    const toEye = normalise(subtract(this.picture.camera$.value.position, point));
    if (!plane || !transform) return toEye;
    const normal = normalise(transformDirection(transform, [plane[0], plane[1], plane[2]]));
    return dot(normal, toEye) >= 0 ? normal : scale(normal, -1);
  }

  private take(taker: ((point: Pointed) => void) | undefined): void {
    if (this.taker && this.picture.pointTaker$.value === this.taker) this.picture.pointTaker$.next(undefined);
    this.taker = taker;
    if (taker) this.picture.pointTaker$.next(taker);
  }
}
