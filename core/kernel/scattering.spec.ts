import { describe, expect, it } from 'vitest';
import { adjusted, adjustmentMatrix } from '../finish/adjust';
import { FINISHES } from '../finish/library';
import { sheenReflectance } from '../finish/sheen';
import { decodeSrgb } from '../image/tone';
import { random } from '../random';
import { SceneMemory } from './scene-memory';
import { kernelModule } from './testing';

/** The scattering function: Fresnel, energy, reciprocity; its sampling against the stated density by Pearson's chi-squared. */

const memory = new SceneMemory(kernelModule());
const { kernel } = memory;
const Z_BINS = 12;
const TURN_BINS = 16;

const NONE: [number, number, number] = [0, 0, 0];

interface Case {
  name: string;
  base: number;
  metalness: number;
  roughness: number;
  transmission: number;
  deg: number;
  /** Clear coat, its roughness, diffuse transmission. */
  layers?: [number, number, number];
  /** How much rougher along x than along y. */
  brushed?: number;
  /** Sheen and its roughness. */
  sheen?: [number, number];
  /** Thin film: its share, index and nm. */
  film?: [number, number, number];
  /** Share and colour of what is mirrored. */
  mirrors?: [number, number, number, number];
  /** Degrees by which the coat is tilted. */
  tiltDeg?: number;
}

const view = (deg: number): [number, number, number] => [Math.sin((deg * Math.PI) / 180), 0, Math.cos((deg * Math.PI) / 180)];

/** Integral over the upper hemisphere by n x n equal parts of it. */
function overHemisphere(n: number, value: (direction: [number, number, number]) => number): number {
  let sum = 0;
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      const z = (i + 0.5) / n;
      const r = Math.sqrt(1 - z * z);
      const phi = ((j + 0.5) / n) * 2 * Math.PI;
      sum += value([r * Math.cos(phi), r * Math.sin(phi), z]);
    }
  return (sum * 2 * Math.PI) / (n * n);
}

/** Expected share of samples in each bin of the direction sphere, by integrating the density. */
function expectedShares(wo: [number, number, number]): Float64Array {
  const shares = new Float64Array(Z_BINS * 2 * TURN_BINS);
  const fine = 40;
  const cell = (2 / (Z_BINS * 2 * fine)) * ((2 * Math.PI) / (TURN_BINS * fine));
  for (let i = 0; i < Z_BINS * 2 * fine; i++) {
    const z = -1 + (2 * (i + 0.5)) / (Z_BINS * 2 * fine);
    const r = Math.sqrt(1 - z * z);
    for (let j = 0; j < TURN_BINS * fine; j++) {
      const phi = ((j + 0.5) / (TURN_BINS * fine)) * 2 * Math.PI;
      kernel.evaluateBsdf(...wo, r * Math.cos(phi), r * Math.sin(phi), z);
      const at = Math.floor(i / fine) * TURN_BINS + Math.floor(j / fine);
      shares[at] = shares[at]! + kernel.bsdfPdf() * cell;
    }
  }
  return shares;
}

function countSamples(wo: [number, number, number], n: number, next: () => number): Float64Array {
  const counts = new Float64Array(Z_BINS * 2 * TURN_BINS);
  for (let i = 0; i < n; i++) {
    if (!kernel.sampleBsdf(...wo, next(), next(), next())) continue;
    const [x, y, z] = [kernel.bsdfX(), kernel.bsdfY(), kernel.bsdfZ()];
    const turn = Math.atan2(y, x);
    const row = Math.min(Z_BINS * 2 - 1, Math.floor(((z + 1) / 2) * Z_BINS * 2));
    const column = Math.min(TURN_BINS - 1, Math.floor(((turn < 0 ? turn + 2 * Math.PI : turn) / (2 * Math.PI)) * TURN_BINS));
    counts[row * TURN_BINS + column]!++;
  }
  return counts;
}

/** Share of light that comes back from the test material seen at an angle, by n x n spread samples. */
function returned(angleDeg: number, n: number): number {
  let sum = 0;
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++)
      if (kernel.sampleBsdf(...view(angleDeg), ((i * 37 + j * 11) % 64) / 64 + 1 / 128, (i + 0.5) / n, (j + 0.5) / n))
        sum += kernel.bsdfValue() / kernel.bsdfPdf();
  return sum / (n * n);
}

describe('sampling the scattering function', () => {
  const cases: Case[] = [
    { name: 'plaster', base: 0.8, metalness: 0, roughness: 0.9, transmission: 0, deg: 30 },
    { name: 'satin varnish, slanting', base: 0.4, metalness: 0, roughness: 0.35, transmission: 0, deg: 65 },
    { name: 'brushed metal', base: 0.9, metalness: 1, roughness: 0.4, transmission: 0, deg: 45 },
    { name: 'half metal, grazing', base: 0.6, metalness: 0.5, roughness: 0.6, transmission: 0, deg: 78 },
    { name: 'frosted pane', base: 0.9, metalness: 0, roughness: 0.5, transmission: 0.8, deg: 40 },
    { name: 'varnished wood', base: 0.5, metalness: 0, roughness: 0.7, transmission: 0, deg: 50, layers: [1, 0.3, 0] },
    { name: 'lacquered metal, slanting', base: 0.8, metalness: 1, roughness: 0.5, transmission: 0, deg: 70, layers: [0.6, 0.35, 0] },
    { name: 'paper shade', base: 0.8, metalness: 0, roughness: 0.8, transmission: 0, deg: 35, layers: [0, 0, 0.5] },
    { name: 'steel brushed along y', base: 0.9, metalness: 1, roughness: 0.35, transmission: 0, deg: 50, brushed: 0.8 },
    { name: 'satin under varnish', base: 0.5, metalness: 0, roughness: 0.4, transmission: 0, deg: 60, brushed: 0.7, layers: [0.5, 0.3, 0] },
    { name: 'velvet, slanting', base: 0.2, metalness: 0, roughness: 0.9, transmission: 0, deg: 65, sheen: [1, 0.4] },
    { name: 'coated glass before white', base: 0.9, metalness: 0, roughness: 0.3, transmission: 0, deg: 55, film: [1, 2.2, 420] },
    { name: 'tempered steel', base: 0.6, metalness: 1, roughness: 0.4, transmission: 0, deg: 60, film: [0.7, 1.9, 300] },
    { name: 'plastic that mirrors little', base: 0.3, metalness: 0, roughness: 0.4, transmission: 0, deg: 75, mirrors: [0.3, 1, 0.4, 0.1] },
    {
      name: 'varnish on brush strokes',
      base: 0.4,
      metalness: 0,
      roughness: 0.8,
      transmission: 0,
      deg: 40,
      layers: [1, 0.35, 0],
      tiltDeg: 15,
    },
    { name: 'varnish tilted away', base: 0.4, metalness: 0, roughness: 0.6, transmission: 0, deg: 70, layers: [0.8, 0.4, 0], tiltDeg: -12 },
    {
      name: 'felt under varnish',
      base: 0.5,
      metalness: 0,
      roughness: 0.8,
      transmission: 0,
      deg: 45,
      layers: [0.5, 0.3, 0],
      sheen: [0.6, 0.7],
    },
  ];
  for (const { name, base, metalness, roughness, transmission, deg, layers = NONE, sheen, brushed, film, mirrors, tiltDeg } of cases)
    it(`follows its density: ${name}`, () => {
      kernel.setTestMaterial(base, metalness, roughness, 1.5, transmission);
      kernel.setTestLayers(...layers);
      if (brushed) kernel.setTestAnisotropy(brushed);
      if (sheen) kernel.setTestSheen(...sheen);
      if (film) kernel.setTestFilm(...film);
      if (mirrors) kernel.setTestSpecular(...mirrors);
      if (tiltDeg) kernel.setTestCoatNormal(...view(tiltDeg));
      const wo = view(deg);
      const shares = expectedShares(wo);
      const n = 60_000;
      const counts = countSamples(wo, n, random(17));
      let statistic = 0;
      let bins = 0;
      let pooledExpected = 0;
      let pooledCount = 0;
      shares.forEach((share, i) => {
        if (share * n < 8) {
          pooledExpected += share * n;
          pooledCount += counts[i]!;
          return;
        }
        statistic += (counts[i]! - share * n) ** 2 / (share * n);
        bins++;
      });
      if (pooledExpected > 8) {
        statistic += (pooledCount - pooledExpected) ** 2 / pooledExpected;
        bins++;
      }
      expect(bins).toBeGreaterThan(20);
      // Mean and spread of chi-squared with that many degrees of freedom: four standard deviations.
      expect(statistic).toBeLessThan(bins + 4 * Math.sqrt(2 * bins));
    });

  it('weighs what it samples as the value over the density says: both estimates of the reflectance agree', () => {
    for (const [metalness, roughness] of [[0, 0.5], [1, 0.3], [0.5, 0.7]] as const) {
      kernel.setTestMaterial(0.7, metalness, roughness, 1.5, 0);
      const wo = view(50);
      const next = random(3);
      let bySampling = 0;
      const n = 40_000;
      for (let i = 0; i < n; i++)
        if (kernel.sampleBsdf(...wo, next(), next(), next())) bySampling += kernel.bsdfValue() / kernel.bsdfPdf() / n;
      const byIntegration = overHemisphere(500, (direction) => kernel.evaluateBsdf(...wo, ...direction));
      expect(Math.abs(bySampling / byIntegration - 1)).toBeLessThan(0.015);
    } // prettier-ignore
  });
});

describe('scattering', () => {
  it('follows Fresnel: 4 % at normal incidence for n = 1.5, total reflection beyond 41.81 degrees from inside', () => {
    expect(kernel.fresnel(1, 1.5)).toBeCloseTo(0.04, 5);
    expect(kernel.fresnel(Math.cos((41.9 * Math.PI) / 180), 1 / 1.5)).toBe(1);
    expect(kernel.fresnel(Math.cos((41.7 * Math.PI) / 180), 1 / 1.5)).toBeLessThan(1);
  });

  it('never returns more than it gets, for any roughness, metalness and angle', () => {
    for (const metalness of [0, 1])
      for (const roughness of [0.05, 0.3, 0.6, 1])
        for (const angle of [0, 40, 75, 85]) {
          kernel.setTestMaterial(1, metalness, roughness, 1.5, 0);
          expect(returned(angle, 64)).toBeLessThan(1.03);
        }
  });

  it('mirrors by share and colour as KHR_materials_specular says: ahead by both, at a glance by the share alone', () => {
    // Of a black surface, so smooth that hardly any light is mirrored twice; the value of a facet between two directions is its Fresnel term times what the plain one has.
    const value = (deg: number, ...mirrors: [number, number, number, number]) => {
      kernel.setTestMaterial(0, 0, 0.2, 1.5, 0);
      kernel.setTestSpecular(...mirrors);
      const [x, y, z] = view(deg);
      return kernel.evaluateBsdf(x, y, z, -x, -y, z);
    };
    const share = 0.35;
    const colour: [number, number, number] = [1, 0.5, 0.25];
    for (const deg of [0, 40, 70, 85]) {
      const w = (1 - Math.cos((deg * Math.PI) / 180)) ** 5;
      const schlick = (f0: number, f90: number) => f0 + (f90 - f0) * w;
      const expected = colour.map((c) => schlick(0.04 * share * c, share) / schlick(0.04, 1));
      const luminance = 0.2126 * expected[0]! + 0.7152 * expected[1]! + 0.0722 * expected[2]!;
      expect(value(deg, share, ...colour) / value(deg, 1, 1, 1, 1)).toBeCloseTo(luminance, 4);
    }
    expect(value(40, 0, 1, 1, 1)).toBe(0);
  });

  it('never returns more than it gets, and goes both ways alike, with mirroring held down', () => {
    for (const mirrors of [[0, 1, 1, 1], [0.4, 1, 0.6, 0.2], [1, 0.1, 0.1, 1]] as [number, number, number, number][])
      for (const roughness of [0.1, 0.5, 1]) {
        kernel.setTestMaterial(1, 0, roughness, 1.5, 0);
        kernel.setTestSpecular(...mirrors);
        for (const deg of [0, 50, 80]) expect(returned(deg, 48)).toBeLessThan(1.005);
        const [from, to] = [view(65), [-0.2, 0.5, Math.sqrt(1 - 0.29)] as [number, number, number]];
        const there = kernel.evaluateBsdf(...from, ...to) / to[2];
        expect(kernel.evaluateBsdf(...to, ...from) / from[2] / there).toBeCloseTo(1, 4);
      }
  }); // prettier-ignore

  it('never returns more than it gets under a clear coat, or on both sides of a shade', () => {
    for (const [coat, coatRoughness, through] of [[1, 0.05, 0], [1, 0.4, 0], [0.5, 0.2, 0.3], [0, 0, 0.5], [0, 0, 1]] as const)
      for (const metalness of [0, 1])
        for (const angle of [0, 40, 75, 85]) {
          kernel.setTestMaterial(1, metalness, 0.6, 1.5, 0);
          kernel.setTestLayers(coat, coatRoughness, through);
          expect(returned(angle, 64)).toBeLessThan(1.03);
        } // prettier-ignore
  });

  it('never returns more than it gets, of all shipped finishes at their lightest', () => {
    for (const finish of FINISHES) {
      // No map is lighter than white; adjustment is clamped to what a surface can reflect.
      const base = Math.max(
        ...adjusted(finish.baseColour.map(decodeSrgb) as [number, number, number], adjustmentMatrix(finish), finish.contrast),
      );
      for (const angle of [0, 60, 82]) {
        kernel.setTestMaterial(base, finish.metalness, finish.roughness, finish.ior, finish.transmission);
        kernel.setTestLayers(finish.clearCoat, finish.clearCoatRoughness, finish.diffuseTransmission);
        kernel.setTestAnisotropy(finish.anisotropy);
        kernel.setTestSheen(finish.sheen * Math.max(...finish.sheenColour.map(decodeSrgb)), finish.sheenRoughness);
        expect(`${finish.id} ${String(returned(angle, 32) < 1.04)}`).toBe(`${finish.id} true`);
      }
    }
  });

  it('has sheen as its formula says, by a second integral, and never returns more than it gets with it', () => {
    for (const roughness of [0.25, 0.5, 0.8, 1])
      for (const angle of [0, 40, 70]) {
        kernel.setTestMaterial(0, 0, 0.9, 1, 0);
        kernel.setTestSheen(1, roughness);
        const seen = overHemisphere(260, (direction) => kernel.evaluateBsdf(...view(angle), ...direction));
        const formula = sheenReflectance(Math.cos((angle * Math.PI) / 180), roughness, 200);
        expect(Math.abs(seen - formula)).toBeLessThan(0.004);
      }
    for (const roughness of [0.1, 0.3, 0.6, 1])
      for (const angle of [0, 40, 75, 85]) {
        kernel.setTestMaterial(1, 0, 0.6, 1.5, 0);
        kernel.setTestSheen(1, roughness);
        expect(returned(angle, 64)).toBeLessThan(1.03);
      }
  });

  it('sends the same share of light through a shade whichever way it goes, and none through a plain one', () => {
    const through = (share: number) => {
      kernel.setTestMaterial(0.8, 0, 0.9, 1.5, 0);
      kernel.setTestLayers(0, 0, share);
      const side = (sign: number) => overHemisphere(300, ([x, y, z]) => kernel.evaluateBsdf(...view(20), x, y, sign * z));
      return { back: side(-1), front: side(1) };
    };
    expect(through(0).back).toBe(0);
    const { back, front } = through(0.5);
    kernel.setTestMaterial(0, 0, 0.9, 1.5, 0);
    const mirrored = overHemisphere(300, (direction) => kernel.evaluateBsdf(...view(20), ...direction));
    expect(front - back).toBeCloseTo(mirrored, 4);
    expect(back).toBeGreaterThan(0.35);
  });

  it('is reciprocal under a clear coat, under sheen and through a shade', () => {
    kernel.setTestMaterial(0.7, 0.3, 0.4, 1.5, 0);
    kernel.setTestLayers(0.8, 0.25, 0.4);
    kernel.setTestSheen(0.7, 0.4);
    const a = view(30);
    for (const z of [0.77, -0.77]) {
      const b: [number, number, number] = [-0.5, 0.4, z];
      // Light that comes from behind is seen in a frame turned over when it goes the other way.
      const back = z < 0 ? ([b[0], b[1], -z, a[0], a[1], -a[2]] as const) : ([...b, ...a] as const);
      expect(kernel.evaluateBsdf(...a, ...b) / Math.abs(z)).toBeCloseTo(kernel.evaluateBsdf(...back) / a[2], 4);
    }
  });

  it('is reciprocal, brushed or not', () => {
    for (const brushed of [0, 0.8]) {
      kernel.setTestMaterial(0.7, 0.3, 0.4, 1.5, 0);
      kernel.setTestAnisotropy(brushed);
      const a = view(30);
      const b: [number, number, number] = [-0.5, 0.4, Math.sqrt(1 - 0.41)];
      const forward = kernel.evaluateBsdf(...a, ...b) / b[2];
      const backward = kernel.evaluateBsdf(...b, ...a) / a[2];
      expect(forward).toBeCloseTo(backward, 5);
    }
  });

  it('samples with the density it states (its integral over the hemisphere is one at most)', () => {
    for (const roughness of [0.25, 0.6]) {
      kernel.setTestMaterial(0.6, 0, roughness, 1.5, 0);
      const sum = overHemisphere(400, (direction) => {
        kernel.evaluateBsdf(...view(35), ...direction);
        return kernel.bsdfPdf();
      });
      expect(sum).toBeGreaterThan(0.96);
      expect(sum).toBeLessThan(1.005);
    }
  });
});
