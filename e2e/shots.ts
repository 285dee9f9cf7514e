import { mkdirSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { modelArrived, openSheet, refined, setStage } from './stage';

/** One current picture of each main view. */
const FOLDER = 'docs/screenshots';
const SIZE = { width: 1280, height: 800 };
const SAMPLES = 20;
/** Names of pictures to take; all of them without any. */
const wanted = new Set(process.argv.slice(2));

mkdirSync(FOLDER, { recursive: true });
const stage = await setStage();
const page = await openSheet(stage, 'finishes', SIZE);
await modelArrived(page);

async function go(to: Page, view: string): Promise<void> {
  await to.getByRole('button', { name: /Views/ }).click();
  await to.getByRole('button', { name: view, exact: true }).click();
}

/** The folders of this very run are nobody's business. */
async function hidePaths(): Promise<void> {
  const folders = page.getByTestId('watch-folders');
  if (await folders.count()) await folders.evaluate((code) => { code.textContent = 'the project’s folder models'; }); // prettier-ignore
}

async function shot(name: string, samples = SAMPLES): Promise<void> {
  if (wanted.size > 0 && !wanted.has(name)) return;
  await page.mouse.move(200, 790);
  await refined(page, samples, 600_000);
  await hidePaths();
  await page.screenshot({ path: `${FOLDER}/${name}.png` });
  console.log(name);
}

await go(page, 'From the bank');
await page.getByRole('button', { name: /Finishes/ }).click();
await page.locator('[data-material=cladding] .line').click();
await shot('finishes');
await page.getByRole('tab', { name: 'Library' }).click();
await shot('library', 1);
await go(page, 'Waiting hall');
await shot('hall');
await page.getByRole('button', { name: /Light/ }).click();
await go(page, 'Terrace, east');
await page.getByRole('button', { name: /Light/ }).click();
await shot('light');
await page.getByRole('button', { name: /Source/ }).click();
await shot('source');
await page.getByRole('tab', { name: 'Elements' }).click();
await shot('elements', 1);
if (wanted.size === 0 || wanted.has('compare')) {
  await page.getByRole('tab', { name: 'Sources' }).click();
  await stage.author.edit({ edit: 'move-wall', metres: 1.2 });
  await stage.author.edit({ edit: 'delete-column', column: 'column-s3' });
  await page.getByText('Last update: 2 removed.').waitFor();
  await go(page, 'From the bank');
  await page.getByRole('button', { name: /Source/ }).click();
  await page.getByRole('button', { name: 'Revisions' }).click();
  await page.getByRole('button', { name: 'Compare with revision 1' }).click();
  await page.getByText('Compared with revision 1').waitFor();
  // Until no more frames come: the last one is drawn at full resolution.
  await page.waitForFunction(() => {
    const state = window as { shotFrames?: string; shotSince?: number };
    const frames = document.querySelector<HTMLElement>('[data-testid=working-picture]')!.dataset['frames']!;
    if (state.shotFrames !== frames) [state.shotFrames, state.shotSince] = [frames, performance.now()];
    return performance.now() - state.shotSince! > 1500;
  });
  await hidePaths();
  await page.screenshot({ path: `${FOLDER}/compare.png` });
  console.log('compare');
  await page.getByRole('button', { name: 'Back to now' }).click();
  await stage.author.edit({ edit: 'start-over' });
}
await go(page, 'From the jetty');
const band = (await page.getByTestId('day-band').boundingBox())!;
await page.mouse.click(band.x + band.width * (18.6 / 24), band.y + 10);
await shot('dusk', 32);
await page.getByRole('button', { name: /Delivery/ }).click();
await page.getByTestId('print-width').fill('640');
await page.getByTestId('print-height').fill('360');
await page.getByTestId('print-quality').selectOption('proof');
await page.getByTestId('print-denoise').check();
await page.getByTestId('print-order').click();
await page.locator('[data-testid=print][data-state=finished]').waitFor({ timeout: 200_000 });
await shot('delivery', 1);
const author = await stage.browser.newPage({ viewport: SIZE });
await author.goto(stage.author.url);
await author.getByText('in step').waitFor();
await author.screenshot({ path: `${FOLDER}/author.png` });
await stage.close();
