/**
 * A triangle mesh as it travels and is stored: "DMSH", version, vertex count, triangle count, then positions (f32x3, metres)
 * and indices (u32x3, anticlockwise seen from outside), and where the author has laid pictures on it, their coordinates
 * (f32x2 for each vertex, set after set), little endian. Normals and coordinates at true size are derived on arrival (see prepare-mesh.ts), so
 * that every format gets the same ones.
 */
export interface Mesh {
  /** x y z for each vertex. */
  readonly positions: Float32Array;
  /** Three vertex numbers for each triangle. */
  readonly indices: Uint32Array;
  /** The author's own u v for each vertex: one repeat of a picture a unit, v upwards. */
  readonly pictureUvs?: Float32Array | undefined;
  /** The same for pictures that lie otherwise (SourceMaterial.texture.sets): set 1 and on. */
  readonly furtherUvs?: readonly Float32Array[] | undefined;
}

export type MeshFault = 'not-a-mesh' | 'cut-off' | 'too-large' | 'bad-number' | 'bad-index';

const MAGIC = 0x48534d44;
const VERSION = 1;
const HEADER = 16;
export const MAX_MESH_VERTICES = 16_000_000;
/** Most sets of picture coordinates that a mesh has. */
export const MAX_UV_SETS = 8;

export function encodeMesh(mesh: Mesh): Uint8Array<ArrayBuffer> {
  const { pictureUvs, furtherUvs = [] } = mesh;
  const sets = pictureUvs ? [pictureUvs, ...furtherUvs] : [];
  const { blob, positions, indices, uvs } = meshBlob(mesh.positions.length / 3, mesh.indices.length / 3, sets.length);
  positions.set(mesh.positions);
  indices.set(mesh.indices);
  for (const [i, set] of sets.entries()) uvs.set(set, (i * uvs.length) / sets.length);
  return blob;
}

/** A mesh as it travels, still to be filled: the arrays are views of the blob. */
export function meshBlob(vertices: number, triangles: number, sets = 0) {
  const blob = new Uint8Array(HEADER + vertices * (12 + 8 * sets) + triangles * 12);
  const view = new DataView(blob.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, VERSION, true);
  view.setUint32(8, vertices, true);
  view.setUint32(12, triangles, true);
  return {
    blob,
    positions: new Float32Array(blob.buffer, HEADER, vertices * 3),
    indices: new Uint32Array(blob.buffer, HEADER + vertices * 12, triangles * 3),
    /** Set after set. */
    uvs: new Float32Array(blob.buffer, HEADER + vertices * 12 + triangles * 12, vertices * 2 * sets),
  };
}

/** Reads and checks a mesh; anything wrong is returned as a fault, nothing throws. */
export function decodeMesh(bytes: Uint8Array): Mesh | MeshFault {
  if (bytes.byteLength < HEADER) return 'not-a-mesh';
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(0, true) !== MAGIC || view.getUint32(4, true) !== VERSION) return 'not-a-mesh';
  const vertices = view.getUint32(8, true);
  const triangles = view.getUint32(12, true);
  if (vertices > MAX_MESH_VERTICES || triangles > MAX_MESH_VERTICES) return 'too-large';
  const plain = HEADER + vertices * 12 + triangles * 12;
  const sets = bytes.byteLength === plain ? 0 : (bytes.byteLength - plain) / (vertices * 8);
  if (!Number.isInteger(sets) || sets < 0) return 'cut-off';
  if (sets > MAX_UV_SETS) return 'too-large';
  // A Buffer's own slice would share its pool's memory and alignment.
  const copy = Uint8Array.prototype.slice.call(bytes, HEADER);
  const positions = new Float32Array(copy.buffer, 0, vertices * 3);
  const indices = new Uint32Array(copy.buffer, vertices * 12, triangles * 3);
  const [pictureUvs, ...furtherUvs] = Array.from(
    { length: sets },
    (_, i) => new Float32Array(copy.buffer, vertices * (12 + 8 * i) + triangles * 12, vertices * 2),
  );
  if (![positions, ...(pictureUvs ? [pictureUvs] : []), ...furtherUvs].every(allFinite)) return 'bad-number';
  for (let i = 0; i < indices.length; i++) if (indices[i]! >= vertices) return 'bad-index';
  return { positions, indices, ...(pictureUvs && { pictureUvs }), ...(furtherUvs.length > 0 && { furtherUvs }) };
}

/** What is not a number, or without end, makes the sum so. */
function allFinite(values: Float32Array): boolean {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i]!;
  return Number.isFinite(sum);
}

const TURNED = '~';
const AS_LAID = '=';
const FROM_FACES = '^';
/** Before the lays as JSON, which end the key. */
const FACES_LAID = '@';

/** A plane in a mesh's own place: unit normal, and its distance from the origin along it, metres. */
export type Plane = readonly [number, number, number, number];

/** How the maps lie on the flat faces in one plane: turned anticlockwise, then moved, in the mesh's own metres. */
export interface FaceLay {
  plane: Plane;
  turnDeg: number;
  offsetM: readonly [number, number];
}

/** Key of a mesh with its faces turned round. */
export const turnedKey = (key: string): string => `${key}${TURNED}`;
/** Key of a mesh whose pictures lie where its author has laid them. */
export const authoredUvsKey = (key: string): string => `${key}${AS_LAID}`;
export const hasAuthoredUvs = (key: string): boolean => key.slice(blobOf(key).length).includes(AS_LAID);
/** Key of a mesh whose maps begin at a corner of each flat face. */
export const fromFacesKey = (key: string): string => `${key}${FROM_FACES}`;
export const isFromFaces = (key: string): boolean => key.slice(blobOf(key).length).includes(FROM_FACES);
/** Key of a mesh on some faces of which maps are laid by hand. */
export const faceOverrideKey = (key: string, lays: readonly FaceLay[]): string =>
  `${key}${FACES_LAID}${JSON.stringify(lays.map(({ plane, turnDeg, offsetM }) => [...plane, turnDeg, ...offsetM]))}`;
/** Those lays; none in most keys. */
export function faceLaysOf(key: string): FaceLay[] {
  const at = key.indexOf(FACES_LAID);
  if (at < 0) return [];
  const lays = JSON.parse(key.slice(at + 1)) as [number, number, number, number, number, number, number][];
  return lays.map(([x, y, z, d, turnDeg, u, v]) => ({ plane: [x, y, z, d], turnDeg, offsetM: [u, v] }));
}
/** Hash of the blob that a mesh's key stands for. */
export const blobOf = (key: string): string => key.replace(/[~=^@].*$/, '');

/** The mesh of a key, from the one that its blob holds. */
export function meshOfKey(key: string, mesh: Mesh): Mesh {
  if (!key.slice(blobOf(key).length).includes(TURNED)) return mesh;
  const indices = Uint32Array.from(mesh.indices);
  for (let t = 0; t < indices.length; t += 3) [indices[t + 1], indices[t + 2]] = [mesh.indices[t + 2]!, mesh.indices[t + 1]!];
  return { ...mesh, indices };
}

/** Area (m2) by summing triangles. */
export function meshArea({ positions, indices }: Mesh): number {
  let sum = 0;
  for (let t = 0; t < indices.length; t += 3) sum += triangleArea(positions, indices[t]!, indices[t + 1]!, indices[t + 2]!);
  return sum;
}

/** Volume (m3) enclosed by a closed mesh, by the divergence theorem. */
export function meshVolume({ positions: p, indices }: Mesh): number {
  let sum = 0;
  for (let t = 0; t < indices.length; t += 3) {
    const a = indices[t]! * 3;
    const b = indices[t + 1]! * 3;
    const c = indices[t + 2]! * 3;
    sum +=
      p[a]! * (p[b + 1]! * p[c + 2]! - p[b + 2]! * p[c + 1]!) +
      p[a + 1]! * (p[b + 2]! * p[c]! - p[b]! * p[c + 2]!) +
      p[a + 2]! * (p[b]! * p[c + 1]! - p[b + 1]! * p[c]!);
  }
  return sum / 6;
}

function triangleArea(p: Float32Array, i: number, j: number, k: number): number {
  const [ax, ay, az] = [p[j * 3]! - p[i * 3]!, p[j * 3 + 1]! - p[i * 3 + 1]!, p[j * 3 + 2]! - p[i * 3 + 2]!];
  const [bx, by, bz] = [p[k * 3]! - p[i * 3]!, p[k * 3 + 1]! - p[i * 3 + 1]!, p[k * 3 + 2]! - p[i * 3 + 2]!];
  return Math.hypot(ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx) / 2;
}

/**
 * A mesh of loose triangles with one vertex where several lie in the same place, and in the same place of their pictures, by every
 * set of coordinates. `order` names the vertices; without, all in turn.
 */
export function weld(points: ArrayLike<number>, order?: ArrayLike<number>, sets: readonly ArrayLike<number>[] = []): Mesh {
  const known = new Map<string, number>();
  const positions: number[] = [];
  const authoredSets = sets.map((): number[] => []);
  const count = order?.length ?? points.length / 3;
  const indices = new Uint32Array(count - (count % 3));
  for (let k = 0; k < indices.length; k++) {
    const point = order ? order[k]! : k;
    const [x, y, z] = [points[point * 3]!, points[point * 3 + 1]!, points[point * 3 + 2]!];
    const laid = sets.map((uvs) => [uvs[point * 2]!, uvs[point * 2 + 1]!] as const);
    const key = [x, y, z, ...laid.flat()].join(' ');
    let vertex = known.get(key);
    if (vertex === undefined) {
      vertex = positions.length / 3;
      known.set(key, vertex);
      positions.push(x, y, z);
      for (const [i, place] of laid.entries()) authoredSets[i]!.push(...place);
    }
    indices[k] = vertex;
  }
  const [pictureUvs, ...furtherUvs] = authoredSets.map((uvs) => Float32Array.from(uvs));
  return {
    positions: Float32Array.from(positions),
    indices,
    ...(pictureUvs && { pictureUvs }),
    ...(furtherUvs.length > 0 && { furtherUvs }),
  };
}

export interface Bounds {
  min: [number, number, number];
  max: [number, number, number];
}

export function emptyBounds(): Bounds {
  return { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] };
}

export function meshBounds(positions: Float32Array): Bounds {
  const b = emptyBounds();
  for (let i = 0; i < positions.length; i++) {
    const axis = i % 3;
    const v = positions[i]!;
    if (v < b.min[axis]!) b.min[axis] = v;
    if (v > b.max[axis]!) b.max[axis] = v;
  }
  return b;
}
