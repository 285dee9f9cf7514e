import * as THREE from 'three';
import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { PLAIN_FINISH, type Finish } from '../../../core/finish/finish';
import { addTo } from '../../../core/grouping';
import { blobOf, meshBounds, type Bounds } from '../../../core/geometry/mesh';
import type { PreparedMesh } from '../../../core/geometry/prepare-mesh';
import { thinOut } from '../../../core/geometry/thin-out';
import { billboardSize } from '../../../core/render/thing-billboard';
import type { SceneInstance } from '../../../core/scene/scene';
import { thingsByMeshes, type KnownThing } from '../../../core/setting/billboards';
import { isThing } from '../../../core/setting/setting-model';
import type { ThingKind } from '../../../core/setting/thing-kind';
import { variesColour } from './finish-shaders';
import type { CastParts } from './picking';
import { seenSizes, type SeenFrom } from './seen-sizes';
import { LEVELS, THINNED, thingLevels } from './thing-levels';

type MeshOf = (hash: string) => PreparedMesh | undefined;

/** All members that consist of the same meshes in the same finishes. */
interface Shape {
  /** Of the first member; the others' differ in where they stand. */
  parts: readonly SceneInstance[];
  members: readonly (readonly SceneInstance[])[];
  firstMember: number;
  /** What is drawn at each level, made when it is first needed: a mesh of each part, and where the members stand that it is drawn for. */
  levels: (Level | undefined)[];
}
interface Level {
  places: THREE.InstancedBufferAttribute;
  meshes: THREE.InstancedMesh[];
}
interface Billboard {
  geometry: THREE.BufferGeometry;
  material: THREE.Material;
}

const BILLBOARD_FINISH: Finish = { ...PLAIN_FINISH, id: 'billboard', name: 'Billboard', family: 'ground', roughness: 1 };
const TEXTURE_EDGE = 0.35;

/**
 * Planting and entourage in the working picture: one geometry for each kind of it, however many there are, and the less detail the
 * smaller they look. Far away a billboard by the kernel stands for one.
 */
export class ThingsOnStage {
  /** What rays meet. */
  readonly parts: CastParts = {
    instances: [],
    spheres: new Float32Array(0),
    restingMesh: (part) => this.meshOf(this.parts.instances[part]!.mesh)!,
  };
  readonly boxes: THREE.Box3[] = [];
  /** Another one whenever other things are drawn, or elsewhere. */
  version = 0;
  private shapes: Shape[] = [];
  private shown: readonly SceneInstance[] = [];
  private spheres = new Float32Array(0);
  private shapeOf = new Uint16Array(0);
  private triangles: [number, number, number, number][] = [];
  private levels: Int8Array = new Int8Array(0);
  private meshOf: MeshOf = () => undefined;
  private known: (meshes: readonly string[]) => KnownThing | undefined = () => undefined;
  /** Geometries by mesh and level; billboards by address, once their picture has arrived. */
  private readonly geometries = new Map<string, THREE.BufferGeometry>();
  private readonly billboards = new Map<string, Billboard | undefined>();
  private readonly textures = new THREE.TextureLoader();

  /** Meshes can be thinned. */
  private canThin = false;

  constructor(
    private readonly root: THREE.Object3D,
    private readonly materialOf: (instance: SceneInstance) => THREE.Material,
    private readonly materialFor: (finish: Finish) => THREE.MeshStandardMaterial | THREE.MeshLambertMaterial,
    /** Another frame is needed: a picture has arrived. */
    private readonly arrived: () => void,
  ) {
    void MeshoptSimplifier.ready.then(() => {
      this.canThin = true;
      for (const shape of this.shapes) {
        this.drop(shape);
        this.place(shape);
      }
      this.arrived();
    });
  }

  setKinds(kinds: Iterable<ThingKind>): void {
    this.known = thingsByMeshes(kinds);
  }

  /** Goes over to the things of another scene. False: some meshes were not there. */
  set(instances: readonly SceneInstance[], meshOf: MeshOf): boolean {
    this.meshOf = meshOf;
    const all = instances.filter(isThing);
    const there = all.filter(({ mesh }) => meshOf(mesh));
    if (there.length === this.shown.length && there.every((instance, i) => instance === this.shown[i])) return there.length === all.length;
    this.shown = there;
    this.version++;
    this.build();
    return there.length === all.length;
  }

  /** Number of parts. */
  get count(): number {
    return this.shown.length;
  }

  /** Where what wears a finish stands, finish by finish. */
  worn(): Pick<CastParts, 'instances' | 'spheres'>[] {
    return this.shapes.flatMap(({ parts, members, firstMember }) => {
      const spheres = this.spheres.subarray(firstMember * 4, (firstMember + members.length) * 4);
      return parts.map((part) => ({ instances: [part], spheres }));
    });
  }

  assignAll(): void {
    for (const { parts, levels } of this.shapes)
      for (const level of levels.slice(0, LEVELS.billboard))
        for (const [k, mesh] of level?.meshes.entries() ?? []) mesh.material = this.materialOf(parts[k]!);
  }

  /** Settles how each is drawn, seen from a place, with so many triangles at most; true: some are drawn otherwise than before. */
  look(from: SeenFrom, budget: number): boolean {
    if (this.shapes.length === 0) return false;
    const sizes = seenSizes(this.spheres, from);
    const away = Float32Array.from(sizes, (_, i) => Math.hypot(this.spheres[i * 4]! - from.eye[0], this.spheres[i * 4 + 1]! - from.eye[1]));
    const levels = thingLevels(sizes, away, this.shapeOf, this.triangles, budget);
    if (levels.every((level, i) => level === this.levels[i])) return false;
    this.levels = levels;
    for (const shape of this.shapes) this.place(shape);
    return true;
  }

  clear(): void {
    this.shown = [];
    this.build();
    for (const geometry of this.geometries.values()) geometry.dispose();
    this.geometries.clear();
    for (const billboard of this.billboards.values()) billboard?.geometry.dispose();
    this.billboards.clear();
  }

  private build(): void {
    for (const shape of this.shapes) this.drop(shape);
    const members = new Map<string, SceneInstance[]>();
    for (const instance of this.shown) addTo(members, instance.element, instance);
    const shapes = new Map<string, SceneInstance[][]>();
    for (const parts of members.values()) {
      const key = parts.map(({ mesh, finish, emissionScale }) => `${mesh} ${finish.id} ${emissionScale.toFixed(3)}`).join('|');
      addTo(shapes, key, parts);
    }
    this.spheres = new Float32Array(members.size * 4);
    this.shapeOf = new Uint16Array(members.size);
    this.levels = new Int8Array(members.size).fill(-2);
    this.triangles = [];
    this.boxes.length = 0;
    let first = 0;
    this.shapes = [...shapes.values()].map((list, number) => {
      const shape = this.shape(list, number, first);
      first += list.length;
      return shape;
    });
    const ordered = this.shapes.flatMap((shape) => shape.members.map((parts, i) => ({ parts, sphere: (shape.firstMember + i) * 4 })));
    const spheres = new Float32Array(this.shown.length * 4);
    const instances: SceneInstance[] = [];
    for (const { parts, sphere } of ordered)
      for (const part of parts) {
        spheres.set(this.spheres.subarray(sphere, sphere + 4), instances.length * 4);
        instances.push(part);
      }
    Object.assign(this.parts, { instances, spheres });
  }

  private shape(members: readonly (readonly SceneInstance[])[], number: number, firstMember: number): Shape {
    const parts = members[0]!;
    const box = new THREE.Box3();
    for (const { mesh } of parts) {
      const { min, max } = this.boundsOf(mesh);
      box.union(new THREE.Box3(new THREE.Vector3(...min), new THREE.Vector3(...max)));
    }
    const [sphere, all] = [box.getBoundingSphere(new THREE.Sphere()), new THREE.Box3()];
    for (const [i, [part]] of members.entries()) {
      const matrix = new THREE.Matrix4().fromArray([...part!.transform]);
      const own = sphere.clone().applyMatrix4(matrix);
      this.spheres.set([...own.center.toArray(), own.radius], (firstMember + i) * 4);
      this.shapeOf[firstMember + i] = number;
      all.union(own.getBoundingBox(new THREE.Box3()));
    }
    this.boxes.push(all);
    const full = parts.reduce((sum, { mesh }) => sum + this.meshOf(mesh)!.indices.length / 3, 0);
    this.triangles.push([...THINNED.map((share) => Math.ceil(full * share)), 4] as [number, number, number, number]);
    return { parts, members, firstMember, levels: [undefined, undefined, undefined, undefined] };
  }

  private drop({ levels }: Shape): void {
    for (const level of levels.splice(0))
      for (const mesh of level?.meshes ?? []) {
        this.root.remove(mesh);
        mesh.dispose();
      }
    levels.push(undefined, undefined, undefined, undefined);
  }

  /** What a level is drawn with; a billboard that has not arrived, or that nobody has, is stood for by the thinnest. */
  private levelOf(shape: Shape, level: number): Level {
    const known = shape.levels[level];
    if (known) return known;
    const { parts, members } = shape;
    const billboard = level === LEVELS.billboard ? this.billboardOf(shape) : undefined;
    if (level === LEVELS.billboard && !billboard) return this.levelOf(shape, LEVELS.thinner);
    const places = new THREE.InstancedBufferAttribute(new Float32Array(members.length * 16), 16);
    const meshes = billboard
      ? [this.instanced(billboard.geometry, billboard.material, places)]
      : parts.map((part) => this.instanced(this.geometryOf(part.mesh, part.finish, level), this.materialOf(part), places));
    // It would lie in its own shadow.
    if (billboard) meshes[0]!.receiveShadow = false;
    return (shape.levels[level] = { places, meshes });
  }

  private instanced(geometry: THREE.BufferGeometry, material: THREE.Material, places: THREE.InstancedBufferAttribute): THREE.InstancedMesh {
    const mesh = new THREE.InstancedMesh(geometry, material, 0);
    mesh.instanceMatrix = places;
    mesh.frustumCulled = false;
    mesh.castShadow = !material.transparent;
    mesh.receiveShadow = true;
    this.root.add(mesh);
    return mesh;
  }

  /** Writes where the members of each level stand. */
  private place(shape: Shape): void {
    const { members, firstMember } = shape;
    const counts = new Map<Level, number>(shape.levels.flatMap((level) => (level ? [[level, 0]] : [])));
    for (const [i, [part]] of members.entries()) {
      const number = this.levels[firstMember + i]!;
      if (number < 0) continue;
      const level = this.levelOf(shape, number);
      const count = counts.get(level) ?? 0;
      level.places.array.set(part!.transform, count * 16);
      counts.set(level, count + 1);
    }
    for (const [{ places, meshes }, count] of counts) {
      places.clearUpdateRanges();
      places.addUpdateRange(0, count * 16);
      places.needsUpdate = true;
      for (const mesh of meshes) {
        mesh.count = count;
        mesh.visible = count > 0;
      }
    }
  }

  private boundsOf(hash: string): Bounds {
    return meshBounds(this.meshOf(hash)!.positions);
  }

  private geometryOf(hash: string, finish: Finish, wanted: number): THREE.BufferGeometry {
    const level = this.canThin ? wanted : 0;
    const key = `${hash} ${String(level)} ${variesColour(finish) ? 'varied' : ''}`;
    let geometry = this.geometries.get(key);
    if (!geometry) {
      const full = this.meshOf(hash)!;
      const mesh = level === 0 || full.indices.length < 180 ? full : thinOut(full, THINNED[level]!);
      geometry = new THREE.BufferGeometry();
      geometry.setAttribute('position', new THREE.BufferAttribute(mesh.positions, 3));
      geometry.setAttribute('normal', new THREE.BufferAttribute(mesh.normals, 3));
      geometry.setAttribute('uv', new THREE.BufferAttribute(mesh.uvs, 2));
      for (const [i, uvs] of (mesh.furtherUvs ?? []).entries())
        geometry.setAttribute(`over${String(i + 1)}`, new THREE.BufferAttribute(uvs, 2));
      if (variesColour(finish))
        geometry.setAttribute(
          'variation',
          new THREE.BufferAttribute(
            Float32Array.from({ length: mesh.positions.length }, (_, i) => (i % 3 === 1 ? 0 : 1)),
            3,
          ),
        );
      geometry.setIndex(new THREE.BufferAttribute(mesh.indices, 1));
      this.geometries.set(key, geometry);
    }
    return geometry;
  }

  /** Two pictures crosswise; undefined until they have arrived, or where nobody knows what it is. */
  private billboardOf({ parts }: Shape): Billboard | undefined {
    const thing = this.known(parts.map(({ mesh }) => blobOf(mesh)));
    if (!thing || thing.kind.group === 'surround') return undefined;
    const { kind, form, state } = thing;
    const mark = form.parts[0]?.mesh.slice(0, 12) ?? '';
    const address = `/api/things/${kind.id}/${form.id}/billboard.png?mark=${mark}${state ? `&state=${state}` : ''}`;
    if (!this.billboards.has(address)) {
      this.billboards.set(address, undefined);
      this.textures.load(address, (texture) => {
        texture.colorSpace = THREE.SRGBColorSpace;
        const material = this.materialFor({ ...BILLBOARD_FINISH, id: `billboard ${address}` });
        material.map = texture;
        material.alphaTest = TEXTURE_EDGE;
        material.needsUpdate = true;
        this.billboards.set(address, { geometry: crosswise(billboardSize(form)), material });
        // Shapes may have been gathered anew meanwhile.
        for (const shape of this.shapes) this.place(shape);
        this.arrived();
      });
    }
    return this.billboards.get(address);
  }
}

/** Two upright rectangles with the foot at the origin; lit as what looks up, from either side. */
function crosswise({ widthM, heightM }: { widthM: number; heightM: number }): THREE.BufferGeometry {
  const half = widthM / 2;
  const geometry = new THREE.BufferGeometry();
  const corners = (place: (a: number) => [number, number], from: number) =>
    [[-1, 0], [1, 0], [1, 1], [-1, 1]].map(([a, up]) => ({ at: [...place(a! * half), up! * heightM], uv: [from + (a! + 1) / 4, up!] })); // prettier-ignore
  // The first is seen from its front, along y; the second from its right, along -x.
  const all = [...corners((a) => [a, 0], 0), ...corners((a) => [0, a], 0.5)];
  geometry.setAttribute('position', new THREE.BufferAttribute(Float32Array.from(all.flatMap(({ at }) => at)), 3));
  geometry.setAttribute('normal', new THREE.BufferAttribute(Float32Array.from(all.flatMap(() => [0, 0, 1])), 3));
  geometry.setAttribute('uv', new THREE.BufferAttribute(Float32Array.from(all.flatMap(({ uv }) => uv)), 2));
  geometry.setIndex([0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7]);
  return geometry;
}
