import { describe, expect, it } from 'vitest';
import { develop, encodeSrgb } from '../image/tone';
import { settingOf } from '../image/white-balance';
import { lampColour } from '../image/colour-temperature';
import { PIXEL_ALBEDO, PIXEL_FEATURES, PIXEL_NORMAL, PIXEL_SIZE } from '../kernel/assembly/layout';
import { automaticWhite } from './white';

const WORDS = PIXEL_SIZE / 4;
type Rgb = readonly [number, number, number];

/** Surfaces of these colours under a light of so many lux. */
function seen(albedos: readonly Rgb[], light: Rgb, lux: number): { radiance: Float32Array; film: Float32Array } {
  const [radiance, film] = [new Float32Array(albedos.length * 4), new Float32Array(albedos.length * WORDS)];
  for (const [p, albedo] of albedos.entries()) {
    film[p * WORDS + PIXEL_FEATURES / 4] = 2;
    film[p * WORDS + PIXEL_NORMAL / 4 + 2] = 2;
    for (let c = 0; c < 3; c++) {
      film[p * WORDS + PIXEL_ALBEDO / 4 + c] = 2 * albedo[c]!;
      radiance[p * 4 + c] = (albedo[c]! * light[c]! * lux) / Math.PI;
    }
    radiance[p * 4 + 3] = 1;
  }
  return { radiance, film };
}
const rooms: readonly Rgb[] = Array.from({ length: 60 }, (_, i) => (i % 3 ? [0.5, 0.3, 0.15] : [0.85, 0.85, 0.84]));

describe('automatic white', () => {
  it('is that of the light, whatever colour the surfaces have', () => {
    const { radiance, film } = seen(rooms, lampColour(3000), 200);
    const { x, y } = automaticWhite(radiance, film);
    expect(Math.abs(settingOf(x, y).kelvin - 3000)).toBeLessThan(60);
  });

  it('leaves lamplight a little warm: white plaster under 2700 K comes out cream, not orange', () => {
    const plaster: Rgb = [0.85, 0.85, 0.84];
    const { radiance, film } = seen(rooms, lampColour(2700), 150);
    const white = automaticWhite(radiance, film);
    const wall = new Float32Array(plaster.map((a, c) => (a * lampColour(2700)[c]! * 150) / Math.PI).concat(1));
    const shown = (w: typeof white) => {
      const out = new Uint8Array(4);
      develop(wall, 1, { ev100: Math.log2(150 / Math.PI / 0.125) + 1, white: w }, out);
      return out;
    };
    const [r, g, b] = shown(white) as unknown as Rgb;
    expect(r > g && g > b).toBe(true);
    expect(b / r).toBeGreaterThan(0.7);
    const orange = shown({ ...white, degree: 0 });
    expect(orange[2]! / orange[0]!).toBeLessThan(0.6);
  });

  it('counts neither the sky nor what is not there', () => {
    const { radiance, film } = seen(rooms, [1, 1, 1], 1000);
    const before = automaticWhite(radiance, film);
    const wider = { radiance: new Float32Array(radiance.length * 2), film: new Float32Array(film.length * 2) };
    wider.radiance.set(radiance);
    wider.film.set(film);
    for (let p = radiance.length / 4; p < radiance.length / 2; p++) {
      wider.radiance.set([100, 400, 5000, 1], p * 4);
      wider.film[p * WORDS + PIXEL_FEATURES / 4] = 1;
    }
    expect(automaticWhite(wider.radiance, wider.film)).toEqual(before);
    expect(Number.isFinite(automaticWhite(new Float32Array(4), new Float32Array(WORDS)).x)).toBe(true);
  });
});

describe('a metered grey', () => {
  it('is coded 118 of 255 (standard output sensitivity, ISO 12232)', () => {
    const out = new Uint8Array(4);
    const metered = 0.125 * 2 ** 12;
    develop(new Float32Array([metered, metered, metered, 1]), 1, { ev100: 12, white: { x: 0.3127, y: 0.329, degree: 0 } }, out);
    expect(Math.abs(out[1]! - 118)).toBeLessThanOrEqual(1);
    expect(Math.round(encodeSrgb(0.18) * 255)).toBe(118);
  });

  it('leaves room for a sunlit white wall and a sky about the sun', () => {
    const shown = (timesGrey: number) => {
      const out = new Uint8Array(4);
      const cd = timesGrey * 0.125 * 2 ** 15;
      develop(new Float32Array([cd, cd, cd, 1]), 1, { ev100: 15, white: { x: 0.3127, y: 0.329, degree: 0 } }, out);
      return out[1]!;
    };
    // Reflectance 0.85 against 0.18; near the sun a clear sky is some eight times as bright as a sunlit grey.
    expect(shown(0.85 / 0.18)).toBeGreaterThan(225);
    expect(shown(0.85 / 0.18)).toBeLessThan(242);
    expect(shown(8)).toBeLessThan(251);
    expect(shown(8)).toBeGreaterThan(shown(0.85 / 0.18));
  });
});
