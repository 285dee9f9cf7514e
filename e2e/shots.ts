import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import type { Page } from 'playwright-core';
import { decodeMaps } from '../core/finish/maps/generate';
import { keepConditions } from '../scripts/demo-conditions.mjs';
import { keepSetting } from '../scripts/demo-setting.mjs';
import { START_CAMERA } from '../web/app/state/picture-state';
import { modelArrived, openSheet, refined, setStage } from './stage';

/** One current picture of each main view. */
const FOLDER = 'docs/screenshots';
const SIZE = { width: 1280, height: 800 };
const SAMPLES = 8;
/** Names of pictures to take; all of them without any. */
const wanted = new Set(process.argv.slice(2));
const wants = (...names: string[]): boolean => wanted.size === 0 || names.some((name) => wanted.has(name));

mkdirSync(FOLDER, { recursive: true });
const stage = await setStage({}, []);
await keepConditions(stage.server.url);
await keepSetting(stage.server.url);
const page = await openSheet(stage, 'Finishes', { ...SIZE, pixels: 1 });
// Pictures that are fit to show take minutes here.
page.setDefaultTimeout(900_000);
await modelArrived(page);

async function go(to: Page, view: string): Promise<void> {
  await to.getByRole('button', { name: /Views/ }).click();
  await to.getByRole('button', { name: view, exact: true }).first().click();
}

/** The folders of this very run are nobody's business. */
async function hidePaths(): Promise<void> {
  const folders = page.getByTestId('watch-folders');
  if (await folders.count()) await folders.evaluate((code) => { code.textContent = 'the project’s folder models'; }); // prettier-ignore
}

async function shot(name: string, samples = SAMPLES): Promise<void> {
  if (!wants(name)) return;
  await page.mouse.move(200, 790);
  await refined(page, samples);
  await hidePaths();
  await page.screenshot({ path: `${FOLDER}/${name}.png` });
  console.log(name);
}

/** What the client opens, with its light baked. */
async function viewerShot(): Promise<void> {
  const { url } = stage.server;
  const order = {
    name: 'For the council',
    looks: [{ name: 'October afternoon' }],
    views: [{ name: 'From the bank', camera: START_CAMERA }],
    samples: 48,
  };
  await fetch(`${url}/api/viewers`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(order) });
  let made: { id: string; state: string } | undefined;
  while (made?.state !== 'finished') {
    await new Promise((resolve) => setTimeout(resolve, 1000));
    [made] = ((await (await fetch(`${url}/api/viewers`)).json()) as { viewers: { id: string; state: string }[] }).viewers;
    if (made?.state === 'failed') throw new Error('The viewer was not made.');
  }
  const file = path.join(stage.folder, 'viewer.html');
  writeFileSync(file, Buffer.from(await (await fetch(`${url}/api/viewers/${made.id}/file`)).arrayBuffer()));
  const client = await stage.browser.newPage({ viewport: SIZE });
  await client.goto(`file://${file}`);
  await client.waitForFunction(
    () =>
      Number(document.querySelector<HTMLElement>('canvas')?.dataset['drawn']) > 1 &&
      document.querySelector<HTMLElement>('canvas')!.dataset['whole'] === 'true',
    undefined,
    {
      timeout: 400_000,
    },
  );
  await client.screenshot({ path: `${FOLDER}/viewer.png` });
  console.log('viewer');
}

/** Stands for a photograph: rubble stone that the sun falls on from the left. */
async function quayWall(): Promise<Buffer> {
  const { size, base } = decodeMaps(new Uint8Array(readFileSync('dist/maps/rubble.maps')));
  const [width, height] = [900, 640];
  const pixels = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let k = 0; k < 3; k++) {
        const from = (((y * 2) % size) * size + ((x * 2) % size)) * 4 + k;
        pixels[(y * width + x) * 3 + k] = Math.min(255, base[from]! * (1.25 - (0.6 * x) / width));
      }
  return sharp(pixels, { raw: { width, height, channels: 3 } })
    .jpeg({ quality: 90 })
    .toBuffer();
}

await go(page, 'From the bank');
await page.getByRole('button', { name: /Finishes/ }).click();
await page.locator('[data-material=cladding] .line').click();
await shot('finishes');
await page.getByRole('tab', { name: 'Library' }).click();
if (wants('library'))
  // Until what is in view has been rendered.
  await page.waitForFunction(() => {
    const bottom = document.querySelector('[data-testid=library]')?.getBoundingClientRect().bottom ?? 0;
    const shown = [...document.querySelectorAll<HTMLElement>('dp-swatch .large')].filter((s) => s.getBoundingClientRect().top < bottom - 2);
    return shown.length > 0 && shown.every((s) => s.style.backgroundImage.includes('preview.png'));
  }, undefined, { timeout: 400_000 }); // prettier-ignore
await shot('library', 1);
if (wants('photograph')) {
  await page.getByTestId('photo-file').setInputFiles({ name: 'Quay wall.jpg', mimeType: 'image/jpeg', buffer: await quayWall() });
  await page.getByTestId('photo-across').fill('1900');
  await page.getByTestId('photo-across').dispatchEvent('change');
  await page.waitForFunction(() => (document.querySelector<HTMLCanvasElement>('[data-testid=photo-preview]')?.width ?? 0) > 300);
  await shot('photograph');
  await page.getByRole('button', { name: 'Leave it' }).click();
}
await go(page, 'Waiting hall');
await shot('hall');
await page.getByRole('button', { name: /Light/ }).click();
await go(page, 'Terrace, east');
await page.getByRole('button', { name: /Light/ }).click();
/** A kept state of light, once the picture has begun to show it. */
async function recall(condition: string): Promise<void> {
  await page.getByRole('button', { name: `Recall ${condition}` }).click();
  await page.waitForFunction(() => Number(document.querySelector<HTMLElement>('[data-testid=refined-picture]')!.dataset['samples']) < 1);
}
await recall('Dusk with lamps');
if (wants('light')) await page.waitForFunction(() => document.querySelectorAll('.slip img').length === 4, undefined, { timeout: 120_000 });
await shot('light');
if (wants('exposure')) {
  await recall('Morning mist');
  await page.getByRole('tab', { name: 'Exposure' }).click();
  await shot('exposure');
}
if (wants('contact-sheet')) {
  await page.getByRole('tab', { name: 'Sun and site' }).click();
  await page.getByRole('button', { name: 'hours', exact: true }).click();
  await page.getByText('12 of 12').waitFor({ timeout: 120_000 });
  await shot('contact-sheet', 0);
  await page.keyboard.press('Escape');
}
await recall('October afternoon');
if (wants('views')) {
  for (const [i, view] of ['From the bank', 'From the jetty', 'Waiting hall'].entries()) {
    await go(page, view);
    await page.getByTestId(i === 0 ? 'walk-begin' : 'walk-stop').click();
    await page.getByTestId('walk').getByText(view).waitFor();
  }
  await page.getByText('at walking pace').click();
  await page.getByTestId('walk-play').scrollIntoViewIfNeeded();
  await shot('views');
}
if (wants('section')) {
  await go(page, 'Over the water');
  await page.getByTestId('section-level').click();
  await page.getByTestId('section').waitFor();
  await page.getByTestId('section-offset').fill('2.4');
  await page.getByTestId('section-flip').scrollIntoViewIfNeeded();
  await shot('section');
  await page.getByRole('button', { name: 'Drop section Section 1' }).click();
}
await page.getByRole('button', { name: /Source/ }).click();
await shot('source');
await page.getByRole('tab', { name: 'Elements' }).click();
await shot('elements', 1);
if (wants('compare')) {
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
await go(page, 'Over the water');
await page.getByRole('button', { name: /Setting/ }).click();
await page.getByRole('tab', { name: 'Schedule' }).click();
await page.getByTestId('planting-plan').locator('svg').waitFor();
await shot('setting', 16);
await go(page, 'From the jetty');
const band = (await page.getByTestId('day-band').boundingBox())!;
await page.mouse.click(band.x + band.width * (18.6 / 24), band.y + 10);
await shot('dusk', 16);
await page.getByRole('button', { name: /Delivery/ }).click();
if (wants('delivery')) {
  // The order has the exposure of what is seen.
  await refined(page, 1);
  await page.getByTestId('print-width').fill('320');
  await page.getByTestId('print-height').fill('180');
  await page.getByTestId('print-quality').selectOption('proof');
  await page.getByTestId('print-denoise').check();
  await page.getByTestId('print-order').click();
  await page.locator('[data-testid=print][data-state=finished]').waitFor({ timeout: 400_000 });
  await shot('delivery', 1);
}
await page.getByRole('tab', { name: 'Register' }).click();
for (const cell of ['From the bank, as shown', 'From the bank, Dusk with lamps', 'Waiting hall, Dusk with lamps', 'Café bar, Winter night'])
  await page.getByRole('checkbox', { name: `${cell}, Folded roof` }).check();
await shot('register', 1);
if (wants('walk')) {
  await page.getByRole('button', { name: /Views/ }).click();
  for (const [i, view] of ['From the bank', 'Waiting hall', 'Over the water'].entries()) {
    await page.getByRole('button', { name: view, exact: true }).first().click();
    await page.getByTestId(i === 0 ? 'walk-begin' : 'walk-stop').click();
    await page.getByTestId('walk').getByText(view).waitFor();
  }
  await page.getByLabel('How stop 3 is come to').selectOption('dissolve');
  await page.getByTestId('walk-open').click();
  await page
    .getByTestId('walk-profile')
    .getByRole('slider')
    .click({ position: { x: 320, y: 20 } });
  await shot('walk', 2);
}
// Beside a page that refines, the browser may refuse to take another's picture.
await page.close();
const author = await stage.browser.newPage({ viewport: SIZE });
await author.goto(stage.author.url);
await author.getByText('in step').waitFor();
if (wants('author')) await author.screenshot({ path: `${FOLDER}/author.png` });
if (wants('viewer')) await viewerShot();
await stage.close();
