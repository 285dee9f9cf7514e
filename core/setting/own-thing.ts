import { transformPoint } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import type { Model } from '../model/model';
import type { ThingGroup, ThingKind } from './thing-kind';

/** A model file as a thing of the library: its foot at the origin, in its real size. */

/** Higher or wider than this nothing is that stands about a building, metres; what is smaller than the least is taken to be mistaken too. */
const MOST_M = 250;
const LEAST_M = 0.01;
/** Units that such a size is explained by. */
const UNITS: readonly { name: string; metres: number }[] = [
  { name: 'millimetres', metres: 0.001 },
  { name: 'centimetres', metres: 0.01 },
  { name: 'inches', metres: 0.0254 },
];
const MOST_PARTS = 60;
export const MOST_TRIANGLES = 2_000_000;

export interface OwnThing {
  kind: ThingKind;
  meshes: Map<string, Mesh>;
  /** What was found and mended, in a sentence; empty: nothing. */
  said: string;
}

/**
 * From a model and its meshes by their hashes; parts of one material are one mesh, which is named by its number. A fault in a
 * sentence where it cannot be a thing.
 */
export function ownThing(id: string, name: string, group: ThingGroup, model: Model, meshOf: (hash: string) => Mesh | undefined): OwnThing | string {
  const byMaterial = new Map<string, { mesh: Mesh; transform: readonly number[] }[]>();
  let triangles = 0;
  for (const { parts, transform } of model.elements.values())
    for (const { mesh: hash, material } of parts) {
      const mesh = meshOf(hash);
      if (!mesh || mesh.indices.length === 0) continue;
      triangles += mesh.indices.length / 3;
      byMaterial.set(material, [...(byMaterial.get(material) ?? []), { mesh, transform }]);
    }
  if (triangles === 0) return 'There are no surfaces in it.';
  if (triangles > MOST_TRIANGLES) return `It has ${String(triangles)} triangles; a thing of the library may have ${String(MOST_TRIANGLES)}.`;
  if (byMaterial.size > MOST_PARTS) return `It has ${String(byMaterial.size)} materials; a thing of the library may have ${String(MOST_PARTS)}.`;
  const joined = [...byMaterial].map(([material, pieces]) => ({ material, mesh: join(pieces) }));
  const [low, high] = bounds(joined.map(({ mesh }) => mesh));
  const size = Math.max(...high.map((most, axis) => most - low[axis]!));
  const unit = size > MOST_M ? UNITS.find(({ metres }) => size * metres <= MOST_M && size * metres >= LEAST_M) : undefined;
  if ((size > MOST_M && !unit) || size < LEAST_M) return `It is ${size.toPrecision(3)} m long, which no unit explains.`;
  const scale = unit?.metres ?? 1;
  const foot = [(low[0]! + high[0]!) / 2, (low[1]! + high[1]!) / 2, low[2]!];
  const meshes = new Map<string, Mesh>();
  const parts = joined.map(({ material, mesh }, i) => {
    const positions = mesh.positions.map((value, k) => (value - foot[k % 3]!) * scale);
    meshes.set(String(i), { ...mesh, positions });
    return { mesh: String(i), material: `${id} ${material}` };
  });
  const [width, depth, heightM] = high.map((most, axis) => Math.round((most - low[axis]!) * scale * 100) / 100) as [number, number, number];
  const moved = Math.hypot(foot[0]!, foot[1]!, foot[2]!) * scale > 0.02;
  const said = [
    unit ? `It was ${size.toPrecision(3)} m long, so its numbers are taken as ${unit.name}.` : '',
    moved ? 'Its foot was put where it is set by.' : '',
  ].filter(Boolean).join(' ');
  const materials = joined.map(({ material }) => ({ ...model.materials.get(material)!, id: `${id} ${material}` }));
  const form = { id: 'one', name, heightM, acrossM: Math.round(Math.hypot(width, depth) * 100) / 100, triangles, parts };
  return { kind: { id, name, group, tags: ['own'], states: [], forms: [form], materials }, meshes, said };
} // prettier-ignore

function join(pieces: readonly { mesh: Mesh; transform: readonly number[] }[]): Mesh {
  const vertices = pieces.reduce((sum, { mesh }) => sum + mesh.positions.length / 3, 0);
  const positions = new Float32Array(vertices * 3);
  const indices = new Uint32Array(pieces.reduce((sum, { mesh }) => sum + mesh.indices.length, 0));
  // Pictures lie by coordinates; a piece without any has those of its corner.
  const pictureUvs = pieces.some(({ mesh }) => mesh.pictureUvs) ? new Float32Array(vertices * 2) : undefined;
  let [vertex, index] = [0, 0];
  for (const { mesh, transform } of pieces) {
    for (let i = 0; i < mesh.positions.length; i += 3)
      positions.set(transformPoint(transform, [mesh.positions[i]!, mesh.positions[i + 1]!, mesh.positions[i + 2]!]), (vertex * 3) + i);
    if (mesh.pictureUvs) pictureUvs?.set(mesh.pictureUvs, vertex * 2);
    for (let i = 0; i < mesh.indices.length; i++) indices[index + i] = mesh.indices[i]! + vertex;
    vertex += mesh.positions.length / 3;
    index += mesh.indices.length;
  }
  return { positions, indices, ...(pictureUvs && { pictureUvs }) };
} // prettier-ignore

function bounds(meshes: readonly Mesh[]): [number[], number[]] {
  const [low, high] = [[Infinity, Infinity, Infinity], [-Infinity, -Infinity, -Infinity]]; // prettier-ignore
  for (const { positions } of meshes)
    for (const [i, value] of positions.entries()) {
      low[i % 3] = Math.min(low[i % 3]!, value);
      high[i % 3] = Math.max(high[i % 3]!, value);
    }
  return [low, high];
}
