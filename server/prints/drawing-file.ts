import { createWriteStream, renameSync, writeFileSync } from 'node:fs';
import { finished } from 'node:stream/promises';
import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import type { LineDrawing } from '../../core/render/line-drawing';
import { LINE_WEIGHTS } from '../../core/render/line-drawing';
import { drawingSvg, linesOnPaper, type Sheet } from '../../core/render/drawing-sheet';

/** A drawing in lines as a file to print or to draw on in. */

const POINTS_A_MM = 72 / 25.4;
const THUMB_PX = 320;

export interface DrawingToWrite {
  drawing: LineDrawing;
  /** Pixels that its lines are told in. */
  width: number;
  sheet: Sheet;
  title: string;
}

/** Writes it and its small picture; each file is whole, or not there. */
export async function writeDrawing(format: 'svg' | 'pdf', made: DrawingToWrite, file: string, thumb: string): Promise<void> {
  const { drawing, width, sheet, title } = made;
  const svg = drawingSvg(drawing, width, sheet, title);
  await sharp(Buffer.from(svg), { density: (THUMB_PX / sheet.widthMm) * 25.4 * 2, limitInputPixels: false })
    .flatten({ background: '#ffffff' })
    .resize(THUMB_PX)
    .png()
    .toFile(thumb);
  if (format === 'svg') writeFileSync(`${file}.part`, svg);
  else await writePdf(made, `${file}.part`);
  renameSync(`${file}.part`, file);
}

/** One page of the sheet's size. */
async function writePdf({ drawing, width, sheet, title }: DrawingToWrite, file: string): Promise<void> {
  const { scale, widthMm, heightMm } = sheet;
  const Title = scale ? `${title}, 1:${String(scale)}` : title;
  const doc = new PDFDocument({ size: [widthMm * POINTS_A_MM, heightMm * POINTS_A_MM], margin: 0, info: { Title } });
  const written = createWriteStream(file);
  doc.pipe(written);
  doc.scale(POINTS_A_MM).lineCap('round').strokeColor('#262421');
  let last = '';
  for (const [weight, x1, y1, x2, y2] of linesOnPaper(drawing, width, sheet)) {
    if (last && last !== weight) doc.stroke();
    if (last !== weight) doc.lineWidth(LINE_WEIGHTS[weight]);
    last = weight;
    doc.moveTo(x1, y1).lineTo(x2, y2);
  }
  if (last) doc.stroke();
  doc.end();
  await finished(written);
}
