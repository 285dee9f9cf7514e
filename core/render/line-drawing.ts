import { placeIn, type CameraFrame } from '../camera/camera';
import { featureEdges, type FeatureEdge } from '../geometry/feature-edges';
import { transformPoint, type Mat4 } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import { add, cross, dot, mix, normalise, scale, subtract, type Vec3 } from '../geometry/vec3';
import { MASK_OPAQUE } from '../kernel/assembly/layout';
import type { SceneMemory } from '../kernel/scene-memory';
import { isCutAway, type Cuts } from '../project/sections';
import type { SceneInstance } from '../scene/scene';

/** A drawing in lines, hidden ones left out by rays of the kernel. */

/** From the heaviest: what a section cuts, where bodies end, where faces meet. */
export const LINE_WEIGHTS = { cut: 0.7, outline: 0.35, bend: 0.18 } as const;
export type LineWeight = keyof typeof LINE_WEIGHTS;

/** Ends of lines one after the other, x and y, pixels from the left and top. */
export type LineDrawing = Record<LineWeight, number[]>;

/** Leaves and grass are not drawn, nor the outlines of what has more triangles than this. */
const MOST_TRIANGLES = 60_000;
/** A line is looked at so often, pixels. */
const STEP_PX = 2.5;
const MOST_STEPS = 600;
/** A surface so near to a line is the one that it lies on, as a share of the distance and in metres. */
const ON_SHARE = 5e-4;
const ON_M = 3e-3;
const NEAREST_M = 0.05;

type Drawn = Pick<SceneInstance, 'mesh' | 'transform' | 'class' | 'layer' | 'finish'>;

/**
 * What of the scene in the kernel's memory is seen from a camera, in lines. `meshOf` gives each instance's mesh; `cuts` are
 * those that the memory is set to.
 */
export function lineDrawing(
  { kernel }: Pick<SceneMemory, 'kernel'>,
  instances: readonly Drawn[],
  meshOf: (key: string) => Pick<Mesh, 'positions' | 'indices'> | undefined,
  frame: CameraFrame,
  { width, height }: { width: number; height: number },
  cuts?: Cuts,
): LineDrawing {
  const out: LineDrawing = { cut: [], outline: [], bend: [] };
  const eye = new Eye(frame, width, height);
  const hidden = (place: Vec3): boolean => {
    const { from, way, distance } = eye.rayTo(place);
    const limit = distance - Math.max(ON_M, distance * ON_SHARE);
    return limit > 0 && Boolean(kernel.traceAny(...from, ...way, limit, MASK_OPAQUE));
  };
  const draw = (weight: LineWeight, a: Vec3, b: Vec3, layer: string | undefined) => {
    const seen = eye.clipped(a, b);
    if (!seen) return;
    const [p, q] = seen;
    const [start, end] = [eye.pixel(p)!, eye.pixel(q)!];
    const length = Math.hypot(end[0] - start[0], end[1] - start[1]);
    if (Math.max(start[0], end[0]) < 0 || Math.min(start[0], end[0]) > width) return;
    if (Math.max(start[1], end[1]) < 0 || Math.min(start[1], end[1]) > height) return;
    const steps = Math.min(MOST_STEPS, Math.max(1, Math.ceil(length / STEP_PX)));
    let begun: number | undefined;
    for (let i = 0; i <= steps; i++) {
      const place = mix(p, q, (i + 0.5) / steps);
      const shows = i < steps && !(weight !== 'cut' && cuts && isCutAway(cuts, layer, place)) && !hidden(place);
      if (shows) begun ??= i;
      else if (begun !== undefined) {
        const ends = [mix(p, q, begun / steps), mix(p, q, i / steps)].flatMap((end) => eye.pixel(end)!);
        out[weight].push(...ends);
        begun = undefined;
      }
    }
  };
  const known = new Map<string, FeatureEdge[]>();
  for (const { mesh: key, transform, class: its, layer } of instances) {
    const mesh = its === 'Planting' ? undefined : meshOf(key);
    if (!mesh || mesh.indices.length > MOST_TRIANGLES * 3) continue;
    let edges = known.get(key);
    if (!edges) known.set(key, (edges = featureEdges(mesh)));
    const turned = normalsThrough(transform);
    for (const { from, to, normal, other, isCrease } of edges) {
      const [a, b] = [transformPoint(transform, from), transformPoint(transform, to)];
      const way = eye.rayTo(a).way;
      const first = dot(turned(normal), way) < 0;
      const second = other && dot(turned(other), way) < 0;
      if (!other) draw('outline', a, b, layer);
      else if (first !== second) draw('outline', a, b, layer);
      else if (first && isCrease) draw('bend', a, b, layer);
    }
    if (cuts) for (const [a, b] of cutLines(mesh, transform, layer, cuts)) draw('cut', a, b, layer);
  }
  return out;
}

/** How a camera sees places. */
class Eye {
  private readonly isParallel: boolean;
  private readonly normal: Vec3;

  constructor(
    private readonly frame: CameraFrame,
    private readonly width: number,
    private readonly height: number,
  ) {
    this.isParallel = frame.projection === 'orthographic';
    this.normal = this.isParallel ? frame.forward : normalise(cross(frame.up, frame.right));
  }

  private depth(place: Vec3): number {
    return dot(subtract(place, this.frame.origin), this.normal);
  }

  /** The part of a line that lies before the eye. */
  clipped(a: Vec3, b: Vec3): [Vec3, Vec3] | undefined {
    const [da, db] = [this.depth(a) - NEAREST_M, this.depth(b) - NEAREST_M];
    if (da < 0 && db < 0) return undefined;
    if (da < 0) return [mix(a, b, da / (da - db)), b];
    if (db < 0) return [a, mix(a, b, da / (da - db))];
    return [a, b];
  }

  pixel(place: Vec3): [number, number] | undefined {
    const { origin, right, up } = this.frame;
    const v = subtract(place, origin);
    const seen = this.isParallel ? ([dot(v, right) / dot(right, right), dot(v, up) / dot(up, up)] as const) : placeIn(this.frame, v);
    return seen && [((seen[0] + 1) / 2) * this.width, ((1 - seen[1]) / 2) * this.height];
  }

  rayTo(place: Vec3): { from: Vec3; way: Vec3; distance: number } {
    if (this.isParallel) {
      const distance = this.depth(place);
      return { from: subtract(place, scale(this.normal, distance)), way: this.normal, distance };
    }
    const v = subtract(place, this.frame.origin);
    const distance = Math.hypot(...v);
    return { from: this.frame.origin, way: scale(v, 1 / (distance || 1)), distance };
  }
}

/** Takes normals along: by the cofactors of the matrix, which also holds for what is scaled or mirrored. */
function normalsThrough(m: Mat4): (normal: Vec3) => Vec3 {
  const [x, y, z] = [0, 4, 8].map((i): Vec3 => [m[i]!, m[i + 1]!, m[i + 2]!]) as [Vec3, Vec3, Vec3];
  const side = dot(cross(x, y), z) < 0 ? -1 : 1;
  const [a, b, c] = [cross(y, z), cross(z, x), cross(x, y)];
  return (n) => scale(add(add(scale(a, n[0]), scale(b, n[1])), scale(c, n[2])), side);
}

/** Where the planes of a section meet the faces of a mesh, but for what the other planes cut away. */
function cutLines({ positions, indices }: Pick<Mesh, 'positions' | 'indices'>, transform: Mat4, layer: string | undefined, { planes, fills }: Cuts): [Vec3, Vec3][] {
  const lines: [Vec3, Vec3][] = [];
  const mine = planes.filter(({ layers }) => !layers || layers.includes(layer ?? ''));
  if (mine.length === 0) return lines;
  const places = Array.from({ length: positions.length / 3 }, (_, i) => transformPoint(transform, [positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!]));
  for (const plane of mine) {
    const off = places.map((place) => dot(plane.normal, place) - plane.offsetM);
    if (!off.some((d) => d > 0) || !off.some((d) => d < 0)) continue;
    const others: Cuts = { planes: mine.filter((other) => other !== plane), fills };
    for (let t = 0; t < indices.length; t += 3) {
      const ends: Vec3[] = [];
      for (let k = 0; k < 3; k++) {
        const [i, j] = [indices[t + k]!, indices[t + ((k + 1) % 3)]!];
        if (off[i]! > 0 !== off[j]! > 0) ends.push(mix(places[i]!, places[j]!, off[i]! / (off[i]! - off[j]!)));
      }
      if (ends.length === 2 && !isCutAway(others, layer, mix(ends[0]!, ends[1]!, 0.5))) lines.push([ends[0]!, ends[1]!]);
    }
  }
  return lines;
} // prettier-ignore
