import '@angular/compiler';
import { expect, it, vi } from 'vitest';
import { Controls } from '../state/controls';
import { PictureState } from '../state/picture-state';
import { Navigation } from './navigation';
import { PictureKeys } from './picture-keys';

const event = (key: string, code: string, shiftKey = false) =>
  ({ key, code, shiftKey, ctrlKey: false, metaKey: false, altKey: false, preventDefault: vi.fn() }) as unknown as KeyboardEvent;

function keys() {
  const state = new PictureState();
  const navigation = new Navigation({ position: [0, -10, 1.65], target: [0, 0, 1.65], focalMm: 28 }, () => undefined);
  return { state, navigation, keys: new PictureKeys(new Controls(), state, () => navigation) };
}

it('what is held moves until it is let go, also where Shift was pressed in the meantime', () => {
  const { keys: held, navigation } = keys();
  expect(held.down(event('w', 'KeyW'))).toBe(true);
  held.down(event('ArrowUp', 'ArrowUp'));
  held.up(event('W', 'KeyW', true));
  expect(navigation.isMoving).toBe(true);
  held.up(event('ArrowUp', 'ArrowUp'));
  expect(navigation.isMoving).toBe(false);
  held.down(event('d', 'KeyD'));
  held.release();
  expect(navigation.isMoving).toBe(false);
});

it('places are gone back to and on to, all is seen, and what is not the picture’s is left to others', () => {
  const { keys: pressed, state } = keys();
  const asked: string[] = [];
  state.seeAll$.subscribe(() => asked.push('all'));
  state.back$.subscribe(() => asked.push('back'));
  state.next$.subscribe(() => asked.push('next'));
  for (const [key, shift] of [['Home', false], ['Backspace', false], ['Backspace', true]] as const) expect(pressed.down(event(key, key, shift))).toBe(true); // prettier-ignore
  expect(asked).toEqual(['all', 'back', 'next']);
  expect([pressed.down(event('?', 'Slash', true)), pressed.down(event('x', 'KeyX'))]).toEqual([false, false]);
});
