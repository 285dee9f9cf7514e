import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { FINISHES } from '../finish/library';
import { applyChange, EMPTY_MODEL } from '../model/model';
import { changeSchema } from '../model/schema';
import type { Entries } from '../project/project';
import { FALLBACK_SITE, momentOf, skyInputOf } from './moment';
import { compileScene, joinSteps, SceneCompiler } from './compile';

const HASH = 'a'.repeat(64);
const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
const model = applyChange(
  EMPTY_MODEL,
  v.parse(changeSchema, {
    elements: [
      { id: 'wall', name: 'Wall', class: 'Wall', storey: '', layer: 'L', option: null, phase: null, transform: IDENTITY, parts: [{ mesh: HASH, material: 'timber' }] },
      { id: 'lamp', name: 'Lamp', class: 'LightFixture', storey: '', layer: 'Lights', option: null, phase: null, transform: IDENTITY, parts: [{ mesh: HASH, material: 'lens' }, { mesh: HASH, material: 'odd' }] },
    ],
    materials: [{ id: 'timber', name: 'Larch', colour: [0.5, 0.4, 0.3] }, { id: 'lens', name: 'Opal lens', colour: [1, 1, 1] }, { id: 'odd', name: 'Generic', colour: [0.1, 0.2, 0.3], opacity: 0.4 }],
    luminaires: [{ id: 'l', name: 'L', circuit: 'C', element: 'lamp', position: [0, 0, 2], direction: [0, 0, -1], fluxLm: 800, colourTemperatureK: 3000, beamDeg: 360, dim: 0.25 }],
    site: { name: 'Here', latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 4, trueNorthDeg: -12 },
    time: '2026-06-21T09:30',
  }),
); // prettier-ignore
const compile = (entries: Entries = new Map()) => compileScene([{ id: 's', model }], entries);

describe('compiling the scene', () => {
  it('gives guessed, assigned and single finishes, and the model’s own colour where nothing is known', () => {
    const [wall, , odd] = compile().instances;
    expect(wall!.finish.id).toBe('larch-boards');
    expect(odd!.finish).toMatchObject({ family: 'plain', baseColour: [0.1, 0.2, 0.3], opacity: 0.4 });
    const entries: Entries = new Map([['assign/s/timber', { finish: 'zinc', at: '2026' }], ['element/s/lamp', { finish: 'oak', at: '2026' }], ['element/s/gone', { finish: 'oak', at: '2026' }]]); // prettier-ignore
    expect(compile(entries).instances.map((i) => i.finish.id)).toEqual(['zinc', 'oak', 'oak']);
  });

  it('lights a lens with its lamp, which gives the light itself', () => {
    const scene = compile();
    expect(scene.instances[1]).toMatchObject({ lens: expect.any(Number) as number, emissionScale: 0.25 });
    expect(scene.lamps).toHaveLength(1);
    expect(scene.lamps[0]!.lens).toBe(scene.instances[1]!.lens);
    expect(scene.lamps[0]!.beam.intensityCd).toBeCloseTo(200 / (4 * Math.PI), 6);
  });

  it('leaves out what is hidden, its lamp too', () => {
    const hidden = applyChange(
      model,
      v.parse(changeSchema, { presentation: { hiddenLayers: ['Lights'], options: [], option: null, phases: [], phase: null } }),
    );
    const scene = compileScene([{ id: 's', model: hidden }], new Map());
    expect(scene.instances.map((i) => i.element)).toEqual(['wall']);
    expect(scene.lamps).toHaveLength(0);
  });
});

describe('the moment', () => {
  it('takes the site from the model unless one is chosen, and says which', () => {
    expect(momentOf([model], new Map())).toMatchObject({ siteOrigin: 'model', zone: 'Europe/London', followed: false });
    expect(momentOf([], new Map())).toMatchObject({ siteOrigin: 'assumed', site: FALLBACK_SITE });
    const chosen = new Map([
      ['site', { name: 'Tokyo', latitudeDeg: 35.68, longitudeDeg: 139.69, elevationM: 40, trueNorthDeg: 5, chosen: true }],
    ]);
    const moment = momentOf([model], chosen);
    expect(moment).toMatchObject({ siteOrigin: 'chosen', zone: 'Asia/Tokyo' });
    expect(skyInputOf(moment).trueNorthDeg).toBe(5);
  });

  it('follows the author’s time only when asked to', () => {
    expect(momentOf([model], new Map([['follow', { camera: false, time: true }]]))).toMatchObject({
      followed: true,
      sun: { date: '2026-06-21', minutes: 570 },
    });
  });
});

describe('one scene after the other', () => {
  const compiler = new SceneCompiler();
  const none: Entries = new Map();
  const parts = v.parse(changeSchema, {
    elements: Array.from({ length: 200 }, (_, i) => ({ id: `e${String(i)}`, name: '', class: 'Beam', storey: '', layer: 'L', option: null, phase: null, transform: IDENTITY, parts: [{ mesh: HASH, material: 'timber' }] })),
  }); // prettier-ignore
  const large = applyChange(model, parts);
  const edited = (from: typeof large, id: string, x: number) => {
    const element = from.elements.get(id)!;
    return applyChange(from, v.parse(changeSchema, { elements: [{ ...element, transform: [...IDENTITY.slice(0, 12), x, 0, 0, 1] }] }));
  };
  const compileOf = (m: typeof large) => compiler.compile([{ id: 's', model: m }], none);

  it('differs by a step where an element was edited, and is what compiling it whole gives', () => {
    const first = compileOf(large);
    expect(first.step).toBeUndefined();
    const once = edited(large, 'e7', 3);
    const second = compileOf(once);
    expect(second.step!.from).toBe(first.number);
    expect(second.step!.removed.map((i) => i.element)).toEqual(['e7']);
    expect(second.step!.removed[0]).toBe(first.instances.find((i) => i.element === 'e7'));
    expect(second.step!.added[0]!.transform[12]).toBe(3);
    const gone = applyChange(once, v.parse(changeSchema, { remove: { elements: ['e9'] } }));
    const third = compileOf(gone);
    expect(third.step).toMatchObject({ from: second.number, added: [] });
    expect(third.instances).toEqual(compileScene([{ id: 's', model: gone }], none).instances);
  });

  it('lays maps on an element as a person has laid them, whatever chance would do', () => {
    const laid = { turnDeg: 90, offsetM: [0.2, -0.1] };
    const scene = compileScene([{ id: 's', model: large }], new Map<string, unknown>([['laid/s/e7', laid], ['element/s/e7', { finish: 'oak', at: '' }], ['element/s/e8', { finish: 'oak', at: '' }]])); // prettier-ignore
    const of = (id: string) => scene.instances.find((i) => i.element === id)!.variation!;
    expect(of('e7')).toMatchObject({ uM: 0.2, vM: -0.1, turnRad: Math.PI / 2 });
    // Colour still differs from element to element.
    expect(of('e7').brightness).not.toBe(of('e8').brightness);
    expect(compileScene([{ id: 's', model: large }], new Map([['laid/s/e7', laid]])).instances.find((i) => i.element === 'e7')!.variation).toMatchObject({ turnRad: Math.PI / 2 }); // prettier-ignore
  });

  it('is whole again where materials, lamps or decisions differ', () => {
    const once = edited(large, 'e7', 3);
    compileOf(large);
    expect(compiler.compile([{ id: 's', model: once }], new Map([['element/s/e7', { finish: 'oak', at: '' }]])).step).toBeUndefined();
    compileOf(once);
    expect(compileOf(edited(once, 'lamp', 1)).step).toBeUndefined();
    expect(compileOf(applyChange(once, v.parse(changeSchema, { materials: [{ id: 'timber', name: 'Oak', colour: [1, 1, 1] }] }))).step).toBeUndefined(); // prettier-ignore
  });

  it('differs by a step where source materials have something else, and is what compiling it whole gives', () => {
    const sources = [{ id: 's', model: large }];
    const assigned = (timber?: string, odd?: string, more: readonly [string, unknown][] = []): Entries =>
      new Map<string, unknown>([
        ...more,
        ...(timber ? [['assign/s/timber', { finish: timber, at: '' }] as const] : []),
        ...(odd ? [['assign/s/odd', { finish: odd, at: '' }] as const] : []),
      ]);
    const own: [string, unknown][] = [['element/s/e5', { finish: 'oak', at: '' }]];
    let before = compiler.compile(sources, assigned(undefined, undefined, own));
    const drawn = new Set(before.instances);
    for (const entries of [assigned('zinc', undefined, own), assigned('zinc', 'larch', own), assigned(undefined, 'zinc', own), assigned('larch', undefined, own)]) {
      const scene = compiler.compile(sources, entries);
      expect(scene.step!.from).toBe(before.number);
      expect(scene.step!.removed.every((instance) => drawn.delete(instance))).toBe(true);
      for (const instance of scene.step!.added) drawn.add(instance);
      expect(scene.step!.added.some(({ element }) => element === 'e5')).toBe(false);
      expect(drawn).toEqual(new Set(scene.instances));
      expect([...scene.instances]).toEqual(compileScene(sources, entries).instances);
      before = scene;
    }
    // An earlier scene that is asked for its instances late does not come between.
    const [early, late] = [compiler.compile(sources, assigned('zinc')), compiler.compile(sources, assigned('oak'))];
    const shown = new Set(late.instances);
    expect(early.instances.some(({ finish }) => finish.id === 'zinc')).toBe(true);
    expect(compiler.compile(sources, assigned('larch')).step!.removed.every((instance) => shown.has(instance))).toBe(true);
    // A finish that was edited may be assigned by single elements too.
    expect(compiler.compile(sources, assigned('larch', undefined, [...own, ['finish/mine', { ...FINISHES[0]!, id: 'mine' }]])).step).toBeUndefined();
  }); // prettier-ignore

  it('differs by a step where parts are shown or hidden, lamps with what carries them, and is what compiling it whole gives', () => {
    const sources = [{ id: 's', model: large }];
    const seen = (decisions: Record<string, boolean>, more: readonly [string, unknown][] = []): Entries =>
      new Map<string, unknown>([['visibility', { decisions, isolated: [] }], ...more]);
    let before = compiler.compile(sources, seen({}));
    const drawn = new Set(before.instances);
    const beams = new Set(before.instances.filter(({ element }) => element !== 'lamp'));
    for (const entries of [
      seen({ 'class/s/Beam': false }),
      seen({}),
      seen({ 'element/s/e7': false }),
      seen({ 'element/s/lamp': false }),
      seen({}),
    ]) {
      const scene = compiler.compile(sources, entries);
      expect(scene.step!.from).toBe(before.number);
      expect(scene.step!.removed.every((instance) => drawn.delete(instance))).toBe(true);
      for (const instance of scene.step!.added) drawn.add(instance);
      expect(drawn).toEqual(new Set(scene.instances));
      const whole = compileScene(sources, entries);
      expect([...scene.instances]).toEqual(whole.instances);
      expect(scene.lamps).toEqual(whole.lamps);
      before = scene;
    }
    // What is shown again are the same objects, so that nothing has to be placed that is known.
    expect([...beams].every((instance) => drawn.has(instance))).toBe(true);
    expect(compiler.compile(sources, seen({ 'class/s/Beam': false }, [['element/s/e7', { finish: 'oak', at: '' }]])).step).toBeUndefined();
  });

  it('joins two steps into one', () => {
    compileOf(large);
    const once = edited(large, 'e7', 3);
    const second = compileOf(once);
    const third = compileOf(edited(edited(once, 'e7', 5), 'e8', 1));
    const joined = joinSteps(second.step!, third.step!);
    expect(joined.from).toBe(second.step!.from);
    expect(joined.removed.map((i) => i.element)).toEqual(['e7', 'e8']);
    expect(joined.added.map((i) => [i.element, i.transform[12]])).toEqual([['e7', 5], ['e8', 1]]); // prettier-ignore
  });
});
