import { describe, expect, it } from 'vitest';
import { buildMarramLanding } from '../../author/model/build';
import { storedMesh } from '../../author/model/kit';
import { DEFAULT_PARAMETERS } from '../../author/model/parameters';
import { translation, type Mat4 } from '../geometry/mat4';
import { meshOfKey, turnedKey, type Mesh } from '../geometry/mesh';
import { MeshBuilder } from '../geometry/shapes';
import { applyChange, EMPTY_MODEL, type Model } from '../model/model';
import type { ModelElement } from '../model/schema';
import { testChange, testElement } from '../model/testing';
import { effectOf } from '../project/command';
import { placedModel, type Placement } from '../project/placement';
import { applyChanges, entry, type Entries } from '../project/project';
import { checkModel } from './check';
import { clip, polygonArea } from './clip';
import type { Check, Finding } from './finding';

/** Constructed cases whose answer is known; then the demo, where nothing may be found. */

const meshes = new Map<string, Mesh>();
let number = 0;

function keep(mesh: Mesh): string {
  const hash = String(++number).padStart(64, '0');
  meshes.set(hash, mesh);
  return hash;
}

const box = (x: number, y: number, z: number, ...[w, d, h]: [number, number, number]) =>
  keep(new MeshBuilder().box([x, y, z], [x + w, y + d, z + h]).build());

function element(id: string, mesh: string, extra: Partial<ModelElement> = {}): ModelElement {
  return testElement(id, { parts: [{ mesh, material: 'm' }], class: 'Furniture', layer: 'Things', ...extra });
}

function modelOf(
  elements: ModelElement[],
  materials: { id: string; name: string; missing?: string }[] = [{ id: 'm', name: 'Oak' }],
): Model {
  return applyChange(EMPTY_MODEL, testChange({ elements, materials: materials.map((m) => ({ colour: [1, 1, 1], ...m })) }));
}

function findings(model: Model, entries: Entries = new Map()): Finding[] {
  return [...checkModel([{ id: 's', name: 'hut.glb', model }], entries, (hash) => meshes.get(hash))].flatMap((p) => p.findings);
}

const of = (check: Check, ...args: Parameters<typeof findings>) => findings(...args).filter((f) => f.check === check);
const ids = (finding: Finding) => finding.elements.map((e) => e.element);

/** The project after a finding's remedy. */
function mended(finding: Finding, entries: Entries = new Map()): Entries {
  const effect = effectOf(entries, finding.remedy!.command, '');
  if ('refused' in effect) throw new Error(effect.refused);
  return applyChanges(entries, effect.changes);
}

/** A wall from (x, y) along x or y, 0.2 m thick, centred on its line. */
function wall(id: string, x: number, y: number, length: number, along: 'x' | 'y', height = 3): ModelElement {
  const mesh = along === 'x' ? box(x, y - 0.1, 0, length, 0.2, height) : box(x - 0.1, y, 0, 0.2, length, height);
  return element(id, mesh, { class: 'Wall' });
}

describe('a source on its side', () => {
  /** A room of 6 x 4 x 3 m as it comes when its z axis was taken for glTF's depth: what was up is along -y. */
  const lying = (slabs: string, walls: string): Model => {
    const parts: [string, number, number, number, number, number, number][] = [
      [slabs, 0, 0, -0.2, 6, 4, 0.2], [`${slabs} 2`, 0, 0, 3, 6, 4, 0.2], [walls, 0, 0, 0, 6, 0.2, 3], [`${walls} 2`, 0, 3.8, 0, 6, 0.2, 3], [`${walls} 3`, 0, 0, 0, 0.2, 4, 3],
    ]; // prettier-ignore
    return modelOf(parts.map(([id, x, y, z, w, d, h]) => element(id, box(x, -z - h, y, w, h, d))));
  };
  const raised = (finding: Finding) => (entry(mended(finding), 'placement/s') as Placement).up;

  it('is seen by what its floors and walls face, and raised by one click', () => {
    for (const [slabs, walls] of [['Floor', 'Wall'], ['Bodenplatte, Boden', 'Wand außen'], ['Thing', 'Wall'], ['Floor', 'Other']] as const) {
      const model = lying(slabs, walls);
      const [finding, ...others] = of('lying', model);
      expect(others).toEqual([]);
      expect(finding).toMatchObject({ severity: 'fault', words: expect.stringContaining('hut.glb lies on its side') as string });
      expect(raised(finding!)).toBe('-y');
      const placed = placedModel(model, entry(mended(finding!), 'placement/s'));
      expect(of('lying', placed, mended(finding!))).toEqual([]);
    } // prettier-ignore
  });

  it('is none where it stands, lies by its nature, or names nothing and says too little', () => {
    expect(of('lying', modelOf([element('Floor', box(0, 0, 0, 6, 4, 0.2)), wall('a', 0, 0, 6, 'x'), wall('b', 0, 0, 4, 'y')]))).toEqual([]);
    expect(of('lying', modelOf([element('Pole', box(0, 0, 0, 6, 0.1, 0.1))]))).toEqual([]);
    expect(of('lying', lying('Thing', 'Other'))).toEqual([]);
  });

  it('without names is seen by its proportions', () => {
    const flat = [0, 7, 14].map((x) => element(`Part ${String(x)}`, box(x, 0, 0, 6, 2.6, 9)));
    expect(raised(of('lying', modelOf(flat))[0]!)).toBe('-y');
  });
});

describe('a file', () => {
  it('that is not whole says so', () => {
    const model = applyChange(EMPTY_MODEL, testChange({ remarks: ['hut.obj is cut off.'] }));
    expect(of('file', model)).toMatchObject([{ severity: 'fault', words: 'hut.obj is cut off.' }]);
  });
});

describe('faces in one plane', () => {
  it('are found with their area where they look to one side, and mended by an offset', () => {
    const model = modelOf([element('large', box(0, 0, 0, 3, 2, 1)), element('small', box(2.5, 0.5, 0.6, 1, 1, 0.4))]);
    const [finding, ...others] = of('coplanar', model);
    expect(others).toEqual([]);
    expect(finding).toMatchObject({ severity: 'fault', words: 'small and large lie in one plane over 0.5 m²; they flicker.' });
    expect(finding!.place!.map((v) => Number(v.toFixed(6)))).toEqual([2.75, 1, 1]);
    expect(finding!.remedy!.label).toBe('Move out small by 5 mm');
    expect(finding!.remedy!.command).toMatchObject({ type: 'nudge-element', element: 'small', by: [0, 0, 0.005] });
    expect(of('coplanar', model, mended(finding!))).toEqual([]);
  });

  it('that are shared in two planes are left by one move, which adds to an earlier one', () => {
    const model = modelOf([element('large', box(0, 0, 0, 3, 2, 1)), element('small', box(0.5, -0.5, 0.6, 1, 1, 0.4)), element('corner', box(2, 1, 0.5, 1, 0.5, 0.5))]); // prettier-ignore
    const found = of('coplanar', model);
    expect(found.map((f) => f.remedy!.command)).toMatchObject([{ element: 'small', by: [0, 0, 0.005] }, { element: 'corner', by: [0.005, 0, 0.005] }]); // prettier-ignore
    const before: Entries = new Map([['nudge/s/corner', [0, 0.1, 0]]]);
    const again = of('coplanar', model, before).find((f) => ids(f).includes('corner'))!;
    expect(again.remedy!.command).toMatchObject({ by: [0.005, 0.1, 0.005] });
    expect(of('coplanar', model, mended(again, before)).map(ids)).toEqual([['large', 'small']]);
  });

  it('of a terrace on the ground are fifty millimetres apart afterwards', () => {
    const model = modelOf([element('Ground', box(-20, -20, -1, 40, 40, 1)), element('Terrace', box(0, 0, -0.2, 4, 3, 0.2))]);
    const [finding] = of('coplanar', model);
    expect(finding!.words).toBe('Terrace and Ground lie in one plane over 12.0 m²; they flicker.');
    expect(finding!.remedy!.label).toBe('Raise Terrace by 50 mm');
    expect(of('coplanar', model, mended(finding!))).toEqual([]);
  });

  it('are none where they face each other, only touch, lie apart, or are covered', () => {
    expect(of('coplanar', modelOf([element('a', box(0, 0, 0, 1, 1, 1)), element('b', box(0, 0, 1, 1, 1, 1))]))).toEqual([]);
    expect(of('coplanar', modelOf([element('a', box(0, 0, 0, 1, 1, 1)), element('b', box(1, 0, 0, 1, 1, 1))]))).toEqual([]);
    expect(of('coplanar', modelOf([element('a', box(0, 0, 0, 1, 1, 1)), element('b', box(0, 0, 0.5, 1, 1, 0.503))]))).toHaveLength(1); // its sides
    expect(of('coplanar', modelOf([element('a', box(0, 0, 0, 1, 1, 1)), element('b', box(0.2, 0.2, 0.5, 0.5, 0.5, 0.503))]))).toEqual([]);
    // Two posts one in the other, standing on a slab: what they share below is not seen, what they share above is.
    const slab = element('slab', box(-1, -1, -0.2, 4, 4, 0.2));
    expect(of('coplanar', modelOf([element('a', box(0, 0, 0, 1, 1, 1)), element('b', box(0.2, 0.2, 0, 0.5, 0.5, 0.8)), slab]))).toEqual([]);
  });

  it('are found on a slope too', () => {
    const slope = (x: number, d: number) => keep(new MeshBuilder().prism([[x, 0], [x + d, 0], [x + d, 1]], [], ([px, pz], end) => [px, end ? 0 : 1, pz]).build()); // prettier-ignore
    const pair = of(
      'coplanar',
      modelOf([element('a', slope(0, 2)), element('b', slope(0, 2), { transform: [...translation(0, 0.5, 0)] })]),
    );
    expect(pair).toHaveLength(1);
    // Half of the slope, of the base and of the upright side are shared: (sqrt(5) + 2 + 1) / 2 m2.
    expect(pair[0]!.words).toContain('over 2.6 m²');
  });
});

describe('duplicates', () => {
  it('are the same shapes in the same place; the second one can be hidden', () => {
    const mesh = box(0, 0, 0, 1, 1, 1);
    const moved: Mat4 = translation(0, 0, 5);
    const model = modelOf([element('a', mesh), element('b', mesh), element('c', mesh, { transform: [...moved] })]);
    const found = of('duplicates', model);
    expect(found.map(ids)).toEqual([['a', 'b']]);
    expect(of('duplicates', model, mended(found[0]!))).toEqual([]);
  });
});

describe('surfaces', () => {
  const cube = () => new MeshBuilder().box([0, 0, 0], [1, 1, 1]).build();
  const without = (mesh: Mesh, triangles: number): Mesh => ({ positions: mesh.positions, indices: mesh.indices.slice(triangles * 3) });

  it('that should be closed and are not are counted by their open edges', () => {
    expect(of('open', modelOf([element('w', keep(cube()), { class: 'Wall' })]))).toEqual([]);
    const [finding] = of('open', modelOf([element('w', keep(without(cube(), 1)), { class: 'Wall' })]));
    expect(finding!.words).toBe('w should be closed and has 3 open edges; light can leak in.');
    // A sheet of furniture may be open.
    expect(of('open', modelOf([element('f', keep(without(cube(), 1)))]))).toEqual([]);
  });

  it('where one long edge meets two short ones are closed', () => {
    // A box whose top is split along its middle while its sides are not.
    const b = new MeshBuilder();
    const at = (x: number, y: number, z: number) => [x, y, z] as const;
    b.quad(at(0, 0, 0), at(0, 1, 0), at(1, 1, 0), at(1, 0, 0));
    b.quad(at(0, 0, 0), at(1, 0, 0), at(1, 0, 1), at(0, 0, 1)).quad(at(1, 1, 0), at(0, 1, 0), at(0, 1, 1), at(1, 1, 1));
    b.quad(at(0, 1, 0), at(0, 0, 0), at(0, 0, 1), at(0, 1, 1)).quad(at(1, 0, 0), at(1, 1, 0), at(1, 1, 1), at(1, 0, 1));
    b.quad(at(0, 0, 1), at(0.5, 0, 1), at(0.5, 1, 1), at(0, 1, 1)).quad(at(0.5, 0, 1), at(1, 0, 1), at(1, 1, 1), at(0.5, 1, 1));
    expect(of('open', modelOf([element('w', keep(b.build()), { class: 'Wall' })]))).toEqual([]);
  });

  it('that look inwards, all or some, are found, and turned by one command', () => {
    const inwards = modelOf([element('i', keep(meshOfKey(turnedKey(''), cube())))]);
    const [finding] = of('flipped', inwards);
    expect(finding!.words).toBe('All faces of i look inwards.');
    expect(of('flipped', inwards, mended(finding!))).toEqual([]);
    const torn = cube();
    torn.indices.set([torn.indices[1]!, torn.indices[0]!], 0);
    expect(of('flipped', modelOf([element('t', keep(torn))]))[0]!.words).toBe('Some faces of t look the other way than their neighbours.');
    expect(of('flipped', modelOf([element('m', keep(cube()), { transform: [...translation(3, 0, 0)] })]))).toEqual([]);
  });

  it('without area and specks are found', () => {
    const flat: Mesh = { positions: new Float32Array([0, 0, 0, 1, 0, 0, 2, 0, 0]), indices: new Uint32Array([0, 1, 2]) };
    const [all] = of('degenerate', modelOf([element('d', keep(flat))]));
    expect(all).toMatchObject({ severity: 'warning', words: 'None of the faces of d has an area.' });
    const one = cube();
    const mixed: Mesh = { positions: one.positions, indices: Uint32Array.from([...one.indices, 0, 0, 1]) };
    expect(of('degenerate', modelOf([element('d', keep(mixed))]))[0]!.words).toBe('1 face of d without area.');
    const speck = modelOf([element('s', box(0, 0, 0, 0.001, 0.001, 0.001))]);
    expect(of('specks', speck)[0]!.words).toBe('s is 1.7 mm large.');
    expect(findings(speck, mended(of('specks', speck)[0]!))).toEqual([]);
  });
});

describe('walls', () => {
  it('that end before another one by up to three centimetres leave a gap, and are moved to meet it', () => {
    const model = modelOf([wall('a', 0, 0, 4, 'x'), wall('b', 4.115, -1, 5, 'y')]);
    const [finding, ...others] = of('wall-gaps', model);
    expect(others).toEqual([]);
    expect(finding!.words).toBe('a ends 15 mm before b; light comes through.');
    const { by } = finding!.remedy!.command as { by: number[] };
    [0.015, 0, 0].forEach((v, k) => { expect(by[k]).toBeCloseTo(v, 5); }); // prettier-ignore
    expect(of('wall-gaps', model, mended(finding!))).toEqual([]);
  });

  it('may leave gaps of another width, as the project says', () => {
    const model = modelOf([wall('a', 0, 0, 4, 'x'), wall('b', 4.17, -1, 5, 'y')]);
    expect(of('wall-gaps', model)).toEqual([]);
    const effect = effectOf(new Map(), { type: 'set-widest-gap', metres: 0.1 }, '');
    expect(of('wall-gaps', model, applyChanges(new Map(), 'refused' in effect ? [] : effect.changes)).map((f) => f.words)).toEqual(['a ends 70 mm before b; light comes through.']); // prettier-ignore
  });

  it('that meet, stand clearly apart, pass over each other, or have a column between them do not', () => {
    const gaps = (...elements: ModelElement[]) => of('wall-gaps', modelOf(elements));
    expect(gaps(wall('a', 0, 0, 4, 'x'), wall('b', 4.1, -1, 5, 'y'))).toEqual([]);
    expect(gaps(wall('a', 0, 0, 4, 'x'), wall('b', 4.5, -1, 5, 'y'))).toEqual([]);
    const above = wall('b', 4.115, -1, 5, 'y');
    expect(gaps(wall('a', 0, 0, 4, 'x'), { ...above, transform: [...translation(0, 0, 5)] })).toEqual([]);
    expect(gaps(wall('a', 0, 0, 4, 'x'), wall('b', 4.115, -1, 5, 'y'), element('c', box(3.99, -0.2, 0, 0.3, 0.4, 3)))).toEqual([]);
  });

  it('that run through each other by more than a corner overlap, with their volume', () => {
    const [finding] = of('wall-overlaps', modelOf([wall('a', 0, 0, 4, 'x'), wall('b', 2, 0.05, 4, 'x')]));
    // Two metres long, 0.15 m wide, three metres high.
    expect(finding!.words).toBe('a and b overlap by 0.900 m³.');
    const corner = modelOf([wall('a', 0, 0, 4, 'x'), wall('b', 3.9, -0.1, 4, 'y')]);
    expect(of('wall-overlaps', corner)).toEqual([]);
  });
});

describe('walls that are not straight', () => {
  /** A wall of a level outline, 3 m high. */
  const ofOutline = (id: string, outline: (readonly [number, number])[]) =>
    element(id, keep(new MeshBuilder().prism(outline, [], ([x, y], t) => [x, y, t * 3]).build()), { class: 'Wall' });
  /** A quarter of a ring about the origin, 5 m to its outer face, 0.2 m thick, in `steps` pieces, from (5, 0) to (0, 5). */
  const quarter = (id: string, steps: number) => {
    const arc = (r: number) => Array.from({ length: steps + 1 }, (_, i) => [r * Math.cos((i * Math.PI) / 2 / steps), r * Math.sin((i * Math.PI) / 2 / steps)] as const); // prettier-ignore
    return ofOutline(id, [...arc(5), ...arc(4.8).reverse()]);
  };
  /** Two legs, 4 m along x and 3 m along y, 0.2 m thick. */
  const angle = (id: string) => ofOutline(id, [[0, 0], [4, 0], [4, 0.2], [0.2, 0.2], [0.2, 3], [0, 3]]); // prettier-ignore

  it('end before another one at either end, and nowhere between', () => {
    const [finding, ...others] = of('wall-gaps', modelOf([angle('a'), wall('b', 4.115, -1, 5, 'y')]));
    expect(others).toEqual([]);
    expect(finding!.words).toBe('a ends 15 mm before b; light comes through.');
    // The last piece of the ring is a chord: it meets the wall at its own slant.
    const slant = Math.PI / 2 / 48 / 2;
    const curved = of('wall-gaps', modelOf([quarter('q', 48), wall('b', 4, -0.1 - 0.012 * Math.cos(slant), 3, 'x')]));
    expect(curved.map((f) => f.words)).toEqual(['q ends 12 mm before b; light comes through.']);
    expect(of('wall-gaps', modelOf([quarter('q', 48), wall('b', 4, -0.1, 3, 'x')]))).toEqual([]);
  });

  it('share what they share, and no more', () => {
    // Along the leg of 3 m: two metres of it, all of its 0.2 m, three metres high.
    const [finding] = of('wall-overlaps', modelOf([angle('a'), wall('b', 0.1, 1, 2, 'y')]));
    expect(finding!.words).toBe('a and b overlap by 1.200 m³.');
    // In the hollow of the angle, through the ring as any crossing does, and in the ring's middle: nothing.
    expect(of('wall-overlaps', modelOf([angle('a'), wall('b', 1, 1, 2, 'x')]))).toEqual([]);
    expect(of('wall-overlaps', modelOf([quarter('q', 24), wall('b', 3, 3.4, 3, 'x')]))).toEqual([]);
    expect(of('wall-overlaps', modelOf([quarter('q', 24), wall('b', 0.5, 1, 2, 'x')]))).toEqual([]);
    expect(findings(modelOf([quarter('q', 24)]))).toEqual([]);
  });
});

describe('extent', () => {
  it('names what lies far from the rest, and what holds too many triangles', () => {
    const near = Array.from({ length: 20 }, (_, i) => element(`n${String(i)}`, box(i, 0, 0, 0.5, 0.5, 0.5)));
    const model = modelOf([
      ...near,
      element('stray', box(12_000, 0, 0, 1, 1, 1)),
      element('terrain', box(-9000, -9000, -2, 18_000, 18_000, 1)),
    ]);
    expect(of('far', model).map(ids)).toEqual([['stray']]);
    expect(of('far', model)[0]!.words).toContain('11,9');
    const rings = new MeshBuilder();
    for (let i = 0; i < 450; i++) rings.tube([[0, 0, i], [0, 0, i + 0.5]], 1, 40); // prettier-ignore
    expect(of('heavy', modelOf([element('h', keep(rings.build()))])).map(ids)).toEqual([['h']]);
  });
});

describe('names', () => {
  it('of layers that look like drawing, in several languages, are found while the layer is shown', () => {
    const layers = ['A-ANNO-DIMS', 'Bemaßung 1:50', 'Achsen', 'cotes', 'Dim_Level', 'Gridshell roof', 'Dimmers', 'Walls'];
    const model = modelOf(layers.map((layer, i) => element(`e${String(i)}`, box(i * 2, 0, 0, 1, 1, 1), { layer })));
    const found = of('annotation', model);
    expect(found.map((f) => /“(.*?)”/.exec(f.words)![1])).toEqual(['A-ANNO-DIMS', 'Bemaßung 1:50', 'Achsen', 'cotes', 'Dim_Level']);
    expect(of('annotation', model, mended(found[0]!))).toHaveLength(4);
  });

  it('of materials that say nothing, serve too many, or lack their picture are found', () => {
    const classes = ['Wall', 'Slab', 'Window', 'Roof', 'Furniture'];
    const elements = classes.map((name, i) => element(`e${String(i)}`, box(i * 2, 0, 0, 1, 1, 1), { class: name, parts: [{ mesh: box(i * 2, 0, 0, 1, 1, 1), material: 'x' }] })); // prettier-ignore
    const model = modelOf([...elements, element('plain', box(20, 0, 0, 1, 1, 1), { parts: [{ mesh: box(20, 0, 0, 1, 1, 1), material: 'n' }] })], [{ id: 'x', name: 'Colour 7', missing: 'a.png' }, { id: 'n', name: 'No material' }, { id: 'u', name: 'Default' }]); // prettier-ignore
    expect(of('shared-material', model)[0]!.words).toBe('“Colour 7” is shared by walls, floors and slabs, glazing, roofs, furniture; one finish has to do for all.');
    expect(of('no-material', model).map(ids)).toEqual([['plain']]);
    expect(of('missing-pictures', model)[0]!.words).toContain('The picture a.png of “Colour 7” did not come with the file');
  }); // prettier-ignore
});

describe('what is hidden', () => {
  it('is not checked', () => {
    const mesh = box(0, 0, 0, 1, 1, 1);
    const model = modelOf([element('a', mesh), element('b', mesh, { class: 'Space' })]);
    expect(findings(model)).toEqual([]);
  });
});

describe('the demo building', () => {
  it('is clean, with either roof', () => {
    for (const roofForm of ['folded', 'pitched'] as const) {
      const model = buildMarramLanding({ ...DEFAULT_PARAMETERS, roofForm });
      const found = [...checkModel([{ id: 's', name: 's', model }], new Map(), (hash) => storedMesh(hash)!.mesh)].flatMap(
        (p) => p.findings,
      );
      expect(found.map((f) => f.words)).toEqual([]);
    }
  });
});

describe('clipping', () => {
  it('leaves what two polygons share', () => {
    const square = [[0, 0], [2, 0], [2, 2], [0, 2]] as const; // prettier-ignore
    const other = [[1, 1], [3, 1], [3, 3], [1, 3]] as const; // prettier-ignore
    expect(polygonArea(clip(square, other))).toBeCloseTo(1, 12);
    expect(polygonArea(clip(square, [...other].reverse()))).toBeCloseTo(1, 12);
    expect(clip(square, other.map(([x, y]) => [x + 5, y] as const))).toEqual([]); // prettier-ignore
  });
});
