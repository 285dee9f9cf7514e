import { afterEach, describe, expect, it, vi } from 'vitest';
import type { ElementProperties } from '../../../core/formats/ifc-properties';
import type { SourceSummary } from '../../../core/project/live';
import type { TreeGroup } from '../../../core/project/model-tree';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange, testElement } from '../../../core/model/testing';
import { onStage, typed, type Stage } from '../testing/station';
import { Elements } from './elements';

interface Parts {
  trees: () => { groups: TreeGroup[] }[];
  shownCount: () => number;
  elementCount: () => number;
  variants: () => { option: string | null; authorOption: string }[];
  kept: () => { id: string; name: string }[];
  isChanged: () => boolean;
  picked: () => { source: string; id: string; name: string; facts: [string, string][] } | undefined;
  properties: () => ElementProperties | undefined;
  hidePicked(picked: { source: string; id: string; name: string; facts: [string, string][] }): void;
  search: { set(text: string): void };
  isOn(group: TreeGroup): boolean;
  countOf(group: TreeGroup): string;
  show(key: string, name: string, shown: boolean): void;
  showElement(group: TreeGroup, element: TreeGroup['elements'][number]): void;
  isolate(group: TreeGroup): void;
  chooseVariant(source: string, option: string | null, phase: string | null): void;
  keep(event: Event, input: HTMLInputElement): void;
}

let stage: Stage<Parts>;
const set = () =>
  onStage<Parts>(Elements, (live) => {
    const model = applyChange(
      EMPTY_MODEL,
      testChange({
        elements: [testElement('a', { layer: 'Walls' }), testElement('b', { layer: 'Walls' }), testElement('n', { layer: 'Grid' })],
        presentation: { hiddenLayers: [], options: [{ id: 'o', name: 'Folded' }], option: 'o', phases: [], phase: null },
      }),
    );
    live.models$.next(new Map([['s', model]]));
  });

afterEach(() => {
  stage.leave();
});

describe('the elements of a project', () => {
  it('are listed by layer, with what is shown of them', () => {
    stage = set();
    const { part } = stage;
    const [grid, walls] = part.trees()[0]!.groups;
    expect([grid!.name, part.isOn(grid!), part.countOf(grid!)]).toEqual(['Grid', false, '1']);
    expect([walls!.name, part.isOn(walls!), part.countOf(walls!)]).toEqual(['Walls', true, '2']);
    expect([part.shownCount(), part.elementCount()]).toEqual([2, 3]);
    part.search.set('grid');
    expect(part.elementCount()).toBe(1);
    expect(part.variants()[0]).toMatchObject({ option: null, authorOption: 'Folded' });
  });

  it('are shown, hidden and isolated by commands', () => {
    stage = set();
    const { part, live } = stage;
    const walls = part.trees()[0]!.groups[1]!;
    part.show(walls.key, walls.name, false);
    part.showElement(walls, walls.elements[0]!);
    part.isolate(walls);
    part.chooseVariant('s', 'o', null);
    expect(live.commands).toEqual([
      { type: 'show', keys: ['layer/s/Walls'], shown: false, name: 'Walls' },
      { type: 'show', keys: ['element/s/a'], shown: false, name: 'a' },
      { type: 'isolate', keys: ['layer/s/Walls'], name: 'Walls' },
      { type: 'choose-variant', source: 's', option: 'o', phase: null },
    ]);
    live.put('visibility', { decisions: { 'element/s/a': false }, isolated: ['layer/s/Walls'] });
    expect(part.countOf(part.trees()[0]!.groups[1]!)).toBe('1 of 2');
    expect(part.isChanged()).toBe(true);
    part.isolate(part.trees()[0]!.groups[1]!);
    expect(live.commands.at(-1)).toEqual({ type: 'isolate', keys: [], name: 'all' });
  });

  it('are told about when one is picked in the picture, with what their file says of them', async () => {
    stage = set();
    const { part, live, picture } = stage;
    live.sources$.next([{ id: 's', name: 'House', hasProperties: true } as SourceSummary]);
    const asked: string[] = [];
    vi.stubGlobal('fetch', (url: string) => {
      asked.push(url);
      return Promise.resolve(new Response(JSON.stringify({ groups: [{ name: 'Set', rows: [['A', '1']] }], classifications: [] })));
    });
    const pointed = { source: 's', element: 'a', material: 'm', elementName: 'a', materialName: 'm', finishName: 'f', point: [0, 0, 0] as const, x: 0, y: 0 }; // prettier-ignore
    picture.pointTaker$.value!(pointed);
    await vi.waitFor(() => { expect(part.properties()?.groups[0]!.name).toBe('Set'); }); // prettier-ignore
    expect(asked).toEqual(['/api/sources/s/properties?element=a']);
    expect(part.picked()).toMatchObject({ name: 'a', facts: [['Source', 'House'], ['Class', 'Wall'], ['Layer', 'Walls'], ['Id', 'a']] }); // prettier-ignore
    vi.unstubAllGlobals();
    part.hidePicked(part.picked()!);
    expect(live.commands.at(-1)).toMatchObject({ type: 'show', keys: ['element/s/a'], shown: false });
    expect(part.picked()).toBeUndefined();
  });

  it('are kept as a set under a name', () => {
    stage = set();
    const { part, live } = stage;
    const input = { value: ' Structure ' } as HTMLInputElement;
    part.keep(typed(''), input);
    expect(live.commands[0]).toMatchObject({ type: 'keep-shown', name: 'Structure' });
    expect(input.value).toBe('');
    live.put('shown/k', { decisions: {}, isolated: [], name: 'Structure' });
    expect(part.kept()).toEqual([{ id: 'k', name: 'Structure' }]);
  });
});
