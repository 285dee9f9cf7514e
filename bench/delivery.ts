import { openPage, type Peer } from '../server/testing/running-server';
import { ended, post, printOf, printsWhen } from '../server/prints/yard';
import type { ToPage } from '../core/project/live';
import { openSheet, refined, setStage } from '../e2e/stage';
import { report } from './report';

/** Delivery: pictures at a stated noise, what the queue costs, and a recording of the working picture. */

const NOISE = 0.1;
const stage = await setStage();
const peer: Peer<ToPage> = await openPage(stage.server);
await peer.next('model', ({ change }) => (change.elements ?? []).length > 100);
const camera = { position: [-7.5, -13.5, 1.65], target: [10, 3, 2.6], focalMm: 26 };
const still = { name: 'Bank', camera, width: 240, height: 135, quality: 'standard', noise: NOISE, seed: 1, denoise: true };

/** Seconds from one print's beginning to its end, and from the order to there. */
async function printed(order: object): Promise<{ seconds: number; id: string }> {
  const start = performance.now();
  const { id } = (await (await post(stage.server, '/api/prints', order)).json()) as { id: string };
  const now = await printsWhen(peer, ended([id]));
  if (printOf(now, id).state !== 'finished') throw new Error(String(printOf(now, id).fault));
  return { seconds: (performance.now() - start) / 1000, id };
}

report({ name: 'delivery.still', value: (await printed(still)).seconds, unit: 's', comparedWith: `240 x 135 to ${String(NOISE * 100)} % noise before denoising` }); // prettier-ignore
const round = { ...still, projection: { kind: 'equirectangular' }, width: 256, height: 128 };
report({ name: 'delivery.panorama', value: (await printed(round)).seconds, unit: 's', comparedWith: `256 x 128 all round to ${String(NOISE * 100)} % noise` }); // prettier-ignore

// Three pictures in a row against the time that they take by themselves: what lies between them is the queue's.
const own = { ...still, noise: undefined, quality: 'proof' };
const alone: number[] = [];
for (let i = 0; i < 2; i++) alone.push((await printed(own)).seconds);
const start = performance.now();
const prints: string[] = [];
for (let i = 0; i < 3; i++) prints.push(((await (await post(stage.server, '/api/prints', own)).json()) as { id: string }).id);
await printsWhen(peer, ended(prints));
const together = (performance.now() - start) / 1000;
const each = Math.min(...alone);
report({ name: 'delivery.queue-overhead', value: (together / (3 * each) - 1) * 100, unit: '%', comparedWith: 'three in the queue against three alone; under 3' }); // prettier-ignore

const page = await openSheet(stage, 'Views', { width: 1280, height: 800, pixels: 1 });
await refined(page, 0.2);
for (const [i, view] of ['From the bank', 'From the jetty'].entries()) {
  await page.getByRole('button', { name: view, exact: true }).first().click();
  await page.getByTestId(i === 0 ? 'walk-begin' : 'walk-stop').click();
}
const took = page.getByTestId('walk').getByLabel('Takes');
await took.fill('6');
await took.press('Enter');
const download = page.waitForEvent('download', { timeout: 120_000 });
const begun = performance.now();
await page.getByTestId('walk-record').click();
await download;
report({ name: 'delivery.recording', value: 6 / ((performance.now() - begun) / 1000), unit: 'x', comparedWith: 'playing time of a 1280 x 720 film of 6 s over the time to make it, metering among it; 0.5 or more' }); // prettier-ignore
console.log(await page.getByTestId('recorded').innerText());
await stage.close();
