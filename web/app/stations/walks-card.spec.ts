import type { Development } from '../../../core/image/tone';
import { SCREEN_WHITE } from '../../../core/image/white-balance';
import { describe, expect, it, vi } from 'vitest';
import type { KeptWalk } from '../../../core/camera/walk';
import type { Camera } from '../../../core/model/schema';
import { entry } from '../../../core/project/project';
import { onStage } from '../testing/station';
import { WalksCard } from './walks-card';

interface Parts {
  walks(): { id: string; walk: KeptWalk; metres: number | undefined }[];
  playing(): string | undefined;
  begin(): void;
  open(id: string, walk: KeptWalk): void;
  put(id: string, walk: KeptWalk, change: Partial<KeptWalk>): void;
  drop(id: string): void;
  addStop(id: string, walk: KeptWalk): void;
  rename(id: string, walk: KeptWalk, input: { value: string }): void;
  setSeconds(id: string, walk: KeptWalk, input: { value: string; valueAsNumber: number }): void;
  strollingPace(id: string, walk: KeptWalk, metres: number): void;
  stand(walk: KeptWalk, i: number): void;
  earlier(list: readonly string[], i: number): string[];
  play(id: string, walk: KeptWalk): void;
  beginWay(): void;
  endWay(): void;
  wentNowhere(): boolean;
  halt(): void;
  setStop(id: string, walk: KeptWalk, i: number, change: object): void;
}

const camera = (x: number): Camera => ({ position: [x, 0, 1.6], target: [x + 5, 0, 1.6], focalMm: 28 });
const WALK: KeptWalk = { name: 'Along the quay', stops: [{ name: 'Bank', ...camera(0) }, { name: 'Jetty', ...camera(14) }], seconds: 10, eased: false }; // prettier-ignore
const card = () => {
  const stage = onStage<Parts>(WalksCard, (live) => {
    live.put('walk/w', WALK);
  });
  const went: { camera: Camera; passing?: boolean; development?: Development | undefined }[] = [];
  stage.picture.goTo$.subscribe((to) => went.push(to));
  return { ...stage, went };
};

describe('walks', () => {
  it('begin at the present view, and take each further view as their next stop', () => {
    const { part, live, picture } = card();
    picture.viewName$.next('From the bank');
    part.begin();
    expect(live.commands).toMatchObject([
      { type: 'keep-walk', walk: { name: 'Walk 2', stops: [{ name: 'From the bank', ...picture.camera$.value }] } },
    ]);
    part.addStop('w', WALK);
    expect(live.commands[1]).toMatchObject({ id: 'w', walk: { stops: [{ name: 'Bank' }, { name: 'Jetty' }, { name: 'From the bank' }] } });
  });

  it('are made of the way that somebody goes, from then on until it is ended', () => {
    vi.useFakeTimers({ toFake: ['performance', 'setInterval', 'clearInterval'] });
    const { part, live, picture } = card();
    picture.camera$.next(camera(-5));
    part.beginWay();
    for (let x = -5; x <= 5; x += 0.1) {
      vi.advanceTimersByTime(100);
      picture.camera$.next(camera(x));
    }
    part.endWay();
    picture.camera$.next(camera(50));
    expect(live.commands).toMatchObject([{ type: 'keep-walk', walk: { name: 'Walk 2', stops: [{ position: [-5, 0, 1.6] }, {}] } }]);
    const { walk } = live.commands[0] as { walk: KeptWalk };
    expect(walk.stops[1]!.position[0]).toBeCloseTo(5);
    expect(walk.seconds).toBeCloseTo(10, 0);
    part.beginWay();
    part.endWay();
    expect([live.commands.length, part.wentNowhere()]).toEqual([1, true]);
    vi.useRealTimers();
  });

  it('take what a view shows with it, and a stop may drop it', () => {
    const { part, live, picture } = card();
    const shown = { visibility: { decisions: { 'layer/s/Roof': false }, isolated: [] }, variants: {} };
    live.put('view/open', { name: 'Opened', ...camera(3), shown });
    picture.viewName$.next('Opened');
    part.addStop('w', WALK);
    expect(live.commands[0]).toMatchObject({ walk: { stops: [{ name: 'Bank' }, { name: 'Jetty' }, { name: 'Opened', shown }] } });
    const held = { ...WALK, stops: [{ ...WALK.stops[0]!, shown }] };
    live.put('walk/w', held);
    part.setStop('w', held, 0, { shown: undefined });
    expect(live.commands[1]).toMatchObject({ walk: { stops: [WALK.stops[0]] } });
  });

  it('keep what was set a moment ago, though the server has not told of it yet', () => {
    const { part, live } = card();
    part.setStop('w', WALK, 1, { by: 'cut' });
    part.setStop('w', WALK, 1, { holdS: 0.1 });
    part.setSeconds('w', WALK, { value: '4', valueAsNumber: 4 });
    expect(live.commands.at(-1)).toMatchObject({
      walk: { seconds: 4, stops: [{ name: 'Bank' }, { name: 'Jetty', by: 'cut', holdS: 0.1 }] },
    });
    // Told of, it is what the next change is laid over; and so is what somebody else has set.
    live.put('walk/w', (live.commands.at(-1) as { walk: KeptWalk }).walk);
    const other = { ...WALK, seconds: 20 };
    live.put('walk/w', other);
    part.setStop('w', other, 0, { holdS: 2 });
    expect(live.commands.at(-1)).toMatchObject({ walk: { seconds: 20, stops: [{ holdS: 2 }, { name: 'Jetty' }] } });
    expect(JSON.stringify(live.commands.at(-1))).not.toContain('cut');
  });

  it('tell how far they go, and take as long as one strolls', () => {
    const { part, live } = card();
    expect(part.walks()[0]!.metres).toBeCloseTo(14, 6);
    part.strollingPace('w', WALK, 14);
    expect(live.commands).toMatchObject([{ walk: { seconds: 10 } }]);
  });

  it('keep a name and a time that are none as they were', () => {
    const { part, live } = card();
    const name = { value: '  ' };
    part.rename('w', WALK, name);
    const seconds = { value: '', valueAsNumber: NaN };
    part.setSeconds('w', WALK, seconds);
    expect([name.value, seconds.value, live.commands.length]).toEqual(['Along the quay', '10', 0]);
    part.setSeconds('w', WALK, { value: '24', valueAsNumber: 24 });
    expect(live.commands).toMatchObject([{ walk: { seconds: 24, name: 'Along the quay' } }]);
  });

  it('put a stop before the one before it', () => {
    expect(card().part.earlier(['a', 'b', 'c'], 2)).toEqual(['a', 'c', 'b']);
  });

  it('are walked by the clock, passing by, until they end or are stopped', () => {
    const { part, went, picture } = card();
    picture.meter$.subscribe((walk) => {
      expect(walk.stops.length).toBe(2);
      picture.exposures$.next({ shots: [{ fromS: 0, dissolves: false, readings: [13, 9].map((ev100, i) => ({ at: i * 10, ev100, white: SCREEN_WHITE })) }] }); // prettier-ignore
    });
    let now = 1000;
    const frames: FrameRequestCallback[] = [];
    vi.spyOn(performance, 'now').mockImplementation(() => now);
    vi.stubGlobal('requestAnimationFrame', (step: FrameRequestCallback) => frames.push(step));
    vi.stubGlobal('cancelAnimationFrame', () => undefined);
    const tick = (ms: number) => {
      now += ms;
      frames.pop()!(now);
    };
    part.play('w', WALK);
    expect([part.playing(), went.length]).toEqual(['w', 1]);
    tick(5000);
    expect(went[1]).toMatchObject({ passing: true, development: { ev100: 11 } });
    expect(went[1]!.camera.position[0]).toBeCloseTo(7, 3);
    tick(6000);
    expect(went[2]!.camera.position[0]).toBeCloseTo(14, 6);
    expect([part.playing(), frames.length]).toEqual([undefined, 0]);
    part.play('w', WALK);
    part.stand(WALK, 0);
    expect(part.playing()).toBeUndefined();
    vi.restoreAllMocks();
    vi.unstubAllGlobals();
  });
});

describe('walks of one name', () => {
  it('are told apart: what changes one leaves the other open as it was', () => {
    const { part, picture } = card();
    part.open('w', WALK);
    part.put('other', WALK, { seconds: 3 });
    expect(picture.openWalk$.value).toEqual({ ...WALK, id: 'w' });
    part.put('w', WALK, { seconds: 4 });
    expect(picture.openWalk$.value).toMatchObject({ id: 'w', seconds: 4 });
    part.drop('other');
    expect(picture.openWalk$.value?.id).toBe('w');
    part.drop('w');
    expect(picture.openWalk$.value).toBeUndefined();
  });
});

describe('light along a walk', () => {
  it('is what the moment of the open walk is seen under, and gone with the walk; what a stop does not tell is left out', () => {
    const { part, live, picture, scene } = card();
    const lit: KeptWalk = { ...WALK, stops: [{ ...WALK.stops[0]!, minutes: 600 }, { ...WALK.stops[1]!, minutes: 700 }] };
    const seen: (number | undefined)[] = [];
    scene.entries$.subscribe((entries) => seen.push(entry(entries, 'sun')?.minutes));
    picture.openWalk$.next({ ...lit, id: 'w' });
    picture.walkAt$.next(5);
    picture.openWalk$.next(undefined);
    expect(seen).toEqual([undefined, 600, 650, undefined]);
    expect(live.commands).toEqual([]);
    part.setStop('w', lit, 0, { minutes: undefined, condition: 'dusk' });
    expect(live.commands[0]).toMatchObject({ walk: { stops: [{ name: 'Bank', condition: 'dusk' }, { minutes: 700 }] } });
    expect(JSON.stringify(live.commands[0])).not.toContain('"minutes":600');
  }); // prettier-ignore
});
