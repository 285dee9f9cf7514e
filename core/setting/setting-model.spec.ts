import { describe, expect, it } from 'vitest';
import { IDENTITY, translation } from '../geometry/mat4';
import { LayeredMap } from '../model/layered-map';
import { membersOf, SettingModel } from './setting-model';
import type { SetThing } from './set-thing';
import type { ThingKind } from './thing-kind';

const form = (id: string, heightM: number) => ({ id, name: id, heightM, acrossM: 2, triangles: 10, parts: [{ mesh: `${id}-wood`, material: 'bark' }, { mesh: `${id}-leaves`, material: 'green', in: ['leaf'] }, { mesh: `${id}-leaves`, material: 'gold', in: ['autumn'] }] }); // prettier-ignore
const material = (id: string) => ({ id, name: id, colour: [1, 1, 1] as [number, number, number], opacity: 1, texture: null });
const kind = (id: string): ThingKind => ({ id, name: id, group: 'trees', tags: [], states: ['leaf', 'autumn', 'bare'], forms: [form('young', 4), form('old', 12)], materials: ['bark', 'green', 'gold'].map(material) }); // prettier-ignore
const KINDS = new Map([kind('birch'), kind('oak')].map((one) => [one.id, one]));
const places = Array.from({ length: 400 }, (_, i) => [(i % 20) * 3, Math.floor(i / 20) * 3, 1]).flat();
const WOOD: SetThing = {
  name: 'Wood', layer: 'Planting', of: [{ kind: 'birch', share: 3 }, { kind: 'oak', share: 1 }], pattern: { kind: 'one' }, size: 1, spread: 0.2, seed: 4, members: places,
}; // prettier-ignore
const set = (thing: SetThing, id = 'w') => ({ id, thing, at: IDENTITY });

describe('what is set', () => {
  it('is of its kinds by their shares, of all forms, turned at random and as different in size as is said', () => {
    const members = membersOf(set(WOOD), KINDS);
    const oaks = members.filter((member) => member.kind.id === 'oak').length;
    // A quarter of 400, within four times the deviation of chance (binomial).
    expect(Math.abs(oaks - 100)).toBeLessThan(4 * Math.sqrt(400 * 0.25 * 0.75));
    expect(new Set(members.map((member) => member.form.id)).size).toBe(2);
    const sizes = members.map(({ transform: m }) => Math.hypot(m[0]!, m[1]!, m[2]!));
    expect(Math.min(...sizes)).toBeGreaterThanOrEqual(0.8);
    expect(Math.max(...sizes)).toBeLessThanOrEqual(1.2);
    expect(Math.max(...sizes) - Math.min(...sizes)).toBeGreaterThan(0.35);
    // Upright, whatever way they face.
    for (const { transform: m } of members) expect(m[10]! / Math.hypot(m[8]!, m[9]!, m[10]!)).toBeCloseTo(1, 9);
  });

  it('keeps each member as it is when others go, and goes with what it stands on', () => {
    const all = membersOf(set(WOOD), KINDS);
    const fewer = membersOf(set({ ...WOOD, members: places.slice(30) }), KINDS);
    expect(fewer).toEqual(all.slice(10));
    const moved = membersOf({ thing: WOOD, at: translation(0, 0, 5) }, KINDS);
    expect(moved[7]!.position[2]).toBeCloseTo(6, 9);
  });

  it('stands square to the ground where that is asked for', () => {
    const slope = [0.6, 0, 0.8];
    const [member] = membersOf(set({ ...WOOD, members: [0, 0, 0], slopes: slope, alongSlope: true, spread: 0 }), KINDS);
    expect(member!.transform.slice(8, 11)).toEqual(slope.map((v) => expect.closeTo(v, 9) as number));
  });

  it('is a model of elements that shows one state of leaf, and changes by little when little changes', () => {
    const maker = new SettingModel();
    const one = maker.modelOf([set({ ...WOOD, state: 'autumn' }), set(WOOD, 'other')], KINDS)!;
    expect(one.elements.get('w/3')).toMatchObject({ class: 'Planting', layer: 'Planting' });
    expect(one.elements.get('w/3')!.parts.map((part) => part.material)).toEqual(['bark', 'gold']);
    expect(one.elements.get('other/3')!.parts.map((part) => part.material)).toEqual(['bark', 'green']);
    expect(new SettingModel().modelOf([set({ ...WOOD, state: 'bare' })], KINDS)!.elements.get('w/3')!.parts).toHaveLength(1);
    const first = new SettingModel();
    const many = [set(WOOD), ...Array.from({ length: 5 }, (_, i) => set({ ...WOOD, members: [i, 0, 0] }, `s${String(i)}`))];
    const before = first.modelOf(many, KINDS)!;
    const after = first.modelOf(many.map((each) => (each.id === 's2' ? set({ ...each.thing, size: 2 }, 's2') : each)), KINDS)!; // prettier-ignore
    expect(LayeredMap.differing(before.elements, after.elements)).toEqual(['s2/0']);
    expect(after.materials).toBe(before.materials);
    expect(first.modelOf([...many.slice(0, 1)], KINDS)!.elements.size).toBe(400);
    expect(first.modelOf([], KINDS)).toBeUndefined();
  });
});
