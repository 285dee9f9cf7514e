import path from 'node:path';
import { createRequire } from 'node:module';
import PDFDocument from 'pdfkit';
import type express from 'express';
import { decodeMesh, meshArea } from '../core/geometry/mesh';
import type { Model } from '../core/model/model';
import { scheduleRows, type ScheduleRow } from '../core/project/schedule';
import { areaWords, FIRST_VIEW, viewSchedule } from '../core/project/schedule-view';
import type { BlobStore } from './blobs';
import { swatchOf } from './finish-routes';
import type { ProjectStore } from './project-store';
import type { SourceStore } from './source-store';

const FONTS = path.join(path.dirname(createRequire(import.meta.url).resolve('@fontsource/instrument-sans/package.json')), 'files');
const font = (set: string, weight: number) => path.join(FONTS, `instrument-sans-${set}-${String(weight)}-normal.woff`);

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

interface ScheduleContext {
  projectName: string;
  project: ProjectStore;
  sources: SourceStore;
  blobs: BlobStore;
}

export function scheduleRoutes(app: express.Express, context: ScheduleContext): void {
  app.get('/api/schedule.pdf', async (_, response) => {
    const { project, sources, projectName } = context;
    const areas = await areasOf(
      sources.models().map((s) => s.model),
      context.blobs,
    );
    const rows = sources.models().flatMap(({ id, model }) => scheduleRows(id, model, areas, project.entries));
    if (rows.length === 0) {
      response.status(409).json({ message: 'There is no schedule yet: link a model first.' });
      return;
    }
    const names = new Map(sources.summaries().map(({ id, name }) => [id, name]));
    const ordered = viewSchedule(rows, { ...FIRST_VIEW, sort: 'code' })[0]!.rows;
    const pdf = await schedulePdf(projectName, new Date().toISOString().slice(0, 10), ordered, (id) => names.get(id) ?? id, context.blobs);
    response.type('pdf').attachment('finish schedule.pdf').send(pdf);
  });
}

async function areasOf(models: readonly Model[], blobs: BlobStore): Promise<ReadonlyMap<string, number>> {
  const areas = new Map<string, number>();
  for (const model of models)
    for (const element of model.elements.values())
      for (const { mesh: hash } of element.parts) {
        if (areas.has(hash)) continue;
        const bytes = await blobs.get(hash);
        const mesh = bytes && decodeMesh(bytes);
        areas.set(hash, mesh && typeof mesh !== 'string' ? meshArea(mesh) : 0);
      }
  return areas;
}

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
  for (const [name, set, weight] of [
    ['plain', 'latin', 400],
    ['plain-more', 'latin-ext', 400],
    ['bold', 'latin', 600],
  ] as const)
    doc.registerFont(name, font(set, weight));
  const bottom = doc.page.height - MARGIN - 16;

  doc.font('bold').fontSize(15).text(printable(project), MARGIN, MARGIN);
  doc
    .font('plain')
    .fontSize(SIZE)
    .text(`Finish schedule, ${date}, ${String(rows.length)} ${rows.length === 1 ? 'row' : 'rows'}`);
  let y = heads(doc, doc.y + 10);
  for (const row of rows) {
    const cells = cellsOf(row, nameOfSource);
    const height = Math.max(SWATCH + 6, ...cells.map((text, i) => heightOf(doc, text, COLUMNS[i + 1]!.width - 8) + 7));
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
      write(doc, text, x, y + 5, width - 8, NUMBERS.has(head) ? 'right' : 'left');
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
    doc.font('plain').fontSize(7.5).fillColor('#555');
    doc.text(`${printable(project)}, finish schedule, ${date}`, MARGIN, doc.page.height - MARGIN + 6, { lineBreak: false });
    doc.text(`${String(i + 1)} / ${String(count)}`, MARGIN, doc.page.height - MARGIN + 6, {
      width: doc.page.width - 2 * MARGIN,
      align: 'right',
      lineBreak: false,
    });
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
  doc.font('bold').fontSize(SIZE).fillColor('#000');
  let x: number = MARGIN;
  for (const { head, width } of COLUMNS) {
    doc.text(head, x, y, { width: width - 8, align: NUMBERS.has(head) ? 'right' : 'left' });
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

/** The font that has a text's letters: one for Latin, another for Latin with the signs of central Europe. */
const fontFor = (text: string): string => (/[\u0100-\u02ff\u1e00-\u1eff]/.test(text) ? 'plain-more' : 'plain');

function heightOf(doc: Doc, text: string, width: number): number {
  return doc.font('plain').fontSize(SIZE).heightOfString(text, { width });
}

/** Words in the font that has their letters. */
function write(doc: Doc, text: string, x: number, y: number, width: number, align: 'left' | 'right'): void {
  doc.fontSize(SIZE).fillColor('#000');
  const words = text.split(/(?<= )/);
  if (words.every((word) => fontFor(word) === 'plain')) {
    doc.font('plain').text(text, x, y, { width, align });
    return;
  }
  words.forEach((word, i) => {
    const last = i === words.length - 1;
    doc.font(fontFor(word));
    if (i === 0) doc.text(word, x, y, { width, align, continued: !last });
    else doc.text(word, { width, align, continued: !last });
  });
}
