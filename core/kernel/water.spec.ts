import { describe, expect, it } from 'vitest';
import { FINISHES } from '../finish/library';
import type { Finish } from '../finish/finish';
import { random } from '../random';
import type { Sky } from '../sky/sky-map';
import { darkSky, matt, quad, testScene, uniformSky } from './testing';

/** Water under skies of which all is known. */

const clear: Finish = { ...matt(1), transmission: 1, body: 'pane', ior: 1.333, roughness: 0.02, widthM: 1, heightM: 1 };
const level = (size: number, z: number) => quad([-size, -size, z], [size, -size, z], [size, size, z], [-size, size, z]);

function over(water: Finish, sky: Sky) {
  const scene = testScene([{ mesh: level(500, 0), finish: water }, { mesh: level(500, -4), finish: matt(0) }], sky); // prettier-ignore
  scene.settings({ seed: 5, maxDepth: 4 });
  scene.setFilm(64, 64);
  scene.camera({ origin: [0, 0, 5], forward: [0, 0, -1], right: [0.3, 0, 0], up: [0, 0.3, 0] });
  return scene;
}

/** Luminance that comes up at an angle from the vertical. */
const seenAt = (scene: ReturnType<typeof over>, deg: number, count = 400) => {
  const a = (deg * Math.PI) / 180;
  return scene.kernel.measureRadiance(scene.scene, -5 * Math.tan(a), 0, 5, Math.sin(a), 0, -Math.cos(a), count, 3);
};

describe('water', () => {
  it('mirrors 2.0 per cent of an even sky straight down, and about 6 at 60 degrees (Fresnel, n = 1.333)', () => {
    const scene = over(clear, uniformSky(1000));
    expect(seenAt(scene, 0) / 1000).toBeCloseTo(0.0204, 3);
    expect(seenAt(scene, 60) / 1000).toBeGreaterThan(0.055);
    expect(seenAt(scene, 60) / 1000).toBeLessThan(0.063);
  });

  it('is not black: of the light on it, what floats in it scatters its share back', () => {
    const murky = over({ ...clear, scatteredBack: [0.02, 0.02, 0.02] }, uniformSky(1000));
    // Of an even sky a matt surface of that reflectance would show that share; two per cent less enter.
    expect(seenAt(murky, 0) / 1000).toBeCloseTo(0.0204 + 0.02 * 0.98, 3);
  });

  it('of an estuary gives 2 to 5 per cent of its light back, most of it green (Morel & Prieur 1977), which shows', () => {
    const estuary = FINISHES.find(({ id }) => id === 'water')!;
    const [r, g, b] = estuary.scatteredBack.map((share) => share / 0.54) as [number, number, number];
    for (const share of [r, g, b]) {
      expect(share).toBeGreaterThan(0.015);
      expect(share).toBeLessThan(0.06);
    }
    expect(g).toBeGreaterThan(r);
    expect(g).toBeGreaterThan(b);
    expect(seenAt(over({ ...estuary, maps: null }, uniformSky(1000)), 10) / 1000).toBeGreaterThan(0.035);
  });

  it('that the wind ruffles throws back as much of the sun in all as a mirror would: facets by Cox & Munk 1954', () => {
    const altitude = (60 * Math.PI) / 180;
    const radiusRad = 0.00465;
    const lux = 50_000;
    const sun = lux / (Math.PI * radiusRad ** 2);
    const sky: Sky = {
      ...darkSky(),
      sun: { direction: [Math.cos(altitude), 0, Math.sin(altitude)], normalLux: [lux, lux, lux], radiance: [sun, sun, sun], radiusRad },
    };
    const ruffled = over({ ...clear, waves: { heightM: 1e-4, lengthM: 50, towardsDeg: 0, windMs: 5 } }, sky);
    const next = random(11);
    const rays = 6000;
    let sum = 0;
    for (let i = 0; i < rays; i++) {
      // Evenly over the upper hemisphere, weighted with the cosine.
      const [z, turn] = [0.05 + 0.95 * next(), 2 * Math.PI * next()];
      const r = Math.sqrt(1 - z * z);
      const [x, y] = [r * Math.cos(turn), r * Math.sin(turn)];
      sum += z * ruffled.kernel.measureRadiance(ruffled.scene, (x / z) * 5, (y / z) * 5, 5, -x, -y, -z, 1, i + 1);
    }
    const given = (sum / rays) * 2 * Math.PI * 0.95;
    // Reflectance at 30 degrees from the vertical is 2.1 per cent.
    expect(given / (0.021 * lux * Math.sin(altitude))).toBeGreaterThan(0.85);
    expect(given / (0.021 * lux * Math.sin(altitude))).toBeLessThan(1.15);
  });

  it('shows no point of the sun: the glitter of one ray is within what its facets can give', () => {
    const estuary = FINISHES.find(({ id }) => id === 'water')!;
    const sky: Sky = {
      ...darkSky(),
      sun: { direction: [0.6, 0, 0.8], normalLux: [5e4, 5e4, 5e4], radiance: [7e8, 7e8, 7e8], radiusRad: 0.00465 },
    };
    const scene = over({ ...estuary, maps: null }, sky);
    let brightest = 0;
    for (let i = 0; i < 2000; i++)
      brightest = Math.max(brightest, scene.kernel.measureRadiance(scene.scene, -3.75, 0, 5, 0.6, 0, -0.8, 1, i));
    // A mirror would show two per cent of the disc, some 14 million.
    expect(brightest).toBeGreaterThan(1000);
    expect(brightest).toBeLessThan(500_000);
  });
});
