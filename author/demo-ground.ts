import { createHash } from 'node:crypto';
import { encodeMesh, type Mesh } from '../core/geometry/mesh';
import { transformPoint } from '../core/geometry/mat4';
import { pathMeshes, placesUnder } from '../core/setting/laid-path';
import { MEADOW, type Land, type LaidPath, type Shaping } from '../core/setting/land';
import { baseOf } from '../core/setting/land-base';
import { coversOf, heightAt, heightsAfter } from '../core/setting/terrain';
import { terrainMeshes } from '../core/setting/terrain-mesh';
import { buildMarramLanding } from './model/build';
import { storedMesh } from './model/kit';
import { DEFAULT_PARAMETERS } from './model/parameters';

/** The demo's bank as a meadow that has been walked on, as it would be shaped by hand: what the page keeps, and its meshes. */

const SOURCE = 'marram-landing';
const TERRAIN = 'terrain';
/** Where people walk: from the road to the yard, and along the water to the jetty. */
const SHAPING: readonly Shaping[] = [
  { does: 'cover', along: [[-64, 26], [-40, 20], [-22, 15], [-9, 14]], radiusM: 0.9, amount: 0, finish: 'soil' },
  { does: 'cover', along: [[-9, 14], [-6, 8], [-4.5, 2]], radiusM: 0.8, amount: 0, finish: 'gravel-warm' },
  { does: 'cover', along: [[26, 10], [40, 6], [62, 5]], radiusM: 0.7, amount: 0, finish: 'soil' },
]; // prettier-ignore
const PATH: Omit<LaidPath, 'parts'> = {
  kind: 'path', name: 'Track to the workshop', layer: 'Ground', points: [[95, 44], [62, 30], [44, 22], [30, 17.5]], widthM: 2.6, finish: 'gravel-warm', kerb: null,
}; // prettier-ignore

export function demoGround(): { lands: { id: string; land: Land }[]; meshes: Uint8Array[] } {
  const meshes: Uint8Array[] = [];
  const keep = (mesh: Mesh): string => {
    const bytes = encodeMesh(mesh);
    meshes.push(bytes);
    return createHash('sha256').update(bytes).digest('hex');
  };
  const { transform, parts } = buildMarramLanding(DEFAULT_PARAMETERS).elements.get(TERRAIN)!;
  const triangles = parts.flatMap(({ mesh: hash }) => {
    const { positions, indices } = storedMesh(hash)!.mesh;
    return Array.from(indices).flatMap((i) => transformPoint(transform, [positions[i * 3]!, positions[i * 3 + 1]!, positions[i * 3 + 2]!]));
  });
  const { grid, heights: base } = baseOf(triangles)!;
  const heights = heightsAfter(base, grid, SHAPING);
  const point = (i: number) => [grid.x + (i % grid.columns) * grid.cellM, grid.y + Math.floor(i / grid.columns) * grid.cellM, base[i]!];
  const seen = (made: readonly { finish: string; mesh: Mesh }[]) => made.map(({ finish, mesh }) => ({ finish, mesh: keep(mesh) }));
  const terrain: Land = {
    kind: 'terrain', name: 'Tidal bank', layer: 'Ground', grid, cover: MEADOW, shaping: [...SHAPING], instead: [{ source: SOURCE, element: TERRAIN }],
    base: keep({ positions: Float32Array.from(Array.from(base, (_, i) => point(i)).flat()), indices: new Uint32Array(0) }),
    parts: seen(terrainMeshes(heights, grid, coversOf(grid, MEADOW, SHAPING))),
  }; // prettier-ignore
  const under = placesUnder(PATH).map((place) => heightAt(heights, grid, place) ?? NaN);
  return {
    lands: [
      { id: 'demo-bank', land: terrain },
      { id: 'demo-track', land: { ...PATH, parts: seen(pathMeshes(PATH, under)) } },
    ],
    meshes,
  };
}
