import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { randomInteger } from '../random';
import { applyChange, countChange, differenceOf, EMPTY_MODEL, findDangling, isShown, snapshotOf, type Model } from './model';
import { firstComplaint, fromAuthorSchema } from './protocol';
import type { ModelElement } from './schema';
import { testChange, testElement } from './testing';

const HASH = 'a'.repeat(64);
const element = (id: string, extra: Partial<ModelElement> = {}) => testElement(id, { parts: [{ mesh: HASH, material: 'm' }], ...extra });
const change = testChange;
const base: Model = applyChange(
  EMPTY_MODEL,
  change({ reset: true, elements: [element('a'), element('b')], materials: [{ id: 'm', name: 'M', colour: [1, 1, 1] }] }),
);

it('a difference takes away site, base point, camera and time that the other model has not', () => {
  const site = { name: 'Sound', latitudeDeg: 57, longitudeDeg: -2, elevationM: 0, trueNorthDeg: 0, timeZone: 'Europe/London' } as unknown as NonNullable<Model['site']>; // prettier-ignore
  const before: Model = { ...EMPTY_MODEL, site, time: '2026-10-16T10:00', camera: { position: [0, 0, 1], target: [1, 0, 1], focalMm: 35 } };
  const after: Model = { ...EMPTY_MODEL, elements: new Map([['a', testElement('a')]]) };
  const turned = applyChange(before, differenceOf(before, after));
  expect([turned.site, turned.time, turned.camera, turned.elements.size]).toEqual([undefined, undefined, undefined, 1]);
});

describe('the model', () => {
  it('takes changes and leaves what it was', () => {
    const after = applyChange(base, change({ elements: [element('b', { name: 'B2' }), element('c')], remove: { elements: ['a'] } }));
    expect([...after.elements.keys()]).toEqual(['b', 'c']);
    expect(base.elements.get('b')!.name).toBe('b');
  });

  it('comes out the same by ten thousand random changes as by one snapshot of the end', () => {
    const random = randomInteger(7);
    let model = base;
    let follower = base;
    for (let i = 0; i < 10_000; i++) {
      const id = `e${String(random(40))}`;
      const next =
        random(4) === 0 ? change({ remove: { elements: [id] } }) : change({ elements: [element(id, { name: `n${String(i)}` })] });
      const after = applyChange(model, next);
      follower = applyChange(follower, differenceOf(model, after));
      model = after;
    }
    expect(applyChange(EMPTY_MODEL, snapshotOf(model)).elements).toEqual(model.elements);
    expect(follower.elements).toEqual(model.elements);
  });

  it('counts what differs', () => {
    expect(countChange(differenceOf(base, base))).toBe(0);
    expect(countChange(differenceOf(base, applyChange(base, change({ elements: [element('a', { storey: 'X' })] }))))).toBe(1);
  });

  it('refuses references that lead nowhere', () => {
    expect(findDangling(base, change({ elements: [element('d', { parts: [{ mesh: HASH, material: 'gone' }] })] }))?.field).toBe(
      'elements.0.parts.0.material',
    );
    expect(findDangling(base, change({ remove: { materials: ['m'] } }))?.field).toBe('remove.materials');
    expect(
      findDangling(base, change({ presentation: { hiddenLayers: [], options: [], option: 'x', phases: [], phase: null } }))?.field,
    ).toBe('presentation.option');
  });

  it('shows layers, options and phases', () => {
    const presentation = { hiddenLayers: ['Off'], options: [{ id: 'a', name: 'A' }, { id: 'b', name: 'B' }], option: 'a', phases: [{ id: '1', name: '1' }, { id: '2', name: '2' }], phase: '1' }; // prettier-ignore
    const shown = (extra: Partial<ModelElement>) => isShown(element('x', extra), presentation, new Set(presentation.hiddenLayers));
    expect(shown({})).toBe(true);
    expect(shown({ layer: 'Off' })).toBe(false);
    expect(shown({ option: 'b' })).toBe(false);
    expect(shown({ phase: '1' })).toBe(true);
    expect(shown({ phase: '2' })).toBe(false);
  });
});

describe('messages of the link', () => {
  const complaint = (message: unknown) => {
    const result = v.safeParse(fromAuthorSchema, message);
    return result.success ? undefined : firstComplaint(result.issues).field;
  };
  it('name the field that is wrong', () => {
    const ok = { type: 'change', sequence: 1, change: { elements: [element('a')] } };
    expect(complaint(ok)).toBeUndefined();
    expect(complaint({ ...ok, sequence: 0 })).toBe('sequence');
    expect(complaint({ ...ok, change: { elements: [{ ...element('a'), transform: [1, 2] }] } })).toBe('change.elements.0.transform');
    expect(complaint({ ...ok, change: { elements: [{ ...element('a'), parts: [{ mesh: 'short', material: 'm' }] }] } })).toBe(
      'change.elements.0.parts.0.mesh',
    );
    expect(complaint({ ...ok, change: { luminaires: [{ id: 'l' }] } })).toBe('change.luminaires.0.name');
    expect(complaint({ ...ok, change: { site: { name: 'x', latitudeDeg: 91, longitudeDeg: 0, elevationM: 0, trueNorthDeg: 0 } } })).toBe(
      'change.site.latitudeDeg',
    );
    expect(complaint({ type: 'nonsense' })).toBe('type');
  });
});
