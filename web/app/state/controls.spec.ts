import '@angular/compiler';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Controls, keyOf, SCHEMES, wordsOf } from './controls';

const NONE = { ctrlKey: false, metaKey: false, altKey: false, shiftKey: false };
const pressed = (key: string, held: Partial<typeof NONE> = {}) => ({ key, ...NONE, ...held }) as KeyboardEvent;

let kept: Map<string, string>;
beforeEach(() => {
  kept = new Map();
  vi.stubGlobal('localStorage', { getItem: (key: string) => kept.get(key) ?? null, setItem: (key: string, value: string) => kept.set(key, value) }); // prettier-ignore
});
afterEach(() => {
  vi.unstubAllGlobals();
});

describe('a key', () => {
  it('is told with what is held beside it; a sign by itself, whatever makes it', () => {
    expect(keyOf(pressed('z', { ctrlKey: true }))).toBe('Ctrl+Z');
    expect(keyOf(pressed('Z', { metaKey: true, shiftKey: true }))).toBe('Ctrl+Shift+Z');
    expect(keyOf(pressed('?', { shiftKey: true }))).toBe('?');
    expect(keyOf(pressed(' ', { shiftKey: true }))).toBe('Shift+Space');
    expect(keyOf(pressed('Shift', { shiftKey: true }))).toBeUndefined();
    expect(['Ctrl+Shift+Z', 'ArrowUp', 'Ctrl++', '+'].map(wordsOf)).toEqual(['Ctrl Shift Z', '↑', 'Ctrl +', '+']);
  });

  it('does what the scheme says, with Shift held too, until it is assigned anew; that is kept', () => {
    const controls = new Controls();
    expect(controls.actionOf(pressed('w'))).toBe('ahead');
    expect(controls.actionOf(pressed('W', { shiftKey: true }))).toBe('ahead');
    expect(controls.actionOf(pressed('w', { ctrlKey: true }))).toBeUndefined();
    expect(controls.assign('ahead', 'I')).toBeUndefined();
    expect([controls.actionOf(pressed('w')), controls.actionOf(pressed('i'))]).toEqual([undefined, 'ahead']);
    const later = new Controls();
    expect([later.words('ahead'), later.isOwn('ahead')]).toEqual(['I', true]);
    later.restore('ahead');
    expect(later.words('ahead')).toBe('W or ↑');
    // What the browser needs stays.
    expect(later.assign('ahead', 'Tab')).toContain('Tab is needed');
    expect(later.isOwn('ahead')).toBe(false);
  });

  it('that two actions have is told of both, and does the upper one', () => {
    const controls = new Controls();
    controls.assign('help', 'W');
    expect([controls.conflictsOf('help'), controls.conflictsOf('ahead'), controls.conflictsOf('find')]).toEqual([['ahead'], ['help'], []]);
    expect(controls.actionOf(pressed('w'))).toBe('help');
  });

  it('no scheme gives to two actions', () => {
    for (const { name, keys } of Object.values(SCHEMES)) {
      const all = Object.values(keys).flat();
      expect(`${name}: ${String(new Set(all).size)}`).toBe(`${name}: ${String(all.length)}`);
    }
  });

  it('that was kept broken is as the scheme has it', () => {
    for (const broken of ['{', '{"scheme":"none","keys":{}}', '{"scheme":"left-turns","keys":{"ahead":7}}', 'null']) {
      kept.set('controls', broken);
      expect(new Controls().words('ahead')).toBe('W or ↑');
    }
  });
});

it('a press of the mouse turns, slides or chooses, each in its scheme', () => {
  const press = (button: number, held: Partial<typeof NONE> = {}) => ({ button, ...NONE, ...held });
  const drags = (id: keyof typeof SCHEMES) =>
    [press(0), press(2), press(0, { shiftKey: true }), press(0, { ctrlKey: true })].map((one) => SCHEMES[id].drag(one));
  expect(drags('left-turns')).toEqual(['turn', 'slide', 'slide', 'choose']);
  expect(drags('right-turns')).toEqual(['choose', 'turn', 'choose', 'choose']);
  expect(drags('fingers-turn')).toEqual(['slide', 'turn', 'turn', 'choose']);
});
