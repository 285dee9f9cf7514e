import { describe, expect, it } from 'vitest';
import { translation } from '../geometry/mat4';
import { keepIds } from './identity';
import { applyChange, differenceOf, EMPTY_MODEL, type Model } from './model';
import { testChange, testElement } from './testing';

const hash = (letter: string) => letter.repeat(64);
const thing = (id: string, mesh: string, x = 0, name = id.split('/').at(-1)!.replace(/#.*/, '')) =>
  testElement(id, { name, transform: [...translation(x, 0, 0)], parts: [{ mesh: hash(mesh), material: 'm' }] });
const modelOf = (...elements: ReturnType<typeof thing>[]): Model =>
  applyChange(EMPTY_MODEL, testChange({ elements, materials: [{ id: 'm', name: 'm', colour: [1, 1, 1] }] }));
const changes = (before: Model, after: Model) => {
  const { elements, remove } = differenceOf(before, keepIds(before, after));
  return { changed: elements.map((e) => e.id), removed: remove.elements };
};

describe('a file without ids, exported again', () => {
  const before = modelOf(
    thing('/Hall/Chair', 'a', 0),
    thing('/Hall/Chair#2', 'a', 1),
    thing('/Hall/Chair#3', 'a', 2),
    thing('/Hall/Table', 'b'),
  );

  it('is the same when nothing has changed', () => {
    expect(keepIds(before, before)).toBe(before);
  });

  it('keeps the others when one of several of a name is taken out, or put in before them', () => {
    const without = modelOf(thing('/Hall/Chair', 'a', 1), thing('/Hall/Chair#2', 'a', 2), thing('/Hall/Table', 'b'));
    expect(changes(before, without)).toEqual({ changed: [], removed: ['/Hall/Chair'] });
    const more = modelOf(thing('/Hall/Chair', 'a', 9), thing('/Hall/Chair#2', 'a', 0), thing('/Hall/Chair#3', 'a', 1), thing('/Hall/Chair#4', 'a', 2), thing('/Hall/Table', 'b')); // prettier-ignore
    expect(changes(before, more)).toEqual({ changed: ['/Hall/Chair~2'], removed: [] });
  });

  it('knows what was edited by its path, and what was moved in the tree by its name and shape', () => {
    const edited = modelOf(thing('/Hall/Chair', 'a', 0), thing('/Hall/Chair#2', 'c', 1), thing('/Hall/Chair#3', 'a', 2), thing('/Café/Table', 'b')); // prettier-ignore
    expect(changes(before, edited)).toEqual({ changed: ['/Hall/Chair#2'], removed: [] });
    expect(keepIds(before, edited).elements.get('/Hall/Table')!.parts[0]!.mesh).toBe(hash('b'));
  });

  it('keeps lamps with their elements', () => {
    const lamp = { id: 'l', name: 'L', circuit: 'C', element: '/Café/Table', position: [0, 0, 1] as [number, number, number], direction: [0, 0, -1] as [number, number, number], fluxLm: 1, colourTemperatureK: 3000, beamDeg: 90, dim: 1 }; // prettier-ignore
    const fresh = { ...modelOf(thing('/Café/Table', 'b')), luminaires: new Map([['l', lamp]]) };
    expect(keepIds(before, fresh).luminaires.get('l')!.element).toBe('/Hall/Table');
  });
});
