import { afterAll, expect, it } from 'vitest';
import path from 'node:path';
import { applyChange, EMPTY_MODEL } from '../core/model/model';
import { testChange, testElement } from '../core/model/testing';
import { scheduleRows } from '../core/project/schedule';
import { BlobStore } from './blobs';
import { schedulePdf } from './schedule-pdf';
import { removeFolder, temporaryFolder } from './testing/running-server';

const folder = temporaryFolder();
afterAll(() => {
  removeFolder(folder);
});

function rowsOf(names: readonly string[]) {
  const model = applyChange(
    EMPTY_MODEL,
    testChange({
      materials: names.map((name, i) => ({ id: `m${String(i)}`, name, colour: [0.5, 0.5, 0.5] })),
      elements: names.map((_, i) => testElement(`e${String(i)}`, { parts: [{ mesh: 'a'.repeat(64), material: `m${String(i)}` }] })),
    }),
  );
  return scheduleRows('s', model, new Map([['a'.repeat(64), 12.5]]), new Map());
}

/** How often something stands in a PDF's objects (ISO 32000-1, 7.3.10), which pdfkit writes as plain text about the streams. */
const count = (pdf: Buffer, what: RegExp) => pdf.toString('latin1').match(what)?.length ?? 0;
const write = (names: readonly string[]) =>
  schedulePdf('Marram Landing', '2026-11-25', rowsOf(names), () => 'Model', new BlobStore(path.join(folder, 'blobs')));

it('the printable schedule has a swatch for each finish, the fonts that ship, and as many pages as it takes', async () => {
  const pdf = await write(['Brick wall', 'Zinc roof', 'M-0417']);
  expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
  expect(pdf.subarray(-6).toString()).toContain('%%EOF');
  expect(count(pdf, /\/Type \/Page\b/g)).toBe(1);
  expect(count(pdf, /\/Subtype \/Image/g)).toBe(2);
  expect(count(pdf, /\/FontFile[23]/g)).toBeGreaterThan(0);
  expect(count(pdf, /Instrument ?Sans/gi)).toBeGreaterThan(0);
  // Sixty rows of 28 points each on pages that hold about sixteen.
  expect(count(await write(Array.from({ length: 60 }, (_, i) => `Brick ${String(i)}`)), /\/Type \/Page\b/g)).toBe(4);
});

it('names of any kind are printed without harm', async () => {
  const pdf = await write(['Łąka, žula, őszi', '<script>alert(1)</script>', 'x'.repeat(5000), 'جدار', '\u0000\u0007\n', '🏠']);
  expect(count(pdf, /%%EOF/g)).toBe(1);
  expect(count(pdf, /\/Type \/Page\b/g)).toBeGreaterThan(0);
});
