import { copyFileSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Selectable } from 'kysely';
import type { ProjectTables } from '../database/schema';
import type { PrintSummary } from '../../core/project/live';
import { fileName } from '../../core/render/naming';
import { pack } from './package-files';
import { readSight, tourOf, writeTour } from './tour-files';

/** The pictures of a delivery in a folder, with a page to look through them, a transmittal, and all of it once more as a zip. */

export type Delivery = Pick<Selectable<ProjectTables['delivery']>, 'id' | 'name' | 'created_at' | 'tour' | 'links'>;

export interface Made {
  file: string;
  /** What it has told of the points in its sight. */
  sight: string;
  thumb: string;
  metadata: Record<string, string>;
}

export const DELIVERY_ZIP = 'delivery.zip';

/** Of a drawing its paper and scale; else pixels. */
const sizeOf = ({ width, height, frames }: PrintSummary, { Sheet }: Record<string, string>): string =>
  Sheet ?? `${String(width)} × ${String(height)} px${frames > 1 ? `, ${String(frames)} pictures` : ''}`;

export async function writeDelivery(
  directory: string,
  project: string,
  { id, name, created_at, tour, links }: Delivery,
  prints: readonly PrintSummary[],
  madeOf: (print: string) => Made,
): Promise<string> {
  const date = created_at.slice(0, 10);
  const folder = path.join(directory, `${fileName('{date} {view}', { date, view: name })} ${id.slice(0, 4)}`);
  const part = `${folder}.part`;
  rmSync(part, { recursive: true, force: true });
  mkdirSync(path.join(part, 'small'), { recursive: true });
  const rows = prints.map((print) => {
    const { file, thumb, metadata } = madeOf(print.id);
    const called = print.fileName ?? fileName('{view}', { view: print.name });
    const name = `${called}${path.extname(file)}`;
    copyFileSync(file, path.join(part, name));
    copyFileSync(thumb, path.join(part, 'small', `${called}.png`));
    return {
      file: name,
      small: `small/${called}.png`,
      thumb: readFileSync(thumb),
      view: print.name,
      state: [print.condition ?? 'as shown', print.option].filter(Boolean).join(', '),
      size: sizeOf(print, metadata),
      moment: metadata['LocalTime'] ?? '',
      revision: metadata['Revision'] ?? '',
    };
  });
  // Loaded late: it takes a quarter of a second, which a server that starts need not spend.
  const { transmittalPdf } = await import('./transmittal-pdf');
  writeFileSync(path.join(part, 'transmittal.pdf'), await transmittalPdf(project, name, date, rows));
  const tourPrints = prints.map((print) => ({ print, seen: readSight(madeOf(print.id).sight), ...madeOf(print.id) }));
  const kept = links === null ? undefined : (JSON.parse(links) as [number, number][]);
  const ofTour = tour ? await writeTour(part, tourOf(project, name, tourPrints, kept), tourPrints) : [];
  writeFileSync(path.join(part, 'index.html'), indexPage(project, name, date, rows, ofTour.length > 0));
  const files = ['index.html', 'transmittal.pdf', ...ofTour, ...rows.flatMap(({ file, small }) => [file, small])];
  await pack(path.join(part, DELIVERY_ZIP), files.map((file) => [file, path.join(part, file)] as const));
  rmSync(folder, { recursive: true, force: true });
  renameSync(part, folder);
  return folder;
} // prettier-ignore

const escaped = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;');
const address = (file: string): string => file.split('/').map(encodeURIComponent).join('/');

/** A page that opens from the folder, with the network off. */
function indexPage(
  project: string,
  name: string,
  date: string,
  rows: readonly { file: string; small: string; view: string; state: string; size: string }[],
  hasTour: boolean,
): string {
  const pictures = rows.map(
    ({ file, small, view, state, size }) => `<figure><a href="${address(file)}"><img src="${address(small)}" alt="${escaped(view)}"></a>
<figcaption><strong>${escaped(view)}</strong><br>${escaped(state)}<br><small>${escaped(file)} · ${escaped(size)}</small></figcaption></figure>`,
  );
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(project)}: ${escaped(name)}</title>
<style>
body { margin: 0; padding: 32px; background: #f6f3ec; color: #22303a; font: 15px/1.5 "Instrument Sans", system-ui, sans-serif; }
header { border-bottom: 1px solid #cfc8ba; margin-bottom: 24px; }
h1 { font-size: 22px; margin: 0; }
main { display: grid; grid-template-columns: repeat(auto-fill, minmax(300px, 1fr)); gap: 28px; }
figure { margin: 0; } img { width: 100%; display: block; background: #8c8c8a; } figcaption { padding-top: 8px; } small { color: #5c6870; }
</style></head>
<body><header><h1>${escaped(project)}</h1><p>${escaped(name)}, ${escaped(date)} · <a href="transmittal.pdf">Transmittal</a>${hasTour ? ' · <a href="tour.html">Tour</a>' : ''}</p></header>
<main>
${pictures.join('\n')}
</main></body></html>
`;
}
