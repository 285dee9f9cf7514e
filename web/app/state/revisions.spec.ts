import { afterEach, describe, expect, it, vi } from 'vitest';
import { applyChange, EMPTY_MODEL, snapshotOf, type Model } from '../../../core/model/model';
import { testChange, testElement } from '../../../core/model/testing';
import { onStage } from '../testing/station';
import { Revisions, withEarlier } from './revisions';

const modelOf = (...names: [string, string][]): Model =>
  applyChange(EMPTY_MODEL, testChange({ elements: names.map(([id, name]) => testElement(id, { name })) }));
const before = modelOf(['kept', 'kept'], ['edited', 'was'], ['gone', 'gone']);
const now = modelOf(['kept', 'kept'], ['edited', 'is'], ['new', 'new']);

afterEach(() => {
  vi.unstubAllGlobals();
});

describe('an earlier revision', () => {
  it('stands in the place of the present model, or what is gone since stands among the rest', () => {
    const models = new Map([['s', now], ['t', before]]); // prettier-ignore
    expect(withEarlier(models, undefined)).toBe(models);
    expect(withEarlier(models, { source: 's', revision: 1, model: before, as: 'shown' }).get('s')).toBe(before);
    const compared = withEarlier(models, { source: 's', revision: 1, model: before, as: 'compared' });
    expect([...compared.get('s')!.elements.values()].map((e) => e.name)).toEqual(['kept', 'is', 'new', 'gone']);
    expect(compared.get('t')).toBe(before);
  });

  it('that is compared covers what is added, changed and removed, also when the model goes on changing, until one is back', async () => {
    vi.stubGlobal('fetch', () => Promise.resolve(new Response(JSON.stringify(snapshotOf(before)))));
    const { live, picture, leave, revisions } = onStageWith();
    live.models$.next(new Map([['s', now]]));
    await revisions.look('s', 1, 'compared');
    expect(Object.fromEntries(picture.marked$.value)).toEqual({ 's/edited': 'changed', 's/new': 'added', 's/gone': 'removed' });
    live.models$.next(new Map([['s', before]]));
    expect(picture.marked$.value.size).toBe(0);
    live.models$.next(new Map([['s', now]]));
    revisions.present();
    expect(picture.marked$.value.size).toBe(0);
    leave();
  });
});

function onStageWith() {
  const { live, picture, leave, part } = onStage<Revisions>(Revisions);
  return { live, picture, leave, revisions: part };
}
