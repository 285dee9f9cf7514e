import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { applyChange, EMPTY_MODEL } from '../model/model';
import { changeSchema } from '../model/schema';
import { effectOf } from './command';
import { applyChanges, type Entries } from './project';
import { carriedDecisions, matchModels, weighDecisions } from './replacing';

const HASH = 'a'.repeat(64);
const element = (id: string, name: string, x = 0, kind = 'Wall') => ({
  id, name, class: kind, storey: '', layer: 'L', option: null, phase: null,
  transform: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0, 0, 1], parts: [{ mesh: HASH, material: 'm1' }],
}); // prettier-ignore
const model = (elements: object[], materials: [string, string][]) =>
  applyChange(
    EMPTY_MODEL,
    v.parse(changeSchema, { elements, materials: materials.map(([id, name]) => ({ id, name, colour: [1, 1, 1] })) }),
  );

const before = model(
  [element('w1', 'North wall'), element('w2', 'Post', 1), element('w3', 'Post', 9), element('w4', 'Gutter'), element('w5', 'Kept')],
  [['m1', 'Larch'], ['m2', 'Zinc'], ['m3', 'Gone']],
); // prettier-ignore
const after = model(
  [element('n1', ' north Wall '), element('n9', 'Post', 8.5), element('n2', 'Post', 1.2), element('n3', 'Bench'), element('w5', 'Kept, renamed')],
  [['m1', 'Larch'], ['x2', 'zinc'], ['x4', 'New']],
); // prettier-ignore

describe('a file in the place of another', () => {
  const matches = matchModels(before, after);

  it('is matched by id, then by name, the nearest of one name first', () => {
    expect(matches.elements).toEqual({ kept: 1, byName: [['w1', 'n1'], ['w2', 'n2'], ['w3', 'n9']], gone: ['w4'], added: 1 }); // prettier-ignore
    expect(matches.materials).toEqual({ kept: 1, byName: [['m2', 'x2']], gone: ['m3'], added: 1 }); // prettier-ignore
  });

  it('prefers the same class, and gives nothing away twice', () => {
    const old = model([element('a', 'Post', 0, 'Column'), element('b', 'Post', 0, 'Wall')], [['m1', 'Larch']]);
    const fresh = model([element('c', 'Post', 0, 'Wall'), element('d', 'Post', 5, 'Column')], [['m1', 'Larch']]);
    expect(matchModels(old, fresh).elements.byName).toEqual([['a', 'd'], ['b', 'c']]); // prettier-ignore
    const fewer = model([element('c', 'Post')], [['m1', 'Larch']]);
    expect(matchModels(old, fewer).elements).toMatchObject({ byName: [['a', 'c']], gone: ['b'] });
    expect(matchModels(model([element('a', '')], [['m1', 'L']]), model([element('b', '')], [['m1', 'L']])).elements.gone).toEqual(['a']); // prettier-ignore
  });

  const decided: Entries = new Map<string, unknown>([
    ['assign/s/m1', { finish: 'oak', at: '' }], ['assign/s/m2', { finish: 'zinc', at: '' }], ['assign/s/m3', { finish: 'oak', at: '' }],
    ['element/s/w2', { finish: 'oak', at: '' }], ['nudge/s/w3', [0, 0, 1]], ['element/s/w4', { finish: 'oak', at: '' }], ['element/other/w2', { finish: 'oak', at: '' }],
    ['visibility', { decisions: { 'element/s/w1': false, 'layer/s/L': true }, isolated: ['element/s/w2'] }],
    ['shown/k', { name: 'Kept', decisions: {}, isolated: [] }],
  ]); // prettier-ignore
  const carrying = { source: 's', elements: matches.elements.byName, materials: matches.materials.byName };

  it('says how many decisions stay, go on and sleep', () => {
    expect(weighDecisions(decided, 's', matches)).toEqual({ stay: 1, carried: 3, sleep: ['m3', 'w4'] });
  });

  it('takes the decisions with it, and gives them back when undone', () => {
    const now = applyChanges(decided, carriedDecisions(decided, carrying));
    expect(now.get('assign/s/x2')).toEqual({ finish: 'zinc', at: '' });
    expect(now.has('assign/s/m2')).toBe(false);
    expect(now.get('element/s/n2')).toEqual({ finish: 'oak', at: '' });
    expect(now.get('nudge/s/n9')).toEqual([0, 0, 1]);
    expect(now.get('element/s/w4')).toBeDefined();
    expect(now.get('element/other/w2')).toBeDefined();
    expect(now.get('visibility')).toEqual({ decisions: { 'element/s/n1': false, 'layer/s/L': true }, isolated: ['element/s/n2'] });
    expect(now.get('shown/k')).toBe(decided.get('shown/k'));
    const effect = effectOf(decided, { type: 'carry-decisions', ...carrying, name: 'house-2.ifc' }, '');
    expect(effect).toMatchObject({ label: 'Decisions carried on to house-2.ifc', changes: carriedDecisions(decided, carrying) });
  });

  it('carries what lies on elements, stands on them, is taken over from them or is said of them', () => {
    const [, [from, to]] = carrying.elements as readonly (readonly [string, string])[] as [unknown, readonly [string, string]];
    const about = new Map<string, unknown>([
      [`laid/s/${from}`, { faces: 1 }],
      ['thing/lamp', { kind: 'lamp', stands: { source: 's', element: from, transform: [] } }],
      ['set/pot', { name: 'Pots', stands: { source: 's', element: from, transform: [] } }],
      ['set/other', { name: 'Pots', stands: { source: 'other', element: from, transform: [] } }],
      [
        'land/g',
        {
          kind: 'terrain',
          instead: [
            { source: 's', element: from },
            { source: 's', element: 'stays' },
          ],
        },
      ],
      ['remark/r', { text: 'x', element: { source: 's', id: from } }],
    ]);
    const now = applyChanges(about, carriedDecisions(about, carrying));
    expect(now.get(`laid/s/${to}`)).toEqual({ faces: 1 });
    expect(now.get('thing/lamp')).toMatchObject({ stands: { element: to } });
    expect(now.get('set/pot')).toMatchObject({ stands: { element: to } });
    expect(now.get('set/other')).toBe(about.get('set/other'));
    expect(now.get('land/g')).toMatchObject({ instead: [{ element: to }, { element: 'stays' }] });
    expect(now.get('remark/r')).toMatchObject({ element: { id: to } });
    const matches = { kept: 0, byName: carrying.elements.map((pair) => [...pair] as [string, string]), gone: [], added: 0 };
    const none = { kept: 0, byName: [], gone: [], added: 0 };
    expect(weighDecisions(about, 's', { elements: matches, materials: none })).toMatchObject({ stay: 1, carried: 5, sleep: [] });
    const lost = weighDecisions(about, 's', { elements: { ...none, gone: [from] }, materials: none });
    expect(lost.sleep).toHaveLength(5);
  });

  it('leaves alone what somebody has decided about the new one already', () => {
    const both = new Map([...decided, ['assign/s/x2', { finish: 'oak', at: '1' }]]);
    expect(applyChanges(both, carriedDecisions(both, carrying)).get('assign/s/x2')).toEqual({ finish: 'oak', at: '1' });
  });
});
