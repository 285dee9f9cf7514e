import { describe, expect, it } from 'vitest';
import { applyChange, EMPTY_MODEL } from '../model/model';
import { testChange, testElement } from '../model/testing';
import { effectOf, type Command } from './command';
import { treeOf } from './model-tree';
import { applyChanges, type Entries } from './project';
import { groupKeyOf, shownElements } from './visibility';

const model = applyChange(
  EMPTY_MODEL,
  testChange({
    elements: [
      testElement('wall-1', { name: 'North wall', storey: 'Ground', layer: 'Walls' }),
      testElement('wall-2', { name: 'South wall', storey: 'First', layer: 'Walls' }),
      testElement('slab', { name: 'Slab', class: 'Slab', storey: 'Ground', layer: 'Slabs' }),
      testElement('hall', { name: 'Hall', class: 'Space', storey: 'Ground', layer: 'Rooms' }),
      testElement('note', { name: 'Note', class: 'Object', storey: 'Ground', layer: 'Dimensions' }),
      testElement('kerb', { name: 'Kerb', class: 'Object', storey: '', layer: 'Site' }),
      testElement('folded', { name: 'Folded roof', class: 'Roof', layer: 'Roof', option: 'fold' }),
      testElement('pitched', { name: 'Pitched roof', class: 'Roof', layer: 'Roof', option: 'pitch', phase: '2' }),
    ],
    presentation: {
      hiddenLayers: ['Site'],
      options: [{ id: 'fold', name: 'Folded' }, { id: 'pitch', name: 'Pitched' }],
      option: 'fold',
      phases: [{ id: '1', name: 'One' }, { id: '2', name: 'Two' }],
      phase: '2',
    },
  }),
); // prettier-ignore

const layer = (name: string) => groupKeyOf('layer', 's', name);
const storey = (name: string) => groupKeyOf('storey', 's', name);
const element = (id: string) => groupKeyOf('element', 's', id);
const hide = (...keys: string[]): Command => ({ type: 'show', keys, shown: false, name: 'it' });
const show = (...keys: string[]): Command => ({ type: 'show', keys, shown: true, name: 'it' });
const only = (...keys: string[]): Command => ({ type: 'isolate', keys, name: 'it' });

function after(...commands: Command[]): Entries {
  return commands.reduce<Entries>((entries, command) => {
    const effect = effectOf(entries, command, '');
    if ('refused' in effect) throw new Error(effect.refused);
    return applyChanges(entries, effect.changes);
  }, new Map());
}

const shownAfter = (...commands: Command[]) => {
  const shown = shownElements(after(...commands), 's', model);
  return [...model.elements.values()].filter(shown).map((e) => e.id);
};
const AT_FIRST = ['wall-1', 'wall-2', 'slab', 'folded'];

describe('what is shown', () => {
  it('leaves out at first what is never built, what is drawing, and what its author has off', () => {
    expect(shownAfter()).toEqual(AT_FIRST);
  });

  it('follows layers, storeys, classes, single elements and whole sources', () => {
    expect(shownAfter(hide(layer('Walls')))).toEqual(['slab', 'folded']);
    expect(shownAfter(hide(storey('Ground')))).toEqual(['wall-2', 'folded']);
    expect(shownAfter(hide(groupKeyOf('class', 's', 'Roof')))).toEqual(['wall-1', 'wall-2', 'slab']);
    expect(shownAfter(hide(element('slab')))).toEqual(['wall-1', 'wall-2', 'folded']);
    expect(shownAfter(hide(groupKeyOf('source', 's')))).toEqual([]);
    expect(shownAfter(hide(groupKeyOf('source', 'other')))).toEqual(AT_FIRST);
  });

  it('brings back what was hidden at first, and an element out of its hidden layer', () => {
    expect(shownAfter(show(layer('Site')))).toEqual(['wall-1', 'wall-2', 'slab', 'kerb', 'folded']);
    expect(shownAfter(show(groupKeyOf('class', 's', 'Space')))).toContain('hall');
    expect(shownAfter(hide(layer('Walls')), show(element('wall-2')))).toEqual(['wall-2', 'slab', 'folded']);
    expect(shownAfter(show(layer('Site')), { type: 'show', keys: [layer('Site')], shown: null, name: 'it' })).toEqual(AT_FIRST);
  });

  it('isolates groups and elements, hidden ones too, and gives all else back', () => {
    expect(shownAfter(only(storey('Ground')))).toEqual(['wall-1', 'slab']);
    expect(shownAfter(only(layer('Rooms'), groupKeyOf('class', 's', 'Space')))).toEqual(['hall']);
    expect(shownAfter(only(element('kerb'), layer('Slabs')))).toEqual(['slab', 'kerb']);
    expect(shownAfter(hide(element('slab')), only(storey('Ground')))).toEqual(['wall-1']);
    expect(shownAfter(only(storey('Ground')), only())).toEqual(AT_FIRST);
  });

  it('takes the option and the phase chosen here, or the author’s', () => {
    const choose = (option: string | null, phase: string | null): Command => ({ type: 'choose-variant', source: 's', option, phase });
    expect(shownAfter(choose('pitch', null))).toEqual(['wall-1', 'wall-2', 'slab', 'pitched']);
    expect(shownAfter(choose('pitch', '1'))).toEqual(['wall-1', 'wall-2', 'slab']);
    expect(shownAfter(choose('no longer there', null))).toEqual(AT_FIRST);
    expect(shownAfter(choose('pitch', '1'), choose(null, null))).toEqual(AT_FIRST);
  });

  it('is kept under a name and used again', () => {
    const commands = [hide(layer('Walls')), { type: 'keep-shown', id: 'k', name: 'No walls' } as Command, only(layer('Walls'))];
    expect(shownAfter(...commands)).toEqual(['wall-1', 'wall-2']);
    expect(shownAfter(...commands, { type: 'use-shown', id: 'k' })).toEqual(['slab', 'folded']);
    expect(shownAfter(...commands, { type: 'show-as-at-first' })).toEqual(AT_FIRST);
    expect(effectOf(after(...commands, { type: 'drop-shown', id: 'k' }), { type: 'use-shown', id: 'k' }, '')).toEqual({
      refused: 'This set is no longer kept.',
    });
  });
});

describe('the tree', () => {
  const rows = (...args: [Parameters<typeof treeOf>[2], Entries?, string?]) =>
    treeOf('s', model, args[0], args[1] ?? new Map(), args[2]).map((g) => `${g.name}: ${String(g.shown)} of ${String(g.elements.length)}`);

  it('counts what is there and what is shown, in natural order', () => {
    expect(rows('storey')).toEqual([': 1 of 3', 'First: 1 of 1', 'Ground: 2 of 4']);
    expect(rows('class')).toEqual(['Object: 0 of 2', 'Roof: 1 of 2', 'Slab: 1 of 1', 'Space: 0 of 1', 'Wall: 2 of 2']);
    expect(rows('layer', after(hide(layer('Walls'))))).toContain('Walls: 0 of 2');
  });

  it('says why a group is hidden at first', () => {
    const why = Object.fromEntries(treeOf('s', model, 'layer', new Map()).map((g) => [g.name, g.hiddenAtFirst]));
    expect(why).toMatchObject({ Site: 'off in its author’s file', Dimensions: 'drawing, not building', Walls: undefined });
  });

  it('finds groups and elements by a part of their name', () => {
    expect(rows('layer', undefined, 'south')).toEqual(['Walls: 1 of 1']);
    expect(rows('layer', undefined, 'WALL')).toEqual(['Walls: 2 of 2']);
    expect(rows('layer', undefined, 'nothing of the kind')).toEqual([]);
  });
});
