import { type Variation, PLAIN_VARIATION } from '../finish/finish';
import type { PreparedMesh } from '../geometry/prepare-mesh';
import { transformPoint, type Mat4 } from '../geometry/mat4';
import type { Vec3 } from '../geometry/vec3';
import { BLADE_LEVELS, TUFT_SHAPES } from './blades';

/** One tuft: where its root is, which of the levels and shapes it has, and how it stands. */
export interface Tuft {
  level: number;
  shape: number;
  transform: Mat4;
  variation: Variation;
}

/** From where grass is seen. Cells that `sees` denies are left out, but for those close about. */
export interface GrassView {
  eye: Vec3;
  sees: (x: number, y: number, z: number) => boolean;
}

/** Nothing grows on what is steeper than this, by the upward part of its normal. */
const STEEPEST = 0.6;
/** Grass that is as near as this throws shadows and is mirrored, also behind the eye. */
const ABOUT_M = 4;
const COARSE_M = BLADE_LEVELS.at(-1)!.tuftM;
const REACH_M = BLADE_LEVELS.at(-1)!.toM;

/** Tufts over the faces of a placed mesh that look upwards, on a grid of the world, so that they stay where they are while the eye moves. */
export function tuftsOn(mesh: PreparedMesh, transform: Mat4, irregularity: number, { eye, sees }: GrassView): Tuft[] {
  const out: Tuft[] = [];
  const taken = BLADE_LEVELS.map(() => new Set<number>());
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const face = faceOf(mesh, transform, t);
    if (!face) continue;
    const low = (k: 0 | 1) => Math.floor(Math.max(face.min[k], eye[k] - REACH_M) / COARSE_M);
    const high = (k: 0 | 1) => Math.floor(Math.min(face.max[k], eye[k] + REACH_M) / COARSE_M);
    for (let j = low(1); j <= high(1); j++)
      for (let i = low(0); i <= high(0); i++) {
        const [x, y] = [(i + 0.5) * COARSE_M, (j + 0.5) * COARSE_M];
        if (!within(face, x, y, COARSE_M * 0.71)) continue;
        const z = heightAt(face, x, y);
        const distance = Math.hypot(x - eye[0], y - eye[1], z - eye[2]);
        const level = BLADE_LEVELS.findIndex(({ toM }) => distance <= toM);
        if (level >= 0 && (distance <= ABOUT_M || sees(x, y, z))) fillCell(i, j, level, face, irregularity, taken[level]!, out);
      }
  }
  return out;
}

/** A face that looks up: its plane, its outline in plan as three half planes (inside is positive, metres), and its box. */
interface Face {
  normal: Vec3;
  corner: Vec3;
  sides: readonly (readonly [number, number, number])[];
  min: readonly [number, number];
  max: readonly [number, number];
}

function faceOf({ positions, indices }: PreparedMesh, transform: Mat4, t: number): Face | undefined {
  const [a, b, c] = [0, 1, 2].map((k) => {
    const v = indices[t + k]! * 3;
    return transformPoint(transform, [positions[v]!, positions[v + 1]!, positions[v + 2]!]);
  }) as [Vec3, Vec3, Vec3];
  const [u, v] = [b, c].map((p) => [p[0] - a[0], p[1] - a[1], p[2] - a[2]] as const) as [Vec3, Vec3];
  const n: Vec3 = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
  const length = Math.hypot(...n);
  if (length === 0 || n[2] < STEEPEST * length) return undefined;
  const side = (p: Vec3, q: Vec3) => {
    const [dx, dy] = [q[0] - p[0], q[1] - p[1]];
    const l = Math.hypot(dx, dy);
    return [-dy / l, dx / l, (dy * p[0] - dx * p[1]) / l] as const;
  };
  return {
    normal: [n[0] / length, n[1] / length, n[2] / length],
    corner: a,
    sides: [side(a, b), side(b, c), side(c, a)],
    min: [Math.min(a[0], b[0], c[0]), Math.min(a[1], b[1], c[1])],
    max: [Math.max(a[0], b[0], c[0]), Math.max(a[1], b[1], c[1])],
  };
}

const heightAt = ({ normal, corner }: Face, x: number, y: number): number =>
  corner[2] - (normal[0] * (x - corner[0]) + normal[1] * (y - corner[1])) / normal[2];

const within = ({ sides }: Face, x: number, y: number, slack = 0): boolean => sides.every(([a, b, c]) => a * x + b * y + c >= -slack);

function fillCell(i: number, j: number, level: number, face: Face, irregularity: number, taken: Set<number>, out: Tuft[]): void {
  const { tuftM } = BLADE_LEVELS[level]!;
  const across = Math.round(COARSE_M / tuftM);
  for (let b = 0; b < across; b++)
    for (let a = 0; a < across; a++) {
      const [column, row] = [i * across + a, j * across + b];
      const [x, y] = [(column + 0.5) * tuftM, (row + 0.5) * tuftM];
      if (!within(face, x, y)) continue;
      // A point on the edge of two faces belongs to the first.
      const place = column * 2 ** 26 + row;
      if (taken.has(place)) continue;
      taken.add(place);
      const draw = (k: number) => drawAt(column, row, k);
      const turn = (Math.PI / 2) * Math.floor(draw(0) * 4);
      const size = 1 - irregularity * 0.35 * draw(1);
      out.push({
        level,
        shape: Math.floor(draw(2) * TUFT_SHAPES),
        transform: standing([x, y, heightAt(face, x, y)], face.normal, turn, size),
        variation: {
          ...PLAIN_VARIATION,
          hueRad: (draw(3) - 0.5) * irregularity * 0.35,
          brightness: 1 + (draw(4) - 0.5) * irregularity * 0.9,
        },
      });
    }
}

/** A number in [0, 1) that belongs to a cell (pcg, as in Jarzynski & Olano 2020, "Hash Functions for GPU Rendering"). */
function drawAt(column: number, row: number, k: number): number {
  let h = (Math.imul(column, 374761393) + Math.imul(row, 668265263) + Math.imul(k, 1274126177)) | 0;
  h = (Math.imul(h, 747796405) + 2891336453) | 0;
  h = Math.imul((h >>> ((h >>> 28) + 4)) ^ h, 277803737);
  return (((h >>> 22) ^ h) >>> 0) / 4294967296;
}

/** Roots lie in the face, blades stand upright: grass grows towards the light. */
function standing([x, y, z]: Vec3, [nx, ny, nz]: Vec3, turn: number, size: number): Mat4 {
  const [c, s] = [Math.cos(turn) * size, Math.sin(turn) * size];
  const rise = (dx: number, dy: number) => -(nx * dx + ny * dy) / nz;
  return [c, s, rise(c, s), 0, -s, c, rise(-s, c), 0, 0, 0, size, 0, x, y, z, 1];
}
