import { expect, it } from 'vitest';
import { MeshBuilder } from '../geometry/shapes';
import { IDENTITY, translation } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import { applyChange, EMPTY_MODEL, type Model } from '../model/model';
import { changeSchema } from '../model/schema';
import * as v from 'valibot';
import { ownThing } from './own-thing';

const scaled = (by: number) => IDENTITY.map((value, i) => (i < 15 ? value * by : value));
const HASH = 'a'.repeat(64);
const box = new MeshBuilder().box([0, 0, 0], [2, 1, 3]).build();
const meshOf = (hash: string): Mesh | undefined => (hash === HASH ? box : undefined);
function model(transforms: readonly (readonly number[])[], materials = ['steel']): Model {
  return applyChange(EMPTY_MODEL, v.parse(changeSchema, {
    reset: true,
    materials: materials.map((id) => ({ id, name: id, colour: [0.5, 0.5, 0.5] })),
    elements: transforms.map((transform, i) => ({ id: String(i), name: 'part', class: 'Object', storey: '', layer: 'l', option: null, phase: null, transform: [...transform], parts: [{ mesh: HASH, material: materials[i % materials.length]! }] })),
  }));
} // prettier-ignore
const corners = ({ positions }: Mesh) => [0, 1, 2].map((axis) => [Math.min(...positions.filter((_, i) => i % 3 === axis)), Math.max(...positions.filter((_, i) => i % 3 === axis))]); // prettier-ignore

it('puts its foot in the middle under it, and joins what is of one material', () => {
  const made = ownThing(
    'own-1',
    'Kiosk',
    'street',
    model([translation(10, 20, 5), translation(12, 20, 5), translation(10, 21, 5)], ['steel', 'glass']),
    meshOf,
  );
  if (typeof made === 'string') throw new Error(made);
  expect(made.kind.forms[0]).toMatchObject({ heightM: 3, triangles: 36 });
  expect(made.kind.forms[0]!.parts).toHaveLength(2);
  expect(made.said).toContain('foot');
  const all = [...made.meshes.values()].map(corners);
  expect([0, 1, 2].map((axis) => [Math.min(...all.map((c) => c[axis]![0]!)), Math.max(...all.map((c) => c[axis]![1]!))])).toEqual([
    [-2, 2],
    [-1, 1],
    [0, 3],
  ]);
  expect(made.kind.materials.map(({ id, name }) => [id, name])).toEqual([
    ['own-1 steel', 'steel'],
    ['own-1 glass', 'glass'],
  ]);
});

it('takes numbers that are far too large as millimetres, and says so', () => {
  const made = ownThing('own-2', 'Kiosk', 'street', model([scaled(1000)]), meshOf);
  if (typeof made === 'string') throw new Error(made);
  expect(made.said).toContain('millimetres');
  expect(made.kind.forms[0]!.heightM).toBe(3);
});

it('refuses what has no surface, or a size that no unit explains', () => {
  expect(ownThing('own-3', 'Nothing', 'street', model([IDENTITY]), () => undefined)).toBe('There are no surfaces in it.');
  expect(ownThing('own-4', 'Dust', 'street', model([scaled(1e-4)]), meshOf)).toContain('no unit explains');
  expect(ownThing('own-5', 'Moon', 'street', model([scaled(1e7)]), meshOf)).toContain('no unit explains');
});
