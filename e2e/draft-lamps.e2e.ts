import { build } from 'esbuild';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { cosinePower, webOfForm, writeIes } from '../core/lamp/closed-forms';
import { webOf, type LampWeb } from '../core/lamp/web-grid';
import type { SceneLamp } from '../core/scene/scene';
import { leaveBrowser, openBrowser } from './stage';

/** Single lamps in the draft against the law of the inverse square and the cosine, E = I cos^3 / h^2, and a white matt floor's E / pi. */

let browser: Browser;
let page: Page;
beforeAll(async () => {
  browser = await openBrowser();
  page = await browser.newPage();
  const { outputFiles } = await build({
    entryPoints: ['e2e/draft-lamps.page.ts'], bundle: true, write: false, format: 'iife', globalName: 'draft', logLevel: 'silent',
  }); // prettier-ignore
  await page.addScriptTag({ content: outputFiles[0]!.text });
});
afterAll(async () => {
  await leaveBrowser(browser);
});

const HEIGHT_M = 2;
const lamp = (extra: Partial<SceneLamp>): SceneLamp => ({
  source: 's', id: 'l', position: [0, 0, HEIGHT_M], axis: [0, 0, -1], right: [1, 0, 0], radiusM: 0.01, colour: [1, 1, 1],
  beam: { intensityCd: 900, cosInner: 1, cosOuter: -1 }, ...extra,
}); // prettier-ignore
const drawn = (of: SceneLamp): Promise<number[]> =>
  page.evaluate((asked) => {
    // A list of floats has come as an object of them.
    const web = asked.web && { ...asked.web, grid: Float32Array.from(Object.values(asked.web.grid)) };
    return (globalThis as unknown as { draft: { drawnFloor(lamp: SceneLamp): number[] } }).draft.drawnFloor({ ...asked, ...(web && { web }) });
  }, of); // prettier-ignore

/** Of the middle of a pixel, m. */
const placeOf = (pixel: number, count: number): number => ((pixel + 0.5) / count - 0.5) * 8;

function expectLaw(floor: readonly number[], intensityAt: (deg: number) => number, within: number): void {
  floor.forEach((cdM2, pixel) => {
    const x = placeOf(pixel, floor.length);
    const cos = HEIGHT_M / Math.hypot(x, HEIGHT_M);
    const deg = Math.atan(Math.abs(x) / HEIGHT_M) * (180 / Math.PI);
    const law = (intensityAt(deg) * cos ** 3) / HEIGHT_M ** 2 / Math.PI;
    expect(Math.abs(cdM2 / law - 1), `${x.toFixed(2)} m from the middle: ${String(cdM2)} for ${String(law)}`).toBeLessThan(within);
  });
}

it('a lamp that shines to all sides', async () => {
  expectLaw(await drawn(lamp({})), () => 900, 0.01);
});

it('a lamp that was measured, by the cosine’s power that its file was made of', async () => {
  const form = { name: 'Cubed', share: cosinePower(3), isRound: true, inputW: 10, fluxLm: 1000, openingM: [0, 0, 0] } as const;
  const web = webOf(writeIes(webOfForm(form))) as LampWeb;
  // I = I0 cos^n has a flux of 2 pi I0 / (n + 1).
  const i0 = (1000 * 4) / (2 * Math.PI);
  const { key, grid } = web;
  expectLaw(await drawn(lamp({ web: { key, grid, fluxLm: 1000 } })), (deg) => i0 * Math.cos((deg * Math.PI) / 180) ** 3, 0.02);
});

it('a spot is full on its axis, and dark beyond its field', async () => {
  const floor = await drawn(lamp({ beam: { intensityCd: 900, cosInner: Math.cos(0.3), cosOuter: Math.cos(0.6) } }));
  expect(floor[32]! / (900 / 4 / Math.PI)).toBeCloseTo(1, 2);
  for (const [pixel, cdM2] of floor.entries()) if (Math.abs(placeOf(pixel, 65)) > HEIGHT_M * Math.tan(0.6)) expect(cdM2).toBe(0);
});
