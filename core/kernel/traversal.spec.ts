import { describe, expect, it } from 'vitest';
import { prepareMesh } from '../geometry/prepare-mesh';
import { multiply, rotationZ, transformPoint, translation, type Mat4 } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import type { Vec3 } from '../geometry/vec3';
import { random } from '../random';
import { MeshBuilder } from '../geometry/shapes';
import { BOUNDS_SIZE, NODE_SHEAR, NODE_SIZE, PACKET_SIZE } from './assembly/layout';
import { SceneMemory } from './scene-memory';
import { kernelModule, matt, darkSky } from './testing';

/** The two-level trees against the plainest thing that can find a hit: every triangle in turn (Moller & Trumbore 1997), in doubles. */

function soup(triangles: number, size: number, next: () => number): Mesh {
  const positions = new Float32Array(triangles * 9);
  for (let t = 0; t < triangles; t++) {
    const centre = [next() * 10 - 5, next() * 10 - 5, next() * 10 - 5];
    for (let k = 0; k < 9; k++) positions[t * 9 + k] = centre[k % 3]! + (next() - 0.5) * size;
  }
  return { positions, indices: Uint32Array.from({ length: triangles * 3 }, (_, i) => i) };
}

function intersect(o: Vec3, d: Vec3, a: Vec3, b: Vec3, c: Vec3): number {
  const sub = (p: Vec3, q: Vec3): Vec3 => [p[0] - q[0], p[1] - q[1], p[2] - q[2]];
  const cross = (p: Vec3, q: Vec3): Vec3 => [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]];
  const dot = (p: Vec3, q: Vec3) => p[0] * q[0] + p[1] * q[1] + p[2] * q[2];
  const [e1, e2] = [sub(b, a), sub(c, a)];
  const p = cross(d, e2);
  const det = dot(e1, p);
  if (Math.abs(det) < 1e-14) return Infinity;
  const s = sub(o, a);
  const u = dot(s, p) / det;
  const q = cross(s, e1);
  const v = dot(d, q) / det;
  if (u < 0 || v < 0 || u + v > 1) return Infinity;
  const t = dot(e2, q) / det;
  return t > 0 ? t : Infinity;
}

function place(meshes: Mesh[], placings: { mesh: number; transform: Mat4 }[]): SceneMemory {
  const scene = new SceneMemory(kernelModule());
  scene.setSky(darkSky());
  const prepared = meshes.map(prepareMesh);
  scene.setScene(
    {
      instances: placings.map(({ mesh, transform }, i) => ({
        source: 's', element: String(i), part: 0, material: 'm', mesh: String(mesh), transform, finish: matt(0.5), emissionScale: 1, lens: false,
      })),
      lamps: [],
    },
    { mesh: (hash) => prepared[Number(hash)], maps: () => undefined },
  ); // prettier-ignore
  return scene;
}

/** Compares hits of random rays; a ray that grazes an edge within rounding may differ, so one in 500 is forgiven. */
function compare(scene: SceneMemory, world: [Vec3, Vec3, Vec3][], rays: number, next: () => number): { hits: number; wrong: number } {
  let hits = 0;
  let wrong = 0;
  for (let i = 0; i < rays; i++) {
    const o: Vec3 = [next() * 24 - 12, next() * 24 - 12, next() * 24 - 12];
    const target: Vec3 = [next() * 8 - 4, next() * 8 - 4, next() * 8 - 4];
    const raw: Vec3 = [target[0] - o[0], target[1] - o[1], target[2] - o[2]];
    const l = Math.hypot(...raw);
    const d: Vec3 = [raw[0] / l, raw[1] / l, raw[2] / l];
    const nearest = Math.min(...world.map(([a, b, c]) => intersect(o, d, a, b, c)));
    const found = scene.kernel.traceClosest(...o, ...d, 1e30, -1) ? scene.kernel.hitDistance.value : Infinity;
    if (nearest < Infinity) hits++;
    if (nearest === Infinity ? found !== Infinity : Math.abs(found - nearest) > 1e-3 + nearest * 1e-4) wrong++;
  }
  return { hits, wrong };
}

const trianglesOf = ({ positions: p, indices }: Mesh, m: Mat4): [Vec3, Vec3, Vec3][] =>
  Array.from({ length: indices.length / 3 }, (_, t) => {
    const corner = (k: number) => {
      const v = indices[t * 3 + k]! * 3;
      return transformPoint(m, [p[v]!, p[v + 1]!, p[v + 2]!]);
    };
    return [corner(0), corner(1), corner(2)];
  });

/** Nodes of a mesh's tree whose boxes lie in a frame of their own. */
function shearedNodes({ positions, indices }: Mesh): number {
  const { kernel, memory } = new SceneMemory(kernelModule());
  const triangles = indices.length / 3;
  const references = kernel.referenceCapacity(triangles);
  const [p, i, bounds, nodes, packets, scratch] = [
    positions.byteLength, indices.byteLength, references * BOUNDS_SIZE, references * NODE_SIZE, references * PACKET_SIZE, kernel.bvhScratchSize(references),
  ].map((bytes) => memory.allocate(bytes)) as [number, number, number, number, number, number]; // prettier-ignore
  memory.write(p, positions);
  memory.write(i, indices);
  const count = kernel.buildMesh(p, i, triangles, bounds, nodes, packets, scratch);
  const view = memory.view();
  return Array.from({ length: count }, (_, n) => view.getInt32(nodes + n * NODE_SIZE + NODE_SHEAR + 12, true)).filter((axis) => axis !== 0)
    .length;
}

const IDENTITY = translation(0, 0, 0);

describe('finding the closest hit', () => {
  it('agrees with trying every triangle, for one to four thousand of them', () => {
    const next = random(5);
    for (const [count, size, rays] of [[1, 8, 500], [2, 8, 500], [5, 6, 500], [300, 1.5, 600], [4000, 0.4, 400]] as const) {
      const mesh = soup(count, size, next);
      const { hits, wrong } = compare(place([mesh], [{ mesh: 0, transform: IDENTITY }]), trianglesOf(mesh, IDENTITY), rays, next);
      expect(hits).toBeGreaterThan(count < 5 ? 5 : 50);
      expect(wrong).toBeLessThanOrEqual(rays / 500);
    } // prettier-ignore
  });

  it.each([0, 400])('agrees on bundles of long triangles that slant, %i m from the origin', (offset) => {
    const next = random(23);
    const bars = new MeshBuilder();
    for (let i = 0; i < 90; i++) {
      const [x, y, z] = [offset + next() * 8 - 4, offset + next() * 8 - 4, next() * 8 - 4];
      bars.tube([[x, y, z], [x + next() * 4 - 2, y + next() * 4 - 2, z + next() * 4 - 2]], 0.04 + next() * 0.1, 12); // prettier-ignore
    }
    const mesh = bars.build();
    const back = translation(-offset, -offset, 0);
    const scene = place([mesh], [{ mesh: 0, transform: back }]);
    expect(shearedNodes(mesh)).toBeGreaterThan(40);
    const { hits, wrong } = compare(scene, trianglesOf(mesh, back), 1500, next);
    expect(hits).toBeGreaterThan(300);
    expect(wrong).toBeLessThanOrEqual(3);
  });

  it('agrees through instances that are moved, turned, scaled, sheared and mirrored', () => {
    const next = random(11);
    const mesh = soup(120, 2, next);
    const scale = (x: number, y: number, z: number): Mat4 => [x, 0, 0, 0, 0, y, 0, 0, 0, 0, z, 0, 0, 0, 0, 1];
    const shear: Mat4 = [1, 0, 0, 0, 0.4, 1, 0, 0, 0, 0.2, 1, 0, 0, 0, 0, 1];
    const transforms = [
      multiply(translation(2, -1, 0.5), rotationZ(0.7)),
      multiply(translation(-3, 2, -1), scale(0.5, 0.8, 1.3)),
      multiply(translation(0, 3, 2), scale(-1, 1, 1)),
      multiply(translation(1, 1, -3), shear),
    ];
    const scene = place([mesh], transforms.map((transform) => ({ mesh: 0, transform }))); // prettier-ignore
    const world = transforms.flatMap((m) => trianglesOf(mesh, m));
    const { hits, wrong } = compare(scene, world, 1000, next);
    expect(hits).toBeGreaterThan(300);
    expect(wrong).toBeLessThanOrEqual(2);
  });

  it('tells which instance was hit, and forgets what has been taken away', () => {
    const square: Mesh = {
      positions: new Float32Array([-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0]),
      indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
    };
    const at = [translation(0, 0, 1), translation(0, 0, 2), translation(0, 0, 3)];
    const scene = place([square], at.map((transform) => ({ mesh: 0, transform }))); // prettier-ignore
    expect(scene.kernel.traceClosest(0.2, 0.3, 9, 0, 0, -1, 1e30, -1)).toBeTruthy();
    expect(scene.kernel.hitInstance.value).toBe(2);
    expect(scene.kernel.hitDistance.value).toBeCloseTo(6, 5);
    expect(scene.kernel.traceClosest(0.2, 0.3, 9, 0, 0, -1, 5, -1)).toBeFalsy();
    const before = scene.memory.usedBytes;
    scene.setScene({ instances: [], lamps: [] }, { mesh: () => undefined, maps: () => undefined });
    expect(scene.memory.usedBytes).toBeLessThan(before);
  });

  it('finds what a level ray meets, whichever sign its zeros have', () => {
    const scene = place([soup(2000, 3, random(8))], [{ mesh: 0, transform: IDENTITY }]);
    for (const zero of [0, -0]) {
      const found = [0, 1, 2].map((axis) => {
        const along = (level: Vec3, ahead: number) => level.map((v, i) => (i === axis ? ahead : v)) as unknown as Vec3;
        const hit = scene.kernel.traceClosest(...along([0.1, 0.2, 0.3], -9), ...along([zero, zero, zero], 1), 1e30, -1);
        return hit ? scene.kernel.hitDistance.value : -1;
      });
      expect(Math.min(...found)).toBeGreaterThan(0);
    }
  });

  it('leaves out instances that are flattened to nothing', () => {
    const square: Mesh = { positions: new Float32Array([-1, -1, 0, 1, -1, 0, 1, 1, 0]), indices: new Uint32Array([0, 1, 2]) };
    const flat: Mat4 = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1];
    const scene = place([square], [{ mesh: 0, transform: flat }, { mesh: 0, transform: translation(0, 0, 1) }]); // prettier-ignore
    expect(scene.kernel.traceClosest(0.5, 0, 9, 0, 0, -1, 1e30, -1)).toBeTruthy();
    expect(scene.kernel.hitDistance.value).toBeCloseTo(8, 5);
  });
});
