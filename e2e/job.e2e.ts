import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Browser, Page } from 'playwright-core';
import { AuthorDocument } from '../author/edits';
import { writeIfc } from '../author/ifc-writer';
import { buildMarramLanding } from '../author/model/build';
import { removeFolder, startServer, temporaryFolder, type RunningServer } from '../server/testing/running-server';
import { goTo, leaveBrowser, newPage, ON_BARE_GROUND, openBrowser, overPicture, refined } from './stage';

/** The whole job, as docs/guide.md tells it: from an empty project and a model file to what the client opens. */

const folder = temporaryFolder();
let server: RunningServer;
let browser: Browser;
beforeAll(async () => {
  [server, browser] = await Promise.all([startServer(path.join(folder, 'data'), '--name', 'Marram Landing'), openBrowser()]);
});
afterAll(async () => {
  await leaveBrowser(browser);
  await server.kill('SIGTERM');
  removeFolder(folder);
});

/** What stands: little enough for its light to be baked while one waits. */
const BUILT = new Set(['Wall', 'Slab', 'Roof', 'Column', 'Site']);
function houseAsIfc(): Buffer {
  const tool = new AuthorDocument();
  for (const edit of ON_BARE_GROUND) tool.run(edit);
  const model = buildMarramLanding(tool.parameters);
  const elements = new Map([...model.elements].filter(([, element]) => BUILT.has(element.class)));
  return Buffer.from(writeIfc({ ...model, elements, luminaires: new Map() }));
}
const title = (page: Page) => page.getByTestId('title-block');

it('goes from an empty project and an IFC file by finishes, light, planting and a view to prints and a viewer that opens without network', async () => {
  const page = await newPage(browser);
  page.on('pageerror', (error) => { throw error; }); // prettier-ignore
  await page.goto(server.url);

  // 1 and 2: the model.
  await page.getByTestId('model-file').setInputFiles({ name: 'landing.ifc', mimeType: 'application/octet-stream', buffer: houseAsIfc() });
  await page.getByTestId('link-state').getByText('in step').waitFor();
  await page.keyboard.press('Control+k');
  await page.getByLabel('Find by name').fill('all of the building');
  await page.keyboard.press('Enter');
  await refined(page, 0.2);

  // 3: a finish for a row of the schedule, from the library.
  await goTo(page, 'Finishes');
  const row = page.locator('[data-material]').first();
  await row.locator('.line').click();
  await row.getByTestId('finish-select').selectOption('brick');
  await row.getByText('Set by hand').waitFor();

  // 4: the sun by keys, and a lamp by a click.
  await goTo(page, 'Light');
  await page.getByTestId('day-band').focus();
  const before = await page.getByTestId('time').innerText();
  await page.keyboard.press('ArrowRight');
  await expect.poll(() => page.getByTestId('time').innerText()).not.toBe(before);
  await page.getByRole('tab', { name: 'Luminaires' }).click();
  await page.getByTestId('place-lamps').click();
  const at = await overPicture(page, 0.5, 0.6);
  await page.mouse.click(at.x, at.y);
  await page.locator('[data-circuit="Placed here"]').waitFor();
  await page.getByTestId('placing').getByRole('button', { name: 'done' }).click();

  // 5: planting and people.
  await goTo(page, 'Setting');
  await page.getByTestId('planting-plan').locator('svg').waitFor();
  const plan = (await page.getByTestId('planting-plan').boundingBox())!;
  for (const [thing, x] of [['birch', 0.15], ['person-waiting', 0.2]] as const) {
    await page.locator(`[data-thing=${thing}] .giver`).click();
    await page.getByTestId('set-strip').getByTestId('set-pattern').selectOption('one');
    await page.mouse.click(plan.x + plan.width * x, plan.y + plan.height * 0.3);
    await page.getByTestId('set-said').getByText('set').waitFor();
    await page.getByTestId('set-strip').getByRole('button', { name: 'Done' }).click();
  }

  // 6 and 7: a view, kept; and a section of it.
  await goTo(page, 'Views');
  await page.getByTestId('view-width').fill('96');
  await page.getByTestId('view-width').press('Tab');
  await page.getByLabel('Keep it as').fill('For the council');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await title(page).getByText('For the council').waitFor();

  // 8: pictures by the register.
  await goTo(page, 'Delivery');
  await page.getByRole('tab', { name: 'Register' }).click();
  await page.getByRole('checkbox', { name: 'For the council, as shown' }).check();
  await page.getByTestId('print-quality').selectOption('proof');
  await page.getByTestId('register-order').click();
  await page.getByTestId('print').first().waitFor();

  // 9: the viewer, its light as a try.
  await page.getByRole('tab', { name: 'Viewer' }).click();
  await page.getByTestId('viewer-quality').selectOption('a try');
  await page.getByTestId('viewer-order').click();
  await page.locator('[data-testid=viewer][data-state=finished]').waitFor();
  const download = page.waitForEvent('download');
  await page.getByTestId('viewer-download').click();
  const file = path.join(folder, 'client.html');
  writeFileSync(file, readFileSync(await (await download).path()));
  await page.context().close();

  // 10: at the client's.
  const client = await browser.newContext({ offline: true, viewport: { width: 320, height: 200 } });
  const opened = await client.newPage();
  opened.on('pageerror', (error) => { throw error; }); // prettier-ignore
  await opened.goto(`file://${file}`);
  await opened.waitForFunction(() => Number(document.querySelector<HTMLElement>('canvas')?.dataset['drawn']) > 0);
  await opened.getByText('Marram Landing · For the client').waitFor();
  await client.close();
}); // prettier-ignore
