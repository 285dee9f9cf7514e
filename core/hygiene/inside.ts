import { rayTriangle } from '../geometry/ray';
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
      if (
        rayTriangle(point, PROBE, corner(body, body.indices[t]!), corner(body, body.indices[t + 1]!), corner(body, body.indices[t + 2]!)) <
        Infinity
      )
        crossings++;
    return crossings % 2 === 1;
  });
}
