import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import * as THREE from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import type { PreparedMesh } from '../core/geometry/prepare-mesh';
import { IDENTITY } from '../core/geometry/mat4';
import { SceneMemory } from '../core/kernel/scene-memory';
import { kernelModule, matt, uniformSky } from '../core/kernel/testing';
import { nodePool } from '../server/node-pool';
import { median, report } from './report';
import { random } from '../core/random';
import { room } from './room';

const RAYS = 200_000;

function placed(mesh: PreparedMesh): SceneMemory {
  const scene = new SceneMemory(kernelModule());
  scene.setSky(uniformSky(100));
  const instance = {
    source: 's',
    element: 'e',
    part: 0,
    material: 'm',
    mesh: 'room',
    transform: IDENTITY,
    finish: matt(0.6),
    emissionScale: 1,
    lens: false,
  };
  scene.setScene({ instances: [instance], lamps: [] }, { mesh: () => mesh, maps: () => undefined });
  return scene;
}

function coherentRays(): Float32Array {
  const rays = new Float32Array(RAYS * 6);
  const side = Math.floor(Math.sqrt(RAYS));
  for (let i = 0; i < RAYS; i++) {
    const [x, y] = [(i % side) / side - 0.5, Math.floor(i / side) / side - 0.5];
    const l = Math.hypot(1, x * 1.4, y * 0.8);
    rays.set([-5.5, 0.1, 1.6, 1 / l, (x * 1.4) / l, (-y * 0.8) / l], i * 6);
  }
  return rays;
}

function incoherentRays(): Float32Array {
  const r = random(11);
  const rays = new Float32Array(RAYS * 6);
  for (let i = 0; i < RAYS; i++) {
    const z = 1 - 2 * r();
    const a = 2 * Math.PI * r();
    const s = Math.sqrt(1 - z * z);
    rays.set([r() * 11 - 5.5, r() * 7 - 3.5, r() * 2.8 + 0.1, s * Math.cos(a), s * Math.sin(a), z], i * 6);
  }
  return rays;
}

interface Run {
  mray: number;
  hits: number;
}

/** Best of a few runs, in Mray/s: the machine is shared, and the best run is the one least disturbed. */
function best(run: () => number, runs: number): Run {
  let seconds = Infinity;
  let hits = 0;
  for (let i = 0; i < runs; i++) {
    const start = performance.now();
    hits = run();
    seconds = Math.min(seconds, (performance.now() - start) / 1000);
  }
  return { mray: RAYS / seconds / 1e6, hits };
}

function ours(scene: SceneMemory, rays: Float32Array): () => Run {
  const at = scene.memory.allocate(rays.byteLength);
  scene.memory.write(at, rays);
  return () => best(() => scene.kernel.traceBatch(at, RAYS, 0), 5);
}

function javascript(mesh: PreparedMesh, rays: Float32Array): () => Run {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(mesh.positions, 3));
  geometry.setIndex(new THREE.BufferAttribute(mesh.indices.slice(), 1));
  const bvh = new MeshBVH(geometry);
  const ray = new THREE.Ray();
  return () =>
    best(() => {
      let hits = 0;
      for (let i = 0; i < RAYS; i++) {
        ray.origin.fromArray(rays, i * 6);
        ray.direction.fromArray(rays, i * 6 + 3);
        if (bvh.raycastFirst(ray, THREE.DoubleSide)) hits++;
      }
      return hits;
    }, 1);
}

/** Embree in a program of its own; undefined where its headers are not installed. */
function native(mesh: PreparedMesh, rays: Float32Array, folder: string): (() => Run) | undefined {
  if (!existsSync('/usr/include/embree3/rtcore.h')) return undefined;
  const program = path.join(folder, 'embree');
  if (!existsSync(program)) execFileSync('g++', ['-O3', '-march=native', '-o', program, 'bench/embree.cpp', '-lembree3']);
  const triangles = mesh.indices.length / 3;
  const data = new Float32Array(triangles * 9 + rays.length);
  for (let c = 0; c < mesh.indices.length; c++) for (let k = 0; k < 3; k++) data[c * 3 + k] = mesh.positions[mesh.indices[c]! * 3 + k]!;
  data.set(rays, triangles * 9);
  const file = path.join(folder, 'rays.bin');
  writeFileSync(file, Buffer.concat([Buffer.from(new Uint32Array([triangles, RAYS]).buffer), Buffer.from(data.buffer)]));
  return () => {
    const [seconds, hits] = execFileSync(program, [file], { encoding: 'utf8' }).split(' ').map(Number) as [number, number];
    return { mray: RAYS / seconds / 1e6, hits };
  };
}

/** Two contestants in turns, so that both meet the same weather; the ratio is the median over the rounds. */
function compare(our: () => Run, other: () => Run, rounds: number): { our: Run; other: Run; ratio: number } {
  const pairs = Array.from({ length: rounds }, () => ({ our: our(), other: other() }));
  const fastest = (runs: Run[]) => runs.reduce((a, b) => (b.mray > a.mray ? b : a));
  return {
    our: fastest(pairs.map((p) => p.our)),
    other: fastest(pairs.map((p) => p.other)),
    ratio: median(pairs.map((p) => p.our.mray / p.other.mray)),
  };
}

/** Seconds that two samples of a path-traced picture of the room take. */
async function pictureSeconds(mesh: PreparedMesh, threads: number): Promise<number> {
  const scene = placed(mesh);
  scene.camera({ origin: [-5.5, 0.1, 1.6], forward: [1, 0, 0], right: [0, -0.7, 0], up: [0, 0, 0.4] });
  const [width, height] = [480, 270];
  scene.setFilm(width, height);
  const pool = nodePool(scene, threads);
  const render = (first: number) => pool.run({ kind: 'render', width, height, tile: 16, first, count: 1 });
  await render(0);
  let seconds = Infinity;
  for (let i = 1; i < 6; i++) {
    const start = performance.now();
    await render(i);
    seconds = Math.min(seconds, (performance.now() - start) / 1000);
  }
  pool.close();
  return seconds;
}

const mesh = room();
const folder = mkdtempSync(path.join(tmpdir(), 'diaphane-bench-'));
report({ name: 'kernel.triangles', value: mesh.indices.length / 3, unit: '' });
const start = performance.now();
const scene = placed(mesh);
report({ name: 'kernel.build', value: performance.now() - start, unit: 'ms' });
for (const [name, rays] of [
  ['coherent', coherentRays()],
  ['incoherent', incoherentRays()],
] as const) {
  const our = ours(scene, rays);
  const goal = (text: string) => (name === 'incoherent' ? text : '');
  const versus = (other: string, run: () => Run, rounds: number, wanted: string) => {
    const result = compare(our, run, rounds);
    report({ name: `kernel.${name}.${other}`, value: result.other.mray, unit: 'Mray/s', comparedWith: `${result.other.hits} hits` });
    report({ name: `kernel.${name}.vs-${other}`, value: result.ratio, unit: 'x', comparedWith: goal(wanted) });
    return result.our;
  };
  const script = versus('three-mesh-bvh', javascript(mesh, rays), 3, 'at least 8');
  const embree = native(mesh, rays, folder);
  if (!embree) console.error('libembree-dev is not installed; that comparison is left out.');
  const fastest = embree ? versus('embree', embree, 9, 'at least 0.9') : script;
  report({
    name: `kernel.${name}`,
    value: Math.max(script.mray, fastest.mray),
    unit: 'Mray/s',
    comparedWith: `${fastest.hits} hits of ${RAYS}`,
  });
}
const one = await pictureSeconds(mesh, 1);
const two = await pictureSeconds(mesh, 2);
report({ name: 'kernel.threads-2.vs-1', value: one / two, unit: 'x', comparedWith: 'at least 1.7' });
rmSync(folder, { recursive: true, force: true });
