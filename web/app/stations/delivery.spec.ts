import { afterEach, describe, expect, it, vi } from 'vitest';
import type { PrintSummary } from '../../../core/model/live';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange, testElement } from '../../../core/model/testing';
import { onStage, typed } from '../testing/station';
import { DeliveryStation } from './delivery';

interface Parts {
  hasModel(): boolean;
  fault(): string;
  width: { (): number; set(value: number): void };
  height(): number;
  isListed(): boolean;
  setSize(event: Event): void;
  order(event: Event): Promise<void>;
  cancel(print: PrintSummary): Promise<void>;
  remove(print: PrintSummary): Promise<void>;
  left(print: Partial<PrintSummary>): string;
  isOpen(print: Partial<PrintSummary>): boolean;
}

function answering(answer: () => Promise<Response>) {
  const asked: { url: string; method: string; body: unknown }[] = [];
  vi.stubGlobal('fetch', (url: string, { method, body }: { method: string; body?: string }) => {
    asked.push({ url, method, body: body === undefined ? undefined : JSON.parse(body) });
    return answer();
  });
  return asked;
}
const fine = () => Promise.resolve(new Response('{}'));
afterEach(() => {
  vi.unstubAllGlobals();
});

describe('prints', () => {
  it('are ordered of what the picture shows: camera, exposure, name', async () => {
    const asked = answering(fine);
    const { part, picture } = onStage<Parts>(DeliveryStation);
    picture.viewName$.next('From the bank');
    picture.ev100$.next(13.4);
    part.setSize(typed('1280x720'));
    await part.order(typed(''));
    expect(asked).toMatchObject([
      {
        url: '/api/prints',
        method: 'POST',
        body: { name: 'From the bank', camera: picture.camera$.value, width: 1280, height: 720, quality: 'standard', seed: 1, ev100: 13.4 },
      },
    ]);
    expect(part.fault()).toBe('');
  });

  it('tell in the server’s words why one was refused, and that it is out of reach when it is', async () => {
    const { part } = onStage<Parts>(DeliveryStation);
    answering(() => Promise.resolve(new Response('{"message":"The width must be at least 16."}', { status: 400 })));
    await part.order(typed(''));
    expect(part.fault()).toBe('The width must be at least 16.');
    answering(() => Promise.reject(new TypeError('Failed to fetch')));
    await part.order(typed(''));
    expect(part.fault()).toBe('The server is out of reach; nothing was ordered.');
    answering(fine);
    await part.order(typed(''));
    expect(part.fault()).toBe('');
  });

  it('are cancelled and removed by their number', async () => {
    const asked = answering(fine);
    const { part } = onStage<Parts>(DeliveryStation);
    await part.cancel({ id: 'p7' } as PrintSummary);
    await part.remove({ id: 'p7' } as PrintSummary);
    expect(asked.map((a) => `${a.method} ${a.url}`)).toEqual(['POST /api/prints/p7/cancel', 'DELETE /api/prints/p7']);
  });

  it('stand beside the model, once there is one', () => {
    const { part, live } = onStage<Parts>(DeliveryStation);
    expect(part.hasModel()).toBe(false);
    live.models$.next(new Map([['s', applyChange(EMPTY_MODEL, testChange({ elements: [testElement('a')] }))]]));
    expect(part.hasModel()).toBe(true);
  });

  it('know a listed size from one of their own', () => {
    const { part } = onStage<Parts>(DeliveryStation);
    expect(part.isListed()).toBe(true);
    part.width.set(1919);
    expect(part.isListed()).toBe(false);
  });

  it('say how long they will take as one would say it', () => {
    const { part } = onStage<Parts>(DeliveryStation);
    expect([null, 0.2, 41.6, 89, 91, 3600].map((secondsLeft) => part.left({ secondsLeft }))).toEqual([
      '',
      '1 s left',
      '42 s left',
      '89 s left',
      '2 min left',
      '60 min left',
    ]);
    expect((['waiting', 'rendering', 'finished', 'cancelled', 'failed'] as const).filter((state) => part.isOpen({ state }))).toEqual([
      'waiting',
      'rendering',
    ]);
  });
});
