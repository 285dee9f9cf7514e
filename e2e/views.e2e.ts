import { readFileSync } from 'node:fs';
import { unzipSync } from 'fflate';
import type { Page } from 'playwright-core';
import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import { clickPlan, goTo, overPicture, refined, setStage, shownColour, type TheStage } from './stage';

/** Views: framed by lens, verticals, sharpness and shape; found again as they were kept; gone to in the key plan. */

let stage: TheStage;
beforeAll(async () => {
  stage = await setStage();
});
afterEach((context) => stage.closePages(context));
afterAll(() => stage.close());

it('a view is framed, kept with the shape of its picture, and is what is delivered; the key plan leads into the hall', async () => {
  const page = await stage.sheet('Views');
  const title = page.getByTestId('title-block');
  const shape = async () => {
    const { width, height } = (await page.getByTestId('picture').boundingBox())!;
    return width / height;
  };
  await page.getByRole('button', { name: 'Terrace, east', exact: true }).click();
  await title.getByText('30 mm').waitFor();
  await page.getByTestId('focal').fill('18');
  await page.getByTestId('focal').press('Tab');
  await page.getByTestId('lens-warning').getByText('Under 20 mm').waitFor();
  await page.getByTestId('focal').fill('35');
  await page.getByTestId('focal').press('Tab');
  await title.getByText('35 mm').waitFor();
  await page.getByTestId('upright').check();
  await page.getByTestId('aperture').selectOption('2.8');
  await page.getByTestId('sharp-range').getByText(/^sharp from \d/).waitFor();
  await page.getByTestId('view-shape').selectOption('4:5');
  await expect.poll(shape).toBeCloseTo(0.8, 1);
  await page.getByTestId('view-grid').selectOption('thirds');
  await page.getByTestId('grid').waitFor();
  await page.getByLabel('Keep it as').fill('Portrait');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.getByLabel('Folder', { exact: true }).fill('Council');
  await page.getByLabel('Folder', { exact: true }).press('Tab');
  await page.getByRole('heading', { name: 'Council' }).waitFor();

  // Parallel, in another shape, and back to what was kept.
  await page.getByTestId('view-projection').selectOption('plan');
  await title.getByText('m wide').waitFor();
  await page.getByTestId('view-shape').selectOption('16:9');
  await expect.poll(shape).toBeCloseTo(16 / 9, 1);
  await page.getByRole('button', { name: 'Portrait', exact: true }).click();
  await expect.poll(shape).toBeCloseTo(0.8, 1);
  await title.getByText('35 mm').waitFor();
  expect(await page.getByTestId('upright').isChecked()).toBe(true);
  await goTo(page, 'Delivery');
  expect([await page.getByTestId('print-width').inputValue(), await page.getByTestId('print-height').inputValue()]).toEqual(['1920', '2400']);

  // Into the hall by a click in the key plan, at eye height over its floor.
  await goTo(page, 'Views');
  const plan = page.getByTestId('key-plan');
  await plan.locator('canvas:not([data-drawn="0"])').waitFor();
  await clickPlan(plan, [[8, 5]]);
  const eye = async () => ((await page.getByTestId('working-picture').getAttribute('data-eye')) ?? '').split(' ').map(Number);
  await expect.poll(async () => Math.abs((await eye())[0]! - 8) < 0.3 && Math.abs((await eye())[1]! - 5) < 0.3).toBe(true);
  expect((await eye())[2]).toBeGreaterThan(1.5);
  expect((await eye())[2]).toBeLessThan(2.2);
  await page.getByRole('button', { name: 'Drop view Portrait' }).click();
}); // prettier-ignore

it('a section cuts the building open, a style shows it otherwise, and a view keeps both; all is found by name', async () => {
  const page = await stage.sheet('Views');
  const seen = () => shownColour(page, 0.56, 0.42, 0.06, 0.06);
  await page.getByRole('button', { name: 'Over the water', exact: true }).first().click();
  await refined(page, 1);
  const roof = await seen();
  await page.getByTestId('section-level').click();
  await page.getByTestId('section').waitFor();
  await page.getByTestId('section-offset').fill('2.1');
  await page.getByText('level, 2.10 m').waitFor();
  // Where the roof was, one looks into the hall.
  await expect.poll(async () => distance(roof, await seen())).toBeGreaterThan(25);
  await page.getByRole('checkbox', { name: 'Show section Section 1' }).uncheck();
  await expect.poll(async () => distance(roof, await seen())).toBeLessThan(15);
  await page.getByRole('checkbox', { name: 'Show section Section 1' }).check();

  await page.getByTestId('style').selectOption('line drawing');
  await expect.poll(async () => Math.min(...(await shownColour(page, 0.94, 0.02)))).toBeGreaterThan(230);
  await page.getByLabel('Keep it as').fill('Cut plan');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await page.getByTestId('view-update-style').click();
  await page.getByTestId('style').selectOption('key of finishes');
  await page.getByTestId('legend').getByRole('listitem').first().waitFor();
  const legend = page.waitForEvent('download');
  await page.getByTestId('legend-save').click();
  expect((await legend).suggestedFilename()).toBe('Key of finishes.svg');

  await page.keyboard.press('Control+k');
  await page.getByLabel('Find by name').fill('cut plan');
  await page.keyboard.press('Enter');
  await expect.poll(() => page.getByTestId('style').inputValue()).toBe('line drawing');
  await page.keyboard.press('Control+k');
  await page.getByLabel('Find by name').fill('photograph');
  await page.keyboard.press('Enter');
  await expect.poll(() => page.getByTestId('style').inputValue()).toBe('photograph');
  await page.keyboard.press('Control+k');
  await page.getByLabel('Find by name').fill('no sections');
  // A busy page tells of the last closing as late as this.
  await page.getByTestId('finder').dispatchEvent('close');
  await page.keyboard.press('Enter');
  await expect.poll(() => page.getByRole('checkbox', { name: 'Show section Section 1' }).isChecked()).toBe(false);
  await page.keyboard.press('?');
  await page.getByTestId('help').getByText('Views: the first steps').waitFor();
  await page.keyboard.press('Escape');

  // Styles are a direction of the register.
  await goTo(page, 'Delivery');
  await page.getByRole('tab', { name: 'Register' }).click();
  await page.getByRole('checkbox', { name: 'Cut plan, as shown', exact: false }).first().check();
  await page.getByTestId('register-style-white card').check();
  await page.getByTestId('pattern-preview').getByText('white card').waitFor();
  await page.getByTestId('register-about').getByText('2').waitFor();
});

it('the picture is seen once more in a window of its own, as it changes, until that is closed', async () => {
  const page = await stage.sheet('Views');
  await refined(page);
  const [other] = await Promise.all([page.waitForEvent('popup'), (async () => {
    await page.getByTestId('picture-window').click();
    // Where a browser keeps windows over others, there is a choice.
    const choice = page.getByRole('button', { name: 'In a window of its own' });
    if (await page.getByTestId('picture-window').getAttribute('aria-expanded')) await choice.click();
  })()]); // prettier-ignore
  const colours = (of: Page, selector: string) =>
    of.locator(selector).evaluate((canvas: HTMLCanvasElement) => {
      const small = new OffscreenCanvas(8, 8);
      const context = small.getContext('2d')!;
      context.drawImage(canvas, 0, 0, 8, 8);
      return [...context.getImageData(0, 0, 8, 8).data];
    });
  const apart = async () => {
    const [here, there] = [await colours(page, '[data-testid=refined-picture]'), await colours(other, 'canvas')];
    return here.reduce((sum, value, i) => sum + Math.abs(value - there[i]!), 0) / here.length;
  };
  await expect.poll(apart).toBeLessThan(2);
  const before = await colours(other, 'canvas');
  await page.getByRole('button', { name: 'Terrace, east', exact: true }).click();
  await refined(page);
  await expect.poll(apart).toBeLessThan(2);
  expect(await colours(other, 'canvas')).not.toEqual(before);
  await page.getByRole('button', { name: 'Close the picture’s window' }).click();
  await expect.poll(() => other.isClosed()).toBe(true);
  await page.getByTestId('picture-window').waitFor();
});

it('a remark at a place goes out as BCF with its picture, and comes back from it', async () => {
  const page = await stage.sheet('Views');
  await refined(page);
  await page.getByTestId('remark-text').fill('The sill is too high');
  await page.getByTestId('remark-place').click();
  const { x, y } = await overPicture(page, 0.5, 0.6);
  await page.mouse.click(x, y);
  await page.getByText('at the place clicked').waitFor();
  await page.getByTestId('remark-keep').click();
  const remark = page.getByTestId('remark');
  await remark.getByText('The sill is too high').waitFor();
  const saved = page.waitForEvent('download');
  await page.getByTestId('bcf-3').click();
  const file = await (await saved).path();
  const topics = Object.keys(unzipSync(new Uint8Array(readFileSync(file))));
  expect(topics.some((name) => name.endsWith('/snapshot.png'))).toBe(true);
  await remark.getByRole('button', { name: 'Drop remark 1' }).click();
  await remark.waitFor({ state: 'detached' });
  await page.getByTestId('remarks-file').setInputFiles({ name: 'remarks.bcf', mimeType: 'application/zip', buffer: readFileSync(file) });
  await remark.getByText('The sill is too high').waitFor();
  await page.getByTestId('remarks-file').setInputFiles({ name: 'bad.bcf', mimeType: 'application/zip', buffer: Buffer.from('no zip') });
  await page.getByText('This file is no zip, as BCF is.').waitFor();
});

const distance = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((value, i) => value - b[i]!));
