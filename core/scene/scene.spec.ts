import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { applyChange, EMPTY_MODEL } from '../model/model';
import { changeSchema } from '../model/schema';
import type { Entries } from '../project/project';
import { FALLBACK_SITE, momentOf, skyInputOf } from './moment';
import { compileScene } from './scene';

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
    expect(scene.instances[1]).toMatchObject({ lens: true, emissionScale: 0.25 });
    expect(scene.lamps).toHaveLength(1);
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
