import { readFileSync } from 'node:fs';
import { prepareMesh } from '../geometry/prepare-mesh';
import { IDENTITY } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import { PLAIN_FINISH, type Finish } from '../finish/finish';
import type { Scene, SceneInstance } from '../scene/scene';
import { uniformSky, type Sky } from '../sky/sky-map';
import { SceneMemory } from './scene-memory';

/** Set-up that the kernel's tests and benches share. */

export function kernelModule(): WebAssembly.Module {
  return new WebAssembly.Module(readFileSync('dist/kernel.wasm'));
}

/** A matt surface without a specular coat. */
export function matt(reflectance: number, extra: Partial<Finish> = {}): Finish {
  const coded = reflectance <= 0.0031308 ? reflectance * 12.92 : 1.055 * reflectance ** (1 / 2.4) - 0.055;
  return { ...PLAIN_FINISH, id: 'matt', name: 'matt', family: 'plain', baseColour: [coded, coded, coded], ior: 1, roughness: 1, ...extra };
}

export function darkSky(): Sky {
  return uniformSky(0);
}

export { uniformSky };

/** A scene of meshes in place, each with its finish. */
export function testScene(parts: { mesh: Mesh; finish: Finish }[], sky: Sky, lamps: Scene['lamps'] = []): SceneMemory {
  const meshes = new Map(parts.map((part, i) => [String(i), prepareMesh(part.mesh)]));
  const instances = parts.map(
    (part, i): SceneInstance => ({
      source: 's', element: String(i), part: 0, material: 'm', mesh: String(i), transform: IDENTITY, finish: part.finish, emissionScale: 1, lens: false,
    }),
  ); // prettier-ignore
  const scene = new SceneMemory(kernelModule());
  scene.setSky(sky);
  scene.setScene({ instances, lamps }, { mesh: (hash) => meshes.get(hash), maps: () => undefined });
  return scene;
}

/** A quadrilateral with its normal on the side from which a, b, c, d run anticlockwise. */
export function quad(a: readonly number[], b: readonly number[], c: readonly number[], d: readonly number[]): Mesh {
  return { positions: new Float32Array([...a, ...b, ...c, ...d]), indices: new Uint32Array([0, 1, 2, 0, 2, 3]) };
}

/** An axis-aligned box; `inward` turns its faces to the inside. */
export function box(min: readonly [number, number, number], max: readonly [number, number, number], inward = false): Mesh {
  const p: number[] = [];
  for (let i = 0; i < 8; i++) p.push(i & 1 ? max[0] : min[0], i & 2 ? max[1] : min[1], i & 4 ? max[2] : min[2]);
  const faces = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]]; // prettier-ignore
  const indices = faces.flatMap(([a, b, c, d]) => (inward ? [a, c, b, a, d, c] : [a, b, c, a, c, d])) as number[];
  return { positions: new Float32Array(p), indices: new Uint32Array(indices) };
}
