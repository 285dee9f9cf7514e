import PDFDocument from 'pdfkit';
import { registerFonts, writeText } from '../pdf-fonts';

/** A4 upright, points. */
const MARGIN = 42;
const ROW = 52;
const PICTURE = 72;
const SIZE = 8.5;

export interface TransmittalRow {
  file: string;
  thumb: Buffer;
  view: string;
  /** Condition and option. */
  state: string;
  size: string;
  moment: string;
  revision: string;
}

/** What goes out, when, and at which revision of the model: a sheet to be kept with the pictures. */
export function transmittalPdf(project: string, name: string, date: string, rows: readonly TransmittalRow[]): Promise<Buffer> {
  const doc = new PDFDocument({ size: 'A4', margin: MARGIN, bufferPages: true, info: { Title: `Transmittal, ${project}: ${name}` } });
  const chunks: Buffer[] = [];
  const ended = new Promise<Buffer>((resolve, reject) => {
    doc.on('data', (chunk: Buffer) => chunks.push(chunk));
    doc.on('end', () => {
      resolve(Buffer.concat(chunks));
    });
    doc.on('error', reject);
  });
  registerFonts(doc);
  const across = doc.page.width - 2 * MARGIN;
  const text = (said: string, x: number, y: number, width: number, weight: 400 | 600 = 400) => {
    writeText(doc, said.replace(/\p{C}/gu, ' '), { x, y, width, weight });
  };
  doc.fontSize(16);
  text(project, MARGIN, MARGIN, across, 600);
  doc.fontSize(10);
  text(`Transmittal: ${name}`, MARGIN, doc.y + 2, across);
  text(`${date} · ${String(rows.length)} ${rows.length === 1 ? 'picture' : 'pictures'}`, MARGIN, doc.y + 1, across);
  let y = doc.y + 14;
  for (const row of rows) {
    if (y + ROW > doc.page.height - MARGIN - 14) {
      doc.addPage();
      y = MARGIN;
    }
    doc.moveTo(MARGIN, y).lineTo(doc.page.width - MARGIN, y).lineWidth(0.4).stroke('#bbb'); // prettier-ignore
    doc.image(row.thumb, MARGIN, y + 5, { fit: [PICTURE, ROW - 10] });
    doc.fillColor('#000').fontSize(SIZE);
    const [left, middle] = [MARGIN + PICTURE + 10, MARGIN + across * 0.62];
    text(row.view, left, y + 6, middle - left - 8, 600);
    text(row.state, left, y + 18, middle - left - 8);
    text(row.file, left, y + 30, middle - left - 8);
    text(row.size, middle, y + 6, MARGIN + across - middle);
    text(row.moment, middle, y + 18, MARGIN + across - middle);
    text(`Revision: ${row.revision}`, middle, y + 30, MARGIN + across - middle);
    y += ROW;
  }
  const { count } = doc.bufferedPageRange();
  for (let i = 0; i < count; i++) {
    doc.switchToPage(i);
    doc.page.margins.bottom = 0;
    doc.fontSize(7.5).fillColor('#555');
    writeText(doc, `${String(i + 1)} / ${String(count)}`, { x: MARGIN, y: doc.page.height - MARGIN + 6, width: across, align: 'right' });
  }
  doc.end();
  return ended;
}
