import { readFileSync } from 'node:fs';
import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import { unzipSync } from 'fflate';
import type { Locator, Page } from 'playwright-core';
import sharp from 'sharp';
import { cosinePower, webOfForm, writeIes } from '../core/lamp/closed-forms';
import { encodeSkyPicture } from '../core/sky/sky-picture';
import { goTo, leaveBrowser, modelArrived, newPage, openBrowser, overPicture, refined, setStage, type TheStage } from './stage';

let stage: TheStage;
beforeAll(async () => {
  stage = await setStage();
});
afterEach((context) => stage.closePages(context));
afterAll(() => stage.close());

it('the sun follows the day band by drag, by keys and by month, and the site by city and coordinates', async () => {
  const page = await stage.sheet('Light');
  await page.getByRole('tab', { name: 'Sun and site' }).click();
  await page.getByTestId('sunrise').getByText('07:51').waitFor();
  const band = page.getByTestId('day-band');
  const box = (await band.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.75, box.y + 10, { steps: 5 });
  await page.mouse.up();
  await page.getByTestId('time').getByText('18:00').waitFor();
  await band.focus();
  await page.keyboard.press('Shift+ArrowLeft');
  await page.getByTestId('time').getByText('17:00').waitFor();
  await page.keyboard.press('PageDown');
  await page.getByTestId('day').getByText('15 October').waitFor();
  await page.getByRole('button', { name: 'Jun', exact: true }).click();
  await page.getByTestId('day').getByText('15 June').waitFor();
  await page.getByLabel('City').fill('troms');
  await page.getByRole('option', { name: 'Tromsø' }).click();
  await page.getByText('The sun does not set today.').waitFor();
  await page.getByLabel('Latitude').fill('95');
  await page.getByRole('button', { name: 'Use these' }).click();
  await page.getByText('Latitude runs from −90 to 90').waitFor();
  await page.getByRole('button', { name: 'Take the site from the model again' }).click();
  await page.getByText('Marram Sound (from the model)').waitFor();
  await page.getByRole('tab', { name: 'Exposure' }).click();
  await page.getByRole('radio', { name: 'fixed' }).first().check();
  await page.getByLabel('EV at ISO 100').fill('12');
  await page.getByLabel('EV at ISO 100').press('Enter');
  await page.getByTestId('title-block').getByText('EV 12.0 /').waitFor();
  await page.getByRole('radio', { name: 'automatic' }).first().check();
});

it('a print agrees with the refined picture, carries its data, survives a killed server, and can be fetched', async () => {
  const page = await stage.sheet('Views');
  await page.getByRole('button', { name: 'From the bank' }).click();
  await refined(page, 1);
  const seen = await page.evaluate(() =>
    document.querySelector<HTMLCanvasElement>('[data-testid=refined-picture]')!.toDataURL('image/png'),
  );
  // Of the same shape, and less wide, so that the test is short.
  const [width, height] = await page.evaluate(() => {
    const c = document.querySelector<HTMLCanvasElement>('[data-testid=refined-picture]')!;
    return [Math.round(c.width / 1.6), Math.round(c.height / 1.6)];
  });
  const altitude = /sun (-?\d+\.\d)/.exec(await page.getByTestId('title-block').innerText())![1]!;
  await page.getByRole('button', { name: /Delivery/ }).click();
  await page.getByTestId('print-width').fill(String(width));
  await page.getByTestId('print-height').fill(String(height));
  await page.getByTestId('print-quality').selectOption('proof');
  await page.getByTestId('print-denoise').check();
  const answer = page.waitForResponse('**/api/prints');
  await page.getByTestId('print-order').click();
  const { id } = (await (await answer).json()) as { id: string };
  const print = page.getByTestId('print').first();
  await print.getByText('rendering').waitFor();
  // Kill the server in the midst of it; the print goes on by itself after the restart.
  await page.waitForFunction(() => Number(document.querySelector('progress')?.value) > 0.1);
  await stage.restartServer('SIGKILL');
  // Nor does it need anybody to look on.
  await page.goto('about:blank');
  await expect.poll(async () => (await fetch(`${stage.server.url}/api/prints/${id}/thumb.png`)).status, { interval: 500 }).toBe(200); // prettier-ignore
  await page.goto(`${stage.server.url}/#delivery`);
  await page.getByRole('tab', { name: 'Prints' }).click();
  await page.locator('[data-testid=print][data-state=finished]').waitFor();
  const download = page.waitForEvent('download');
  await print.getByTestId('print-download').click();
  const file = await (await download).path();
  const bytes = readFileSync(file);
  // The sun as the title block told it when the print was ordered.
  const metadata = (await sharp(bytes).metadata()).xmpAsString ?? '';
  for (const word of [
    '<dp:View>From the bank',
    '<dp:FocalLengthMm>26',
    '<dp:ExposureEv100>',
    '<dp:Revision>marram-landing 1',
    '<dp:Seed>1',
  ])
    expect(`${word}: ${String(metadata.includes(word))}`).toBe(`${word}: true`);

  expect(Math.abs(Number(/<dp:SunAltitudeDeg>([-\d.]+)/.exec(metadata)![1]) - Number(altitude))).toBeLessThan(0.051);

  const small = (input: Buffer) => sharp(input).resize(32, 18, { kernel: 'cubic' }).removeAlpha().raw().toBuffer();
  const [a, b] = await Promise.all([small(bytes), small(Buffer.from(seen.split(',')[1]!, 'base64'))]);
  const error = a.reduce((sum, v, i) => sum + Math.abs(v - b[i]!), 0) / a.length;
  // Mean absolute difference of coded values; one denoised sample against thirty-two.
  expect(error).toBeLessThan(5);
  await print.getByRole('button', { name: 'Delete' }).click();
  await page.getByText('No prints yet.').waitFor();
});

it('a print can be cancelled', async () => {
  const page = await stage.sheet('Delivery');
  await page.getByTestId('print-order').click();
  const print = page.getByTestId('print').first();
  await print.getByText('rendering').waitFor();
  await print.getByRole('button', { name: 'Cancel' }).click();
  await print.getByText('cancelled').waitFor();
});

it('a walk through views is shown in the picture, printed picture by picture, and can be fetched', async () => {
  const page = await stage.sheet('Views');
  const look = (view: string) => page.getByRole('button', { name: view, exact: true }).first().click();
  const lens = async () => /Lens \/ eye\s*([^\n]+)/.exec(await page.getByTestId('title-block').innerText())![1];
  await look('From the bank');
  await page.getByTestId('walk-begin').click();
  const walk = page.getByTestId('walk');
  await walk.getByText('From the bank').waitFor();
  await look('From the jetty');
  const there = await lens();
  await page.getByTestId('walk-stop').click();
  await walk.getByLabel('Takes').fill('0.2');
  await walk.getByLabel('Takes').press('Enter');
  await page.getByTestId('walk-pace').getByText('m/s').waitFor();
  await look('Over the water');
  await page.getByTestId('walk-play').click();
  await page.getByTestId('title-block').getByText('Walk 1').waitFor();
  await expect.poll(lens).toBe(there);
  await page.getByTestId('walk-play').waitFor();

  await page.getByRole('button', { name: /Delivery/ }).click();
  await page.getByTestId('print-of').selectOption({ label: 'Walk 1, a walk' });
  await page.getByTestId('print-frames').getByText('5 in 0.2 s').waitFor();
  await page.getByTestId('print-width').fill('32');
  await page.getByTestId('print-height').fill('18');
  await page.getByTestId('print-quality').selectOption('proof');
  await page.getByTestId('print-order').click();
  const print = page.getByTestId('print').filter({ hasText: 'Walk 1' });
  await print.getByTestId('walk-watch').waitFor();
  const download = page.waitForEvent('download');
  await print.getByTestId('print-download').click();
  const files = unzipSync(new Uint8Array(readFileSync(await (await download).path())));
  const pictures = Object.keys(files).filter((name) => name.endsWith('.png'));
  expect(pictures).toEqual(['00001.png', '00002.png', '00003.png', '00004.png', '00005.png']);
  const sizes = await Promise.all(pictures.map(async (name) => (await sharp(files[name]).metadata()).width));
  expect(new Set(sizes)).toEqual(new Set([32]));
  await print.getByRole('button', { name: 'Delete' }).click();
  await print.waitFor({ state: 'detached' });
});

it('without WebGL a sentence says so, and the kernel’s picture is shown', async () => {
  const browser = await openBrowser('--disable-webgl', '--disable-webgl2', '--disable-3d-apis');
  const page = await newPage(browser);
  await page.goto(`${stage.server.url}/#finishes`);
  await page.getByText('This browser draws no WebGL').waitFor();
  await modelArrived(page);
  await refined(page);
  await leaveBrowser(browser);
});

it('lamps of the model are dimmed, lit alone and put on circuits here; what is set stays, and a later change in the model is told', async () => {
  const page = await stage.sheet('Light');
  await page.getByRole('tab', { name: 'Luminaires' }).click();
  const hall = page.locator('[data-circuit="Hall pendants"]');
  const lit = (row: Locator) => row.getByTestId('lit-lm').first().innerText();
  const whole = await lit(hall);
  // What a circuit gives is known by itself before its bar is dragged.
  await hall.locator('.level').first().hover();
  await page.locator('[data-testid=refined-picture][data-level-known="circuit/Hall pendants"]').waitFor();
  // A circuit by its bar, in half of its length.
  await hall.locator('.level').first().fill('0.5');
  await expect.poll(() => lit(hall)).not.toBe(whole);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => lit(hall)).toBe(whole);
  // One lamp, whatever the model says of it afterwards.
  await hall.locator('.depth-1 .fold').click();
  const lamp = hall.locator('.depth-2').filter({ hasText: 'Pendant 2' });
  await lamp.locator('.level').fill('0.25');
  await expect.poll(() => lit(lamp)).toBe('475');
  await stage.author.edit({ edit: 'dim', luminaire: 'pendant-2', dim: 0.6 });
  await page.getByTestId('model-hint').getByText('The model has 60 % now.').waitFor();
  expect(await lit(lamp)).toBe('475');
  await page.getByTestId('model-hint').getByRole('button', { name: 'take it' }).click();
  await expect.poll(() => lit(lamp)).toBe('1\u2009140');
  // Alone by a key, then all again.
  await lamp.locator('.opener').focus();
  await page.keyboard.press('a');
  await page.getByTestId('lit-alone').waitFor();
  await expect.poll(() => lit(page.locator('[data-circuit=Outside]'))).toBe('0');
  await page.keyboard.press('a');
  await page.getByTestId('lit-alone').waitFor({ state: 'detached' });
  await page.keyboard.press('o');
  await expect.poll(() => lit(lamp)).toBe('0');
  await page.keyboard.press('o');
  // Dragged onto another circuit, and onto a new one by the menu.
  await lamp.dragTo(page.locator('[data-circuit=Counters] .depth-0'));
  const moved = page.locator('[data-circuit=Counters] .depth-2').filter({ hasText: 'Pendant 2' });
  await page.locator('[data-circuit=Counters] .depth-1').filter({ hasText: 'Pendant' }).locator('.fold').click();
  await moved.locator('.opener').click();
  await page.getByTestId('circuit-menu').selectOption('+');
  const fresh = page.locator('[data-circuit="Circuit 1"]');
  await fresh.locator('.depth-0 .opener').click();
  await fresh.getByLabel('Name').fill('Evening');
  await fresh.getByLabel('Name').press('Enter');
  await fresh.locator('.depth-0 .opener').getByText('Evening').waitFor();
});

it('a photometric file is brought in for a type of lamp, with its curve; a broken one is explained by its line', async () => {
  const page = await stage.sheet('Light');
  await page.getByRole('tab', { name: 'Luminaires' }).click();
  await page.locator('[data-circuit=Counters] .depth-1 .opener').click();
  const data = page.getByTestId('photometric-data');
  await data.getByText('Counter spot.ies').waitFor();
  const text = writeIes(
    webOfForm({ name: 'Wide', share: cosinePower(1), isRound: true, inputW: 10, fluxLm: 1000, openingM: [0.1, 0.1, 0] }),
  );
  const give = (name: string, file: string) =>
    page.getByTestId('photometric-file').setInputFiles({ name, mimeType: 'text/plain', buffer: Buffer.from(file) });
  await give('broken.ies', text.replace('TILT=NONE', 'TILT=NONE\nround'));
  await page.getByText('broken.ies: Line 8: “round” is no number of lamps.').waitFor();
  await page.getByRole('button', { name: 'Close the message' }).click();
  await page.getByTestId('refusal').waitFor({ state: 'detached' });
  await give('wide.ies', text);
  await data.getByText('wide.ies').waitFor();
  await data.getByText('100 lm/W').waitFor();
  await data.getByText('120°').waitFor();
  // Drawn, not empty: the curve's ink on the paper.
  await expect.poll(() => data.locator('canvas').evaluate((c: HTMLCanvasElement) => new Set(c.getContext('2d')!.getImageData(0, 0, c.width, c.height).data).size)).toBeGreaterThan(20); // prettier-ignore
  await page.getByTestId('photometry-menu').selectOption('');
  await data.getByText('Counter spot.ies').waitFor();
});

/** Puts the pointer on one of the handles about a place of the page. */
async function handleAbout(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  for (let reach = 6; reach < 70; reach += 4)
    for (let turn = 0; turn < 24; turn++) {
      const at = { x: x + reach * Math.cos((turn * Math.PI) / 12), y: y + reach * Math.sin((turn * Math.PI) / 12) };
      await page.mouse.move(at.x, at.y);
      if (/^[XYZ]$/.test(await page.evaluate(() => new Promise<string>((seen) => requestAnimationFrame(() => requestAnimationFrame(() => { seen(document.querySelector<HTMLElement>('[data-testid=gizmo]')!.dataset['handle'] ?? ''); })))))) return at; // prettier-ignore
    }
  throw new Error('There is no handle.');
}

it('a row of spots is placed by two clicks, edited together, one aimed by a click and moved by hand, all chosen by a box, and undone', async () => {
  const page = await stage.sheet('Views');
  await page.getByRole('button', { name: 'Ticket counter' }).click();
  await goTo(page, 'Light');
  await page.getByRole('tab', { name: 'Luminaires' }).click();
  await page.getByTestId('place-lamps').click();
  await page.getByTestId('lamp-kind').selectOption('Spot');
  await page.getByTestId('lamp-pattern').selectOption('row');
  await page.getByTestId('lamp-hangs').fill('0.6');
  await page.getByTestId('lamp-hangs').press('Enter');
  const click = async (x: number, y: number) => {
    const at = await overPicture(page, x, y);
    await page.mouse.click(at.x, at.y);
  };
  await page.getByText('Click where the row begins.').waitFor();
  await click(0.25, 0.08);
  await page.getByText('Click where it ends.').waitFor();
  await click(0.75, 0.08);
  const circuit = page.locator('[data-circuit="Placed here"]');
  await expect.poll(() => circuit.getByTestId('lit-lm').first().innerText()).toBe('3\u2009200');
  await page.getByTestId('placing').getByRole('button', { name: 'done' }).click();
  await circuit.locator('.depth-1 .opener').click();
  await page.getByTestId('lamp-unit').selectOption('W');
  await page.getByTestId('lamp-value').fill('5');
  await page.getByTestId('lamp-value').press('Enter');
  await expect.poll(() => circuit.getByTestId('lit-lm').first().innerText()).toBe('2\u2009000');
  await circuit.locator('.depth-1 .fold').click();
  await circuit.locator('.depth-2 .opener').nth(1).click();
  await page.getByTestId('pin').getByText('Spot 2').waitFor();
  await page.getByTestId('aim-lamp').click();
  await page.getByText('Click what it shines at.').waitFor();
  await click(0.5, 0.7);
  await expect.poll(() => page.locator('.history-row').first().textContent()).toContain('Spot 2 aimed');
  // By hand: the handles stand where the lamp is.
  const gizmo = page.getByTestId('gizmo');
  await expect.poll(() => gizmo.getAttribute('data-chosen')).toBe('1');
  const pin = (await page.getByTestId('pin').first().boundingBox())!;
  const handle = await handleAbout(page, pin.x + pin.width / 2, pin.y + pin.height / 2);
  await page.mouse.down();
  await page.mouse.move(handle.x + 12, handle.y + 12, { steps: 4 });
  await page.mouse.up();
  await expect.poll(() => page.locator('.history-row').first().textContent()).toContain('Spot 2 moved');
  await circuit.locator('.depth-2 .opener').nth(1).click();
  // Several by a box, with a length typed in another unit.
  const [from, to] = [await overPicture(page, 0.02, 0.02), await overPicture(page, 0.98, 0.6)];
  await page.keyboard.down('Control');
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(to.x, to.y, { steps: 3 });
  await page.mouse.up();
  await page.keyboard.up('Control');
  const chosen = page.getByTestId('chosen-lamps');
  await chosen.getByText('4 lamps').waitFor();
  await chosen.getByTestId('lamp-radiusM').fill('35 mm');
  await chosen.getByTestId('lamp-radiusM').press('Enter');
  await expect.poll(() => chosen.getByTestId('lamp-radiusM').inputValue()).toBe('0.035');
  await chosen.getByRole('button', { name: 'none' }).click();
  for (let i = 0; i < 6; i++) await page.getByRole('button', { name: 'Undo' }).click();
  await circuit.waitFor({ state: 'detached' });
});

it('a state of light is kept, recalled by a click, compared by a wipe, and undone', async () => {
  const page = await stage.sheet('Light');
  const slips = page.getByTestId('conditions');
  const keep = async (name: string) => {
    await page.getByTestId('keep-condition').click();
    await page.getByPlaceholder('Name of the condition').fill(name);
    await page.getByRole('button', { name: 'Keep', exact: true }).click();
    await slips.locator(`[data-condition="${name}"]`).waitFor();
  };
  const band = (await page.getByTestId('day-band').boundingBox())!;
  await page.mouse.click(band.x + band.width * 0.625, band.y + 10);
  await page.getByTestId('time').getByText('15:00').waitFor();
  await keep('Afternoon');
  await page.mouse.click(band.x + band.width * 0.775, band.y + 10);
  await page.getByTestId('time').getByText('18:35').waitFor();
  await page.getByRole('tab', { name: 'Luminaires' }).click();
  await page.locator('[data-circuit] .switch, [data-circuit] input[type=checkbox]').first().click();
  await keep('Dusk');
  await expect.poll(() => slips.locator('img').count()).toBe(2);
  // However many there are, they make no room for themselves beyond the window.
  expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)).toBeLessThanOrEqual(0);
  expect(
    (await page.getByTestId('title-block').boundingBox())!.x + (await page.getByTestId('title-block').boundingBox())!.width,
  ).toBeLessThanOrEqual(page.viewportSize()!.width);
  await slips.getByRole('button', { name: 'Recall Afternoon' }).click();
  await page.getByTestId('time').getByText('15:00').waitFor();
  await refined(page);
  await slips.getByRole('button', { name: 'More of Dusk' }).click();
  await page.getByRole('button', { name: 'Compare with now' }).last().click();
  const wipe = page.getByTestId('wipe');
  await wipe.waitFor();
  await wipe.getByText('Now', { exact: true }).waitFor();
  await page.keyboard.press('ArrowLeft');
  await expect.poll(() => wipe.getByRole('slider').getAttribute('aria-valuenow')).toBe('48');
  await page.keyboard.press('Escape');
  await wipe.waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByTestId('time').getByText('18:35').waitFor();
  for (const name of ['Afternoon', 'Dusk']) {
    await slips.getByRole('button', { name: `More of ${name}` }).click();
    await page.getByRole('button', { name: 'Drop', exact: true }).last().click();
    await slips.locator(`[data-condition="${name}"]`).waitFor({ state: 'detached' });
  }
});

it('a dozen months are tried on a contact sheet; the sun is placed by hand, before the horizon of a place', async () => {
  const page = await stage.sheet('Light');
  await page.getByRole('tab', { name: 'Sun and site' }).click();
  await page.getByRole('button', { name: 'months', exact: true }).click();
  const sheet = page.getByTestId('contact-sheet');
  await sheet.locator('img').nth(5).waitFor();
  await sheet.getByRole('button', { name: '21 Jun' }).click();
  await sheet.waitFor({ state: 'detached' });
  await page.getByTestId('day').getByText('21 June').waitFor();
  await page.getByTestId('sun-altitude').fill('12');
  await page.getByTestId('sun-altitude').press('Enter');
  await page.getByText('set by hand').waitFor();
  await page.getByTestId('title-block').getByText('sun 12.0°').waitFor();
  await page.getByTestId('pick-horizon').click();
  const place = await overPicture(page, 0.5, 0.8);
  await page.mouse.click(place.x, place.y);
  await page.getByText(/seen there/).waitFor();
  await page.getByRole('button', { name: 'by date and hour again' }).click();
  await page.getByText('by place, date and hour').waitFor();
});

it('a picture becomes the sky, its sun apart, and is turned; a broken one is refused; fog and clouds come and go', async () => {
  const page = await stage.sheet('Light');
  await page.getByRole('tab', { name: 'Sun and site' }).click();
  const [width, height] = [128, 64];
  const rgb = Float32Array.from({ length: width * height * 3 }, (_, i) => {
    const [x, y] = [Math.floor(i / 3) % width, Math.floor(i / 3 / width)];
    return x === 40 && y === 20 ? 9000 : y < 32 ? 1 : 0.2;
  });
  const texels = encodeSkyPicture({ width, height, rgb }).subarray(16);
  const hdr = Buffer.concat([Buffer.from(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${String(height)} +X ${String(width)}\n`), texels]);
  const file = page.getByTestId('sky-file');
  await file.setInputFiles({ name: 'broken.hdr', mimeType: 'application/octet-stream', buffer: hdr.subarray(0, 2000) });
  await page.getByTestId('refusal').getByText('broken.hdr is broken').waitFor();
  await file.setInputFiles({ name: 'shore.hdr', mimeType: 'application/octet-stream', buffer: hdr });
  await page.getByText('A sun was found 32° high and is kept apart.').waitFor();
  expect(await page.getByTestId('sky').inputValue()).toBe('picture');
  await page.getByTestId('picture-turn').fill('90');
  await expect.poll(() => page.locator('.history-row').first().textContent()).toContain('shore.hdr');
  await page.getByTestId('sky').selectOption('');
  await page.getByTestId('fog').check();
  await page.getByTestId('fog-visibility').waitFor();
  await page.getByTestId('clouds').check();
  await refined(page);
  await page.getByTestId('fog').uncheck();
  await page.getByTestId('clouds').uncheck();
  await expect.poll(() => page.locator('.history-row').first().textContent()).toContain('No clouds');
});

it('the picture is developed as it stands, through a look of one’s own, and a view holds its exposure', async () => {
  const page = await stage.sheet('Light');
  await page.getByRole('tab', { name: 'Exposure' }).click();
  await refined(page, 1);
  const canvas = page.getByTestId('refined-picture');
  const colour = async () => {
    const { channels } = await sharp(await canvas.screenshot()).stats();
    return channels.map(({ mean }) => mean);
  };
  const plain = await colour();
  await page.getByTestId('develop-saturation').fill('-1');
  await expect.poll(async () => Math.max(...(await colour()).slice(0, 3)) - Math.min(...(await colour()).slice(0, 3))).toBeLessThan(3);
  // Nothing was rendered anew for it.
  expect(await canvas.getAttribute('data-samples')).toBe('1');
  await page.getByTestId('histogram').waitFor();
  await page
    .getByTestId('cube-file')
    .setInputFiles({ name: 'night.cube', mimeType: 'text/plain', buffer: Buffer.from('LUT_1D_SIZE 2\n0 0 0\n0.2 0.2 0.6\n') });
  await expect.poll(async () => (await colour())[0]).toBeLessThan(plain[0]! * 0.5);
  await page
    .getByTestId('cube-file')
    .setInputFiles({ name: 'cut.cube', mimeType: 'text/plain', buffer: Buffer.from('LUT_1D_SIZE 4\n0 0 0\n') });
  await page.getByTestId('refusal').getByText('cut.cube: It ends after 1 of its 4 colours.').waitFor();
  await page.getByRole('button', { name: 'As it was shot' }).click();
  await expect.poll(async () => Math.abs((await colour())[0]! - plain[0]!)).toBeLessThan(4);
  await goTo(page, 'Views');
  await page.getByRole('button', { name: 'From the jetty' }).first().click();
  await goTo(page, 'Light');
  await page.getByRole('tab', { name: 'Exposure' }).click();
  await page.getByRole('radio', { name: 'fixed' }).first().check();
  await page.getByTestId('shutter').fill('1/1000');
  await page.getByTestId('shutter').press('Enter');
  await page.getByTestId('title-block').getByText('EV 16.0 /').waitFor();
  await page.getByTestId('hold-exposure').click();
  await page.getByTestId('held-exposure').waitFor();
  await goTo(page, 'Views');
  await page.getByRole('button', { name: 'Waiting hall' }).first().click();
  await goTo(page, 'Light');
  await page.getByRole('tab', { name: 'Exposure' }).click();
  await page.getByRole('radio', { name: 'automatic' }).first().check();
  await expect.poll(async () => /EV ([\d.-]+)/.exec(await page.getByTestId('title-block').innerText())![1]).not.toBe('16.0');
  await goTo(page, 'Views');
  await page.getByRole('button', { name: 'From the jetty' }).first().click();
  await page.getByTestId('title-block').getByText('EV 16.0 /').waitFor();
});
