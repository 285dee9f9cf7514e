import { describe, expect, it } from 'vitest';
import type { Finish } from '../finish/finish';
import { facetAlbedo } from '../finish/microfacet';
import { sheenReflectance } from '../finish/sheen';
import type { Sky } from '../sky/sky-map';
import type { SceneMemory } from './scene-memory';
import { onlySun, SUN_LUX } from './test-face';
import { box, darkSky, matt, quad, testScene, uniformSky } from './testing';

/** Light behind panes and solids, against Fresnel's formulas and the white furnace; layers under panes and on them. */

const square = (half: number, z: number) => quad([-half, -half, z], [half, -half, z], [half, half, z], [-half, half, z]);
const clear = (extra: Partial<Finish> = {}): Finish => matt(1, { id: 'clear', transmission: 1, roughness: 0, ior: 1.5, ...extra });
const radians = (deg: number): number => (deg * Math.PI) / 180;

/** Of unpolarised light, from air into an index. */
function fresnel(cosine: number, eta: number): number {
  const inner = Math.sqrt(1 - (1 - cosine * cosine) / (eta * eta));
  const [a, b] = [(cosine - eta * inner) / (cosine + eta * inner), (eta * cosine - inner) / (eta * cosine + inner)];
  return (a * a + b * b) / 2;
}

/** What the two faces of a thin pane mirror together. */
const paneReflectance = (cosine: number, ior = 1.5): number => (2 * fresnel(cosine, ior)) / (1 + fresnel(cosine, ior));
const schlick = (f0: number, cosine: number): number => f0 + (1 - f0) * (1 - cosine) ** 5;

/** A sky that is bright above the horizon and dark below it. */
function upperSky(cdM2: number): Sky {
  const sky = uniformSky(cdM2);
  return { ...sky, radiance: sky.radiance.map((value, i) => (i < sky.radiance.length / 2 ? value : 0)) };
}

/** Radiance that comes to an eye at a height from straight below or above, or along a direction at an angle from there. */
const look = (scene: SceneMemory, z: number, deg: number, up: boolean, count: number): number =>
  scene.kernel.measureRadiance(scene.scene, 0, 0, z, Math.sin(radians(deg)), 0, (up ? 1 : -1) * Math.cos(radians(deg)), count, 7);

const COUNT = 1 << 16;

describe('a surface behind a pane', () => {
  const layers: [string, Partial<Finish>][] = [
    ['varnish', { clearCoat: 1, clearCoatRoughness: 0.4 }],
    ['a film', { ior: 1.6, roughness: 0.4, film: 1, filmIor: 2, filmNm: 350 }],
    ['sheen', { sheen: 1, sheenRoughness: 0.5 }],
    ['light that goes through it', { diffuseTransmission: 0.6 }],
    ['grain under varnish', { metalness: 1, roughness: 0.5, anisotropy: 0.7, clearCoat: 0.6, clearCoatRoughness: 0.4 }],
    ['light that wanders in it', { subsurfaceM: 0.002, clearCoat: 1, clearCoatRoughness: 0.4 }],
  ];
  for (const [name, layer] of layers)
    it(`is lit by sun and sky together as by each alone: ${name}`, () => {
      const sun = onlySun([Math.sin(0.6), 0, Math.cos(0.6)]);
      const skies = [sun, uniformSky(20_000), { ...uniformSky(20_000), sun: sun.sun }];
      const [bySun, bySky, byBoth] = skies.map((sky) => {
        const slab = box([-20, -20, -1], [20, 20, 0]);
        const scene = testScene([{ mesh: slab, finish: matt(0.5, { ior: 1.5, roughness: 0.7, ...layer }) }, { mesh: square(50, 1), finish: clear() }], sky); // prettier-ignore
        scene.settings({ seed: 1, maxDepth: 1 });
        return look(scene, 0.5, 30, false, layer.subsurfaceM ? COUNT / 8 : COUNT * 2);
      });
      // The noise of so many samples is under 0.2 per cent, of a sixteenth of them four times that.
      expect(Math.abs(byBoth! / (bySun! + bySky!) - 1)).toBeLessThan(layer.subsurfaceM ? 0.016 : 0.004);
    });

  it('shows each layer as without the pane, less what the pane keeps of the sun', () => {
    const slant = 0.6;
    const sun = onlySun([Math.sin(slant), 0, Math.cos(slant)]);
    for (const [name, layer] of layers) {
      const part = { mesh: box([-20, -20, -1], [20, 20, 0]), finish: matt(0.5, { ior: 1.5, roughness: 0.7, ...layer }) };
      const seen = (...panes: { mesh: ReturnType<typeof square>; finish: Finish }[]) => {
        const scene = testScene([part, ...panes], sun);
        scene.settings({ seed: 1, maxDepth: 1 });
        return look(scene, 0.5, 30, false, COUNT / 4);
      };
      const share = seen({ mesh: square(50, 1), finish: clear() }) / seen();
      expect(Math.abs(share / (1 - paneReflectance(Math.cos(slant))) - 1), name).toBeLessThan(0.01);
    }
  });

  it('is measured to have the light that the pane lets through', () => {
    const n = 2000;
    let through = 0;
    for (let i = 0; i < n; i++) {
      const cosine = (i + 0.5) / n;
      through += ((1 - paneReflectance(cosine)) * 2 * cosine) / n;
    }
    for (const pane of [clear(), clear({ clearCoat: 0.0001, clearCoatRoughness: 0.9 })]) {
      const scene = testScene([{ mesh: square(200, 1), finish: pane }], upperSky(1000));
      const lux = scene.kernel.measureIlluminance(scene.scene, 0, 0, 0, 0, 0, 1, COUNT, 3);
      expect(Math.abs(lux / (Math.PI * 1000 * through) - 1)).toBeLessThan(0.01);
    }
  });
});

describe('a solid', () => {
  it('takes no light and gives none, from the sky or from what shines all round (white furnace)', () => {
    const parts = [
      { mesh: square(0.5, 0), finish: matt(1) },
      { mesh: box([-2, -2, 0.2], [2, 2, 0.5]), finish: clear({ body: 'solid' }) },
    ];
    const shell = { mesh: box([-5, -5, -5], [5, 5, 5], true), finish: matt(0, { emissionCdM2: 1000, emissionColour: [1, 1, 1] }) };
    for (const scene of [testScene(parts, uniformSky(1000)), testScene([...parts, shell], darkSky())]) {
      scene.settings({ seed: 1, maxDepth: 60 });
      // From the side, between the square and the block.
      expect(Math.abs(look(scene, 0.1, 45, false, COUNT / 2) / 1000 - 1)).toBeLessThan(0.01);
    }
  });

  it('lets the sun through by what its two faces leave, also beyond the angle at which it would mirror all from within', () => {
    for (const deg of [0, 40, 65]) {
      const sky = onlySun([Math.sin(radians(deg)), 0, Math.cos(radians(deg))]);
      const slab = { mesh: box([-200, -200, 1], [200, 200, 1.3]), finish: clear({ body: 'solid' }) };
      const scene = testScene([{ mesh: square(1, 0), finish: matt(1) }, slab], sky);
      scene.settings({ seed: 1, maxDepth: 1 });
      const faces = (1 - fresnel(Math.cos(radians(deg)), 1.5)) ** 2;
      expect(look(scene, 0.5, 10, false, COUNT / 16) / ((SUN_LUX * Math.cos(radians(deg)) * faces) / Math.PI)).toBeCloseTo(1, 2);
    }
  });

  it('shows what lies in it darker by the square of its index, where sun or lamps light it (Veach 1997, 5.2)', () => {
    for (const ior of [1.33, 1.5]) {
      const parts = [
        { mesh: square(20, 0), finish: matt(0.5) },
        { mesh: box([-50, -50, -1], [50, 50, 0.5]), finish: clear({ body: 'solid', ior }) },
      ];
      const scene = testScene(parts, onlySun([0, 0, 1]));
      scene.settings({ seed: 1, maxDepth: 1 });
      const through = (1 - fresnel(1, ior)) * (1 - fresnel(Math.cos(0.5), ior));
      const seen = look(scene, 2, (0.5 * 180) / Math.PI, false, COUNT / 4);
      expect(Math.abs(seen / (((0.5 * SUN_LUX) / Math.PI) * (through / ior ** 2)) - 1)).toBeLessThan(0.01);
    }
  });

  it('lets no backdrop and no stars light what lies behind it', () => {
    const slab = { mesh: box([-200, -200, 1], [200, 200, 1.3]), finish: clear({ body: 'solid' }) };
    const backdrop = { width: 4, height: 2, radiance: new Float32Array(24).fill(5000) };
    for (const sky of [
      { ...darkSky(), backdrop },
      { ...darkSky(), stars: true },
    ]) {
      const scene = testScene([{ mesh: square(1, 0), finish: matt(1) }, slab], sky);
      scene.settings({ seed: 1, maxDepth: 4 });
      expect(look(scene, 0.5, 10, false, COUNT / 4)).toBe(0);
    }
  });

  it('that bends colours apart leaves nothing of one measurement to the next', () => {
    const prism = { mesh: box([-3, -3, 0.2], [3, 3, 0.6]), finish: clear({ body: 'solid', dispersion: 5, ior: 1.6 }) };
    const scene = testScene(
      [prism, { mesh: square(0.4, 2), finish: matt(0, { emissionCdM2: 1000, emissionColour: [1, 0, 0] }) }],
      darkSky(),
    );
    const measured = () => scene.kernel.measureIlluminance(scene.scene, 0, 0, 0, 0, 0, 1, 8, 3);
    const before = Array.from({ length: 12 }, (_, seed) => {
      scene.kernel.measureRadiance(scene.scene, 0.1, 0.1, 0, 0.2, 0, Math.sqrt(0.96), 1, seed);
      return measured();
    });
    expect(new Set(before).size).toBe(1);
  });

  it('bends its colours apart, also when what it mirrors is a solid that does not', () => {
    const shines = matt(0, { emissionCdM2: 1000, emissionColour: [1, 0, 0] });
    const block = { mesh: box([-3, -3, -1.6], [3, 3, 0.4]), finish: clear({ body: 'solid', dispersion: 5, ior: 1.6 }) };
    const above = { mesh: box([-9, -9, 3], [9, 9, 4]), finish: clear({ body: 'solid', ior: 1.3 }) };
    const strip = { mesh: quad([0.98, -5, -2], [1, -5, -2], [1, 5, -2], [0.98, 5, -2]), finish: shines };
    /** Where a strip of red light under the block is seen, along x, in metres. */
    const seenAt = (...others: { mesh: ReturnType<typeof box>; finish: Finish }[]) => {
      const scene = testScene([block, strip, ...others], darkSky());
      scene.settings({ seed: 1, maxDepth: 12 });
      let [sum, moment] = [0, 0];
      for (let x = -1.5; x < 0; x += 0.005) {
        const seen = scene.kernel.measureRadiance(scene.scene, x - 1, 0, 1.4, Math.SQRT1_2, 0, -Math.SQRT1_2, 64, 3);
        sum += seen;
        moment += seen * x;
      }
      return moment / sum;
    };
    const alone = seenAt();
    expect(Math.abs(seenAt(above) - alone)).toBeLessThan(0.002);
  });
});

describe('a smooth pane', () => {
  const mirrored = (finish: Finish, deg: number) =>
    look(testScene([{ mesh: square(50, 0), finish }], upperSky(1000)), 1, deg, false, COUNT) / 1000;
  const passed = (finish: Finish, deg: number) =>
    look(testScene([{ mesh: square(50, 0), finish }], upperSky(1000)), -1, deg, true, COUNT) / 1000;

  it('under varnish mirrors by both', () => {
    for (const deg of [0, 60, 75]) {
      const cosine = Math.cos(radians(deg));
      for (const clearCoatRoughness of [0, 0.3]) {
        const { whole, edge } = facetAlbedo(cosine, clearCoatRoughness);
        const all = 1 - (1 - 0.04 * (whole - edge) - edge) * (1 - paneReflectance(cosine));
        const pane = clear({ clearCoat: 1, clearCoatRoughness });
        expect(Math.abs(mirrored(pane, deg) - all)).toBeLessThan(0.006);
        expect(Math.abs(passed(pane, deg) - (1 - all))).toBeLessThan(0.006);
      }
    }
  });

  it('with sheen sends back what the sheen does, and what it leaves', () => {
    const pane = clear({ sheen: 1, sheenRoughness: 0.6 });
    for (const deg of [0, 50]) {
      const cosine = Math.cos(radians(deg));
      const all = 1 - (1 - sheenReflectance(cosine, 0.6)) * (1 - paneReflectance(cosine));
      expect(Math.abs(mirrored(pane, deg) - all)).toBeLessThan(0.006);
      expect(Math.abs(passed(pane, deg) - (1 - all))).toBeLessThan(0.006);
    }
  });

  it('with a film mirrors as the film does', () => {
    const pane = clear({ film: 1, filmIor: 2.3, filmNm: 60 });
    const scene = testScene([], darkSky());
    for (const deg of [0, 40]) {
      const cosine = Math.cos(radians(deg));
      const all = [0.2126, 0.7152, 0.0722].reduce((sum, weight, c) => {
        const face = scene.kernel.filmReflectance(cosine, 2.3, 60, 0.04, c);
        return sum + (weight * 2 * face) / (1 + face);
      }, 0);
      expect(Math.abs(all - paneReflectance(cosine))).toBeGreaterThan(0.1);
      expect(Math.abs(mirrored(pane, deg) - all)).toBeLessThan(0.006);
      expect(Math.abs(passed(pane, deg) - (1 - all))).toBeLessThan(0.006);
    }
  });

  it('that is clear in part mirrors once', () => {
    for (const [deg, share] of [[0, 0.5], [60, 0.3]] as const) {
      const cosine = Math.cos(radians(deg));
      const all = share * paneReflectance(cosine) + (1 - share) * schlick(0.04, cosine);
      expect(Math.abs(mirrored(clear({ baseColour: [0, 0, 0], transmission: share }), deg) - all)).toBeLessThan(0.004);
    } // prettier-ignore
  });

  it('that is metal in part is clear in what is left', () => {
    const pane = clear({ transmission: 0.8, metalness: 0.5 });
    expect(Math.abs(passed(pane, 0) - 0.8 * 0.5 * (1 - paneReflectance(1)))).toBeLessThan(0.01);
  });

  it('that covers in part lets light through where it covers too', () => {
    const floor = { mesh: square(1, 0), finish: matt(1) };
    const pane = { mesh: square(50, 1), finish: clear({ opacity: 0.5 }) };
    const scene = testScene([floor, pane], onlySun([0, 0, 1]));
    scene.settings({ seed: 1, maxDepth: 1 });
    expect(look(scene, 0.5, 10, false, 4096) / (SUN_LUX / Math.PI)).toBeCloseTo(0.5 + 0.5 * (1 - paneReflectance(1)), 2);
  });
});
