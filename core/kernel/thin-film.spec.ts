import { describe, expect, it } from 'vitest';
import { SceneMemory } from './scene-memory';
import { darkSky, kernelModule, matt, quad, testScene, uniformSky } from './testing';
import type { Mesh } from '../geometry/mesh';

/** Light that is taken apart: by interference in a thin film, and by a body whose index differs from colour to colour. */

const { kernel } = new SceneMemory(kernelModule());

/** CIE 1931 colour-matching functions as Wyman, Sloan & Shirley 2013 fit them (JCGT 2(2), multi-lobe; coefficients from memory). */
function matching(nm: number): [number, number, number] {
  const lobe = (height: number, middle: number, below: number, above: number) =>
    height * Math.exp(-0.5 * ((nm - middle) / (nm < middle ? below : above)) ** 2);
  return [
    lobe(1.056, 599.8, 37.9, 31) + lobe(0.362, 442, 16, 26.7) + lobe(-0.065, 501.1, 20.4, 26.2),
    lobe(0.821, 568.8, 46.9, 40.5) + lobe(0.286, 530.9, 16.3, 31.1),
    lobe(1.217, 437, 11.8, 36) + lobe(0.681, 459, 26, 13.8),
  ];
}

/** Reflectance of one polarisation of a film between air and a base, with all turns in it (Airy; Born & Wolf, Principles of Optics, 7.6). */
function airy(cosine: number, film: number, base: number, nm: number, wavelengthNm: number, parallel: boolean) {
  const sine = Math.sqrt(1 - cosine * cosine);
  const cosIn = (n: number) => Math.sqrt(1 - (sine / n) ** 2);
  const amplitude = (n1: number, c1: number, n2: number, c2: number) =>
    parallel ? (n2 * c1 - n1 * c2) / (n2 * c1 + n1 * c2) : (n1 * c1 - n2 * c2) / (n1 * c1 + n2 * c2);
  const [c2, c3] = [cosIn(film), cosIn(base)];
  const [r, s] = [amplitude(1, cosine, film, c2), amplitude(film, c2, base, c3)];
  const phase = Math.cos((4 * Math.PI * film * nm * c2) / wavelengthNm);
  return {
    whole: (r * r + s * s + 2 * r * s * phase) / (1 + (r * s) ** 2 + 2 * r * s * phase),
    // The same without interference: what leaves after each turn, added as power.
    mean: r * r + ((1 - r * r) ** 2 * s * s) / (1 - (r * s) ** 2),
  };
}

/** Linear Rec.709 of a film under even light, the part that interferes seen by the standard observer. */
function expected(cosine: number, film: number, base: number, nm: number): number[] {
  const [xyz, all] = [[0, 0, 0], [0, 0, 0]]; // prettier-ignore
  let mean = 0;
  for (let wavelength = 380; wavelength <= 780; wavelength += 1) {
    const weights = matching(wavelength);
    for (const parallel of [false, true]) {
      const at = airy(cosine, film, base, nm, wavelength, parallel);
      mean = mean === 0 ? at.mean : mean;
      weights.forEach((w, k) => {
        xyz[k]! += (w * (at.whole - at.mean)) / 2;
        all[k]! += w / 2;
      });
    }
  }
  mean = (airy(cosine, film, base, nm, 550, false).mean + airy(cosine, film, base, nm, 550, true).mean) / 2;
  const [x, y, z] = xyz.map((v) => v / all[1]!) as [number, number, number];
  return [
    mean + 3.2404542 * x - 1.5371385 * y - 0.4985314 * z,
    mean - 0.969266 * x + 1.8760108 * y + 0.041556 * z,
    mean + 0.0556434 * x - 0.2040259 * y + 1.0572252 * z,
  ];
}

describe('a thin film', () => {
  it('mirrors in the colours that Airy’s formula gives by wavelengths', () => {
    const off: number[] = [];
    for (const [film, base] of [
      [1.33, 1.5],
      [1.38, 1.9],
      [1.8, 1.5],
      [2.2, 1.5],
    ] as const)
      // prettier-ignore
      for (const nm of [100, 200, 320, 400, 550])
        for (const cosine of [1, 0.9, 0.75]) {
          const f0 = ((base - 1) / (base + 1)) ** 2;
          const want = expected(cosine, film, base, nm);
          want.forEach((v, channel) => off.push(Math.abs(kernel.filmReflectance(cosine, film, nm, f0, channel) - Math.max(0, v))));
        }
    off.sort((a, b) => a - b);
    // Two harmonics of the interference and Schlick's slopes stand for the whole: within 0.03 of the light, nine in ten within 0.01.
    expect(off[off.length >> 1]!).toBeLessThan(0.005);
    expect(off[Math.floor(off.length * 0.9)]!).toBeLessThan(0.01);
    expect(off.at(-1)!).toBeLessThan(0.03);
  });

  it('of no thickness is none', () => {
    const seen = (filmNm: number) => {
      const finish = matt(0, { ior: 1.5, roughness: 0.3, film: 1, filmIor: 1.8, filmNm });
      const scene = testScene([{ mesh: quad([-9, -9, 0], [9, -9, 0], [9, 9, 0], [-9, 9, 0]), finish }], uniformSky(1000));
      scene.settings({ seed: 1, maxDepth: 1 });
      return scene.kernel.measureRadiance(scene.scene, 0, 0, 1, 0.6, 0, -0.8, 4096, 1);
    };
    // A dark face mirrors 0.04 of an even sky, a little more where it is seen from the side.
    expect(seen(0)).toBeGreaterThan(38);
    expect(seen(0)).toBeLessThan(50);
    expect(seen(400) / seen(0)).not.toBeCloseTo(1, 1);
  });

  it('gains no light, and does not mind which way light goes', () => {
    for (const film of [1.4, 2.2])
      for (const nm of [150, 400, 800])
        for (const deg of [5, 40, 70, 85]) {
          kernel.setTestMaterial(1, 0, 0.3, 1.5, 0);
          kernel.setTestFilm(1, film, nm);
          const out = [Math.sin((deg * Math.PI) / 180), 0, Math.cos((deg * Math.PI) / 180)] as const;
          let sum = 0;
          for (let i = 0; i < 24; i++)
            for (let j = 0; j < 24; j++)
              if (kernel.sampleBsdf(...out, ((i * 37 + j * 11) % 64) / 64 + 1 / 128, (i + 0.5) / 24, (j + 0.5) / 24))
                sum += kernel.bsdfValue() / kernel.bsdfPdf() / 24 ** 2;
          // The samples' own spread is a few thousandths.
          expect(sum).toBeLessThan(1.01);
          const other = [0.3, 0.5, Math.sqrt(1 - 0.34)] as const;
          expect(kernel.evaluateBsdf(...out, ...other) / other[2]).toBeCloseTo(kernel.evaluateBsdf(...other, ...out) / out[2], 4);
        }
  });
});

/** A wedge of 30 degrees: its left face stands upright, its right one leans. */
const LEAN = Math.tan(Math.PI / 6);
const SECTION = [[0, -1], [0.5 + LEAN, -1], [0.5 - LEAN * 0.5, 0.5], [0, 0.5]] as const; // prettier-ignore
function prism(): Mesh {
  const corners = [-1, 1].flatMap((y) => SECTION.map(([x, z]) => [x, y, z]));
  const faces = [[0, 1, 2, 3], [7, 6, 5, 4], ...[0, 1, 2, 3].map((k) => [k, k + 4, ((k + 1) % 4) + 4, (k + 1) % 4])]; // prettier-ignore
  return {
    positions: new Float32Array(corners.flat()),
    indices: new Uint32Array(faces.flatMap(([a, b, c, d]) => [a!, b!, c!, a!, c!, d!])),
  };
}

describe('a body that spreads colours', () => {
  const clear = matt(1, { transmission: 1, body: 'solid', ior: 1.5, roughness: 0, dispersion: 5 });

  it('bends each by its own index: Snell’s law behind a prism', () => {
    // The index for green is 1.5, for red and blue 0.0625 less and more: 0.5 x 0.025 x 5 (KHR_materials_dispersion).
    const bent = [1.4375, 1.5, 1.5625].map((n) => Math.asin(n * Math.sin(Math.PI / 6)) - Math.PI / 6);
    const limits = [0.2, (bent[0]! + bent[1]!) / 2, (bent[1]! + bent[2]!) / 2, 0.6];
    const shares = [0.2126, 0.7152, 0.0722];
    shares.forEach((share, colour) => {
      // A wall far behind it that gives light only where this colour is bent to.
      const [low, high] = [-400 * Math.tan(limits[colour + 1]!), -400 * Math.tan(limits[colour]!)];
      const wall: Mesh = {
        positions: new Float32Array([400, -50, low, 400, 50, low, 400, 50, high, 400, -50, high]),
        indices: new Uint32Array([0, 2, 1, 0, 3, 2]),
      };
      const scene = testScene([{ mesh: prism(), finish: clear }, { mesh: wall, finish: matt(0, { emissionCdM2: 1000, emissionColour: [1, 1, 1] }) }], darkSky()); // prettier-ignore
      scene.settings({ seed: 1, maxDepth: 6 });
      const crossed = (1 - kernel.fresnel(1, 1.5)) * (1 - kernel.fresnel(Math.cos(Math.PI / 6), 1 / 1.5));
      const seen = scene.kernel.measureRadiance(scene.scene, -3, 0, 0, 1, 0, 0, 8192, 3);
      // One of three colours is followed: the spread of 8192 samples is 1.6 %, four times of it the bound.
      expect(Math.abs(seen / (1000 * share * crossed) - 1)).toBeLessThan(0.065);
    });
  });

  it('neither takes nor gives light', () => {
    const light = (dispersion: number) => {
      const scene = testScene([{ mesh: prism(), finish: { ...clear, dispersion } }], uniformSky(1000));
      scene.settings({ seed: 1, maxDepth: 12 });
      return scene.kernel.measureRadiance(scene.scene, -3, 0, 0, 1, 0, 0, 8192, 5);
    };
    expect(Math.abs(light(5) / light(0) - 1)).toBeLessThan(0.04);
  });
});
