import { describe, expect, it } from 'vitest';
import { onStage } from '../testing/station';
import { shortDate, TitleBlock } from './title-block';

interface Parts {
  block(): Record<string, string | null> | undefined;
}

const SITE = { name: 'Marram Landing', latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 4, trueNorthDeg: 0 };

async function titleBlock() {
  const stage = onStage<Parts>(TitleBlock, (live) => {
    live.put('site', SITE);
    live.put('sun', { date: '2026-10-16', minutes: 615 });
  });
  await expect.poll(() => stage.part.block()).toBeDefined();
  return stage;
}

describe('the title block', () => {
  it('tells view, lens, eye, time, sun, exposure and model', async () => {
    const { part, picture, live } = await titleBlock();
    picture.camera$.next({ position: [0, 0, 1.652], target: [5, 5, 2], focalMm: 27.6 });
    picture.viewName$.next('From the bank');
    picture.ev100$.next(13.26);
    expect(part.block()).toMatchObject({ view: 'From the bank', lens: '28 mm', eye: '1.65 m', when: '16 Oct, 10:15', ev: '13.3', kelvin: '6500', mode: 'automatic', revision: '–' }); // prettier-ignore
    live.sources$.next([{ revision: 14 }, { revision: 2 }] as never);
    expect(part.block()!['revision']).toBe('rev 14+2');
    // The sun of that moment by the almanac formulae of core/sky, which are checked there.
    expect(part.block()!['altitude']).toMatch(/^\d+\.\d°$/);
  });

  it('says how far the picture is, from none to finished, and why it is not refined', async () => {
    const { part, picture } = await titleBlock();
    const told = (state: 'waiting' | 'draft' | 'refining' | 'finished' | 'fault', progress = 0) => {
      picture.status$.next({ state, progress, fault: state === 'fault' ? 'Memory is full.' : null });
      return part.block()!['picture'];
    };
    expect(told('waiting')).toBe('no model yet');
    expect(told('draft')).toBe('draft');
    expect(told('refining', 0.0001)).toBe('refining 1 %');
    expect(told('refining', 0.428)).toBe('refining 42 %');
    expect(told('finished', 1)).toBe('finished');
    expect(told('fault')).toBe('draft, not refined');
    expect(part.block()!['fault']).toBe('Memory is full.');
  });

  it('names a moved camera’s place a free view', async () => {
    expect((await titleBlock()).part.block()!['view']).toBe('Free view');
  });

  it('writes dates short', () => {
    expect([shortDate('2026-10-16'), shortDate('2027-01-05'), shortDate('2026-12-31')]).toEqual(['16 Oct', '5 Jan', '31 Dec']);
  });
});
