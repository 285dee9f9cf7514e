import { describe, expect, it } from 'vitest';
import { prepareMesh } from '../geometry/prepare-mesh';
import { translation } from '../geometry/mat4';
import type { Finish } from '../finish/finish';
import type { Mesh } from '../geometry/mesh';
import { along, webOfForm, writeIes } from '../lamp/closed-forms';
import { beamOf } from '../lamp/intensity';
import { intensityAt } from '../lamp/photometric-web';
import { webOf, type LampWeb } from '../lamp/web-grid';
import type { Luminaire } from '../model/schema';
import type { LampForm, PlacedLamp } from '../lamp/placed-lamp';
import { lampOf, placedLampOf } from '../scene/lamps';
import type { SceneLamp } from '../scene/scene';
import { SCENE_LIGHT_CDF } from './assembly/layout';
import { SceneMemory } from './scene-memory';
import { box, darkSky, kernelModule, matt, quad, testScene } from './testing';

/** Lamps and lit surfaces, against the laws of illumination. */

const lamp = (extra: Partial<SceneLamp> = {}): SceneLamp => ({
  source: 's', id: 'l', position: [0, 0, 2], axis: [0, 0, -1], right: [1, 0, 0], radiusM: 0,
  beam: { intensityCd: 1000, cosInner: 1, cosOuter: -1 }, colour: [1, 1, 1], ...extra,
}); // prettier-ignore
const lux = (scene: SceneMemory, p: readonly [number, number, number], count = 4096) =>
  scene.kernel.measureIlluminance(scene.scene, ...p, 0, 0, 1, count, 5);
const lampsOnly = (...lamps: SceneLamp[]) => testScene([], darkSky(), lamps);

describe('lamps', () => {
  it('keep to their cone: full on the axis, nothing beyond the edge, half the intensity at half the beam angle', () => {
    const spot = lampsOnly(lamp({ beam: beamOf({ fluxLm: 1000, beamDeg: 60, dim: 1 }) }));
    const { intensityCd } = beamOf({ fluxLm: 1000, beamDeg: 60, dim: 1 });
    expect(lux(spot, [0, 0, 0], 4)).toBeCloseTo(intensityCd / 4, 2);
    // At 30 degrees from the axis: d = 2 / cos, E = I / 2 x cos^3 / 4.
    const cos = Math.cos(Math.PI / 6);
    expect(lux(spot, [2 * Math.tan(Math.PI / 6), 0, 0], 4)).toBeCloseTo(((intensityCd / 2) * cos ** 3) / 4, 1);
    expect(lux(spot, [2 * Math.tan(Math.PI / 3), 0, 0], 4)).toBe(0);
  });

  it('add up, each with its own strength, without favour for the strong ones', () => {
    const strengths = [10, 400, 3, 1500, 90];
    const lamps = strengths.map((intensityCd, i) =>
      lamp({ id: String(i), position: [i - 2, 0, 2], beam: { intensityCd, cosInner: 1, cosOuter: -1 } }),
    );
    const expected = strengths.reduce((sum, intensityCd, i) => sum + (intensityCd * 2) / ((i - 2) ** 2 + 4) ** 1.5, 0);
    // One lamp is chosen for each sample; 16,384 of them are within 2 per cent.
    expect(Math.abs(lux(lampsOnly(...lamps), [0, 0, 0], 16384) / expected - 1)).toBeLessThan(0.02);
  });

  it('that were measured shed what their file says towards each side, turned with the lamp', () => {
    const form = { name: 'f', share: along(0.6, 6), isRound: false, inputW: 0, fluxLm: 1000, openingM: [0, 0, 0] as const };
    const text = writeIes(webOfForm(form));
    const measured = webOf(text) as LampWeb;
    const luminaire = (direction: [number, number, number], turnDeg: number): Luminaire => ({
      id: 'l', name: 'l', circuit: '', element: null, position: [0, 0, 2], direction, fluxLm: 2000, colourTemperatureK: 6500, beamDeg: 90, turnDeg, dim: 1,
    }); // prettier-ignore
    const at = (turnDeg: number, x: number, y: number) => {
      const made = { ...lampOf('s', luminaire([0, 0, -1], turnDeg), 0.5, text), radiusM: 0 };
      const d = Math.hypot(x, y, 2);
      return (lux(lampsOnly(made), [x, y, 0], 4) * d ** 3) / 2;
    };
    // Half of 2000 lm: as the file, which is of 1000.
    for (const [turnDeg, x, y, c] of [
      [0, 1, 0, 0],
      [0, 0, 1, 90],
      [0, 1.5, 1.5, 45],
      [0, -2, 0, 180],
      [90, 1, 0, 90],
    ] as const) {
      const cd = intensityAt(measured.web, c, Math.atan(Math.hypot(x, y) / 2) * (180 / Math.PI));
      expect(Math.abs(at(turnDeg, x, y) / cd - 1), `${String(c)}°`).toBeLessThan(0.01);
    }
    // On its side, nothing goes behind it.
    const sideways = lampsOnly({ ...lampOf('s', luminaire([1, 0, 0], 0), 1, text), radiusM: 0 });
    expect(lux(sideways, [2, 0, 0], 4)).toBeGreaterThan(10);
    expect(lux(sideways, [-2, 0, 0], 4)).toBe(0);
  });

  it('that were measured at fine angles keep a narrow beam: cos^500 (closed form: I = flux (n + 1) / 2 pi)', () => {
    const gammaDeg = Array.from({ length: 361 }, (_, i) => i / 4);
    const candela = Float64Array.from(gammaDeg, (gamma) => Math.max(0, Math.cos((gamma * Math.PI) / 180)) ** 500);
    const text = writeIes({ name: 'n', gammaDeg, cDeg: [0], candela: candela.map((v) => v * 1e6), lampLm: null, inputW: 1, lengthM: 0, widthM: 0, heightM: 0 }); // prettier-ignore
    const luminaire: Luminaire = { id: 'l', name: 'l', circuit: '', element: null, position: [0, 0, 2], direction: [0, 0, -1], fluxLm: 1000, colourTemperatureK: 6500, beamDeg: 90, dim: 1 }; // prettier-ignore
    const made = { ...lampOf('s', luminaire, 1, text), radiusM: 0 };
    for (const deg of [0, 1.5, 3, 4.5]) {
      const cos = Math.cos((deg * Math.PI) / 180);
      const cd = ((1000 * 501) / (2 * Math.PI)) * cos ** 500;
      expect(Math.abs(lux(lampsOnly(made), [2 * Math.tan((deg * Math.PI) / 180), 0, 0], 4) / ((cd * cos ** 3) / 4) - 1)).toBeLessThan(0.01);
    }
  });

  it('that are flat or a tube light what lies below them as their closed forms say', () => {
    const placed = (form: LampForm, direction: [number, number, number] = [0, 0, -1], turnDeg = 0) => {
      const lamp: PlacedLamp = { kind: 'lamp', name: 'l', circuit: 'c', type: 't', position: [0, 0, 2], direction, turnDeg, form, power: { unit: 'lm', value: 1000 }, colour: { kelvin: 6500 } }; // prettier-ignore
      return lampsOnly(placedLampOf('s', 'l', lamp, 1000));
    };
    // A disc of radius r, on its axis: E = flux / (pi (r2 + h2)).
    expect(Math.abs((lux(placed({ kind: 'disc', radiusM: 1 }), [0, 0, 0], 16384) * Math.PI * 5) / 1000 - 1)).toBeLessThan(0.01);
    // A rectangle a by b over the point below its corner: flux / (a b) times the factor of parallel rectangles (e.g. Modest, Radiative Heat Transfer; from memory).
    const [a, b, h] = [2, 1, 2];
    const [x, y] = [a / h, b / h];
    const factor = (x / Math.sqrt(1 + x * x) * Math.atan(y / Math.sqrt(1 + x * x)) + y / Math.sqrt(1 + y * y) * Math.atan(x / Math.sqrt(1 + y * y))) / (2 * Math.PI); // prettier-ignore
    const flat = { kind: 'rectangle', lengthM: a, widthM: b } as const;
    expect(Math.abs(lux(placed(flat), [b / 2, a / 2, 0], 16384) / ((1000 / (a * b)) * factor) - 1)).toBeLessThan(0.01);
    // Turned a quarter, its length lies along the other axis.
    expect(Math.abs(lux(placed(flat, [0, 0, -1], 90), [a / 2, b / 2, 0], 16384) / ((1000 / (a * b)) * factor) - 1)).toBeLessThan(0.01);
    // Nothing goes behind it.
    expect(lux(placed(flat, [0, 0, 1]), [0, 0, 0], 64)).toBeLessThan(0.01);
    // A tube of length l, below its middle: flux / (pi2 l h) (alpha + sin alpha cos alpha), alpha = atan(l / 2h).
    const alpha = Math.atan(3 / 4);
    const tube = (1000 / (Math.PI ** 2 * 3 * 2)) * (alpha + Math.sin(alpha) * Math.cos(alpha));
    expect(Math.abs(lux(placed({ kind: 'line', lengthM: 3 }), [0, 0, 0], 16384) / tube - 1)).toBeLessThan(0.015);
  });

  it('light nothing behind what stands in the way, and all of it when that is taken away', () => {
    const plate = { mesh: quad([-1, -1, 1], [1, -1, 1], [1, 1, 1], [-1, 1, 1]), finish: matt(0) };
    expect(lux(testScene([plate], darkSky(), [lamp()]), [0, 0, 0], 64)).toBe(0);
    expect(lux(lampsOnly(lamp()), [0, 0, 0], 4)).toBeCloseTo(250, 2);
  });

  it('of some size cast soft shadows whose middle is dark and whose edge is half lit', () => {
    // A lamp of 0.2 m over a half plane's edge at x = 0: straight below the edge just half of the lamp is seen.
    const half = { mesh: quad([0, -5, 1], [5, -5, 1], [5, 5, 1], [0, 5, 1]), finish: matt(0) };
    const scene = testScene([half], darkSky(), [lamp({ radiusM: 0.2 })]);
    const full = lux(lampsOnly(lamp({ radiusM: 0.2 })), [0, 0, 0], 8192);
    expect(Math.abs(lux(scene, [0, 0, 0], 8192) / full - 0.5)).toBeLessThan(0.03);
    expect(lux(scene, [0.5, 0, 0], 1024)).toBe(0);
    expect(lux(scene, [-0.5, 0, 0], 8192)).toBeGreaterThan(full * 0.8);
  });

  it.each([0, 0.02])('that are balls keep their flux %f m under a ceiling', (below) => {
    const ceiling = { mesh: quad([-3, -3, 2], [-3, 3, 2], [3, 3, 2], [3, -3, 2]), finish: matt(0) };
    const ball = lamp({ position: [0, 0, 2 - below], radiusM: 0.1 });
    const free = (1000 * 2) / (2 - below) ** 2 / 2;
    expect(Math.abs(lux(testScene([ceiling], darkSky(), [ball]), [0, 0, 0], 16384) / free - 1)).toBeLessThan(0.02);
  });

  it('that are balls light as from their middle, and within them as at their surface', () => {
    const ball = lampsOnly(lamp({ radiusM: 0.5 }));
    expect(Math.abs(lux(ball, [0, 0, 0], 16384) / 250 - 1)).toBeLessThan(0.01);
    expect(lux(ball, [0, 0, 1.99], 4096)).toBeLessThan(1001 / 0.5 ** 2);
  });

  it('tint what they light by their colour at the same luminance', () => {
    const warm = lampsOnly(lamp({ colour: [1.4, 0.95, 0.3] }));
    expect(lux(warm, [0, 0, 0], 4)).toBeCloseTo(250 * (0.2126 * 1.4 + 0.7152 * 0.95 + 0.0722 * 0.3), 1);
  });
});

describe('lit surfaces', () => {
  const glowing = (cdM2: number, extra: Partial<Finish> = {}) => matt(1, { emissionCdM2: cdM2, ...extra });

  it('light as their area and cosine say: a disc on its axis, E = pi L r2 / (r2 + h2)', () => {
    const corners = 96;
    const radius = 0.5;
    const rim = Array.from({ length: corners }, (_, i) => {
      const a = (i / corners) * 2 * Math.PI;
      return [radius * Math.cos(a), radius * Math.sin(a), 1.5];
    });
    const disc = {
      positions: new Float32Array([0, 0, 1.5, ...rim.flat()]),
      indices: Uint32Array.from({ length: corners * 3 }, (_, i) => {
        const t = Math.floor(i / 3);
        return [0, 1 + ((t + 1) % corners), 1 + t][i % 3]!;
      }),
    };
    const scene = testScene([{ mesh: disc, finish: glowing(500) }], darkSky());
    scene.settings({ seed: 1, maxDepth: 0 });
    const expected = (Math.PI * 500 * radius ** 2) / (radius ** 2 + 1.5 ** 2);
    expect(Math.abs(lux(scene, [0, 0, 0], 16384) / expected - 1)).toBeLessThan(0.01);
  });

  it('are seen at their own luminance, from any side and distance', () => {
    const scene = testScene([{ mesh: box([-1, -1, -1], [1, 1, 1]), finish: glowing(750) }], darkSky());
    for (const [ox, oy, oz] of [[5, 0.1, 0.2], [0.1, -30, 0.3], [0.2, 0.1, 2]] as const) {
      const l = Math.hypot(ox, oy, oz);
      expect(scene.kernel.measureRadiance(scene.scene, ox, oy, oz, -ox / l, -oy / l, -oz / l, 4, 1)).toBeCloseTo(750, 1);
    } // prettier-ignore
  });

  /** A glowing square of 1 m, moved and dimmed, over the origin. */
  function moved(emissionScale: number, lens: boolean | number, lamps: SceneLamp[]): SceneMemory {
    const mesh = prepareMesh(quad([-0.5, -0.5, 0], [-0.5, 0.5, 0], [0.5, 0.5, 0], [0.5, -0.5, 0]));
    const scene = new SceneMemory(kernelModule());
    scene.setSky(darkSky());
    const instance = {
      source: 's', element: 'e', part: 0, material: 'm', mesh: 'q', transform: translation(0, 0, 2), finish: glowing(400), emissionScale, lens,
    }; // prettier-ignore
    scene.setScene({ instances: [instance], lamps }, { mesh: () => mesh, maps: () => undefined });
    scene.settings({ seed: 1, maxDepth: 0 });
    return scene;
  }

  it('dim in proportion, also where they are moved to', () => {
    const full = lux(moved(1, false, []), [0, 0, 0], 8192);
    expect(full).toBeGreaterThan(50);
    expect(Math.abs(lux(moved(0.25, false, []), [0, 0, 0], 8192) / full - 0.25)).toBeLessThan(0.005);
    expect(lux(moved(0, false, []), [0, 0, 0], 64)).toBe(0);
  });

  it('that are the lens of a lamp are seen, but leave the lighting to the lamp and cast no shadow from it', () => {
    const scene = moved(0.5, true, [lamp({ position: [0, 0, 2.5] })]);
    expect(scene.kernel.measureRadiance(scene.scene, 0.1, 0.1, 0, 0, 0, 1, 4, 1)).toBeCloseTo(200, 1);
    expect(lux(scene, [0, 0, 0], 1024)).toBeCloseTo(1000 / 2.5 ** 2, 0);
  });

  it('that are the lens of a lamp are not lit by it', () => {
    const own = moved(1, 7, [lamp({ position: [0, 0, 1.999], axis: [0, 0, -1], lens: 7 })]);
    own.settings({ seed: 1 });
    const seen = Array.from({ length: 16 }, (_, i) => own.kernel.measureRadiance(own.scene, 0.02 * i, 0.01, 0, 0, 0, 1, 1024, i));
    for (const cdM2 of seen) expect(cdM2).toBeCloseTo(400, 1);
    // Another lamp's light falls on it: a white surface below 1000 cd from 1 m shows 1000 / pi.
    const other = moved(0, 7, [lamp({ position: [0, 0, 1], axis: [0, 0, 1], lens: 8 })]);
    other.settings({ seed: 1, maxDepth: 1 });
    expect(other.kernel.measureRadiance(other.scene, 0, 0, 1.5, 0, 0, 1, 64, 1)).toBeCloseTo(1000 / Math.PI, 0);
  });

  it('that are the lens of a lamp count once through a solid', () => {
    const lux = (lensCdM2: number) => {
      const lens = prepareMesh(quad([-0.3, -0.3, 1.5], [-0.3, 0.3, 1.5], [0.3, 0.3, 1.5], [0.3, -0.3, 1.5]));
      const slab = prepareMesh(box([-3, -3, 0.5], [3, 3, 0.7]));
      const scene = new SceneMemory(kernelModule());
      scene.setSky(darkSky());
      const part = { transform: translation(0, 0, 0), emissionScale: 1 };
      scene.setScene(
        {
          instances: [
            { ...part, mesh: 'lens', finish: matt(1, { emissionCdM2: lensCdM2 }), lens: 7 },
            { ...part, mesh: 'slab', finish: matt(1, { transmission: 1, roughness: 0, ior: 1.5, body: 'solid' }), lens: false },
          ],
          lamps: [lamp({ position: [0, 0, 1.49], lens: 7 })],
        },
        { mesh: (key) => (key === 'lens' ? lens : slab), maps: () => undefined },
      );
      scene.settings({ seed: 1 });
      return scene.kernel.measureIlluminance(scene.scene, 0, 0, 0, 0, 0, 1, 32768, 3);
    };
    expect(Math.abs(lux(2000) / lux(0.0001) - 1)).toBeLessThan(0.02);
  });

  it('count for what of them covers what is behind them', () => {
    const half = matt(0, { emissionCdM2: 1000, emissionColour: [1, 1, 1], opacity: 0.5 });
    const panel = quad([-1, -1, 2], [-1, 1, 2], [1, 1, 2], [1, -1, 2]);
    const bright = (opacity: number) => testScene([{ mesh: panel, finish: { ...half, opacity } }], darkSky());
    expect(bright(0.5).kernel.measureRadiance(bright(0.5).scene, 0, 0, 0, 0, 0, 1, 16384, 5) / 500).toBeCloseTo(1, 1);
    expect(Math.abs(lux(bright(0.5), [0, 0, 0], 65536) / lux(bright(1), [0, 0, 0], 65536) - 0.5)).toBeLessThan(0.006);
  });

  it('are never too many: 30,000 triangles on one side light as much as 12 on the other', () => {
    const panel = (x: number, parts: number): Mesh => {
      const positions: number[] = [];
      const indices: number[] = [];
      for (let i = 0; i < parts; i++) {
        const [a, b] = [x - 0.5 + i / parts, x - 0.5 + (i + 1) / parts];
        positions.push(a, -0.5, 2, b, -0.5, 2, b, 0.5, 2, a, 0.5, 2);
        indices.push(i * 4, i * 4 + 2, i * 4 + 1, i * 4, i * 4 + 3, i * 4 + 2);
      }
      return { positions: new Float32Array(positions), indices: new Uint32Array(indices) };
    };
    const shines = matt(0, { emissionCdM2: 1000, emissionColour: [1, 1, 1] });
    const wall = { mesh: quad([0, -9, -9], [0, 9, -9], [0, 9, 9], [0, -9, 9]), finish: matt(0) };
    const scene = testScene([{ mesh: panel(-2, 6), finish: shines }, { mesh: panel(2, 15000), finish: shines }, wall], darkSky()); // prettier-ignore
    expect(Math.abs(lux(scene, [2, 0, 0], 65536) / lux(scene, [-2, 0, 0], 65536) - 1)).toBeLessThan(0.02);
  });

  it('are picked by their flux: a spot and a panel of as many lumens alike', () => {
    const panel = testScene([{ mesh: quad([-0.5, -0.5, 2], [-0.5, 0.5, 2], [0.5, 0.5, 2], [0.5, -0.5, 2]), finish: matt(0, { emissionCdM2: 1000 / Math.PI, emissionColour: [1, 1, 1] }) }], darkSky(), [lamp({ beam: beamOf({ fluxLm: 1000, beamDeg: 40, dim: 1 }) })]); // prettier-ignore
    const view = panel.memory.view();
    const cdf = panel.memory.floats(view.getUint32(panel.scene + SCENE_LIGHT_CDF, true), 3);
    expect([...cdf].map((c) => Number(c.toFixed(2)))).toEqual([0.5, 0.75, 1]);
  });
});
