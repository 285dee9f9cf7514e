import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { meshVolume } from '../core/geometry/mesh';
import { applyChange, blobsOf, countChange, differenceOf, EMPTY_MODEL, findDangling, isShown, snapshotOf } from '../core/model/model';
import { changeSchema } from '../core/model/schema';
import { AuthorDocument, SESSION } from './edits';
import { globalIdOf, writeIfc } from './ifc-writer';
import { buildMarramLanding } from './model/build';
import { storedMesh } from './model/kit';

const model = buildMarramLanding(new AuthorDocument().parameters);
const strip = (change: ReturnType<typeof snapshotOf>) => ({
  ...change,
  elements: change.elements.map((e) => ({ ...e, wall: undefined })).map(({ wall: _wall, ...rest }) => rest),
});

describe('Marram Landing', () => {
  it('has 400 to 800 elements, under 150,000 triangles, many of them repeats, about 25 luminaires on 5 circuits', () => {
    const hidden = new Set(model.presentation.hiddenLayers);
    const shown = [...model.elements.values()].filter((e) => isShown(e, model.presentation, hidden));
    expect(shown.length).toBeGreaterThan(400);
    expect(model.elements.size).toBeLessThan(800);
    const parts = shown.flatMap((e) => e.parts);
    expect(parts.reduce((sum, p) => sum + storedMesh(p.mesh)!.mesh.indices.length / 3, 0)).toBeLessThan(150_000);
    expect(new Set(parts.map((p) => p.mesh)).size).toBeLessThan(parts.length * 0.6);
    expect(model.luminaires.size).toBe(25);
    expect(new Set([...model.luminaires.values()].map((l) => l.circuit)).size).toBe(5);
    expect(model.cameras.size).toBe(8);
  });

  it('speaks only what the protocol allows, and every reference leads somewhere', () => {
    const snapshot = v.parse(changeSchema, strip(snapshotOf(model)));
    expect(findDangling(EMPTY_MODEL, snapshot)).toBeUndefined();
    for (const hash of blobsOf(snapshot)) expect(storedMesh(hash)).toBeDefined();
  });

  it('is built of solids that face outwards', () => {
    for (const id of [
      'slab',
      'column-s3',
      'wall-n2-boards',
      'fold-1-zinc',
      'fascia-s1',
      'fascia-n2',
      'pile-11',
      'bench-1',
      'stool-1',
      'bollard-1',
      'pendant-1',
    ])
      for (const part of model.elements.get(id)!.parts)
        expect(`${id} ${String(meshVolume(storedMesh(part.mesh)!.mesh) > 0)}`).toBe(`${id} true`);
  });

  it('changes little for a little edit, and its session of twenty edits ends where one snapshot would', () => {
    const document = new AuthorDocument();
    let before = buildMarramLanding(document.parameters);
    let follower = applyChange(EMPTY_MODEL, snapshotOf(before));
    expect(SESSION).toHaveLength(20);
    for (const edit of SESSION) {
      document.run(edit);
      const after = buildMarramLanding(document.parameters);
      const change = differenceOf(before, after);
      expect(`${edit.edit} ${String(countChange(change) > 0)}`).toBe(`${edit.edit} true`);
      if (edit.edit === 'dim' || edit.edit === 'recolour') expect(countChange(change)).toBe(1);
      follower = applyChange(follower, change);
      before = after;
    }
    expect(new Map(follower.elements)).toEqual(new Map(before.elements));
    expect(new Map(follower.luminaires)).toEqual(new Map(before.luminaires));
  });

  it('undoes', () => {
    const document = new AuthorDocument();
    const start = document.parameters;
    document.run({ edit: 'delete-column', column: 'column-s3' });
    expect(buildMarramLanding(document.parameters).elements.has('column-s3')).toBe(false);
    document.run({ edit: 'undo' });
    expect(document.parameters).toEqual(start);
  });
});

describe('the IFC4 it writes', () => {
  const text = writeIfc(model);
  it('is well-formed: every line ends, every reference is defined before the end, GlobalIds are unique and of 22 characters', () => {
    const ids = new Set([...text.matchAll(/^#(\d+)=/gm)].map((m) => m[1]));
    for (const m of text.matchAll(/[(,]#(\d+)/g)) expect(ids.has(m[1])).toBe(true);
    const guids = [...text.matchAll(/\('([0-9A-Za-z_$]{22})',/g)].map((m) => m[1]);
    expect(new Set(guids).size).toBe(guids.length);
    expect(guids.length).toBeGreaterThan(400);
    expect(globalIdOf('x')).toMatch(/^[0-3][0-9A-Za-z_$]{21}$/);
  });

  it('codes what is not ASCII, and doubles quotes', () => {
    expect(text).toContain("'L\\X2\\00E4\\X0\\rche Schalung 120'");
  });
});
