import { describe, expect, it } from 'vitest';
import { IDENTITY, rotationZ, translation } from '../geometry/mat4';
import type { PlacedLamp } from '../lamp/placed-lamp';
import { applyChange, EMPTY_MODEL } from '../model/model';
import type { Luminaire, ModelElement } from '../model/schema';
import { testChange, testElement } from '../model/testing';
import { compileScene, SceneCompiler } from '../scene/compile';
import * as v from 'valibot';
import { commandSchema, effectOf, type Command } from './command';
import { circuitKey, lampKey, lampTypeKey, litLevel, luminaireSchedule, typeOf } from './lighting';
import { applyChanges, type Entries } from './project';
import { leftBy } from './left';
import { placedLamps, settled } from './things';

const lamp = (id: string, circuit: string, dim = 1, extra: Partial<Luminaire> = {}): Luminaire => ({
  id, name: `Pendant ${id}`, circuit, element: null, position: [0, 0, 3], direction: [0, 0, -1], fluxLm: 1000, colourTemperatureK: 3000, beamDeg: 360, dim, ...extra,
}); // prettier-ignore
const LAMPS = [
  lamp('1', 'Hall'),
  lamp('2', 'Hall', 0.5),
  lamp('10', 'Café'),
  lamp('d1', 'Hall', 1, { name: 'Downlight 1', fluxLm: 600, colourTemperatureK: 4000 }),
];
const modelOf = (lamps: readonly Luminaire[]) => applyChange(EMPTY_MODEL, testChange({ luminaires: [...lamps] }));
const sources = [{ id: 's', model: modelOf(LAMPS) }];

function after(...commands: Command[]): Entries {
  let entries: Entries = new Map();
  for (const command of commands) {
    const effect = effectOf(entries, command, '2026-11-29T12:00:00Z');
    if ('refused' in effect) throw new Error(effect.refused);
    entries = applyChanges(entries, effect.changes);
  }
  return entries;
}
const dim = (key: string, level: number | null, modelLevels = {}): Command => ({
  type: 'dim-lamps',
  keys: [key],
  level,
  modelLevels,
  name: 'row',
});
const turn = (key: string, on: boolean): Command => ({ type: 'switch-lamps', keys: [key], on, name: 'row' });
const levels = (entries: Entries) => LAMPS.map((l) => Math.round(litLevel(entries, 's', l) * 1000) / 1000);

describe('levels', () => {
  it('of lamp, type and circuit multiply; where nothing is decided the model holds', () => {
    expect(levels(new Map())).toEqual([1, 0.5, 1, 1]);
    const entries = after(dim(circuitKey('Hall'), 0.5), dim(lampTypeKey('Pendant'), 0.4), dim(lampKey('s', '2'), 0.8));
    expect(levels(entries)).toEqual([0.2, 0.16, 0.4, 0.5]);
    expect(levels(applyChanges(entries, []))).toEqual([0.2, 0.16, 0.4, 0.5]);
  });

  it('are 0 where the lamp, its type or its circuit is off, and as before when it is on again', () => {
    const dimmed = dim(lampKey('s', '2'), 0.8);
    expect(levels(after(dimmed, turn(lampKey('s', '2'), false)))).toEqual([1, 0, 1, 1]);
    expect(levels(after(dimmed, turn(lampTypeKey('Pendant'), false)))).toEqual([0, 0, 0, 1]);
    expect(levels(after(dimmed, turn(circuitKey('Hall'), false)))).toEqual([0, 0, 1, 0]);
    expect(levels(after(dimmed, turn(circuitKey('Hall'), false), turn(circuitKey('Hall'), true)))).toEqual([1, 0.8, 1, 1]);
  });

  it('leave only those that are lit alone, whatever kind of row that is, but none that is off', () => {
    const alone = (...keys: string[]): Command => ({ type: 'light-alone', keys, name: 'rows' });
    expect(levels(after(alone(lampKey('s', '10'))))).toEqual([0, 0, 1, 0]);
    expect(levels(after(alone(circuitKey('Café'), lampTypeKey('Downlight'))))).toEqual([0, 0, 1, 1]);
    expect(levels(after(turn(lampKey('s', '10'), false), alone(lampKey('s', '10'))))).toEqual([0, 0, 0, 0]);
    expect(levels(after(alone(lampKey('s', '10')), alone()))).toEqual([1, 0.5, 1, 1]);
  });

  it('follow a lamp onto another circuit, and back', () => {
    const put = (circuit: string | null): Command => ({
      type: 'put-on-circuit',
      lamps: [{ source: 's', lamp: '1' }],
      circuit,
      name: 'Pendant 1',
    });
    const off = turn(circuitKey('Evening'), false);
    expect(levels(after(put('Evening'), off))).toEqual([0, 0.5, 1, 1]);
    expect(levels(after(put('Evening'), off, put(null)))).toEqual([1, 0.5, 1, 1]);
  });
});

describe('placed lamps', () => {
  const spot = (extra: object = {}): PlacedLamp => ({
    kind: 'lamp', name: 'Spot 1', circuit: 'Art', type: 'Spot', position: [1, 0, 3], direction: [0, 0, -1], turnDeg: 0,
    form: { kind: 'point', radiusM: 0.05 }, power: { unit: 'cd', value: 100 }, colour: { kelvin: 2700 }, ...extra,
  }); // prettier-ignore
  const place = (lamp: PlacedLamp | null): Command => ({ type: 'place-lamps', lamps: [{ id: 'a', lamp }], name: 'Spot' });

  it('stand in the schedule beside the model’s, are switched like them, and are taken away', () => {
    const entries = after(place(spot()));
    const row = luminaireSchedule(sources, entries).find((c) => c.name === 'Art')!;
    expect(row.fullLm).toBeCloseTo(400 * Math.PI, 6);
    expect(luminaireSchedule(sources, applyChanges(entries, [])).length).toBe(3);
    expect(compileScene(sources, entries).lamps.some(({ id }) => id === 'a')).toBe(true);
    const off = after(place(spot()), turn(circuitKey('Art'), false));
    expect(compileScene(sources, off).lamps.some(({ id }) => id === 'a')).toBe(false);
    expect(luminaireSchedule(sources, after(place(spot()), place(null))).map((c) => c.name)).toEqual(['Café', 'Hall']);
  });

  it('go with the element that they stand on, and stay where they were when it goes', () => {
    const entries = after(place(spot({ stands: { source: 's', element: 'shelf', transform: [...IDENTITY] } })));
    const compiler = new SceneCompiler();
    const withShelf = (elements: ModelElement[]) =>
      applyChange(modelOf(LAMPS), testChange({ reset: false, materials: [{ id: 'm', name: 'm', colour: [1, 1, 1] }], elements }));
    const at = (elements: ModelElement[], now: Entries = entries) =>
      compiler.compile([{ id: 's', model: withShelf(elements) }], now).lamps.find(({ id }) => id === 'a')?.position;
    expect(at([testElement('shelf')])).toEqual([1, 0, 3]);
    // Only the element has changed: a step, in which the lamp moves too.
    expect(at([testElement('shelf', { transform: [...translation(0, 2, 0)] })])).toEqual([1, 2, 3]);
    // It goes, after it had been moved; and comes back elsewhere.
    const moved = withShelf([testElement('shelf', { transform: [...translation(0, 2, 0)] })]);
    const gone = applyChanges(entries, leftBy(entries, 's', moved, withShelf([])));
    expect(at([], gone)).toEqual([1, 2, 3]);
    expect(placedLamps(gone, sources)[0]!.isLeft).toBe(true);
    const back = withShelf([testElement('shelf', { transform: [...translation(0, 5, 0)] })]);
    expect(applyChanges(gone, leftBy(gone, 's', withShelf([]), back))).toEqual(entries);
    expect(at([testElement('shelf')], new Map(entries).set('visibility', { decisions: { 'element/s/shelf': false }, isolated: [] }))).toBe(
      undefined,
    );
  });

  it('that stand on what has been turned are turned with it, and are settled where they are', () => {
    const quarter = rotationZ(Math.PI / 2);
    const entries = after(place(spot({ stands: { source: 's', element: 'shelf', transform: [...IDENTITY] } })));
    const model = applyChange(modelOf(LAMPS), testChange({ reset: false, materials: [{ id: 'm', name: 'm', colour: [1, 1, 1] }], elements: [testElement('shelf', { transform: [...quarter] })] })); // prettier-ignore
    const turnedSources = [{ id: 's', model }];
    const near = (a: readonly number[], b: readonly number[]) => { a.forEach((v, k) => { expect(v).toBeCloseTo(b[k]!, 9); }); }; // prettier-ignore
    const lamp = compileScene(turnedSources, entries).lamps.find(({ id }) => id === 'a')!;
    near(lamp.position, [0, 1, 3]);
    // It shines straight down; its plane C0 was along x.
    near(lamp.right, [0, 1, 0]);
    const now = settled(placedLamps(entries, turnedSources)[0]!);
    near(now.position, [0, 1, 3]);
    near(now.stands!.transform, quarter);
    near(compileScene(turnedSources, after(place(now))).lamps.find(({ id }) => id === 'a')!.right, [0, 1, 0]);
  });

  it('are refused with a photometric file that is not there, or with a field angle within the beam', () => {
    expect(effectOf(new Map(), place(spot({ form: { kind: 'measured', photometry: 'none' } })), '')).toEqual({
      refused: 'The photometric file of this lamp is not in the project.',
    });
    expect(v.safeParse(commandSchema, place(spot({ form: { kind: 'spot', radiusM: 0.1, beamDeg: 40, fieldDeg: 30 } }))).success).toBe(
      false,
    );
  });
});

describe('the luminaire schedule', () => {
  it('has circuits, in them types, in these lamps in the order of their numbers, with what they give', () => {
    const rows = luminaireSchedule(sources, after(turn(lampKey('s', '2'), false)));
    expect(rows.map((c) => [c.name, c.count, c.litLm, c.fullLm])).toEqual([['Café', 1, 1000, 1000], ['Hall', 3, 1600, 2600]]); // prettier-ignore
    expect(rows[1]!.types.map((t) => [t.name, t.lamps.map((l) => l.name), t.elsewhere])).toEqual([
      ['Downlight', ['Downlight 1'], 0],
      ['Pendant', ['Pendant 1', 'Pendant 2'], 1],
    ]);
  });

  it('tells what the model has now where that has changed since a level was set, and keeps the level', () => {
    const entries = after(dim(lampKey('s', '2'), 0.8, { [lampKey('s', '2')]: 0.5 }));
    const rowOf = (lamps: readonly Luminaire[]) => luminaireSchedule([{ id: 's', model: modelOf(lamps) }], entries)[0]!.types[0]!.lamps[0]!;
    expect(rowOf([LAMPS[1]!])).toMatchObject({ level: 0.8, isSet: true });
    expect(rowOf([LAMPS[1]!]).modelLevel).toBeUndefined();
    expect(rowOf([lamp('2', 'Hall', 0.1)])).toMatchObject({ level: 0.8, litLm: 800, modelLevel: 0.1 });
    // Gone from the model and back: what was set is still set.
    expect(rowOf([lamp('2', 'Kitchen', 0.5, { name: 'Pendant new' })])).toMatchObject({ level: 0.8 });
  });

  it('takes lamps for of one type by what the model says, or by their names without the number', () => {
    const names = ['Pendant c4', 'Downlight 12', 'Jetty light 3', 'Spot', 'Luminaire', 'L-03', '7'].map((name) =>
      typeOf(lamp('x', '', 1, { name })),
    );
    expect(names).toEqual(['Pendant', 'Downlight', 'Jetty light', 'Spot', 'Luminaire', 'L', '7']);
    expect(typeOf(lamp('x', '', 1, { type: 'P1' }))).toBe('P1');
  });

  it('calls a circuit as somebody has named it', () => {
    const entries = after(
      { type: 'name-circuit', circuit: 'Hall', name: 'Waiting hall' },
      dim(circuitKey('Hall'), 0.5),
      dim(circuitKey('Hall'), null),
    );
    expect(luminaireSchedule(sources, entries).map((c) => c.name)).toEqual(['Café', 'Waiting hall']);
  });

  it('refuses levels beyond 0 to 1 and what is no row', () => {
    for (const wrong of [dim(circuitKey('Hall'), 1.5), dim('finish/brick', 0.5), dim('circuit/', 0.5)])
      expect(v.safeParse(commandSchema, wrong).success).toBe(false);
  });
});
