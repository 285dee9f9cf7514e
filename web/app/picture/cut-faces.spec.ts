import { describe, expect, it } from 'vitest';
import { MeshBuilder } from '../../../core/geometry/shapes';
import { prepareMesh } from '../../../core/geometry/prepare-mesh';
import { DEFAULT_FILLS, type Cuts } from '../../../core/project/sections';
import { cutMark, cutUniforms, looksInto, marksOf, setCutUniforms } from './cut-faces';

const body = prepareMesh(new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build());
const sheet = { ...body, indices: body.indices.slice(0, 6) };
const cuts: Cuts = {
  planes: [
    { normal: [0, 0, 1], offsetM: 3 },
    { normal: [1, 0, 0], offsetM: 1, layers: ['Roof'] },
    { normal: [0, 1, 0], offsetM: 2, layers: ['Roof', 'Envelope'] },
  ],
  fills: { ...DEFAULT_FILLS, classes: { Slab: '#4a4640' } },
};

describe('a cut part', () => {
  it('is marked with the colour of its class where it is closed, and with the planes of its layer alone', () => {
    expect(cutMark(cuts, { class: 'Slab', layer: 'Envelope' }, body)).toEqual([0x4a, 0x46, 0x41, 0b10]);
    expect(cutMark(cuts, { class: 'Wall', layer: 'Roof' }, body)).toEqual([0x3d, 0x3a, 0x35, 0b11]);
    expect(cutMark(cuts, { class: 'Wall', layer: 'Site' }, sheet)).toEqual([0, 0, 0, 0]);
  });

  it('is looked into from where things are cut away', () => {
    expect([looksInto(cuts, [0, 0, 4]), looksInto(cuts, [0, 0, 2]), looksInto(cuts, [0, 3, 0])]).toEqual([true, false, true]);
  });
});

it('marks stay while a plane is dragged, and are others for other layers or colours', () => {
  const [level, first, second] = cuts.planes as [Cuts['planes'][number], Cuts['planes'][number], Cuts['planes'][number]];
  const dragged = { ...cuts, planes: [{ ...level, offsetM: 1 }, { ...first, offsetM: 9 }, second] };
  expect(marksOf(dragged)).toBe(marksOf(cuts));
  const others = [undefined, { ...cuts, planes: [level, second] }, { ...cuts, fills: { ...cuts.fills, others: '#000000' } }];
  expect(new Set([cuts, ...others].map(marksOf)).size).toBe(4);
});

it('planes of layers alone are cut by here; the others are three’s', () => {
  const uniforms = cutUniforms();
  setCutUniforms(uniforms, cuts);
  expect(uniforms.layerPlaneCount.value).toBe(2);
  expect(uniforms.layerPlanes.value[1]!.toArray()).toEqual([0, 1, 0, 2]);
  setCutUniforms(uniforms, undefined);
  expect(uniforms.layerPlaneCount.value).toBe(0);
});
