import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { EMPTY_MODEL, applyChange, snapshotOf } from '../core/model/model';
import { testChange, testElement } from '../core/model/testing';
import { randomInteger } from '../core/random';
import { openSourceDatabase } from './database/open';
import { SourceStore, type SourceEvent } from './source-store';
import { removeFolder, temporaryFolder } from './testing/running-server';

const folder = temporaryFolder();
afterAll(() => {
  removeFolder(folder);
});

const change = testChange;
const element = (id: string, name = id) => testElement(id, { name });

let number = 0;
async function freshStore() {
  const file = path.join(folder, `s${String(number++)}.sqlite`);
  const db = await openSourceDatabase(file);
  const store = await SourceStore.open(db);
  await store.register('one', 'link', 'One', 'Test');
  return {
    store,
    /** What another process would find. */
    reopened: async () => {
      const other = await openSourceDatabase(file);
      const again = await SourceStore.open(other);
      const found = again.get('one');
      const summary = again.summaries().find((s) => s.id === 'one');
      await other.destroy();
      return { found, summary };
    },
    close: () => db.destroy(),
  };
}

describe('revisions', () => {
  it('are counted, stored and found again as the same model', async () => {
    const { store, reopened, close } = await freshStore();
    expect(await store.commit('one', change({ reset: true, elements: [element('a'), element('b')] }), 1)).toEqual({
      revision: 1,
      held: false,
    });
    expect((await store.commit('one', change({ elements: [element('c')], remove: { elements: ['a'] } }), 2)).revision).toBe(2);
    const { found } = await reopened();
    expect([...found!.model.elements.keys()]).toEqual(['b', 'c']);
    expect(found).toMatchObject({ revision: 2, sequence: 2, stopped: false });
    await close();
  });

  it('are listed with what they did, and brought back as they were, across snapshots and resets', async () => {
    const { store, reopened, close } = await freshStore();
    await store.commit('one', change({ reset: true, elements: [element('a'), element('b')] }), 1);
    await store.commit('one', change({ elements: [element('b', 'new name'), element('c')], remove: { elements: ['a', 'never'] } }), 2);
    await store.commit('one', change({ reset: true, elements: [element('b', 'new name'), element('d')] }), 3);
    expect((await store.revisions('one')).map((r) => [r.revision, r.counts])).toEqual([
      [3, { added: 1, changed: 0, removed: 1 }],
      [2, { added: 1, changed: 1, removed: 1 }],
      [1, { added: 2, changed: 0, removed: 0 }],
    ]);
    expect([...(await store.modelAt('one', 1))!.elements.keys()]).toEqual(['a', 'b']);
    expect([...(await store.modelAt('one', 2))!.elements.values()].map((e) => e.name)).toEqual(['new name', 'c']);
    expect(await store.modelAt('one', 4)).toBeUndefined();
    expect(await store.modelAt('other', 1)).toBeUndefined();
    expect((await reopened()).summary!.last).toEqual({ added: 1, changed: 0, removed: 1 });
    await store.hold('one');
    await store.commit('one', change({ elements: [element('e'), element('d', 'x')] }), 4);
    expect(store.summaries()[0]!.waitingElements).toEqual({ added: 1, changed: 1, removed: 0 });
    await store.resume('one');
    expect(store.summaries()[0]).toMatchObject({ waitingElements: null, last: { added: 1, changed: 1, removed: 0 } });
    await close();
  });

  it('are the same after three hundred changes, across the snapshots that are kept between', async () => {
    const { store, reopened, close } = await freshStore();
    let model = EMPTY_MODEL;
    const random = randomInteger(21);
    await store.commit('one', change({ reset: true }), 1);
    for (let i = 2; i <= 300; i++) {
      const id = `e${String(random(30))}`;
      const next = random(3) === 0 ? change({ remove: { elements: [id] } }) : change({ elements: [element(id, String(i))] });
      model = applyChange(model, next);
      await store.commit('one', next, i);
    }
    const { found } = await reopened();
    expect(snapshotOf(found!.model).elements.sort((a, b) => a.id.localeCompare(b.id))).toEqual(
      snapshotOf(model).elements.sort((a, b) => a.id.localeCompare(b.id)),
    );
    await close();
  });

  it('are told in the order in which they were asked for, however many at once', async () => {
    const { store, close } = await freshStore();
    const told: number[] = [];
    store.subscribe((event) => {
      if (event.type === 'changed') told.push(event.revision);
    });
    await Promise.all(Array.from({ length: 25 }, (_, i) => store.commit('one', change({ elements: [element(String(i))] }), i + 1)));
    expect(told).toEqual(Array.from({ length: 25 }, (_, i) => i + 1));
    await close();
  });
});

describe('a held source', () => {
  it('keeps what comes, also over a restart, and applies it as one change', async () => {
    const { store, reopened, close } = await freshStore();
    const events: SourceEvent[] = [];
    await store.commit('one', change({ reset: true, elements: [element('a')] }), 1);
    store.subscribe((event) => events.push(event));
    await store.hold('one');
    await store.commit('one', change({ elements: [element('b')] }), 2);
    await store.commit('one', change({ elements: [element('c')], remove: { elements: ['b'] } }), 3);
    expect([...store.get('one')!.model.elements.keys()]).toEqual(['a']);
    expect(store.summaries()[0]).toMatchObject({ state: 'held', waiting: 3 });

    const { found, summary } = await reopened();
    expect([...found!.model.elements.keys()]).toEqual(['a']);
    expect([...found!.ahead.elements.keys()]).toEqual(['a', 'c']);
    expect(summary).toMatchObject({ state: 'held', waiting: 3 });

    expect(events.some((e) => e.type === 'changed')).toBe(false);
    await store.resume('one');
    const changed = events.filter((e) => e.type === 'changed');
    expect(changed).toHaveLength(1);
    expect(changed[0]!.change.elements.map((e) => e.id)).toEqual(['c']);
    expect((await reopened()).summary).toMatchObject({ waiting: 0 });
    await close();
  });

  it('keeps a new start with nothing in it while held, over a restart too', async () => {
    const { store, reopened, close } = await freshStore();
    await store.commit('one', change({ reset: true, elements: [element('a')] }), 1);
    await store.hold('one');
    await store.commit('one', change({ reset: true }), 2);
    const { found, summary } = await reopened();
    expect([summary!.waiting, found!.ahead.elements.size, found!.model.elements.size]).toEqual([1, 0, 1]);
    await close();
  });

  it('takes a new start from the author while held', async () => {
    const { store, close } = await freshStore();
    await store.commit('one', change({ reset: true, elements: [element('a')] }), 1);
    await store.hold('one');
    await store.commit('one', change({ reset: true, elements: [element('z')] }), 2);
    await store.resume('one');
    expect([...store.get('one')!.model.elements.keys()]).toEqual(['z']);
    await close();
  });
});

describe('the state of a source', () => {
  it('is told in words: out of reach, in step, held, stopped', async () => {
    const { store, close } = await freshStore();
    const state = () => store.summaries()[0]!.state;
    expect(state()).toBe('out-of-reach');
    store.setConnected('one', true);
    expect(state()).toBe('in-step');
    await store.hold('one');
    expect(state()).toBe('held');
    await store.stop('one');
    expect(state()).toBe('stopped');
    await store.start('one');
    await store.resume('one');
    expect(state()).toBe('in-step');
    await close();
  });

  it('keeps the last fault until the author is back, and goes with the source', async () => {
    const { store, reopened, close } = await freshStore();
    store.setFault('one', 'The file is cut off.');
    expect(store.summaries()[0]!.fault).toBe('The file is cut off.');
    store.setConnected('one', true);
    expect(store.summaries()[0]!.fault).toBeNull();
    await store.remove('one');
    expect(store.summaries()).toEqual([]);
    expect((await reopened()).found).toBeUndefined();
    await store.remove('one');
    await close();
  });

  it('follows a new name', async () => {
    const { store, reopened, close } = await freshStore();
    await store.register('one', 'link', 'Renamed', 'Test 2');
    expect((await reopened()).summary).toMatchObject({ name: 'Renamed', tool: 'Test 2' });
    await close();
  });
});
