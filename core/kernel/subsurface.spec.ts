import { describe, expect, it } from 'vitest';
import type { Finish } from '../finish/finish';
import { box, darkSky, matt, testScene, uniformSky } from './testing';
import type { SceneMemory } from './scene-memory';

/** Light that goes into a body, wanders in it, and comes out elsewhere. */

const FREE_M = 0.01;
const RAYS = 6000;

/** Luminance from a place along a direction. */
function seen(scene: SceneMemory, from: readonly [number, number, number], along: readonly [number, number, number]): number {
  scene.settings({ seed: 3, maxDepth: 3 });
  return scene.kernel.measureRadiance(scene.scene, ...from, ...along, RAYS, 1);
}

const wax = (shown: number, extra: Partial<Finish> = {}) => matt(shown, { subsurfaceM: FREE_M, ...extra });
/** A slab so wide that its rim does not matter, its top at z = 0. */
const slab = (depthM: number, finish: Finish, sky = uniformSky(1000)) =>
  testScene([{ mesh: box([-40, -40, -depthM], [40, 40, 0]), finish }], sky);

/** Light from above only. */
function upperSky(cdM2: number) {
  const sky = uniformSky(cdM2);
  sky.radiance.fill(0, (sky.width * sky.height * 3) / 2);
  return sky;
}

describe('light that wanders in a body', () => {
  it('leaves a thick one as its colour says: the half-space of van de Hulst, Multiple Light Scattering (1980)', () => {
    for (const shown of [0.2, 0.5, 0.8]) {
      const r = seen(slab(4, wax(shown)), [0, 0, 5], [0, 0, -1]);
      expect(r / 1000).toBeGreaterThan(shown - 0.02);
      expect(r / 1000).toBeLessThan(shown + 0.02);
    }
  });

  it('passes a slab that absorbs nothing as radiative equilibrium between plates says (Heaslet & Warming 1965; from memory)', () => {
    for (const [opticalDepth, passed] of [[0.5, 0.704], [1, 0.5532], [2, 0.39], [5, 0.2077]] as const) {
      const r = seen(slab(opticalDepth * FREE_M, wax(1), upperSky(1000)), [0, 0, -5], [0, 0, 1]);
      expect(Math.abs(r / 1000 - passed)).toBeLessThan(0.02);
    } // prettier-ignore
  });

  it('takes each colour as far as its own free path', () => {
    const weights = [0.2126, 0.7152, 0.0722];
    // Optical depths of 1, 2 and 5. What is not scattered passes by 2 E3 of them (Abramowitz & Stegun 1964, table 5.4), all absorbing or none.
    const scattering = [0.5532, 0.39, 0.2077];
    const straight = [0.1097, 0.0301, 0.0009].map((e3) => 2 * e3);
    for (const lit of [0, 1, 2]) {
      const only = [0, 1, 2].map((c) => (c === lit ? 1 : 0)) as [number, number, number];
      const finish = wax(1, { baseColour: only, subsurfaceColour: [1, 0.5, 0.2] });
      const expected = weights.reduce((sum, w, c) => sum + w * (c === lit ? scattering : straight)[c]!, 0);
      expect(Math.abs(seen(slab(FREE_M, finish, upperSky(1000)), [0, 0, -5], [0, 0, 1]) / 1000 - expected)).toBeLessThan(0.015);
    }
  });

  it('gains and loses nothing under a face with an index, a varnish and a sheen', () => {
    const plain = (finish: Finish) => seen(slab(4, finish), [-4, 0, 5], [0.6, 0, -0.8]);
    for (const look of [{ ior: 1.5, roughness: 0.5 }, { ior: 1.5, roughness: 0.3, clearCoat: 1 }, { ior: 1.4, sheen: 0.8 }] as const) {
      const [wandering, at] = [plain(wax(0.7, look)), plain(matt(0.7, look))];
      expect(Math.abs(wandering / at - 1)).toBeLessThan(0.04);
    } // prettier-ignore
  });

  it('comes out where the sun does not reach, and not far from where it does', () => {
    const step = 0.5 * FREE_M;
    const sunny = { ...darkSky(), sun: { direction: [0, -Math.SQRT1_2, Math.SQRT1_2] as [number, number, number], normalLux: [1e5, 1e5, 1e5] as [number, number, number], radiance: [1.47e9, 1.47e9, 1.47e9] as [number, number, number], radiusRad: 0.00465 } };
    const scene = (finish: Finish) => testScene([{ mesh: box([-1, 0, -1], [1, 1, 0]), finish }, { mesh: box([-2, -3, -0.5], [2, -0.5, 0.5]), finish: matt(0) }], sunny);
    // Of the shaded front, below its edge: the sun falls on the top from behind the screen.
    const below = (finish: Finish, depthM: number) => seen(scene(finish), [0, -0.3, -depthM], [0, 1, 0]);
    expect(below(matt(0.8), step)).toBe(0);
    const near = below(wax(0.8), step);
    expect(near).toBeGreaterThan(100);
    expect(below(wax(0.8), 12 * FREE_M)).toBeLessThan(near / 10);
  }); // prettier-ignore
});
