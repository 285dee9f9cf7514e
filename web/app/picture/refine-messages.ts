import type { Survey } from '../../../core/render/survey';
import type { WalkFault } from '../../../core/render/walk-check';
import type { MapSet, TextureImage } from '../../../core/finish/maps/texture-image';
import type { CameraFrame } from '../../../core/camera/camera';
import type { Walk } from '../../../core/camera/walk';
import type { Metering } from '../../../core/image/exposure';
import type { Exposures } from '../../../core/render/meter';
import type { PreparedMesh } from '../../../core/geometry/prepare-mesh';
import type { Development } from '../../../core/image/tone';
import type { WhiteSetting } from '../../../core/image/white-balance';
import type { Exposure } from '../../../core/project/project';
import type { Cuts } from '../../../core/project/sections';
import type { Drawing } from '../../../core/project/style';
import type { ChosenGrading } from '../../../core/scene/grading-of';
import type { SceneLamp } from '../../../core/scene/scene';
import type { SkyInput } from '../../../core/sky/sky-map';
import type { TuftGroup } from './blades-on-stage';
import type { SceneChange } from './scene-changes';
import type { SimpleMesh } from './working-detail';

/** What the page and its refining worker say to each other. */

export type ToRefiner =
  | { type: 'start'; module: WebAssembly.Module; ports: MessagePort[] }
  | { type: 'need-meshes'; hashes: string[] }
  | { type: 'need-simple'; hashes: string[] }
  | { type: 'need-maps'; name: string; size: 'whole' | 'small' }
  | { type: 'scene'; change: SceneChange }
  | { type: 'sky'; input: SkyInput }
  /** Planes that cut the scene, with what is filled. */
  | { type: 'cuts'; cuts: Cuts | undefined }
  /** Lines and paper over what is developed. */
  | { type: 'drawing'; drawing: Drawing }
  | { type: 'exposure'; exposure: Exposure }
  | { type: 'grading'; grading: ChosenGrading }
  /** Render this view; with `undefined` stop and wait. */
  | { type: 'view'; view: RefineView | undefined }
  /** One picture of this view at once, while something moves; it takes the place of one that waits. `toMeter`: only how it is to be developed. */
  | { type: 'moving'; view: RefineView; toMeter?: true }
  /** How a walk has to be exposed, at an aspect ratio. */
  | { type: 'meter'; walk: Walk; aspect: number; metering: Metering | undefined }
  /** The walk that is open; where it goes through something is told, then and with each scene. */
  | { type: 'check-walk'; walk: Walk | undefined }
  /** What lies under places, see core/render/survey.ts; answered once the scene that was sent last is there. */
  | {
      type: 'survey';
      number: number;
      places: Float64Array<ArrayBuffer>;
      ignored: readonly string[];
      headroomM?: number | undefined;
      cuts?: boolean | undefined;
    }
  /** Which white makes a place of the picture grey; parts of its width and height. */
  | { type: 'grey-at'; x: number; y: number }
  /** Small pictures of the scene under other light, in the place of those of the same lane that are still to be made. */
  | { type: 'proofs'; lane: string; proofs: ProofJob[] }
  /** A row of lamps may be dimmed: what it gives alone is to be known; its level now, and lamps and instances as it lights them wholly and alone. */
  | ({ type: 'level-layer' } & LevelLayerJob)
  /** The row is dimmed: the picture shows it at once where what it gives alone is known. */
  | { type: 'level'; row: string; level: number }
  /** Somebody does something: wait for a moment. */
  | { type: 'hold' };

export interface LevelLayerJob {
  row: string;
  level: number;
  lamps: SceneLamp[];
  emission: number[];
}

/** A picture of the scene under other light than the project's. */
export interface ProofJob {
  lane: string;
  id: string;
  frame: CameraFrame;
  width: number;
  height: number;
  samples: number;
  sky: SkyInput;
  exposure: Exposure;
  grading: ChosenGrading;
  /** Where lamps are lit otherwise: all of them, and how far each instance glows. */
  lamps?: { lamps: SceneLamp[]; emission: number[] };
}

export interface RefineView {
  number: number;
  frame: CameraFrame;
  width: number;
  height: number;
  samples: number;
  /** The moment that what moves is seen at, seconds. */
  timeS: number;
}

/** A map set with texels of its own. */
export type MapImages = {
  readonly [K in keyof MapSet]: (TextureImage & { texels: Uint8Array<ArrayBuffer> }) | Extract<MapSet[K], undefined>;
};

export type FromRefiner =
  | { type: 'meshes'; meshes: [string, PreparedMesh][]; missing: string[] }
  | { type: 'simple'; meshes: [string, SimpleMesh | null][] }
  | { type: 'maps'; name: string; maps: MapImages | undefined }
  /** Grass as the last view has it. */
  | { type: 'tufts'; groups: TuftGroup[] }
  | {
      type: 'picture';
      view: number;
      samples: number;
      target: number;
      /** The answer to `moving`. */
      moving: boolean;
      development: Development;
      width: number;
      height: number;
      rgba: Uint8ClampedArray<ArrayBuffer>;
    }
  /** A sample more; there is no new picture yet. */
  | { type: 'sampled'; view: number; samples: number; target: number }
  /** How the view is to be developed, metered by itself. */
  | { type: 'development'; development: Development }
  | { type: 'exposures'; exposures: Exposures }
  | { type: 'walk-faults'; faults: WalkFault[] }
  | { type: 'surveyed'; number: number; survey: Survey }
  /** What a row of lamps gives alone is known. */
  | { type: 'level-known'; row: string }
  | { type: 'white'; white: WhiteSetting }
  | { type: 'proof'; lane: string; id: string; width: number; height: number; rgba: Uint8ClampedArray<ArrayBuffer> }
  | { type: 'fault'; message: string };
