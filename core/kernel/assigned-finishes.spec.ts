import { expect, it } from 'vitest';
import { IDENTITY } from '../geometry/mat4';
import { prepareMesh } from '../geometry/prepare-mesh';
import type { Finish } from '../finish/finish';
import { randomInteger } from '../random';
import { SceneMemory } from './scene-memory';
import type { RenderedInstance } from '../scene/rendered-scene';
import type { SceneLamp } from '../scene/scene';
import { kernelModule, matt, quad, uniformSky } from './testing';
import { AssignedFinishes } from './assigned-finishes';

it('finishes keep their numbers while they are assigned, and leave them to others', () => {
  const assigned = new AssignedFinishes();
  const [a, b, c] = [matt(0.1), matt(0.2), matt(0.3)];
  expect([a, b, a].map((finish) => assigned.assign(finish))).toEqual([0, 1, 0]);
  assigned.release(a);
  expect(assigned.assign(c)).toBe(2);
  assigned.release(b);
  assigned.release(c);
  expect(assigned.end).toBe(3);
  expect([...assigned]).toEqual([[a, 0]]);
  expect([assigned.assign(c), assigned.assign(b)].sort()).toEqual([1, 2]);
  expect(assigned.end).toBe(3);
});

it('a scene that is prepared and lit step by step is the scene that is set at once, and holds no more memory', () => {
  const below = randomInteger(5);
  const pick = <T>(list: readonly T[]): T => list[below(list.length)]!;
  const wardrobe: Finish[] = [
    ...[0.1, 0.4, 0.7].map((r) => matt(r)),
    matt(0.5, { waves: { heightM: 0.1, lengthM: 1, towardsDeg: 0, windMs: 0 } }),
    matt(0.3, { opacity: 0.5 }),
    matt(0.2, { emissionCdM2: 50 }),
    matt(0.6, { edgeRadiusM: 0.01 }),
  ];
  const assets = { mesh: (key: string) => prepareMesh(quad([0, 0, Number(key)], [1, 0, Number(key)], [1, 1, Number(key)], [0, 1, Number(key)])), maps: () => undefined }; // prettier-ignore
  const placed = (i: number): RenderedInstance => ({ mesh: String(i % 5), transform: IDENTITY.map((c, k) => (k === 12 ? i : c)), finish: pick(wardrobe), emissionScale: pick([0, 0.5, 1]), lens: false }); // prettier-ignore
  const lampAt = (x: number, intensityCd: number): SceneLamp => ({
    source: 's', id: 'l', position: [x, 0, 3], axis: [0, 0, -1], right: [1, 0, 0], radiusM: 0.05, colour: [1, 1, 1], beam: { intensityCd, cosInner: 1, cosOuter: -1 },
  }); // prettier-ignore
  const memoryOf = () => {
    const memory = new SceneMemory(kernelModule());
    memory.setSky(uniformSky(100));
    memory.settings({ seed: 1, maxDepth: 3 });
    return memory;
  };
  const stepped = memoryOf();
  let instances = Array.from({ length: 20 }, (_, i) => placed(i));
  stepped.setScene({ instances, lamps: [] }, assets);
  for (let step = 0; step < 30; step++) {
    instances = instances.map((old, i) => (below(5) === 0 ? { ...placed(i), transform: old.transform } : old));
    const lamps = below(2) === 0 ? [] : [lampAt(below(20), below(1000))];
    stepped.setScene({ instances, lamps }, assets);
    const atOnce = memoryOf();
    atOnce.setScene({ instances, lamps }, assets);
    const look = ({ kernel, scene }: SceneMemory) =>
      instances.map((_, i) => kernel.measureRadiance(scene, i + 0.4, 0.3, 9, 0.05, 0.02, -1, 16, 1));
    expect(look(stepped)).toEqual(look(atOnce));
  }
  const used = stepped.memory.usedBytes;
  for (let step = 0; step < 50; step++) {
    const prepared = instances.map((old) => ({ ...old }));
    stepped.setScene({ instances: prepared, lamps: [] }, assets);
  }
  expect(stepped.memory.usedBytes).toBeLessThanOrEqual(used);
});
