import earcut from 'earcut';
import type { Mesh } from '../geometry/mesh';
import { areaOf, type Place2 } from './scatter';

/** A level sheet within an outline, seen from above. Undefined: it has no area. */
export function sheetMesh(outline: readonly Place2[], z: number): Mesh | undefined {
  if (areaOf(outline) < 0.01) return undefined;
  const indices = earcut(outline.flat());
  const positions = new Float32Array(outline.flatMap(([x, y]) => [x, y, z]));
  const [a, b, c] = indices.slice(0, 3).map((index) => outline[index]!) as [Place2, Place2, Place2];
  const isDown = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) < 0;
  return { positions, indices: new Uint32Array(isDown ? indices.reverse() : indices) };
}
