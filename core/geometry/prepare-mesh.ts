import { faceNormals, SAME_PLACE_M, samePlaces } from './faces';
import { beginAtFaces, layFaces } from './face-lay';
import { type FaceLay, faceLaysOf, hasAuthoredUvs, isFromFaces, meshBounds, meshOfKey, type Mesh } from './mesh';
import { metresOfUnit } from './picture-scale';
import { Scratch } from './scratch';

/** A mesh made ready for both pictures: split at creases, with normals and texture coordinates in metres. */
export interface PreparedMesh extends Mesh {
  readonly normals: Float32Array;
  /** u v for each vertex, in metres along the face; v runs up the slope, or along the grain of a long piece. As its author has laid it: in repeats. */
  readonly uvs: Float32Array;
  /** Further sets as its author has laid them; what lacks one has `uvs` in its place. */
  readonly furtherUvs?: readonly Float32Array[];
}

/** Coordinates of a set; those that all meshes have where it lacks it. */
export const uvSet = ({ uvs, furtherUvs }: PreparedMesh, set: number): Float32Array => furtherUvs?.[set - 1] ?? uvs;

/** The mesh of a key, prepared as the key says, from the one that its blob holds. */
export const prepareKey = (key: string, mesh: Mesh): PreparedMesh =>
  prepared(meshOfKey(key, mesh), { asLaid: hasAuthoredUvs(key), fromFaces: isFromFaces(key), laid: faceLaysOf(key) });

/** Faces that meet at less than this are one curved surface. */
const CREASE_COS = Math.cos((35 * Math.PI) / 180);
/** A piece this much longer than wide has a grain. */
const LONG = 3;
/** A smooth surface of so many different directions is curved; fewer are folds. */
const CURVED_DIRECTIONS = 6;
const SAME_NORMAL = 2e-3;
const SAME_FACE = 1e-5;

/**
 * Derives normals (smooth below 35 degrees between faces) and texture coordinates: each face carries its own frame,
 * u level and v up its slope, so that a texture keeps its true size on walls, floors and slopes; on a piece with one long
 * side, v follows that side. Curved surfaces keep the author's coordinates where those are even, and are mapped from the six sides of a box otherwise.
 * Corners are shared only where position, normal and coordinates agree.
 */
export const prepareMesh = (mesh: Mesh): PreparedMesh => prepared(mesh, { asLaid: false, fromFaces: false, laid: [] });

interface Lay {
  /** All coordinates are the author's, where there are any. */
  asLaid: boolean;
  /** Maps begin at a corner of each flat face. */
  fromFaces: boolean;
  /** By hand, on some flat faces. */
  laid: readonly FaceLay[];
}

const scratch = new Scratch();

function prepared(mesh: Mesh, { asLaid, fromFaces, laid: byHand }: Lay): PreparedMesh {
  scratch.clear();
  const faces = faceNormals(mesh, scratch);
  const welded = samePlaces(mesh.positions, scratch);
  const corners = cornerNormals(mesh, faces, welded);
  const curved = curvedFaces(mesh, faces, corners, welded);
  const coordinates = cornerCoordinates(mesh, faces, curved, asLaid);
  const further = (asLaid && mesh.furtherUvs) || [];
  if (fromFaces) beginAtFaces(mesh, coordinates, (t) => !curved?.[t / 3]);
  if (byHand.length > 0) layFaces(mesh, coordinates, byHand);
  const cornerCount = mesh.indices.length;
  const positions = scratch.floats(cornerCount * 3);
  const normals = scratch.floats(cornerCount * 3);
  const uvs = scratch.floats(cornerCount * 2);
  const indices = new Uint32Array(cornerCount);
  // The vertices made so far at each point, as a list: the newest of them, and the one before each.
  const newest = scratch.ints(mesh.positions.length / 3).fill(-1);
  const before = scratch.ints(cornerCount);
  // Which of the mesh's vertices each is made of, where that matters.
  const origins = further.length > 0 ? scratch.ints(cornerCount) : undefined;
  let count = 0;
  for (let c = 0; c < cornerCount; c++) {
    const v = mesh.indices[c]! * 3;
    const u = coordinates[c * 2]!;
    const w = coordinates[c * 2 + 1]!;
    const point = welded[mesh.indices[c]!]!;
    let same = newest[point]!;
    while (
      same >= 0 &&
      !(
        alike(normals, same * 3, corners, c * 3, SAME_NORMAL) &&
        near(uvs[same * 2]!, u) &&
        near(uvs[same * 2 + 1]!, w) &&
        (!origins || liesAlike(further, origins[same]!, mesh.indices[c]!))
      )
    )
      same = before[same]!;
    if (same < 0) {
      same = count++;
      before[same] = newest[point]!;
      newest[point] = same;
      for (let k = 0; k < 3; k++) positions[same * 3 + k] = mesh.positions[v + k]!;
      for (let k = 0; k < 3; k++) normals[same * 3 + k] = corners[c * 3 + k]!;
      uvs[same * 2] = u;
      uvs[same * 2 + 1] = w;
      if (origins) origins[same] = mesh.indices[c]!;
    }
    indices[c] = same;
  }
  return {
    positions: positions.slice(0, count * 3),
    normals: normals.slice(0, count * 3),
    uvs: uvs.slice(0, count * 2),
    indices,
    ...(origins && {
      furtherUvs: further.map((set) => Float32Array.from({ length: count * 2 }, (_, i) => set[origins[i >> 1]! * 2 + (i & 1)]!)),
    }),
  };
}

const liesAlike = (sets: readonly Float32Array[], a: number, b: number): boolean =>
  a === b || sets.every((uvs) => near(uvs[a * 2]!, uvs[b * 2]!) && near(uvs[a * 2 + 1]!, uvs[b * 2 + 1]!));

/** u v for each corner of each triangle, metres: in the frame of its face, or the author's. */
function cornerCoordinates(mesh: Mesh, faces: Float32Array, curved: Uint8Array | undefined, asLaid: boolean): Float64Array {
  const { positions, indices, pictureUvs: laid } = mesh;
  const laidM = laid && (asLaid ? 1 : curved ? metresOfUnit(mesh, curved) : undefined);
  const grain = grainAxis(positions);
  const frame = new Float64Array(6);
  const normal = new Float64Array(3);
  const out = scratch.doubles(indices.length * 2);
  for (let c = 0; c < indices.length; c++) {
    if (c % 3 === 0) {
      for (let k = 0; k < 3; k++) normal[k] = faces[c + k]!;
      if (curved?.[c / 3]) toMainAxis(normal);
      faceFrame(normal, grain, frame);
    }
    const v = indices[c]!;
    const own = laidM !== undefined && (asLaid || curved?.[Math.floor(c / 3)] === 1);
    for (let k = 0; k < 2; k++)
      out[c * 2 + k] = own
        ? laid![v * 2 + k]! * laidM
        : positions[v * 3]! * frame[k * 3]! + positions[v * 3 + 1]! * frame[k * 3 + 1]! + positions[v * 3 + 2]! * frame[k * 3 + 2]!;
  }
  return out;
}

const near = (a: number, b: number): boolean => Math.abs(a - b) < SAME_PLACE_M;

function alike(a: Float32Array, i: number, b: Float32Array, j: number, tolerance: number): boolean {
  return (
    Math.abs(a[i]! - b[j]!) <= tolerance && Math.abs(a[i + 1]! - b[j + 1]!) <= tolerance && Math.abs(a[i + 2]! - b[j + 2]!) <= tolerance
  );
}

/**
 * Normal at each triangle corner: the mean of the faces about that point within the crease angle, weighted by the angle
 * that each has there (Thurmer & Wuthrich 1998), so that it does not depend on how a face is cut into triangles.
 */
function cornerNormals(mesh: Mesh, faces: Float32Array, welded: Int32Array): Float32Array {
  const { indices } = mesh;
  // Corners sorted by the point they meet at.
  const first = scratch.ints(mesh.positions.length / 3 + 1);
  for (const index of indices) first[welded[index]! + 1]!++;
  for (let i = 1; i < first.length; i++) first[i]! += first[i - 1]!;
  const fill = scratch.ints(first.length);
  fill.set(first);
  const sorted = scratch.ints(indices.length);
  for (let c = 0; c < indices.length; c++) sorted[fill[welded[indices[c]!]!]!++] = c;
  const out = scratch.floats(indices.length * 3);
  // Many triangles of one flat face may meet at a point; what they weigh is added up once. By group: normal, weight, mean normal.
  const group = scratch.ints(indices.length);
  let groups = new Float64Array(7 * 16);
  for (let point = 0; point + 1 < first.length; point++) {
    const from = first[point]!;
    const to = first[point + 1]!;
    if ((to - from) * 7 > groups.length) groups = new Float64Array((to - from) * 14);
    let end = 0;
    for (let k = from; k < to; k++) {
      const c = sorted[k]!;
      const f = c - (c % 3);
      const x = faces[f]!;
      const y = faces[f + 1]!;
      const z = faces[f + 2]!;
      let g = 0;
      while (
        g < end &&
        !(Math.abs(x - groups[g]!) <= SAME_FACE && Math.abs(y - groups[g + 1]!) <= SAME_FACE && Math.abs(z - groups[g + 2]!) <= SAME_FACE)
      )
        g += 7;
      if (g === end) {
        groups[g] = x;
        groups[g + 1] = y;
        groups[g + 2] = z;
        end += 7;
      }
      group[k] = g;
    }
    if (anyWithinCrease(groups, end)) {
      for (let g = 0; g < end; g += 7) groups[g + 3] = 0;
      for (let k = from; k < to; k++) groups[group[k]! + 3]! += cornerAngle(mesh, sorted[k]!);
      for (let g = 0; g < end; g += 7) meanNormal(groups, g, end);
    } else for (let g = 0; g < end; g += 7) for (let i = 0; i < 3; i++) groups[g + 4 + i] = groups[g + i]!;
    for (let k = from; k < to; k++) {
      const c = sorted[k]! * 3;
      const g = group[k]!;
      out[c] = groups[g + 4]!;
      out[c + 1] = groups[g + 5]!;
      out[c + 2] = groups[g + 6]!;
    }
  }
  return out;
}

function anyWithinCrease(groups: Float64Array, end: number): boolean {
  for (let a = 7; a < end; a += 7)
    for (let b = 0; b < a; b += 7)
      if (groups[a]! * groups[b]! + groups[a + 1]! * groups[b + 1]! + groups[a + 2]! * groups[b + 2]! >= CREASE_COS) return true;
  return false;
}

/** Writes the mean of the groups within the crease angle of one of them, by their weights. */
function meanNormal(groups: Float64Array, at: number, end: number): void {
  const nx = groups[at]!;
  const ny = groups[at + 1]!;
  const nz = groups[at + 2]!;
  let x = 0;
  let y = 0;
  let z = 0;
  for (let g = 0; g < end; g += 7) {
    const ox = groups[g]!;
    const oy = groups[g + 1]!;
    const oz = groups[g + 2]!;
    if (nx * ox + ny * oy + nz * oz < CREASE_COS) continue;
    const weight = groups[g + 3]!;
    x += ox * weight;
    y += oy * weight;
    z += oz * weight;
  }
  const l = Math.sqrt(x * x + y * y + z * z);
  groups[at + 4] = l > 0 ? x / l : nx;
  groups[at + 5] = l > 0 ? y / l : ny;
  groups[at + 6] = l > 0 ? z / l : nz;
}

/** Angle (rad) at a corner of a triangle; 0 where it has no area. */
function cornerAngle({ positions: p, indices }: Mesh, c: number): number {
  const t = c - (c % 3);
  const a = indices[c]! * 3;
  const b = indices[t + ((c + 1) % 3)]! * 3;
  const d = indices[t + ((c + 2) % 3)]! * 3;
  const ux = p[b]! - p[a]!;
  const uy = p[b + 1]! - p[a + 1]!;
  const uz = p[b + 2]! - p[a + 2]!;
  const vx = p[d]! - p[a]!;
  const vy = p[d + 1]! - p[a + 1]!;
  const vz = p[d + 2]! - p[a + 2]!;
  const nx = uy * vz - uz * vy;
  const ny = uz * vx - ux * vz;
  const nz = ux * vy - uy * vx;
  const cross = Math.sqrt(nx * nx + ny * ny + nz * nz);
  return cross > 0 ? Math.atan2(cross, ux * vx + uy * vy + uz * vz) : 0;
}

/** 0, 1 or 2 for a piece that is clearly longest along that axis, otherwise -1. */
function grainAxis(positions: Float32Array): number {
  const { min, max } = meshBounds(positions);
  const size = [max[0] - min[0], max[1] - min[1], max[2] - min[2]];
  const axis = size.indexOf(Math.max(...size));
  const second = Math.max(...size.filter((_, i) => i !== axis));
  return size[axis]! > LONG * second && second < 1 ? axis : -1;
}

/** The normal's main axis in place of it: curved surfaces are mapped from six sides. */
function toMainAxis(normal: Float64Array): void {
  const [x, y, z] = [Math.abs(normal[0]!), Math.abs(normal[1]!), Math.abs(normal[2]!)];
  const axis = z >= x && z >= y ? 2 : x >= y ? 0 : 1;
  const side = Math.sign(normal[axis]!) || 1;
  normal.fill(0);
  normal[axis] = side;
}

/**
 * Marks the faces of surfaces that are curved: smooth over at least so many different directions. A face of such a surface
 * has no frame of its own, or each would show the same strip of a map. Undefined: none is.
 */
function curvedFaces(mesh: Mesh, faces: Float32Array, corners: Float32Array, welded: Int32Array): Uint8Array | undefined {
  const { indices } = mesh;
  const count = indices.length / 3;
  const smooth = (c: number) => !alike(corners, c * 3, faces, c - (c % 3), SAME_NORMAL);
  let any = false;
  for (let c = 0; c < indices.length && !any; c++) any = smooth(c);
  if (!any) return undefined;
  // Faces that are smooth about a common point are of one surface.
  const surface = scratch.ints(count);
  for (let t = 0; t < count; t++) surface[t] = t;
  const rootOf = (t: number): number => {
    while (surface[t] !== t) t = surface[t] = surface[surface[t]!]!;
    return t;
  };
  const lastAt = scratch.ints(mesh.positions.length / 3).fill(-1);
  for (let c = 0; c < indices.length; c++) {
    if (!smooth(c)) continue;
    const point = welded[indices[c]!]!;
    const other = lastAt[point]!;
    const face = (c - (c % 3)) / 3;
    if (other < 0) lastAt[point] = face;
    else if (dotOf(faces, face * 3, other * 3) > CREASE_COS) surface[rootOf(face)] = rootOf(other);
  }
  // Directions of each surface, by its root: how many, and which.
  const directions = scratch.bytes(count);
  const seen = scratch.ints(count * CURVED_DIRECTIONS);
  for (let t = 0; t < count; t++) {
    const root = rootOf(t);
    const known = directions[root]!;
    if (known === CURVED_DIRECTIONS) continue;
    const direction = directionOf(faces, t * 3);
    let i = root * CURVED_DIRECTIONS;
    const end = i + known;
    while (i < end && seen[i] !== direction) i++;
    if (i < end) continue;
    seen[end] = direction;
    directions[root] = known + 1;
  }
  const curved = scratch.bytes(count);
  for (let t = 0; t < count; t++) curved[t] = directions[rootOf(t)] === CURVED_DIRECTIONS ? 1 : 0;
  return curved;
}

const dotOf = (f: Float32Array, i: number, j: number): number => f[i]! * f[j]! + f[i + 1]! * f[j + 1]! + f[i + 2]! * f[j + 2]!;

/** A number for a direction, the same for those within about a degree. */
const directionOf = (f: Float32Array, i: number): number =>
  (Math.round(f[i]! * 50) + 64) * 16384 + (Math.round(f[i + 1]! * 50) + 64) * 128 + Math.round(f[i + 2]! * 50) + 64;

/** Writes the u and v directions of a face; v is level ground's y, the grain, or up, laid into the face; u = v x n. */
function faceFrame(normal: Float64Array, grain: number, out: Float64Array): void {
  const nx = normal[0]!;
  const ny = normal[1]!;
  const nz = normal[2]!;
  const follows = grain >= 0 && Math.abs(normal[grain]!) < 0.7;
  const axis = follows ? grain : Math.abs(nz) > 0.995 ? 1 : 2;
  const d = normal[axis]!;
  let vx = (axis === 0 ? 1 : 0) - nx * d;
  let vy = (axis === 1 ? 1 : 0) - ny * d;
  let vz = (axis === 2 ? 1 : 0) - nz * d;
  const l = Math.sqrt(vx * vx + vy * vy + vz * vz) || 1;
  vx /= l;
  vy /= l;
  vz /= l;
  out[0] = vy * nz - vz * ny;
  out[1] = vz * nx - vx * nz;
  out[2] = vx * ny - vy * nx;
  out[3] = vx;
  out[4] = vy;
  out[5] = vz;
}
