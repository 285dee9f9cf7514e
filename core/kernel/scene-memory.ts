import type { PreparedMesh } from '../geometry/prepare-mesh';
import type { Finish } from '../finish/finish';
import { mapSetsOf } from '../scene/material-pictures';
import { MAP_IS_SRGB } from '../finish/maps/texture-image';
import { facetTable } from '../finish/microfacet';
import { sheenTable } from '../finish/sheen';
import { wavesOf } from '../finish/waves';
import { decodeSrgb } from '../image/tone';
import type { CameraFrame } from '../camera/camera';
import type { RenderedInstance, RenderedScene, SceneAssets } from '../scene/rendered-scene';
import { lampsAsText } from '../scene/lamps';
import { lowestGround } from '../scene/scene-bounds';
import type { SceneLamp } from '../scene/scene';
import type { Sky } from '../sky/sky-map';
import type { Cuts } from '../project/sections';
import * as L from './assembly/layout';
import { instantiateKernel, THREAD_SCRATCH_BYTES, type KernelExports } from './kernel';
import { InstanceTable, standsLike } from './instance-table';
import { LightTable } from './light-table';
import { isClear, writeMaps, writeMaterial } from './material';
import { KernelMemory } from './memory';
import { CutTable } from './cut-table';
import { MeshTable } from './mesh-table';
import { TextureTable } from './texture-table';
import { AssignedFinishes } from './assigned-finishes';

/** The moving picture has films of its own: what is seen, and its light. */
export type FilmName = 'picture' | 'seen' | 'light';

export interface RenderSettings {
  seed: number;
  /** Most bounces of a path; roulette ends nearly all before LONGEST_PATH. */
  maxDepth?: number;
}

/** A white room has all but a hundredth of its light by then. */
export const LONGEST_PATH = 40;

/** Of more triangles that shine, none is a light of its own: their light is what paths find. */
const MOST_LIGHTS = 200_000;

/**
 * The scene in the kernel's memory. Meshes and maps stay placed across updates and are only added or dropped; the instance
 * tree, materials and lights, which are small, are written anew. No thread may render while it changes.
 */
export class SceneMemory {
  readonly memory: KernelMemory;
  readonly kernel: KernelExports;
  readonly scene: number;
  private readonly meshes: MeshTable;
  private readonly instances: InstanceTable;
  private readonly textures: TextureTable;
  private readonly materialTables: number[] = [];
  private readonly lightTables: number[] = [];
  private finishes = new AssignedFinishes();
  /** The scene that was set last, if all of it could be placed. */
  private set: RenderedScene | undefined;
  private readonly cuts: CutTable;
  private skyBlocks: number[] = [];
  private readonly films = new Map<FilmName, { at: number; bytes: number }>();

  constructor(
    readonly module: WebAssembly.Module,
    memory = new KernelMemory(),
  ) {
    this.memory = memory;
    this.kernel = instantiateKernel(module, memory.memory);
    this.scene = memory.allocate(L.SCENE_SIZE);
    this.meshes = new MeshTable(memory, this.kernel);
    this.textures = new TextureTable(memory);
    this.instances = new InstanceTable(memory, this.kernel, this.meshes, (offset, value) => {
      this.setWord(offset, value);
    });
    this.cuts = new CutTable(memory, this.meshes, this.instances, (offset, value) => {
      this.setWord(offset, value);
    });
    this.kernel.attach(this.scene, this.newScratch());
    const table = new Float32Array(L.FACET_TABLE / 4 + facetTable().length);
    table.set(sheenTable(), L.SHEEN_TABLE / 4);
    table.set(facetTable(), L.FACET_TABLE / 4);
    for (let i = 0; i < 256; i++) {
      table[i] = i / 255;
      table[256 + i] = decodeSrgb(i / 255);
    }
    const at = memory.allocate(table.byteLength);
    memory.write(at, table);
    this.setWord(L.SCENE_SRGB, at);
    this.settings({ seed: 1 });
  }

  /** Working memory for one more thread. */
  newScratch(): number {
    return this.memory.allocate(THREAD_SCRATCH_BYTES);
  }

  settings({ seed, maxDepth = LONGEST_PATH }: RenderSettings): void {
    this.setWord(L.SCENE_SEED, seed);
    this.setWord(L.SCENE_MAX_DEPTH, maxDepth);
  }

  /** The moment that what moves is seen at, seconds. */
  setTime(timeS: number): void {
    this.setFloat(L.SCENE_TIME, timeS);
  }

  /** The instance of a number, as the kernel's channels tell it: the very one that a scene was set with. */
  instanceAt(number: number): RenderedInstance | undefined {
    return this.instances.at(number);
  }

  /** What the instance of a number has, as the kernel's hits tell it. */
  readonly finishAt = (instance: number): Finish | undefined => this.instances.at(instance)?.finish;

  camera({ origin, forward, right, up, projection = 'perspective', eyeM = 0, lens, nearM = 0 }: CameraFrame): void {
    [...origin, ...forward, ...right, ...up].forEach((value, i) => {
      this.setFloat(L.SCENE_CAMERA + i * 4, value);
    });
    this.setWord(L.SCENE_PROJECTION, PROJECTIONS[projection]);
    this.setFloat(L.SCENE_EYE, eyeM);
    this.setFloat(L.SCENE_LENS_RADIUS, lens?.radiusM ?? 0);
    this.setFloat(L.SCENE_NEAR, nearM);
    this.setFloat(L.SCENE_FOCUS, lens?.focusM ?? 1);
  }

  /** An empty film of a size; the old one of that name is forgotten. Where it lies is returned. */
  setFilm(width: number, height: number, name: FilmName = 'picture'): number {
    const bytes = width * height * L.PIXEL_SIZE;
    let film = this.films.get(name);
    if (film && film.bytes >= bytes) new Uint8Array(this.memory.memory.buffer, film.at, bytes).fill(0);
    else {
      if (film) this.memory.release(film.at);
      film = { at: this.memory.allocate(bytes), bytes };
      this.films.set(name, film);
    }
    this.showFilm(film.at, width, height);
    return film.at;
  }

  /** Goes on with a film that `setFilm` has given, as it is. */
  showFilm(film: number, width: number, height: number): void {
    this.setWord(L.SCENE_FILM, film);
    this.setWord(L.SCENE_WIDTH, width);
    this.setWord(L.SCENE_HEIGHT, height);
    this.setWord(L.SCENE_PARTS, 0);
    this.setWindow(0, 0, width, height);
  }

  /** The film in place is a window of a picture of another size, from its left upper corner on, pixels. */
  setWindow(left: number, top: number, fullWidth: number, fullHeight: number): void {
    this.setWord(L.SCENE_LEFT, left);
    this.setWord(L.SCENE_TOP, top);
    this.setWord(L.SCENE_FULL_WIDTH, fullWidth);
    this.setWord(L.SCENE_FULL_HEIGHT, fullHeight);
  }

  /** Lets samples tell what their light is of (see PARTS_SIZE) in a room of the film's size. */
  setParts(at: number): void {
    this.setWord(L.SCENE_PARTS, at);
  }

  clearFilm(): void {
    this.filmData().fill(0);
  }

  /** Paths leave out what shines by itself where it is seen, or take it in. */
  setLitOnly(litOnly: boolean): void {
    this.setWord(L.SCENE_LIT_ONLY, litOnly ? 1 : 0);
  }

  get filmSize(): { width: number; height: number } {
    const view = this.memory.view();
    return { width: view.getInt32(this.scene + L.SCENE_WIDTH, true), height: view.getInt32(this.scene + L.SCENE_HEIGHT, true) };
  }

  /** Where the film in place lies. */
  get filmAt(): number {
    return this.memory.view().getUint32(this.scene + L.SCENE_FILM, true);
  }

  /** The film's floats (see PIXEL_SIZE in assembly/layout.ts). */
  filmData(): Float32Array {
    const { width, height } = this.filmSize;
    return this.memory.floats(this.filmAt, (width * height * L.PIXEL_SIZE) / 4);
  }

  /** Radiance map and its sampling tables, and the sun. */
  setSky(sky: Sky): void {
    for (const block of this.skyBlocks) this.memory.release(block);
    const { width, height, radiance } = sky;
    const rows = new Float32Array(height);
    const columns = new Float32Array(width * height);
    let total = 0;
    for (let y = 0; y < height; y++) {
      const solidAngle = ((2 * Math.PI) / width) * (Math.cos((y * Math.PI) / height) - Math.cos(((y + 1) * Math.PI) / height));
      let row = 0;
      for (let x = 0; x < width; x++) {
        const o = (y * width + x) * 3;
        row += 0.2126 * radiance[o]! + 0.7152 * radiance[o + 1]! + 0.0722 * radiance[o + 2]!;
        columns[y * width + x] = row;
      }
      if (row > 0) for (let x = 0; x < width; x++) columns[y * width + x] = columns[y * width + x]! / row;
      total += row * solidAngle;
      rows[y] = total;
    }
    if (total > 0) for (let y = 0; y < height; y++) rows[y] = rows[y]! / total;
    const place = (data: Float32Array) => {
      const at = this.memory.allocate(data.byteLength);
      this.memory.write(at, data);
      return at;
    };
    this.skyBlocks = [place(radiance), place(rows), place(columns)];
    this.setWord(L.SCENE_SKY, this.skyBlocks[0]!);
    this.setWord(L.SCENE_SKY_WIDTH, width);
    this.setWord(L.SCENE_SKY_HEIGHT, height);
    this.setWord(L.SCENE_SKY_ROWS, this.skyBlocks[1]!);
    this.setWord(L.SCENE_SKY_COLUMNS, this.skyBlocks[2]!);
    this.setFloat(L.SCENE_SKY_NORMALISER, total > 0 ? 1 / total : 0);
    sky.sun.direction.forEach((v, i) => {
      this.setFloat(L.SCENE_SUN_DIRECTION + i * 4, v);
    });
    sky.sun.radiance.forEach((v, i) => {
      this.setFloat(L.SCENE_SUN_RADIANCE + i * 4, v);
    });
    this.setFloat(L.SCENE_SUN_VERSINE, 2 * Math.sin(sky.sun.radiusRad / 2) ** 2);
    this.setWord(L.SCENE_SUN_ON, sky.sun.normalLux.some((e) => e > 0) ? 1 : 0);
    (sky.sun.litFrom ?? [0, 0, 0]).forEach((v, i) => {
      this.setFloat(L.SCENE_MOON_LIT + i * 4, v);
    });
    this.setWord(L.SCENE_STARS, sky.stars ? 1 : 0);
    if (sky.backdrop) this.skyBlocks.push(place(sky.backdrop.radiance));
    this.setWord(L.SCENE_BACKDROP, sky.backdrop ? this.skyBlocks.at(-1)! : 0);
    this.setWord(L.SCENE_BACKDROP_WIDTH, sky.backdrop?.width ?? 0);
    this.setWord(L.SCENE_BACKDROP_HEIGHT, sky.backdrop?.height ?? 0);
    this.setFog(sky.fog);
    this.setClouds(sky.clouds, place);
  }

  private setFog(fog: Sky['fog']): void {
    this.setFloat(L.SCENE_FOG, fog?.extinction ?? 0);
    this.setFloat(L.SCENE_FOG_FALLOFF, fog?.falloff ?? 0);
    for (let c = 0; c < 3; c++) {
      this.setFloat(L.SCENE_FOG_ALBEDO + c * 4, fog?.albedo[c] ?? 0);
      this.setFloat(L.SCENE_FOG_GLOW + c * 4, fog?.glow[c] ?? 0);
    }
  }

  private setClouds(clouds: Sky['clouds'], place: (data: Float32Array) => number): void {
    if (clouds) this.skyBlocks.push(place(clouds.through));
    this.setWord(L.SCENE_CLOUDS, clouds ? this.skyBlocks.at(-1)! : 0);
    this.setWord(L.SCENE_CLOUDS_SIZE, clouds?.size ?? 0);
    this.setFloat(L.SCENE_CLOUDS_REPEAT, clouds?.repeatM ?? 1);
    this.setFloat(L.SCENE_CLOUDS_HEIGHT, clouds?.heightM ?? 0);
    this.setFloat(L.SCENE_CLOUDS_DRIFT, clouds?.driftM[0] ?? 0);
    this.setFloat(L.SCENE_CLOUDS_DRIFT + 4, clouds?.driftM[1] ?? 0);
  }

  /** Planes that cut what is rendered from now on; undefined: none. */
  setCuts(cuts: Cuts | undefined): void {
    this.cuts.set(cuts);
  }

  /** Builds a mesh's tree before the scene that shows it is there. A scene that does not show it drops it again. */
  placeMesh(hash: string, mesh: PreparedMesh): void {
    this.meshes.place(hash, () => mesh);
  }

  /** Places what a scene needs and drops what it no longer uses. */
  setScene(scene: RenderedScene, assets: SceneAssets): void {
    if (this.reassign(scene, assets)) return;
    const shown = scene.instances.filter((i) => this.meshes.place(i.mesh, (hash) => assets.mesh(hash)));
    this.meshes.keepOnly(new Set(shown.map((i) => i.mesh)));
    for (const { mesh, finish } of shown) if (finish.edgeRadiusM > 0) this.meshes.learnEdges(mesh);
    const placed = this.instances.place(shown);
    this.finishes = new AssignedFinishes();
    for (const [place, instance] of placed.entries()) this.writeAssignment(place, instance);
    this.setFloat(L.SCENE_FOG_BASE, lowestGround(placed, (key) => this.meshes.get(key).mesh) ?? 0);
    this.cuts.tellEarth();
    this.writeMaterials(assets);
    this.writeLights(placed, scene.lamps, assets);
    this.set = placed.length === scene.instances.length ? scene : undefined;
  }

  /** Whether the scene differs from the last one only in its lamps and in what some instances have, and it is so now. */
  private reassign({ instances, lamps }: RenderedScene, assets: SceneAssets): boolean {
    const before = this.set;
    if (before?.instances.length !== instances.length) return false;
    let relit = lampsAsText(lamps) !== lampsAsText(before.lamps);
    const changed: number[] = [];
    for (const [place, instance] of instances.entries()) {
      const old = before.instances[place]!;
      if (instance === old) continue;
      if (!standsLike(instance, old)) return false;
      relit ||= glows(instance) || glows(old) || instance.lens !== old.lens;
      changed.push(place);
    }
    this.instances.reassign(instances, changed);
    for (const place of changed) {
      const { mesh, finish } = instances[place]!;
      if (finish.edgeRadiusM > 0) this.meshes.learnEdges(mesh);
      this.finishes.release(before.instances[place]!.finish);
      this.writeAssignment(place, instances[place]!);
    }
    this.cuts.tellEarth();
    this.writeMaterials(assets);
    if (relit) this.writeLights(instances, lamps, assets);
    this.set = { instances, lamps };
    return true;
  }

  private writeAssignment(place: number, instance: RenderedInstance): void {
    const { finish, lens, isTuft, emissionScale } = instance;
    const view = this.memory.view();
    const p = this.instances.table + place * L.INSTANCE_SIZE;
    view.setInt32(p + L.INSTANCE_MATERIAL, this.finishes.assign(finish), true);
    const seen = lens ? L.MASK_LENS : isClear(finish) ? L.MASK_CLEAR : L.MASK_OPAQUE;
    view.setInt32(p + L.INSTANCE_MASK, isTuft ? seen : seen | L.MASK_STANDS, true);
    view.setFloat32(p + L.INSTANCE_EMISSION_SCALE, emissionScale, true);
    this.cuts.write(place, instance);
  }

  private writeMaterials(assets: SceneAssets): void {
    const table = tablesIn(this.memory, this.materialTables);
    const at = table(Math.max(1, this.finishes.end) * L.MATERIAL_SIZE);
    let clear = false;
    this.textures.begin();
    for (const [finish, number] of this.finishes) {
      let waves = 0;
      if (finish.waves) {
        const heights = wavesOf(finish.waves);
        waves = table(heights.byteLength);
        this.memory.write(waves, heights);
      }
      const p = at + number * L.MATERIAL_SIZE;
      writeMaterial(this.memory.view(), p, finish, waves);
      this.writeMapsOf(finish, p + L.MAT_MAPS, assets, table);
      clear ||= isClear(finish);
    }
    this.setWord(L.SCENE_MATERIALS, at);
    this.setWord(L.SCENE_HAS_CLEAR, clear ? 1 : 0);
    this.setWord(L.SCENE_TEXTURES, this.textures.write(table));
  }

  /** At `p` those by the first set of coordinates; room for others comes from `table`. */
  private writeMapsOf(finish: Finish, p: number, assets: SceneAssets, table: (bytes: number) => number): void {
    const [first = '', ...others] = mapSetsOf(finish.maps);
    const write = (to: number, name: string, set: number, next: number) => {
      const maps = name === '' ? undefined : assets.maps(name);
      writeMaps(this.memory.view(), to, (kind) => this.textures.numberOf(`${name}/${kind}`, maps?.[kind], MAP_IS_SRGB[kind]), set, next);
    };
    let next = 0;
    for (const [i, name] of others.entries()) {
      const to = table(L.MAPS_SIZE);
      write(to, name, i + 1, next);
      next = to;
    }
    write(p, first, 0, next);
  }

  private writeLights(instances: readonly RenderedInstance[], lamps: readonly SceneLamp[], assets: SceneAssets): void {
    const lights = new LightTable();
    const place = tablesIn(this.memory, this.lightTables);
    const grids = new Map<string, number>();
    for (const lamp of lamps) {
      const { key = '', grid } = lamp.web ?? {};
      if (grid && !grids.has(key)) {
        grids.set(key, place(grid.byteLength));
        this.memory.write(grids.get(key)!, grid);
      }
      lights.addLamp(lamp, grids.get(key));
    }
    const glowOf = ({ finish }: RenderedInstance) => {
      const sets = mapSetsOf(finish.maps).map((name) => assets.maps(name)?.emission);
      const set = sets.findIndex((glow) => glow !== undefined);
      return set < 0 ? undefined : { picture: sets[set]!, set };
    };
    const view = this.memory.view();
    for (const [place, instance] of instances.entries()) {
      let light = L.NO_LIGHT;
      if (glows(instance)) {
        const { mesh, triangles } = this.meshes.get(instance.mesh);
        // How much of it shines where a picture cuts holes is what only paths see.
        const sampled = !instance.finish.cutOut && lights.count + triangles <= MOST_LIGHTS;
        light = sampled ? lights.addMesh(mesh, instance, glowOf(instance)) : L.LIGHT_OF_PATHS;
      }
      const p = this.instances.table + place * L.INSTANCE_SIZE;
      view.setInt32(p + L.INSTANCE_LIGHT, light, true);
      view.setInt32(p + L.INSTANCE_LENS, Number(instance.lens), true);
    }
    const { table, cdf } = lights.pack();
    const lightsAt = place(Math.max(16, table.byteLength));
    this.memory.write(lightsAt, table);
    const cdfAt = place(Math.max(16, cdf.byteLength));
    this.memory.write(cdfAt, cdf);
    this.setWord(L.SCENE_LIGHTS, lightsAt);
    this.setWord(L.SCENE_LIGHT_CDF, cdfAt);
    this.setWord(L.SCENE_LIGHT_COUNT, lights.fluxLm > 0 ? lights.count : 0);
  }

  private setWord(offset: number, value: number): void {
    this.memory.view().setUint32(this.scene + offset, value >>> 0, true);
  }

  private setFloat(offset: number, value: number): void {
    this.memory.view().setFloat32(this.scene + offset, value, true);
  }
}

const PROJECTIONS = {
  perspective: L.PROJECTION_PERSPECTIVE,
  orthographic: L.PROJECTION_ORTHOGRAPHIC,
  equirectangular: L.PROJECTION_EQUIRECTANGULAR,
} as const;

const glows = ({ finish, emissionScale, lens }: RenderedInstance): boolean => finish.emissionCdM2 * emissionScale > 0 && !lens;

/** Gives the blocks of `before` back, and makes new ones that are listed in their place. */
function tablesIn(memory: KernelMemory, before: number[]): (bytes: number) => number {
  for (const block of before.splice(0)) memory.release(block);
  return (bytes) => {
    const at = memory.allocate(bytes);
    before.push(at);
    return at;
  };
}
