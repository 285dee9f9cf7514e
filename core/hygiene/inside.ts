import type { Vec3 } from '../geometry/vec3';
import { corner, type Body } from './body';

/** Askew, so that it grazes no edge of what is built at right angles. */
const PROBE: Vec3 = [0.8312, 0.4517, 0.3241];

/** Whether a point lies within one of the bodies, by the number of faces that a ray from it crosses. */
export function isInside(point: Vec3, bodies: readonly Body[]): boolean {
  return bodies.some((body) => {
    const { min, max } = body.bounds;
    if (point.some((v, k) => v < min[k]! || v > max[k]!)) return false;
    let crossings = 0;
    for (let t = 0; t < body.indices.length; t += 3)
      if (crosses(point, corner(body, body.indices[t]!), corner(body, body.indices[t + 1]!), corner(body, body.indices[t + 2]!)))
        crossings++;
    return crossings % 2 === 1;
  });
}

/** T. Moller, B. Trumbore, Fast, minimum storage ray/triangle intersection, 1997. */
function crosses(o: Vec3, a: Vec3, b: Vec3, c: Vec3): boolean {
  const [e1, e2] = [[b[0] - a[0], b[1] - a[1], b[2] - a[2]], [c[0] - a[0], c[1] - a[1], c[2] - a[2]]] as const; // prettier-ignore
  const p = [PROBE[1] * e2[2] - PROBE[2] * e2[1], PROBE[2] * e2[0] - PROBE[0] * e2[2], PROBE[0] * e2[1] - PROBE[1] * e2[0]] as const;
  const det = e1[0] * p[0] + e1[1] * p[1] + e1[2] * p[2];
  if (Math.abs(det) < 1e-15) return false;
  const s = [o[0] - a[0], o[1] - a[1], o[2] - a[2]] as const;
  const u = (s[0] * p[0] + s[1] * p[1] + s[2] * p[2]) / det;
  if (u < 0 || u > 1) return false;
  const q = [s[1] * e1[2] - s[2] * e1[1], s[2] * e1[0] - s[0] * e1[2], s[0] * e1[1] - s[1] * e1[0]] as const;
  const v = (PROBE[0] * q[0] + PROBE[1] * q[1] + PROBE[2] * q[2]) / det;
  return v >= 0 && u + v <= 1 && (e2[0] * q[0] + e2[1] * q[1] + e2[2] * q[2]) / det > 0;
}
