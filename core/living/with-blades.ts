import type { CameraFrame } from '../camera/camera';
import { cross, normalise, type Vec3 } from '../geometry/vec3';
import type { PreparedMesh } from '../geometry/prepare-mesh';
import { standsLike } from '../kernel/instance-table';
import type { SceneMemory } from '../kernel/scene-memory';
import type { RenderedInstance, RenderedScene, SceneAssets } from '../scene/rendered-scene';
import { MASK_CLEAR, MASK_STANDS } from '../kernel/assembly/layout';
import { groundMesh, plainGround } from '../scene/plain-ground';
import { BLADE_LEVELS, finishOfBlades, TUFT_SHAPES, tuftKey, tuftOfKey } from './blades';
import { tuftsOn, type GrassView } from './grow';

/** Water deeper than this is not looked for, metres. */
const DEEPEST_M = 30;
/** Roots are looked at from so much above the ground. */
const ABOVE_M = 0.004;
/** Beyond the picture's edge so much of it still counts as seen, for shadows that fall into it. */
const MARGIN = 1.3;

export const hasBlades = ({ instances }: Pick<RenderedScene, 'instances'>): boolean =>
  instances.some(({ finish }) => finish.blades !== null);

/** What a camera sees of the ground about it. */
export function grassViewOf({ origin, forward, right, up, projection }: CameraFrame): GrassView {
  // Right and up are half the picture wide and high, at one metre along the view.
  // All round, everything is seen; in parallel what lies across the view.
  if (projection === 'equirectangular') return { eye: [...origin] as Vec3, sees: () => true };
  const [across, along] = [Math.hypot(...right), Math.hypot(...up)];
  const normal = normalise(cross(up, right));
  const slack = [across * MARGIN + 0.05, along * MARGIN + 0.05] as const;
  return {
    eye: [...origin] as Vec3,
    sees: (x, y, z) => {
      const d = [x - origin[0], y - origin[1], z - origin[2]] as const;
      const dot = (a: readonly number[]) => a[0]! * d[0] + a[1]! * d[1] + a[2]! * d[2];
      const ahead = dot(normal);
      if (projection === 'orthographic')
        return ahead > 0 && Math.abs(dot(right)) <= across * slack[0] && Math.abs(dot(up)) <= along * slack[1];
      // Aside from where the lens looks, which leans where it is shifted.
      const aside = (axis: readonly number[]) =>
        Math.abs(dot(axis) - ahead * (axis[0]! * forward[0] + axis[1]! * forward[1] + axis[2]! * forward[2]));
      return ahead > 0 && aside(right) <= across * slack[0] * ahead && aside(up) <= along * slack[1] * ahead;
    },
  };
}

/** Whether something lies over a root within the length of its blades, or it lies under water. */
function isCovered({ kernel, finishAt }: SceneMemory, x: number, y: number, z: number, lengthM: number): boolean {
  if (kernel.traceAny(x, y, z, 0, 0, 1, lengthM, MASK_STANDS)) return true;
  return kernel.traceClosest(x, y, z, 0, 0, 1, DEEPEST_M, MASK_CLEAR) !== 0 && finishAt(kernel.hitInstance.value)?.family === 'water';
}

/** A scene with its grass; `blades` are the last of its instances. */
export interface Grown {
  scene: RenderedScene;
  assets: SceneAssets;
  blades: readonly RenderedInstance[];
}

/**
 * The scene with grass on whatever has blades, as seen by a camera. The scene itself must be in the kernel's memory, with other
 * grass or without: none grows where something else lies over its root.
 */
export function withBlades(memory: SceneMemory, scene: RenderedScene, assets: SceneAssets, view: GrassView): Grown {
  // prettier-ignore
  const grown: RenderedInstance[] = [];
  for (const { mesh: key, transform, finish, layer } of scene.instances) {
    const mesh = finish.blades && assets.mesh(key);
    if (!finish.blades || !mesh) continue;
    const leaves = finishOfBlades(finish);
    const { blades } = finish;
    const keys = BLADE_LEVELS.map((_, level) => Array.from({ length: TUFT_SHAPES }, (_, shape) => tuftKey(blades, level, shape)));
    for (const tuft of tuftsOn(mesh, transform, blades.irregularity, view)) {
      const [x, y, z] = tuft.transform.slice(12, 15) as [number, number, number];
      if (isCovered(memory, x, y, z + ABOVE_M, blades.lengthM)) continue;
      grown.push({
        mesh: keys[tuft.level]![tuft.shape]!,
        transform: tuft.transform,
        finish: leaves,
        variation: tuft.variation,
        class: 'Planting',
        layer,
        emissionScale: 1,
        lens: false,
        isTuft: true,
      });
    }
  }
  return {
    scene: { instances: [...scene.instances, ...grown], lamps: scene.lamps },
    blades: grown,
    assets: withTufts(assets),
  };
}

/** Assets and, beside them, the meshes of tufts. */
function withTufts(assets: SceneAssets): SceneAssets {
  const tufts = new Map<string, PreparedMesh | undefined>();
  const mesh = (key: string) => {
    if (!key.startsWith('blades/')) return assets.mesh(key);
    if (!tufts.has(key)) tufts.set(key, tuftOfKey(key));
    return tufts.get(key);
  };
  return { mesh, maps: (name) => assets.maps(name) };
}

/** A scene on a plain ground, where it needs one; the very scene otherwise. */
function onGround(scene: RenderedScene, assets: SceneAssets): { scene: RenderedScene; assets: SceneAssets } {
  const ground = plainGround(scene.instances, (key) => assets.mesh(key), scene.ground);
  if (ground.length === 0) return { scene, assets };
  return {
    scene: { ...scene, instances: [...scene.instances, ...ground] },
    assets: { mesh: (key) => groundMesh(key) ?? assets.mesh(key), maps: (name) => assets.maps(name) },
  };
}

/**
 * Puts a scene into the kernel's memory, on its ground and with its grass as a camera sees it; the grass is returned. `isThere`: it
 * is in memory already, with all of its meshes, as another camera saw it.
 */
export function setLivingScene(
  memory: SceneMemory,
  bare: RenderedScene,
  bareAssets: SceneAssets,
  frame: CameraFrame,
  isThere = false,
): readonly RenderedInstance[] {
  const { scene, assets } = onGround(bare, bareAssets);
  if (!isThere || !hasBlades(scene)) memory.setScene(scene, assets);
  if (!hasBlades(scene)) return [];
  const grown = withBlades(memory, scene, assets, grassViewOf(frame));
  memory.setScene(grown.scene, grown.assets);
  return grown.blades;
}

const growthOf = ({ finish }: RenderedInstance): string => JSON.stringify(finish.blades ?? finish.family === 'water');

/** Whether grass grows in one scene as in another: nothing stands otherwise, and neither grass nor water is elsewhere. */
export const growsAlike = (a: RenderedScene, b: RenderedScene): boolean =>
  a.ground === b.ground &&
  a.instances.length === b.instances.length &&
  a.instances.every((instance, i) => {
    const other = b.instances[i]!;
    return (
      instance === other || (standsLike(instance, other) && (instance.finish === other.finish || growthOf(instance) === growthOf(other)))
    );
  });

/** Puts a scene into the kernel's memory with grass that has grown in one that it `growsAlike`. */
export function setGrownScene(
  memory: SceneMemory,
  bare: RenderedScene,
  bareAssets: SceneAssets,
  blades: readonly RenderedInstance[],
): void {
  const { scene, assets } = onGround(bare, bareAssets);
  const grown = [...scene.instances, ...blades];
  memory.setScene({ instances: grown, lamps: scene.lamps }, withTufts(assets));
}
