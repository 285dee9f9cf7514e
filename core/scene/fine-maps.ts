import type { CameraFrame } from '../camera/camera';
import { MAP_NAMES, MAP_SIZE } from '../finish/maps/generate';
import type { PreparedMesh } from '../geometry/prepare-mesh';
import { invert, transformPoint } from '../geometry/mat4';
import { meshBounds, type Bounds } from '../geometry/mesh';
import { distance, dot, subtract, type Vec3 } from '../geometry/vec3';
import type { RenderedInstance } from './rendered-scene';

/** Side of the map sets that surfaces close by have in a print, texels. */
export const FINE_MAP_SIZE = 2 * MAP_SIZE;
/** So many at most, those that are seen most closely: each takes 33 to 50 MB. */
export const MOST_FINE_SETS = 12;

/** Shipped map sets of which a pixel of a picture shows less than a texel where they are seen most closely, the closest first. */
export function closelySeenMaps(
  instances: readonly RenderedInstance[],
  meshOf: (hash: string) => PreparedMesh | undefined,
  frame: CameraFrame,
  widthPx: number,
): string[] {
  const pixelAtOneM = (2 * Math.hypot(...frame.right)) / widthPx;
  const texelsPerPixel = new Map<string, number>();
  const bounds = new Map<string, Bounds>();
  for (const { mesh: hash, transform, finish } of instances) {
    const mesh = finish.maps !== null && MAP_NAMES.includes(finish.maps) ? meshOf(hash) : undefined;
    const inverse = mesh && invert(transform);
    if (!inverse) continue;
    const known = bounds.get(hash) ?? meshBounds(mesh.positions);
    bounds.set(hash, known);
    const { min, max } = known;
    const corners = Array.from({ length: 8 }, (_, k): Vec3 => [k & 1 ? max[0] : min[0], k & 2 ? max[1] : min[1], k & 4 ? max[2] : min[2]]);
    if (corners.every((corner) => dot(subtract(transformPoint(transform, corner), frame.origin), frame.forward) <= 0)) continue;
    const eye = transformPoint(inverse, frame.origin);
    const nearest = eye.map((c, k) => Math.min(max[k]!, Math.max(min[k]!, c))) as unknown as Vec3;
    const texels = (distance(transformPoint(transform, nearest), frame.origin) * pixelAtOneM * MAP_SIZE) / finish.widthM;
    texelsPerPixel.set(finish.maps!, Math.min(texels, texelsPerPixel.get(finish.maps!) ?? Infinity));
  }
  return [...texelsPerPixel]
    .filter(([, texels]) => texels < 1)
    .sort(([, a], [, b]) => a - b)
    .slice(0, MOST_FINE_SETS)
    .map(([name]) => name);
}
