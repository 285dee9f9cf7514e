import '@angular/compiler';
import { Subject } from 'rxjs';
import { createEnvironmentInjector, EnvironmentInjector } from '@angular/core';
import { afterAll, describe, expect, it, vi } from 'vitest';
import { FilmMaker } from './film-maker';
import { PictureState } from './picture-state';
import { QuickRecording } from './quick-recording';

/** What is handed over. */
const link = { download: '', href: '', click: vi.fn() };
vi.stubGlobal('document', { createElement: () => link });
afterAll(() => {
  vi.unstubAllGlobals();
});

/** A recording over a film that is only written down. */
function recorder() {
  const drawn$ = new Subject<HTMLCanvasElement>();
  const shown: [number, number][] = [];
  const film = {
    draw: () => undefined,
    add: (at: number, seconds: number) => Promise.resolve(void shown.push([at, seconds])),
    end: () => Promise.resolve({ ending: 'mp4', bytes: new Uint8Array(4) }),
  };
  vi.spyOn(FilmMaker, 'begin').mockResolvedValue(film as unknown as FilmMaker);
  const injector = createEnvironmentInjector([{ provide: PictureState, useValue: { drawn$ } }, QuickRecording], null as unknown as EnvironmentInjector);
  return { recording: injector.get(QuickRecording), drawn$, shown };
} // prettier-ignore
const canvas = {} as HTMLCanvasElement;

describe('a quick recording', () => {
  it('lets each picture stand until the next one, once, however often it is told to start', async () => {
    const { recording, drawn$, shown } = recorder();
    const clock = vi.spyOn(performance, 'now');
    await recording.begin();
    recording.start();
    recording.start();
    for (const ms of [1000, 1250, 2000]) {
      clock.mockReturnValue(ms);
      drawn$.next(canvas);
    }
    clock.mockReturnValue(2500);
    await recording.end('Walk 1');
    expect(shown).toEqual([[0, 0.25], [0.25, 0.75], [1, 0.5]]); // prettier-ignore
    expect([link.download, link.click.mock.calls.length]).toEqual(['Walk 1.mp4', 1]);
    expect(recording.said()).toBe('MP4 by this browser: 1.5 s, 2.0 pictures a second.');
    drawn$.next(canvas);
    expect(shown).toHaveLength(3);
    clock.mockRestore();
  });

  it('of a walk that is over before the first picture is drawn waits for that picture', async () => {
    link.click.mockClear();
    const { recording, drawn$, shown } = recorder();
    await recording.begin();
    recording.start();
    const ended = recording.end('Walk 1');
    recording.abandon();
    drawn$.next(canvas);
    await ended;
    expect(shown).toHaveLength(1);
    expect(link.click).toHaveBeenCalledOnce();
  });

  it('that is left off takes nothing more, and hands nothing over', async () => {
    link.click.mockClear();
    const { recording, drawn$, shown } = recorder();
    await recording.begin();
    recording.start();
    drawn$.next(canvas);
    recording.abandon();
    drawn$.next(canvas);
    await recording.end('Walk 1');
    expect(shown).toEqual([]);
    expect(link.click).not.toHaveBeenCalled();
  });
});
