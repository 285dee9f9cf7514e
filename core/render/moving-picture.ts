import type { CameraFrame } from '../camera/camera';
import type { Denoiser } from '../denoise/denoiser';
import { wholeSteps } from '../denoise/tiles';
import * as L from '../kernel/assembly/layout';
import { KeptRooms } from '../kernel/kept-rooms';
import type { KernelPool } from '../kernel/pool';
import type { Progress } from './progressive';

const TILE = 16;
const ROWS = 8;
const LIGHT_SHRINK = 2.65;
const MORE_GUIDES = 1;
/** A picture is to take this long; its size follows. */
const WANTED_MS = 140;
const [SMALLEST, LARGEST] = [232, 640];
const FIRST_WIDTH = 320;

export interface FrameSize {
  mostWidth?: number;
  width?: number;
  /** A pixel of light stands for so many pixels of what is seen, each way. */
  lightShrink?: number;
}

/**
 * The kernel's picture while something moves: what is seen at a middling size, one sample of light at a small size, denoised and
 * carried over, and what earlier pictures knew. Its size follows what the computer can do in a seventh of a second.
 */
export class MovingPicture {
  private width = FIRST_WIDTH;
  private readonly rooms: KeptRooms;
  private before: { width: number; height: number; camera: CameraFrame; at: number } | undefined;
  /** The last two pictures lie in turns in one of two blocks. */
  private keeps: 'even' | 'odd' = 'even';
  private turn = 0;
  private readonly job: number;

  constructor(
    readonly pool: KernelPool,
    private readonly denoiser: Denoiser,
  ) {
    this.rooms = new KeptRooms(pool.scene.memory);
    this.job = pool.scene.memory.allocate(L.MOVING_SIZE);
  }

  /** Light has changed: what earlier pictures knew is no longer true. */
  forget(): void {
    this.before = undefined;
  }

  /**
   * One picture through a camera, at most so many pixels wide; undefined when cancelled. With `width` it has that width whatever the
   * time it takes. Films are set up anew; that of what is seen is shown afterwards, for its features.
   */
  async frame(
    camera: CameraFrame,
    aspect: number,
    { mostWidth = LARGEST, width: given, lightShrink = LIGHT_SHRINK }: FrameSize = {},
  ): Promise<Progress | undefined> {
    const start = performance.now();
    const { pool } = this;
    const { scene } = pool;
    // Only at rest is depth of field seen.
    scene.camera({ ...camera, lens: undefined });
    if (camera.projection === 'orthographic') this.forget();
    const width = given ?? Math.min(this.width, mostWidth);
    const height = Math.max(1, Math.round(width / aspect));
    const [lightWidth, lightHeight] = [wholeSteps(width / lightShrink), wholeSteps(height / lightShrink)];
    const seen = scene.setFilm(width, height, 'seen');
    if (!(await pool.run({ kind: 'seen', width, height, tile: TILE }))) return undefined;
    const light = scene.setFilm(lightWidth, lightHeight, 'light');
    scene.setLitOnly(true);
    const size = { width: lightWidth, height: lightHeight, tile: TILE };
    // Each picture has other samples, so that they add up.
    this.turn = (this.turn + 1) % 1024;
    const lit = await pool.run({ kind: 'features', ...size, first: this.turn, count: MORE_GUIDES }, { kind: 'render', ...size, first: this.turn, count: 1 }); // prettier-ignore
    scene.setLitOnly(false);
    const clean = lit ? await this.denoiser.denoised('small') : undefined;
    if (!clean) return undefined;
    const pixels = width * height;
    const out = this.rooms.take('out', pixels * 16);
    const kept = this.rooms.take(this.keeps, pixels * L.KEPT_SIZE);
    this.describe({ seen, light, clean: clean.byteOffset, kept, out, width, height, lightWidth, lightHeight });
    const { job } = this;
    const joined = await pool.run(
      { kind: 'prepare-moving', height: lightHeight, rows: ROWS, job },
      { kind: 'join-moving', height, rows: ROWS, job },
    );
    if (!joined) return undefined;
    // The film of what is seen tells what the picture's light falls on.
    scene.showFilm(seen, width, height);
    this.before = { width, height, camera, at: kept };
    this.keeps = this.keeps === 'even' ? 'odd' : 'even';
    if (!given) this.adapt(performance.now() - start, mostWidth);
    return { samples: 1 / lightShrink ** 2, width, height, radiance: scene.memory.floats(out, pixels * 4) };
  }

  /** Pixels cost alike: the next picture has as many as there is time for, changed by little at once. */
  private adapt(ms: number, mostWidth: number): void {
    const wanted = this.width * Math.sqrt(Math.min(1.3, Math.max(0.7, WANTED_MS / ms)));
    const next = Math.round(Math.min(LARGEST, mostWidth, Math.max(SMALLEST, wanted)) / 8) * 8;
    if (Math.abs(next - this.width) >= 24) this.width = next;
  }

  private describe(parts: {
    seen: number; light: number; clean: number; kept: number; out: number;
    width: number; height: number; lightWidth: number; lightHeight: number;
  }): void {
    const lit = this.rooms.take('lit', parts.lightWidth * parts.lightHeight * L.LIT_SIZE);
    const view = this.pool.scene.memory.view();
    const put = (offset: number, value: number) => {
      view.setUint32(this.job + offset, value, true);
    };
    put(L.MOVING_SEEN, parts.seen);
    put(L.MOVING_LIGHT, parts.light);
    put(L.MOVING_CLEAN, parts.clean);
    put(L.MOVING_BEFORE, this.before?.at ?? 0);
    put(L.MOVING_KEPT, parts.kept);
    put(L.MOVING_LIT, lit);
    put(L.MOVING_OUT, parts.out);
    put(L.MOVING_WIDTH, parts.width);
    put(L.MOVING_HEIGHT, parts.height);
    put(L.MOVING_LIGHT_WIDTH, parts.lightWidth);
    put(L.MOVING_LIGHT_HEIGHT, parts.lightHeight);
    if (!this.before) return;
    const { width, height, camera } = this.before;
    put(L.MOVING_BEFORE_WIDTH, width);
    put(L.MOVING_BEFORE_HEIGHT, height);
    [...camera.origin, ...camera.forward, ...camera.right, ...camera.up].forEach((value, i) => {
      view.setFloat32(this.job + L.MOVING_CAMERA + i * 4, value, true);
    });
  } // prettier-ignore
}
