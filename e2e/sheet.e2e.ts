import { readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import { removeFolder, startServer, temporaryFolder } from '../server/testing/running-server';
import { goTo, modelArrived, newPage, overPicture, setStage, type TheStage } from './stage';

let stage: TheStage;
beforeAll(async () => {
  stage = await setStage();
});
afterEach((context) => stage.closePages(context));
afterAll(() => stage.close());

const STATIONS = ['Source', 'Finishes', 'Light', 'Setting', 'Views', 'Delivery'] as const;

/** Texts that are cut off without an ellipsis, and anything that sticks out of the window. */
function outOfPlace(page: Page): Promise<string[]> {
  return page.evaluate(() => {
    const found: string[] = [];
    if (document.documentElement.scrollWidth > innerWidth) found.push('the page is wider than the window');
    for (const element of document.querySelectorAll<HTMLElement>('header *, .schedule *, .under *, dp-day-band .line *')) {
      const own = [...element.childNodes].some((n) => n.nodeType === Node.TEXT_NODE && (n.textContent ?? '').trim() !== '');
      const box = element.getBoundingClientRect();
      if (!own || box.width === 0 || element.closest('.visually-hidden, select, .text-truncate')) continue;
      const clip = element.closest('.schedule, header, .mat, dp-day-band')!.getBoundingClientRect();
      if (box.right > clip.right + 1 || box.left < clip.left - 1) found.push(`${element.tagName}: ${element.textContent.slice(0, 40)}`);
    }
    return found;
  });
}

it('is worked by keys: stations, rows, the day, undo and redo; focus is seen', async () => {
  const page = await stage.sheet('Light');
  const focused = () =>
    page.evaluate(() => {
      const element = document.activeElement as HTMLElement;
      return { text: element.innerText.trim().slice(0, 30), outline: getComputedStyle(element).outlineStyle };
    });
  await page.keyboard.press('Tab');
  expect(await focused()).toEqual({ text: expect.stringContaining('Source') as string, outline: 'solid' });
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await page.getByRole('tab', { name: 'Finish schedule' }).waitFor();
  const band = page.getByTestId('day-band');
  await band.focus();
  expect((await focused()).outline).toBe('solid');
  const steps = [
    ['ArrowRight', 'time', '14:55'],
    ['PageDown', 'day', '15 October'],
    ['Control+z', 'day', '16 October'],
    ['Control+z', 'time', '14:40'],
    ['Control+Shift+Z', 'time', '14:55'],
    ['Control+z', 'time', '14:40'],
  ] as const;
  for (const [key, place, text] of steps) {
    await page.keyboard.press(key);
    await page.getByTestId(place).getByText(text).waitFor();
  }
});

it('turns by the right button in another scheme, and lets a key be assigned anew, which is kept', async () => {
  const page = await stage.sheet('Light');
  await page.keyboard.press('?');
  await page.getByTestId('scheme').selectOption({ label: 'Right button turns, left chooses' });
  const before = page.locator('[data-action=before]');
  await before.click();
  await page.keyboard.press('w');
  await page.getByTestId('help').getByText('the same key as: ahead').waitFor();
  await before.click();
  await page.keyboard.press('n');
  await page.getByTestId('help').getByRole('button', { name: 'Close' }).click();

  const eye = () => page.getByTestId('working-picture').getAttribute('data-eye');
  const drag = async (button: 'left' | 'right') => {
    const from = await overPicture(page, 0.4, 0.2);
    await page.mouse.move(from.x, from.y);
    await page.mouse.down({ button });
    await page.mouse.move(from.x + 60, from.y, { steps: 3 });
    await page.mouse.up({ button });
  };
  const stood = await eye();
  await drag('left');
  expect(await eye()).toBe(stood);
  await drag('right');
  await expect.poll(eye).not.toBe(stood);
  await page.getByRole('button', { name: 'Back', exact: true }).click();
  await expect.poll(eye).toBe(stood);

  const kept = await page.evaluate(
    () => JSON.parse(localStorage.getItem('controls')!) as { scheme: string; keys: Record<string, string[]> },
  );
  expect(kept).toEqual({ scheme: 'right-turns', keys: { before: ['N'] } });
  await page.evaluate(() => {
    localStorage.removeItem('controls');
  });
  await page.keyboard.press('?');
  await page.getByTestId('scheme').selectOption({ label: 'Left button turns, letters walk' });
  await page.getByRole('button', { name: 'As the scheme has it: held: the picture before the last step' }).click();
  await page.getByTestId('help').getByRole('button', { name: 'Close' }).click();
});

it('keeps to WCAG 2.2 AA on every station and in every tab, as far as a program can tell', async () => {
  const page = await stage.sheet('Source');
  await modelArrived(await stage.sheet('Finishes'));
  // Run as by the debugger: the page itself takes no script from elsewhere.
  await page.evaluate(readFileSync('node_modules/axe-core/axe.min.js', 'utf8'));
  const faults: string[] = [];
  const check = async (where: string, within = 'html') => {
    const found = await page.evaluate(async (root) => {
      const { axe } = globalThis as unknown as { axe: { run(root: string, options: object): Promise<{ violations: { id: string; nodes: { target: string[] }[] }[] }> } };
      const { violations } = await axe.run(root, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] });
      return violations.flatMap(({ id, nodes }) => nodes.map(({ target }) => `${id}: ${target.join(' ')}`));
    }, within);
    faults.push(...found.map((fault) => `${where}: ${fault}`));
  };
  for (const station of STATIONS) {
    await goTo(page, station);
    await check(station);
    // The open tab has been seen; what lies about the schedule stays as it is.
    const tabs = await page.locator('.schedule').getByRole('tab').all();
    const isOpen = await Promise.all(tabs.map((tab) => tab.getAttribute('aria-selected')));
    for (const tab of tabs.filter((_, i) => isOpen[i] !== 'true')) {
      await tab.click();
      await check(`${station}, ${(await tab.textContent())!.trim()}`, '.schedule');
    }
  }
  await page.keyboard.press('Control+k');
  await page.getByTestId('finder').getByRole('option').first().waitFor();
  await check('Find');
  await page.keyboard.press('Escape');
  expect(faults).toEqual([]);
}); // prettier-ignore

it('fits windows of 1024, 1280 and 1920 pixels on every station, foreign names included', async () => {
  const page = await stage.sheet('Finishes');
  const asked: string[] = [];
  page.on('dialog', (dialog) => {
    asked.push(dialog.message());
    void dialog.dismiss();
  });
  await modelArrived(page);
  const names = ['<img src=x onerror="alert(1)">', 'שלום \u202e abc', '🏠'.repeat(60), `Long ${'x'.repeat(10_000)}`];
  const materials = ['cladding', 'plinth', 'stone', 'steel'];
  for (const [i, name] of names.entries()) await stage.author.edit({ edit: 'rename', material: materials[i]!, name });
  await page.locator('[data-material=cladding]').getByText(names[0]!, { exact: true }).waitFor();
  await page.locator('[data-material=cladding] .line').click();
  await page.locator('[data-material=steel]').getByText(/^Long x+$/).waitFor(); // prettier-ignore
  for (const width of [1024, 1280, 1920]) {
    await page.setViewportSize({ width, height: Math.round(width * 0.625) });
    for (const station of STATIONS) {
      await goTo(page, station);
      expect({ width, station, out: await outOfPlace(page) }).toEqual({ width, station, out: [] });
    }
  }
  expect(asked).toEqual([]);
  expect(await page.locator('img[src=x]').count()).toBe(0);
  for (let i = 0; i < names.length; i++) await stage.author.edit({ edit: 'undo' });
});

it('says what to do while nothing is linked, and why a file is not watched', async () => {
  const folder = temporaryFolder();
  const server = await startServer(folder);
  const page = await newPage(stage.browser);
  await page.goto(`${server.url}/`);
  await page.getByText('No model is linked.').waitFor();
  await page.goto('about:blank');
  await page.goto(`${server.url}/#finishes`);
  await page.getByText('Nothing is linked yet.').waitFor();
  await page.getByText('The schedule fills by itself when a model is linked').waitFor();
  expect(await page.getByTestId('link-state').innerText()).toContain('nothing linked');
  expect(await page.getByTestId('picture-state').innerText()).toBe('no model yet');
  await goTo(page, 'Source');
  await page.getByText('No model is linked.').waitFor();
  await page.getByLabel('or watch a file that changes, below').fill('/etc/hostname');
  await page.getByRole('button', { name: 'Watch' }).click();
  await page.getByTestId('file-fault').getByText('lies outside the folders that this server may read').waitFor();
  await goTo(page, 'Delivery');
  await page.getByTestId('print-order').click();
  await page.getByText('There is nothing to print yet: link a model first.').waitFor();
  await server.kill('SIGTERM');
  removeFolder(folder);
});
