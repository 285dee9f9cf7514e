import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import type { PrintSummary } from '../../core/project/live';
import { bearingTo, linksBySight, planAround, type Tour, type TourPoint } from '../../core/tour/tour';
import { DIST } from '../dist-paths';

/** A tour of a delivery's all-round pictures: one file that opens from the desktop, and a folder for a web server. */

/** What the plan of a tour is called among its prints. */
export const PLAN_NAME = 'plan';
const JPEG_QUALITY = 88;

export interface TourPrint {
  print: PrintSummary;
  /** Its picture. */
  file: string;
  metadata: Record<string, string>;
  /** Points that are in sight of it, by number; undefined: not known. */
  seen: readonly number[] | undefined;
}

export const isOfTour = ({ projection, frames }: PrintSummary): boolean => projection === 'equirectangular' && frames === 1;
const stateOf = ({ condition, option }: PrintSummary): string => [condition ?? 'As shown', option].filter(Boolean).join(', ');

/** Points in the order of their prints, each once. */
export const pointsOf = (prints: readonly PrintSummary[]): string[] => [...new Set(prints.filter(isOfTour).map(({ name }) => name))];

/** The tour without its pictures' addresses. `links`: as they were edited; undefined: by sight. */
export function tourOf(project: string, name: string, prints: readonly TourPrint[], links: readonly [number, number][] | undefined): Tour {
  const round = prints.filter(({ print }) => isOfTour(print));
  const names = pointsOf(round.map(({ print }) => print));
  const states = [...new Set(round.map(({ print }) => stateOf(print)))];
  const points = names.map((point): TourPoint => {
    const { camera } = round.find(({ print }) => print.name === point)!.print;
    return {
      name: point,
      position: [...camera.position],
      headingDeg: bearingTo(camera.position, camera.target).azimuthDeg,
      pictures: states.map((state) => (round.some(({ print }) => print.name === point && stateOf(print) === state) ? 'there' : '')),
    };
  });
  const seen = names.map((point) => round.find(({ print, seen }) => print.name === point && seen)?.seen ?? []);
  const plan = prints.some(({ print }) => print.fileName === PLAN_NAME) ? { picture: '', ...planAround(points) } : undefined;
  const northDeg = Number(round[0]?.metadata['TrueNorthDeg'] ?? 0);
  return { project, name, states, points, links: links ? [...links] : linksBySight(points, seen), plan, northDeg };
}

/** Writes the tour into a folder; the names of its files are returned. */
export async function writeTour(folder: string, tour: Tour, prints: readonly TourPrint[]): Promise<string[]> {
  mkdirSync(path.join(folder, 'tour'), { recursive: true });
  const files = ['tour.html', 'tour/index.html'];
  const pictures = new Map<string, Buffer>();
  const keep = async (name: string, file: string) => {
    const bytes = file.endsWith('.jpg') ? readFileSync(file) : await sharp(file, { limitInputPixels: false }).jpeg({ quality: JPEG_QUALITY }).toBuffer(); // prettier-ignore
    pictures.set(name, bytes);
    writeFileSync(path.join(folder, 'tour', name), bytes);
    files.push(`tour/${name}`);
    return name;
  };
  const points: TourPoint[] = [];
  for (const [i, point] of tour.points.entries()) {
    const own: string[] = [];
    for (const [s, state] of tour.states.entries()) {
      const made = prints.find(({ print }) => isOfTour(print) && print.name === point.name && stateOf(print) === state);
      own.push(made ? await keep(`${String(i + 1)}-${String(s + 1)}.jpg`, made.file) : '');
    }
    points.push({ ...point, pictures: own });
  }
  const planned = prints.find(({ print }) => print.fileName === PLAN_NAME);
  const plan = tour.plan && planned ? { ...tour.plan, picture: await keep('plan.jpg', planned.file) } : undefined;
  const beside: Tour = { ...tour, points, plan };
  writeFileSync(path.join(folder, 'tour', 'index.html'), pageOf(beside));
  const inside = (name: string) => (name ? `data:image/jpeg;base64,${pictures.get(name)!.toString('base64')}` : '');
  const whole: Tour = {
    ...beside,
    points: points.map((point) => ({ ...point, pictures: point.pictures.map(inside) })),
    plan: plan && { ...plan, picture: inside(plan.picture) },
  };
  writeFileSync(path.join(folder, 'tour.html'), pageOf(whole));
  return files;
}

/** What a print has told of the points in its sight. */
export function readSight(file: string): number[] | undefined {
  return existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as number[]) : undefined;
}

const escaped = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;');

function pageOf(tour: Tour): string {
  const script = readFileSync(path.join(DIST, 'tour.js'), 'utf8');
  const style = readFileSync(path.join(DIST, 'tour.css'), 'utf8');
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(tour.project)}: ${escaped(tour.name)}</title>
<style>${style}</style></head>
<body><div id="stage"></div>
<script>globalThis.tour = ${JSON.stringify(tour).replace(/</g, '\\u003c')};</script>
<script>${script.replace(/<\/script/gi, '<\\/script')}</script>
</body></html>
`;
}
