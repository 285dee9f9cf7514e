import type { CameraFrame } from '../../core/camera/camera';
import type { SceneMemory } from '../../core/kernel/scene-memory';
import { setLivingScene } from '../../core/living/with-blades';
import type { LitFrom, PrintedScene, PrintSpec } from '../../core/render/print';
import type { SceneAssets } from '../../core/scene/rendered-scene';
import { skyOf } from '../../core/sky/sky';
import type { SkyInput } from '../../core/sky/sky-map';
import type { SkyPicture } from '../../core/sky/sky-picture';

/** What a print is seen under, moment by moment, in the kernel's memory. */
export class PrintedLight {
  private readonly scenes: readonly PrintedScene[];
  private readonly lit: readonly LitFrom[];
  private sky: { input: SkyInput; timeS: number } | undefined;
  private scene: number | undefined;

  constructor(
    { scene, sky, grading, exposure, along }: PrintSpec,
    private readonly memory: SceneMemory,
    private readonly assets: SceneAssets,
    /** By their hashes. */
    private readonly pictures: ReadonlyMap<string, SkyPicture>,
  ) {
    const only = { scene, ...(grading && { grading }), ...(exposure && { exposure }) };
    this.scenes = along?.scenes ?? [only];
    this.lit = along?.lit ?? [{ shotS: 0, scene: 0, sky }];
  }

  /** Shows what is seen at a moment of a shot, with the grass of a camera; `timeS` is of what moves. `isOther`: not the scene before. */
  show(shotS: number, timeS: number, camera: CameraFrame): { developed: PrintedScene; isOther: boolean } {
    const { scene, sky } = this.lit.findLast((lit) => lit.shotS <= shotS + 1e-9) ?? this.lit[0]!;
    const { input, timeS: drawnS } = this.sky ?? {};
    // What drifts is drawn anew for each picture.
    if (sky !== input || (sky.weather?.clouds && timeS !== drawnS)) {
      this.sky = { input: sky, timeS };
      this.memory.setSky(skyOf({ ...sky, ...(sky.weather?.clouds && { timeS }) }, sky.picture && this.pictures.get(sky.picture.hash)));
    }
    const isThere = scene === this.scene;
    const isOther = scene !== (this.scene ?? 0);
    this.scene = scene;
    const developed = this.scenes[scene]!;
    setLivingScene(this.memory, developed.scene, this.assets, camera, isThere);
    return { developed, isOther };
  }
}
