import type { Scene } from './scene';

/** A scene as text that is kept, and back: grids of photometric webs, which lamps share, are written once. */
export const frozenText = (kept: { scene: Scene }): string => {
  const written = new Set<string>();
  const lamps = kept.scene.lamps.map((lamp) => {
    if (!lamp.web) return lamp;
    const { key, grid } = lamp.web;
    const isNew = !written.has(key);
    written.add(key);
    return { ...lamp, web: { ...lamp.web, grid: isNew ? [...grid] : undefined } };
  });
  return JSON.stringify({ ...kept, scene: { ...kept.scene, lamps } });
};

/** What is kept beside the scene comes back as it is. */
export function thawed(text: string): { scene: Scene } {
  const kept = JSON.parse(text) as { scene: Scene };
  const grids = new Map<string, Float32Array<ArrayBuffer>>();
  for (const { web } of kept.scene.lamps) {
    if (!web) continue;
    const written = web.grid as readonly number[] | Float32Array | undefined;
    if (written) grids.set(web.key, Float32Array.from(written));
    web.grid = grids.get(web.key)!;
  }
  return kept;
}
