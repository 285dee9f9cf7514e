import { transformPoint } from '../geometry/mat4';
import { emptyBounds, type Bounds, type Mesh } from '../geometry/mesh';
import type { Vec3 } from '../geometry/vec3';
import type { Command } from '../project/command';
import type { ModelElement } from '../model/schema';

/** Corners closer than this are one, metres. */
const WELD_M = 1e-4;

/** One element in place, its parts as one welded mesh in the project's metres. */
export interface Body {
  source: string;
  element: ModelElement;
  positions: Float64Array;
  indices: Uint32Array;
  bounds: Bounds;
  /** How far it has been moved against the model; what moves it again adds to that. */
  nudged?: Vec3 | undefined;
}

/** Puts an element in place; undefined when none of its meshes are there. */
export function bodyOf(source: string, element: ModelElement, mesh: (hash: string) => Mesh | undefined): Body | undefined {
  const known = new Map<string, number>();
  const positions: number[] = [];
  const indices: number[] = [];
  const bounds = emptyBounds();
  for (const part of element.parts) {
    const shape = mesh(part.mesh);
    if (!shape) continue;
    const names = new Uint32Array(shape.positions.length / 3);
    for (let i = 0; i < names.length; i++) {
      const p = transformPoint(element.transform, [shape.positions[i * 3]!, shape.positions[i * 3 + 1]!, shape.positions[i * 3 + 2]!]);
      const key = p.map((v) => Math.round(v / WELD_M)).join(' ');
      let vertex = known.get(key);
      if (vertex === undefined) {
        vertex = positions.length / 3;
        known.set(key, vertex);
        positions.push(...p);
        p.forEach((v, k) => {
          bounds.min[k] = Math.min(bounds.min[k]!, v);
          bounds.max[k] = Math.max(bounds.max[k]!, v);
        });
      }
      names[i] = vertex;
    }
    for (const i of shape.indices) indices.push(names[i]!);
  }
  if (indices.length === 0) return undefined;
  return { source, element, positions: Float64Array.from(positions), indices: Uint32Array.from(indices), bounds };
}

/** The command that moves a body on, metres. */
export function nudgeBy({ source, element, nudged = [0, 0, 0] }: Body, by: readonly number[]): Extract<Command, { type: 'nudge-element' }> {
  const whole = by.map((v, k) => Math.round((v + nudged[k]!) * 1e6) / 1e6 + 0) as [number, number, number];
  return { type: 'nudge-element', source, element: element.id, by: whole, name: (element.name || element.id).slice(0, 200) };
}

export const middleOf = ({ min, max }: Bounds): Vec3 => [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2];
export const sizeOf = ({ min, max }: Bounds): number => Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]);
export const nameOf = ({ element }: Body): string => element.name || element.id;
export const refOf = ({ source, element }: Body) => ({ source, element: element.id });
export const keyOf = ({ source, element }: Body) => `${source}/${element.id}`;

export function corner({ positions }: Body, vertex: number): Vec3 {
  return [positions[vertex * 3]!, positions[vertex * 3 + 1]!, positions[vertex * 3 + 2]!];
}

/** Twice the area of a triangle as a vector along its normal. */
export function doubleArea(a: Vec3, b: Vec3, c: Vec3): Vec3 {
  const [ux, uy, uz, vx, vy, vz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2], c[0] - a[0], c[1] - a[1], c[2] - a[2]] as const; // prettier-ignore
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
}
