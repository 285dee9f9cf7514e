import { FINISHES } from '../core/finish/library';
import { generateMaps, MAP_NAMES } from '../core/finish/maps/generate';
import { report } from './report';

/** Painting the shipped map sets at 1024 px, one after the other on one core. */

const seconds = new Map<string, number>();
for (const name of MAP_NAMES) {
  const start = performance.now();
  generateMaps(name);
  seconds.set(name, (performance.now() - start) / 1000);
}
const byFamily = new Map<string, [string, number][]>();
for (const [name, s] of seconds) {
  const { family } = FINISHES.find((f) => f.maps === name)!;
  byFamily.set(family, [...(byFamily.get(family) ?? []), [name, s]]);
}
for (const [family, sets] of byFamily) {
  const [slowest, most] = sets.reduce((a, b) => (b[1] > a[1] ? b : a));
  report({
    name: `finishes.maps.${family}`,
    value: most,
    unit: 's',
    comparedWith: `the slowest of ${String(sets.length)}, ${slowest}; at most 2`,
  });
}
report({
  name: 'finishes.maps.all',
  value: [...seconds.values()].reduce((a, b) => a + b, 0),
  unit: 's',
  comparedWith: `${String(seconds.size)} map sets`,
});
report({ name: 'finishes.shipped', value: FINISHES.length, unit: '', comparedWith: 'at least 120' });
