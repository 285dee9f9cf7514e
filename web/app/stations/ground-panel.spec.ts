import { expect, it } from 'vitest';
import type { GroundChoice } from '../../../core/project/project';
import { onStage } from '../testing/station';
import { GroundPanel } from './ground-panel';

it('lays a plain ground where the model has none, unless something else is said', () => {
  const { part, live } = onStage<{ ground(): GroundChoice; lay(ground: GroundChoice): void }>(GroundPanel);
  expect(part.ground()).toBe('auto');
  part.lay('never');
  expect(live.commands).toEqual([{ type: 'lay-ground', ground: 'never' }]);
  live.put('ground', 'always');
  expect(part.ground()).toBe('always');
});
