import { describe, expect, it } from 'vitest';
import { compose, invert, multiply, transformPoint, translation, type Mat4 } from '../geometry/mat4';
import { EMPTY_MODEL, type Model } from '../model/model';
import { LayeredMap } from '../model/layered-map';
import type { ModelElement } from '../model/schema';
import { testElement } from '../model/testing';
import { randomInteger, random } from '../random';
import { SETTING, SettingModel } from '../setting/setting-model';
import type { SetThing } from '../setting/set-thing';
import type { ThingKind } from '../setting/thing-kind';
import { leftBy } from './left';
import { applyChanges, type Entries } from './project';
import { placedSets, withSetting } from './setting-source';

const form = { id: 'one', name: '', heightM: 1, acrossM: 1, triangles: 1, parts: [{ mesh: 'pot', material: 'clay' }] };
const KINDS = new Map<string, ThingKind>([['pot', { id: 'pot', name: 'Pot', group: 'furniture', tags: [], states: [], forms: [form], materials: [] }]]); // prettier-ignore
const thing = (members: number[], stands?: SetThing['stands']): SetThing => ({
  name: 'Pots', layer: 'Entourage', of: [{ kind: 'pot', share: 1 }], pattern: { kind: 'one' }, size: 1, spread: 0, turnDeg: 0, seed: 1, members, ...(stands && { stands }),
}); // prettier-ignore
const positionOf = (element: ModelElement | undefined) => element?.transform.slice(12, 15);

describe('what is set on an element', () => {
  it('stays on it through a thousand edits of the author, and where it was last once the element is gone', () => {
    const [next, pick] = [random(9), randomInteger(5)];
    const start = new Map<string, Mat4>(Array.from({ length: 20 }, (_, i) => [`e${String(i)}`, translation(i * 3, 0, 1)]));
    let entries: Entries = new Map<string, unknown>(
      [...start].map(([id, at]) => [`set/${id}`, thing([at[12]! + 0.5, 0.2, 1.4], { source: 's', element: id, transform: [...at] })]),
    );
    const now = new Map(start);
    const stoodAt = new Map<string, Mat4>();
    const model = (): Model => ({ ...EMPTY_MODEL, elements: new Map([...now].map(([id, transform]) => [id, testElement(id, { transform: [...transform] })])) }); // prettier-ignore
    const maker = new SettingModel();
    for (let edit = 0; edit < 1000; edit++) {
      const id = `e${String(pick(20))}`;
      if (next() < 0.05) {
        const before = model();
        if (now.has(id)) stoodAt.set(id, now.get(id)!);
        now.delete(id);
        entries = applyChanges(entries, leftBy(entries, 's', before, model()));
      } else {
        const turn = next() * Math.PI;
        now.set(id, multiply(translation(next() * 20, next() * 20, next() * 3), compose([0, 0, 0], [0, 0, Math.sin(turn / 2), Math.cos(turn / 2)], [1, 1, 1]))); // prettier-ignore
      }
      if (edit % 25 > 0) continue;
      const sources = withSetting([{ id: 's', model: model() }], entries, KINDS, maker);
      const set = sources.find((source) => source.id === SETTING)!.model.elements;
      for (const [one, transform] of now) {
        // Half a metre along its own x, wherever that leads now.
        const expected = transformPoint(transform, [0.5, 0.2, 0.4]);
        for (const [k, value] of positionOf(set.get(`${one}/0`))!.entries()) expect(value).toBeCloseTo(expected[k]!, 6);
      }
      const left = placedSets(entries, [{ id: 's', model: model() }]).filter(({ isLeft }) => isLeft);
      expect(left.map((each) => each.id).sort()).toEqual([...start.keys()].filter((one) => !now.has(one)).sort());
      for (const each of left) expect(each.at).toEqual(multiply(stoodAt.get(each.id)!, invert(start.get(each.id)!)!));
    }
  });

  it('is one more source, the last, which changes by what was changed alone', () => {
    const entries = new Map<string, unknown>(Array.from({ length: 30 }, (_, i) => [`set/${String(i)}`, thing([i, 0, 0])]));
    const maker = new SettingModel();
    const sources = [{ id: 's', model: EMPTY_MODEL }];
    expect(withSetting(sources, new Map(), KINDS, maker)).toBe(sources);
    const before = withSetting(sources, entries, KINDS, maker);
    expect(before.map(({ id }) => id)).toEqual(['s', SETTING]);
    const after = withSetting(sources, new Map(entries).set('set/7', thing([7, 5, 0])), KINDS, maker);
    expect(LayeredMap.differing(before[1]!.model.elements, after[1]!.model.elements)).toEqual(['7/0']);
    expect(withSetting(sources, new Map([...entries, ['stand-ins', [{ by: 'name', pattern: 'x', kind: 'gone', size: 1, turnDeg: 0 }]]]), KINDS)[0]).toBe(sources[0]); // prettier-ignore
  });
});
