import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { afterAll, afterEach, beforeAll, expect, it } from 'vitest';
import {
  difference,
  goTo,
  grain,
  modelArrived,
  openSheet,
  overPicture,
  refined,
  refineTo,
  setStage,
  shownColour,
  type TheStage,
} from './stage';

let stage: TheStage;
beforeAll(async () => {
  // Boards are told from each other.
  stage = await setStage({ pixels: 0.3 });
});
afterEach((context) => stage.closePages(context));
afterAll(() => stage.close());

/** A spot of the west wall's boards in the view from the bank. */
const WALL = [0.14, 0.6] as const;
/** Another, with nothing but boards in it. */
const BOARDS = [0.1, 0.55] as const;

it('names are read, the reason is told, and a choice by hand survives every edit, deletion and undo, hold and restart', async () => {
  const page = await stage.sheet('Finishes');
  await modelArrived(page);
  const row = page.locator('[data-material=cladding]');
  await row.locator('.line').click();
  expect(await row.getByTestId('reason').innerText()).toContain('reads as timber boards');
  await row.getByTestId('finish-select').selectOption('brick');
  await row.getByText('Set by hand').waitFor();
  await stage.author.edit({ edit: 'recolour', material: 'cladding', colour: [0.9, 0.1, 0.1] });
  await stage.author.edit({ edit: 'rename', material: 'cladding', name: 'Something else' });
  await stage.author.edit({ edit: 'move-wall', metres: 1 });
  await page.getByText('Something else').waitFor();
  await row.getByText('Set by hand').waitFor();

  await stage.author.edit({ edit: 'delete-column', column: 'column-s3' });
  await stage.author.edit({ edit: 'undo' });
  await stage.restartServer('SIGTERM');
  await page.getByTestId('link-state').getByText('in step').waitFor();
  await row.getByText('Set by hand').waitFor();
});

it('an element gets a finish of its own by a click in the picture, and keeps it through deletion and undo', async () => {
  const page = await stage.sheet('Finishes');
  await modelArrived(page);
  await page.getByRole('button', { name: /Views/ }).click();
  await page.getByRole('button', { name: 'From the bank' }).click();
  // What is clicked is what is seen: the view must have come to the screen.
  await refined(page);
  const at = await overPicture(page, ...WALL);
  await page.mouse.move(at.x, at.y);
  await page.getByTestId('pointed').getByText('Wall west, boards').waitFor();
  await page.mouse.click(at.x, at.y);
  const select = page.getByTestId('element-finish');
  await select.waitFor();
  await page.mouse.move(10, 10);
  await refined(page, 1);
  const before = await shownColour(page, ...WALL);
  await select.selectOption('plaster');
  await expect.poll(async () => difference(await shownColour(page, ...WALL), before)).toBeGreaterThan(40);
  // Boards are upright; turned a quarter they lie.
  await select.selectOption('larch-boards');
  await expect.poll(() => grain(page, ...BOARDS)).toBeGreaterThan(1.2);
  await refined(page, 1);
  const upright = await grain(page, ...BOARDS);
  await page.getByTestId('quarter-turn').click();
  await expect.poll(async () => (await grain(page, ...BOARDS)) / upright).toBeLessThan(0.7);
  await page.getByTestId('align').click();
  await page.mouse.click(at.x, at.y);
  await expect.poll(() => page.locator('.history-row').first().textContent()).toContain('laid');
  await page.getByTestId('lay-as-finish').click();
  await page.getByTestId('lay-as-finish').waitFor({ state: 'detached' });
  // The clicked face alone.
  await page.getByTestId('face-only').check();
  await page.getByTestId('quarter-turn').click();
  await expect.poll(async () => (await grain(page, ...BOARDS)) / upright).toBeLessThan(0.7);
  await page.getByTestId('lay-as-finish').click();
  await page.getByTestId('lay-as-finish').waitFor({ state: 'detached' });
  await select.selectOption('plaster');
  await stage.author.edit({ edit: 'layer', layer: 'Envelope', visible: false });
  await stage.author.edit({ edit: 'layer', layer: 'Envelope', visible: true });
  await expect.poll(() => select.inputValue()).toBe('plaster');
  await page.getByRole('button', { name: 'Back', exact: true }).click();
});

it('a finish dragged over the picture is shown before it is let go; Escape takes it back, a drop keeps it, undo and redo follow', async () => {
  const page = await stage.sheet('Finishes');
  await modelArrived(page);
  await page.getByRole('tab', { name: 'Library' }).click();
  const item = page.locator('[data-finish=mirror]');
  await item.scrollIntoViewIfNeeded();
  const target = await overPicture(page, 0.3, 0.93);
  await refined(page, 1);
  const before = await shownColour(page, 0.28, 0.91);
  const drag = async () => {
    await item.hover();
    await page.mouse.down();
    await page.mouse.move(target.x - 30, target.y - 8, { steps: 4 });
    await page.mouse.move(target.x, target.y, { steps: 4 });
  };
  const steps = () => page.locator('.history-row').count();
  const stepsBefore = await steps();
  await drag();
  await expect.poll(async () => difference(await shownColour(page, 0.28, 0.91), before)).toBeGreaterThan(25);
  expect(await steps()).toBe(stepsBefore);
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect.poll(async () => difference(await shownColour(page, 0.28, 0.91), before)).toBeLessThan(25);

  // A second page as a witness: a small picture, so that it takes no time from the first.
  const other = await openSheet(stage, 'Finishes', { height: 420 });
  await drag();
  await page.mouse.up();
  await expect.poll(() => other.locator('.history-row').first().textContent()).toContain('Mirror, silvered on');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => other.locator('.history-row').first().getAttribute('class')).toContain('undone');
  await other.getByRole('button', { name: 'Redo' }).click();
  await expect.poll(() => page.locator('.history-row').first().getAttribute('class')).not.toContain('undone');
  // The plinth as it was: a mirror in the next journey would show what a draft does not mirror.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => page.locator('.history-row').first().getAttribute('class')).toContain('undone');
});

it('rows are worked on together, replaced everywhere, ruled by name; the library shows before it gives; a held key shows what was', async () => {
  const page = await stage.sheet('Finishes');
  await modelArrived(page);
  const row = (material: string) => page.locator(`[data-material=${material}]`);
  const history = () => page.locator('.history-row').first().textContent();
  await row('plinth').locator('.tick').click();
  await row('jetty').locator('.tick').click();
  await page.getByTestId('together').getByText('2 rows').waitFor();
  await page.getByTestId('finish-together').selectOption('brick');
  await expect.poll(history).toContain('2 assignments');
  await page.getByTestId('show-rows').selectOption('by hand');
  for (const material of ['plinth', 'jetty']) await row(material).getByText('Brick, red-brown').first().waitFor();
  await page.getByTestId('together').getByRole('button', { name: 'none' }).click();

  await row('plinth').locator('.opener').click();
  await row('plinth').getByTestId('row-code').fill('W-07');
  await row('plinth').getByTestId('row-note').fill('as the sample of May');
  await row('plinth').getByTestId('replace-everywhere').click();
  await row('plinth').getByTestId('replacement').selectOption('zinc');
  await expect.poll(history).toContain('replaced by');
  await row('jetty').getByText('Zinc').waitFor();
  await page.getByTestId('all-columns').click();
  await row('plinth').getByText('W-07 ·').waitFor();
  const plinth = () => shownColour(page, 0.45, 0.86);
  await refined(page, 1);
  const zinc = await plinth();
  await page.getByTestId('picture').focus();
  await page.keyboard.down('b');
  await page.getByTestId('picture-state').getByText('before last step').waitFor();
  await expect.poll(async () => difference(await plinth(), zinc)).toBeGreaterThan(40);
  await page.keyboard.up('b');
  await expect.poll(async () => difference(await plinth(), zinc)).toBeLessThan(25);

  await page.getByTestId('show-rows').selectOption('all');
  await row('plinth').getByTestId('make-rule').click();
  await row('plinth').getByTestId('rule-pattern').fill('generic*');
  await row('plinth').getByTestId('add-rule').click();
  await page.getByTestId('rule').getByText('“generic*”').waitFor();
  await page
    .getByTestId('counts')
    .getByText(/^1 unassigned/)
    .waitFor();

  await page.getByRole('tab', { name: 'Library' }).click();
  await page.getByTestId('family').selectOption('brick');
  await page.locator('[data-tag=warm]').click();
  await page.locator('[data-tag=warm]').click();
  await page.locator('[data-finish=brick]').waitFor({ state: 'detached' });
  await page.locator('[data-finish=brick-white] .giver').hover();
  await expect.poll(async () => difference(await plinth(), zinc)).toBeGreaterThan(40);
  await page.mouse.move(600, 10);
  await expect.poll(async () => difference(await plinth(), zinc)).toBeLessThan(25);
  for (let i = 0; i < 5; i++) await page.getByRole('button', { name: 'Undo' }).click();
});

it('a photograph becomes a finish: straightened by its corners, at true size, worn by the open row; what is no photograph is refused', async () => {
  const page = await stage.sheet('Finishes');
  await modelArrived(page);
  await page.locator('[data-material=plinth] .opener').click();
  await refined(page, 1);
  const before = await shownColour(page, 0.45, 0.86);
  await page.getByRole('tab', { name: 'Library' }).click();
  const give = (name: string, buffer: Buffer) => page.getByTestId('photo-file').setInputFiles({ name, mimeType: 'image/png', buffer });
  await give('sign.svg', Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>document.title = "run"</script></svg>'));
  await page.getByTestId('photo-refused').getByText('sign.svg is no photograph that is read here').waitFor();
  const squares = Buffer.from(Array.from({ length: 240 * 180 }, (_, i) => ((Math.floor((i % 240) / 40) + Math.floor(i / 240 / 30)) % 2 ? [190, 60, 40] : [120, 30, 20])).flat()); // prettier-ignore
  await give(
    'old wall.png',
    await sharp(squares, { raw: { width: 240, height: 180, channels: 3 } })
      .png()
      .toBuffer(),
  );
  const photo = page.getByTestId('photo');
  await photo.waitFor();
  // A corner is dragged inwards, another moved by keys; crossed corners are said at once.
  const box = (await photo.boundingBox())!;
  const corner = page.getByTestId('corner-0');
  const dragTo = async (x: number, y: number) => {
    const at = (await corner.boundingBox())!;
    await page.mouse.move(at.x + at.width / 2, at.y + at.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + x * box.width, box.y + y * box.height, { steps: 4 });
    await page.mouse.up();
  };
  await dragTo(0.95, 0.9);
  await page.getByText('The corners must go round in their order.').waitFor();
  await dragTo(0.1, 0.12);
  await page.getByTestId('corner-2').press('ArrowLeft');
  await page.getByTestId('photo-across').fill('1800');
  await page.getByTestId('photo-across').dispatchEvent('change');
  const painted = () => page.getByTestId('photo-preview').evaluate((canvas: HTMLCanvasElement) => canvas.width);
  await expect.poll(painted).toBe(320);
  await page.getByTestId('photo-name').fill('Painted squares');
  await page.getByTestId('make-finish').click();
  await page.getByTestId('library').waitFor();
  await expect.poll(() => page.locator('.history-row').first().textContent()).toContain('Painted squares made');
  await expect.poll(async () => difference(await shownColour(page, 0.45, 0.86), before)).toBeGreaterThan(60);
  // Own finishes go out as a zip, and come in again as further ones.
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('own-out').click()]);
  await page.getByTestId('own-in').setInputFiles({ name: 'finishes.zip', mimeType: 'application/zip', buffer: readFileSync(await download.path()) }); // prettier-ignore
  await page.getByTestId('photo-refused').getByText('Brought in: Painted squares').waitFor();
  await page.getByRole('button', { name: 'Undo' }).click();
  // And they may be kept for every project on this computer.
  await page.getByTestId('keep-own').click();
  await page.getByTestId('photo-refused').getByText('Kept in your library: 1.').waitFor();
  await page.getByTestId('shelf').selectOption('my library');
  await page.getByTestId('library-count').getByText('1 of 1 in my library').waitFor();
  await page.locator('[data-item] .giver').click();
  await page.getByTestId('photo-refused').getByText('Painted squares is in the project now.').waitFor();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByTestId('shelf').selectOption('all');
  // The pictures of a folder are a map set, sorted by their names; what else lies there is left.
  const folder = path.join(stage.folder, 'tin');
  mkdirSync(folder);
  writeFileSync(path.join(folder, 'licence.txt'), 'as you like');
  await page.getByTestId('photo-folder').setInputFiles(folder);
  await page.getByTestId('photo-refused').getByText('tin holds no pictures').waitFor();
  for (const [name, background] of [['col', '#b0b8c0'], ['gloss', '#909090'], ['metallic', '#fff']] as const)
    await sharp({ create: { width: 64, height: 64, channels: 3, background } }).toFile(path.join(folder, `tin_${name}.png`)); // prettier-ignore
  await page.getByTestId('photo-folder').setInputFiles(folder);
  await page.getByTestId('photo-refused').getByText('Found colour, glossiness, metalness.').waitFor();
  await page.getByRole('tab', { name: 'Finish schedule' }).click();
  await page.locator('[data-material=plinth]').getByText('tin', { exact: true }).first().waitFor();
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.locator('[data-material=plinth]').getByText('Painted squares').first().waitFor();
  await page.getByRole('button', { name: 'Undo' }).click();
});

it('water runs while it is let run, grass grows before it is seen, and the refined picture shows them as they stand', async () => {
  const page = await stage.sheet('Finishes');
  await modelArrived(page);
  await refined(page);
  const frames = () => page.getByTestId('working-picture').getAttribute('data-frames').then(Number);
  await page.getByTestId('motion').click();
  const begun = await frames();
  await page.getByTestId('picture-state').getByText('draft').waitFor();
  await expect.poll(frames).toBeGreaterThan(begun + 3);
  await page.getByTestId('motion').click();
  await refined(page);
  const still = await frames();
  // Longer blades over the bank show against the landing's pale wall at its foot, in the kernel's picture.
  const bank = page.locator('[data-material=bank]');
  await stage.author.edit({ edit: 'rename', material: 'bank', name: 'Ground – bank grass' });
  await bank.getByText('bank grass').waitFor();
  const lawn = () => shownColour(page, 0.12, 0.8, 0.1, 0.1);
  const meadow = await lawn();
  await bank.locator('.line').click();
  await bank.getByTestId('blade-colour').fill('#c02020');
  await bank.getByTestId('blade-colour').dispatchEvent('change');
  await expect.poll(async () => { const [r, g] = await lawn(); return r - g - (meadow[0] - meadow[1]); }).toBeGreaterThan(30); // prettier-ignore
  expect(await frames()).toBeLessThan(still + 40);
  await page.getByRole('button', { name: 'Undo' }).click();
  await stage.author.edit({ edit: 'undo' });
});

it('the picture refines when the camera rests, says so, and starts over when it moves', async () => {
  const page = await stage.sheet('Views');
  // With one sample it would be finished before it refines.
  await refineTo(page, 2);
  // All that is said, however shortly.
  const said = await page.evaluateHandle(() => {
    const texts: string[] = [];
    const block = document.querySelector('[data-testid=title-block]')!;
    const note = () => texts.push(document.querySelector('[data-testid=picture-state]')?.textContent ?? '');
    new MutationObserver(note).observe(block, { subtree: true, childList: true, characterData: true });
    return texts;
  });
  await page.getByRole('button', { name: 'From the jetty' }).click();
  await expect.poll(() => said.jsonValue()).toContainEqual(expect.stringContaining('refining'));
  await refined(page, 2);
  // A station above which there is more or less room leaves it as it is.
  const samples = () =>
    page.evaluate(
      () =>
        new Promise<string | undefined>((tell) => requestAnimationFrame(() => requestAnimationFrame(() => { tell(document.querySelector<HTMLElement>('[data-testid=refined-picture]')!.dataset['samples']); }))),
    ); // prettier-ignore
  for (const station of ['Setting', 'Views'] as const) {
    await goTo(page, station);
    expect(await samples()).toBe('2');
  }
  const at = await overPicture(page, 0.5, 0.5);
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  await page.mouse.move(at.x + 40, at.y, { steps: 3 });
  await expect.poll(async () => Number(await page.getByTestId('refined-picture').getAttribute('data-samples'))).toBeLessThan(1);
  await page.getByTestId('picture-state').getByText('draft').waitFor();
  await page.mouse.up();
  await refined(page);
  await page.getByRole('button', { name: 'Back' }).click();
  await page.getByRole('button', { name: 'Walk', exact: true }).click();
  await page.getByTestId('picture').focus();
  const eye = async () =>
    (await page.getByTestId('working-picture').getAttribute('data-eye'))!.split(' ').map(Number) as [number, number, number];
  const before = await eye();
  await page.keyboard.down('w');
  const walked = async () => {
    const after = await eye();
    return Math.hypot(after[0] - before[0], after[1] - before[1]);
  };
  await expect.poll(walked).toBeGreaterThan(1);
  await page.keyboard.up('w');
  await page.getByTestId('title-block').getByText('Free view').waitFor();
});
