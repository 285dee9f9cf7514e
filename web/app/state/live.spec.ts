import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { FromPage, ToPage } from '../../../core/project/live';
import { testChange, testElement } from '../../../core/model/testing';
import { Live } from './live';

/** The page's end of the live connection, with a socket that is played here. */

class PlayedSocket {
  static readonly OPEN = 1;
  static all: PlayedSocket[] = [];
  readyState = 1;
  readonly sent: FromPage[] = [];
  onmessage: ((event: { data: string }) => void) | undefined;
  onclose: (() => void) | undefined;

  constructor(readonly url: string) {
    PlayedSocket.all.push(this);
  }

  send(text: string): void {
    this.sent.push(JSON.parse(text) as FromPage);
  }

  close(): void {
    this.readyState = 3;
    this.onclose?.();
  }

  hear(message: ToPage): void {
    this.onmessage?.({ data: JSON.stringify(message) });
  }
}

const socket = () => PlayedSocket.all.at(-1)!;
let live: Live;
beforeEach(() => {
  vi.useFakeTimers();
  PlayedSocket.all = [];
  vi.stubGlobal('WebSocket', PlayedSocket);
  vi.stubGlobal('location', { protocol: 'http:', host: 'localhost:4600' });
  live = new Live();
  socket().hear({
    type: 'project',
    name: 'Test',
    linkToken: 't',
    watchFolders: [],
    entries: [['sun', { date: '2026-06-01', minutes: 600 }]],
    history: [],
  });
});
afterEach(() => {
  live.ngOnDestroy();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const sun = () => live.entries$.value.get('sun');
const setSun = (minutes: number) => {
  live.run({ type: 'set-sun', date: '2026-06-01', minutes });
  const sent = socket().sent.at(-1)!;
  if (sent.type !== 'command') throw new Error('no command was sent');
  return sent.id;
};
const at = (minutes: number) => ({ date: '2026-06-01', minutes });

describe('a command', () => {
  it('shows at once and stays when it is confirmed', () => {
    const id = setSun(700);
    expect(sun()).toEqual(at(700));
    socket().hear({ type: 'changes', changes: [{ key: 'sun', before: at(600), after: at(700) }], history: [], reply: id });
    expect(sun()).toEqual(at(700));
  });

  it('is taken back when it is refused, with the reason', () => {
    const refusals: string[] = [];
    live.refusals$.subscribe((message) => refusals.push(message));
    const id = setSun(700);
    socket().hear({ type: 'refused', reply: id, message: 'Not now.' });
    expect(sun()).toEqual(at(600));
    expect(refusals).toEqual(['Not now.']);
  });

  it('stays on top of what other pages do in between, and several stay in their order', () => {
    const [first, second] = [setSun(700), setSun(800)];
    socket().hear({ type: 'changes', changes: [{ key: 'sun', before: at(600), after: at(123) }], history: [], reply: 'someone else' });
    expect(sun()).toEqual(at(800));
    socket().hear({ type: 'changes', changes: [{ key: 'sun', before: at(123), after: at(700) }], history: [], reply: first });
    expect(sun()).toEqual(at(800));
    socket().hear({ type: 'refused', reply: second, message: 'No.' });
    expect(sun()).toEqual(at(700));
  });

  it('is not made while the server is out of reach, and a sentence says so', () => {
    const refusals: string[] = [];
    live.refusals$.subscribe((message) => refusals.push(message));
    socket().close();
    live.run({ type: 'set-sun', date: '2026-06-01', minutes: 900 });
    expect(sun()).toEqual(at(600));
    expect(refusals[0]).toContain('out of reach');
    live.undo();
    expect(refusals).toHaveLength(2);
    expect(live.before$.value).toBeUndefined();
  });

  it('is asked after where the connection is lost before it was confirmed', () => {
    const refusals: string[] = [];
    live.refusals$.subscribe((message) => refusals.push(message));
    setSun(700);
    socket().close();
    expect(refusals).toEqual([expect.stringContaining('before the last change was confirmed')]);
  });
});

describe('the connection', () => {
  it('is tried again after it was lost, and takes what the server then knows', () => {
    const before = PlayedSocket.all.length;
    const states: boolean[] = [];
    live.connected$.subscribe((connected) => states.push(connected));
    setSun(700);
    socket().close();
    expect(live.connected$.value).toBe(false);
    vi.advanceTimersByTime(1500);
    expect(PlayedSocket.all).toHaveLength(before + 1);
    socket().hear({ type: 'project', name: 'Test', linkToken: 't', watchFolders: [], entries: [['sun', at(650)]], history: [] });
    expect(sun()).toEqual(at(650));
    expect(states).toEqual([true, false, true]);
  });

  it('is not tried again by a page that is gone', () => {
    live.ngOnDestroy();
    const count = PlayedSocket.all.length;
    vi.advanceTimersByTime(5000);
    expect(PlayedSocket.all).toHaveLength(count);
  });
});

describe('models', () => {
  const change = (reset: boolean, elements: string[], gone: string[] = []) =>
    testChange({ reset, elements: elements.map((id) => testElement(id)), remove: { elements: gone } });

  it('arrive whole, change by deltas, and go', () => {
    socket().hear({ type: 'model', source: 's', revision: 1, change: change(true, ['a', 'b']) });
    socket().hear({ type: 'model', source: 's', revision: 2, change: change(false, ['c'], ['a']) });
    expect([...live.models$.value.get('s')!.elements.keys()]).toEqual(['b', 'c']);
    socket().hear({ type: 'model', source: 't', revision: 1, change: change(true, ['x']) });
    socket().hear({ type: 'model-gone', source: 's' });
    expect([...live.models$.value.keys()]).toEqual(['t']);
  });

  it('are sent anew after a lost connection, so that nothing stale stays', () => {
    socket().hear({ type: 'model', source: 's', revision: 1, change: change(true, ['a']) });
    socket().close();
    vi.advanceTimersByTime(1500);
    socket().hear({ type: 'project', name: 'Test', linkToken: 't', watchFolders: [], entries: [], history: [] });
    expect(live.models$.value.size).toBe(0);
  });
});

it('a reply to another page settles nothing here', () => {
  live.run({ type: 'set-sun', date: '2026-06-01', minutes: 700 });
  const mine = socket();
  const [{ id }] = mine.sent.filter((message) => message.type === 'command') as { id: string }[] as [{ id: string }];
  const other = new Live();
  socket().hear({ type: 'project', name: 'Test', linkToken: 't', watchFolders: [], entries: [], history: [] });
  other.run({ type: 'set-sun', date: '2026-06-01', minutes: 800 });
  const [theirs] = socket().sent.filter((message) => message.type === 'command') as { id: string }[] as [{ id: string }];
  expect(theirs.id).not.toBe(id);
  mine.hear({ type: 'changes', changes: [], history: [], reply: theirs.id });
  expect((live.entries$.value.get('sun') as { minutes: number }).minutes).toBe(700);
});
