import { createRequire } from 'node:module';
import path from 'node:path';
import { openSync } from 'fontkit';
import type PDFDocument from 'pdfkit';

/** The fonts that ship, for pages: each file holds the letters of one script, so that a text is written in runs. */

type Doc = InstanceType<typeof PDFDocument>;
type Weight = 400 | 600;

/** Where a letter is looked for, in this order. */
const FILES = [
  { family: 'instrument-sans', set: 'latin' },
  { family: 'instrument-sans', set: 'latin-ext' },
  { family: 'noto-sans', set: 'greek' },
  { family: 'noto-sans', set: 'greek-ext' },
  { family: 'noto-sans', set: 'cyrillic' },
  { family: 'noto-sans', set: 'cyrillic-ext' },
  { family: 'noto-sans', set: 'vietnamese' },
  { family: 'noto-sans', set: 'latin-ext' },
  { family: 'noto-sans', set: 'latin' },
] as const;

const require = createRequire(import.meta.url);
const folderOf = (family: string) => path.dirname(require.resolve(`@fontsource/${family}/package.json`));

function fontFileOf(file: number, weight: Weight = 400): string {
  const { family, set } = FILES[file]!;
  return path.join(folderOf(family), 'files', `${family}-${set}-${String(weight)}-normal.woff`);
}

const fonts = FILES.map((_, file) => openSync(fontFileOf(file)));

const nameOf = (index: number, weight: Weight): string => `${FILES[index]!.set} of ${FILES[index]!.family} ${String(weight)}`;

export interface Run {
  text: string;
  /** Place in FILES. */
  file: number;
}

/** A text cut where its font changes. What no font has is told by a question mark. */
export function runsOf(text: string): Run[] {
  const runs: Run[] = [];
  for (const letter of text.normalize('NFC')) {
    const found = fonts.findIndex((font) => font.hasGlyphForCodePoint(letter.codePointAt(0)!));
    const [file, shown] = found < 0 ? [0, '?'] : [found, letter];
    const last = runs.at(-1);
    if (last?.file === file) last.text += shown;
    else runs.push({ text: shown, file });
  }
  return runs;
}

export function registerFonts(doc: Doc): void {
  for (const file of FILES.keys())
    for (const weight of [400, 600] as const) doc.registerFont(nameOf(file, weight), fontFileOf(file, weight));
}

export interface Place {
  x: number;
  y: number;
  width: number;
  align?: 'left' | 'right';
  weight?: Weight;
}

/** Writes a text, wrapped within a width. */
export function writeText(doc: Doc, text: string, { x, y, width, align = 'left', weight = 400 }: Place): void {
  const runs = runsOf(text);
  for (const [i, run] of runs.entries()) {
    doc.font(nameOf(run.file, weight));
    const options = { width, align, continued: i < runs.length - 1 };
    if (i === 0) doc.text(run.text, x, y, options);
    else doc.text(run.text, options);
  }
}

/** Height that a text takes within a width, in the size that is set. */
export function heightOfText(doc: Doc, text: string, width: number, weight: Weight = 400): number {
  const runs = runsOf(text);
  doc.font(nameOf(0, weight));
  if (runs.every(({ file }) => file === 0)) return doc.heightOfString(text, { width });
  const line = doc.currentLineHeight(true);
  let long = 0;
  for (const run of runs) long += doc.font(nameOf(run.file, weight)).widthOfString(run.text);
  // Lines end at words, so that they are not quite full.
  return Math.ceil((long * 1.15) / width) * line;
}
