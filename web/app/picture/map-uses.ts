import { mapSetsOf } from '../../../core/scene/material-pictures';
import type { MapUse } from '../../../core/finish/maps/texture-budget';
import type { Vec3 } from '../../../core/geometry/vec3';
import type { CastParts } from './picking';

/** Texels of its side, and bytes with mip levels. */
export interface MapExtent {
  side: number;
  bytes: number;
}

/** Of parts of one finish each: how finely each map set is seen where it is nearest to an eye. */
export function mapUses(
  sets: ReadonlyMap<string, MapExtent>,
  batches: Iterable<Pick<CastParts, 'instances' | 'spheres'>>,
  [x, y, z]: Vec3,
  metresPerPixelAt: (distanceM: number) => number,
): MapUse[] {
  const perPixel = new Map<string, number>();
  for (const { instances, spheres } of batches) {
    const { maps, widthM } = instances[0]!.finish;
    const names = mapSetsOf(maps).filter((name) => sets.has(name));
    if (names.length === 0) continue;
    let nearest = Infinity;
    for (let i = 0; i < spheres.length; i += 4)
      nearest = Math.min(nearest, Math.hypot(spheres[i]! - x, spheres[i + 1]! - y, spheres[i + 2]! - z) - spheres[i + 3]!);
    const pixelInWidths = metresPerPixelAt(Math.max(0.1, nearest)) / widthM;
    for (const name of names) perPixel.set(name, Math.min(perPixel.get(name) ?? Infinity, pixelInWidths * sets.get(name)!.side));
  }
  return [...sets].map(([name, { bytes }]) => ({ name, bytes, texelsPerPixel: perPixel.get(name) ?? Infinity }));
}
