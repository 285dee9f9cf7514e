import { expect, it, vi } from 'vitest';
import type { Action, Controls } from '../state/controls';
import { onStage } from '../testing/station';
import { KeyTable } from './key-table';

interface Parts {
  controls: Controls;
  waiting(): Action | undefined;
  refusal(): string;
  conflicts(): Map<Action, string>;
  wait(action: Action): void;
  key(event: KeyboardEvent, action: Action): void;
}

const pressed = (key: string) => ({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, preventDefault: vi.fn(), stopPropagation: vi.fn() }) as unknown as KeyboardEvent; // prettier-ignore

it('takes the next key for what was clicked, tells what else has it, and lets Escape leave it', () => {
  const { part } = onStage<Parts>(KeyTable);
  part.key(pressed('x'), 'before');
  expect(part.controls.words('before')).toBe('B');
  part.wait('before');
  part.key(pressed('Shift'), 'before');
  expect(part.waiting()).toBe('before');
  part.key(pressed('d'), 'before');
  expect([part.waiting(), part.controls.words('before')]).toEqual([undefined, 'D']);
  expect([part.conflicts().get('before'), part.conflicts().get('right')]).toEqual(['sideways to the right', 'held: the picture before the last step']); // prettier-ignore
  part.wait('before');
  part.key(pressed('Escape'), 'before');
  expect(part.controls.words('before')).toBe('D');
  part.wait('before');
  part.key(pressed('F5'), 'before');
  expect(part.refusal()).toContain('F5');
});
