import { random } from '../core/random';
import { distanceFor, scatter } from '../core/setting/scatter';
import type { SetThing } from '../core/setting/set-thing';
import { decide } from '../scripts/demo-decisions.mjs';
import { openSheet, refined, setStage } from '../e2e/stage';
import { report } from './report';
import { turning } from './turning';

/** Setting: placing five thousand, and the demo with 20,000 plants and 200 people against the demo without. */

const start = performance.now();
const placed = scatter([[0, 0], [100, 0], [100, 100], [0, 100]], [], distanceFor(0.5, 0), 1, 20_000); // prettier-ignore
report({ name: 'setting.scatter', value: performance.now() - start, unit: 'ms', comparedWith: `${String(placed.length)} places of blue noise; 5,000 in under a second` }); // prettier-ignore

const next = random(4);
const set = (kind: string, count: number, at: () => [number, number, number], state?: string): { id: string; thing: SetThing } => ({
  id: `bench-${kind}`,
  thing: {
    name: kind, layer: 'Bench', of: [{ kind, share: 1 }], pattern: { kind: 'one' }, size: 1, spread: 0.2, seed: 1, ...(state && { state }),
    members: Array.from({ length: count }, at).flat(),
  },
}); // prettier-ignore
/** About the building, not in it. */
const about = (): [number, number, number] => [next() * 320 - 150, 32 + next() * 260, 1 + next() * 2];
const onTheQuay = (): [number, number, number] => [next() * 24, -3 + next() * 2, 0.9];
const SETS = [
  ...(['birch', 'pine', 'oak', 'hazel'] as const).map((kind) => set(kind, 1500, about, 'autumn')),
  ...(['reeds', 'meadow-white'] as const).map((kind) => set(kind, 7000, about)),
  ...(['person-standing', 'person-walking'] as const).map((kind) => set(kind, 100, onTheQuay, 'cold')),
];

const stage = await setStage();
const page = await openSheet(stage, 'Views', { width: 1280, height: 800, pixels: 1 });
await page.getByRole('button', { name: 'Over the water', exact: true }).first().click();
await refined(page, 0.2);
const without = await turning(page);
const asked = performance.now();
await decide(stage.server.url, [{ type: 'set-things', sets: SETS, name: 'Bench' }], () => true);
await page.getByRole('button', { name: 'From the bank', exact: true }).first().click();
await page.getByRole('button', { name: 'Over the water', exact: true }).first().click();
await refined(page, 0.2);
report({ name: 'setting.to-picture', value: (performance.now() - asked) / 1000, unit: 's', comparedWith: '20,000 plants and 200 people, from the decision to a refined picture' }); // prettier-ignore
const withPlants = await turning(page);
report({ name: 'setting.frame', value: withPlants / without, unit: 'x', comparedWith: `${without.toFixed(0)} ms without; 20,000 plants and 200 people; under 2` }); // prettier-ignore
await page.context().close();

// With a GPU the working picture is drawn by graphics; here a processor stands for one.
const drafted = await openSheet(stage, 'Views', { width: 1280, height: 800, pixels: 0.5 }, true);
await drafted.getByRole('button', { name: 'Over the water', exact: true }).first().click();
await drafted.waitForFunction(
  () => Number(document.querySelector<HTMLElement>('[data-testid=working-picture]')?.dataset['parts']) > 50_000,
);
const heap = () => drafted.evaluate(() => (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize / 1e6);
report({ name: 'setting.draft-heap', value: await heap(), unit: 'MB', comparedWith: 'of the page, with 20,000 plants and 200 people, drawn by WebGL' }); // prettier-ignore
report({ name: 'setting.draft-frame', value: await turning(drafted), unit: 'ms', comparedWith: 'the same, WebGL by the processor' }); // prettier-ignore
await stage.close();
