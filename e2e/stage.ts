import { spawn, type ChildProcess } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { chromium, type Browser, type Locator, type Page } from 'playwright-core';
import sharp from 'sharp';
import type { TestContext } from 'vitest';
import type { Edit } from '../author/edits';
import type { Station } from '../web/app/app';
import { firstJson, removeFolder, startServer, temporaryFolder, withMe, type RunningServer } from '../server/testing/running-server';

/** A server, the simulated author and a browser, for one journey after the other. */

const DIST = path.resolve('dist');
const FLAGS = [
  '--no-sandbox', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync',
  '--use-angle=swiftshader', '--enable-unsafe-swiftshader',
]; // prettier-ignore

export interface TheStage {
  server: RunningServer;
  author: { url: string; edit(body: object): Promise<void>; state(): Promise<AuthorState>; stop(): void };
  browser: Browser;
  folder: string;
  models: string;
  restartServer(signal: NodeJS.Signals): Promise<void>;
  /**
   * The page that the journeys of a stage share, on a station as it is first opened: another page would take ten seconds to make
   * its shaders. It looks where the last journey left it looking.
   */
  sheet(station: Station): Promise<Page>;
  /** What one journey leaves open would refine on beside the next; one that failed leaves nothing. */
  closePages(context: TestContext): Promise<void>;
  close(): Promise<void>;
}

export interface AuthorState {
  link: string;
  revision: number;
}

/** The bank is bare: grass is grown and seen through for every picture, and few journeys look at it. */
export const ON_BARE_GROUND: readonly Edit[] = [{ edit: 'rename', material: 'bank', name: 'Ground – bank soil' }];

/** `size`: of the page that the journeys share. `edits`: how the model differs from the demo's when it is first linked. */
export async function setStage(size: Window = {}, edits = ON_BARE_GROUND): Promise<TheStage> {
  const folder = temporaryFolder();
  const models = path.join(folder, 'models');
  mkdirSync(models);
  let server = await startServer(path.join(folder, 'data'), '--watch', models, '--name', 'Marram Landing');
  const port = new URL(server.url).port;
  const child = spawn(
    'node',
    [path.join(DIST, 'author.mjs'), '--server', server.url, '--token', server.token, '--port', '0', '--edits', JSON.stringify(edits)],
    withMe(),
  );
  const { author: url } = await firstJson<{ author: string }>(child);
  // What lies over what is put together by the processor at once, not by WebGL's own stand-in for a GPU.
  const browser = await openBrowser('--disable-gpu-compositing');
  let shared: Page | undefined;
  const stage: TheStage = {
    server,
    author: authorAt(url, child),
    browser,
    folder,
    models,
    restartServer: async (signal) => {
      await server.kill(signal);
      server = await startServer(path.join(folder, 'data'), '--watch', models, '--port', port);
      stage.server = server;
    },
    sheet: async (station) => {
      if (!shared || shared.isClosed()) return (shared = await openSheet(stage, station, size));
      // Left and come back to.
      await goTo(shared, station === 'Delivery' ? 'Source' : 'Delivery');
      await goTo(shared, station);
      if (station === 'Finishes') {
        await shared.locator('[data-material]').first().waitFor();
        for (const opener of await shared.locator('.row-line.open .opener').all()) await opener.click();
      }
      return shared;
    },
    closePages: async ({ task }) => {
      const hasFailed = task.result?.state === 'fail';
      if (hasFailed) for (const page of browser.contexts().flatMap((context) => context.pages())) await tellWhatIsSeen(page);
      const kept = hasFailed ? undefined : shared?.context();
      await Promise.all(browser.contexts().filter((context) => context !== kept).map((context) => context.close())); // prettier-ignore
    },
    close: async () => {
      await leaveBrowser(browser);
      child.kill('SIGTERM');
      await server.kill('SIGTERM');
      removeFolder(folder);
    },
  };
  return stage;
}

/** What stood on the page when a journey failed; where that was on another machine, there is nothing else to go by. */
async function tellWhatIsSeen(page: Page): Promise<void> {
  const said = await page.evaluate(() => ({
    text: document.body.innerText.replace(/\s+/g, ' ').slice(0, 3000),
    open: [...document.querySelectorAll<HTMLElement>('dialog[open], [role=alert]')].map((e) => e.innerText),
    picture: [...document.querySelectorAll('canvas')].map((canvas) => `${canvas.className} ${JSON.stringify(canvas.dataset)}`),
  })).catch((error: unknown) => ({ error: String(error) })); // prettier-ignore
  console.log(`Seen at ${page.url()}: ${JSON.stringify(said, undefined, 1)}`);
}

const browsers = new Map<string, Browser>();
let keepsBrowsers = false;

/** From now on a browser that is left serves the next who wants one of the same flags; it ends with the process. */
export function keepBrowsers(): void {
  keepsBrowsers = true;
}

export async function openBrowser(...flags: string[]): Promise<Browser> {
  const key = flags.join(' ');
  const kept = browsers.get(key);
  if (keepsBrowsers && kept?.isConnected()) return kept;
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: [...FLAGS, ...flags] });
  browsers.set(key, browser);
  return browser;
}

export async function leaveBrowser(browser: Browser): Promise<void> {
  if (keepsBrowsers) await Promise.all(browser.contexts().map((context) => context.close()));
  else await browser.close();
}

function authorAt(url: string, child: ChildProcess) {
  return {
    url,
    edit: async (body: object) => {
      const response = await fetch(`${url}/edit`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify(body),
      });
      if (!response.ok) throw new Error(await response.text());
    },
    state: async () => (await (await fetch(`${url}/state`)).json()) as AuthorState,
    stop: () => void child.kill('SIGTERM'),
  };
}

export const goTo = (page: Page, station: Station): Promise<void> =>
  page.getByRole('navigation').getByRole('button', { name: station }).click();

/** Lets WebGL draw the working picture of a page, which the kernel would draw on a computer without a GPU. */
export async function drawnByGraphics(page: Page): Promise<void> {
  await page.addInitScript(() => {
    localStorage.setItem('drawn-by', 'graphics');
  });
}

export interface Window {
  width?: number;
  height?: number;
  /** Pixels of the picture for one of the layout: the kernel and the denoiser need time for each. */
  pixels?: number;
  /** Samples a pixel that it is refined to. */
  samples?: number;
}

/** No journey waits for more samples a pixel; what would be refined on takes the processor from the next step. */
const MOST_SAMPLES = 1;

export async function newPage(
  browser: Browser,
  { width = 1024, height = 700, pixels = 0.2, samples = MOST_SAMPLES }: Window = {},
): Promise<Page> {
  const page = await browser.newPage({ viewport: { width, height }, deviceScaleFactor: pixels });
  // A busy machine makes a journey slow, not red; shorter than a journey's own limit, so that the step is named that never came.
  page.setDefaultTimeout(180_000);
  if (pixels < 1)
    await page.addInitScript((most) => {
      // An empty page has no storage.
      if (location.protocol.startsWith('http')) localStorage.setItem('refine-to', String(most));
    }, samples);
  return page;
}

/** From the next picture on. */
export const refineTo = (page: Page, samples: number): Promise<void> =>
  page.evaluate((most) => {
    localStorage.setItem('refine-to', String(most));
  }, samples);

/** A page on a station, with the model on the screen. Whatever the page throws fails the journey. */
export async function openSheet(stage: TheStage, station: Station, size: Window = {}, graphics = false): Promise<Page> {
  const page = await newPage(stage.browser, size);
  if (graphics) await drawnByGraphics(page);
  page.on('pageerror', (error) => {
    throw error;
  });
  await page.goto(`${stage.server.url}/#${station.toLowerCase()}`);
  await page.waitForFunction(() => {
    const { parts, missing } = document.querySelector<HTMLElement>('[data-testid=working-picture]')?.dataset ?? {};
    return Number(parts) > 0 && missing === '0';
  });
  return page;
}

/** Takes the kernel's picture away, so that the draft is seen under it. */
export const draftAlone = (page: Page) =>
  page.addStyleTag({
    content:
      '[data-testid=refined-picture] { display: none !important; } [data-testid=working-picture] { visibility: visible !important; }',
  });

/** Waits until the schedule has its rows and their areas, so that the meshes have arrived. */
export async function modelArrived(page: Page): Promise<void> {
  await page.waitForFunction(() =>
    [...document.querySelectorAll('[data-material=cladding] .right')].some((e) => Number.parseFloat(e.textContent) > 50),
  );
}

/** Waits for the kernel's picture at rest: its first one of the whole size, or so many samples a pixel. */
export async function refined(page: Page, samples = 0.2): Promise<void> {
  await page.waitForFunction((wanted) => {
    const canvas = document.querySelector<HTMLElement>('[data-testid=refined-picture]');
    return canvas?.classList.contains('shown') && Number(canvas.dataset['samples']) >= wanted;
  }, samples);
}

/** Places the pointer over the picture: parts of its width and height. */
export async function overPicture(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  const box = (await page.getByTestId('picture').boundingBox())!;
  return { x: box.x + box.width * x, y: box.y + box.height * y };
}

/** Clicks places of a plan, metres. */
export async function clickPlan(plan: Locator, places: readonly (readonly [number, number])[]): Promise<void> {
  const drawing = plan.locator('svg');
  const box = (await drawing.boundingBox())!;
  const [x, y, width, height] = (await drawing.getAttribute('viewBox'))!.split(' ').map(Number) as [number, number, number, number];
  for (const [px, py] of places)
    await plan.page().mouse.click(box.x + ((px - x) / width) * box.width, box.y + ((-py - y) / height) * box.height);
}

/** A part of the picture as PNG, whichever picture lies on top. */
async function spot(page: Page, x: number, y: number, w: number, h: number): Promise<Buffer> {
  const box = (await page.getByTestId('picture').boundingBox())!;
  return page.screenshot({ clip: { x: box.x + x * box.width, y: box.y + y * box.height, width: w * box.width, height: h * box.height } });
}

/** Mean colour that a part of the picture shows. */
export async function shownColour(page: Page, x: number, y: number, w = 0.04, h = 0.04): Promise<[number, number, number]> {
  const { channels } = await sharp(await spot(page, x, y, w, h)).stats();
  return [channels[0]!.mean, channels[1]!.mean, channels[2]!.mean];
}

/** How much a spot of the picture changes from left to right, against from top to bottom: above 1 for what stands upright. */
export async function grain(page: Page, x: number, y: number): Promise<number> {
  const { data, info } = await sharp(await spot(page, x, y, 0.06, 0.08))
    .greyscale()
    .raw()
    .toBuffer({ resolveWithObject: true });
  let [across, along] = [1, 1];
  for (let j = 0; j + 1 < info.height; j++)
    for (let i = 0; i + 1 < info.width; i++) {
      const here = data[j * info.width + i]!;
      across += Math.abs(data[j * info.width + i + 1]! - here);
      along += Math.abs(data[(j + 1) * info.width + i]! - here);
    }
  return across / along;
}

export const difference = (a: readonly number[], b: readonly number[]): number => a.reduce((sum, v, i) => sum + Math.abs(v - b[i]!), 0);
