import { afterEach, describe, expect, it, vi } from 'vitest';
import type { InputSignal } from '@angular/core';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange } from '../../../core/model/testing';
import type { ModelMatches } from '../../../core/project/replacing';
import { give, onStage } from '../testing/station';
import { ReplacementCard } from './replacement-card';

interface Parts {
  source: InputSignal<string>;
  offer(): { number: number; fileName: string; matches: ModelMatches } | undefined;
  decisions(): string;
  materialPairs(): { name: string; finish: string }[];
  fault(): string;
  choose(event: Event): Promise<void>;
  take(offer: { number: number; fileName: string; matches: ModelMatches }): Promise<void>;
  done: { subscribe(heard: () => void): void };
}

afterEach(() => {
  vi.unstubAllGlobals();
});

const matches: ModelMatches = {
  elements: { kept: 3, byName: [['w1', 'n1']], gone: ['w4'], added: 2 },
  materials: { kept: 1, byName: [['m2', 'x2']], gone: [], added: 0 },
};
const chosen = { target: { files: [{ name: 'second.ifc' }], value: 'x' } } as unknown as Event;
const answers = (status: number, body: object) => Promise.resolve(new Response(JSON.stringify(body), { status }));

function card() {
  const stage = onStage<Parts>(ReplacementCard, (live) => {
    live.put('element/s/w1', { finish: 'oak', at: '' });
    live.put('element/s/w4', { finish: 'oak', at: '' });
    live.put('assign/s/m2', { finish: 'zinc', at: '' });
  });
  stage.live.models$.next(
    new Map([['s', applyChange(EMPTY_MODEL, testChange({ materials: [{ id: 'm2', name: 'Roof sheet', colour: [1, 1, 1] }] }))]]),
  );
  give(stage.part.source, 's');
  return stage;
}

describe('a file in the place of a source', () => {
  it('is weighed before anything changes, then taken with its decisions', async () => {
    const { part, live } = card();
    const asked: string[] = [];
    vi.stubGlobal('fetch', (url: string) => {
      asked.push(url);
      return answers(200, url.endsWith('take') ? { source: 's', changed: 1 } : { number: 7, fileName: 'second.ifc', matches });
    });
    await part.choose(chosen);
    expect(part.decisions()).toBe('Decisions: 0 stay, 2 go on by name, 1 sleep: w4.');
    expect(part.materialPairs()).toMatchObject([{ name: 'Roof sheet', finish: 'Zinc, standing seam 430' }]);
    expect(live.commands).toEqual([]);
    let done = false;
    part.done.subscribe(() => (done = true));
    await part.take(part.offer()!);
    expect(asked).toEqual(['/api/sources/s/offer?name=second.ifc', '/api/sources/s/offer/7/take']);
    expect(live.commands).toEqual([
      { type: 'carry-decisions', source: 's', elements: [['w1', 'n1']], materials: [['m2', 'x2']], name: 'second.ifc' },
    ]);
    expect(done).toBe(true);
  });

  it('that cannot be read or has gone stale is said so, and nothing is carried', async () => {
    const { part, live } = card();
    vi.stubGlobal('fetch', () => answers(422, { message: 'second.ifc is cut off.' }));
    await part.choose(chosen);
    expect(part.fault()).toBe('second.ifc is cut off.');
    expect(part.offer()).toBeUndefined();
    await part.take({ number: 1, fileName: 'second.ifc', matches });
    expect(live.commands).toEqual([]);
  });
});
