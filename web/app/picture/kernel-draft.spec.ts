import { expect, it } from 'vitest';
import { KernelDraft } from './kernel-draft';
import type { RefineView, ToRefiner } from './refine-messages';

const view = (number: number) => ({ number }) as RefineView;

it('makes one picture at a time, and of what was asked for meanwhile only the last', () => {
  const told: number[] = [];
  const draft = new KernelDraft((message) => told.push((message as Extract<ToRefiner, { type: 'moving' }>).view.number));
  draft.ask(view(1));
  draft.ask(view(2));
  draft.ask(view(3));
  expect([told, draft.isDone]).toEqual([[1], false]);
  draft.came();
  expect([told, draft.isDone]).toEqual([[1, 3], false]);
  draft.came();
  expect(draft.isDone).toBe(true);
  draft.ask(view(4));
  expect(told).toEqual([1, 3, 4]);
});
