import { emptyBounds, meshBounds, type Bounds, type Mesh } from '../geometry/mesh';
import type { SceneInstance } from './scene';

/** What reaches further is landscape. */
const LANDSCAPE_M = 150;

/** The box about everything but the far landscape, or about all where there is nothing else; undefined: nothing is there yet. */
export function sceneBounds(
  instances: readonly Pick<SceneInstance, 'mesh' | 'transform'>[],
  meshOf: (key: string) => Pick<Mesh, 'positions'> | undefined,
  landscapeM = LANDSCAPE_M,
): Bounds | undefined {
  const known = new Map<string, Bounds | undefined>();
  const [near, all] = [emptyBounds(), emptyBounds()];
  for (const { mesh: key, transform: m } of instances) {
    if (!known.has(key)) {
      const mesh = meshOf(key);
      known.set(key, mesh && mesh.positions.length > 0 ? meshBounds(mesh.positions) : undefined);
    }
    const own = known.get(key);
    if (!own) continue;
    const placed = emptyBounds();
    for (let row = 0; row < 3; row++) {
      let [low, high] = [m[12 + row]!, m[12 + row]!];
      for (let axis = 0; axis < 3; axis++) {
        const [a, b] = [m[axis * 4 + row]! * own.min[axis]!, m[axis * 4 + row]! * own.max[axis]!];
        low += Math.min(a, b);
        high += Math.max(a, b);
      }
      [placed.min[row], placed.max[row]] = [low, high];
    }
    grow(all, placed);
    if (Math.max(placed.max[0] - placed.min[0], placed.max[1] - placed.min[1]) < landscapeM) grow(near, placed);
  }
  return [near, all].find(({ min, max }) => min[0] <= max[0]);
}

/** Height of the lowest place of the ground, metres, where fog is thickest; undefined: there is no ground. */
export function lowestGround(
  instances: readonly Pick<SceneInstance, 'mesh' | 'transform' | 'finish' | 'class'>[],
  meshOf: (key: string) => Pick<Mesh, 'positions'> | undefined,
): number | undefined {
  return sceneBounds(instances.filter(isGround), meshOf, Infinity)?.min[2];
}

/** Ground of a model, of the setting, or the plain one. */
export const isGround = ({ class: its, finish }: Pick<SceneInstance, 'finish' | 'class'>): boolean =>
  (its === 'Ground' || finish.family === 'ground' || finish.blades !== null) && its !== 'Planting';

function grow(box: Bounds, { min, max }: Bounds): void {
  for (let k = 0; k < 3; k++) {
    box.min[k] = Math.min(box.min[k]!, min[k]!);
    box.max[k] = Math.max(box.max[k]!, max[k]!);
  }
}
