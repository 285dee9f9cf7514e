import { prepareMesh } from '../geometry/prepare-mesh';
import { compose } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import type { Finish } from '../finish/finish';
import type { MapSet, TextureImage } from '../finish/maps/texture-image';
import type { Sky } from '../sky/sky-map';
import { SceneMemory } from './scene-memory';
import { darkSky, kernelModule, quad } from './testing';

/** A face with maps under a lone sun, and looks at it, for tests. */

export const SUN_LUX = 100_000;
const SUN_RADIUS = 0.00465;

/** A black sky with a sun of 100 klx in a direction. */
export function onlySun(direction: readonly [number, number, number]): Sky {
  const radiance = SUN_LUX / (Math.PI * Math.sin(SUN_RADIUS) ** 2);
  return {
    ...darkSky(),
    sun: { direction: [...direction], normalLux: [SUN_LUX, SUN_LUX, SUN_LUX], radiance: [radiance, radiance, radiance], radiusRad: SUN_RADIUS },
  }; // prettier-ignore
}

export type Texel = readonly [number, number, number, number];
export const image = (width: number, height: number, texels: readonly Texel[]): TextureImage => ({
  width,
  height,
  texels: Uint8Array.from(texels.flat()),
});

/** A level square of 4 m about the origin, seen from above, with a map set. */
export function mapped(
  finish: Finish,
  base: TextureImage,
  surface: TextureImage | undefined,
  sky: Sky,
  scale = 1,
  beside?: Omit<MapSet, 'base' | 'surface'>,
): SceneMemory {
  const h = 2 / scale;
  const mesh: Mesh = quad([-h, -h, 0], [h, -h, 0], [h, h, 0], [-h, h, 0]);
  const transform = compose([0, 0, 0], [], [scale, scale, scale]);
  const scene = new SceneMemory(kernelModule());
  scene.setSky(sky);
  scene.setScene(
    {
      instances: [{ mesh: 'q', transform, finish, emissionScale: 1, lens: false }],
      lamps: [],
    },
    { mesh: () => prepareMesh(mesh), maps: (name) => (name === 'test' ? { base, surface, ...beside } : undefined) },
  );
  scene.settings({ seed: 1, maxDepth: 1 });
  return scene;
}

/** Radiance that comes from a place on the square along a direction that rises by a slope, towards +x. */
export const lookAlong = (scene: SceneMemory, x: number, y: number, slope: number, count = 64) => {
  const l = Math.hypot(1, slope);
  // From the side of -x, so that the ray goes on along +x.
  return scene.kernel.measureRadiance(scene.scene, x - 1 / slope, y, 1, 1 / l, 0, -slope / l, count, 1);
};

export const lookDown = (scene: SceneMemory, x: number, y: number, count = 64) =>
  scene.kernel.measureRadiance(scene.scene, x, y, 1, 0, 0, -1, count, 1);

export const WHITE: Texel = [255, 255, 255, 255];
export const FLAT_NORMAL: Texel = [128, 128, 255, 255];
export const overhead = onlySun([0, 0, 1]);
export const fullWhite = SUN_LUX / Math.PI;
