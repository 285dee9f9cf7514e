import type { KernelPool } from '../kernel/pool';

const PASSES = 5;
const ROWS = 16;
/** Differences of up to twice their own spread are taken for noise; found by trying 1 to 8 on the demo. */
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

  /** The film's radiance, f32x4 a pixel, filtered or as it is. Undefined when cancelled. The view is valid until the next call. */
  async radiance(denoise: boolean): Promise<Float32Array | undefined> {
    const { height } = this;
    const { guide, pool } = this;
    let [source, target] = this.light;
    if (denoise) {
      const [noisy, capped, whole] = [source, target, this.out];
      if (!(await pool.run({ kind: 'denoise-input', height, rows: ROWS, light: noisy, guide }))) return undefined;
      if (!(await pool.run({ kind: 'cap-outliers', height, rows: ROWS, source: noisy, target: capped, guide }))) return undefined;
      if (!(await pool.run({ kind: 'return-excess', height, rows: ROWS, before: noisy, capped, target: whole, guide }))) return undefined;
      for (let pass = 0; pass < PASSES; pass++) {
        // The first pass reads from the output's buffer, which is free until the end.
        const from = pass === 0 ? whole : source;
        if (
          !(await pool.run({
            kind: 'denoise-pass',
            height,
            rows: ROWS,
            step: 1 << pass,
            strictness: STRICTNESS,
            source: from,
            target,
            guide,
          }))
        )
          return undefined;
        [source, target] = [target, source];
      }
    }
    const light = denoise ? source : 0;
    if (!(await pool.run({ kind: 'denoise-output', height, rows: ROWS, light, out: this.out }))) return undefined;
    return this.pool.scene.memory.floats(this.out, this.width * height * 4);
  }

  release(): void {
    const m = this.pool.scene.memory;
    for (const block of [...this.light, this.guide, this.out]) m.release(block);
  }
}
