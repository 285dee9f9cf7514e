import { expect, it } from 'vitest';
import { entriesShowing, shownNow } from './shown';
import { visibilityOf } from './visibility';

it('what is shown is kept and shown again, whatever was shown in between', () => {
  const first = new Map<string, unknown>([
    ['visibility', { decisions: { 'layer/s/Roof': false }, isolated: [] }],
    ['variant/s', { option: 'folded', phase: null }],
    ['sun', { date: '2026-10-16', minutes: 880 }],
  ]);
  const kept = shownNow(first);
  const later = new Map<string, unknown>([
    ['visibility', { decisions: {}, isolated: ['class/s/Door'] }],
    ['variant/t', { option: null, phase: 'built' }],
    ['sun', { date: '2026-06-01', minutes: 600 }],
  ]);
  const again = entriesShowing(later, kept);
  expect(visibilityOf(again)).toEqual(visibilityOf(first));
  expect([again.get('variant/s'), again.has('variant/t')]).toEqual([first.get('variant/s'), false]);
  // Nothing else is touched.
  expect(again.get('sun')).toBe(later.get('sun'));
  expect(shownNow(new Map()).variants).toEqual({});
});
