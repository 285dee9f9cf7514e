import type { Scene, SceneInstance, SceneLamp } from './scene';

/** What is kept holds a scene, and perhaps further ones that are much like it. */
export interface WithScenes {
  scene: Scene;
  along?: { scenes: { scene: Scene }[] };
}

/**
 * Scenes as text that is kept, and back: grids of photometric webs, which lamps share, are written once, and of further scenes the
 * instances that the first has too by their numbers.
 */
export const frozenText = (kept: WithScenes): string => {
  const webs = new Set<string>();
  const frozenLamps = (lamps: readonly SceneLamp[]) =>
    lamps.map((lamp) => {
      if (!lamp.web) return lamp;
      const { key, grid } = lamp.web;
      const isNew = !webs.has(key);
      webs.add(key);
      return { ...lamp, web: { ...lamp.web, grid: isNew ? [...grid] : undefined } };
    });
  const { scene, along } = kept;
  const first = { ...scene, lamps: frozenLamps(scene.lamps) };
  const numbers = along && new Map(scene.instances.map((instance, i) => [JSON.stringify(instance), i]));
  const others = along?.scenes.map((other) => ({
    ...other,
    scene: {
      ...other.scene,
      lamps: frozenLamps(other.scene.lamps),
      instances: other.scene.instances.map((instance) => numbers!.get(JSON.stringify(instance)) ?? instance),
    },
  }));
  return JSON.stringify({ ...kept, scene: first, ...(others && { along: { ...along, scenes: others } }) });
};

/** What is kept beside the scenes comes back as it is. */
export function thawed(text: string): WithScenes {
  const kept = JSON.parse(text) as WithScenes;
  const others = kept.along?.scenes.map(({ scene }) => scene) ?? [];
  const grids = new Map<string, Float32Array<ArrayBuffer>>();
  for (const { web } of [kept.scene, ...others].flatMap(({ lamps }) => lamps)) {
    if (!web) continue;
    const written = web.grid as readonly number[] | Float32Array | undefined;
    if (written) grids.set(web.key, Float32Array.from(written));
    web.grid = grids.get(web.key)!;
  }
  for (const scene of others)
    scene.instances = (scene.instances as readonly (SceneInstance | number)[]).map((each) =>
      typeof each === 'number' ? kept.scene.instances[each]! : each,
    );
  return kept;
}
