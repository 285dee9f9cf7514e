import { PlacedArea } from '../geometry/placed-area';
import * as v from 'valibot';
import { IDENTITY } from '../geometry/mat4';
import { changeSchema, type ModelChange, type ModelChangeInput, type ModelElement } from './schema';

/** What tests of the model and of everything that carries it share. */

/** An element of no parts in place, with whatever a test wants otherwise. */
export function testElement(id: string, extra: Partial<ModelElement> = {}): ModelElement {
  return {
    id, name: id, class: 'Wall', storey: '', layer: 'L', option: null, phase: null, transform: [...IDENTITY], parts: [], ...extra,
  }; // prettier-ignore
}

/** A change as the link would have checked it. */
export function testChange(change: ModelChangeInput): ModelChange {
  return v.parse(changeSchema, change);
}

/** A triangle so large, m2. */
export function testSurface(areaM2: number): PlacedArea {
  return new PlacedArea({ positions: new Float32Array([0, 0, 0, 2 * areaM2, 0, 0, 0, 1, 0]), indices: new Uint32Array([0, 1, 2]) });
}
