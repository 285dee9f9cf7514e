import { expect, it } from 'vitest';
import { translation } from '../geometry/mat4';
import { prepareMesh, type PreparedMesh } from '../geometry/prepare-mesh';
import { MeshBuilder } from '../geometry/shapes';
import { SceneMemory } from './scene-memory';
import { kernelModule, matt } from './testing';

const KINDS = 12;
/** Of about 8,000 triangles each. */
const meshes = new Map<string, PreparedMesh>(
  Array.from({ length: KINDS }, (_, k) => {
    const b = new MeshBuilder();
    for (let i = 0; i < 40; i++)
      b.tube(
        Array.from({ length: 11 }, (_, n) => [i * 0.1, n * 0.1, Math.sin(n + k)] as const),
        0.02,
        10,
      );
    return [`kind-${String(k)}`, prepareMesh(b.build())] as const;
  }),
);
const finish = matt(0.5);

/** Bytes that a scene of so many instances of the kinds takes. */
function bytesOf(count: number): number {
  const scene = new SceneMemory(kernelModule());
  const before = scene.memory.memory.buffer.byteLength;
  const instances = Array.from({ length: count }, (_, i) => ({
    mesh: `kind-${String(i % KINDS)}`, transform: translation((i % 200) * 2, Math.floor(i / 200) * 2, 0), finish, variation: undefined, class: 'Planting', emissionScale: 1, lens: false,
  })); // prettier-ignore
  scene.setScene({ instances, lamps: [] }, { mesh: (key) => meshes.get(key), maps: () => undefined });
  return scene.memory.memory.buffer.byteLength - before;
}

it('memory grows by kinds; each instance more takes less than a kilobyte', () => {
  const triangles = meshes.get('kind-0')!.indices.length / 3;
  expect(triangles).toBeGreaterThan(7000);
  const [few, many] = [bytesOf(1000), bytesOf(20_000)];
  expect((many - few) / 19_000).toBeLessThan(1024);
  // Were each a mesh of its own, 20,000 would take some three gigabytes even at twenty bytes a triangle.
  expect(many).toBeLessThan(120e6);
  console.log(`1,000 instances: ${(few / 1e6).toFixed(1)} MB, 20,000: ${(many / 1e6).toFixed(1)} MB`);
});
