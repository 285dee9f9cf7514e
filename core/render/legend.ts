import type { SceneInstance } from '../scene/scene';

/** The legend of a key of finishes. */
export interface LegendRow {
  id: string;
  name: string;
  /** sRGB 0..1. */
  colour: readonly number[];
}

/** Of the finishes that a scene shows in the colours of the key, by their names. */
export function legendRows(instances: readonly Pick<SceneInstance, 'finish'>[]): LegendRow[] {
  const rows = new Map<string, LegendRow>();
  for (const { finish } of instances)
    if (finish.id.startsWith('key.')) rows.set(finish.id, { id: finish.id, name: finish.name, colour: finish.baseColour });
  return [...rows.values()].sort((a, b) => a.name.localeCompare(b.name));
}

const [ROW, WIDTH, MARGIN] = [22, 320, 14];

/** As a drawing of its own, to be laid beside the picture. */
export function legendSvg(rows: readonly LegendRow[]): string {
  const height = rows.length * ROW + 2 * MARGIN;
  const lines = rows.map(({ name, colour }, i) => {
    const y = MARGIN + i * ROW;
    const fill = `rgb(${colour.map((c) => Math.round(c * 255)).join(' ')})`;
    return `<rect x="${String(MARGIN)}" y="${String(y + 3)}" width="26" height="14" fill="${fill}" stroke="#262421" stroke-width=".6"/><text x="${String(MARGIN + 38)}" y="${String(y + 15)}">${escaped(name)}</text>`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${String(WIDTH)} ${String(height)}" width="${String(WIDTH)}" height="${String(height)}" font-family="sans-serif" font-size="13" fill="#262421">${lines.join('')}</svg>\n`;
}

const escaped = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
