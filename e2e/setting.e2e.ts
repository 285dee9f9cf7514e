import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import type { Locator, Page } from 'playwright-core';
import { setStage, type TheStage } from './stage';

/** What is set about the building, in the planting plan and by rule. */

let stage: TheStage;
beforeAll(async () => {
  stage = await setStage();
});
afterEach((context) => stage.closePages(context));
afterAll(() => stage.close());

/** Clicks places of the site in the plan, metres. */
async function clickPlan(page: Page, places: readonly (readonly [number, number])[]): Promise<void> {
  const plan = page.getByTestId('planting-plan');
  const box = (await plan.boundingBox())!;
  const [x, y, width, height] = (await plan.locator('svg').getAttribute('viewBox'))!.split(' ').map(Number) as [number, number, number, number];
  for (const [px, py] of places) await page.mouse.click(box.x + ((px - x) / width) * box.width, box.y + ((-py - y) / height) * box.height);
} // prettier-ignore

async function openSetting(): Promise<Page> {
  const page = await stage.sheet('Setting');
  await page.getByTestId('planting-plan').locator('svg').waitFor();
  await page.getByRole('tab', { name: 'Library' }).click();
  return page;
}

async function choose(page: Page, thing: string, pattern: string): Promise<Locator> {
  await page.locator(`[data-thing=${thing}] .giver`).click();
  const strip = page.getByTestId('set-strip');
  await strip.getByTestId('set-pattern').selectOption(pattern);
  return strip;
}

async function schedule(page: Page): Promise<Locator> {
  await page.getByRole('tab', { name: 'Schedule' }).click();
  return page.getByTestId('set-row');
}

it('an avenue is planted along a line, counted in the schedule, spaced otherwise, undone and done again', async () => {
  const page = await openSetting();
  const strip = await choose(page, 'birch', 'row');
  await strip.getByTestId('set-state').selectOption('autumn');
  await strip.getByTestId('set-form').selectOption('young');
  await strip.getByLabel('Spacing, metres').fill('5');
  await strip.getByLabel('Spacing, metres').press('Tab');
  await clickPlan(page, [[-60, 10], [-40, 20]]); // prettier-ignore
  await strip.getByTestId('set-finish').click();
  await strip.getByTestId('set-said').getByText('5 × Birch set').waitFor();
  await strip.getByRole('button', { name: 'Done' }).click();
  const rows = await schedule(page);
  await expect.poll(() => rows.allInnerTexts()).toEqual([expect.stringMatching(/Row: Birch\s+5\.0 m\s+5/)]);
  const every = page.getByLabel('Every', { exact: true });
  await every.fill('2.5');
  await every.press('Tab');
  // A pixel of the plan is half a metre.
  await rows.getByText(/^(9|10)$/).waitFor();
  await page.getByRole('button', { name: 'Undo' }).click();
  await rows.getByText('5', { exact: true }).waitFor();
  await page.getByRole('button', { name: 'Undo' }).click();
  await rows.waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'Redo' }).click();
  await rows.waitFor();
});

it('a meadow fills an area, grows on open ground alone, and is thinned and mended by brush', async () => {
  const page = await openSetting();
  const strip = await choose(page, 'meadow-white', 'area');
  // A half of it lies on the quay and in the water, where nothing grows.
  await clickPlan(page, [[-24, -14], [-8, -14], [-8, 14], [-24, 14]]); // prettier-ignore
  await strip.getByLabel('So many to 100 square metres').fill('60');
  await strip.getByLabel('So many to 100 square metres').press('Tab');
  await strip.getByTestId('set-finish').click();
  const said = strip.getByTestId('set-said').getByText(/\d+ × Meadow/);
  const count = Number(/\d+/.exec(await said.innerText())![0]);
  expect(count).toBeGreaterThan(60);
  // 448 m2 at 60 on 100 would be 269.
  expect(count).toBeLessThan(200);
  await strip.getByRole('button', { name: 'Done' }).click();
  const row = (await schedule(page)).filter({ hasText: 'Meadow' });
  const counted = async () => Number(/(\d+)\s*$/.exec(await row.innerText())![1]);
  expect(await counted()).toBe(count);
  await page.getByTestId('set-take').click();
  await clickPlan(page, [[-16, 8]]); // prettier-ignore
  await expect.poll(counted).toBeLessThan(count - 3);
  await page.getByTestId('set-take').click();
  await page.getByTestId('set-add').click();
  await clickPlan(page, [[-16, 8]]); // prettier-ignore
  await expect.poll(counted).toBe(count);
  await page.getByTestId('set-add').click();
});

it('things stand in for elements by rule, new ones as the model brings them, until the rule is dropped', async () => {
  const page = await openSetting();
  await page.getByRole('tab', { name: 'Stand-ins' }).click();
  await page.getByTestId('stand-in-add').click();
  await page.getByText('Say which words').waitFor();
  await page.getByTestId('stand-in-pattern').fill('pine');
  await page.getByTestId('stand-in-kind').selectOption('spruce');
  await page.getByTestId('stand-in-add').click();
  const rule = page.getByTestId('stand-in');
  await rule.getByText('name “pine” → Spruce').waitFor();
  await rule.getByText('6', { exact: true }).waitFor();
  await stage.author.edit({ edit: 'layer', layer: 'Planting', visible: false });
  await stage.author.edit({ edit: 'layer', layer: 'Planting', visible: true });
  await rule.getByText('6', { exact: true }).waitFor();
  await page.getByRole('button', { name: 'Drop the rule for pine' }).click();
  await page.getByText('Nothing stands in for anything yet.').waitFor();
});
