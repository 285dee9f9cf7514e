import { afterEach, expect, it, vi } from 'vitest';
import { atMostSamples, pixelRatio, smallPictureWidth } from './picture-limits';

afterEach(() => {
  vi.unstubAllGlobals();
});

function screen(devicePixelRatio: number, refineTo?: string): void {
  vi.stubGlobal('window', { devicePixelRatio });
  vi.stubGlobal('localStorage', { getItem: () => refineTo ?? null });
}

it('pictures are refined as far as they ask for, or as this browser is set to', () => {
  screen(1);
  expect(atMostSamples(256)).toBe(256);
  screen(1, '8');
  expect([atMostSamples(256), atMostSamples(4)]).toEqual([8, 4]);
  screen(1, 'many');
  expect(atMostSamples(256)).toBe(256);
});

it('small pictures have no more pixels than the screen in their place, large ones as many up to a limit', () => {
  screen(0.5);
  expect([smallPictureWidth(208), smallPictureWidth(20), pixelRatio()]).toEqual([104, 16, 0.5]);
  screen(2);
  expect([smallPictureWidth(208), pixelRatio()]).toEqual([208, 1.5]);
});
