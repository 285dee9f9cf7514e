/** From where parts are looked at: by an eye, or along parallel lines. */
export interface SeenFrom {
  /** Six planes about what is seen: normal inwards and distance, four numbers each. */
  planes: Float64Array;
  eye: readonly [number, number, number];
  /** Pixels that one metre takes at a distance of one metre. */
  pixelsAtOneM: number;
  /** Along parallel lines distance does not matter. */
  parallel: boolean;
}

/** How large spheres (x y z radius) look, in pixels across; 0: out of sight. */
export function seenSizes(spheres: Float32Array, { planes, eye, pixelsAtOneM, parallel }: SeenFrom): Float32Array {
  const sizes = new Float32Array(spheres.length / 4);
  const [ex, ey, ez] = eye;
  for (let i = 0, o = 0; i < sizes.length; i++, o += 4) {
    const x = spheres[o]!;
    const y = spheres[o + 1]!;
    const z = spheres[o + 2]!;
    const r = spheres[o + 3]!;
    let inside = true;
    for (let p = 0; p < 24 && inside; p += 4) inside = planes[p]! * x + planes[p + 1]! * y + planes[p + 2]! * z + planes[p + 3]! >= -r;
    if (!inside) continue;
    const away = parallel ? 1 : Math.max(0.05, Math.hypot(x - ex, y - ey, z - ez) - r);
    sizes[i] = (2 * r * pixelsAtOneM) / away;
  }
  return sizes;
}

const BINS = 128;
const FINEST_PX = 0.25;
const BINS_AN_OCTAVE = 8;

/** Triangles by how large the part that they belong to looks. */
export class SizeCount {
  private readonly triangles = new Float64Array(BINS);

  add(sizePx: number, triangles: number): void {
    if (sizePx < FINEST_PX) return;
    this.triangles[Math.min(BINS - 1, Math.floor(Math.log2(sizePx / FINEST_PX) * BINS_AN_OCTAVE))]! += triangles;
  }

  /** The least size that parts must look if no more than so many triangles are to be drawn. */
  leastPx(budget: number): number {
    let sum = 0;
    for (let bin = BINS - 1; bin >= 0; bin--) {
      sum += this.triangles[bin]!;
      if (sum > budget) return FINEST_PX * 2 ** ((bin + 1) / BINS_AN_OCTAVE);
    }
    return FINEST_PX;
  }
}
