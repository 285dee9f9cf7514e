import { createHash } from 'node:crypto';
import { type Mat4, IDENTITY, translation } from '../../core/geometry/mat4';
import { encodeMesh, type Mesh } from '../../core/geometry/mesh';
import { MeshBuilder, type Point2 } from '../../core/geometry/shapes';
import type { Luminaire, ModelElement, SavedCamera } from '../../core/model/schema';

/** Body of a wall as the tool knows it: an outline with openings, for formats that want more than triangles. */
export interface WallSolid {
  /** In the wall's own frame: x along it, y up; extruded by `depthM` from its front. */
  outline: readonly Point2[];
  holes: readonly (readonly Point2[])[];
  depthM: number;
}

export interface AuthorElement extends ModelElement {
  wall?: WallSolid;
}

export interface StoredMesh {
  hash: string;
  mesh: Mesh;
  bytes: Uint8Array;
}

/** Meshes by what they were made from, so that a rebuild after an edit only makes what is new. */
const made = new Map<string, StoredMesh>();
const byHash = new Map<string, StoredMesh>();

export function meshOf(key: string, make: (b: MeshBuilder) => void): StoredMesh {
  let stored = made.get(key);
  if (!stored) {
    const builder = new MeshBuilder();
    make(builder);
    const mesh = builder.build();
    const bytes = encodeMesh(mesh);
    const hash = createHash('sha256').update(bytes).digest('hex');
    stored = byHash.get(hash) ?? { hash, mesh, bytes };
    made.set(key, stored);
    byHash.set(hash, stored);
  }
  return stored;
}

export function storedMesh(hash: string): StoredMesh | undefined {
  return byHash.get(hash);
}

interface Common {
  id: string;
  name: string;
  class: string;
  storey?: string;
  layer: string;
  option?: string;
  phase?: string;
  at?: Mat4;
}

/** Collects the elements of one state of the model. */
export class Kit {
  readonly elements: AuthorElement[] = [];
  readonly luminaires: Luminaire[] = [];
  readonly cameras: SavedCamera[] = [];

  /** An element of one or more parts, each a mesh (made by its key) in one source material. */
  add(common: Common, parts: readonly (readonly [material: string, key: string, make: (b: MeshBuilder) => void])[]): AuthorElement {
    const element: AuthorElement = {
      id: common.id,
      name: common.name,
      class: common.class,
      storey: common.storey ?? 'Ground floor',
      layer: common.layer,
      option: common.option ?? null,
      phase: common.phase ?? null,
      transform: [...(common.at ?? IDENTITY)],
      parts: parts.map(([material, key, make]) => ({ mesh: meshOf(key, make).hash, material })),
    };
    this.elements.push(element);
    return element;
  }

  /** A box of a size, placed by its lower corner. */
  box(
    common: Omit<Common, 'at'>,
    material: string,
    min: readonly [number, number, number],
    size: readonly [number, number, number],
  ): AuthorElement {
    return this.add({ ...common, at: translation(...min) }, [[material, `box ${size.join(' ')}`, (b) => b.box([0, 0, 0], [...size])]]);
  }

  /** A wall standing on a line, seen from its front (the line runs left to right), with openings. */
  wall(common: Common, material: string, solid: WallSolid): AuthorElement {
    const element = this.add(common, [
      [
        material,
        `wall ${JSON.stringify(solid)}`,
        (b) => {
          wallMesh(b, solid);
        },
      ],
    ]);
    element.wall = solid;
    return element;
  }
}

export function wallMesh(b: MeshBuilder, { outline, holes, depthM }: WallSolid): void {
  b.prism(outline, holes, ([x, z], end) => [x, end ? 0 : depthM, z]);
}

export const rectangle = (x0: number, z0: number, x1: number, z1: number): Point2[] => [
  [x0, z0],
  [x1, z0],
  [x1, z1],
  [x0, z1],
];
