import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { meshBounds } from '../core/geometry/mesh';
import { FINISHES } from '../core/finish/library';
import { applyChange, differenceOf, type Model } from '../core/model/model';
import { assignmentKey, overrideKey } from '../core/project/project';
import { scheduleRows } from '../core/project/schedule';
import { random } from '../core/random';
import { compileScene } from '../core/scene/compile';
import { AuthorDocument, editSchema, SESSION, type Edit } from './edits';
import { buildMarramLanding } from './model/build';
import { storedMesh } from './model/kit';

/** What each edit does to the building. */

const before = buildMarramLanding(new AuthorDocument().parameters);
function after(...edits: Edit[]): Model {
  const document = new AuthorDocument();
  for (const edit of edits) document.run(edit);
  return buildMarramLanding(document.parameters);
}
const changed = (...edits: Edit[]) => differenceOf(before, after(...edits));
const topOf = (model: Model, id: string) =>
  Math.max(...model.elements.get(id)!.parts.map((p) => meshBounds(storedMesh(p.mesh)!.mesh.positions).max[2]));

describe('edits of the building', () => {
  it('move a wall: it and what belongs to it change, the far end of the building does not', () => {
    const ids = changed({ edit: 'move-wall', metres: 1.2 }).elements.map((e) => e.id);
    expect(ids.length).toBeGreaterThan(0);
    expect(ids).not.toContain('column-s0');
  });

  it('widen an opening, and delete it: the window goes, the wall is closed', () => {
    const widened = changed({ edit: 'widen-opening', index: 1, metres: 2.2 });
    expect(widened.elements.length).toBeGreaterThan(0);
    expect(widened.remove.elements).toEqual([]);
    const closed = changed({ edit: 'delete-opening', index: 1 });
    expect(closed.remove.elements.length).toBeGreaterThan(0);
  });

  it('raise the ridge with the pitch', () => {
    const flat = after({ edit: 'roof-pitch', degrees: 12 });
    const steep = after({ edit: 'roof-pitch', degrees: 34 });
    expect(topOf(steep, 'fold-1-zinc')).toBeGreaterThan(topOf(flat, 'fold-1-zinc') + 1);
  });

  it('choose the roof by option, without sending the other one again', () => {
    const change = changed({ edit: 'roof-form', form: 'pitched' });
    expect(change.presentation!.option).toBe('pitched');
    expect(change.presentation!.options.map((o) => o.id)).toEqual(expect.arrayContaining(['folded', 'pitched']));
    expect(change.elements.filter((e) => e.option === 'folded')).toEqual([]);
  });

  it('turn layers off and on, and phases', () => {
    expect(changed({ edit: 'layer', layer: 'Planting', visible: false })).toMatchObject({
      elements: [],
      presentation: { hiddenLayers: expect.arrayContaining(['Planting']) as string[] },
    });
    const off = { edit: 'layer', layer: 'Planting', visible: false } as const;
    expect(changed(off, off, { ...off, visible: true }).presentation).toBeUndefined();
    expect(changed({ edit: 'phase', phase: 'shell' }).presentation!.phase).toBe('shell');
  });

  it('recolour and rename a source material alone', () => {
    const change = changed(
      { edit: 'recolour', material: 'cladding', colour: [1, 0, 0] },
      { edit: 'rename', material: 'cladding', name: 'Type <B>' },
    );
    expect(change.materials).toMatchObject([{ id: 'cladding', name: 'Type <B>', colour: [1, 0, 0] }]);
    expect(change.elements).toEqual([]);
  });

  it('dim, add and remove luminaires', () => {
    expect(changed({ edit: 'dim', luminaire: 'pendant-2', dim: 0.3 }).luminaires).toMatchObject([{ id: 'pendant-2', dim: 0.3 }]);
    expect(after({ edit: 'add-luminaire' }).luminaires.size).toBe(before.luminaires.size + 1);
    const removed = changed({ edit: 'remove-luminaire', luminaire: 'pendant-c4' });
    expect(removed.remove.luminaires).toEqual(['pendant-c4']);
  });

  it('move the camera and set the time, touching nothing else', () => {
    const change = changed(
      { edit: 'camera', position: [1, 2, 3], target: [4, 5, 6], focalMm: 50 },
      { edit: 'time', time: '2026-06-21T09:30' },
    );
    expect(change).toMatchObject({ elements: [], camera: { position: [1, 2, 3], focalMm: 50 }, time: '2026-06-21T09:30' });
  });
});

describe('the tool’s document', () => {
  it('undoes step by step back to the start, and not beyond', () => {
    const document = new AuthorDocument();
    const start = document.parameters;
    const edits = SESSION.filter((e) => e.edit !== 'undo');
    for (const edit of edits) document.run(edit);
    for (let i = 0; i < edits.length; i++) document.run({ edit: 'undo' });
    expect(document.parameters).toEqual(start);
    document.run({ edit: 'undo' });
    expect(document.parameters).toEqual(start);
  });

  it('starts over, which can be undone too', () => {
    const document = new AuthorDocument();
    document.run({ edit: 'roof-pitch', degrees: 30 });
    document.run({ edit: 'start-over' });
    expect(document.parameters.roofPitchDeg).not.toBe(30);
    document.run({ edit: 'undo' });
    expect(document.parameters.roofPitchDeg).toBe(30);
  });

  it('takes only edits that make sense', () => {
    const bad = [
      { edit: 'move-wall', metres: 40 }, { edit: 'move-wall', metres: NaN }, { edit: 'widen-opening', index: 1.5, metres: 1 },
      { edit: 'roof-pitch', degrees: 80 }, { edit: 'roof-form', form: 'dome' }, { edit: 'dim', luminaire: 'x', dim: 2 },
      { edit: 'time', time: 'noon' }, { edit: 'camera', position: [0, 0], target: [0, 0, 0], focalMm: 30 }, { edit: 'explode' }, {},
    ]; // prettier-ignore
    for (const edit of bad) expect(`${JSON.stringify(edit)} ${String(v.safeParse(editSchema, edit).success)}`).toMatch(/false$/);
    for (const edit of SESSION) expect(v.safeParse(editSchema, edit).success).toBe(true);
  });
});

describe('decisions about finishes', () => {
  it('survive a thousand random edits: rows keep what was chosen, elements what they were given, and nothing else gets it', () => {
    const next = random(11);
    const pick = <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)]!;
    const document = new AuthorDocument();
    const materials = [...before.materials.keys()];
    const finishes = FINISHES.map((f) => f.id);
    const chosen = new Map(materials.filter((_, i) => i % 2 === 0).map((id) => [id, pick(finishes)]));
    const given = new Map([...before.elements.keys()].filter((_, i) => i % 9 === 0).map((id) => [id, pick(finishes)]));
    const entries = new Map<string, unknown>([
      ...[...chosen].map(([id, finish]) => [assignmentKey('m', id), { finish, at: '' }] as const),
      ...[...given].map(([id, finish]) => [overrideKey('m', id), { finish, at: '' }] as const),
    ]);
    const columns = [...before.elements.keys()].filter((id) => id.startsWith('column'));
    const lamps = [...before.luminaires.keys()];
    const edits: readonly (() => Edit)[] = [
      () => ({ edit: 'move-wall', metres: Math.round(next() * 30) / 10 }),
      () => ({ edit: 'widen-opening', index: Math.floor(next() * 6), metres: 1 + Math.round(next() * 12) / 10 }),
      () => ({ edit: 'delete-opening', index: Math.floor(next() * 6) }),
      () => ({ edit: 'delete-column', column: pick(columns) }),
      () => ({ edit: 'roof-pitch', degrees: 8 + Math.floor(next() * 30) }),
      () => ({ edit: 'roof-form', form: pick(['folded', 'pitched'] as const) }),
      () => ({ edit: 'recolour', material: pick(materials), colour: [next(), next(), next()] }),
      () => ({ edit: 'rename', material: pick(materials), name: `Renamed ${String(Math.floor(next() * 1000))}` }),
      () => ({ edit: 'remove-luminaire', luminaire: pick(lamps) }),
      () => ({ edit: 'layer', layer: 'Planting', visible: next() < 0.5 }),
      () => ({ edit: 'undo' }),
      () => ({ edit: 'undo' }),
      () => ({ edit: 'start-over' }),
    ];
    let model = before;
    for (let i = 0; i < 1000; i++) {
      document.run(pick(edits)());
      // The building is looked at every tenth time: that it is built anew costs more than all else.
      if (i % 10 !== 9) continue;
      const now = buildMarramLanding(document.parameters);
      model = applyChange(model, differenceOf(model, now));
      for (const { material, choice } of scheduleRows('m', model, new Map(), entries))
        if (chosen.has(material)) expect([material, choice.finish?.id]).toEqual([material, chosen.get(material)]);
        else expect(choice.origin).not.toBe('by hand');
      for (const { element, finish, material } of compileScene([{ id: 'm', model }], entries).instances) {
        if (given.has(element)) expect(finish.id).toBe(given.get(element));
        else if (chosen.has(material)) expect(finish.id).toBe(chosen.get(material));
      }
    }
  });
});
