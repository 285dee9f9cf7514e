import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { fetchBytes } from './fetch-bytes';

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

it('asks again while the server is out of reach, and when it goes in the middle of an answer', async () => {
  const torn = new Response(new ReadableStream({ start: (stream) => { stream.error(new TypeError('network error')); } })); // prettier-ignore
  const fetch = vi
    .fn()
    .mockRejectedValueOnce(new TypeError('Failed to fetch'))
    .mockResolvedValueOnce(torn)
    .mockResolvedValueOnce(new Response(Uint8Array.of(1, 2, 3)));
  vi.stubGlobal('fetch', fetch);
  const bytes = fetchBytes('/api/maps/brick');
  await vi.advanceTimersByTimeAsync(5000);
  expect(await bytes).toEqual(Uint8Array.of(1, 2, 3));
  expect(fetch).toHaveBeenCalledTimes(3);
});

it('takes no for an answer', async () => {
  vi.stubGlobal('fetch', vi.fn().mockResolvedValue(new Response('no', { status: 404 })));
  expect(await fetchBytes('/api/maps/none')).toBeUndefined();
});
