import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { SourceSummary } from '../../../core/project/live';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange, testElement } from '../../../core/model/testing';
import { onStage, typed } from '../testing/station';
import { SourceStation } from './source';

interface Parts {
  busy(): string;
  faults(): readonly string[];
  words(source: Partial<SourceSummary>): string;
  counts(id: string): string;
  setFollow(camera: boolean, time: boolean): void;
  upload(event: Event): Promise<void>;
  watch(event: Event, input: { value: string }): Promise<void>;
}

beforeEach(() => {
  vi.stubGlobal('location', { origin: 'http://127.0.0.1:4600' });
});
afterEach(() => {
  vi.unstubAllGlobals();
});

describe('linked models', () => {
  it('are in step, held with a count, stopped or out of reach, in words', () => {
    const { part } = onStage<Parts>(SourceStation);
    expect(part.words({ state: 'in-step' })).toBe('in step');
    expect(part.words({ state: 'held', waiting: 3 })).toBe('held, 3 waiting');
    expect(part.words({ state: 'stopped' })).toBe('stopped');
    expect(part.words({ state: 'out-of-reach' })).toBe('out of reach, tried again by itself');
  });

  it('tell what they hold, or that nothing has come yet', () => {
    const { part, live } = onStage<Parts>(SourceStation);
    expect(part.counts('s')).toBe('nothing received yet');
    live.models$.next(new Map([['s', applyChange(EMPTY_MODEL, testChange({ elements: [testElement('a'), testElement('b')] }))]]));
    expect(part.counts('s')).toBe('2 elements, 0 source materials');
  });

  it('are followed by two switches', () => {
    const { part, live } = onStage<Parts>(SourceStation);
    part.setFollow(true, false);
    expect(live.commands).toEqual([{ type: 'follow-author', camera: true, time: false }]);
  });
});

describe('files', () => {
  const chosen = (name: string) => ({ target: { files: [{ name }], value: 'C:\\x' } }) as unknown as Event;

  it('are sent as they are, with a word while they are read', async () => {
    const { part } = onStage<Parts>(SourceStation);
    let url = '';
    let answer: (response: Response) => void = () => undefined;
    vi.stubGlobal('fetch', (to: string) => {
      url = to;
      return new Promise<Response>((resolve) => (answer = resolve));
    });
    const done = part.upload(chosen('house & garden.ifc'));
    expect(url).toBe('/api/sources/file?name=house%20%26%20garden.ifc');
    expect(part.busy()).toBe('Reading house & garden.ifc …');
    answer(new Response('{"source":"s","changed":1}'));
    await done;
    expect([part.busy(), part.faults()]).toEqual(['', []]);
  });

  it('that are refused give the reason, and the next attempt starts clean', async () => {
    const { part } = onStage<Parts>(SourceStation);
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('{"message":"house.ifc is cut off."}', { status: 422 })));
    await part.upload(chosen('house.ifc'));
    expect(part.faults()).toEqual(['house.ifc is cut off.']);
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('network')));
    await part.upload(chosen('house.ifc'));
    expect(part.faults()).toEqual(['house.ifc did not reach the server; try again.']);
    await part.upload({ target: { files: [], value: '' } } as unknown as Event);
    expect(part.busy()).toBe('');
  });

  it('of one batch are read in turn, and one that is refused does not hold up the rest', async () => {
    const { part } = onStage<Parts>(SourceStation);
    const asked: string[] = [];
    vi.stubGlobal('fetch', (to: string) => {
      asked.push(to.split('=')[1]!);
      return Promise.resolve(
        to.includes('bad') ? new Response('{"message":"bad.obj is empty."}', { status: 422 }) : new Response('{"source":"s","changed":1}'),
      );
    });
    const files = [{ name: 'a.ifc' }, { name: 'bad.obj' }, { name: 'huge.dxf', size: 2 ** 31 }, { name: 'c.glb' }];
    await part.upload({ target: { files, value: '' } } as unknown as Event);
    expect(asked).toEqual(['a.ifc', 'bad.obj', 'c.glb']);
    expect(part.faults()).toEqual(['bad.obj is empty.', 'huge.dxf is larger than 1 GiB; split it by storey or trade.']);
  });

  it('are watched by path, when there is one', async () => {
    const { part } = onStage<Parts>(SourceStation);
    const asked: string[] = [];
    vi.stubGlobal('fetch', (_: string, { body }: { body: string }) => {
      asked.push(body);
      return Promise.resolve(new Response('{"source":"s","changed":1}'));
    });
    await part.watch(typed(''), { value: '  ' });
    await part.watch(typed(''), { value: ' models/house.ifc ' });
    expect(asked).toEqual(['{"path":"models/house.ifc"}']);
  });
});
