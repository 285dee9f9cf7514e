import { meshArea, meshVolume, type Mesh } from './mesh';

const known = new WeakMap<Mesh, { volumeM3: number; surfaceM2: number }>();

/**
 * The mean way in metres through bodies of a mesh at so many sizes, over all lines that meet them: four volumes by the surface
 * (Cauchy 1850, for convex bodies). Near 0 for what is not closed.
 */
export function meanChordM(bodies: Iterable<{ mesh: Mesh; scale: number }>): number {
  let [volume, surface] = [0, 0];
  for (const { mesh, scale } of bodies) {
    let measured = known.get(mesh);
    if (!measured) known.set(mesh, (measured = { volumeM3: Math.abs(meshVolume(mesh)), surfaceM2: meshArea(mesh) }));
    volume += measured.volumeM3 * scale ** 3;
    surface += measured.surfaceM2 * scale ** 2;
  }
  return surface > 0 ? (4 * volume) / surface : 0;
}
