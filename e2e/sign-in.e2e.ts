import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, it } from 'vitest';
import { removeFolder, startServer, temporaryFolder, type RunningServer } from '../server/testing/running-server';
import { leaveBrowser, openBrowser } from './stage';

const PASSWORD = 'marram grass 1908';
const folder = temporaryFolder();
let server: RunningServer;
let browser: Browser;
beforeAll(async () => {
  process.env['DIAPHANE_PASSWORD'] = PASSWORD;
  server = await startServer(folder, '--host', '0.0.0.0');
  delete process.env['DIAPHANE_PASSWORD'];
  browser = await openBrowser();
});
afterAll(async () => {
  await leaveBrowser(browser);
  await server.kill('SIGTERM');
  removeFolder(folder);
});

it('the owner signs in, and is asked again when the session has ended', async () => {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(server.url.replace('0.0.0.0', '127.0.0.1'));
  const password = page.getByLabel('The owner’s password');
  await password.fill('nonsense nonsense');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('alert').getByText('This is not the password.').waitFor();
  await password.fill(PASSWORD);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.getByText('Nothing is linked yet.').waitFor();
  // Sessions end with the server; the page that comes back to it finds that out by itself.
  await server.kill('SIGTERM');
  server = await startServer(folder, '--host', '0.0.0.0', '--port', new URL(server.url).port);
  await password.waitFor();
});
