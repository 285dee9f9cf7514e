import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange, testElement, testSurface } from '../../../core/model/testing';
import { onStage, type Stage } from './station';
import type { Type } from '@angular/core';

const [LARGE, SMALL] = ['a'.repeat(64), 'b'.repeat(64)];

/** Two walls in plaster, a deck of oak, and a material whose name says nothing. */
const model = applyChange(
  EMPTY_MODEL,
  testChange({
    materials: [
      { id: 'deck', name: 'Bodenbelag Eiche', colour: [0.6, 0.5, 0.4] },
      { id: 'wall', name: 'Putz', colour: [1, 1, 1] },
      { id: 'odd', name: 'M-0417', colour: [0, 0.2, 1] },
    ],
    elements: [
      testElement('w1', { parts: [{ mesh: LARGE, material: 'wall' }] }),
      testElement('w2', { parts: [{ mesh: LARGE, material: 'wall' }] }),
      testElement('d', {
        parts: [
          { mesh: SMALL, material: 'deck' },
          { mesh: SMALL, material: 'odd' },
        ],
      }),
    ],
  }),
);

/** A part of the sheet over that model, linked as source `s`. */
export function overSmallModel<Parts>(component: Type<unknown>): Stage<Parts> {
  const stage = onStage<Parts>(component, (live) => {
    live.models$.next(new Map([['s', model]]));
  });
  stage.areas.areas$.next(new Map([[LARGE, testSurface(40)], [SMALL, testSurface(12)]])); // prettier-ignore
  return stage;
}
