import type { Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { draftAlone, goTo, modelArrived, openSheet, refined, setStage, shownColour, type TheStage } from './stage';

/** The working picture as WebGL draws it, on one page for all: its shaders take ten seconds to make where there is no GPU. */

let stage: TheStage;
let page: Page;
beforeAll(async () => {
  stage = await setStage();
  page = await openSheet(stage, 'Finishes', { pixels: 0.35, height: 480 }, true);
});
afterAll(() => stage.close());

it('the parameters of a finish are edited at once in the picture, alike in the draft and in the refined one', async () => {
  await modelArrived(page);
  const row = page.locator('[data-material=plinth]');
  await row.locator('.line').click();
  const plinth = () => shownColour(page, 0.45, 0.86);
  const shares = ([r, g, b]: readonly number[]) => [r!, g!, b!].map((c) => c / (r! + g! + b!));
  /** As the kernel shows it, once the draft under it has the same colour but for what a draft without a GPU leaves out: light from surface to surface, and where a face shines. */
  const both = async () => {
    let light: readonly number[] = [];
    const linear = (colour: readonly number[]) => colour.map((c) => (c / 255) ** 2.2);
    const apart = async () => {
      await refined(page, 1);
      light = await plinth();
      const cover = await draftAlone(page);
      const draft = linear(await plinth());
      await cover.evaluate((style) => { style.parentNode!.removeChild(style); }); // prettier-ignore
      return Math.max(...linear(light).map((c, i) => Math.abs(c - draft[i]!)));
    };
    await expect.poll(apart).toBeLessThan(0.12);
    return light;
  };
  const before = await both();
  for (const [field, value] of [['baseColour', '#b06030'], ['hueDeg', '110'], ['saturation', '1.6']] as const) {
    await row.getByTestId(field).fill(value);
    await row.getByTestId(field).dispatchEvent('change');
  } // prettier-ignore
  await expect.poll(async () => shares(await plinth())[1]! - shares(before)[1]!).toBeGreaterThan(0.03);
  await both();
  await row.getByTestId('vary-seed').click();
  await row.getByTestId('vary-seed').getByText('no. 2').waitFor();
  await row.getByRole('button', { name: 'As shipped' }).click();
  await expect.poll(async () => Math.abs(shares(await plinth())[1]! - shares(before)[1]!)).toBeLessThan(0.015);
});

it('under another sun the draft is exposed for it before anything is refined', async () => {
  await goTo(page, 'Light');
  await refined(page);
  // While water runs, nothing is refined.
  await page.getByTestId('motion').click();
  await page.getByTestId('picture-state').getByText('draft').waitFor();
  const ev = async () => Number(/EV (-?[\d.]+)/.exec(await page.getByTestId('title-block').innerText())![1]);
  const day = await ev();
  const box = (await page.getByTestId('day-band').boundingBox())!;
  await page.mouse.click(box.x + box.width * 0.01, box.y + 10);
  await expect.poll(ev).toBeLessThan(day - 5);
  await page.mouse.click(box.x + box.width * 0.5, box.y + 10);
  await expect.poll(ev).toBeGreaterThan(day - 3);
  await page.getByTestId('picture-state').getByText('draft').waitFor();
  await page.getByTestId('motion').click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
});
