import { addTo } from '../../../core/grouping';
import { levelOfKey, tuftOfKey } from '../../../core/living/blades';
import type { RenderedInstance } from '../../../core/scene/rendered-scene';
import type { TuftGroup } from './blades-on-stage';

/** The grass of the kernel's picture, for the working one. */
export function tuftGroups(blades: readonly RenderedInstance[]): TuftGroup[] {
  const byMesh = new Map<string, RenderedInstance[]>();
  for (const tuft of blades) {
    const key = `${tuft.finish.id} ${tuft.mesh}`;
    addTo(byMesh, key, tuft);
  }
  return [...byMesh.values()].map((tufts) => {
    const transforms = new Float32Array(tufts.length * 16);
    tufts.forEach((tuft, i) => {
      transforms.set(tuft.transform, i * 16);
    });
    const [{ finish, mesh }] = tufts as [RenderedInstance];
    return {
      finish,
      mesh: tuftOfKey(mesh)!,
      level: levelOfKey(mesh),
      transforms,
      tints: Float32Array.from(tufts, (tuft) => tuft.variation?.brightness ?? 1),
    };
  });
}
