import { afterEach, describe, expect, it, vi } from 'vitest';
import type { PrintSummary } from '../../../core/project/live';
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
  walks(): { id: string }[];
  walkId: { set(id: string): void };
  frames(): number;
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
  it('are ordered of a walk as well, from a moment that is always the same', async () => {
    const asked = answering(fine);
    const stop = (x: number) => ({ name: 'Bank', position: [x, 0, 1.6] as [number, number, number], target: [5, 5, 1.6] as [number, number, number], focalMm: 28 }); // prettier-ignore
    const { part, picture } = onStage<Parts>(DeliveryStation, (live) => {
      live.put('walk/w', { name: 'Along the quay', stops: [stop(0), stop(9)], seconds: 4, eased: true });
      live.put('walk/begun', { name: 'Not yet', stops: [stop(0)], seconds: 4, eased: true });
    });
    picture.timeS$.next(7);
    expect(part.walks().map(({ id }) => id)).toEqual(['w']);
    part.walkId.set('w');
    expect(part.frames()).toBe(100);
    await part.order(typed(''));
    const first = { position: [0, 0, 1.6], target: [5, 5, 1.6], focalMm: 28 };
    expect(asked[0]!.body).toMatchObject({
      name: 'Along the quay', camera: first, timeS: 0, walk: { stops: [first, { focalMm: 28 }], seconds: 4, eased: true, framesPerSecond: 25 },
    }); // prettier-ignore
  });

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
