import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Progress } from '../../../core/hygiene/check';
import type { Finding } from '../../../core/hygiene/finding';
import { EMPTY_MODEL } from '../../../core/model/model';
import { onStage, type Stage } from '../testing/station';
import { FindingsSchedule } from './findings';

interface Parts {
  setWidestGap(input: { value: string; valueAsNumber: number }): void;
  state: () => { checking: number | undefined; fault: string | null };
  groups: () => { word: string; findings: Finding[] }[];
  excused: () => Finding[];
  summary: () => string;
  stale: () => boolean;
  current: () => string | undefined;
  check(): Promise<void>;
  open(finding: Finding): void;
  flyTo(finding: Finding): void;
  mend(finding: Finding): void;
  excuse(finding: Finding, excused: boolean): void;
}

const finding = (id: string, extra: Partial<Finding> = {}): Finding => ({
  id, check: 'specks', severity: 'note', words: id, elements: [{ source: 's', element: id }], place: [1, 2, 3], sizeM: 1,
  remedy: { label: 'Hide it', command: { type: 'show', keys: [`element/s/${id}`], shown: false, name: id } }, ...extra,
}); // prettier-ignore

const answers = (...parts: Progress[]) => vi.fn(() => Promise.resolve(new Response(parts.map((p) => `${JSON.stringify(p)}\n`).join(''))));

let stage: Stage<Parts>;
const set = () => onStage<Parts>(FindingsSchedule, (live) => { live.models$.next(new Map([['s', EMPTY_MODEL]])); }); // prettier-ignore

afterEach(() => {
  stage.leave();
  vi.unstubAllGlobals();
});

describe('findings', () => {
  it('are asked for at once and come in the order of their weight', async () => {
    const fetched = answers({ findings: [finding('a')], done: 0.5 }, { findings: [finding('b', { check: 'flipped', severity: 'fault' })], done: 1 }); // prettier-ignore
    vi.stubGlobal('fetch', fetched);
    stage = set();
    const { part, live } = stage;
    await vi.waitFor(() => { expect(part.state().checking).toBeUndefined(); }); // prettier-ignore
    expect(fetched).toHaveBeenCalledExactlyOnceWith('/api/findings');
    expect(part.groups().map((g) => g.word)).toEqual(['Flipped faces', 'Specks']);
    expect(part.summary()).toBe('1 fault, 1 note');
    expect(part.stale()).toBe(false);
    live.models$.next(new Map([['s', { ...EMPTY_MODEL }]]));
    expect(part.stale()).toBe(true);
  });

  it('are pointed out, flown to, mended and excused', async () => {
    vi.stubGlobal('fetch', answers({ findings: [finding('a'), finding('b')], done: 1 }));
    stage = set();
    const { part, live, picture } = stage;
    await part.check();
    part.open(finding('a'));
    expect(picture.marks$.value).toMatchObject([{ id: 'a', place: [1, 2, 3], label: 'Specks' }]);
    expect([...picture.marked$.value]).toEqual([['s/a', 'pointed']]);
    let flown: readonly number[] = [];
    picture.goTo$.subscribe(({ camera }) => (flown = camera.target));
    part.flyTo(finding('a'));
    expect(flown).toEqual([1, 2, 3]);
    part.mend(finding('a'));
    part.excuse(finding('b'), true);
    expect(live.commands.map((c) => c.type)).toEqual(['show', 'excuse-finding']);
    expect(picture.marks$.value).toEqual([]);
    live.put('excused/b', true);
    expect(part.groups()).toEqual([]);
    expect(part.excused().map((f) => f.id)).toEqual(['b']);
  });

  it('of gaps go up to the width that the project sets; a width that makes no sense is not taken', async () => {
    vi.stubGlobal('fetch', answers({ findings: [], done: 1 }));
    stage = set();
    const { part, live } = stage;
    await part.check();
    const input = { value: '80', valueAsNumber: 80 };
    part.setWidestGap(input);
    part.setWidestGap({ value: '', valueAsNumber: Number.NaN });
    part.setWidestGap({ value: '9000', valueAsNumber: 9000 });
    expect(live.commands).toEqual([{ type: 'set-widest-gap', metres: 0.08 }]);
    expect(part.stale()).toBe(false);
    live.put('hygiene', { widestGapM: 0.08 });
    expect(part.stale()).toBe(true);
  });

  it('that could not be had are said so', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('network')));
    stage = set();
    await stage.part.check();
    expect(stage.part.state().fault).toBe('The check did not come to its end; try again.');
  });
});
