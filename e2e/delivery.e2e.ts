import { readFileSync } from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { unzipSync } from 'fflate';
import type { Download, Page } from 'playwright-core';
import sharp from 'sharp';
import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import { keepConditions } from '../scripts/demo-conditions.mjs';
import { setStage, type TheStage } from './stage';

/** What a client is sent, from one picture to the matrix. */

let stage: TheStage;
beforeAll(async () => {
  // What lies about the building is no matter here, and is what pictures of it take longest for.
  stage = await setStage({}, ['Site', 'Planting'].map((layer) => ({ edit: 'layer', layer, visible: false }))); // prettier-ignore
  await keepConditions(stage.server.url);
});
afterEach((context) => stage.closePages(context));
afterAll(() => stage.close());

const files = async (download: Promise<Download>) => unzipSync(new Uint8Array(readFileSync(await (await download).path())));

async function openRegister(page: Page): Promise<void> {
  await page.getByRole('tab', { name: 'Register' }).click();
  await page.getByTestId('register').waitFor();
  await page.getByTestId('print-of').waitFor({ state: 'detached' });
}

async function setSize(page: Page, width: number, height?: number): Promise<void> {
  await page.getByTestId('print-width').fill(String(width));
  if (height !== undefined) await page.getByTestId('print-height').fill(String(height));
  await page.getByTestId('print-quality').selectOption('proof');
}

it('a marked part of the picture is printed with its channels, and its state is shown again', async () => {
  const page = await stage.sheet('Delivery');
  await setSize(page, 64, 36);
  await page.getByTestId('mark-region').click();
  const box = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.25, box.y + box.height * 0.25);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.75, box.y + box.height * 0.75, { steps: 4 });
  await page.mouse.up();
  await page.getByText('32 × 18 px').waitFor();
  await page.getByText('Channels, seed, start').click();
  for (const channel of ['depth', 'elements']) await page.locator(`[data-channel=${channel}]`).check();
  const hour = await page.getByTestId('title-block').innerText();
  await page.getByTestId('print-order').click();
  const print = page.getByTestId('print').first();
  await page.locator('[data-testid=print][data-state=finished]').waitFor();
  const download = page.waitForEvent('download');
  await print.getByTestId('print-download').click();
  const made = await files(download);
  expect(Object.keys(made).sort()).toEqual(['about.json', 'channels.exr', 'legend of masks.csv', 'mask of elements.png', 'picture.png']);
  expect(await sharp(made['picture.png']).metadata()).toMatchObject({ width: 32, height: 18 });
  const band = (await page.getByTestId('day-band').boundingBox())!;
  await page.mouse.click(band.x + band.width * 0.5, band.y + 10);
  await expect.poll(() => page.getByTestId('title-block').innerText()).not.toContain(/\d\d:\d\d/.exec(hour)![0]);
  await print.getByRole('button', { name: 'Show again' }).click();
  await page
    .getByTestId('title-block')
    .getByText(/\d\d:\d\d/.exec(hour)![0])
    .waitFor();
  // What is chosen holds for the next orders too.
  await page.getByRole('tab', { name: 'One picture' }).click();
  await page.getByText('The whole').click();
  await page.getByText('Channels, 2, seed, start').click();
  for (const channel of ['depth', 'elements']) await page.locator(`[data-channel=${channel}]`).uncheck();
});

it('views under two conditions go from the register to a zip with an index and a transmittal', async () => {
  const page = await stage.sheet('Delivery');
  await openRegister(page);
  await setSize(page, 32, 18);
  for (const cell of ['Waiting hall, as shown, Folded roof', 'Waiting hall, Dusk with lamps, Folded roof']) await page.getByRole('checkbox', { name: cell }).check();
  await page.getByTestId('delivery-pattern').fill('{number} {view} {weather}');
  await page.getByTestId('pattern-fault').waitFor();
  await page.getByTestId('delivery-pattern').fill('{number} {view} {condition}');
  await page.getByTestId('pattern-preview').getByText('01 Waiting hall … 02 Waiting hall Dusk with lamps').waitFor();
  await page.getByTestId('delivery-name').fill('Council');
  await page.getByTestId('register-order').click();
  await page.getByRole('tab', { name: 'Transmittal' }).click();
  const delivery = page.getByTestId('delivery').filter({ hasText: 'Council' });
  await delivery.getByTestId('delivery-download').waitFor();
  const download = page.waitForEvent('download');
  await delivery.getByTestId('delivery-download').click();
  const made = await files(download);
  expect(Object.keys(made).filter((name) => !name.startsWith('small/'))).toEqual(['index.html', 'transmittal.pdf', '01 Waiting hall.png', '02 Waiting hall Dusk with lamps.png']);
  await page.getByRole('tab', { name: 'Register' }).click();
  await page.getByRole('checkbox', { name: 'Waiting hall, Dusk with lamps, Folded roof' }).locator('xpath=..').getByText('●').waitFor();
}); // prettier-ignore

it('all-round pictures become a tour, which opens from a file with the network off', async () => {
  const page = await stage.sheet('Delivery');
  await openRegister(page);
  await page.getByTestId('register-tour').check();
  // The form is another one from now on.
  await page.getByTestId('print-round-width').waitFor();
  await setSize(page, 32);
  for (const view of ['Waiting hall', 'Café bar']) for (const state of ['as shown', 'Dusk with lamps']) await page.getByRole('checkbox', { name: `${view}, ${state}, Folded roof` }).check();
  await page.getByTestId('delivery-name').fill('A walk round');
  await page.getByTestId('register-order').click();
  await page.getByRole('tab', { name: 'Transmittal' }).click();
  const delivery = page.getByTestId('delivery').filter({ hasText: 'A walk round' });
  await delivery.getByText('A tour of 2 points').waitFor();
  const folder = await delivery.locator('.folder').innerText();

  const context = await stage.browser.newContext({ offline: true, viewport: { width: 900, height: 560 } });
  const client = await context.newPage();
  const faults: string[] = [];
  client.on('pageerror', (error) => faults.push(error.message));
  client.on('requestfailed', (request) => faults.push(request.url()));
  await client.goto(pathToFileURL(path.join(folder, 'tour.html')).href);
  const shown = client.locator('canvas[data-shown="As shown, Folded roof"]');
  await shown.waitFor();
  expect(await shown.getAttribute('data-point')).toBe('Waiting hall');
  // The same point under another condition, looking where one looked.
  const azimuth = await shown.getAttribute('data-azimuth');
  await client.getByRole('button', { name: 'Dusk with lamps, Folded roof' }).click();
  const dusk = client.locator('canvas[data-shown="Dusk with lamps, Folded roof"]');
  await dusk.waitFor();
  expect(await dusk.getAttribute('data-azimuth')).toBe(azimuth);
  // To the other point: turned until its hotspot is seen, or by the plan.
  const spot = client.locator('.spots button');
  for (let i = 0; i < 60 && !(await spot.isVisible()); i++) await client.keyboard.press('ArrowRight');
  await spot.click();
  await client.locator('canvas[data-point="Café bar"][data-shown="Dusk with lamps, Folded roof"]').waitFor();
  await client.getByRole('button', { name: 'To Waiting hall' }).click();
  await client.locator('canvas[data-point="Waiting hall"]').waitFor();
  expect(faults).toEqual([]);
  await context.close();

  // A link is taken away, and the file is made anew without it.
  await delivery.getByText('A tour of 2 points').click();
  await delivery.getByRole('checkbox', { name: 'Waiting hall – Café bar' }).uncheck();
  await delivery.getByText('0 links').waitFor();
  await expect.poll(() => readFileSync(path.join(folder, 'tour', 'index.html'), 'utf8').includes('"links":[]')).toBe(true);
}); // prettier-ignore

it('a walk of three views with a cut is scrubbed in its profile, told where it goes through a wall, and becomes films', async () => {
  const page = await stage.sheet('Views');
  const look = (view: string) => page.getByRole('button', { name: view, exact: true }).first().click();
  await look('From the bank');
  await page.getByTestId('walk-begin').click();
  const walk = page.getByTestId('walk');
  for (const view of ['Waiting hall', 'Over the water']) {
    await look(view);
    await page.getByTestId('walk-stop').click();
    await walk.getByText(view).waitFor();
  }
  await page.getByLabel('How stop 3 is come to').selectOption('cut');
  await page.getByLabel('Held at stop 3, seconds').fill('0.1');
  await page.getByLabel('Held at stop 3, seconds').press('Enter');
  await walk.getByLabel('Takes').fill('0.4');
  await walk.getByLabel('Takes').press('Enter');
  await walk.getByLabel('Light at stop 3').click();
  await page.getByLabel('Condition from stop 3').selectOption({ label: 'Dusk with lamps' });
  await page.getByTestId('walk-open').click();
  const profile = page.getByTestId('walk-profile');
  await profile.getByText('0.5 s, 17.9 m').waitFor();
  await page.getByTestId('walk-faults').getByText('goes through something').waitFor();
  await profile.getByRole('slider').press('End');
  await page.getByTestId('title-block').getByText('40 mm').waitFor();
  await page.getByTestId('title-block').getByText('18:35').waitFor();
  await profile.getByRole('slider').press('Home');
  await page.getByTestId('title-block').getByText('26 mm').waitFor();
  await page.getByTestId('title-block').getByText('16:00').waitFor();

  const recording = page.waitForEvent('download');
  await page.getByTestId('walk-record').click();
  expect((await recording).suggestedFilename()).toMatch(/^Walk 1\.(mp4|webm)$/);
  await page.getByTestId('recorded').getByText('by this browser').waitFor();
  await profile.getByRole('button', { name: 'Back to the day' }).click();
  await page.getByTestId('day-band').waitFor();

  await page.getByRole('navigation').getByRole('button', { name: 'Delivery' }).click();
  await page.getByRole('tab', { name: 'One picture' }).click();
  await page.getByTestId('print-of').selectOption({ label: 'Walk 1, a walk' });
  await setSize(page, 32, 18);
  await page.getByTestId('print-denoise').uncheck();
  await page.getByTestId('print-rate').selectOption('24');
  await page.getByTestId('print-order').click();
  const print = page.getByTestId('print').filter({ hasText: 'Walk 1' });
  await print.getByTestId('walk-watch').waitFor();
  const made = page.waitForEvent('download');
  const onServer = print.getByTestId('film-download');
  if (await onServer.isVisible()) await onServer.click();
  else await print.getByTestId('film-make').click();
  const film = readFileSync(await (await made).path());
  // An MP4 tells its kind after four bytes of length (ISO 14496-12); a WebM begins as EBML does.
  expect([film.subarray(4, 8).toString('latin1'), film.subarray(0, 4).toString('hex')]).toSatisfy(([mp4, webm]: string[]) => mp4 === 'ftyp' || webm === '1a45dfa3');
}); // prettier-ignore
