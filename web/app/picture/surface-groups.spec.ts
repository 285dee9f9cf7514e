import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { PLAIN_FINISH } from '../../../core/finish/finish';
import { prepareMesh } from '../../../core/geometry/prepare-mesh';
import { translation } from '../../../core/geometry/mat4';
import { MeshBuilder } from '../../../core/geometry/shapes';
import { random } from '../../../core/random';
import type { SceneInstance } from '../../../core/scene/scene';
import type { SurfaceBatch } from './surface-batch';
import { shareOut, SurfaceGroups } from './surface-groups';

const box = prepareMesh(new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build());
const meshesOf = () => ({ resting: box, moving: box });
const finish = { ...PLAIN_FINISH, id: 'x', name: 'x', family: 'plain' as const };
const COUNT = 3000;
const all = Array.from({ length: COUNT }, (_, i): SceneInstance => ({
  source: 's', element: `e${String(i)}`, part: 0, material: 'm', mesh: 'box', transform: translation(i, 0, 0), finish, emissionScale: 1, lens: false,
})); // prettier-ignore

function stage() {
  const log = { came: 0, went: 0 };
  const groups = new SurfaceGroups({
    came: () => log.came++,
    went: () => log.went++,
    assignMaterial: (_, { mesh }) => (mesh.material = new THREE.MeshBasicMaterial()),
    shapeChanged: () => undefined,
  });
  return { groups, log };
}

/** Where the parts are drawn, by element. */
const placesOf = (batches: readonly SurfaceBatch[]) =>
  new Map(batches.flatMap(({ instances, spheres }) => instances.map(({ element }, i) => [element, spheres[i * 4]!] as const)));

const isDrawn = (batches: readonly SurfaceBatch[], wanted: readonly SceneInstance[]) => {
  expect(placesOf(batches)).toEqual(new Map(wanted.map(({ element, transform }) => [element, transform[12]! + 0.5])));
  expect(batches.reduce((sum, { instances }) => sum + instances.length, 0)).toBe(wanted.length);
};

describe('groups of surfaces', () => {
  it('are one batch each, and what comes back to a large one is a batch of its own that goes again alone', () => {
    const { groups, log } = stage();
    const half = all.filter((_, i) => i % 2 === 0);
    groups.setScene(all, meshesOf);
    isDrawn(groups.batches, all);
    expect([groups.batches.length, log]).toEqual([1, { came: 1, went: 0 }]);
    groups.setScene(half, meshesOf);
    isDrawn(groups.batches, half);
    const [kept] = groups.batches;
    groups.setScene(all, meshesOf);
    isDrawn(groups.batches, all);
    expect(groups.batches.length).toBe(2);
    const { came } = log;
    const second = groups.batches[1]!;
    groups.setScene(half, meshesOf);
    isDrawn(groups.batches, half);
    expect(groups.batches).toEqual([kept]);
    expect(log.came).toBe(came);
    // Shown again it is the one that went, with everything in place, though its parts are told in another order.
    groups.stepScene({ from: 0, removed: [], added: all.filter((_, i) => i % 2 === 1).reverse() }, meshesOf);
    isDrawn(groups.batches, all);
    expect(groups.batches[1]).toBe(second);
  });

  it('are shared out by class once all of a large one is there, so that a class goes and comes as it is', () => {
    const { groups, log } = stage();
    const mixed = all.map((instance, i) => ({ ...instance, class: i % 3 === 0 ? 'Beam' : 'Plate' }));
    const plates = mixed.filter((instance) => instance.class === 'Plate');
    expect(
      groups.setScene(
        mixed.map((instance, i) => (i % 2 ? instance : { ...instance, mesh: 'late' })),
        (hash) => (hash === 'box' ? meshesOf() : undefined),
      ),
    ).toBe(false);
    expect(groups.batches).toHaveLength(1);
    groups.setScene(mixed, meshesOf);
    isDrawn(groups.batches, mixed);
    expect(groups.batches.map(({ instances }) => new Set(instances.map((instance) => instance.class)))).toEqual([
      new Set(['Plate']),
      new Set(['Beam']),
    ]);
    const [first] = groups.batches;
    const { came } = log;
    groups.stepScene({ from: 0, removed: mixed.filter((instance) => instance.class === 'Beam'), added: [] }, meshesOf);
    expect(groups.batches).toEqual([first]);
    isDrawn(groups.batches, plates);
    groups.setScene(mixed, meshesOf);
    expect(groups.batches[0]).toBe(first);
    expect(groups.batches).toHaveLength(2);
    expect(log.came).toBe(came + 1);
  });

  it('stay a few batches, each part in one of them, whatever comes and goes', () => {
    const { groups } = stage();
    const r = random(5);
    for (let turn = 0; turn < 40; turn++) {
      const [from, to] = [Math.floor(r() * COUNT), Math.floor(r() * COUNT)].sort((a, b) => a - b) as [number, number];
      const shown = turn % 3 === 0 ? all : all.filter((_, i) => (i < from || i >= to) && r() < 0.9);
      groups.setScene(shown, meshesOf);
      isDrawn(groups.batches, shown);
      expect(groups.batches.length).toBeLessThanOrEqual(4);
    }
  });

  it('move a part within its batch, and take a step with parts of several', () => {
    const { groups, log } = stage();
    groups.setScene(all.slice(0, 2200), meshesOf);
    groups.setScene(all, meshesOf);
    const before = { ...log };
    const moved = { ...all[2500]!, transform: translation(-7, 0, 0) };
    const after = all.with(2500, moved);
    expect(groups.stepScene({ from: 0, removed: [all[2500]!], added: [moved] }, meshesOf)).toBe(true);
    isDrawn(groups.batches, after);
    expect(log).toEqual(before);
    groups.stepScene({ from: 1, removed: [after[1]!, after[2600]!], added: [] }, meshesOf);
    isDrawn(groups.batches, after.filter((_, i) => i !== 1 && i !== 2600)); // prettier-ignore
  });

  it('keep their batches when all their parts have something else', () => {
    const { groups, log } = stage();
    groups.setScene(all.slice(0, 2200), meshesOf);
    groups.setScene(all, meshesOf);
    const before = { ...log };
    const assigned = all.map((instance) => ({ ...instance, finish: { ...finish, id: 'y' } }));
    groups.setScene(assigned, meshesOf);
    expect(log).toEqual(before);
    const again = assigned.map((instance) => ({ ...instance, finish: { ...finish, id: 'z' } }));
    groups.stepScene({ from: 0, removed: assigned, added: again }, meshesOf);
    expect(log).toEqual(before);
    groups.stepScene({ from: 0, removed: again, added: assigned }, meshesOf);
    expect(groups.batches.flatMap(({ instances }) => instances).every((instance) => instance.finish.id === 'y')).toBe(true);
  });
});

describe('sharing out', () => {
  const parts = (...ids: number[]) => ids.map((id) => ({ element: String(id) }));
  const block = (...ids: number[]) => ({ elements: new Set(ids.map(String)) });

  it('leaves small groups in one, and puts little that is new with the first', () => {
    expect(shareOut(parts(1, 2, 3), [block(1)])).toEqual([parts(1, 2, 3)]);
    const many = Array.from({ length: 2100 }, (_, i) => i);
    const lists = shareOut(parts(...many), [block(...many.slice(0, 1000)), block(...many.slice(1000, 2000))]);
    expect(lists.map(({ length }) => length)).toEqual([1100, 1000]);
  });
});
