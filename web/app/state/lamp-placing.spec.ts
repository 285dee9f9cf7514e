import { describe, expect, it } from 'vitest';
import { IDENTITY, translation } from '../../../core/geometry/mat4';
import type { PlacedLamp } from '../../../core/lamp/placed-lamp';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange, testElement } from '../../../core/model/testing';
import type { Command } from '../../../core/project/command';
import { onStage } from '../testing/station';
import { LampPlacing, type Placing } from './lamp-placing';
import type { Pointed } from './picture-state';

const SPOT: Placing = {
  form: { kind: 'spot', radiusM: 0.03, beamDeg: 24, fieldDeg: 42 },
  name: 'Spot',
  pattern: 'one',
  columns: 4,
  rows: 2,
  hangsM: 0,
};
const material = { id: 'm', name: 'm', colour: [1, 1, 1] as [number, number, number] };

function stage() {
  const made = onStage<LampPlacing>(LampPlacing, (live) => {
    const element = testElement('ceiling', { transform: [...translation(0, 0, 3)] });
    live.models$.next(new Map([['s', applyChange(EMPTY_MODEL, testChange({ materials: [material], elements: [element] }))]]));
  });
  made.picture.camera$.next({ position: [0, 0, 1.6], target: [5, 0, 1.6], focalMm: 30 });
  const click = (x: number, y: number, z: number) => {
    made.picture.pointTaker$.value!({ source: 's', element: 'ceiling', point: [x, y, z], plane: [0, 0, 1, 0] } as unknown as Pointed);
  };
  const placed = () => (made.live.commands.at(-1) as Extract<Command, { type: 'place-lamps' }>).lamps;
  return { ...made, click, placed };
}

describe('placing lamps', () => {
  it('puts one on the surface that is clicked, shining away from it on the side that is seen, and goes on', () => {
    const { part, click, placed, live } = stage();
    part.begin(SPOT);
    click(4, 1, 3);
    expect(placed()[0]!.lamp).toMatchObject({
      name: 'Spot',
      direction: [-0, -0, -1],
      stands: { source: 's', element: 'ceiling', transform: translation(0, 0, 3) },
    });
    expect(placed()[0]!.lamp!.position[2]).toBeCloseTo(2.98, 9);
    click(5, 1, 3);
    expect(live.commands).toHaveLength(2);
  });

  it('hangs a row between two clicks, evenly, half a spacing from its ends, as one step', () => {
    const { part, click, placed, live } = stage();
    part.begin({ ...SPOT, pattern: 'row', hangsM: 0.5 });
    click(0, 0, 3);
    expect(live.commands).toEqual([]);
    click(8, 0, 3);
    expect(placed().map(({ lamp }) => lamp!.position)).toEqual([[1, 0, 2.5], [3, 0, 2.5], [5, 0, 2.5], [7, 0, 2.5]]); // prettier-ignore
    expect(placed().map(({ lamp }) => lamp!.name)).toEqual(['Spot 1', 'Spot 2', 'Spot 3', 'Spot 4']);
  });

  it('lays a grid over three clicks', () => {
    const { part, click, placed } = stage();
    part.begin({ ...SPOT, pattern: 'grid', columns: 2, rows: 2, hangsM: 1 });
    click(0, 0, 3);
    click(4, 0, 3);
    click(4, 2, 3);
    expect(placed().map(({ lamp }) => lamp!.position)).toEqual([[1, 0.5, 2], [3, 0.5, 2], [1, 1.5, 2], [3, 1.5, 2]]); // prettier-ignore
  });

  it('aims a lamp at what is clicked, moves it there, and then lets the picture be', () => {
    const { part, click, placed, picture } = stage();
    const lamp: PlacedLamp = {
      kind: 'lamp', name: 'L', circuit: 'c', type: 't', position: [0, 0, 2], direction: [0, 0, -1], turnDeg: 0, form: SPOT.form,
      power: { unit: 'lm', value: 500 }, colour: { kelvin: 3000 }, stands: { source: 's', element: 'ceiling', transform: [...IDENTITY] },
    }; // prettier-ignore
    part.act('l', 'aim', lamp);
    click(3, 0, 2);
    expect(placed()).toEqual([{ id: 'l', lamp: { ...lamp, direction: [1, 0, 0] } }]);
    expect(picture.pointTaker$.value).toBeUndefined();
    part.act('l', 'move', lamp);
    click(6, 0, 3);
    expect(placed()[0]!.lamp!.position[0]).toBe(6);
    expect(placed()[0]!.lamp!.stands!.transform).toEqual(translation(0, 0, 3));
  });

  it('ends when it is told to', () => {
    const { part, picture } = stage();
    part.begin(SPOT);
    part.end();
    expect(picture.pointTaker$.value).toBeUndefined();
  });
});
