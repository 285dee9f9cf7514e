import { cpSync } from 'node:fs';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { goTo, modelArrived, openSheet, refined, setStage } from '../e2e/stage';
import { removeFolder, startServer } from '../server/testing/running-server';
import { report } from './report';

/**
 * Server start with the demo project to listening; page load to the first picture and to the first one at rest; how soon the picture is
 * clean again after a change at rest; and how fast it follows what a person does.
 */

/** Picture frames while pointer moves go on for so long. */
const DRAG_MS = 5000;
const MOVES = 40;

const frames = (page: Page) => page.getByTestId('working-picture').evaluate((canvas) => Number(canvas.dataset['frames']));
const since = (start: number) => performance.now() - start;

/** Moves the pointer along a line and back for a while, as fast as the page takes it; frames a second, and from the last move to its picture. */
async function drag(page: Page, at: (share: number) => { x: number; y: number }): Promise<{ fps: number; lastMs: number }> {
  const first = at(0);
  await page.mouse.move(first.x, first.y);
  await page.mouse.down();
  const [begun, before] = [performance.now(), await frames(page)];
  for (let i = 0; since(begun) < DRAG_MS; i++) {
    const { x, y } = at(0.5 - 0.5 * Math.cos((i / MOVES) * 2 * Math.PI));
    await page.mouse.move(x, y);
  }
  const fps = (((await frames(page)) - before) * 1000) / since(begun);
  const [last, seen] = [performance.now(), await frames(page)];
  const { x, y } = at(0.37);
  await page.mouse.move(x, y);
  await page.waitForFunction(
    (n) => Number(document.querySelector<HTMLElement>('[data-testid=working-picture]')!.dataset['frames']) > n,
    seen,
  );
  const lastMs = since(last);
  await page.mouse.up();
  return { fps, lastMs };
}

const stage = await setStage();
const warm = await openSheet(stage, 'Finishes');
await modelArrived(warm);
await warm.close();
const copy = path.join(stage.folder, 'copy');
cpSync(path.join(stage.folder, 'data'), copy, { recursive: true });
let start = performance.now();
const server = await startServer(copy);
report({ name: 'start.server', value: since(start), unit: 'ms', comparedWith: 'process start to listening' });
await server.kill('SIGTERM');
removeFolder(copy);

start = performance.now();
const page = await openSheet(stage, 'Finishes', { width: 1280, height: 800, pixels: 1 });
await refined(page, 0.01);
report({ name: 'start.first-picture', value: since(start), unit: 'ms', comparedWith: 'page load to the kernel’s first denoised picture; at most 8000' }); // prettier-ignore
await refined(page, 0.2);
report({ name: 'start.first-whole', value: since(start), unit: 'ms', comparedWith: 'page load to the first denoised picture of the whole size' }); // prettier-ignore
await refined(page, 1);
report({ name: 'start.first-refined', value: since(start), unit: 'ms', comparedWith: 'page load to one sample a pixel, denoised' });
await refined(page, 2);

const picture = (await page.getByTestId('picture').boundingBox())!;
const inPicture = (x: number, y: number) => ({ x: picture.x + picture.width * x, y: picture.y + picture.height * y });
const pixels = `${String(Math.round(picture.width))} x ${String(Math.round(picture.height))}`;

/** From a step to the first denoised picture of the whole size after it. */
async function afterChange(name: string, change: () => Promise<void>): Promise<void> {
  await refined(page, 1);
  const seen = await frames(page);
  start = performance.now();
  await change();
  await page.waitForFunction(
    (n) => Number(document.querySelector<HTMLElement>('[data-testid=working-picture]')!.dataset['frames']) > n,
    seen,
  );
  report({ name: `start.after-${name}.first`, value: since(start), unit: 'ms', comparedWith: 'to the moving picture' });
  await refined(page, 0.2);
  report({
    name: `start.after-${name}`,
    value: since(start),
    unit: 'ms',
    comparedWith: `to a denoised picture of ${pixels}; at most 4000`,
  });
}
const band = (await page.getByTestId('day-band').boundingBox())!;
const inBand = (share: number) => ({ x: band.x + band.width * share, y: band.y + band.height / 2 });
await afterChange('sun', async () => {
  const { x, y } = inBand(0.5);
  await page.mouse.click(x, y);
});
await afterChange('edit', () => stage.author.edit({ edit: 'move-wall', metres: 0.4 }));
await page.locator('[data-material=cladding] .line').click();
const slider = page.locator('[data-material=cladding]').getByTestId('brightness');
await afterChange('finish', async () => {
  await slider.fill('1.3');
  await slider.dispatchEvent('change');
});

await refined(page, 1);
const seen = await frames(page);
start = performance.now();
await slider.fill('0.9');
await slider.dispatchEvent('input');
await page.waitForFunction(
  (n) => Number(document.querySelector<HTMLElement>('[data-testid=working-picture]')!.dataset['frames']) > n,
  seen,
);
report({ name: 'react.finish-ms', value: since(start), unit: 'ms', comparedWith: 'a slider of a finish to the picture with it' });
await slider.dispatchEvent('change');

await goTo(page, 'Light');
const hour = await drag(page, (share) => inBand(0.38 + 0.3 * share));
report({ name: 'react.hour-fps', value: hour.fps, unit: 'frames/s', comparedWith: 'at least 4; 1280 x 800, no GPU' });
report({ name: 'react.hour-last-ms', value: hour.lastMs, unit: 'ms', comparedWith: 'the last position on the screen; at most 400' });
const orbit = await drag(page, (share) => inPicture(0.35 + 0.3 * share, 0.5));
report({ name: 'react.orbit-fps', value: orbit.fps, unit: 'frames/s', comparedWith: 'at least 5; 1280 x 800, no GPU' });
report({ name: 'react.orbit-last-ms', value: orbit.lastMs, unit: 'ms', comparedWith: 'the last position on the screen; at most 400' });
await stage.close();
