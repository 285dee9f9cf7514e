import type { InputSignal } from '@angular/core';
import { expect, it } from 'vitest';
import { give, onStage } from '../testing/station';
import { ColourRow } from './colour-row';
import { Sliders, type Parameter } from './sliders';

interface Parts {
  of: InputSignal<object>;
  shown(parameter: Parameter): number;
  change(parameter: Parameter, value: number): object;
}

const parameter: Parameter = { label: 'Roughness', field: 'roughness', min: 0, max: 1, step: 0.01, format: String };

it('sliders tell what changes as a part of the thing, turned to what is left to one where that is asked for', () => {
  const { part } = onStage<Parts>(Sliders);
  give(part.of, { roughness: 0.2, colour: [1, 1, 1] });
  expect([part.shown(parameter), part.change(parameter, 0.3)]).toEqual([0.2, { roughness: 0.3 }]);
  const glossiness = { ...parameter, turned: true };
  expect(part.shown(glossiness)).toBeCloseTo(0.8, 12);
  expect(part.change(glossiness, 0.75)).toEqual({ roughness: 0.25 });
});

it('a colour is taken as the control writes it, there and back', () => {
  const { part } = onStage<{ colour: InputSignal<readonly number[]>; hex(): string; rgb(hex: string): number[] }>(ColourRow);
  give(part.colour, [1, 128 / 255, 0]);
  expect(part.hex()).toBe('#ff8000');
  expect(part.rgb('#ff8000')).toEqual([1, 128 / 255, 0]);
});
