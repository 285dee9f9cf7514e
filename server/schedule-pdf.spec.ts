import { afterAll, expect, it } from 'vitest';
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { applyChange, EMPTY_MODEL } from '../core/model/model';
import { testChange, testElement, testSurface } from '../core/model/testing';
import { scheduleRows } from '../core/project/schedule';
import { BlobStore } from './blobs';
import { runsOf } from './pdf-fonts';
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
  return scheduleRows('s', model, new Map([['a'.repeat(64), testSurface(12.5)]]), new Map());
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

it('every letter is written in a font that has it; what none has is told by a question mark', () => {
  const texts = ['Łąka, žula: Őszi fal 12 m² × 3', 'Стена-А, кирпич, їжак', 'Τοίχος, ξύλο', 'Gỗ sồi, đá', 'Zürich – “Brücke”…'];
  for (const text of texts)
    expect(
      runsOf(text)
        .map((run) => run.text)
        .join(''),
    ).toBe(text);
  expect(runsOf('Žula').map((run) => run.text)).toEqual(['Ž', 'ula']);
  expect(runsOf('Стена-А 2').map((run) => run.text)).toEqual(['Стена', '-', 'А', ' 2']);
  expect(runsOf('A 壁 B').map((run) => run.text)).toEqual(['A ? B']);
});

it('the page says what the schedule says, whatever its letters', async () => {
  const names = ['Žluté okno', 'Стена-А кирпич', 'Τοίχος'];
  const file = path.join(folder, 'schedule.pdf');
  writeFileSync(file, await write(names));
  const { stdout, error } = spawnSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' });
  // Where poppler-utils is not installed only the runs above are checked.
  if (error) return;
  for (const name of names) expect(stdout.normalize('NFC')).toContain(name);
});

it('names of any kind are printed without harm', async () => {
  const pdf = await write([
    'Łąka, žula, őszi',
    'Стена-А',
    'Τοίχος',
    '<script>alert(1)</script>',
    'x'.repeat(5000),
    'جدار',
    '\u0000\u0007\n',
    '🏠',
  ]);
  expect(count(pdf, /%%EOF/g)).toBe(1);
  expect(count(pdf, /\/Type \/Page\b/g)).toBeGreaterThan(0);
});
