import { meshBounds, type Mesh } from './mesh';

/** A mesh made ready for both pictures: split at creases, with normals and texture coordinates in metres. */
export interface DressedMesh extends Mesh {
  readonly normals: Float32Array;
  /** u v for each vertex, in metres along the face; v runs up the slope, or along the grain of a long piece. */
  readonly uvs: Float32Array;
}

/** Faces that meet at less than this are one curved surface. */
const CREASE_COS = Math.cos((35 * Math.PI) / 180);
/** A piece this much longer than wide has a grain. */
const LONG = 3;
const SNAP = 1e4;

/**
 * Derives normals (smooth below 35 degrees between faces) and texture coordinates: each face carries its own frame,
 * u level and v up its slope, so that a texture keeps its true size on walls, floors and slopes; on a piece with one long
 * side, v follows that side. Corners are shared only where position, normal and coordinates agree.
 */
export function dressMesh(mesh: Mesh): DressedMesh {
  const faces = faceNormals(mesh);
  const corners = cornerNormals(mesh, faces);
  const grain = grainAxis(mesh.positions);
  const table = new Map<string, number>();
  const positions: number[] = [];
  const normals: number[] = [];
  const uvs: number[] = [];
  const indices = new Uint32Array(mesh.indices.length);
  const frame = new Float64Array(6);
  for (let c = 0; c < mesh.indices.length; c++) {
    if (c % 3 === 0) faceFrame(faces, c, grain, frame);
    const v = mesh.indices[c]! * 3;
    const x = mesh.positions[v]!;
    const y = mesh.positions[v + 1]!;
    const z = mesh.positions[v + 2]!;
    const u = x * frame[0]! + y * frame[1]! + z * frame[2]!;
    const w = x * frame[3]! + y * frame[4]! + z * frame[5]!;
    const n = c * 3;
    const key = `${String(v)},${String(Math.round(corners[n]! * 500))},${String(Math.round(corners[n + 1]! * 500))},${String(Math.round(corners[n + 2]! * 500))},${String(Math.round(u * SNAP))},${String(Math.round(w * SNAP))}`;
    let index = table.get(key);
    if (index === undefined) {
      index = positions.length / 3;
      table.set(key, index);
      positions.push(x, y, z);
      normals.push(corners[n]!, corners[n + 1]!, corners[n + 2]!);
      uvs.push(u, w);
    }
    indices[c] = index;
  }
  return {
    positions: new Float32Array(positions),
    normals: new Float32Array(normals),
    uvs: new Float32Array(uvs),
    indices,
  };
}

/** Unit normal and area of each triangle: x y z area. */
function faceNormals({ positions: p, indices }: Mesh): Float32Array {
  const out = new Float32Array((indices.length / 3) * 4);
  for (let t = 0; t < indices.length; t += 3) {
    const a = indices[t]! * 3;
    const b = indices[t + 1]! * 3;
    const c = indices[t + 2]! * 3;
    const ux = p[b]! - p[a]!;
    const uy = p[b + 1]! - p[a + 1]!;
    const uz = p[b + 2]! - p[a + 2]!;
    const vx = p[c]! - p[a]!;
    const vy = p[c + 1]! - p[a + 1]!;
    const vz = p[c + 2]! - p[a + 2]!;
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const l = Math.hypot(nx, ny, nz);
    const o = (t / 3) * 4;
    const s = l > 0 ? 1 / l : 0;
    out[o] = nx * s;
    out[o + 1] = ny * s;
    out[o + 2] = l > 0 ? nz * s : 1;
    out[o + 3] = l / 2;
  }
  return out;
}

/** Normal at each triangle corner: the area-weighted mean of the faces about that point within the crease angle. */
function cornerNormals(mesh: Mesh, faces: Float32Array): Float32Array {
  const groups = new Map<string, number[]>();
  const p = mesh.positions;
  const keys: string[] = new Array<string>(p.length / 3);
  for (let v = 0; v < keys.length; v++)
    keys[v] =
      `${String(Math.round(p[v * 3]! * SNAP))},${String(Math.round(p[v * 3 + 1]! * SNAP))},${String(Math.round(p[v * 3 + 2]! * SNAP))}`;
  for (let c = 0; c < mesh.indices.length; c++) {
    const key = keys[mesh.indices[c]!]!;
    const group = groups.get(key);
    if (group) group.push(c);
    else groups.set(key, [c]);
  }
  const out = new Float32Array(mesh.indices.length * 3);
  for (const group of groups.values())
    for (const c of group) {
      const f = Math.floor(c / 3) * 4;
      let x = 0;
      let y = 0;
      let z = 0;
      for (const other of group) {
        const g = Math.floor(other / 3) * 4;
        const cosine = faces[f]! * faces[g]! + faces[f + 1]! * faces[g + 1]! + faces[f + 2]! * faces[g + 2]!;
        if (cosine < CREASE_COS) continue;
        const area = faces[g + 3]!;
        x += faces[g]! * area;
        y += faces[g + 1]! * area;
        z += faces[g + 2]! * area;
      }
      const l = Math.hypot(x, y, z);
      out[c * 3] = l > 0 ? x / l : faces[f]!;
      out[c * 3 + 1] = l > 0 ? y / l : faces[f + 1]!;
      out[c * 3 + 2] = l > 0 ? z / l : faces[f + 2]!;
    }
  return out;
}

/** 0, 1 or 2 for a piece that is clearly longest along that axis, otherwise -1. */
function grainAxis(positions: Float32Array): number {
  const { min, max } = meshBounds(positions);
  const size = [max[0] - min[0], max[1] - min[1], max[2] - min[2]];
  const axis = size.indexOf(Math.max(...size));
  const second = Math.max(...size.filter((_, i) => i !== axis));
  return size[axis]! > LONG * second && second < 1 ? axis : -1;
}

/** Writes the u and v directions of a face. */
function faceFrame(faces: Float32Array, corner: number, grain: number, out: Float64Array): void {
  const f = Math.floor(corner / 3) * 4;
  const n = [faces[f]!, faces[f + 1]!, faces[f + 2]!] as const;
  if (grain >= 0 && Math.abs(n[grain]!) < 0.7) {
    const along = [0, 0, 0];
    along[grain] = 1;
    setFrame(out, n, along);
  } else if (Math.abs(n[2]) > 0.995) setFrame(out, n, [0, 1, 0]);
  else setFrame(out, n, [0, 0, 1]);
}

/** v is `along` laid into the face; u = v x n. */
function setFrame(out: Float64Array, n: readonly [number, number, number], along: readonly number[]): void {
  const d = n[0] * along[0]! + n[1] * along[1]! + n[2] * along[2]!;
  const v = [along[0]! - n[0] * d, along[1]! - n[1] * d, along[2]! - n[2] * d];
  const l = Math.hypot(v[0]!, v[1]!, v[2]!) || 1;
  const [vx, vy, vz] = [v[0]! / l, v[1]! / l, v[2]! / l];
  out[0] = vy * n[2] - vz * n[1];
  out[1] = vz * n[0] - vx * n[2];
  out[2] = vx * n[1] - vy * n[0];
  out[3] = vx;
  out[4] = vy;
  out[5] = vz;
}
