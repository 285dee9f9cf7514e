import { computed, inject, Injectable, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import { serially } from '../../../core/serially';
import { encodeMesh, type Mesh } from '../../../core/geometry/mesh';
import { transformPoint } from '../../../core/geometry/mat4';
import { meshKept } from '../../../core/project/answers';
import { laidLands, placedSets } from '../../../core/project/setting-source';
import { baseOf, baseOfPoints, levelBase, pointsOf, type LandBase } from '../../../core/setting/land-base';
import { MEADOW, type LaidPath, type Land, type LandGrid, type Shaping, type Terrain, type WaterSheet } from '../../../core/setting/land';
import { pathMeshes, placesUnder } from '../../../core/setting/laid-path';
import type { Place2 } from '../../../core/setting/scatter';
import { SETTING } from '../../../core/setting/setting-model';
import type { SetThing } from '../../../core/setting/set-thing';
import { coversOf, folded, heightAt, heightsAfter } from '../../../core/setting/terrain';
import { terrainMeshes } from '../../../core/setting/terrain-mesh';
import { sheetMesh } from '../../../core/setting/water-sheet';
import { fetchBlobs } from '../picture/fetch-assets';
import { ask, bytes } from './ask';
import { Live } from './live';
import { PictureState, type Pointed } from './picture-state';
import { SceneState } from './scene-state';
import { SettingState } from './setting-state';

/** What the next clicks draw. */
export type Drawing = 'take' | 'level' | 'path' | 'water';
export const LEAST_CLICKS: Readonly<Record<Drawing, number>> = { take: 1, level: 2, path: 2, water: 3 };

export interface Brush {
  does: Shaping['does'];
  radiusM: number;
  /** Metres, or a share when smoothing. */
  amount: number;
  /** Height to flatten to; without, that of the place where a stroke begins. */
  level?: number | undefined;
  finish: string;
}

/** What stands so near to the ground stands on it, metres. */
const ON_GROUND_M = 0.4;
const SKY_M = 2000;
/** Along all strokes that are kept of a ground. */
const MOST_PLACES = 20_000;
const HEADROOM_M = 2.2;
/** Points beyond this from the models are in other coordinates, and are moved to where the models are. */
const FAR_M = 3000;
const MOST_FILE_BYTES = 50_000_000;
const NO_PICTURE = 'The server is out of reach; the ground was not kept.';

const rounded = ([x, y]: Place2): [number, number] => [Math.round(x * 1000) / 1000, Math.round(y * 1000) / 1000];

/** Shapes the ground, lays paths on it, and sheets of water. */
@Injectable({ providedIn: 'root' })
export class LandState {
  private readonly live = inject(Live);
  private readonly picture = inject(PictureState);
  private readonly setting = inject(SettingState);
  private readonly sources = toSignal(inject(SceneState).sources$, { initialValue: [] });
  readonly lands = toSignal(this.live.entries$.pipe(map(laidLands)), { initialValue: [] });
  readonly open = signal<string | undefined>(undefined);
  readonly drawing = signal<Drawing | undefined>(undefined);
  readonly clicked = signal<readonly Place2[]>([]);
  /** The brush works on the terrain that is open. */
  readonly brushes = signal(false);
  readonly brush = signal<Brush>({ does: 'raise', radiusM: 6, amount: 1, finish: 'gravel' });
  readonly path = signal<Pick<LaidPath, 'widthM' | 'finish' | 'kerb'>>({ widthM: 2, finish: 'gravel-warm', kerb: null });
  readonly said = signal('');
  readonly isBusy = signal(false);
  readonly isTaking = computed(() => this.drawing() !== undefined || this.brushes());
  private readonly bases = new Map<string, Float32Array>();
  private readonly inOrder = serially();
  private firstZ = 0;
  private readonly taker = (pointed: Pointed) => {
    if (this.drawing() === 'take') void this.takeOver(pointed);
    else this.click([pointed.point[0], pointed.point[1]], pointed.point[2]);
  };

  draw(drawing: Drawing): void {
    this.stop();
    this.drawing.set(drawing);
    this.picture.pointTaker$.next(this.taker);
  }

  /** Takes the brush up, or lays it down. */
  takeBrush(id: string): void {
    const isHeld = this.brushes() && this.open() === id;
    this.stop();
    if (isHeld) return;
    this.open.set(id);
    this.brushes.set(true);
    this.picture.pointTaker$.next(this.taker);
  }

  stop(): void {
    this.setting.end();
    this.drawing.set(undefined);
    this.brushes.set(false);
    this.clicked.set([]);
    this.said.set('');
    if (this.picture.pointTaker$.value === this.taker) this.setting.look(true);
  }

  /** A place was clicked, in the picture or in the plan, where its height is not known yet. */
  click(place: Place2, z = NaN): void {
    if (this.brushes()) {
      void this.stroke([place]);
      return;
    }
    const drawing = this.drawing();
    if (!drawing || drawing === 'take') return;
    if (this.clicked().length === 0) this.firstZ = z;
    this.clicked.update((places) => [...places, rounded(place)]);
    if (drawing === 'level' && this.clicked().length === 2) void this.finish();
  }

  unclick(): void {
    if (this.clicked().length > 0) this.clicked.update((places) => places.slice(0, -1));
    else this.stop();
  }

  /** Lays what was drawn. */
  async finish(): Promise<void> {
    const [drawing, points] = [this.drawing(), this.clicked().map(rounded)];
    if (!drawing || points.length < LEAST_CLICKS[drawing]) return;
    this.clicked.set([]);
    if (drawing === 'path') await this.layPath(crypto.randomUUID(), { kind: 'path', name: 'Path', layer: 'Ground', parts: [], points, ...this.path() }, 'Path laid');
    else if (drawing === 'water') {
      const levelM = Math.round(((await this.heightOf(points[0]!)) - 0.05) * 100) / 100;
      await this.layWater(crypto.randomUUID(), { kind: 'water', name: 'Water', layer: 'Ground', parts: [], outline: points, levelM, finish: 'water-still' }, 'Water laid');
    } else {
      const [a, b] = [points[0]!, points[1]!];
      const z = await this.heightOf(a);
      await this.makeTerrain('Ground', levelBase(Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1]), z), []);
    }
  } // prettier-ignore

  /** A terrain in the place of a model's ground that was pointed at. */
  private async takeOver({ source, element }: Pointed): Promise<void> {
    if (source === SETTING) {
      this.said.set('That is not the model’s; point at ground of the model.');
      return;
    }
    const name = this.sources()
      .find(({ id }) => id === source)
      ?.model.elements.get(element)?.name;
    await this.fromElements(name ?? 'Ground', [{ source, element }], true);
  }

  /** From surfaces or contour lines of a layer; the ground takes the place of lines, surfaces stay. */
  async fromLayer(source: string, layer: string): Promise<void> {
    const model = this.sources().find(({ id }) => id === source)?.model;
    const elements = [...(model?.elements.values() ?? [])].filter((element) => element.layer === layer && element.parts.length > 0);
    await this.fromElements(layer, elements.slice(0, 500).map(({ id }) => ({ source, element: id })), false); // prettier-ignore
  }

  private async fromElements(name: string, taken: readonly { source: string; element: string }[], instead: boolean): Promise<void> {
    this.isBusy.set(true);
    const elements = taken.flatMap(({ source, element }) => this.sources().find(({ id }) => id === source)?.model.elements.get(element) ?? []);
    const meshes = await fetchBlobs([...new Set(elements.flatMap(({ parts }) => parts.map(({ mesh }) => mesh)))], true).catch(() => new Map<string, Mesh>());
    const triangles: number[] = [];
    for (const { transform, parts } of elements)
      for (const { mesh } of parts) {
        const found = meshes.get(mesh);
        for (const index of found?.indices ?? [])
          triangles.push(...transformPoint(transform, [found!.positions[index * 3]!, found!.positions[index * 3 + 1]!, found!.positions[index * 3 + 2]!]));
      }
    this.isBusy.set(false);
    const base = baseOf(triangles);
    if (base) await this.makeTerrain(name, base, instead || base.ofLines ? taken : []);
    else this.said.set('There are no surfaces and too few points in it to make ground of.');
  } // prettier-ignore

  /** From a file of points, one to a line. */
  async fromFile(file: File): Promise<void> {
    if (file.size > MOST_FILE_BYTES) {
      this.said.set(`${file.name} is larger than 50 MB.`);
      return;
    }
    const points = pointsOf(await file.text());
    const count = points.length / 3;
    const moved = this.toModels(points);
    const base = count >= 3 ? baseOfPoints(points) : undefined;
    if (!base) this.said.set(`${file.name} has ${count === 0 ? 'no points' : 'too few points that span an area'}: a line each with x, y and z in metres.`);
    else await this.makeTerrain(file.name.replace(/\.[^.]+$/, ''), base, [], moved ? ' Its coordinates were far away; it was moved to where the model is.' : '');
  } // prettier-ignore

  async change(id: string, land: Land, what: string): Promise<void> {
    if (land.kind === 'path') await this.layPath(id, land, what);
    else if (land.kind === 'water') await this.layWater(id, land, what);
    else await this.layTerrain(id, land, what);
  }

  remove(id: string, name: string): void {
    this.stop();
    this.live.run({ type: 'lay-land', lands: [{ id, land: null }], sets: [], name: `${name} taken away`.slice(0, 200) });
  }

  /** One stroke of the brush over the terrain that is open. */
  stroke(places: readonly Place2[]): Promise<void> {
    // One after the other: each begins with what the last one left.
    return this.inOrder(() => this.brushed(places));
  }

  private async brushed(places: readonly Place2[]): Promise<void> {
    const id = this.open();
    const terrain = this.lands().find((land) => land.id === id)?.land;
    if (!id || terrain?.kind !== 'terrain' || places.length === 0) return;
    const { does, radiusM, amount, level, finish } = this.brush();
    const heights = await this.heightsOf(terrain);
    const to = does === 'flatten' ? (level ?? (heights && heightAt(heights, terrain.grid, places[0]!))) : amount;
    if (to === undefined) {
      this.said.set('There is none of this ground.');
      return;
    }
    const stroke: Shaping = {
      does,
      along: thinned(places, radiusM / 4).map(rounded),
      radiusM,
      amount: to,
      ...(does === 'cover' && { finish }),
    };
    const shaping = [...terrain.shaping, stroke];
    if (shaping.reduce((sum, { along }) => sum + along.length, 0) > MOST_PLACES) {
      this.said.set('This ground is covered by as many strokes as are kept.');
      return;
    }
    const now = await this.withFolded({ ...terrain, shaping });
    if (now) await this.layTerrain(id, now, `${terrain.name}: ${WORDS[does]}`);
  }

  /** A terrain whose many strokes have become its heights. */
  private async withFolded(terrain: Terrain): Promise<Terrain | undefined> {
    const { grid, shaping } = terrain;
    if (!(await this.heightsOf(terrain))) return terrain;
    const fold = folded(this.bases.get(terrain.base)!, grid, shaping);
    if (!fold) return terrain;
    const base = await this.keep({ positions: gridPoints(grid, fold.heights), indices: new Uint32Array(0) });
    if (base === undefined) return undefined;
    this.bases.set(base, fold.heights);
    return { ...terrain, base, shaping: fold.shaping };
  }

  private async makeTerrain(name: string, { grid, heights }: LandBase, instead: Terrain['instead'] | readonly Terrain['instead'][number][], more = ''): Promise<void> {
    const base = await this.keep({ positions: gridPoints(grid, heights), indices: new Uint32Array(0) });
    if (base === undefined) return;
    this.bases.set(base, heights);
    const id = crypto.randomUUID();
    const terrain: Terrain = { kind: 'terrain', name: name.slice(0, 200) || 'Ground', layer: 'Ground', parts: [], grid, base, shaping: [], cover: MEADOW, instead: [...instead] };
    await this.layTerrain(id, terrain, `${terrain.name} made as ground`);
    this.said.set(`Ground of ${String(Math.round(grid.columns * grid.cellM))} × ${String(Math.round(grid.rows * grid.cellM))} m, every ${grid.cellM.toFixed(2)} m.${more}`);
    this.open.set(id);
  } // prettier-ignore

  private async layTerrain(id: string, terrain: Terrain, what: string): Promise<void> {
    const now = this.lands().find((land) => land.id === id)?.land;
    const [before, after] = [now?.kind === 'terrain' ? await this.heightsOf(now) : undefined, await this.heightsOf(terrain)];
    if (!after) {
      this.said.set('The heights of this ground could not be fetched.');
      return;
    }
    const { grid } = terrain;
    const parts = await this.keepAll(terrainMeshes(after, grid, coversOf(grid, terrain.cover, terrain.shaping)));
    if (!parts) return;
    const lands: { id: string; land: Land }[] = [{ id, land: { ...terrain, parts } }];
    const sets = before ? this.carried(grid, before, after) : [];
    if (before)
      for (const { id: its, land } of this.lands()) {
        const path = land.kind === 'path' ? await this.pathOn(land, grid, after) : undefined;
        if (path) lands.push({ id: its, land: path });
      }
    this.run(lands, sets, what);
  }

  /** What stands on a terrain, as high as it is now. */
  private carried(grid: LandGrid, before: Float32Array, after: Float32Array): { id: string; thing: SetThing }[] {
    return placedSets(this.live.entries$.value, this.sources()).flatMap(({ id, thing }) => {
      let isMoved = false;
      const members = thing.members.map((value, i) => {
        if (i % 3 !== 2) return value;
        const place: Place2 = [thing.members[i - 2]!, thing.members[i - 1]!];
        const [was, is] = [heightAt(before, grid, place), heightAt(after, grid, place)];
        if (was === undefined || is === undefined || was === is || Math.abs(value - was) > ON_GROUND_M) return value;
        isMoved = true;
        return Math.round((value + is - was) * 1000) / 1000;
      });
      return isMoved ? [{ id, thing: { ...thing, members } }] : [];
    });
  }

  /** A path that lies wholly on a terrain, as that is now. */
  private async pathOn(path: LaidPath, grid: LandGrid, heights: Float32Array): Promise<LaidPath | undefined> {
    const under = placesUnder(path).map((place) => heightAt(heights, grid, place));
    if (under.includes(undefined)) return undefined;
    const parts = await this.keepAll(pathMeshes(path, under as number[]));
    return parts && { ...path, parts };
  }

  private async layPath(id: string, path: LaidPath, what: string): Promise<void> {
    const places = placesUnder(path);
    const others = this.lands().flatMap(({ land }) => (land.kind === 'path' ? land.parts.map(({ mesh }) => mesh) : []));
    this.isBusy.set(true);
    // Under roofs it lies where one would walk.
    const { z } = await this.setting.survey(places, SKY_M, HEADROOM_M, others);
    this.isBusy.set(false);
    const meshes = pathMeshes(path, z);
    if (meshes.length === 0) {
      this.said.set('There is nothing there to lay it on.');
      return;
    }
    const parts = await this.keepAll(meshes);
    if (parts) this.run([{ id, land: { ...path, parts } }], [], what);
  }

  private async layWater(id: string, water: WaterSheet, what: string): Promise<void> {
    const mesh = sheetMesh(water.outline, water.levelM);
    if (!mesh) {
      this.said.set('Its outline has no area.');
      return;
    }
    const parts = await this.keepAll([{ finish: water.finish, mesh }]);
    if (parts) this.run([{ id, land: { ...water, parts } }], [], what);
  }

  private run(lands: { id: string; land: Land }[], sets: { id: string; thing: SetThing }[], what: string): void {
    this.said.set(what);
    this.live.run({ type: 'lay-land', lands, sets, name: what.slice(0, 200) });
    this.open.set(lands[0]!.id);
  }

  private async heightsOf(terrain: Terrain): Promise<Float32Array | undefined> {
    let base = this.bases.get(terrain.base);
    if (!base) {
      const mesh = (await fetchBlobs([terrain.base], true).catch(() => undefined))?.get(terrain.base);
      if (!mesh || mesh.positions.length !== terrain.grid.columns * terrain.grid.rows * 3) return undefined;
      base = mesh.positions.filter((_, i) => i % 3 === 2);
      this.bases.set(terrain.base, base);
    }
    return heightsAfter(base, terrain.grid, terrain.shaping);
  }

  private async heightOf(place: Place2): Promise<number> {
    if (Number.isFinite(this.firstZ)) return this.firstZ;
    const z = (await this.setting.survey([place], SKY_M)).z[0]!;
    return Number.isFinite(z) ? z : 0;
  }

  private async keepAll(meshes: readonly { finish: string; mesh: Mesh }[]): Promise<Land['parts'] | undefined> {
    const parts: Land['parts'] = [];
    for (const { finish, mesh } of meshes) {
      const hash = await this.keep(mesh);
      if (hash === undefined) return undefined;
      parts.push({ finish, mesh: hash });
    }
    return parts;
  }

  private async keep(mesh: Mesh): Promise<string | undefined> {
    const kept = await ask(meshKept, '/api/meshes', bytes(encodeMesh(mesh)));
    if ('answer' in kept) return kept.answer.hash;
    this.said.set(kept.fault ?? NO_PICTURE);
    return undefined;
  }

  /** Moves points that lie far from all models to their middle, onto the lowest height; tells whether that was so. */
  private toModels(points: number[]): boolean {
    const [x, y] = this.picture.camera$.value.target;
    if (points.length < 3 || Math.hypot(points[0]! - x, points[1]! - y) < FAR_M) return false;
    const middle = [0, 1, 2].map((axis) => {
      const values = points.filter((_, i) => i % 3 === axis);
      const least = values.reduce((a, b) => Math.min(a, b), Infinity);
      return axis === 2 ? least : (least + values.reduce((a, b) => Math.max(a, b), -Infinity)) / 2;
    });
    for (let i = 0; i < points.length; i++) points[i] = points[i]! - middle[i % 3]! + [x, y, 0][i % 3]!;
    return true;
  }
}

const WORDS: Readonly<Record<Shaping['does'], string>> = { raise: 'raised', lower: 'lowered', smooth: 'smoothed', flatten: 'flattened', roughen: 'roughened', cover: 'covered' }; // prettier-ignore

const gridPoints = ({ x, y, cellM, columns }: LandGrid, heights: Float32Array): Float32Array =>
  Float32Array.from({ length: heights.length * 3 }, (_, i) => {
    const at = Math.floor(i / 3);
    return [x + (at % columns) * cellM, y + Math.floor(at / columns) * cellM, heights[at]!][i % 3]!;
  });

/** A stroke without places that lie closer together than told. */
function thinned(places: readonly Place2[], apartM: number): Place2[] {
  const out: Place2[] = [];
  for (const place of places) {
    const last = out.at(-1);
    if (!last || Math.hypot(place[0] - last[0], place[1] - last[1]) >= apartM) out.push(place);
  }
  return out.slice(0, 400);
}
