import { describe, expect, it } from 'vitest';
import type { Section } from '../../../core/project/sections';
import type { Pointed } from '../state/picture-state';
import { onStage } from '../testing/station';
import { SectionsCard } from './sections-card';

interface Parts {
  rows(): readonly { id: string; section: Section }[];
  level(): void;
  click(way: string): void;
  flip(id: string, section: Section): void;
  choose(id: string, section: Section, layer: string): void;
  slide(id: string, section: Section, offsetM: number): void;
  place(id: string, section: Section, offsetM: number): void;
  turn(id: string): void;
  drop(id: string): void;
  fill(name: string, event: Event): void;
  setEarth(): void;
  about(section: Section): string;
  layers(): readonly string[];
}
const pointed = (point: [number, number, number], normal?: [number, number, number]): Pointed =>
  ({ source: 's', element: 'e', material: 'm', elementName: '', materialName: '', finishName: '', point, normal, x: 0, y: 0 }); // prettier-ignore
const plane: Section = { name: 'A', cut: { kind: 'plane', normal: [0, 0, 1], offsetM: 2 } };

describe('sections', () => {
  it('are laid level, along a face or through two places, cut away what is nearer to the eye, and are shown at once', () => {
    const { part, live, picture } = onStage<Parts>(SectionsCard);
    picture.camera$.next({ position: [0, -20, 2], target: [0, 0, 2], focalMm: 30 });
    part.level();
    part.click('face');
    picture.pointTaker$.value!(pointed([0, 3, 1], [0, 1, 0]));
    part.click('upright');
    picture.pointTaker$.value!(pointed([-2, 5, 0]));
    picture.pointTaker$.value!(pointed([2, 5, 0]));
    part.click('box');
    picture.pointTaker$.value!(pointed([0, 0, 0]));
    picture.pointTaker$.value!(pointed([4, -6, 0.2]));
    const cuts = live.commands.map((command) => (command.type === 'keep-section' ? command.section.cut : undefined));
    // Without the signs of zeros.
    expect(JSON.parse(JSON.stringify(cuts))).toEqual([
      { kind: 'plane', normal: [0, 0, 1], offsetM: 1.1 },
      { kind: 'plane', normal: [0, -1, 0], offsetM: -3 },
      { kind: 'plane', normal: [0, -1, 0], offsetM: -5 },
      { kind: 'box', middle: [2, -3, expect.closeTo(1.45, 9)], sizeM: [4, 6, expect.closeTo(3.5, 9)], turnDeg: 0 },
    ]);
    expect(picture.sections$.value).toHaveLength(4);
    expect(picture.pointTaker$.value).toBeUndefined();
  });

  it('are slid before they are kept, turned over, cut only chosen layers, and are dropped from the picture too', () => {
    const { part, live, picture } = onStage<Parts>(SectionsCard);
    live.put('section/a', plane);
    part.turn('a');
    expect(picture.sections$.value).toEqual(['a']);
    part.slide('a', plane, 3.5);
    expect(live.commands).toEqual([]);
    part.place('a', plane, 3.5);
    part.flip('a', plane);
    expect(live.commands).toMatchObject([
      { section: { cut: { offsetM: 3.5 } } },
      { section: { cut: { normal: [-0, -0, -1], offsetM: -2 } } },
    ]);
    part.drop('a');
    expect([picture.sections$.value, live.commands.at(-1)]).toEqual([[], { type: 'drop-section', id: 'a' }]);
    expect([part.about(plane), part.about({ name: 'B', cut: { kind: 'box', middle: [0, 0, 0], sizeM: [1, 2, 3], turnDeg: 0 } })]).toEqual(['level, 2.00 m', 'box, 1.0 × 2.0 × 3.0 m']); // prettier-ignore
  });

  it('fill what they cut by class, and earth where that is wanted', () => {
    const { part, live } = onStage<Parts>(SectionsCard);
    part.fill('Wall', { target: { value: '#ff0000' } } as unknown as Event);
    part.setEarth();
    expect(live.commands).toMatchObject([{ type: 'fill-sections', fills: { classes: { Wall: '#ff0000' } } }, { type: 'fill-sections' }]);
    expect((live.commands[1] as { fills: { earth?: string } }).fills.earth).toBeUndefined();
  });
});
