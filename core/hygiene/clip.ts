export type Point2 = readonly [number, number];

const cross = (o: Point2, a: Point2, b: Point2) => (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0]);

export function polygonArea(points: readonly Point2[]): number {
  let sum = 0;
  for (const [i, p] of points.entries()) {
    const q = points[(i + 1) % points.length]!;
    sum += p[0] * q[1] - p[1] * q[0];
  }
  return Math.abs(sum) / 2;
}

export function centroid(points: readonly Point2[]): Point2 {
  let [sum, x, y] = [0, 0, 0];
  const [ox, oy] = points[0]!;
  for (const [i, p] of points.entries()) {
    const q = points[(i + 1) % points.length]!;
    const area = (p[0] - ox) * (q[1] - oy) - (p[1] - oy) * (q[0] - ox);
    sum += area;
    x += area * (p[0] + q[0] + ox);
    y += area * (p[1] + q[1] + oy);
  }
  return sum === 0 ? [ox, oy] : [x / sum / 3, y / sum / 3];
}

/** The part of a convex polygon within another (I. Sutherland, G. Hodgman, Reentrant polygon clipping, 1974). */
export function clip(subject: readonly Point2[], window: readonly Point2[]): Point2[] {
  const turn = Math.sign(cross(window[0]!, window[1]!, window[2]!)) || 1;
  let out = [...subject];
  for (let i = 0; i < window.length && out.length > 0; i++) {
    const [a, b] = [window[i]!, window[(i + 1) % window.length]!];
    const input = out;
    out = [];
    for (let k = 0; k < input.length; k++) {
      const [p, q] = [input[k]!, input[(k + 1) % input.length]!];
      const [sp, sq] = [cross(a, b, p) * turn, cross(a, b, q) * turn];
      if (sp >= 0) out.push(p);
      if (sp * sq < 0) {
        const t = sp / (sp - sq);
        out.push([p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t]);
      }
    }
  }
  return out;
}
