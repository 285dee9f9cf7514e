import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { randomInteger } from '../random';
import { applyChange, EMPTY_MODEL, findDangling } from './model';
import { firstComplaint, fromAuthorSchema } from './protocol';
import { changeSchema } from './schema';
import { testElement } from './testing';

/** What the link lets through, field by field. A complaint names the field, so that a plug-in's author finds it. */

const HASH = 'a'.repeat(64);
const luminaire = {
  id: 'l', name: 'L', circuit: 'C', position: [0, 0, 3], direction: [0, 0, -1], fluxLm: 800, colourTemperatureK: 3000, beamDeg: 60, dim: 1,
}; // prettier-ignore
const camera = { position: [0, 0, 1.6], target: [5, 0, 1.6], focalMm: 35 };
const site = { name: 'Here', latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 4, trueNorthDeg: -12 };
const material = { id: 'm', name: 'M', colour: [0.5, 0.5, 0.5] };
const presentation = { hiddenLayers: [], options: [], option: null, phases: [], phase: null };

/** Field of the first complaint about a change, or undefined when it is sound. */
function complaint(change: object): string | undefined {
  const result = v.safeParse(changeSchema, change);
  return result.success ? undefined : firstComplaint(result.issues).field;
}

describe('a change', () => {
  it('may hold nothing, or everything', () => {
    expect(complaint({})).toBeUndefined();
    expect(
      complaint({
        reset: true,
        elements: [testElement('e', { parts: [{ mesh: HASH, material: 'm' }], option: 'a', phase: 'p' })],
        materials: [{ ...material, opacity: 0.4, texture: { image: HASH, widthM: 2, heightM: 1 } }],
        luminaires: [{ ...luminaire, element: 'e' }],
        cameras: [{ id: 'c', name: 'C', ...camera }],
        remove: { elements: ['x'], materials: [], luminaires: ['y'], cameras: [] },
        site,
        presentation,
        camera,
        time: '2026-10-16T17:48',
      }),
    ).toBeUndefined();
  });

  it('fills in what may be left out', () => {
    const change = v.parse(changeSchema, { materials: [material], luminaires: [luminaire] });
    expect(change).toMatchObject({ reset: false, elements: [], remove: { elements: [] } });
    expect(change.materials[0]).toMatchObject({ opacity: 1, texture: null });
    expect(change.luminaires[0]).toMatchObject({ element: null });
  });

  const refused: [string, object, string][] = [
    ['an unknown field', { elephants: [] }, 'elephants'],
    ['an element without an id', { elements: [{ ...testElement('e'), id: '' }] }, 'elements.0.id'],
    ['an id longer than 200', { elements: [testElement('e'.repeat(201))] }, 'elements.0.id'],
    ['a name longer than 20,000', { elements: [testElement('e', { name: 'x'.repeat(20_001) })] }, 'elements.0.name'],
    [
      'a transform of fifteen numbers',
      { elements: [testElement('e', { transform: new Array<number>(15).fill(0) })] },
      'elements.0.transform',
    ],
    ['a number that is none', { elements: [testElement('e', { transform: new Array<number>(16).fill(NaN) })] }, 'elements.0.transform.0'],
    ['an infinite one', { luminaires: [{ ...luminaire, position: [0, Infinity, 0] }] }, 'luminaires.0.position.1'],
    [
      'a mesh that is no hash',
      { elements: [testElement('e', { parts: [{ mesh: HASH.toUpperCase(), material: 'm' }] })] },
      'elements.0.parts.0.mesh',
    ],
    ['a text for an array', { elements: 'all' }, 'elements'],
    ['a colour beyond white', { materials: [{ ...material, colour: [0, 0, 1.01] }] }, 'materials.0.colour.2'],
    ['a colour of two parts', { materials: [{ ...material, colour: [0, 0] }] }, 'materials.0.colour.2'],
    ['a negative opacity', { materials: [{ ...material, opacity: -0.1 }] }, 'materials.0.opacity'],
    [
      'a texture without size',
      { materials: [{ ...material, texture: { image: HASH, widthM: 0, heightM: 1 } }] },
      'materials.0.texture.widthM',
    ],
    ['a negative flux', { luminaires: [{ ...luminaire, fluxLm: -1 }] }, 'luminaires.0.fluxLm'],
    ['a lamp of 500 K', { luminaires: [{ ...luminaire, colourTemperatureK: 500 }] }, 'luminaires.0.colourTemperatureK'],
    ['a beam of 400 degrees', { luminaires: [{ ...luminaire, beamDeg: 400 }] }, 'luminaires.0.beamDeg'],
    ['a level above one', { luminaires: [{ ...luminaire, dim: 1.5 }] }, 'luminaires.0.dim'],
    ['a lens of 1 mm', { camera: { ...camera, focalMm: 1 } }, 'camera.focalMm'],
    ['a latitude beyond the pole', { site: { ...site, latitudeDeg: 91 } }, 'site.latitudeDeg'],
    ['a longitude beyond the date line', { site: { ...site, longitudeDeg: -181 } }, 'site.longitudeDeg'],
    ['a time with a zone', { time: '2026-10-16T17:48Z' }, 'time'],
    ['something to remove that has no name', { remove: { elements: [''] } }, 'remove.elements.0'],
    ['a presentation without its phases', { presentation: { hiddenLayers: [], options: [], option: null } }, 'presentation.phases'],
  ];
  it.each(refused)('is refused for %s', (_, change, field) => {
    expect(complaint(change)).toBe(field);
  });
});

describe('a message of an author', () => {
  const field = (message: unknown): string | undefined => {
    const result = v.safeParse(fromAuthorSchema, message);
    return result.success ? undefined : firstComplaint(result.issues).field;
  };
  const hello = { type: 'hello', protocol: 1, token: 't', source: { id: 'a.b-c_1', name: 'N', tool: 'T' } };

  it('is one of four, each with its fields', () => {
    expect(field(hello)).toBeUndefined();
    expect(field({ ...hello, resume: 12 })).toBeUndefined();
    expect(field({ type: 'offer', blobs: [HASH] })).toBeUndefined();
    expect(field({ type: 'bye' })).toBeUndefined();
    expect(field({ type: 'shout' })).toBe('type');
    expect(field({})).toBe('type');
    expect(field({ ...hello, protocol: 1.5 })).toBe('protocol');
    expect(field({ ...hello, source: { ...hello.source, id: '../etc' } })).toBe('source.id');
    expect(field({ ...hello, resume: -1 })).toBe('resume');
    expect(field({ type: 'offer', blobs: ['x'] })).toBe('blobs.0');
    expect(field({ type: 'change', sequence: 1.5, change: {} })).toBe('sequence');
    expect(field({ type: 'change', sequence: 1 })).toBe('change');
  });
});

describe('messages changed at random', () => {
  const sound = {
    type: 'change',
    sequence: 1,
    last: true,
    change: {
      reset: true,
      elements: [testElement('a', { parts: [{ mesh: 'a'.repeat(64), material: 'm' }] }), testElement('b')],
      materials: [{ id: 'm', name: 'Oak', colour: [0.5, 0.4, 0.3], texture: { image: 'b'.repeat(64), widthM: 1, heightM: 1 } }],
      luminaires: [{ id: 'l', name: 'L', circuit: 'C', element: 'a', position: [0, 0, 2], direction: [0, 0, -1], fluxLm: 800, colourTemperatureK: 3000, beamDeg: 360, dim: 1 }],
      cameras: [{ id: 'c', name: 'C', position: [0, 0, 1], target: [1, 0, 1], focalMm: 35 }],
      remove: { elements: ['z'], materials: [], luminaires: [], cameras: [] },
      site: { name: 'Here', latitudeDeg: 57, longitudeDeg: -4, elevationM: 4, trueNorthDeg: -12 },
      presentation: { hiddenLayers: ['L'], options: [{ id: 'o', name: 'O' }], option: 'o', phases: [], phase: null },
    },
  }; // prettier-ignore
  const ODD: unknown[] = [null, '', -1, Infinity, NaN, [], {}, 'x'.repeat(30_000), true, [[]], { length: 3 }, '__proto__', 2 ** 53];

  /** One value somewhere in a message replaced, dropped or doubled. */
  function changed(value: unknown, random: (below: number) => number): unknown {
    if (typeof value !== 'object' || value === null || random(6) === 0) return ODD[random(ODD.length)];
    const copy = (Array.isArray(value) ? [...(value as unknown[])] : { ...value }) as Record<string, unknown>;
    const keys = Object.keys(copy);
    const key = keys[random(keys.length)];
    if (key === undefined) return ODD[random(ODD.length)];
    const kind = random(8);
    if (kind === 0 && !Array.isArray(copy)) Reflect.deleteProperty(copy, key);
    else if (kind === 1) copy[`${key}2`] = copy[key];
    else copy[key] = changed(copy[key], random);
    return copy;
  }

  it('are taken or refused with the field that is wrong; what is taken can be applied', () => {
    const random = randomInteger(31);
    let [taken, refused] = [0, 0];
    for (let i = 0; i < 3000; i++) {
      let message: unknown = sound;
      for (let n = 0; n <= random(2); n++) message = changed(message, random);
      const result = v.safeParse(fromAuthorSchema, message);
      if (!result.success) {
        const { field, message: words } = firstComplaint(result.issues);
        expect(field.length + words.length).toBeGreaterThan(0);
        refused++;
      } else if (result.output.type === 'change') {
        findDangling(EMPTY_MODEL, result.output.change);
        applyChange(EMPTY_MODEL, result.output.change);
        taken++;
      }
    }
    // Both happen, so both are tried.
    expect(Math.min(taken, refused)).toBeGreaterThan(50);
  });
});
