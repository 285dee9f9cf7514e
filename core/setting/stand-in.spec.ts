import { expect, it } from 'vitest';
import { compose } from '../geometry/mat4';
import { EMPTY_MODEL, type Model } from '../model/model';
import { testElement } from '../model/testing';
import { membersOf } from './setting-model';
import { meshesToPlace, standInCounts, standingIn, type StandIn } from './stand-in';
import type { ThingKind } from './thing-kind';

const half = Math.SQRT1_2;
const at = compose([4, 5, 1], [0, 0, half, half], [2, 2, 2]);
const tree = (id: string, extra = {}) => testElement(id, { name: `Birch ${id}`, class: 'GeographicElement', transform: [...at], parts: [{ mesh: 'm', material: 'leaves' }], ...extra }); // prettier-ignore
const model = (...elements: ReturnType<typeof tree>[]): Model => ({
  ...EMPTY_MODEL,
  elements: new Map(elements.map((element) => [element.id, element])),
  materials: new Map([['leaves', { id: 'leaves', name: 'Bouleau, feuilles', colour: [0, 1, 0], opacity: 1, texture: null }]]),
});
const rule = (extra: Partial<StandIn> = {}): StandIn => ({ by: 'name', pattern: 'birch', kind: 'birch', size: 1.5, turnDeg: 10, ...extra });
const RULES = [rule()];
const KINDS = new Map<string, ThingKind>([['birch', { id: 'birch', name: 'Birch', group: 'trees', tags: [], states: [], forms: [{ id: 'one', name: '', heightM: 1, acrossM: 1, triangles: 1, parts: [] }], materials: [] }]]); // prettier-ignore

it('a thing stands for each element that a rule fits, in its place, turn and size; the element itself is not seen', () => {
  const whole = model(tree('a'), testElement('wall', { transform: [...at], parts: [{ mesh: 'w', material: 'leaves' }] }), tree('flat', { transform: testElement('x').transform })); // prettier-ignore
  const { model: seen, sets } = standingIn('s', whole, [rule()]);
  expect(sets.map(({ id }) => id)).toEqual(['+in/s/a']);
  expect(seen.elements.get('a')!.parts).toEqual([]);
  expect(seen.elements.get('wall')).toBe(whole.elements.get('wall'));
  // One whose shape lies about the model's origin keeps it until it is known where that is.
  expect(seen.elements.get('flat')!.parts).toHaveLength(1);
  const [member] = membersOf(sets[0]!, KINDS);
  expect(member!.position).toEqual([4, 5, 1].map((c) => expect.closeTo(c, 9) as number));
  const turn = ((90 + 10) * Math.PI) / 180;
  expect(member!.transform.slice(0, 2)).toEqual([3 * Math.cos(turn), 3 * Math.sin(turn)].map((c) => expect.closeTo(c, 6) as number));
});

it('an element whose shape lies about the model’s origin is stood in for where the shape has its foot', () => {
  const flat = tree('flat', { transform: testElement('x').transform, parts: [{ mesh: 'm', material: 'leaves' }, { mesh: 'n', material: 'leaves' }] }); // prettier-ignore
  const whole = model(flat, tree('a'));
  expect([...meshesToPlace([whole], RULES)]).toEqual(['m', 'n']);
  expect([...meshesToPlace([whole], [rule({ pattern: 'oak' })])]).toEqual([]);
  const boxes = { m: { min: [10, 20, 2], max: [12, 22, 3] }, n: { min: [9, 20, 3], max: [13, 24, 9] } } as const;
  const boundsOf = (mesh: string) => { const box = boxes[mesh as 'm' | 'n']; return { min: [...box.min] as [number, number, number], max: [...box.max] as [number, number, number] }; }; // prettier-ignore
  const { model: seen, sets } = standingIn('s', whole, RULES, boundsOf);
  expect(seen.elements.get('flat')!.parts).toEqual([]);
  expect(sets[0]!.thing).toMatchObject({ members: [11, 22, 2], turnDeg: 10, size: 1.5 });
  expect([standInCounts([whole], RULES), standInCounts([whole], RULES, boundsOf)]).toEqual([[1], [2]]);
});

it('new elements are stood in for as they come; those that stay are the same objects; without rules all is as it was', () => {
  const first = standingIn('s', model(tree('a')), RULES);
  const [a, b] = [first.model.elements.get('a')!, tree('b')];
  expect(a.parts).toEqual([]);
  const before = model(tree('a'), b);
  const one = standingIn('s', before, RULES);
  const two = standingIn('s', { ...before, elements: new Map([...before.elements, ['c', tree('c')]]) }, RULES);
  expect(two.sets.map(({ id }) => id)).toEqual(['+in/s/a', '+in/s/b', '+in/s/c']);
  expect(two.sets[1]!.thing).toBe(one.sets[1]!.thing);
  expect(two.model.elements.get('b')).toBe(one.model.elements.get('b'));
  expect(standingIn('s', before, []).model).toBe(before);
});

it('elements are known by class, layer and source material as well', () => {
  const one = model(tree('a', { layer: 'Planting' }));
  for (const by of [{ by: 'class', pattern: 'geographic' }, { by: 'layer', pattern: 'plant*' }, { by: 'material', pattern: 'feuilles' }] as const)
    expect([standingIn('s', one, [rule(by)]).sets.length, standInCounts([one], [rule(by)])]).toEqual([1, [1]]);
  expect(standingIn('s', one, [rule({ by: 'layer', pattern: 'walls' })]).sets).toHaveLength(0);
}); // prettier-ignore
