import type { Development } from '../../../core/image/tone';
import { lampsAsText } from '../../../core/scene/lamps';
import type { SceneLamp } from '../../../core/scene/scene';
import { SCREEN_WHITE } from '../../../core/image/white-balance';
import { skyOf } from '../../../core/sky/sky';
import type { SkyPicture } from '../../../core/sky/sky-picture';
import type { SkyInput } from '../../../core/sky/sky-map';
import { fetchSkyPicture } from './fetch-sky-picture';
import type { RefineView, ToRefiner } from './refine-messages';
import type { Stage } from './stage';

/** Kept as `graphics`, the working picture is drawn by WebGL even where the processor does that. */
const DRAWN_BY_KEY = 'drawn-by';
/** A step of exposure that is seen, in stops. */
const SEEN_EV = 0.03;
/** And of white, in chromaticity. */
const SEEN_WHITE = 0.002;

/** What who draws needs to know of the picture. */
interface Sight {
  stage: Stage | undefined;
  isEmpty(): boolean;
  isMoving(): boolean;
  /** Something is pointed out on surfaces, which the stage alone can show. */
  needsStage(): boolean;
  view(): RefineView;
  development(): Development;
  /** Brings the scene to the kernel, then asks it for something. */
  ask(message: ToRefiner): void;
  /** Asks to be drawn once more. */
  again(): void;
  /** A working picture is on the screen. */
  drawn(): void;
}

/** Draws the working picture: WebGL does, or the kernel where WebGL would be drawn by the processor, or is not there at all. */
export class WhoDraws {
  readonly kernel: boolean;
  /** Since the last working picture something has changed that it shows. */
  private stale = true;
  /** Since the picture was last metered, its light has changed. */
  private lightStale = true;
  private lamps = '';
  private sky: SkyInput | undefined;
  private skyPicture: SkyPicture | undefined;
  private shown: Development = { ev100: 0, white: SCREEN_WHITE };

  constructor(private readonly sight: Sight) {
    this.kernel = !sight.stage || (sight.stage.software && localStorage.getItem(DRAWN_BY_KEY) !== 'graphics');
  }

  /** The kernel draws what is shown just now. */
  get kernelAlone(): boolean {
    return this.kernel && !this.sight.needsStage();
  }

  changed(): void {
    this.stale = true;
  }

  setSky(sky: SkyInput): void {
    this.sky = sky;
    this.lightStale = true;
    if (!this.sight.stage) return;
    void fetchSkyPicture(sky).then((picture) => {
      if (picture === this.skyPicture) return;
      this.skyPicture = picture;
      this.sky = sky;
      this.sight.again();
    });
  }

  setLamps(lamps: readonly SceneLamp[]): void {
    const now = lampsAsText(lamps);
    this.lightStale ||= now !== this.lamps;
    this.lamps = now;
  }

  /** Whether a picture that is developed so would be seen to differ from the one that WebGL has drawn. */
  differs({ ev100, white }: Development): boolean {
    const { shown } = this;
    return Math.abs(ev100 - shown.ev100) > SEEN_EV || Math.hypot(white.x - shown.white.x, white.y - shown.white.y) > SEEN_WHITE;
  }

  draw(): void {
    if (this.kernelAlone) this.byKernel();
    else this.byStage();
    this.stale = false;
  }

  private byStage(): void {
    const { stage } = this.sight;
    if (this.sky) stage?.setSky(skyOf(this.sky, this.skyPicture));
    this.sky = undefined;
    stage?.render(this.sight.isMoving());
    this.shown = this.sight.development();
    this.meter();
    this.sight.drawn();
  }

  /** Under other light a draft would be white or black until it is refined: a small picture of the kernel's tells how it is to be developed. */
  private meter(): void {
    if (!this.lightStale || this.kernel || this.sight.isEmpty()) return;
    this.lightStale = false;
    this.sight.ask({ type: 'moving', view: this.sight.view(), toMeter: true });
  }

  /** Of what is asked for while a picture is made, the kernel makes the last. */
  private byKernel(): void {
    if (this.sight.isEmpty()) this.sight.drawn();
    else if (this.stale) this.sight.ask({ type: 'moving', view: this.sight.view() });
  }
}
