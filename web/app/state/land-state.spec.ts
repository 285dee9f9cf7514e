import { expect, it } from 'vitest';
import { onStage } from '../testing/station';
import { GroundPanel } from '../stations/ground-panel';
import type { LandState } from './land-state';

it('takes clicks for what is drawn until it is stopped, and takes the last place back', () => {
  const { part, picture } = onStage<{ state: LandState }>(GroundPanel);
  const { state } = part;
  state.draw('water');
  expect(state.isTaking()).toBe(true);
  const taker = picture.pointTaker$.value!;
  for (const x of [1, 2, 3]) taker({ point: [x, 0, 0.5] } as never);
  state.unclick();
  expect(state.clicked()).toEqual([[1, 0], [2, 0]]); // prettier-ignore
  state.stop();
  expect([state.isTaking(), state.clicked().length, picture.pointTaker$.value === taker]).toEqual([false, 0, false]);
});

it('says what a file of points lacks', async () => {
  const { part } = onStage<{ state: LandState }>(GroundPanel);
  await part.state.fromFile(new File(['x;y;z\nnothing'], 'survey.csv'));
  expect(part.state.said()).toBe('survey.csv has no points: a line each with x, y and z in metres.');
  await part.state.fromFile(new File(['0 0 1\n1 1 2\n2 2 3'], 'line.xyz'));
  expect(part.state.said()).toContain('too few points that span an area');
});
