import type { KernelPool } from '../kernel/pool';

const ROWS = 16;
/** Pixels between the taps of each pass. */
const STEPS = [1, 2, 4, 8, 16];
/** The first reaches all but the border and what has no like among its neighbours. */
const FILLS = 3;
/** Differences of up to twice their own spread are taken for noise: less leaves walls indoors mottled, more smears the water outside. */
const STRICTNESS = 2;

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
   * `grid`: only every so manieth pixel of every so manieth row has samples, and the filter fills the rest.
   */
  async radiance(denoise: boolean, grid = 1): Promise<Float32Array | undefined> {
    const { height } = this;
    const light = denoise ? await this.filtered(grid) : 0;
    if (light === undefined) return undefined;
    if (!(await this.pool.run({ kind: 'denoise-output', height, rows: ROWS, light, out: this.out }))) return undefined;
    return this.pool.scene.memory.floats(this.out, this.width * height * 4);
  }

  /** Where the filtered light is, or undefined when cancelled. */
  private async filtered(grid: number): Promise<number | undefined> {
    const { height, guide, pool } = this;
    let [source, target] = this.light;
    if (!(await pool.run({ kind: 'denoise-input', height, rows: ROWS, light: source, guide }))) return undefined;
    if (grid === 1) {
      const [noisy, capped] = [source, target];
      if (!(await pool.run({ kind: 'cap-outliers', height, rows: ROWS, source: noisy, target: capped, guide }))) return undefined;
      if (!(await pool.run({ kind: 'return-excess', height, rows: ROWS, before: noisy, capped, target: this.out, guide })))
        return undefined;
      // The first pass reads from the output's buffer, which is free until the end.
      source = this.out;
    }
    const next = () => {
      [source, target] = [target, source === this.out ? this.light[0] : source];
    };
    for (const step of STEPS) {
      if (step < grid) continue;
      if (!(await pool.run({ kind: 'denoise-pass', height, rows: ROWS, step, grid, strictness: STRICTNESS, source, target, guide })))
        return undefined;
      next();
    }
    if (grid > 1)
      for (let i = 0; i < FILLS; i++) {
        if (!(await pool.run({ kind: 'fill-gaps', height, rows: ROWS, source, target, guide }))) return undefined;
        next();
      }
    return source;
  }

  release(): void {
    const m = this.pool.scene.memory;
    for (const block of [...this.light, this.guide, this.out]) m.release(block);
  }
}
