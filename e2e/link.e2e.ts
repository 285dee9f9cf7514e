import { readFileSync, writeFileSync, existsSync } from 'node:fs';
import path from 'node:path';
import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import { modelArrived, overPicture, setStage, type TheStage } from './stage';

let stage: TheStage;
beforeAll(async () => {
  stage = await setStage();
});
afterEach((context) => stage.closePages(context));
afterAll(() => stage.close());

const HOUSE = '/usr/share/assimp/models/IFC/AC14-FZK-Haus.ifc';
const source = (page: import('playwright-core').Page, name: string) =>
  page.getByTestId('source').filter({ has: page.getByRole('heading', { name, exact: true }) });

it('a building arrives, an edit in the tool is seen here, and the title block counts the revision', async () => {
  const page = await stage.sheet('Finishes');
  await modelArrived(page);
  expect(await page.getByTestId('link-state').innerText()).toContain('in step');
  await page.getByTestId('title-block').getByText('rev 1', { exact: true }).waitFor();
  await stage.author.edit({ edit: 'rename', material: 'cladding', name: 'Cladding <b>type</b> B' });
  await page.getByText('Cladding <b>type</b> B').waitFor();
  await page.getByTestId('title-block').getByText('rev 2', { exact: true }).waitFor();
});

it('a held link counts what waits, and resumes to one consistent state; stopped and out of reach are said', async () => {
  const page = await stage.sheet('Source');
  const row = source(page, 'Marram Landing');
  await row.getByRole('button', { name: 'Hold' }).click();
  await row.getByText('held, 0 waiting').waitFor();
  await stage.author.edit({ edit: 'delete-column', column: 'column-s5' });
  await row.getByText('held, 2 waiting').waitFor();
  await row.getByText('515 elements').waitFor();
  await row.getByRole('button', { name: 'Resume' }).click();
  await row.getByText('in step').waitFor();
  await row.getByText('513 elements').waitFor();
  await stage.author.edit({ edit: 'undo' });
  await row.getByText('515 elements').waitFor();
  await row.getByRole('button', { name: 'Stop' }).click();
  await row.getByText('stopped').waitFor();
  await row.getByRole('button', { name: 'Start' }).click();
  await row.getByText('in step').waitFor();
});

it('following the author’s camera and time are two switches', async () => {
  const page = await stage.sheet('Source');
  await page.getByLabel('The author’s camera').check();
  await stage.author.edit({ edit: 'camera', position: [11.2, -22.5, 1.45], target: [12.2, 2, 2.4], focalMm: 50 });
  await page.getByTestId('title-block').getByText('50 mm / 1.45 m').waitFor();
  await page.getByLabel('The author’s date and time').check();
  await stage.author.edit({ edit: 'time', time: '2026-06-21T09:30' });
  await page.getByTestId('title-block').getByText('21 Jun, 09:30').waitFor();
  await page.getByText('The author’s date and time are followed.').waitFor();
  await page.getByLabel('The author’s date and time').uncheck();
  await page.getByLabel('The author’s camera').uncheck();
  await page.getByTestId('title-block').getByText('16 Oct, 14:40').waitFor();
});

it('pointing names element, source material and finish; picking opens the row; showing finds the surfaces', async () => {
  const page = await stage.sheet('Finishes');
  await modelArrived(page);
  await page.getByRole('button', { name: /Views/ }).click();
  await page.getByRole('button', { name: 'From the bank' }).click();
  const at = await overPicture(page, 0.2, 0.62);
  await page.mouse.move(at.x, at.y);
  await page.getByTestId('pointed').waitFor();
  await page.mouse.click(at.x, at.y);
  const open = page.locator('.row-line.open');
  await open.waitFor();
  await open.getByRole('button', { name: 'Show surfaces' }).click();
  await open.getByRole('button', { name: 'Show as finished' }).waitFor();
});

it.skipIf(!existsSync(HOUSE))('an IFC house is added by upload, a broken one is explained', async () => {
  const page = await stage.sheet('Source');
  await page.getByTestId('model-file').setInputFiles(HOUSE);
  await page.getByRole('heading', { name: path.basename(HOUSE) }).waitFor();
  const broken = path.join(stage.folder, 'broken.ifc');
  writeFileSync(broken, readFileSync(HOUSE).subarray(0, 40_000));
  await page.getByTestId('model-file').setInputFiles(broken);
  await page.getByText('broken.ifc is cut off: its end mark END-ISO-10303-21 is missing.').waitFor();
  expect(await page.getByTestId('source').count()).toBe(2);
  await source(page, path.basename(HOUSE)).getByRole('button', { name: 'Remove from project' }).click();
  await page.getByRole('heading', { name: path.basename(HOUSE) }).waitFor({ state: 'detached' });
});

it('a server that was killed is said to be out of reach, tried again, and nothing confirmed is lost', async () => {
  const page = await stage.sheet('Finishes');
  await modelArrived(page);
  const before = await page.getByTestId('history').locator('.history-row').count();
  await page.getByTestId('day-band').focus();
  await page.keyboard.press('ArrowRight');
  await page.getByTestId('time').getByText('14:55').waitFor();
  await page.waitForFunction((n) => document.querySelectorAll('.history-row').length > n, before);
  await stage.restartServer('SIGKILL');
  await page.getByText('The server is out of reach.').waitFor({ state: 'attached' });
  await page.getByText('The server is out of reach.').waitFor({ state: 'detached' });
  await page.getByTestId('time').getByText('14:55').waitFor();
  await page.getByTestId('link-state').getByText('in step').waitFor();
  await page.keyboard.press('Control+z');
  await page.getByTestId('time').getByText('14:40').waitFor();
});
