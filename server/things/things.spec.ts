import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { decodeMesh, encodeMesh, type Mesh } from '../../core/geometry/mesh';
import { THINGS_DIRECTORY } from '../dist-paths';
import { shippedKinds } from './catalogue';
import { growTree, TREES } from './trees';

const kinds = [...shippedKinds().values()];
const mesh = (hash: string): Mesh => {
  const read = decodeMesh(readFileSync(path.join(THINGS_DIRECTORY, hash)));
  if (typeof read === 'string') throw new Error(read);
  return read;
};

describe('the library of things', () => {
  it('has what a site needs, in real sizes', () => {
    const count = (group: string) => kinds.filter((kind) => kind.group === group).length;
    expect(count('trees') + count('shrubs')).toBeGreaterThanOrEqual(12);
    const heights = (id: string) => shippedKinds().get(id)!.forms.map(({ heightM }) => heightM);
    // Seat, table and worktop heights, a bicycle's and a car's; statures of three builds: common practice.
    expect(heights('table')[0]).toBeCloseTo(0.74, 2);
    expect(heights('car')[0]).toBeCloseTo(1.5, 1);
    for (const height of heights('person-standing')) expect(Math.abs(height - 1.74)).toBeLessThan(0.12);
    for (const { id, forms } of kinds.filter(({ group }) => group === 'trees')) expect([id, Math.max(...forms.map(({ heightM }) => heightM)) >= 5.5]).toEqual([id, true]);
  }); // prettier-ignore

  it('stands on its foot, of whole meshes, with a material for every part and a leaf for every state but the bare one', () => {
    for (const { id, group, forms, states, materials } of kinds)
      for (const form of forms) {
        const known = new Set(materials.map((material) => material.id));
        expect([id, form.parts.every(({ material }) => known.has(material))]).toEqual([id, true]);
        let [low, triangles] = [Infinity, 0];
        const seen = new Set<string>();
        for (const part of form.parts) {
          const { positions, indices } = mesh(part.mesh);
          for (let i = 2; i < positions.length; i += 3) low = Math.min(low, positions[i]!);
          if (!seen.has(part.mesh)) triangles += indices.length / 3;
          seen.add(part.mesh);
        }
        // What closes the horizon reaches below it; boats lie in the water.
        if (group !== 'surround' && id !== 'boat') expect([id, form.id, low > -0.35 && low < 0.2]).toEqual([id, form.id, true]);
        expect(triangles).toBeLessThan(40_000);
        for (const state of states) {
          const leafy = form.parts.some(({ in: states }) => states?.includes(state));
          expect([id, state, leafy]).toEqual([id, state, state !== 'bare' || group === 'herbs']);
        }
      }
  });

  it('grows the same by seed: trees that are grown again are those that were built, to the last bit', () => {
    const hash = (grown: Mesh) => createHash('sha256').update(encodeMesh(grown)).digest('hex');
    for (const recipe of TREES.slice(0, 4)) {
      const built = shippedKinds().get(recipe.id)!.forms[0]!.parts;
      const { wood, leaves } = growTree(recipe.forms[0]!);
      expect([hash(wood), hash(leaves)]).toEqual([built[0]!.mesh, built[1]!.mesh]);
    }
  });
});
