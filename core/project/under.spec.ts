import { expect, it } from 'vitest';
import { entriesUnder, timeOfCondition } from './under';
import type { Entries } from './project';

const sun = { date: '2026-10-09', minutes: 1120 };
const entries: Entries = new Map<string, unknown>([
  ['sun', { date: '2026-06-21', minutes: 600, byHand: { altitudeDeg: 20, azimuthDeg: 90 } }],
  ['variant/s', { option: 'a', phase: 'built' }],
  ['condition/dusk', { name: 'Dusk', sun: { sun, sky: null, weather: null } }],
  ['condition/hand', { name: 'Hand', sun: { sun: { ...sun, byHand: { altitudeDeg: 3, azimuthDeg: 0 } }, sky: null, weather: null } }],
]);

it('a project is seen under a condition, with an option of a source, and at a time of day, all else as it is', () => {
  const seen = entriesUnder(entries, { condition: 'dusk', option: { source: 's', option: 'b' }, minutes: 1000 })!;
  expect(seen.get('sun')).toEqual({ date: sun.date, minutes: 1000 });
  expect(seen.get('variant/s')).toEqual({ option: 'b', phase: 'built' });
  expect(entriesUnder(entries, { minutes: 660 })!.get('sun')).toEqual({ date: '2026-06-21', minutes: 660 });
  const shown = { visibility: { decisions: { 'class/s/Wall': false }, isolated: [] }, variants: { s: { option: 'c', phase: null } } };
  const showing = entriesUnder(entries, { shown, option: { source: 's', option: 'b' } })!;
  expect([showing.get('visibility'), showing.get('variant/s')]).toEqual([shown.visibility, { option: 'b', phase: null }]);
  expect(entriesUnder(entries, {})).toBe(entries);
  expect(entriesUnder(entries, { condition: 'dropped' })).toBeUndefined();
  expect(['dusk', 'hand', 'dropped'].map((id) => timeOfCondition(entries, id))).toEqual([1120, undefined, undefined]);
});
