import type { InputSignal } from '@angular/core';
import { expect, it } from 'vitest';
import { give, onStage } from '../testing/station';
import { Slider } from './slider';

interface Parts {
  value: InputSignal<number>;
  min: InputSignal<number>;
  max: InputSignal<number>;
  fill(): number;
}

it('a slider is filled up to where its value stands', () => {
  const { part } = onStage<Parts>(Slider);
  give(part.value, 0.25);
  expect(part.fill()).toBeCloseTo(25, 6);
  give(part.min, -180);
  give(part.max, 180);
  give(part.value, 90);
  expect(part.fill()).toBeCloseTo(75, 6);
});
