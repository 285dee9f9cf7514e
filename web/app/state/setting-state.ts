import { computed, inject, Injectable, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, map } from 'rxjs';
import { FAMILIES } from '../../../core/finish/finish';
import { placedSets } from '../../../core/project/setting-source';
import type { Survey } from '../../../core/render/survey';
import { alongLine, distanceFor, scatter, type Place2 } from '../../../core/setting/scatter';
import { isPlanting, membersOf, SETTING } from '../../../core/setting/setting-model';
import { MOST_MEMBERS, type Pattern, type SetThing } from '../../../core/setting/set-thing';
import type { ThingKind } from '../../../core/setting/thing-kind';
import { Live } from './live';
import { PictureState, type Pointed } from './picture-state';
import { SceneState } from './scene-state';
import { ThingLibrary } from './thing-library';

/** What the next clicks set: things of a kind, in a pattern. */
export interface Setting {
  kind: ThingKind;
  form?: string | undefined;
  state?: string | undefined;
  pattern: Pattern['kind'];
  spacingM: number;
  perHundredM2: number;
  leastM: number;
  size: number;
  spread: number;
}

/** Looked down from so high for what grows, and from so far over a click for what stands on floors. */
const SKY_M = 2000;
const OVER_M = 1.2;
/** Free height that somebody needs, or a car. */
const HEADROOM_M = 1.9;
const GROUND = FAMILIES.indexOf('ground');
const rounded = (value: number) => Math.round(value * 1000) / 1000;

/** Sets planting and entourage about the building, and changes what is set. */
@Injectable({ providedIn: 'root' })
export class SettingState {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  private readonly library = inject(ThingLibrary);
  private readonly scene = inject(SceneState);
  readonly kinds = toSignal(this.library.kinds$, { requireSync: true });
  private readonly sources = toSignal(this.scene.sources$, { initialValue: [] });
  /** All that is set, with what it consists of. */
  readonly sets = toSignal(
    combineLatest([this.live.entries$, this.scene.sources$, this.library.kinds$]).pipe(
      map(([entries, sources, kinds]) => placedSets(entries, sources).map((set) => ({ ...set, members: membersOf(set, kinds) }))),
    ),
    { initialValue: [] },
  );
  readonly setting = signal<Setting | undefined>(undefined);
  /** Places that were clicked for a row or an area so far; z of the first. */
  readonly clicked = signal<readonly Place2[]>([]);
  /** The one whose card is open. */
  readonly open = signal<string | undefined>(undefined);
  /** What the next clicks do with the open one, in place of setting something. */
  readonly acting = signal<'move' | 'add' | 'take' | undefined>(undefined);
  readonly brushM = signal(2);
  /** What became of the last. */
  readonly said = signal('');
  readonly isBusy = signal(false);
  private readonly ignored = computed(() => [...this.kinds().values()].flatMap(({ forms }) => forms.flatMap(({ parts }) => parts.map(({ mesh }) => mesh)))); // prettier-ignore
  private firstZ = 0;
  private stands: SetThing['stands'];
  private readonly taker = (pointed: Pointed) => {
    this.click([pointed.point[0], pointed.point[1]], pointed);
  };

  /** Which part of the station is looked at. */
  readonly tab = signal('library');
  private isOpen = false;
  /** While nothing is being set, a click on what is set opens it. */
  private readonly picker = ({ source, element }: Pointed) => {
    if (source === SETTING) this.show(element.split('/')[0]);
  };

  /** The station is looked at, or left. */
  look(isOpen: boolean): void {
    this.isOpen = isOpen;
    this.end();
    if (isOpen) this.picture.pointTaker$.next(this.picker);
    else if (this.picture.pointTaker$.value === this.picker) this.picture.pointTaker$.next(undefined);
  }

  /** Opens one in the schedule. */
  show(id: string | undefined): void {
    this.open.set(id);
    if (id !== undefined) this.tab.set('schedule');
  }

  choose(setting: Setting): void {
    this.acting.set(undefined);
    this.setting.set(setting);
    this.clicked.set([]);
    this.said.set('');
    this.picture.pointTaker$.next(this.taker);
  }

  act(id: string, act: 'move' | 'add' | 'take'): void {
    this.end();
    this.open.set(id);
    this.acting.set(act);
    this.picture.pointTaker$.next(this.taker);
  }

  end(): void {
    this.setting.set(undefined);
    this.acting.set(undefined);
    this.clicked.set([]);
    if (this.picture.pointTaker$.value === this.taker) this.picture.pointTaker$.next(this.isOpen ? this.picker : undefined);
  }

  /** A place was clicked: in the picture, where it is known what lies there, or in the plan. */
  click(place: Place2, pointed?: Pointed): void {
    if (this.acting()) {
      void this.actAt(place, pointed);
      return;
    }
    const setting = this.setting();
    if (!setting) return;
    const clicked = [...this.clicked(), [rounded(place[0]), rounded(place[1])] as const];
    if (clicked.length === 1) {
      this.firstZ = pointed ? pointed.point[2] : NaN;
      this.stands = pointed && this.standsOn(pointed);
    }
    this.clicked.set(clicked);
    if (setting.pattern === 'one') void this.finish();
  }

  /** Takes back the last place that was clicked. */
  unclick(): void {
    if (this.clicked().length > 0) this.clicked.update((places) => places.slice(0, -1));
    else this.end();
  }

  /** Sets what was chosen at the places that were clicked. */
  async finish(): Promise<void> {
    const setting = this.setting();
    const points = this.clicked().map(([x, y]): [number, number] => [x, y]);
    if (!setting || points.length < { one: 1, row: 2, area: 3 }[setting.pattern]) return;
    this.clicked.set([]);
    const { kind, form, state, pattern, spacingM, perHundredM2, leastM, size, spread } = setting;
    const thing: SetThing = {
      name: pattern === 'one' ? kind.name : `${pattern === 'row' ? 'Row' : 'Area'}: ${kind.name}`,
      layer: isPlanting(kind) ? 'Planting' : 'Entourage',
      of: [{ kind: kind.id, share: 1, ...(form && { form }) }],
      ...(state && { state }),
      pattern: pattern === 'one' ? { kind: 'one' } : pattern === 'row' ? { kind: 'row', points, spacingM } : { kind: 'area', outline: points, perHundredM2, leastM, strokes: [] },
      size, spread,
      seed: Math.floor(Math.random() * 1e6),
      ...(pattern === 'row' && !isPlanting(kind) && { turnDeg: alongDeg(points) }),
      // The horizon lies as it was made, until it is turned.
      ...(kind.group === 'surround' && { turnDeg: 0 }),
      members: pattern === 'one' ? [points[0]![0], points[0]![1], this.firstZ] : [],
      ...(this.stands && { stands: this.stands }),
    }; // prettier-ignore
    await this.put(
      crypto.randomUUID(),
      thing,
      (count) => (count === 1 ? `${kind.name} set` : `${String(count)} × ${kind.name} set`),
      this.firstZ,
    );
  }

  /** Changes what is set; where that changes where its members stand, they are dropped anew. */
  async change(id: string, thing: SetThing, what: string, drops: boolean): Promise<void> {
    if (drops) await this.put(id, thing, () => what);
    else this.live.run({ type: 'set-things', sets: [{ id, thing }], name: what.slice(0, 200) });
  }

  duplicate(thing: SetThing): void {
    const move = 1.5;
    const moved = (points: readonly (readonly [number, number])[]) => points.map(([x, y]): [number, number] => [x + move, y + move]);
    const { pattern } = thing;
    const copy: SetThing = {
      ...thing,
      name: `${thing.name}, copy`.slice(0, 200),
      seed: Math.floor(Math.random() * 1e6),
      members: thing.members.map((value, i) => (i % 3 < 2 ? value + move : value)),
      pattern: pattern.kind === 'row' ? { ...pattern, points: moved(pattern.points) } : pattern.kind === 'area' ? { ...pattern, outline: moved(pattern.outline), strokes: pattern.strokes.map((stroke) => ({ ...stroke, at: [stroke.at[0] + move, stroke.at[1] + move] })) } : pattern,
    }; // prettier-ignore
    void this.put(crypto.randomUUID(), copy, () => `${thing.name} duplicated`);
  }

  remove(id: string, name: string): void {
    this.end();
    this.live.run({ type: 'set-things', sets: [{ id, thing: null }], name: `${name} taken away`.slice(0, 200) });
  }

  private async actAt(place: Place2, pointed?: Pointed): Promise<void> {
    const [id, act] = [this.open(), this.acting()];
    const thing = this.sets().find((set) => set.id === id)?.thing;
    if (!id || !thing || !act) return;
    const { pattern } = thing;
    if (act === 'move') {
      const z = pointed ? pointed.point[2] : NaN;
      const stands = pointed && this.standsOn(pointed);
      const [fromX, fromY] = centreOf(thing);
      const [dx, dy] = [place[0] - fromX, place[1] - fromY];
      const shifted = (points: readonly (readonly [number, number])[]) => points.map(([x, y]): [number, number] => [rounded(x + dx), rounded(y + dy)]);
      const rest: SetThing = { ...thing };
      delete rest.stands;
      const moved: SetThing = {
        ...rest,
        ...(stands && { stands }),
        members: pattern.kind === 'one' ? [rounded(place[0]), rounded(place[1]), z] : [],
        pattern: pattern.kind === 'row' ? { ...pattern, points: shifted(pattern.points) } : pattern.kind === 'area' ? { ...pattern, outline: shifted(pattern.outline), strokes: pattern.strokes.map((stroke) => ({ ...stroke, at: shifted([stroke.at])[0]! })) } : pattern,
      };
      this.end();
      await this.put(id, moved, () => `${thing.name} moved`, z);
    } else if (pattern.kind === 'area') {
      const stroke = { at: [rounded(place[0]), rounded(place[1])] as [number, number], radiusM: this.brushM(), adds: act === 'add' };
      await this.put(id, { ...thing, pattern: { ...pattern, strokes: [...pattern.strokes, stroke].slice(-2000) } }, () => `${thing.name} ${act === 'add' ? 'brushed on' : 'thinned by brush'}`);
    }
  } // prettier-ignore

  /** Drops the members to what lies under them, and keeps the thing; `z`: the height that was clicked at, or where they stand. */
  private async put(id: string, thing: SetThing, words: (count: number) => string, z = thing.members[2] ?? NaN): Promise<void> {
    this.isBusy.set(true);
    const dropped = await this.dropped(thing, z);
    this.isBusy.set(false);
    if (typeof dropped === 'string') {
      this.said.set(dropped);
      return;
    }
    const count = dropped.members.length / 3;
    this.said.set(words(count));
    this.live.run({ type: 'set-things', sets: [{ id, thing: dropped }], name: words(count).slice(0, 200) });
    this.open.set(id);
  }

  private async dropped(thing: SetThing, z: number): Promise<SetThing | string> {
    const { pattern } = thing;
    const growing = thing.of.every(({ kind }) => isPlanting(this.kinds().get(kind) ?? { group: 'furniture' }));
    // Where it was clicked, it stands, on whatever that is.
    if (pattern.kind === 'one' && Number.isFinite(z)) return { ...thing, members: thing.members.map(rounded) };
    const places = placesOf(thing);
    const isSeen = Number.isFinite(z);
    const from = growing || !isSeen ? SKY_M : z + OVER_M;
    // In the plan, what does not grow stands where one would walk, under roofs as well; a boat lies on the water.
    const floats = thing.of.every(({ kind }) => this.kinds().get(kind)?.tags.includes('afloat'));
    const survey = await this.survey(places, from, growing || isSeen || floats ? undefined : HEADROOM_M);
    const members: number[] = [];
    for (const [i, [x, y]] of places.entries()) {
      if (!Number.isFinite(survey.z[i]) || (growing && pattern.kind !== 'one' && survey.family[i] !== GROUND)) continue;
      members.push(rounded(x), rounded(y), rounded(survey.z[i]!));
    }
    if (members.length === 0)
      return growing ? 'Nothing can grow there: planting needs open ground, not paving, buildings or water.' : 'There is nothing there to stand on.';
    return { ...thing, members: members.slice(0, 3 * MOST_MEMBERS) };
  } // prettier-ignore

  /** What lies under places, things of the library left out. */
  survey(places: readonly Place2[], from: number, headroomM?: number): Promise<Survey> {
    const flat = new Float64Array(places.length * 3);
    for (const [i, [x, y]] of places.entries()) flat.set([x, y, from], i * 3);
    return new Promise((resolve) => {
      this.picture.surveys$.next({ places: flat, ignored: this.ignored(), headroomM, resolve });
    });
  }

  private standsOn({ source, element }: Pointed): SetThing['stands'] {
    // What stands on a thing that was set goes by itself.
    if (source === SETTING) return undefined;
    const transform = this.sources()
      .find(({ id }) => id === source)
      ?.model.elements.get(element)?.transform;
    return transform && { source, element, transform: [...transform] };
  }
}

function placesOf({ pattern, members, seed }: SetThing): Place2[] {
  if (pattern.kind === 'row') return alongLine(pattern.points, pattern.spacingM);
  if (pattern.kind === 'area') return scatter(pattern.outline, pattern.strokes, distanceFor(pattern.perHundredM2 / 100, pattern.leastM), seed, MOST_MEMBERS); // prettier-ignore
  return [[members[0]!, members[1]!]];
}

function centreOf({ pattern, members }: SetThing): Place2 {
  const points = pattern.kind === 'row' ? pattern.points : pattern.kind === 'area' ? pattern.outline : [[members[0]!, members[1]!] as const];
  if (points.length === 0) return [members[0] ?? 0, members[1] ?? 0];
  return [0, 1].map((k) => points.reduce((sum, point) => sum + point[k]!, 0) / points.length) as unknown as Place2;
} // prettier-ignore

/** What stands in a row looks across it: cars in their bays, benches along a path. */
function alongDeg(points: readonly Place2[]): number {
  const [a, b] = [points[0]!, points.at(-1)!];
  return Math.round((Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI);
}
