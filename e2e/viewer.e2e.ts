import { writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Browser, Page } from 'playwright-core';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import type { ToPage } from '../core/project/live';
import { ended, openYard, post, printsWhen, YARD_ORDER } from '../server/prints/yard';
import { removeFolder, temporaryFolder, type Peer, type RunningServer } from '../server/testing/running-server';
import { leaveBrowser, openBrowser } from './stage';

/** What a client opens: a file, with the network off, and the same along a link. */

const folder = temporaryFolder();
const file = path.join(folder, 'viewer.html');
let server: RunningServer;
let live: Peer<ToPage>;
let browser: Browser;
let viewer: string;

interface Listed {
  viewers: { id: string; state: string }[];
}

beforeAll(async () => {
  [{ server, page: live }, browser] = await Promise.all([openYard(folder), openBrowser()]);
  const order = { name: 'For the client', looks: [{ name: '12:00', minutes: 720 }, { name: '16:00', minutes: 960 }], views: [{ name: 'Yard', camera: YARD_ORDER.camera }, { name: 'Gate', camera: { ...YARD_ORDER.camera, position: [-6, -7, 1.65] } }], samples: 4 }; // prettier-ignore
  const made = (await (await post(server, '/api/viewers', order)).json()) as { id: string };
  viewer = made.id;
  await vi.waitFor(
    async () => {
      const { viewers } = (await (await fetch(`${server.url}/api/viewers`)).json()) as Listed;
      expect(viewers[0]?.state).toBe('finished');
    },
    { timeout: 580_000, interval: 300 },
  );
  writeFileSync(file, Buffer.from(await (await fetch(`${server.url}/api/viewers/${viewer}/file`)).arrayBuffer()));
});
afterAll(async () => {
  await leaveBrowser(browser);
  await server.kill('SIGTERM');
  removeFolder(folder);
});

/** Pixels for each of the layout, as the journeys' own pages have few of them. */
const SCALE = 0.5;

async function opened(address: string, size: { width: number; height: number }, offline: boolean): Promise<Page> {
  const context = await browser.newContext({ viewport: size, deviceScaleFactor: SCALE, offline, hasTouch: size.width < 600 });
  const page = await context.newPage();
  page.setDefaultTimeout(120_000);
  page.on('pageerror', (error) => {
    throw error;
  });
  await page.goto(address);
  await drawn(page, 1);
  return page;
}
const drawn = (page: Page, times: number) =>
  page.waitForFunction((least) => Number(document.querySelector<HTMLElement>('canvas')?.dataset['drawn']) >= least, times);
const drawnSoFar = async (page: Page) => Number(await page.locator('canvas').first().getAttribute('data-drawn'));
const canvas = (page: Page) => page.locator('canvas').first();

it('opens from a file without network, looks as the refined picture does, is walked, measured and remarked on', async () => {
  const size = { width: 640, height: 400 };
  const page = await opened(`file://${file}`, size, true);
  await page.locator('.poster').waitFor({ state: 'detached' });

  // The same view as a print of half the size, exposed by itself as the viewer's are.
  const { name, camera, quality, seed } = YARD_ORDER;
  const noon = { name, camera, quality, seed, width: 320, height: 200, noise: 0.2, denoise: true };
  await post(server, '/api/prints', noon);
  const print = (await printsWhen(live, ({ prints }) => prints.length === 1 && ended([prints[0]!.id])({ prints } as never))).prints[0]!; // prettier-ignore
  const picture = Buffer.from(await (await fetch(`${server.url}/api/prints/${print.id}/picture`)).arrayBuffer());
  await page.addStyleTag({ content: '.bar, .plan, .side, .told { visibility: hidden }' });
  // The bar covers the lower edge; what is compared is above it.
  const kept = { left: 0, top: 0, width: 640 * SCALE, height: 340 * SCALE };
  const [a, b] = await Promise.all(
    [await page.screenshot(), picture].map((image) => sharp(image).removeAlpha().extract(kept).resize(80).raw().toBuffer()),
  );
  const difference = a!.reduce((sum, value, i) => sum + Math.abs(value - b![i]!), 0) / a!.length;
  console.log(`viewer against the refined picture: mean difference ${difference.toFixed(1)} of 255`);
  expect(difference).toBeLessThan(22);
  await page.addStyleTag({ content: '.bar, .plan, .side, .told { visibility: visible !important }' });

  // Walked by keys, as far as the body that stands in the way.
  await page.getByLabel('Views').selectOption({ label: 'Gate' });
  await canvas(page).focus();
  const before = await canvas(page).getAttribute('data-eye');
  await page.keyboard.down('w');
  await page.waitForFunction((eye) => document.querySelector<HTMLElement>('canvas')?.dataset['eye'] !== eye, before);
  await page.keyboard.up('w');
  expect(Number((await canvas(page).getAttribute('data-eye'))!.split(' ')[2])).toBeCloseTo(1.65, 1);

  // The day.
  await page.getByLabel('Time of day').fill('1');
  await page.waitForFunction(() => document.querySelector<HTMLElement>('canvas')?.dataset['look'] === '16:00');

  // The box in the yard is two metres wide.
  await page.getByLabel('Views').selectOption({ label: 'Yard' });
  await page.getByRole('button', { name: 'Measure' }).click();
  await page.mouse.click(300, 200);
  await page.getByText('Click the second place.').waitFor();
  await page.mouse.click(340, 230);
  await page.getByRole('status').getByText(/ m: .* m level/).waitFor();

  await page.getByRole('button', { name: 'Remark' }).click();
  await page.mouse.click(320, 210);
  await page.getByPlaceholder('What is to be said here').fill('A bench here');
  await page.getByPlaceholder('Your name').fill('Client');
  await page.getByRole('button', { name: 'Keep' }).click();
  await page.getByRole('button', { name: 'A bench here' }).waitFor();
  await page.locator('.pin').waitFor();
  const saved = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save the remarks as a file' }).click();
  expect((await saved).suggestedFilename()).toBe('For the client remarks.json');
  await page.context().close();
}); // prettier-ignore

it('fits a phone, is turned by a finger, and along a link its remarks come to the office', async () => {
  const link = await post(server, `/api/viewers/${viewer}/links`, { days: 1, mayComment: true });
  const { token } = (await link.json()) as { token: string };
  const page = await opened(`${server.url}/v/${token}`, { width: 390, height: 780 }, false);
  const wide = await page.evaluate(() => document.documentElement.scrollWidth);
  expect(wide).toBeLessThanOrEqual(390);
  for (const name of ['Measure', 'Remark']) {
    const box = (await page.getByRole('button', { name }).boundingBox())!;
    expect([box.height >= 24, box.x + box.width <= 390, box.y + box.height <= 780]).toEqual([true, true, true]);
  }
  const count = await drawnSoFar(page);
  await canvas(page).dispatchEvent('pointerdown', { pointerId: 1, clientX: 200, clientY: 400, isPrimary: true });
  await canvas(page).dispatchEvent('pointermove', { pointerId: 1, clientX: 120, clientY: 400, isPrimary: true });
  await canvas(page).dispatchEvent('pointerup', { pointerId: 1, clientX: 120, clientY: 400, isPrimary: true });
  await drawn(page, count + 1);

  await page.getByRole('button', { name: 'Remark' }).tap();
  await page.mouse.click(195, 420);
  await page.getByPlaceholder('What is to be said here').fill('Seen on the phone');
  const sent = page.waitForResponse((response) => response.url().endsWith('/remarks') && response.request().method() === 'POST');
  await page.getByRole('button', { name: 'Keep' }).click();
  expect((await sent).status()).toBe(201);
  const kept = (await (await fetch(`${server.url}/v/${token}/remarks`)).json()) as { text: string }[];
  expect(kept.map(({ text }) => text)).toEqual(['Seen on the phone']);
  await page.context().close();
});

it('is stood in at the wearer’s own height through a headset, and gone about by pointing', async () => {
  const context = await browser.newContext({ viewport: { width: 240, height: 160 }, offline: true });
  await context.addInitScript({ path: path.resolve('node_modules/iwer/build/iwer.min.js') });
  await context.addInitScript(() => {
    const { XRDevice, metaQuest3 } = (globalThis as unknown as { IWER: { XRDevice: new (kind: unknown) => Played; metaQuest3: unknown } })
      .IWER;
    const device = new XRDevice(metaQuest3);
    device.installRuntime({ forceInstall: true });
    (globalThis as unknown as { device: Played }).device = device;
  });
  const page = await context.newPage();
  await page.goto(`file://${file}`);
  await drawn(page, 1);
  await page.getByRole('button', { name: 'Headset' }).click();
  // The headset that is played puts the canvas elsewhere in the page.
  const building = page.getByLabel(/^The building/);
  const play = (act: (device: Played) => void) => page.evaluate(`(${String(act)})(device)`);
  const head = async () => ((await building.getAttribute('data-head')) ?? '').split(' ').map(Number);
  await play((device) => {
    device.position.set(0, 1.5, 0);
  });
  // The yard’s ground is at 0, though its view is from 3 m.
  await expect.poll(async () => (await head())[2]).toBeCloseTo(1.5, 1);
  const before = await head();

  // Pointed down and ahead, and let go: one stands where the beam met the floor.
  await play((device) => {
    const hand = device.controllers.right;
    hand.position.set(0.2, 1.2, -0.2);
    hand.quaternion.set(-0.2588, 0, 0, 0.9659);
    hand.updateButtonValue('trigger', 1);
  });
  await expect.poll(() => building.getAttribute('data-aimed')).toBe('true');
  await play((device) => {
    device.controllers.right.updateButtonValue('trigger', 0);
  });
  await expect.poll(async () => Math.hypot((await head())[0]! - before[0]!, (await head())[1]! - before[1]!)).toBeGreaterThan(1);
  expect((await head())[2]).toBeCloseTo(1.5, 0);
  await context.close();
});

/** What is used of a headset that is played. */
interface Played {
  installRuntime(how: { forceInstall: boolean }): void;
  position: { set(x: number, y: number, z: number): void };
  controllers: {
    right: {
      position: { set(x: number, y: number, z: number): void };
      quaternion: { set(x: number, y: number, z: number, w: number): void };
      updateButtonValue(id: string, value: number): void;
    };
  };
}

it('says so where there is no WebGL, under the picture of the first view', async () => {
  const plain = await openBrowser('--disable-gpu', '--disable-3d-apis');
  const page = await plain.newPage();
  await page.goto(`file://${file}`);
  await page.getByText('This browser shows no WebGL').waitFor();
  expect(await page.locator('.poster').isVisible()).toBe(true);
  await leaveBrowser(plain);
});
