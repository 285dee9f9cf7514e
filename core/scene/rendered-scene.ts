import type { MapSet } from '../finish/maps/texture-image';
import type { PreparedMesh } from '../geometry/prepare-mesh';
import type { GroundChoice } from '../project/project';
import type { SceneInstance, SceneLamp } from './scene';

/** Where the scene's meshes and map sets come from. Undefined: not (yet) known; the part is left out, the finish is plain. */
export interface SceneAssets {
  mesh(hash: string): PreparedMesh | undefined;
  maps(name: string): MapSet | undefined;
}

/** What light needs to know of an instance; not whose it is. */
export type RenderedInstance = Pick<
  SceneInstance,
  'mesh' | 'transform' | 'finish' | 'variation' | 'emissionScale' | 'lens' | 'class' | 'layer'
> & {
  /** Grass, in nobody's way. */
  isTuft?: true;
};

export interface RenderedScene {
  instances: readonly RenderedInstance[];
  lamps: SceneLamp[];
  ground?: GroundChoice;
}
