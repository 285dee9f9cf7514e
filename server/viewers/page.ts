import { readFileSync } from 'node:fs';
import path from 'node:path';
import type { ViewerData } from '../../core/viewing/viewing';
import { DIST } from '../dist-paths';

const escaped = (text: string): string => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/"/g, '&quot;');

/** The viewer as one page that needs nothing beside itself. */
export function viewerPage(data: ViewerData): string {
  const script = readFileSync(path.join(DIST, 'viewer.js'), 'utf8');
  const style = readFileSync(path.join(DIST, 'viewer.css'), 'utf8');
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(data.project)}: ${escaped(data.name)}</title>
<style>${style}</style></head>
<body><div id="stage"><img class="poster" alt="${escaped(data.views[0]?.name ?? data.name)}" src="${data.poster}"></div>
<script id="viewing" type="application/json">${JSON.stringify({ ...data, poster: '' }).replace(/</g, '\\u003c')}</script>
<script>${script.replace(/<\/script/gi, '<\\/script')}</script>
</body></html>
`;
}
