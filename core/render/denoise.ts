import type { KernelPool } from '../kernel/pool';
import type { Task } from '../kernel/thread';

const ROWS = 16;
/** Pixels between the taps of each pass. */
const STEPS = [1, 2, 4, 8, 16];
/** The first reaches all but the border and what has no like among its neighbours. */
const FILLS = 3;
/** Differences of up to twice their own spread are taken for noise: less leaves walls indoors mottled, more smears the water outside. */
const STRICTNESS = 2;

interface Filtering {
  /** Only every so manieth pixel of every so manieth row has samples, and the filter fills the rest. */
  grid?: number;
  /** Most pixels between the taps of a pass. */
  widest?: number;
}

/** Buffers for developing one picture size, in the kernel's memory. */
export class PictureBuffers {
  private readonly light: [number, number];
  private readonly guide: number;
  private readonly out: number;

  constructor(
    private readonly pool: KernelPool,
    readonly width: number,
    readonly height: number,
  ) {
    const bytes = width * height * 16;
    const m = pool.scene.memory;
    this.light = [m.allocate(bytes), m.allocate(bytes)];
    this.guide = m.allocate(bytes);
    this.out = m.allocate(bytes);
  }

  /**
   * The film's radiance, f32x4 a pixel, filtered or as it is. Undefined when cancelled. The view is valid until the next call.
   * `before`: what the film has still to be given, in the same run.
   */
  async radiance(denoise: boolean, filtering: Filtering = {}, before: readonly Task[] = []): Promise<Float32Array | undefined> {
    const { height } = this;
    const { tasks, light } = denoise ? this.filter(filtering) : { tasks: [], light: 0 };
    if (!(await this.pool.run(...before, ...tasks, { kind: 'denoise-output', height, rows: ROWS, light, out: this.out }))) return undefined;
    return this.pool.scene.memory.floats(this.out, this.width * height * 4);
  }

  /** What is to be done to the light, and where it is then. */
  private filter({ grid = 1, widest = Infinity }: Filtering): { tasks: Task[]; light: number } {
    const { height, guide } = this;
    const rows = ROWS;
    let [source, target] = this.light;
    const tasks: Task[] = [{ kind: 'denoise-input', height, rows, light: source, guide }];
    if (grid === 1) {
      tasks.push({ kind: 'cap-outliers', height, rows, source, target, guide });
      tasks.push({ kind: 'return-excess', height, rows, before: source, capped: target, target: this.out, guide });
      // The first pass reads from the output's buffer, which is free until the end.
      source = this.out;
    }
    const next = () => {
      [source, target] = [target, source === this.out ? this.light[0] : source];
    };
    for (const step of STEPS) {
      if (step < grid || step > widest) continue;
      tasks.push({ kind: 'denoise-pass', height, rows, step, grid, strictness: STRICTNESS, source, target, guide });
      next();
    }
    if (grid > 1)
      for (let i = 0; i < FILLS; i++) {
        tasks.push({ kind: 'fill-gaps', height, rows, source, target, guide });
        next();
      }
    return { tasks, light: source };
  }

  release(): void {
    const m = this.pool.scene.memory;
    for (const block of [...this.light, this.guide, this.out]) m.release(block);
  }
}
