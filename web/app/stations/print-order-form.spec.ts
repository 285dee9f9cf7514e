import { expect, it, vi } from 'vitest';
import { onStage, typed } from '../testing/station';
import { PrintOrderForm } from './print-order-form';

interface Parts {
  order(event: Event): Promise<void>;
}

it('orders the exposure that is seen, but none that was measured before the last change', async () => {
  const fetch = vi.fn().mockResolvedValue(new Response('{}'));
  vi.stubGlobal('fetch', fetch);
  const { part, picture } = onStage<Parts>(PrintOrderForm);
  const ordered = async (): Promise<Record<string, unknown>> => {
    await part.order(typed(''));
    return JSON.parse((fetch.mock.lastCall as [string, { body: string }])[1].body) as Record<string, unknown>;
  };
  picture.ev100$.next(12.5);
  picture.status$.next({ state: 'refining', progress: 0.1, fault: null });
  expect(await ordered()).toMatchObject({ ev100: 12.5 });
  picture.status$.next({ state: 'draft', progress: 0, fault: null });
  expect(await ordered()).not.toHaveProperty('ev100');
  vi.unstubAllGlobals();
});
