import { afterEach, expect, it, vi } from 'vitest';
import { Gamepads, steeringOf, type PadAction } from './gamepads';
import type { Steering } from './navigation';

const pad = (axes: number[], pressed: Record<number, number> = {}) => ({
  mapping: 'standard' as const,
  axes,
  buttons: Array.from({ length: 17 }, (_, i) => ({ pressed: i in pressed, touched: i in pressed, value: pressed[i] ?? 0 })),
});

afterEach(() => {
  vi.unstubAllGlobals();
});

it('goes by the left stick, looks by the right one, and rests where sticks are let go', () => {
  expect(steeringOf(pad([0, -1, 0.5, 0]))).toMatchObject({ ahead: 1, aside: 0, rise: 0 });
  expect(steeringOf(pad([0, 0, 0.575, -1]))).toMatchObject({ turn: expect.closeTo(0.5) as number, look: 1 });
  expect(steeringOf(pad([0.1, 0.14, -0.05, 0.1]))).toEqual({ ahead: 0, aside: 0, turn: 0, look: 0, rise: 0 });
  expect(steeringOf(pad([0, 0, 0, 0], { 7: 0.6, 6: 0.1 })).rise).toBeCloseTo(0.5);
});

it('is read from when it is plugged in until it is gone, a button once for each press', () => {
  const frames: (() => void)[] = [];
  const listening = new Map<string, () => void>();
  let now: ReturnType<typeof pad> | null = null;
  vi.stubGlobal('addEventListener', (name: string, hear: () => void) => listening.set(name, hear));
  vi.stubGlobal('removeEventListener', (name: string) => listening.delete(name));
  vi.stubGlobal('requestAnimationFrame', (frame: () => void) => frames.push(frame));
  vi.stubGlobal('cancelAnimationFrame', () => undefined);
  vi.stubGlobal('navigator', { getGamepads: () => [null, now] });
  const steered: Steering[] = [];
  const acts: PadAction[] = [];
  const pads = new Gamepads({ steer: (steering) => steered.push(steering), act: (action) => acts.push(action) });
  now = pad([0, -1, 0, 0], { 4: 1 });
  listening.get('gamepadconnected')!();
  frames.shift()!();
  expect(steered.at(-1)).toMatchObject({ ahead: 1 });
  expect(acts).toEqual(['lastPlace']);
  now = null;
  frames.shift()!();
  expect(steered.at(-1)).toMatchObject({ ahead: 0 });
  expect(frames).toEqual([]);
  pads.close();
  expect(listening.size).toBe(0);
});
