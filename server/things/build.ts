import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { encodeMesh, type Mesh } from '../../core/geometry/mesh';
import { sourceMaterialSchema, type SourceMaterial } from '../../core/model/schema';
import { figures } from '../../core/setting/shapes/figure';
import { furniture } from '../../core/setting/shapes/furniture';
import { herbs, rocks } from '../../core/setting/shapes/herbs';
import type { ShapePart, Stuff } from '../../core/setting/shapes/shape';
import { surrounds } from '../../core/setting/shapes/surrounds';
import { vehicles } from '../../core/setting/shapes/vehicles';
import type { ThingForm, ThingKind } from '../../core/setting/thing-kind';
import { THINGS_DIRECTORY } from '../dist-paths';
import { growTree, treePicture, TREES, type TreeRecipe } from './trees';
import * as v from 'valibot';

/** Build step: makes everything of the library, its meshes and pictures as blobs by their hashes, and the catalogue of it. */

mkdirSync(THINGS_DIRECTORY, { recursive: true });
const LEAF_PX = 512;
const BARK_PX = 512;

function keep(bytes: Uint8Array): string {
  const hash = createHash('sha256').update(bytes).digest('hex');
  writeFileSync(path.join(THINGS_DIRECTORY, hash), bytes);
  return hash;
}
const keepMesh = (mesh: Mesh): string => keep(encodeMesh(mesh));

/** Pictures are kept once for all kinds that have them. */
const pictures = new Map<string, Promise<string>>();
const picture = (file: string, px: number): Promise<string> => {
  const made = pictures.get(file) ?? sharp(treePicture(file)).resize(px, px, { fit: 'inside' })[file.endsWith('png') ? 'png' : 'jpeg']({ quality: 86 }).toBuffer().then(keep); // prettier-ignore
  pictures.set(file, made);
  return made;
};

interface Bounds {
  heightM: number;
  acrossM: number;
}
function boundsOf(meshes: readonly Mesh[]): Bounds {
  let [heightM, reach] = [0, 0];
  for (const { positions } of meshes)
    for (let i = 0; i < positions.length; i += 3) {
      heightM = Math.max(heightM, positions[i + 2]!);
      reach = Math.max(reach, Math.hypot(positions[i]!, positions[i + 1]!));
    }
  return { heightM: Math.round(heightM * 100) / 100, acrossM: Math.round(reach * 200) / 100 };
}
const triangles = (meshes: readonly Mesh[]): number => meshes.reduce((sum, { indices }) => sum + indices.length / 3, 0);

const clamped = (tint: readonly number[]) => tint.map((c) => Math.min(1, c)) as [number, number, number];

/** The picture of leaves, brightened where a tint is lighter than it: blossom. */
async function leafPicture(file: string, tint: readonly number[]): Promise<string> {
  if (Math.max(...tint) <= 1) return picture(file, LEAF_PX);
  const key = `${file} as blossom`;
  const made =
    pictures.get(key) ??
    sharp(treePicture(file)).resize(LEAF_PX, LEAF_PX, { fit: 'inside' }).modulate({ saturation: 0.12, brightness: 1.9 }).png().toBuffer().then(keep); // prettier-ignore
  pictures.set(key, made);
  return made;
}

async function treeKind({ id, name, group, tags, bark, leaf, tints, barkTint = [1, 1, 1], forms }: TreeRecipe): Promise<ThingKind> {
  const states = Object.keys(tints);
  const material = (of: Partial<SourceMaterial> & Pick<SourceMaterial, 'id' | 'name' | 'colour'>) => v.parse(sourceMaterialSchema, of);
  const [image, normal] = await Promise.all([picture(`bark/${bark}_color_1k.jpg`, BARK_PX), picture(`bark/${bark}_normal_1k.jpg`, BARK_PX)]); // prettier-ignore
  const laid = { asLaid: true, widthM: 1, heightM: 1 };
  const materials = [
    material({ id: `${id} bark`, name: `${name}, bark`, colour: barkTint, roughness: 0.9, texture: { image, normal, ...laid } }),
  ];
  for (const [state, tint] of Object.entries(tints)) {
    if (!tint) continue;
    const of = await leafPicture(`leaves/${leaf}_color.png`, tint);
    materials.push(material({ id: `${id} ${state}`, name: `${name}, ${state === 'leaf' ? 'leaves' : state === 'autumn' ? 'leaves in autumn' : state}`, colour: clamped(tint), roughness: 0.6, cutOut: true, diffuseTransmission: 0.35, texture: { image: of, ...laid } })); // prettier-ignore
  }
  return {
    id, name, group, tags, states: states.length > 1 ? states : [],
    materials,
    forms: forms.map((form): ThingForm => {
      const { wood, leaves } = growTree(form);
      const mesh = keepMesh(leaves);
      const leafy = states.filter((state) => tints[state]).map((state) => ({ mesh, material: `${id} ${state}`, ...(states.length > 1 && { in: [state] }) }));
      return { id: form.id, name: form.name, ...boundsOf([wood, leaves]), triangles: triangles([wood, leaves]), parts: [{ mesh: keepMesh(wood), material: `${id} bark` }, ...leafy] };
    }),
  }; // prettier-ignore
}

/** Kinds made by our own code; materials with one name are one. */
function madeKind(of: Pick<ThingKind, 'id' | 'name' | 'group' | 'tags'>, forms: readonly { id: string; name: string; make: () => ShapePart[] }[]): ThingKind {
  const materials = new Map<string, SourceMaterial>();
  const idOf = ({ name, colour, ...optics }: Stuff): string => {
    const key = `${of.id} ${name} ${colour.map((c) => Math.round(c * 255)).join('.')}`;
    if (!materials.has(key)) materials.set(key, v.parse(sourceMaterialSchema, { id: key, name, colour, ...optics }));
    return key;
  };
  const states = new Set<string>();
  const made = forms.map(({ id, name, make }): ThingForm => {
    const shapes = make();
    for (const state of shapes.flatMap((shape) => shape.in ?? [])) states.add(state);
    const meshes = shapes.map(({ mesh }) => mesh);
    return { id, name, ...boundsOf(meshes), triangles: triangles(meshes), parts: shapes.map((shape) => ({ mesh: keepMesh(shape.mesh), material: idOf(shape.stuff), ...(shape.in && { in: shape.in }) })) };
  });
  return { ...of, states: [...states], forms: made, materials: [...materials.values()] };
} // prettier-ignore

const POSTURE_WORDS: Record<string, string> = { standing: 'Standing', waiting: 'Waiting', walking: 'Walking', sitting: 'Sitting', pushing: 'With a pram', riding: 'On a bicycle' }; // prettier-ignore
const people = figures();
const postures = [...new Set(people.map(({ posture }) => posture))];
const HERBS: Record<string, string> = { reeds: 'Reeds', 'meadow-white': 'Meadow with white flowers', 'meadow-blue': 'Meadow with blue flowers', hedge: 'Clipped hedge, 1 m' }; // prettier-ignore

const kinds: ThingKind[] = [
  ...(await Promise.all(TREES.map(treeKind))),
  ...Object.entries(HERBS).map(([id, name]) => madeKind({ id, name, group: 'herbs', tags: id === 'reeds' ? ['wet', 'grass'] : id === 'hedge' ? ['hedge'] : ['meadow', 'flowers'] }, herbs.filter(({ kind }) => kind === id))),
  madeKind({ id: 'rock', name: 'Rock', group: 'rocks', tags: ['stone'] }, rocks),
  ...postures.map((posture) => madeKind({ id: `person-${posture}`, name: `Person, ${POSTURE_WORDS[posture]!.toLowerCase()}`, group: 'people', tags: ['figure', posture] }, people.filter((figure) => figure.posture === posture).map((figure) => ({ ...figure, name: figure.id })))),
  ...vehicles.map((shape) => madeKind({ id: shape.id, name: shape.name, group: 'vehicles', tags: shape.id === 'boat' ? ['afloat'] : [] }, [{ ...shape, id: 'one' }])),
  ...surrounds.map((shape) => madeKind({ id: shape.id, name: shape.name, group: 'surround', tags: ['horizon'] }, [{ ...shape, id: 'one' }])),
  ...furniture.map((shape) => madeKind({ id: shape.id, name: shape.name, group: shape.group, tags: [] }, [{ ...shape, id: 'one' }])),
]; // prettier-ignore
writeFileSync(path.join(THINGS_DIRECTORY, 'catalogue.json'), JSON.stringify(kinds));
