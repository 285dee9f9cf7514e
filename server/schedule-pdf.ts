import PDFDocument from 'pdfkit';
import type { ScheduleRow } from '../core/project/schedule';
import { areaWords } from '../core/project/schedule-view';
import type { BlobStore } from './blobs';
import { swatchOf } from './swatch';
import { heightOfText, registerFonts, writeText } from './pdf-fonts';

/** A4 lying down, points. */
const MARGIN = 40;
const SWATCH = 22;
const SIZE = 8.5;
const COLUMNS = [
  { head: '', width: SWATCH + 8 },
  { head: 'Code', width: 46 },
  { head: 'Source material', width: 128 },
  { head: 'Finish', width: 150 },
  { head: 'Area, sq m', width: 50 },
  { head: 'Elements', width: 48 },
  { head: 'Source', width: 84 },
  { head: 'Reason', width: 120 },
  { head: 'Note', width: 108 },
] as const;
const NUMBERS: ReadonlySet<string> = new Set(['Area, sq m', 'Elements']);

/** The schedule to be printed: one line a row, with swatches; as many pages as it takes. */
export async function schedulePdf(
  project: string,
  date: string,
  rows: readonly ScheduleRow[],
  nameOfSource: (id: string) => string,
  blobs: BlobStore,
): Promise<Buffer> {
  const doc = new PDFDocument({
    size: 'A4',
    layout: 'landscape',
    margin: MARGIN,
    bufferPages: true,
    info: { Title: `Finish schedule, ${project}` },
  });
  const chunks: Buffer[] = [];
  const ended = new Promise<Buffer>((resolve, reject) => {
    doc.on('data', (chunk: Buffer) => chunks.push(chunk));
    doc.on('end', () => {
      resolve(Buffer.concat(chunks));
    });
    doc.on('error', reject);
  });
  registerFonts(doc);
  const bottom = doc.page.height - MARGIN - 16;

  const across = doc.page.width - 2 * MARGIN;
  doc.fontSize(15);
  writeText(doc, printable(project), { x: MARGIN, y: MARGIN, width: across, weight: 600 });
  doc.fontSize(SIZE);
  writeText(doc, `Finish schedule, ${date}, ${String(rows.length)} ${rows.length === 1 ? 'row' : 'rows'}`, {
    x: MARGIN,
    y: doc.y,
    width: across,
  });
  let y = heads(doc, doc.y + 10);
  for (const row of rows) {
    const cells = cellsOf(row, nameOfSource);
    doc.fontSize(SIZE).fillColor('#000');
    const height = Math.max(SWATCH + 6, ...cells.map((text, i) => heightOfText(doc, text, COLUMNS[i + 1]!.width - 8) + 7));
    if (y + height > bottom) {
      doc.addPage();
      y = heads(doc, MARGIN);
    }
    if (row.choice.finish) doc.image(await swatchOf(row.choice.finish, blobs), MARGIN, y + 3, { width: SWATCH, height: SWATCH });
    doc
      .rect(MARGIN, y + 3, SWATCH, SWATCH)
      .lineWidth(0.4)
      .stroke('#999');
    let x: number = MARGIN + COLUMNS[0].width;
    cells.forEach((text, i) => {
      const { head, width } = COLUMNS[i + 1]!;
      doc.fillColor('#000');
      writeText(doc, text, { x, y: y + 5, width: width - 8, align: NUMBERS.has(head) ? 'right' : 'left' });
      x += width;
    });
    y += height;
    doc
      .moveTo(MARGIN, y)
      .lineTo(doc.page.width - MARGIN, y)
      .lineWidth(0.3)
      .stroke('#bbb');
  }
  const { count } = doc.bufferedPageRange();
  for (let i = 0; i < count; i++) {
    doc.switchToPage(i);
    // Below the margin, where a text would otherwise begin a new page.
    doc.page.margins.bottom = 0;
    doc.fontSize(7.5).fillColor('#555');
    const y = doc.page.height - MARGIN + 6;
    writeText(doc, `${printable(project).slice(0, 120)}, finish schedule, ${date}`, { x: MARGIN, y, width: across - 60 });
    writeText(doc, `${String(i + 1)} / ${String(count)}`, { x: MARGIN, y, width: across, align: 'right' });
  }
  doc.end();
  return ended;
}

type Doc = InstanceType<typeof PDFDocument>;

function cellsOf(row: ScheduleRow, nameOfSource: (id: string) => string): string[] {
  const { finish, reason } = row.choice;
  const size = finish?.maps ? `, ${(finish.widthM * 1000).toFixed(0)} × ${(finish.heightM * 1000).toFixed(0)} mm` : '';
  return [
    row.code,
    row.name.slice(0, 300) || row.material,
    finish ? `${finish.name} (${finish.family}${size})` : 'not assigned',
    areaWords(row.areaM2),
    String(row.elements),
    nameOfSource(row.source).slice(0, 200),
    reason.slice(0, 200),
    row.note.slice(0, 600),
  ].map(printable);
}

/** Text that a page can hold: no control characters. */
const printable = (text: string): string => text.replace(/\p{C}/gu, ' ').trim();

function heads(doc: Doc, y: number): number {
  doc.fontSize(SIZE).fillColor('#000');
  let x: number = MARGIN;
  for (const { head, width } of COLUMNS) {
    writeText(doc, head, { x, y, width: width - 8, align: NUMBERS.has(head) ? 'right' : 'left', weight: 600 });
    x += width;
  }
  const below = y + 14;
  doc
    .moveTo(MARGIN, below)
    .lineTo(doc.page.width - MARGIN, below)
    .lineWidth(0.8)
    .stroke('#000');
  return below;
}
