import type { DressedMesh } from '../geometry/dress';
import { invert, type Mat4, meanScale } from '../geometry/mat4';
import { meshBounds, type Bounds } from '../geometry/mesh';
import { adjustmentMatrix, isAdjusted } from '../finish/adjust';
import type { Finish } from '../finish/finish';
import { meanTexel } from '../finish/maps/mean';
import type { MapSet, TextureImage } from '../finish/maps/texture-image';
import { SHEEN_STEPS, sheenTable } from '../finish/sheen';
import { PLAIN_WEAR } from '../finish/variation';
import { WAVE_COUNT, wavesOf, type Waves } from '../finish/waves';
import { decodeSrgb } from '../image/tone';
import type { CameraFrame } from '../camera/camera';
import type { SceneInstance, SceneLamp } from '../scene/scene';
import type { Sky } from '../sky/sky-map';
import * as L from './assembly/layout';
import { instantiateKernel, THREAD_SCRATCH_BYTES, type KernelExports } from './kernel';
import { LightTable } from './light-table';
import { KernelMemory } from './memory';

/** Where the scene's meshes and map sets come from. Undefined: not (yet) known; the part is left out, the finish is plain. */
export interface SceneAssets {
  mesh(hash: string): DressedMesh | undefined;
  maps(name: string): MapSet | undefined;
}

/** What light needs to know of an instance; not whose it is. */
export type RenderedInstance = Pick<SceneInstance, 'mesh' | 'transform' | 'finish' | 'variation' | 'emissionScale' | 'lens'>;

export interface RenderedScene {
  instances: readonly RenderedInstance[];
  lamps: SceneLamp[];
}

interface PlacedMesh {
  pointer: number;
  blocks: number[];
  bounds: Bounds;
  triangles: number;
  mesh: DressedMesh;
}

/** The instances that stand in the kernel's memory, in the order of their table. */
interface Places {
  instances: readonly RenderedInstance[];
  table: number;
  /** The table, and the tree over it. */
  blocks: number[];
}

const standsLike = (a: RenderedInstance, b: RenderedInstance): boolean =>
  a === b || (a.mesh === b.mesh && (a.transform === b.transform || a.transform.every((v, i) => v === b.transform[i])));

export interface RenderSettings {
  seed: number;
  maxDepth: number;
  /** Largest luminance (cd/m2) that one indirect sample may add; 0: none is cut. */
  clampCdM2: number;
}

const BODY = { sheet: L.BODY_SHEET, pane: L.BODY_PANE, solid: L.BODY_SOLID } as const;
const MAX_EMISSIVE_TRIANGLES = 20000;

/**
 * The scene in the kernel's memory. Meshes and maps stay placed across updates and are only added or dropped; the instance
 * tree, materials and lights, which are small, are written anew. No thread may render while it changes.
 */
export class SceneMemory {
  readonly memory: KernelMemory;
  readonly kernel: KernelExports;
  readonly scene: number;
  private readonly meshes = new Map<string, PlacedMesh>();
  private readonly textures = new Map<string, { pointer: number; width: number; height: number; srgb: boolean; mean: readonly number[] }>();
  private tables: number[] = [];
  private places: Places | undefined;
  private skyBlocks: number[] = [];
  private film = 0;
  private filmPixels = 0;

  constructor(
    readonly module: WebAssembly.Module,
    memory = new KernelMemory(),
  ) {
    this.memory = memory;
    this.kernel = instantiateKernel(module, memory.memory);
    this.scene = memory.allocate(L.SCENE_SIZE);
    this.kernel.attach(this.scene, this.newScratch());
    const table = new Float32Array(512 + SHEEN_STEPS * SHEEN_STEPS);
    table.set(sheenTable(), 512);
    for (let i = 0; i < 256; i++) {
      table[i] = i / 255;
      table[256 + i] = decodeSrgb(i / 255);
    }
    const at = memory.allocate(table.byteLength);
    memory.write(at, table);
    this.setWord(L.SCENE_SRGB, at);
    this.settings({ seed: 1, maxDepth: 8, clampCdM2: 0 });
  }

  /** Working memory for one more thread. */
  newScratch(): number {
    return this.memory.allocate(THREAD_SCRATCH_BYTES);
  }

  settings({ seed, maxDepth, clampCdM2 }: RenderSettings): void {
    this.setWord(L.SCENE_SEED, seed);
    this.setWord(L.SCENE_MAX_DEPTH, maxDepth);
    this.setFloat(L.SCENE_CLAMP, clampCdM2);
  }

  /** The moment that what moves is seen at, seconds. */
  setTime(timeS: number): void {
    this.setFloat(L.SCENE_TIME, timeS);
  }

  camera({ origin, forward, right, up }: CameraFrame): void {
    [...origin, ...forward, ...right, ...up].forEach((value, i) => {
      this.setFloat(L.SCENE_CAMERA + i * 4, value);
    });
  }

  /** An empty film of a size; the old one is forgotten. */
  setFilm(width: number, height: number): void {
    const pixels = width * height;
    if (pixels > this.filmPixels) {
      this.memory.release(this.film);
      this.film = this.memory.allocate(pixels * L.PIXEL_SIZE);
      this.filmPixels = pixels;
    } else this.clearFilm();
    this.setWord(L.SCENE_FILM, this.film);
    this.setWord(L.SCENE_WIDTH, width);
    this.setWord(L.SCENE_HEIGHT, height);
  }

  clearFilm(): void {
    new Uint8Array(this.memory.memory.buffer, this.film, this.filmPixels * L.PIXEL_SIZE).fill(0);
  }

  /** The film's floats, 16 a pixel (see assembly/layout.ts). */
  filmData(): Float32Array {
    const view = this.memory.view();
    const pixels = view.getInt32(this.scene + L.SCENE_WIDTH, true) * view.getInt32(this.scene + L.SCENE_HEIGHT, true);
    return this.memory.floats(this.film, (pixels * L.PIXEL_SIZE) / 4);
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
    this.setFloat(L.SCENE_SUN_COS, Math.cos(sky.sun.radiusRad));
    this.setWord(L.SCENE_SUN_ON, sky.sun.normalLux.some((e) => e > 0) ? 1 : 0);
  }

  /** Places what a scene needs and drops what it no longer uses. */
  setScene(scene: RenderedScene, assets: SceneAssets): void {
    for (const block of this.tables) this.memory.release(block);
    this.tables = [];
    const shown = scene.instances.filter((i) => this.placeMesh(i.mesh, assets));
    this.dropMeshes(new Set(shown.map((i) => i.mesh)));
    const materials = this.writeMaterials(shown, assets);
    this.writeLightsAndInstances(shown, scene.lamps, materials);
  }

  private placeMesh(hash: string, assets: SceneAssets): boolean {
    if (this.meshes.has(hash)) return true;
    const mesh = assets.mesh(hash);
    const triangles = mesh ? mesh.indices.length / 3 : 0;
    if (!mesh || triangles === 0) return false;
    const m = this.memory;
    const temporary = [mesh.positions, mesh.indices].map((data) => {
      const at = m.allocate(data.byteLength);
      m.write(at, data);
      return at;
    });
    const references = this.kernel.referenceCapacity(triangles);
    const boundsScratch = m.allocate(references * L.BOUNDS_SIZE);
    const scratch = m.allocate(this.kernel.bvhScratchSize(references));
    const nodesRoom = m.allocate(references * L.NODE_SIZE);
    const packetsRoom = m.allocate(references * L.PACKET_SIZE);
    const nodeCount = this.kernel.buildMesh(temporary[0]!, temporary[1]!, triangles, boundsScratch, nodesRoom, packetsRoom, scratch);
    const packetCount = this.kernel.builtLeafCount();
    const keep = (from: number, bytes: number) => {
      const at = m.allocate(bytes);
      new Uint8Array(m.memory.buffer).copyWithin(at, from, from + bytes);
      return at;
    };
    const nodes = keep(nodesRoom, nodeCount * L.NODE_SIZE);
    const packets = keep(packetsRoom, packetCount * L.PACKET_SIZE);
    for (const block of [boundsScratch, scratch, nodesRoom, packetsRoom, temporary[0]!]) m.release(block);
    const rest = [mesh.normals, mesh.uvs].map((data) => {
      const at = m.allocate(data.byteLength);
      m.write(at, data);
      return at;
    });
    const pointer = m.allocate(32);
    const view = m.view();
    [nodes, packets, rest[0]!, rest[1]!, temporary[1]!].forEach((at, i) => {
      view.setUint32(pointer + i * 4, at, true);
    });
    this.meshes.set(hash, {
      pointer,
      blocks: [nodes, packets, ...rest, temporary[1]!, pointer],
      bounds: meshBounds(mesh.positions),
      triangles,
      mesh,
    });
    return true;
  }

  private dropMeshes(used: ReadonlySet<string>): void {
    for (const [hash, placed] of this.meshes)
      if (!used.has(hash)) {
        for (const block of placed.blocks) this.memory.release(block);
        this.meshes.delete(hash);
      }
  }

  /** Number of a texture in the scene that is being written. */
  private placeTexture(key: string, image: TextureImage, srgb: boolean, used: Map<string, number>): number {
    if (!this.textures.has(key)) {
      const { texels, width, height } = image;
      const pointer = this.memory.allocate(texels.byteLength);
      this.memory.write(pointer, texels);
      this.textures.set(key, { pointer, width, height, srgb, mean: meanTexel(texels, width, height, srgb) });
    }
    if (!used.has(key)) used.set(key, used.size);
    return used.get(key)!;
  }

  private dropTextures(used: ReadonlyMap<string, number>): void {
    for (const [key, { pointer }] of this.textures)
      if (!used.has(key)) {
        this.memory.release(pointer);
        this.textures.delete(key);
      }
  }

  private writeMaterials(instances: readonly RenderedInstance[], assets: SceneAssets): Map<Finish, number> {
    const numbers = new Map<Finish, number>();
    for (const { finish } of instances) if (!numbers.has(finish)) numbers.set(finish, numbers.size);
    const at = this.table(Math.max(1, numbers.size) * L.MATERIAL_SIZE);
    let hasClear = false;
    const used = new Map<string, number>();
    for (const [finish, number] of numbers) {
      this.writeMaterial(at + number * L.MATERIAL_SIZE, finish, assets, used);
      hasClear ||= isClear(finish);
    }
    this.setWord(L.SCENE_MATERIALS, at);
    this.setWord(L.SCENE_HAS_CLEAR, hasClear ? 1 : 0);
    this.dropTextures(used);
    const textures = this.table(Math.max(1, used.size) * L.TEXTURE_SIZE);
    const view = this.memory.view();
    for (const [key, index] of used) {
      const t = this.textures.get(key)!;
      const p = textures + index * L.TEXTURE_SIZE;
      [t.pointer, t.width, t.height, t.srgb ? 1 : 0].forEach((word, i) => {
        view.setUint32(p + i * 4, word, true);
      });
      t.mean.forEach((value, i) => {
        view.setFloat32(p + L.TEXTURE_MEAN + i * 4, value, true);
      });
    }
    this.setWord(L.SCENE_TEXTURES, textures);
    return numbers;
  }

  private placeWaves(waves: Waves): number {
    const table = wavesOf(waves);
    const at = this.table(table.byteLength);
    this.memory.write(at, table);
    return at;
  }

  private writeMaterial(p: number, finish: Finish, assets: SceneAssets, used: Map<string, number>): void {
    const maps = finish.maps === null ? undefined : assets.maps(finish.maps);
    const baseMap = maps ? this.placeTexture(`${finish.maps!}/base`, maps.base, true, used) : -1;
    const surfaceMap = maps?.surface ? this.placeTexture(`${finish.maps!}/surface`, maps.surface, false, used) : -1;
    const metalMap = maps?.metal ? this.placeTexture(`${finish.maps!}/metal`, maps.metal, false, used) : -1;
    const waves = finish.waves ? this.placeWaves(finish.waves) : 0;
    const view = this.memory.view();
    const f = (offset: number, value: number) => {
      view.setFloat32(p + offset, value, true);
    };
    const linear = finish.baseColour.map(decodeSrgb);
    linear.forEach((value, c) => {
      f(L.MAT_BASE + c * 4, value);
      f(L.MAT_EMISSION + c * 4, value * finish.emissionCdM2);
      const left = Math.max(1e-4, decodeSrgb(finish.attenuationColour[c]!));
      f(L.MAT_ABSORPTION + c * 4, finish.attenuationDistanceM ? -Math.log(left) / finish.attenuationDistanceM : 0);
    });
    f(L.MAT_METALNESS, finish.metalness);
    f(L.MAT_ROUGHNESS, finish.roughness);
    f(L.MAT_IOR, finish.ior);
    f(L.MAT_SPECULAR, 1);
    f(L.MAT_TRANSMISSION, finish.transmission);
    f(L.MAT_OPACITY, finish.opacity);
    view.setInt32(p + L.MAT_BODY, BODY[finish.body], true);
    view.setInt32(p + L.MAT_BASE_MAP, baseMap, true);
    view.setInt32(p + L.MAT_SURFACE_MAP, surfaceMap, true);
    view.setInt32(p + L.MAT_METAL_MAP, metalMap, true);
    view.setUint32(p + L.MAT_WAVES, waves, true);
    view.setInt32(p + L.MAT_WAVE_COUNT, waves ? WAVE_COUNT : 0, true);
    f(L.MAT_RELIEF, isClear(finish) ? 0 : finish.reliefM);
    f(L.MAT_UV_SCALE, 1 / finish.widthM);
    f(L.MAT_UV_SCALE + 4, 1 / finish.heightM);
    const turn = (finish.rotationDeg * Math.PI) / 180;
    f(L.MAT_UV_ROTATION, Math.cos(turn));
    f(L.MAT_UV_ROTATION + 4, Math.sin(turn));
    // The offset is in metres along the maps' own axes.
    f(L.MAT_UV_OFFSET, finish.offsetM[0] / finish.widthM);
    f(L.MAT_UV_OFFSET + 4, finish.offsetM[1] / finish.heightM);
    f(L.MAT_NORMAL_SCALE, finish.normalScale);
    f(L.MAT_DIFFUSE_THROUGH, finish.diffuseTransmission);
    f(L.MAT_COAT, finish.clearCoat);
    f(L.MAT_COAT_ROUGHNESS, finish.clearCoatRoughness);
    finish.sheenColour.forEach((c, i) => {
      f(L.MAT_SHEEN + i * 4, finish.sheen * decodeSrgb(c));
    });
    f(L.MAT_SHEEN_ROUGHNESS, finish.sheenRoughness);
    view.setInt32(p + L.MAT_PATCHED, finish.breakRepeat ? 1 : 0, true);
    view.setInt32(p + L.MAT_ADJUSTED, isAdjusted(finish) ? 1 : 0, true);
    f(L.MAT_CONTRAST, finish.contrast);
    adjustmentMatrix(finish).forEach((value, i) => {
      f(L.MAT_ADJUSTMENT + i * 4, value);
    });
  }

  private writeLightsAndInstances(
    instances: readonly RenderedInstance[],
    lamps: readonly SceneLamp[],
    materials: Map<Finish, number>,
  ): void {
    const lights = new LightTable();
    for (const lamp of lamps) lights.addLamp(lamp);
    const places = this.placesOf(instances);
    const view = this.memory.view();
    places.instances.forEach((instance, i) => {
      const p = places.table + i * L.INSTANCE_SIZE;
      view.setInt32(p + L.INSTANCE_MATERIAL, materials.get(instance.finish)!, true);
      view.setInt32(p + L.INSTANCE_MASK, instance.lens ? L.MASK_LENS : isClear(instance.finish) ? L.MASK_CLEAR : L.MASK_OPAQUE, true);
      const { mesh, triangles } = this.meshes.get(instance.mesh)!;
      const emissive = instance.finish.emissionCdM2 * instance.emissionScale > 0 && !instance.lens;
      const light = emissive && lights.count + triangles <= MAX_EMISSIVE_TRIANGLES ? lights.addMesh(mesh, instance) : -1;
      view.setInt32(p + L.INSTANCE_LIGHT, light, true);
      view.setFloat32(p + L.INSTANCE_EMISSION_SCALE, instance.emissionScale, true);
    });
    const { table, cdf } = lights.pack();
    const lightsAt = this.table(Math.max(16, table.byteLength));
    this.memory.write(lightsAt, table);
    const cdfAt = this.table(Math.max(16, cdf.byteLength));
    this.memory.write(cdfAt, cdf);
    this.setWord(L.SCENE_LIGHTS, lightsAt);
    this.setWord(L.SCENE_LIGHT_CDF, cdfAt);
    this.setWord(L.SCENE_LIGHT_COUNT, lights.power > 0 ? lights.count : 0);
  }

  /** Where instances stand, and the tree over them; kept where a scene differs from the last one only in what they wear. */
  private placesOf(instances: readonly RenderedInstance[]): Places {
    const placed = instances.filter(({ transform }) => invert(transform));
    const before = this.places;
    const stays = before?.instances.length === placed.length && placed.every((instance, i) => standsLike(instance, before.instances[i]!));
    const view = this.memory.view();
    if (stays) {
      placed.forEach((instance, i) => {
        if (instance !== before.instances[i]) writeVariation(view, before.table + i * L.INSTANCE_SIZE, instance);
      });
      before.instances = placed;
      return before;
    }
    for (const block of before?.blocks ?? []) this.memory.release(block);
    const table = this.memory.allocate(Math.max(1, placed.length) * L.INSTANCE_SIZE);
    const bounds = new Float32Array(placed.length * 8);
    const fresh = this.memory.view();
    placed.forEach((instance, i) => {
      const { pointer, bounds: own } = this.meshes.get(instance.mesh)!;
      const p = table + i * L.INSTANCE_SIZE;
      writeRows(fresh, p + L.INSTANCE_INVERSE, invert(instance.transform)!);
      writeRows(fresh, p + L.INSTANCE_FORWARD, instance.transform);
      fresh.setUint32(p + L.INSTANCE_MESH, pointer, true);
      writeVariation(fresh, p, instance);
      worldBounds(own, instance.transform, bounds, i * 8);
    });
    this.setWord(L.SCENE_INSTANCES, table);
    this.places = { instances: placed, table, blocks: [table, ...this.buildTopLevel(bounds, placed.length)] };
    return this.places;
  }

  private buildTopLevel(bounds: Float32Array, count: number): number[] {
    this.setWord(L.SCENE_INSTANCE_COUNT, count);
    if (count === 0) return [];
    const boundsAt = this.memory.allocate(bounds.byteLength);
    this.memory.write(boundsAt, bounds);
    const scratch = this.memory.allocate(this.kernel.bvhScratchSize(count));
    const nodes = this.memory.allocate(count * L.NODE_SIZE + L.NODE_SIZE);
    this.kernel.buildInstances(boundsAt, count, nodes, scratch);
    this.memory.release(boundsAt);
    this.memory.release(scratch);
    this.setWord(L.SCENE_TLAS_NODES, nodes);
    return [nodes];
  }

  private table(bytes: number): number {
    const at = this.memory.allocate(bytes);
    this.tables.push(at);
    return at;
  }

  private setWord(offset: number, value: number): void {
    this.memory.view().setUint32(this.scene + offset, value >>> 0, true);
  }

  private setFloat(offset: number, value: number): void {
    this.memory.view().setFloat32(this.scene + offset, value, true);
  }
}

function isClear(finish: Finish): boolean {
  return (finish.transmission > 0 && finish.metalness < 1) || finish.opacity < 1 || finish.cutOut;
}

function writeRows(view: DataView, p: number, m: Mat4): void {
  for (let row = 0; row < 3; row++)
    for (let column = 0; column < 4; column++) view.setFloat32(p + row * 16 + column * 4, m[column * 4 + row]!, true);
}

/** How the element wears its finish; maps keep their size on scaled placements. */
function writeVariation(view: DataView, p: number, { transform, variation }: RenderedInstance): void {
  const { uM, vM, turnRad, size, hueRad, brightness } = variation ?? PLAIN_WEAR;
  const f = (offset: number, value: number) => {
    view.setFloat32(p + offset, value, true);
  };
  f(L.INSTANCE_UV_SCALE, meanScale(transform) / size);
  f(L.INSTANCE_UV_OFFSET, uM);
  f(L.INSTANCE_UV_OFFSET + 4, vM);
  f(L.INSTANCE_UV_TURN, Math.cos(turnRad));
  f(L.INSTANCE_UV_TURN + 4, Math.sin(turnRad));
  f(L.INSTANCE_HUE, Math.cos(hueRad));
  f(L.INSTANCE_HUE + 4, Math.sin(hueRad));
  f(L.INSTANCE_BRIGHTNESS, brightness);
}

function worldBounds({ min, max }: Bounds, m: Mat4, out: Float32Array, at: number): void {
  for (let row = 0; row < 3; row++) {
    let low = m[12 + row]!;
    let high = low;
    for (let axis = 0; axis < 3; axis++) {
      const a = m[axis * 4 + row]! * min[axis]!;
      const b = m[axis * 4 + row]! * max[axis]!;
      low += Math.min(a, b);
      high += Math.max(a, b);
    }
    const margin = 1e-5 * Math.max(Math.abs(low), Math.abs(high), 1);
    out[at + row] = low - margin;
    out[at + 4 + row] = high + margin;
  }
}
