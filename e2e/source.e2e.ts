import { writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { cameraFrame } from '../core/camera/camera';
import { dot, subtract, type Vec3 } from '../core/geometry/vec3';
import { removeFolder, startServer, temporaryFolder } from '../server/testing/running-server';
import { START_CAMERA } from '../web/app/state/picture-state';
import { difference, modelArrived, newPage, overPicture, setStage, shownColour, type TheStage } from './stage';

/** The Source station: elements shown and hidden, findings, revisions, placement, the schedule as a file. */

let stage: TheStage;
let page: Page;
beforeAll(async () => {
  stage = await setStage();
  page = await stage.sheet('Finishes');
  await modelArrived(page);
  await page.getByRole('button', { name: /Source/ }).click();
});
afterAll(() => stage.close());

/** Two boxes, the second half sunk into the first, level with its top; y up. */
function kiosk(at: number): string {
  const box = (name: string, x: number, low: number, size: readonly [number, number, number], base: number) => {
    const corners = [0, size[2]].flatMap((h) => ([[0, 0], [size[0], 0], [size[0], size[1]], [0, size[1]]] as const).map(([dx, dy]) => `v ${String(x + dx)} ${String(low + h)} ${String(6 - dy)}`)); // prettier-ignore
    const faces = [[4, 3, 2, 1], [5, 6, 7, 8], [1, 2, 6, 5], [2, 3, 7, 6], [3, 4, 8, 7], [4, 1, 5, 8]].map((q) => `f ${q.map((i) => i + base).join(' ')}`); // prettier-ignore
    return `o ${name}\nusemtl ${name} paint\n${corners.join('\n')}\n${faces.join('\n')}\n`;
  };
  return box('Kiosk', at, 0, [3, 2, 2.4], 0) + box('Sign', at + 1, 1.9, [1.2, 3, 0.5], 8);
}

const frames = () => page.getByTestId('working-picture').evaluate((canvas: HTMLElement) => Number(canvas.dataset['frames']));
async function drawnAnew(act: () => Promise<void>): Promise<void> {
  const before = await frames();
  await act();
  await page.waitForFunction(
    (n) => Number(document.querySelector<HTMLElement>('[data-testid=working-picture]')!.dataset['frames']) > n,
    before,
  );
}

describe('elements', () => {
  it('are hidden by layer and isolated by class; the picture follows, and undo brings them back', async () => {
    await page.getByRole('tab', { name: 'Elements' }).click();
    const count = page.getByTestId('shown-count');
    await count.getByText('of 515 shown').waitFor();
    const all = await count.textContent();
    const water = await shownColour(page, 0.8, 0.9);
    await drawnAnew(() => page.locator('[data-group=Site] input').click());
    await page.locator('[data-group=Site].muted').waitFor();
    await expect.poll(async () => difference(water, await shownColour(page, 0.8, 0.9))).toBeGreaterThan(20);
    expect(await count.textContent()).not.toBe(all);
    await page.getByRole('button', { name: 'Undo' }).click();
    await count.getByText(all!).waitFor();
    await page.getByRole('button', { name: 'Classes' }).click();
    await page.locator('[data-group=Column] .only').click();
    await page.getByText('Some elements alone are shown').waitFor();
    await count.getByText(/^18 of 515 shown/).waitFor();
    await page.getByRole('button', { name: 'Show all else again' }).click();
    await count.getByText(all!).waitFor();
  });

  it('switch option and phase', async () => {
    const count = page.getByTestId('shown-count');
    const before = await count.textContent();
    await page.getByLabel('Option').selectOption({ label: 'Pitched roof' });
    await page.waitForFunction((text) => document.querySelector('[data-testid=shown-count]')!.textContent !== text, before);
    await page.getByLabel('Option').selectOption({ index: 0 });
    await count.getByText(before!).waitFor();
  });

  it('are told about when they are picked', async () => {
    const { x, y } = await overPicture(page, 0.5, 0.85);
    await page.mouse.click(x, y);
    await page.getByTestId('picked-element').getByText('Marram Landing').waitFor();
    await page.getByTestId('picked-element').getByRole('button', { name: 'Close' }).click();
  });
});

describe('findings', () => {
  it('are none on the demo; of a bad file they name the fault, point at it, and are mended by one command', async () => {
    await page.getByRole('tab', { name: 'Findings' }).click();
    await page.getByTestId('finding-count').getByText('Nothing found').waitFor();
    await page.getByRole('tab', { name: 'Sources' }).click();
    const file = path.join(stage.models, 'kiosk.obj');
    writeFileSync(file, kiosk(3));
    await page.getByLabel('or watch a file').fill('kiosk.obj');
    await page.getByRole('button', { name: 'Watch' }).click();
    await page.getByRole('heading', { name: 'kiosk.obj' }).waitFor();
    await page.getByRole('tab', { name: 'Findings' }).click();
    await page.getByText('has changed since it was checked.').waitFor();
    await page.getByRole('button', { name: 'Check again' }).click();
    await page.locator('[data-finding=coplanar] .line').click();
    await page.getByRole('button', { name: 'Go there' }).click();
    await page.getByTestId('pin').getByText('Faces in one plane').waitFor();
    await page.getByRole('button', { name: 'Back' }).click();
    await page.getByRole('button', { name: /^Move out .* by 5 mm$/ }).click();
    await page.getByTestId('finding-count').getByText('Nothing found').waitFor();
    await page.getByRole('button', { name: 'Check again' }).click();
    await page.getByTestId('finding-count').getByText('Nothing found').waitFor();
  });
});

describe('revisions', () => {
  it('report what an update did, compare and show an earlier state, and come back', async () => {
    await page.getByRole('tab', { name: 'Sources' }).click();
    const row = page.getByTestId('source').filter({ hasText: 'kiosk.obj' });
    writeFileSync(path.join(stage.models, 'kiosk.obj'), kiosk(4));
    await row.getByText('Last update: 2 changed.').waitFor();
    await row.getByRole('button', { name: 'Revisions' }).click();
    await row.getByRole('button', { name: 'Compare with revision 1' }).click();
    await row.getByText('Compared with revision 1').waitFor();
    await row.getByRole('button', { name: 'Show revision 1' }).click();
    await row.getByText('Revision 1 is shown, on this page only.').waitFor();
    await page.getByText('rev 1+(1)').waitFor();
    await row.getByRole('button', { name: 'Back to now' }).click();
    await page.getByText('rev 1+2').waitFor();
  });
});

describe('placement', () => {
  it('is typed in, undone, and refused in a sentence', async () => {
    const row = page.getByTestId('source').filter({ hasText: 'kiosk.obj' });
    await row.getByRole('button', { name: 'Placement' }).click();
    await drawnAnew(async () => {
      await row.getByLabel('x, metres').fill('2');
      await row.getByLabel('x, metres').blur();
    });
    await row.getByRole('button', { name: 'As it comes' }).waitFor();
    await row.getByLabel('Scale').fill('0');
    await row.getByLabel('Scale').blur();
    await row.getByRole('alert').getByText('the scale is larger than nothing').waitFor();
    await page.getByRole('button', { name: 'Undo' }).click();
    await row.getByRole('button', { name: 'As it comes' }).waitFor({ state: 'detached' });
  });
});

describe('matching points', () => {
  /** A cube of one metre from a corner on, y up. */
  const cube = (name: string, x: number, y: number, z: number) => {
    const corners = [0, 1].flatMap((h) => ([[0, 0], [1, 0], [1, 1], [0, 1]] as const).map(([dx, dy]) => `v ${String(x + dx)} ${String(z + h)} ${String(-y - dy)}`)); // prettier-ignore
    const faces = [
      [4, 3, 2, 1],
      [5, 6, 7, 8],
      [1, 2, 6, 5],
      [2, 3, 7, 6],
      [3, 4, 8, 7],
      [4, 1, 5, 8],
    ].map((q) => `f ${q.join(' ')}`);
    return { name: `${name}.obj`, mimeType: 'model/obj', buffer: Buffer.from(`o ${name}\n${corners.join('\n')}\n${faces.join('\n')}\n`) };
  };
  /** Where a place is seen from the start. */
  const seenAt = (place: Vec3) => {
    const { origin, forward, right, up } = cameraFrame(START_CAMERA, 16 / 9);
    const d = subtract(place, origin);
    const depth = dot(d, forward) / dot(forward, forward);
    return [(1 + dot(d, right) / dot(right, right) / depth) / 2, (1 - dot(d, up) / dot(up, up) / depth) / 2] as const;
  };

  it('lays a corner of one source on a corner of another, to the millimetre', async () => {
    const parts = async () => Number(await page.getByTestId('working-picture').getAttribute('data-parts'));
    const before = await parts();
    await page.getByTestId('model-file').setInputFiles([cube('crate', -4.6, -9.5, 0.8), cube('block', -3, -10.5, 0.8)]);
    await page.getByRole('heading', { name: 'block.obj' }).waitFor();
    // What is not drawn yet cannot be met.
    await expect.poll(parts).toBe(before + 2);
    const crate = page.getByTestId('source').filter({ hasText: 'crate.obj' });
    await crate.getByRole('button', { name: 'Placement' }).click();
    // A little inside the face, so that it is met; the corner is snapped to.
    const click = async (x: number, y: number, z: number) => {
      const box = (await page.getByTestId('picture').boundingBox())!;
      const [u, v] = seenAt([x + 0.03, y, z - 0.03]);
      await page.mouse.click(box.x + box.width * u, box.y + box.height * v);
    };
    await crate.getByRole('button', { name: 'Match points' }).click();
    await click(-3, -10.5, 1.8);
    await crate.getByRole('alert').getByText('That point is not of crate.obj.').waitFor();
    await click(-4.6, -9.5, 1.8);
    await crate.getByText('Pick the point where it belongs.').waitFor();
    await click(-3, -10.5, 1.8);
    await crate.getByText('Pick a second point').waitFor();
    await crate.getByRole('button', { name: 'Finish' }).click();
    await crate.getByRole('button', { name: 'As it comes' }).waitFor();
    for (const [axis, moved] of [
      ['x', 1.6],
      ['y', -1],
      ['z', 0],
    ] as const)
      expect(Number(await crate.getByLabel(`${axis}, metres`).inputValue())).toBeCloseTo(moved, 3);
  });
});

describe('working detail', () => {
  it('is full on the demo, and less where that is asked for, with the loss in words', async () => {
    await page
      .getByTestId('working-detail')
      .getByText(/^All [\d,]+ triangles are drawn\./)
      .waitFor();
    await drawnAnew(() =>
      page
        .getByLabel('In the draft')
        .selectOption({ label: 'less, always' })
        .then(() => undefined),
    );
    await page
      .getByTestId('working-detail')
      .getByText(/^At most [\d,]+ of [\d,]+ triangles are drawn: .* are coarser than they are/)
      .waitFor();
    await page.getByLabel('In the draft').selectOption({ label: 'as this computer allows' });
    await page
      .getByTestId('working-detail')
      .getByText(/^All [\d,]+ triangles/)
      .waitFor();
  });
});

describe('the finish schedule', () => {
  it('leaves as a file, and one that was edited comes back as one step', async () => {
    await page.getByRole('button', { name: /Finishes/ }).click();
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'CSV' }).click();
    const csv = await (await (await download).createReadStream()).setEncoding('utf8').reduce((text, part) => text + String(part), '');
    expect(csv).toContain('source material,Marram Landing,cladding,');
    const edited = csv.replace(/^(source material,Marram Landing,cladding,[^,]*),[^,]*/m, '$1,zinc');
    await page.getByTestId('schedule-file').setInputFiles({ name: 'edited.csv', mimeType: 'text/csv', buffer: Buffer.from(edited) });
    await page.getByTestId('brought-back').getByText('1 row changed.').waitFor();
    await page.locator('[data-material=cladding]').getByText('Zinc').first().waitFor();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.locator('[data-material=cladding]').getByText('Larch').first().waitFor();
  });
});

it('another office’s building is looked at as a whole at first, and again at a key', async () => {
  const folder = temporaryFolder();
  const server = await startServer(folder);
  const other = await newPage(stage.browser);
  try {
    const upload = (name: string, text: string) =>
      fetch(`${server.url}/api/sources/file?name=${name}`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/octet-stream' },
        body: text,
      });
    expect((await upload('kiosk.obj', kiosk(800))).status).toBe(201);
    await other.goto(`${server.url}/#source`);
    const away = async () => {
      const eye = (await other.getByTestId('working-picture').getAttribute('data-eye'))?.split(' ').map(Number) ?? [];
      return eye.length === 3 ? Math.hypot(eye[0]! - 801.5, eye[1]! + 4.5, eye[2]! - 1.2) : Infinity;
    };
    await expect.poll(away).toBeLessThan(15);
    const first = await away();
    expect(first).toBeGreaterThan(3);
    await other.getByTestId('picture').focus();
    const { x, y } = await overPicture(other, 0.5, 0.5);
    await other.mouse.move(x, y);
    await other.mouse.wheel(0, 2000);
    await expect.poll(away).toBeGreaterThan(first * 1.2);
    await other.keyboard.press('Home');
    // Not from further than at eye height, from where the ground takes a part of the picture.
    await expect.poll(away).toBeLessThan(first * 1.02);
    const all = await away();
    expect(all).toBeGreaterThan(3);
    await other.getByRole('button', { name: 'Back', exact: true }).click();
    await expect.poll(away).toBeGreaterThan(first * 1.2);
    await other.getByRole('button', { name: 'See all' }).click();
    await expect.poll(async () => Math.abs((await away()) / all - 1)).toBeLessThan(0.1);
  } finally {
    await other.close();
    await server.kill('SIGTERM');
    removeFolder(folder);
  }
});
