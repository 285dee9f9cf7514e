import type { Mat4 } from './mat4';
import { meshArea, type Mesh } from './mesh';

/** Surface of a mesh, m2, as it is and as it is placed. */
export class PlacedArea {
  private own: number | undefined;
  /** By the linear part of what places it, which many elements share. */
  private readonly known = new Map<string, number>();

  constructor(private readonly mesh: Pick<Mesh, 'positions' | 'indices'>) {}

  /** By summing the triangles where a transform puts them; where it scales alike each way, by the square of that. */
  under(m: Mat4): number {
    const [x, y, z] = [0, 4, 8].map((k) => m[k]! ** 2 + m[k + 1]! ** 2 + m[k + 2]! ** 2) as [number, number, number];
    const skew = (a: number, b: number) => Math.abs(m[a]! * m[b]! + m[a + 1]! * m[b + 1]! + m[a + 2]! * m[b + 2]!);
    this.own ??= meshArea(this.mesh);
    const isAlike = Math.max(Math.abs(x - y), Math.abs(x - z), skew(0, 4), skew(0, 8), skew(4, 8)) < 1e-6 * x;
    if (isAlike) return this.own * x;
    const key = m.slice(0, 11).join();
    let area = this.known.get(key);
    if (area === undefined) this.known.set(key, (area = meshArea({ ...this.mesh, positions: turned(this.mesh.positions, m) })));
    return area;
  }
}

function turned(p: ArrayLike<number>, m: Mat4): Float32Array {
  const out = new Float32Array(p.length);
  for (let i = 0; i < p.length; i += 3)
    for (let k = 0; k < 3; k++) out[i + k] = m[k]! * p[i]! + m[4 + k]! * p[i + 1]! + m[8 + k]! * p[i + 2]!;
  return out;
}
