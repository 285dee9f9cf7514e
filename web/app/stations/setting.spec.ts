import { expect, it } from 'vitest';
import type { GroundChoice } from '../../../core/project/project';
import { onStage } from '../testing/station';
import { SettingStation } from './setting';

it('lays a plain ground where the model has none, unless something else is said', () => {
  const { part, live } = onStage<{ ground(): GroundChoice; lay(ground: GroundChoice): void }>(SettingStation);
  expect(part.ground()).toBe('auto');
  part.lay('never');
  expect(live.commands).toEqual([{ type: 'lay-ground', ground: 'never' }]);
  live.put('ground', 'always');
  expect(part.ground()).toBe('always');
});
