import { beforeEach, describe, expect, it } from 'vitest';
import { FAMILIES, type Finish } from '../../../core/finish/finish';
import type { SetThing } from '../../../core/setting/set-thing';
import type { ThingGroup, ThingKind } from '../../../core/setting/thing-kind';
import { NO_THINGS, onStage, type Stage } from '../testing/station';
import { PlantingSchedule } from '../stations/planting-schedule';
import type { SettingState, Setting } from './setting-state';

const kind = (id: string, group: ThingGroup): ThingKind => ({ id, name: id, group, tags: [], states: [], materials: [], forms: [{ id: 'one', name: '', heightM: 2, acrossM: 1, triangles: 1, parts: [{ mesh: `${id}-mesh`, material: 'm' }] }] }); // prettier-ignore
const [BIRCH, BENCH] = [kind('birch', 'trees'), kind('bench', 'street')];
const setting = (extra: Partial<Setting>): Setting => ({
  kind: BIRCH,
  pattern: 'one',
  spacingM: 2,
  perHundredM2: 10,
  leastM: 1,
  size: 1,
  spread: 0,
  ...extra,
});

let stage: Stage<{ state: SettingState }>;
let asked: { ignored: readonly string[]; headroomM?: number | undefined; from: number }[];
/** Ground to the left of x = 10 m, a quay to its right; nothing beyond 20 m. */
beforeEach(() => {
  NO_THINGS.useValue.kinds$.next(new Map([BIRCH, BENCH].map((each) => [each.id, each])));
  stage = onStage(PlantingSchedule);
  asked = [];
  stage.picture.surveys$.subscribe(({ places, ignored, headroomM, resolve }) => {
    asked.push({ ignored, headroomM, from: places[2]! });
    const count = places.length / 3;
    const at = (i: number) => places[i * 3]!;
    const family = (i: number): Finish['family'] => (at(i) < 10 ? 'ground' : 'paving');
    resolve({
      z: Float64Array.from({ length: count }, (_, i) => (at(i) > 20 ? NaN : at(i) / 10)),
      family: Uint8Array.from({ length: count }, (_, i) => FAMILIES.indexOf(family(i))),
      surface: new Int32Array(count),
    });
  });
});
const sets = () => stage.live.commands.flatMap((command) => (command.type === 'set-things' ? command.sets : []));
const thing = () => sets().at(-1)!.thing!;

describe('setting things', () => {
  it('grows a row on open ground alone, from above, looking through what is set already', async () => {
    const { state } = stage.part;
    state.choose(setting({ pattern: 'row' }));
    state.click([0, 0]);
    await state.finish();
    expect(sets()).toEqual([]);
    state.click([16, 0]);
    await state.finish();
    expect(thing()).toMatchObject({ layer: 'Planting', pattern: { kind: 'row', points: [[0, 0], [16, 0]], spacingM: 2 }, of: [{ kind: 'birch', share: 1 }] }); // prettier-ignore
    expect(thing().members).toEqual([0, 0, 0, 2, 0, 0.2, 4, 0, 0.4, 6, 0, 0.6, 8, 0, 0.8]);
    expect(asked[0]).toMatchObject({ ignored: ['birch-mesh', 'bench-mesh'], headroomM: undefined });
    expect(asked[0]!.from).toBeGreaterThan(1000);
  });

  it('stands benches on paving too, where there is room for who sits there; and says where nothing can be', async () => {
    const { state } = stage.part;
    state.choose(setting({ kind: BENCH, pattern: 'row', spacingM: 4 }));
    for (const x of [8, 16]) state.click([x, 0]);
    await state.finish();
    expect(thing()).toMatchObject({ layer: 'Entourage', members: [8, 0, 0.8, 12, 0, 1.2, 16, 0, 1.6], turnDeg: 0 });
    expect(asked[0]!.headroomM).toBeGreaterThan(1.5);
    state.choose(setting({ pattern: 'row' }));
    for (const x of [12, 18]) state.click([x, 0]);
    await state.finish();
    expect(state.said()).toMatch(/^Nothing can grow there/);
    expect(sets()).toHaveLength(1);
  });

  it('stands one thing exactly where it was clicked in the picture', async () => {
    const { state, } = stage.part; // prettier-ignore
    state.choose(setting({}));
    state.click([3, 4], { source: 's', element: 'e', point: [3, 4, 7.5] } as never);
    await Promise.resolve();
    expect(thing().members).toEqual([3, 4, 7.5]);
    expect(asked).toEqual([]);
  });

  it('drops what is changed from where it stands itself, not from where something else was clicked', async () => {
    const { state } = stage.part;
    const clicked = (x: number, z: number) => ({ source: 's', element: 'e', point: [x, 0, z] }) as never;
    state.choose(setting({ kind: BENCH, pattern: 'row', spacingM: 4 }));
    for (const x of [8, 16]) state.click([x, 0], clicked(x, 0.8));
    await state.finish();
    const { id, thing: row } = sets().at(-1)!;
    state.choose(setting({}));
    state.click([3, 4], clicked(3, 40));
    await Promise.resolve();
    await state.change(id, { ...row!, pattern: { ...row!.pattern, spacingM: 2 } as SetThing['pattern'] }, 'spaced', true);
    expect(asked.at(-1)!.from).toBeLessThan(5);
  });

  it('fills an area otherwise, brushes it and moves it, as one thing under one id', async () => {
    const { state } = stage.part;
    state.choose(setting({ pattern: 'area', perHundredM2: 30, leastM: 0.5 }));
    for (const place of [[-20, 0], [0, 0], [0, 20], [-20, 20]] as const) state.click(place); // prettier-ignore
    await state.finish();
    const { id, thing: first } = sets().at(-1)!;
    const full = first!.members.length / 3;
    expect(full).toBeGreaterThan(95);
    const keep = (after: SetThing) => { stage.live.put(`set/${id}`, after); }; // prettier-ignore
    keep(first!);
    await state.change(id, { ...first!, pattern: { ...first!.pattern, perHundredM2: 10 } as SetThing['pattern'] }, 'thinner', true);
    expect(thing().members.length / 3).toBeLessThan(full / 2);
    state.act(id, 'take');
    state.click([-10, 10]);
    await expect.poll(() => thing().pattern).toMatchObject({ strokes: [{ at: [-10, 10], radiusM: 2, adds: false }] });
    expect(thing().members.length / 3).toBeLessThan(full);
    state.act(id, 'move');
    state.click([-30, 10]);
    await Promise.resolve();
    await Promise.resolve();
    expect(thing().pattern).toMatchObject({ outline: [[-40, 0], [-20, 0], [-20, 20], [-40, 20]] }); // prettier-ignore
    expect(new Set(sets().map((set) => set.id))).toEqual(new Set([id]));
    state.remove(id, 'it');
    expect(sets().at(-1)).toEqual({ id, thing: null });
  });
});

const bench = (x: number, y: number): SetThing => ({
  name: 'bench', layer: 'Entourage', of: [{ kind: 'bench', share: 1 }], pattern: { kind: 'one' }, size: 1, spread: 0, seed: 1, members: [x, y, 9],
}); // prettier-ignore

describe('several things', () => {
  beforeEach(() => {
    for (const [id, x, y] of [['a', 0, 0], ['b', 3, 2], ['c', 12, 0]] as const) stage.live.put(`set/${id}`, bench(x, y)); // prettier-ignore
  });

  it('are chosen by a box, put at even distances, and dropped there, as one step', async () => {
    const { state } = stage.part;
    state.chooseBox([-1, -1], [20, 3]);
    expect([...state.chosen()]).toEqual(['a', 'b', 'c']);
    await state.arrange(true);
    expect(stage.live.commands).toHaveLength(1);
    expect(sets().map(({ thing: moved }) => moved!.members)).toEqual([[0, 0, 0], [6, 0, 0.6], [12, 0, 1.2]]); // prettier-ignore
  });

  it('are a group, so that one is chosen with all, and put on a layer together', () => {
    const { state } = stage.part;
    state.chooseAlso('a');
    state.chooseAlso('b');
    state.groupChosen(true);
    for (const { id, thing: grouped } of sets()) stage.live.put(`set/${id}`, grouped);
    state.chosen.set(new Set());
    state.chooseAlso('b');
    expect([...state.chosen()]).toEqual(['a', 'b']);
    state.layerChosen('Ferry');
    expect(sets().slice(-2).map(({ thing: layered }) => layered!.layer)).toEqual(['Ferry', 'Ferry']); // prettier-ignore
    state.removeChosen();
    expect(sets().slice(-2).map(({ id, thing: gone }) => [id, gone])).toEqual([['a', null], ['b', null]]); // prettier-ignore
  });
});

it('fills a whole surface, brushes a patch without an area, and stands along the slope', async () => {
  const { state } = stage.part;
  state.choose(setting({ pattern: 'surface', perHundredM2: 4, leastM: 3 }));
  state.click([0, 0]);
  await expect.poll(() => sets().length).toBe(1);
  expect(thing().pattern).toMatchObject({ kind: 'area', onSurfaceAt: [0, 0] });
  expect(thing().members.length).toBeGreaterThan(30);
  state.choose(setting({ pattern: 'patch', perHundredM2: 60, leastM: 0.5 }));
  await state.brushAlong([[-8, 0], [-6, 0], [-4, 0]]); // prettier-ignore
  const patch = thing();
  expect(patch.pattern).toMatchObject({ kind: 'area', outline: [] });
  for (let i = 0; i < patch.members.length; i += 3) expect(Math.abs(patch.members[i + 1]!)).toBeLessThanOrEqual(2);
  // The ground rises by one in ten to the right.
  await state.change('p', { ...patch, alongSlope: true }, 'along the slope', true);
  expect(thing().slopes!.slice(0, 3).map((c) => Math.round(c * 100) / 100 + 0)).toEqual([-0.1, 0, 1]); // prettier-ignore
});

it('keeps every stroke of a brush that is quicker than the ground is found', async () => {
  const { state } = stage.part;
  const run = stage.live.run.bind(stage.live);
  // As the page does, what is decided is seen at once.
  stage.live.run = (command) => {
    run(command);
    if (command.type === 'set-things') for (const { id, thing: set } of command.sets) stage.live.put(`set/${id}`, set);
  };
  state.choose(setting({ pattern: 'patch', perHundredM2: 60, leastM: 0.5 }));
  await state.brushAlong([[-8, 0]]); // prettier-ignore
  await Promise.all([state.brushAlong([[-4, 0]]), state.brushAlong([[0, 0]]), state.brushAlong([[4, 0]])]); // prettier-ignore
  expect(thing().pattern).toMatchObject({ strokes: [{ at: [-8, 0] }, { at: [-4, 0] }, { at: [0, 0] }, { at: [4, 0] }] });
});
