import { mapSetsOf } from '../../../core/scene/material-pictures';
import type { MapUse } from '../../../core/finish/maps/texture-budget';
import type { Vec3 } from '../../../core/geometry/vec3';
import type { CastParts } from './picking';

/** Of a map set's side, as they mostly are. */
const MAP_TEXELS = 1024;

/** Of parts of one finish each: how finely each map set (name and bytes) is seen where it is nearest to an eye. */
export function mapUses(
  bytes: ReadonlyMap<string, number>,
  batches: Iterable<Pick<CastParts, 'instances' | 'spheres'>>,
  [x, y, z]: Vec3,
  pixelsAtOneM: number,
): MapUse[] {
  const texelsPerPixel = new Map<string, number>();
  for (const { instances, spheres } of batches) {
    const { maps, widthM } = instances[0]!.finish;
    const names = mapSetsOf(maps).filter((name) => bytes.has(name));
    if (names.length === 0) continue;
    let nearest = Infinity;
    for (let i = 0; i < spheres.length; i += 4)
      nearest = Math.min(nearest, Math.hypot(spheres[i]! - x, spheres[i + 1]! - y, spheres[i + 2]! - z) - spheres[i + 3]!);
    const texels = (Math.max(0.1, nearest) / pixelsAtOneM) * (MAP_TEXELS / widthM);
    for (const name of names) texelsPerPixel.set(name, Math.min(texelsPerPixel.get(name) ?? Infinity, texels));
  }
  return [...bytes].map(([name, b]) => ({ name, bytes: b, texelsPerPixel: texelsPerPixel.get(name) ?? Infinity }));
}
