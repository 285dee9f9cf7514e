import * as THREE from 'three';
import { PLAIN_VARIATION, type Finish } from '../../../core/finish/finish';
import { mapSetsOf } from '../../../core/scene/material-pictures';
import { uvSet, type PreparedMesh } from '../../../core/geometry/prepare-mesh';
import { determinant, meanScale, type Mat4 } from '../../../core/geometry/mat4';
import { meshBounds, type Bounds } from '../../../core/geometry/mesh';
import { distance } from '../../../core/geometry/vec3';
import type { SceneInstance } from '../../../core/scene/scene';
import type { Cuts } from '../../../core/project/sections';
import { cutMark } from './cut-faces';
import { variesColour } from './finish-shaders';

/** What a part is drawn with: while the camera rests, and while it moves. Often the same. */
export interface PartMeshes {
  resting: PreparedMesh;
  moving: PreparedMesh;
}

/** How many sets of coordinates the maps of a finish lie by beside the first. */
const furtherSets = (finish: Finish | undefined): number => Math.max(0, mapSetsOf(finish?.maps ?? null).length - 1);

/** Which parts are drawn: those that look at least so large. */
export interface Chosen {
  /** How large each part looks, in pixels; 0: out of sight. */
  sizesPx: Float32Array;
  leastPx: number;
  moving: boolean;
}

/**
 * Parts that are drawn with one call: their meshes, put in place, in one geometry. A part that moves is rewritten where it
 * stands; another set of parts is another batch. Which of them are drawn is a matter of the index alone, so that it can be
 * chosen anew for each frame.
 */
export class SurfaceBatch {
  readonly instances: SceneInstance[];
  readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.Material>;
  /** x y z and radius of a sphere about each part, metres. */
  readonly spheres: Float32Array;
  /** Least and greatest x y z of each part's box. */
  private readonly boxes: Float32Array;
  /** Of all parts at rest, and while moving. */
  readonly restingTriangles: number;
  readonly movingTriangles: number;
  private readonly meshes: readonly PartMeshes[];
  private readonly vertices: { positions: THREE.BufferAttribute; normals: THREE.BufferAttribute; uvs: THREE.BufferAttribute };
  /** Further sets of coordinates that its finish's maps lie by, from set 1 on. */
  private readonly further: readonly THREE.BufferAttribute[];
  /** First vertex of each part's mesh at rest, and of the one while moving. */
  private readonly firstResting: Uint32Array;
  private readonly firstMoving: Uint32Array;
  private readonly index: THREE.BufferAttribute;
  private readonly whole: number;
  private showsAll = false;
  private places: Map<SceneInstance, number> | undefined;
  private elementIds: Set<string> | undefined;
  private seenRange = { start: 0, count: 0 };
  private shadowRange = { start: 0, count: 0 };

  /** Those of `before` have some of the parts in place already. */
  constructor(instances: readonly SceneInstance[], meshesOf: (hash: string) => PartMeshes, before: readonly SurfaceBatch[] = []) {
    this.instances = [...instances];
    const parts = instances.length;
    this.meshes = instances.map((i) => meshesOf(i.mesh));
    this.firstResting = new Uint32Array(parts);
    this.firstMoving = new Uint32Array(parts);
    let vertices = 0;
    let corners = 0;
    let movingCorners = 0;
    for (const [i, { resting, moving }] of this.meshes.entries()) {
      this.firstResting[i] = vertices;
      vertices += resting.positions.length / 3;
      this.firstMoving[i] = moving === resting ? this.firstResting[i] : vertices;
      if (moving !== resting) vertices += moving.positions.length / 3;
      corners += resting.indices.length;
      movingCorners += moving.indices.length;
    }
    this.whole = corners;
    this.restingTriangles = corners / 3;
    this.movingTriangles = movingCorners / 3;
    this.spheres = new Float32Array(parts * 4);
    this.boxes = new Float32Array(parts * 6);
    this.vertices = {
      positions: new THREE.BufferAttribute(new Float32Array(vertices * 3), 3),
      normals: new THREE.BufferAttribute(new Float32Array(vertices * 3), 3),
      uvs: new THREE.BufferAttribute(new Float32Array(vertices * 2), 2),
    };
    this.further = Array.from(
      { length: furtherSets(instances[0]?.finish) },
      () => new THREE.BufferAttribute(new Float32Array(vertices * 2), 2),
    );
    const known = before.map((batch) => ({ batch, places: batch.placesOfParts() }));
    for (let i = 0; i < parts; i++) {
      const taken = known.some(({ batch, places }) => {
        const old = places.get(instances[i]!);
        return old !== undefined && this.takeOver(i, batch, old);
      });
      if (!taken) this.place(i);
    }
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute('position', this.vertices.positions);
    geometry.setAttribute('normal', this.vertices.normals);
    geometry.setAttribute('uv', this.vertices.uvs);
    for (const [i, attribute] of this.further.entries()) geometry.setAttribute(`over${String(i + 1)}`, attribute);
    if (instances[0] && variesColour(instances[0].finish)) geometry.setAttribute('variation', this.variationOf(vertices));
    this.index = new THREE.BufferAttribute(new Uint32Array(corners), 1);
    geometry.setIndex(this.index);
    this.mesh = new THREE.Mesh(geometry);
    this.mesh.matrixAutoUpdate = false;
    this.mesh.onBeforeRender = () => {
      geometry.setDrawRange(this.seenRange.start, this.seenRange.count);
    };
    this.mesh.onBeforeShadow = () => {
      geometry.setDrawRange(this.shadowRange.start, this.shadowRange.count);
    };
    this.bound();
  }

  /** Marks each part for what sections do to it; without cuts no marks are needed. */
  markCuts(cuts: Cuts | undefined): void {
    const { geometry } = this.mesh;
    if (!cuts) {
      geometry.deleteAttribute('cut');
      return;
    }
    const marks = new Uint8Array(geometry.getAttribute('position').count * 4);
    for (const [i, instance] of this.instances.entries()) {
      const { resting, moving } = this.meshes[i]!;
      const mark = cutMark(cuts, instance, resting);
      const fill = (first: number, mesh: PreparedMesh) => {
        for (let v = first; v < first + mesh.positions.length / 3; v++) marks.set(mark, v * 4);
      };
      fill(this.firstResting[i]!, resting);
      if (moving !== resting) fill(this.firstMoving[i]!, moving);
    }
    geometry.setAttribute('cut', new THREE.BufferAttribute(marks, 4, true));
  }

  /** The same parts drawn with something else as well: those that are seen, or those that throw shadows. */
  twin<M extends THREE.Material>(material: M, of: 'seen' | 'shadow' = 'seen'): THREE.Mesh<THREE.BufferGeometry, M> {
    const twin = new THREE.Mesh(this.mesh.geometry, material);
    twin.matrixAutoUpdate = false;
    twin.onBeforeRender = () => {
      const { start, count } = of === 'seen' ? this.seenRange : this.shadowRange;
      this.mesh.geometry.setDrawRange(start, count);
    };
    return twin;
  }

  /** Ids of the elements whose parts these are. */
  get elements(): ReadonlySet<string> {
    return (this.elementIds ??= new Set(this.instances.map(({ element }) => element)));
  }

  /** A part's mesh as it is at rest. */
  restingMesh(part: number): PreparedMesh {
    return this.meshes[part]!.resting;
  }

  trianglesOf(part: number, moving: boolean): number {
    return this.meshes[part]![moving ? 'moving' : 'resting'].indices.length / 3;
  }

  /** Whether it is of just these parts, in whatever order. */
  isOf(instances: readonly SceneInstance[]): boolean {
    if (instances.length !== this.instances.length) return false;
    const places = this.placesOfParts();
    return instances.every((instance) => places.has(instance));
  }

  /** Whether the same parts of the same meshes would be a batch like this one. */
  holds(instances: readonly SceneInstance[], meshesOf: (hash: string) => PartMeshes): boolean {
    if (instances.length !== this.instances.length) return false;
    return instances.every((instance, i) => {
      const before = this.instances[i]!;
      if (instance !== before && (instance.element !== before.element || instance.part !== before.part)) return false;
      if (instance.finish.origin !== before.finish.origin) return false;
      if (instance.finish !== before.finish && furtherSets(instance.finish) !== this.further.length) return false;
      if (instance.variation !== before.variation && JSON.stringify(instance.variation) !== JSON.stringify(before.variation)) return false;
      const { resting, moving } = meshesOf(instance.mesh);
      return resting === this.meshes[i]!.resting && moving === this.meshes[i]!.moving;
    });
  }

  /** The same parts again; true: some of them are elsewhere. */
  update(instances: readonly SceneInstance[]): boolean {
    let moved = false;
    for (const [i, instance] of instances.entries()) if (this.replace(i, instance)) moved = true;
    if (moved) this.bound();
    return moved;
  }

  /** Takes instances in the place of others, where they only stand elsewhere; false: another batch is needed, this one is as it was. */
  move(from: readonly SceneInstance[], to: readonly SceneInstance[]): boolean {
    if (from.length !== to.length) return false;
    const known = this.placesOfParts();
    const places = from.map((instance) => known.get(instance));
    const same = (a: SceneInstance, b: SceneInstance) => a.element === b.element && a.part === b.part && a.mesh === b.mesh;
    if (!from.every((instance, k) => places[k] !== undefined && same(instance, to[k]!))) return false;
    for (const [k, place] of places.entries()) {
      this.replace(place!, to[k]!);
    }
    this.bound();
    return true;
  }

  private placesOfParts(): ReadonlyMap<SceneInstance, number> {
    return (this.places ??= new Map(this.instances.map((instance, i) => [instance, i])));
  }

  private replace(i: number, instance: SceneInstance): boolean {
    const before = this.instances[i]!;
    const moved = before.transform !== instance.transform;
    this.instances[i] = instance;
    if (this.places && before !== instance) {
      this.places.delete(before);
      this.places.set(instance, i);
    }
    if (!moved) return false;
    this.place(i);
    this.stale(this.firstResting[i]!, this.meshes[i]!.resting);
    if (this.meshes[i]!.moving !== this.meshes[i]!.resting) this.stale(this.firstMoving[i]!, this.meshes[i]!.moving);
    return true;
  }

  /** Draws every part as it is at rest. */
  showAll(): void {
    if (this.showsAll) return;
    let at = 0;
    for (let i = 0; i < this.instances.length; i++) at = this.put(i, false, at);
    this.seenRange = this.shadowRange = { start: 0, count: at };
    this.upload(at);
    this.showsAll = true;
  }

  /** Draws some of the parts; `shadow` chooses those that throw one, where that has to be drawn anew. */
  show(seen: Chosen, shadow?: Chosen): void {
    const start = this.choose(seen, 0);
    const end = shadow ? this.choose(shadow, start) : start;
    this.seenRange = { start: 0, count: start };
    this.shadowRange = { start, count: end - start };
    this.upload(end);
    this.showsAll = false;
  }

  /** Frees the GPU. What is in place stays here, and is uploaded again when the batch is drawn again. */
  dispose(): void {
    this.mesh.geometry.dispose();
  }

  /** Bytes of its vertices and index. */
  get bytes(): number {
    const { positions, normals, uvs } = this.vertices;
    return [positions, normals, uvs, ...this.further, this.index].reduce((sum, { array }) => sum + array.byteLength, 0);
  }

  private choose({ sizesPx, leastPx, moving }: Chosen, start: number): number {
    let at = start;
    for (let i = 0; i < sizesPx.length; i++) if (sizesPx[i]! >= leastPx) at = this.put(i, moving, at);
    return at;
  }

  /** Writes a part's triangles into the index; where the next ones go. */
  private put(i: number, moving: boolean, at: number): number {
    const { indices } = this.meshes[i]![moving ? 'moving' : 'resting'];
    const base = (moving ? this.firstMoving : this.firstResting)[i]!;
    const index = this.room(at + indices.length);
    if (determinant(this.instances[i]!.transform) < 0)
      for (let k = 0; k < indices.length; k += 3) {
        index[at + k] = base + indices[k + 2]!;
        index[at + k + 1] = base + indices[k + 1]!;
        index[at + k + 2] = base + indices[k]!;
      }
    else for (let k = 0; k < indices.length; k++) index[at + k] = base + indices[k]!;
    return at + indices.length;
  }

  /** The index with room for so many corners: what is seen and what throws shadows may together be more than all parts once. */
  private room(corners: number): Uint32Array {
    if (corners > this.index.array.length) {
      const larger = new Uint32Array(Math.max(corners, this.whole * 2));
      larger.set(this.index.array);
      this.index.array = larger;
      // A buffer of another size is another buffer on the GPU.
      this.mesh.geometry.dispose();
      Object.assign(this.index, { count: larger.length });
    }
    return this.index.array as Uint32Array;
  }

  private upload(corners: number): void {
    this.index.clearUpdateRanges();
    this.index.addUpdateRange(0, corners);
    this.index.needsUpdate = true;
  }

  private stale(first: number, { positions }: PreparedMesh): void {
    const count = positions.length / 3;
    const { positions: p, normals, uvs } = this.vertices;
    for (const attribute of [p, normals, uvs, ...this.further]) {
      attribute.addUpdateRange(first * attribute.itemSize, count * attribute.itemSize);
      attribute.needsUpdate = true;
    }
  }

  /** Cosine and sine of each vertex's turn of hue, and its brightness. */
  private variationOf(vertices: number): THREE.BufferAttribute {
    const out = new Float32Array(vertices * 3);
    for (const [i, { variation = PLAIN_VARIATION }] of this.instances.entries()) {
      const [c, s] = [Math.cos(variation.hueRad), Math.sin(variation.hueRad)];
      const end = this.firstResting[i + 1] ?? vertices;
      for (let v = this.firstResting[i]!; v < end; v++) out.set([c, s, variation.brightness], v * 3);
    }
    return new THREE.BufferAttribute(out, 3);
  }

  private bound(): void {
    const box = new THREE.Box3();
    const part = new THREE.Box3();
    for (let o = 0; o < this.boxes.length; o += 6) {
      part.min.fromArray(this.boxes, o);
      part.max.fromArray(this.boxes, o + 3);
      box.union(part);
    }
    this.mesh.geometry.boundingBox = box;
    this.mesh.geometry.boundingSphere = box.getBoundingSphere(new THREE.Sphere());
  }

  /** Copies what another batch has put in place already; false: it has other meshes. */
  private takeOver(i: number, before: SurfaceBatch, old: number): boolean {
    const { resting, moving } = this.meshes[i]!;
    const theirs = before.meshes[old]!;
    if (this.instances[i]!.finish.origin !== before.instances[old]!.finish.origin) return false;
    if (theirs.resting !== resting || theirs.moving !== moving || this.further.length > 0) return false;
    const count = (resting.positions.length + (moving === resting ? 0 : moving.positions.length)) / 3;
    for (const kind of ['positions', 'normals', 'uvs'] as const) {
      const size = this.vertices[kind].itemSize;
      const from = before.firstResting[old]! * size;
      this.vertices[kind].array.set(before.vertices[kind].array.subarray(from, from + count * size), this.firstResting[i]! * size);
    }
    this.spheres.set(before.spheres.subarray(old * 4, old * 4 + 4), i * 4);
    this.boxes.set(before.boxes.subarray(old * 6, old * 6 + 6), i * 6);
    return true;
  }

  private place(i: number): void {
    const { transform } = this.instances[i]!;
    const { resting, moving } = this.meshes[i]!;
    this.placeMesh(resting, this.firstResting[i]!, this.instances[i]!);
    if (moving !== resting) this.placeMesh(moving, this.firstMoving[i]!, this.instances[i]!);
    const { min, max } = boundsOf(resting);
    for (let row = 0; row < 3; row++) {
      let middle = transform[12 + row]!;
      let half = 0;
      for (let axis = 0; axis < 3; axis++) {
        const m = transform[axis * 4 + row]!;
        middle += (m * (min[axis]! + max[axis]!)) / 2;
        half += (Math.abs(m) * (max[axis]! - min[axis]!)) / 2;
      }
      this.spheres[i * 4 + row] = middle;
      this.boxes[i * 6 + row] = middle - half;
      this.boxes[i * 6 + 3 + row] = middle + half;
    }
    const largest = Math.max(columnLength(transform, 0), columnLength(transform, 4), columnLength(transform, 8));
    this.spheres[i * 4 + 3] = (largest * distance(min, max)) / 2;
  }

  private placeMesh(mesh: PreparedMesh, first: number, { transform: m, variation = PLAIN_VARIATION, finish }: SceneInstance): void {
    const { positions, normals, uvs } = mesh;
    const px = this.vertices.positions.array;
    const nx = this.vertices.normals.array;
    const larger = meanScale(m) / variation.size;
    const turnC = Math.cos(variation.turnRad) * larger;
    const turnS = Math.sin(variation.turnRad) * larger;
    const lay = (ux: THREE.TypedArray, uvs: Float32Array) => {
      if (turnC === 1 && variation.uM === 0 && variation.vM === 0) ux.set(uvs, first * 2);
      else
        for (let k = 0, at = first * 2; k < uvs.length; k += 2, at += 2) {
          ux[at] = turnC * uvs[k]! + turnS * uvs[k + 1]! + variation.uM;
          ux[at + 1] = turnC * uvs[k + 1]! - turnS * uvs[k]! + variation.vM;
        }
    };
    const ux = this.vertices.uvs.array;
    lay(ux, uvs);
    for (const [i, { array }] of this.further.entries()) lay(array, uvSet(mesh, i + 1));
    // Millions of vertices pass here: numbers by name, nothing made on the way, no root where nothing is stretched.
    const m0 = m[0]!, m1 = m[1]!, m2 = m[2]!, m4 = m[4]!, m5 = m[5]!, m6 = m[6]!; // prettier-ignore
    const m8 = m[8]!, m9 = m[9]!, m10 = m[10]!, m12 = m[12]!, m13 = m[13]!, m14 = m[14]!; // prettier-ignore
    for (let k = 0, at = first * 3; k < positions.length; k += 3, at += 3) {
      const x = positions[k]!;
      const y = positions[k + 1]!;
      const z = positions[k + 2]!;
      px[at] = m0 * x + m4 * y + m8 * z + m12;
      px[at + 1] = m1 * x + m5 * y + m9 * z + m13;
      px[at + 2] = m2 * x + m6 * y + m10 * z + m14;
    }
    const rigid = isRigid(m);
    const [n0, n1, n2, n3, n4, n5, n6, n7, n8] = rigid
      ? [m0, m1, m2, m4, m5, m6, m8, m9, m10] as const
      : new THREE.Matrix3().getNormalMatrix(new THREE.Matrix4().fromArray(m)).elements; // prettier-ignore
    for (let k = 0, at = first * 3; k < normals.length; k += 3, at += 3) {
      const a = normals[k]!;
      const b = normals[k + 1]!;
      const c = normals[k + 2]!;
      const u = n0 * a + n3 * b + n6 * c;
      const v = n1 * a + n4 * b + n7 * c;
      const w = n2 * a + n5 * b + n8 * c;
      const unit = rigid ? 1 : 1 / (Math.sqrt(u * u + v * v + w * w) || 1);
      nx[at] = u * unit;
      nx[at + 1] = v * unit;
      nx[at + 2] = w * unit;
    }
    if (finish.origin === 'world') layFromWorld(mesh, m, first, px as Float32Array, ux as Float32Array);
  }
}

/** Moves the maps of a placed mesh so that they begin at the world's origin on every face: by how far the part stands from it along u and v. */
function layFromWorld({ indices, uvs: { length } }: PreparedMesh, m: Mat4, first: number, places: Float32Array, uvs: Float32Array): void {
  const p = places.subarray(first * 3);
  const laid = uvs.subarray(first * 2, first * 2 + length);
  const before = laid.slice();
  const moved = new Uint8Array(length / 2);
  for (let t = 0; t < indices.length; t += 3) {
    const corners = [indices[t]!, indices[t + 1]!, indices[t + 2]!] as const;
    // A vertex belongs to one frame only, and the triangles about it share that.
    if (corners.every((v) => moved[v])) continue;
    const [a, b, c] = corners;
    const at = (v: number, k: number) => before[v * 2 + k]! - before[a * 2 + k]!;
    const [u1, v1, u2, v2] = [at(b, 0), at(b, 1), at(c, 0), at(c, 1)];
    const det = u1 * v2 - u2 * v1;
    if (Math.abs(det) < 1e-12) continue;
    let [alongU, alongV, uu, vv] = [0, 0, 0, 0];
    for (let k = 0; k < 3; k++) {
      const [e, f] = [p[b * 3 + k]! - p[a * 3 + k]!, p[c * 3 + k]! - p[a * 3 + k]!];
      const [pu, pv] = [(e * v2 - f * v1) / det, (f * u1 - e * u2) / det];
      alongU += pu * m[12 + k]!;
      alongV += pv * m[12 + k]!;
      uu += pu * pu;
      vv += pv * pv;
    }
    for (const v of corners) {
      if (moved[v]) continue;
      laid[v * 2]! += alongU / uu;
      laid[v * 2 + 1]! += alongV / vv;
      moved[v] = 1;
    }
  }
}

/** Whether something is only turned, mirrored and moved. */
function isRigid(m: Mat4): boolean {
  const dot = (a: number, b: number) => m[a]! * m[b]! + m[a + 1]! * m[b + 1]! + m[a + 2]! * m[b + 2]!;
  return [0, 4, 8].every((a) => [0, 4, 8].every((b) => Math.abs(dot(a, b) - Number(a === b)) < 1e-5));
}

const columnLength = (m: Mat4, at: number) => Math.hypot(m[at]!, m[at + 1]!, m[at + 2]!);

const known = new WeakMap<PreparedMesh, Bounds>();

function boundsOf(mesh: PreparedMesh): Bounds {
  let bounds = known.get(mesh);
  if (!bounds) known.set(mesh, (bounds = meshBounds(mesh.positions)));
  return bounds;
}
