import { computed, inject, Injectable, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { combineLatest, map } from 'rxjs';
import { normalise } from '../../../core/geometry/vec3';
import { serially } from '../../../core/serially';
import { FAMILIES } from '../../../core/finish/finish';
import { laidLands, placedSets } from '../../../core/project/setting-source';
import type { Survey } from '../../../core/render/survey';
import { multiply, transformPoint, type Mat4 } from '../../../core/geometry/mat4';
import { carried, inLine, isInBox, middleOf, movedBy } from '../../../core/setting/arrange';
import { isOnPath } from '../../../core/setting/laid-path';
import { alongLine, distanceFor, scatter, withoutHidden, type Place2 } from '../../../core/setting/scatter';
import { isPlanting, membersOf, SETTING, type Member, type PlacedSet } from '../../../core/setting/setting-model';
import { MOST_MEMBERS, type Pattern, type SetThing, type Stroke } from '../../../core/setting/set-thing';
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
  /** A patch is an area that is brushed alone; a surface is one that is filled as a whole. */
  pattern: Pattern['kind'] | 'patch' | 'surface';
  spacingM: number;
  perHundredM2: number;
  leastM: number;
  size: number;
  spread: number;
}

/** A copy stands so far beside what it is of, each way. */
const BESIDE_M = 1.5;
/** Looked down from so high for what grows, and from so far over a click for what stands on floors. */
const SKY_M = 2000;
const MOST_STROKES = 2000;
const OVER_M = 1.2;
/** Free height that somebody needs, or a car. */
const HEADROOM_M = 1.9;
/** A surface is looked for so far about a place, in steps. */
const SURFACE_STEPS = 60;
const SURFACE_STEP_M = 2;
/** The slope under a thing is that over so much. */
const SLOPE_M = 0.3;
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
  /** Several that are worked on together. */
  readonly chosen = signal<ReadonlySet<string>>(new Set());
  /** What the next clicks do with the open one, in place of setting something. */
  readonly acting = signal<'move' | 'add' | 'take' | undefined>(undefined);
  readonly brushM = signal(2);
  /** What became of the last. */
  readonly said = signal('');
  readonly isBusy = signal(false);
  private readonly ignored = computed(() => [...this.kinds().values()].flatMap(({ forms }) => forms.flatMap(({ parts }) => parts.map(({ mesh }) => mesh)))); // prettier-ignore
  private readonly inOrder = serially();
  private firstZ = 0;
  private stands: SetThing['stands'];
  private readonly taker = (pointed: Pointed) => {
    this.click([pointed.point[0], pointed.point[1]], pointed);
  };

  /** Which part of the station is looked at. */
  readonly tab = signal('library');
  private readonly isOpen = signal(false);
  /** What handles hold in the picture: those that are chosen, else the open one, while nothing is being set. */
  readonly held = computed((): ReadonlySet<string> => {
    if (!this.isOpen() || this.setting() || this.acting()) return new Set();
    const open = this.open();
    return this.chosen().size > 0 ? this.chosen() : new Set(open === undefined ? [] : [open]);
  });
  /** While nothing is being set, a click on what is set opens it. */
  private readonly picker = ({ source, element }: Pointed) => {
    if (source === SETTING) this.show(element.split('/')[0]);
  };

  /** The station is looked at, or left. */
  look(isOpen: boolean): void {
    this.isOpen.set(isOpen);
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

  stop(): void {
    this.end();
  }

  end(): void {
    this.setting.set(undefined);
    this.acting.set(undefined);
    this.clicked.set([]);
    if (this.picture.pointTaker$.value === this.taker) this.picture.pointTaker$.next(this.isOpen() ? this.picker : undefined);
  }

  /** Whether the next drag over the plan brushes. */
  readonly brushes = computed(() => this.acting() === 'add' || this.acting() === 'take' || this.setting()?.pattern === 'patch');

  /** A place was clicked: in the picture, where it is known what lies there, or in the plan. */
  click(place: Place2, pointed?: Pointed): void {
    if (this.brushes()) {
      void this.brushAlong([place]);
      return;
    }
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
    if (setting.pattern === 'one' || setting.pattern === 'surface') void this.finish();
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
    if (!setting || points.length < { one: 1, row: 2, area: 3, patch: 1, surface: 1 }[setting.pattern]) return;
    this.clicked.set([]);
    const { kind, form, state, pattern, spacingM, perHundredM2, leastM, size, spread } = setting;
    const outline = pattern === 'surface' ? await this.surfaceAt(points[0]!) : points;
    if (!outline) {
      this.said.set('There is nothing there to grow or stand on.');
      return;
    }
    const thing: SetThing = {
      name: pattern === 'one' ? kind.name : `${pattern === 'row' ? 'Row' : 'Area'}: ${kind.name}`,
      layer: isPlanting(kind) ? 'Planting' : 'Entourage',
      of: [{ kind: kind.id, share: 1, ...(form && { form }) }],
      ...(state && { state }),
      pattern: pattern === 'one' ? { kind: 'one' } : pattern === 'row' ? { kind: 'row', points, spacingM } : { kind: 'area', outline, perHundredM2, leastM, strokes: [], ...(pattern === 'surface' && { onSurfaceAt: points[0]! }) },
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
    const copy = {
      ...movedBy(thing, BESIDE_M, BESIDE_M),
      name: `${thing.name}, copy`.slice(0, 200),
      seed: Math.floor(Math.random() * 1e6),
    };
    void this.put(crypto.randomUUID(), copy, () => `${thing.name} duplicated`);
  }

  /** Chooses one more, or no longer; what is grouped with it goes with it. */
  chooseAlso(id: string): void {
    const all = this.withGroups([id]);
    this.chosen.update((chosen) =>
      chosen.has(id) ? new Set([...chosen].filter((one) => !all.includes(one))) : new Set([...chosen, ...all]),
    );
  }

  /** Chooses what lies in a box of the plan. */
  chooseBox(a: Place2, b: Place2): void {
    this.chosen.set(new Set(this.withGroups(this.sets().flatMap(({ id, thing }) => (isInBox(thing, [a, b]) ? [id] : [])))));
    if (this.chosen().size > 0) this.tab.set('schedule');
  }

  private withGroups(ids: readonly string[]): string[] {
    const groups = new Set(this.sets().flatMap(({ id, thing }) => (ids.includes(id) && thing.group ? [thing.group] : [])));
    return this.sets().flatMap(({ id, thing }) => (ids.includes(id) || (thing.group !== undefined && groups.has(thing.group)) ? [id] : []));
  }

  /** Puts those that are chosen in line, or at even distances, and drops them there. */
  async arrange(evenly: boolean): Promise<void> {
    const things = this.chosenThings();
    const places = things.map(({ thing }) => middleOf(thing));
    const moved = inLine(places, evenly).map(([x, y], i) => ({
      id: things[i]!.id,
      thing: movedBy(things[i]!.thing, x - places[i]![0], y - places[i]![1]),
    }));
    await this.dropAll(moved, `${String(things.length)} things ${evenly ? 'at even distances' : 'in line'}`);
  }

  /**
   * Carries things along with handles that held them; what was moved sideways stands on what lies under it there,
   * and what was lifted stays where it was lifted to.
   */
  async carry(sets: readonly (PlacedSet & { members: readonly Member[] })[], by: Mat4, what: string): Promise<void> {
    const words = sets.length === 1 ? `${sets[0]!.thing.name} ${what}` : `${String(sets.length)} things ${what}`;
    const moved = sets.map(({ id, thing, at, members }) => {
      const settled = carried(this.turnedAs(thing, members), multiply(by, at));
      return { id, thing: settled.stands ? { ...settled, stands: this.standsOn(settled.stands) } : settled };
    });
    const isLifted = sets.some(({ members }) => members.some(({ position: p }) => Math.abs(transformPoint(by, p)[2] - p[2]) > 0.005));
    if (what === 'moved' && !isLifted) await this.dropAll(moved, words);
    else this.live.run({ type: 'set-things', sets: moved.map(({ id, thing }) => ({ id, thing })), name: words.slice(0, 200) });
  }

  /** A single one that was turned by chance keeps the turn that it has: the chance is where it stands. */
  private turnedAs(thing: SetThing, [only, ...others]: readonly Member[]): SetThing {
    if (thing.turnDeg !== undefined || !only || others.length > 0) return thing;
    return { ...thing, turnDeg: rounded((Math.atan2(only.transform[1]!, only.transform[0]!) * 180) / Math.PI) };
  }

  /** Drops those that are chosen onto whatever lies under them. */
  async dropChosen(): Promise<void> {
    const things = this.chosenThings();
    await this.dropAll(things, `${String(things.length)} things dropped to the ground`);
  }

  private async dropAll(things: readonly { id: string; thing: SetThing }[], words: string): Promise<void> {
    this.isBusy.set(true);
    const sets: { id: string; thing: SetThing }[] = [];
    for (const { id, thing } of things) {
      const { pattern, members } = thing;
      const dropped = await this.dropped({ ...thing, members: pattern.kind === 'one' ? [members[0]!, members[1]!, NaN] : members }, NaN);
      if (typeof dropped === 'string') this.said.set(dropped);
      else sets.push({ id, thing: dropped });
    }
    this.isBusy.set(false);
    if (sets.length > 0) this.live.run({ type: 'set-things', sets, name: words });
  }

  /** Those that are chosen become a group, or are one no longer. */
  groupChosen(together: boolean): void {
    const group = crypto.randomUUID();
    this.changeChosen(
      (thing) => {
        const rest = { ...thing };
        delete rest.group;
        return together ? { ...rest, group } : rest;
      },
      together ? 'grouped' : 'no longer grouped',
    );
  }

  layerChosen(layer: string): void {
    this.changeChosen((thing) => ({ ...thing, layer }), `on layer ${layer}`);
  }

  removeChosen(): void {
    this.changeChosen(() => null, 'taken away');
    this.chosen.set(new Set());
  }

  private changeChosen(change: (thing: SetThing) => SetThing | null, words: string): void {
    const sets = this.chosenThings().map(({ id, thing }) => ({ id, thing: change(thing) }));
    if (sets.length > 0) this.live.run({ type: 'set-things', sets, name: `${String(sets.length)} things ${words}`.slice(0, 200) });
  }

  private chosenThings(): { id: string; thing: SetThing }[] {
    return this.sets().flatMap(({ id, thing }) => (this.chosen().has(id) ? [{ id, thing }] : []));
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
      const [fromX, fromY] = middleOf(thing);
      const rest: SetThing = movedBy(thing, place[0] - fromX, place[1] - fromY);
      delete rest.stands;
      const moved = { ...rest, ...(stands && { stands }), members: pattern.kind === 'one' ? [rounded(place[0]), rounded(place[1]), z] : [] };
      this.end();
      await this.put(id, moved, () => `${thing.name} moved`, z);
    }
  } // prettier-ignore

  /** Brushes the open area along a way, or begins a patch with it. */
  brushAlong(places: readonly Place2[]): Promise<void> {
    // One after the other: each begins with what the last one left.
    const adds = this.acting() !== 'take';
    return this.inOrder(() => this.brushed(places, adds));
  }

  private async brushed(places: readonly Place2[], adds: boolean): Promise<void> {
    const radiusM = this.brushM();
    const strokes: Stroke[] = [];
    for (const [x, y] of places) {
      const last = strokes.at(-1)?.at;
      if (!last || Math.hypot(x - last[0], y - last[1]) > radiusM / 2) strokes.push({ at: [rounded(x), rounded(y)], radiusM, adds });
    }
    const setting = this.setting();
    if (setting?.pattern === 'patch') {
      const { kind, form, state, perHundredM2, leastM, size, spread } = setting;
      const id = crypto.randomUUID();
      const thing: SetThing = {
        name: `Patch: ${kind.name}`, layer: isPlanting(kind) ? 'Planting' : 'Entourage', of: [{ kind: kind.id, share: 1, ...(form && { form }) }], ...(state && { state }),
        pattern: { kind: 'area', outline: [], perHundredM2, leastM, strokes }, size, spread, seed: Math.floor(Math.random() * 1e6), members: [],
      };
      await this.put(id, thing, (count) => `${String(count)} × ${kind.name} brushed`);
      // What is brushed next belongs to the same patch.
      if (this.sets().some((set) => set.id === id)) this.act(id, 'add');
      return;
    }
    const id = this.open();
    const thing = this.sets().find((set) => set.id === id)?.thing;
    if (id && thing?.pattern.kind === 'area') {
      const { pattern } = thing;
      const all = withoutHidden([...pattern.strokes, ...strokes]);
      if (all.length > MOST_STROKES) {
        this.live.refusals$.next(`${thing.name} has as many strokes as are kept; begin another patch.`);
        return;
      }
      await this.put(id, { ...thing, pattern: { ...pattern, strokes: all } }, () => `${thing.name} ${adds ? 'brushed on' : 'thinned by brush'}`);
    }
  } // prettier-ignore

  /** The rectangle about the surface that lies at a place, as far as it is looked for. */
  private async surfaceAt([x, y]: Place2): Promise<[number, number][] | undefined> {
    const places: [number, number][] = [[x, y]];
    for (let j = -SURFACE_STEPS; j <= SURFACE_STEPS; j++)
      for (let i = -SURFACE_STEPS; i <= SURFACE_STEPS; i++) places.push([x + i * SURFACE_STEP_M, y + j * SURFACE_STEP_M]);
    const { surface } = await this.survey(places, SKY_M);
    if (surface[0]! < 0) return undefined;
    const on = places.filter((_, i) => surface[i] === surface[0]);
    const [xs, ys] = [on.map((place) => place[0]), on.map((place) => place[1])];
    const [x0, x1, y0, y1] = [Math.min(...xs) - SURFACE_STEP_M, Math.max(...xs) + SURFACE_STEP_M, Math.min(...ys) - SURFACE_STEP_M, Math.max(...ys) + SURFACE_STEP_M];
    return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]];
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
    const paths = laidLands(this.live.entries$.value).flatMap(({ land }) => (land.kind === 'path' ? [land] : []));
    const surface = pattern.kind === 'area' && pattern.onSurfaceAt ? (await this.survey([pattern.onSurfaceAt], from)).surface[0] : undefined;
    const members: number[] = [];
    for (const [i, [x, y]] of places.entries()) {
      if (!Number.isFinite(survey.z[i]) || (growing && pattern.kind !== 'one' && (survey.family[i] !== GROUND || paths.some((path) => isOnPath([x, y], path))))) continue;
      if (surface !== undefined && survey.surface[i] !== surface) continue;
      members.push(rounded(x), rounded(y), rounded(survey.z[i]!));
    }
    if (members.length === 0)
      return growing ? 'Nothing can grow there: planting needs open ground, not paving, buildings or water.' : 'There is nothing there to stand on.';
    const standing = { ...thing, members: members.slice(0, 3 * MOST_MEMBERS) };
    return thing.alongSlope ? { ...standing, slopes: await this.slopesUnder(standing.members, from) } : standing;
  } // prettier-ignore

  /** Upward normals of the ground under members, one after the other. */
  private async slopesUnder(members: readonly number[], from: number): Promise<number[]> {
    const feet = Array.from({ length: members.length / 3 }, (_, i): Place2 => [members[i * 3]!, members[i * 3 + 1]!]);
    const about = feet.flatMap(([x, y]): Place2[] => [[x - SLOPE_M, y], [x + SLOPE_M, y], [x, y - SLOPE_M], [x, y + SLOPE_M]]);
    const { z } = await this.survey(about, from);
    return feet.flatMap((_, i) => {
      const [west, east, south, north] = [z[i * 4]!, z[i * 4 + 1]!, z[i * 4 + 2]!, z[i * 4 + 3]!];
      const [dx, dy] = [(east - west) / (2 * SLOPE_M), (north - south) / (2 * SLOPE_M)];
      // At an edge, where the ground falls away beside it, it stands upright.
      const isSlope = Number.isFinite(dx) && Number.isFinite(dy) && Math.hypot(dx, dy) < 2;
      return isSlope ? normalise([-dx, -dy, 1]).map(rounded) : [0, 0, 1];
    });
  } // prettier-ignore

  /** What lies under places, things of the library left out. */
  survey(
    places: readonly Place2[],
    from: number | readonly number[],
    headroomM?: number,
    alsoIgnored: readonly string[] = [],
    cuts?: boolean,
  ): Promise<Survey> {
    const flat = new Float64Array(places.length * 3);
    places.forEach(([x, y], i) => {
      flat[i * 3] = x;
      flat[i * 3 + 1] = y;
      flat[i * 3 + 2] = typeof from === 'number' ? from : from[i]!;
    });
    return new Promise((resolve) => {
      this.picture.surveys$.next({ places: flat, ignored: [...this.ignored(), ...alsoIgnored], headroomM, cuts, resolve });
    });
  }

  private standsOn({ source, element }: Pick<Pointed, 'source' | 'element'>): SetThing['stands'] {
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

/** What stands in a row looks across it: cars in their bays, benches along a path. */
function alongDeg(points: readonly Place2[]): number {
  const [a, b] = [points[0]!, points.at(-1)!];
  return Math.round((Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI);
}
