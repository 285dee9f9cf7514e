import { createHash } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import type { Browser, Page } from 'playwright-core';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { FINISHES } from '../core/finish/library';
import { encodeMesh } from '../core/geometry/mesh';
import { MeshBuilder } from '../core/geometry/shapes';
import {
  openAuthor,
  openPage,
  removeFolder,
  say,
  startServer,
  temporaryFolder,
  type RunningServer,
} from '../server/testing/running-server';
import { openBrowser, refined } from './stage';

/** Every finish that ships on a board and a ball, as the draft draws it and as the kernel renders it, side by side. */

const COLUMNS = 16;
const ROWS = Math.ceil(FINISHES.length / COLUMNS);
const BOARD_M = 0.86;
const BALL_M = 0.2;
const CAMERA = {
  position: [COLUMNS / 2 - 0.5, -15.2, ROWS / 2 - 0.5],
  target: [COLUMNS / 2 - 0.5, 0, ROWS / 2 - 0.5],
  focalMm: 34,
} as const;

const board = new MeshBuilder().box([-BOARD_M / 2, 0, -BOARD_M / 2], [BOARD_M / 2, 0.03, BOARD_M / 2]).build();
const ball = new MeshBuilder().revolve([0, 0, 0], Array.from({ length: 33 }, (_, i): [number, number] => {
  const a = -Math.PI / 2 + (Math.PI * i) / 32;
  return [i % 32 === 0 ? 0 : Math.cos(a) * BALL_M, Math.sin(a) * BALL_M];
}), 48).build(); // prettier-ignore
const blobs = [board, ball].map(encodeMesh);
const hashes = blobs.map((bytes) => createHash('sha256').update(bytes).digest('hex'));
const placeOf = (i: number) => ({ x: i % COLUMNS, z: ROWS - 1 - Math.floor(i / COLUMNS) });

let server: RunningServer;
let browser: Browser;
const folder = temporaryFolder();
beforeAll(async () => {
  server = await startServer(folder);
  browser = await openBrowser();
});
afterAll(async () => {
  await browser.close();
  await server.kill('SIGTERM');
  removeFolder(folder);
});

/** Links the cards, and gives each its finish. */
async function linkCards(): Promise<void> {
  const author = await openAuthor(server);
  author.send({ type: 'hello', protocol: 1, token: server.token, source: { id: 'cards', name: 'Cards', tool: 'Test' } });
  await author.next('welcome');
  author.send({ type: 'offer', blobs: hashes });
  await author.next('need');
  blobs.forEach((bytes, i) => { author.socket.send(Buffer.concat([Buffer.from(hashes[i]!, 'hex'), Buffer.from([1]), deflateRawSync(bytes)])); }); // prettier-ignore
  const element = (id: string, mesh: string, material: string, at: readonly number[]) => ({
    id, name: id, class: 'Furniture', storey: '', layer: 'Cards', option: null, phase: null,
    transform: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, ...at, 1], parts: [{ mesh, material }],
  }); // prettier-ignore
  const change = {
    reset: true,
    materials: FINISHES.map((f) => ({ id: f.id, name: `Sample ${f.id}`, colour: [0.5, 0.5, 0.5] })),
    elements: FINISHES.flatMap((f, i) => {
      const { x, z } = placeOf(i);
      return [element(`board ${f.id}`, hashes[0]!, f.id, [x, 0, z]), element(`ball ${f.id}`, hashes[1]!, f.id, [x + 0.2, -0.3, z - 0.2])];
    }),
    camera: CAMERA,
  };
  author.send({ type: 'change', sequence: 1, change });
  await author.next('ack');
  const page = await openPage(server);
  const commands = [
    ...FINISHES.map((f) => ({ type: 'assign-finish' as const, source: 'cards', material: f.id, finish: f.id })),
    { type: 'set-exposure' as const, mode: 'fixed' as const, ev100: 14 },
    { type: 'follow-author' as const, camera: true, time: false },
  ];
  commands.forEach((command, i) => { say(page, { type: 'command', id: `c${String(i)}`, command }); }); // prettier-ignore
  await page.next('changes', (m) => m.reply === `c${String(commands.length - 1)}`);
  page.close();
}

/** Mean linear colours of the board and of the ball of every finish, as the page shows them. */
async function cards(page: Page): Promise<{ board: number[]; ball: number[] }[]> {
  const box = (await page.getByTestId('picture').boundingBox())!;
  const { data, info } = await sharp(await page.screenshot({ clip: box })).removeAlpha().raw().toBuffer({ resolveWithObject: true }); // prettier-ignore
  const half = 18 / CAMERA.focalMm;
  const mean = (x: number, y: number, z: number, radiusM: number) => {
    const depth = y - CAMERA.position[1];
    const perM = info.width / (2 * half * depth);
    const [cx, cy, r] = [info.width / 2 + (x - CAMERA.position[0]) * perM, info.height / 2 - (z - CAMERA.position[2]) * perM, radiusM * perM];
    const sum = [0, 0, 0];
    let n = 0;
    for (let j = Math.round(cy - r); j <= cy + r; j++)
      for (let i = Math.round(cx - r); i <= cx + r; i++) {
        for (let k = 0; k < 3; k++) sum[k]! += ((data[(j * info.width + i) * 3 + k]! / 255) ** 2.2);
        n++;
      }
    return sum.map((c) => c / n);
  }; // prettier-ignore
  return FINISHES.map((_, i) => {
    const { x, z } = placeOf(i);
    return { board: mean(x - 0.17, 0, z + 0.17, 0.16), ball: mean(x + 0.2, -0.3 - BALL_M * 0.8, z - 0.2, 0.09) };
  });
}

const luminance = ([r, g, b]: readonly number[]) => 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
/** How much lighter or darker, on the eye's scale of 0 to 100 (CIE 1976 L*). */
const lightness = (colour: readonly number[]) => 116 * Math.cbrt(Math.max(0.009, luminance(colour))) - 16;
const tint = (colour: readonly number[]) => colour.map((c) => c / (colour[0]! + colour[1]! + colour[2]! + 1e-6));

it('the draft shows every finish as the kernel does, within what a draft leaves out', async () => {
  await linkCards();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${server.url}/#source`);
  await refined(page, 10, 240_000);
  const printed = await cards(page);
  await page.addStyleTag({ content: '[data-testid=refined-picture] { display: none !important; }' });
  const drafted = await cards(page);
  const rows = FINISHES.flatMap((finish, i) =>
    (['board', 'ball'] as const).map((part) => {
      const [draft, print] = [drafted[i]![part], printed[i]![part]];
      const off = Math.max(...tint(draft).map((share, k) => Math.abs(share - tint(print)[k]!)));
      return { name: `${finish.id} ${part}`, family: finish.family, lighter: lightness(draft) - lightness(print), off };
    }),
  );
  const sorted = (value: (row: (typeof rows)[number]) => number) => rows.map(value).sort((a, b) => a - b);
  const at = (list: number[], share: number) => list[Math.floor((list.length - 1) * share)]!;
  const lighter = sorted((row) => Math.abs(row.lighter));
  const off = sorted((row) => row.off);
  console.log(`Draft against print over ${String(rows.length)} boards and balls: lightness differs by ${at(lighter, 0.5).toFixed(1)} (median), ${at(lighter, 0.9).toFixed(1)} (nine in ten), ${at(lighter, 1).toFixed(1)} (most) of 100; tint by ${at(off, 0.5).toFixed(3)}, ${at(off, 0.9).toFixed(3)}, ${at(off, 1).toFixed(3)}.`); // prettier-ignore
  const [worst] = [...rows].sort((a, b) => Math.abs(b.lighter) - Math.abs(a.lighter));
  // The draft without a GPU has no shine on matt surfaces, and clear bodies are panes of one shade in it.
  expect(at(lighter, 0.5)).toBeLessThan(3.5);
  expect(at(lighter, 0.9)).toBeLessThan(12);
  expect(at(lighter, 1), worst!.name).toBeLessThan(27);
  expect(at(off, 0.5)).toBeLessThan(0.015);
  expect(at(off, 0.9)).toBeLessThan(0.07);
  await page.close();
}, 400_000);
