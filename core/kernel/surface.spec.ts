import { describe, expect, it } from 'vitest';
import { dressMesh } from '../geometry/dress';
import { compose } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import type { Finish } from '../finish/finish';
import type { Sky } from '../sky/sky-map';
import { waveAt, wavesOf } from '../finish/waves';
import type { TextureImage } from '../finish/maps/texture-image';
import { SceneMemory } from './scene-memory';
import { box, darkSky, kernelModule, matt, quad, testScene, uniformSky } from './testing';

/** What a ray finds: maps at true size, normals from maps, open texels, light through clear bodies. */

const SUN_LUX = 100_000;
const SUN_RADIUS = 0.00465;

/** A black sky with a sun of 100 klx in a direction. */
function onlySun(direction: readonly [number, number, number]): Sky {
  const radiance = SUN_LUX / (Math.PI * Math.sin(SUN_RADIUS) ** 2);
  return {
    ...darkSky(),
    sun: { direction: [...direction], normalLux: [SUN_LUX, SUN_LUX, SUN_LUX], radiance: [radiance, radiance, radiance], radiusRad: SUN_RADIUS },
  }; // prettier-ignore
}

type Texel = readonly [number, number, number, number];
const image = (width: number, height: number, texels: readonly Texel[]): TextureImage => ({
  width,
  height,
  texels: Uint8Array.from(texels.flat()),
});

/** A level square of 4 m about the origin, seen from above, with a map set. */
function mapped(
  finish: Finish,
  base: TextureImage,
  surface: TextureImage | undefined,
  sky: Sky,
  scale = 1,
  metal?: TextureImage,
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
    { mesh: () => dressMesh(mesh), maps: (name) => (name === 'test' ? { base, surface, metal } : undefined) },
  );
  scene.settings({ seed: 1, maxDepth: 1, clampCdM2: 0 });
  return scene;
}

/** Radiance that comes from a place on the square along a direction that rises by a slope, towards +x. */
const lookAlong = (scene: SceneMemory, x: number, y: number, slope: number, count = 64) => {
  const l = Math.hypot(1, slope);
  // From the side of -x, so that the ray goes on along +x.
  return scene.kernel.measureRadiance(scene.scene, x - 1 / slope, y, 1, 1 / l, 0, -slope / l, count, 1);
};

const lookDown = (scene: SceneMemory, x: number, y: number, count = 64) =>
  scene.kernel.measureRadiance(scene.scene, x, y, 1, 0, 0, -1, count, 1);

const WHITE: Texel = [255, 255, 255, 255];
const FLAT_NORMAL: Texel = [128, 128, 255, 255];
const overhead = onlySun([0, 0, 1]);
const fullWhite = SUN_LUX / Math.PI;

describe('maps', () => {
  // Row 0 at v = 0: along x first, then along y. sRGB values whose linear parts are 1, 0.5, 0.2140, 0.0331 (IEC 61966-2-1).
  const four = image(2, 2, [WHITE, [188, 188, 188, 255], [128, 128, 128, 255], [50, 50, 50, 255]]);
  const linear = [1, 0.5029, 0.2159, 0.0319];

  it('lie at their true size: u along x, v along y, each texel where it belongs, decoded from sRGB', () => {
    const scene = mapped(matt(1, { maps: 'test', widthM: 1, heightM: 1 }), four, undefined, overhead);
    const places = [[0.25, 0.25], [0.75, 0.25], [0.25, 0.75], [0.75, 0.75]] as const; // prettier-ignore
    places.forEach(([x, y], i) => {
      expect(lookDown(scene, x, y) / fullWhite).toBeCloseTo(linear[i]!, 2);
      expect(lookDown(scene, x - 1, y + 1) / fullWhite).toBeCloseTo(linear[i]!, 2);
    });
  });

  it('tell where a surface is metal', () => {
    // Of a white metal of roughness 1 less comes straight back than of a matt white (its lobe is wider than the half space of pi).
    const metal = image(2, 1, [[0, 0, 0, 0], WHITE]); // prettier-ignore
    const finish = matt(1, { maps: 'test', widthM: 2, heightM: 2, metalness: 1, ior: 1.5 });
    const scene = mapped(finish, image(1, 1, [WHITE]), undefined, overhead, 1, metal);
    const plain = (metalness: number) => lookDown(mapped({ ...finish, metalness }, image(1, 1, [WHITE]), undefined, overhead), 0.5, 0.5);
    expect(plain(0) / plain(1)).not.toBeCloseTo(1, 1);
    expect(lookDown(scene, 0.5, 0.5) / plain(0)).toBeCloseTo(1, 3);
    expect(lookDown(scene, -0.5, 0.5) / plain(1)).toBeCloseTo(1, 3);
  });

  it('keep their size on a surface whose placement scales it', () => {
    for (const scale of [0.001, 0.5, 3]) {
      const scene = mapped(matt(1, { maps: 'test', widthM: 1, heightM: 1 }), four, undefined, overhead, scale);
      expect(lookDown(scene, 0.75, 0.25) / fullWhite).toBeCloseTo(linear[1]!, 2);
      expect(lookDown(scene, -0.75, 1.75) / fullWhite).toBeCloseTo(linear[2]!, 2);
    }
  });

  it('begin at the world’s origin where the finish says so, wherever the element stands', () => {
    const mesh = quad([-2, -2, 0], [2, -2, 0], [2, 2, 0], [-2, 2, 0]);
    const finish = matt(1, { maps: 'test', widthM: 1, heightM: 1 });
    const scene = new SceneMemory(kernelModule());
    scene.setSky(overhead);
    const seen = (origin: Finish['origin'], x: number, y: number, at: [number, number, number], turn: number[] = []) => {
      const instance = { mesh: 'q', transform: compose(at, turn, []), finish: { ...finish, origin }, emissionScale: 1, lens: false };
      scene.setScene({ instances: [instance], lamps: [] }, { mesh: () => dressMesh(mesh), maps: () => ({ base: four, surface: undefined }) });
      scene.settings({ seed: 1, maxDepth: 1, clampCdM2: 0 });
      return lookDown(scene, x, y) / fullWhite;
    };
    for (const at of [[0, 0, 0], [0.37, 0.61, 0], [-1.2, 0.45, 0]] as [number, number, number][])
      [[0.25, 0.25], [0.75, 0.25], [0.25, 0.75], [0.75, 0.75]].forEach(([x, y], i) => { expect(seen('world', x!, y!, at)).toBeCloseTo(linear[i]!, 2); });
    expect(seen('element', 0.62, 0.86, [0.37, 0.61, 0])).toBeCloseTo(linear[0]!, 2);
    // Turned by a quarter, u runs along the world's y and v against its x.
    const quarter = [0, 0, Math.SQRT1_2, Math.SQRT1_2];
    expect(seen('world', -0.75, 0.25, [0.3, 0.2, 0], quarter)).toBeCloseTo(linear[2]!, 2);
  }); // prettier-ignore

  it('grow with their size and turn with their rotation', () => {
    const large = mapped(matt(1, { maps: 'test', widthM: 2, heightM: 2 }), four, undefined, overhead);
    expect(lookDown(large, 1.5, 0.5) / fullWhite).toBeCloseTo(linear[1]!, 2);
    const turned = mapped(matt(1, { maps: 'test', widthM: 1, heightM: 1, rotationDeg: 90 }), four, undefined, overhead);
    // After a quarter turn the map's u runs along y.
    expect(lookDown(turned, 0.25, 0.75) / fullWhite).toBeCloseTo(linear[3]!, 2);
    expect(lookDown(turned, -0.25, 0.75) / fullWhite).toBeCloseTo(linear[1]!, 2);
  });

  it('are blended between texels in linear light', () => {
    const scene = mapped(matt(1, { maps: 'test' }), image(2, 1, [WHITE, [0, 0, 0, 255]]), undefined, overhead);
    expect(lookDown(scene, 0.5, 0.5) / fullWhite).toBeCloseTo(0.5, 2);
  });

  it('multiply the base colour, as in glTF', () => {
    const scene = mapped(matt(0.5, { maps: 'test' }), image(1, 1, [[188, 188, 188, 255]]), undefined, overhead);
    expect(lookDown(scene, 0, 0) / fullWhite).toBeCloseTo(0.5 * 0.5029, 2);
  });

  it('bend the normal towards +u and +v by red and green', () => {
    const white = image(1, 1, [WHITE]);
    // Red 192 is a tilt of 2 * 192/255 - 1.004 = 0.502: 30 degrees towards +x.
    const east = image(1, 1, [[192, 128, 255, 255]]);
    const north = image(1, 1, [[128, 192, 255, 255]]);
    const cos = Math.sqrt(1 - 0.502 ** 2);
    expect(lookDown(mapped(matt(1, { maps: 'test' }), white, east, overhead), 0, 0) / fullWhite).toBeCloseTo(cos, 2);
    const low: readonly [number, number, number] = [0.5, 0, Math.sqrt(0.75)];
    expect(lookDown(mapped(matt(1, { maps: 'test' }), white, east, onlySun(low)), 0, 0) / fullWhite).toBeCloseTo(
      0.5 * 0.502 + Math.sqrt(0.75) * cos,
      2,
    );
    expect(lookDown(mapped(matt(1, { maps: 'test' }), white, north, onlySun([0, 0.5, Math.sqrt(0.75)])), 0, 0) / fullWhite).toBeCloseTo(
      0.5 * 0.502 + Math.sqrt(0.75) * cos,
      2,
    );
    // Without strength the map changes nothing; a flat map neither.
    expect(lookDown(mapped(matt(1, { maps: 'test', normalScale: 0 }), white, east, overhead), 0, 0) / fullWhite).toBeCloseTo(1, 2);
    expect(lookDown(mapped(matt(1, { maps: 'test' }), white, image(1, 1, [FLAT_NORMAL]), overhead), 0, 0) / fullWhite).toBeCloseTo(1, 2);
  });

  it('are left out while they are not known: the finish is plain', () => {
    const scene = mapped(matt(0.5, { maps: 'elsewhere' }), four, undefined, overhead);
    expect(lookDown(scene, 0.75, 0.75) / fullWhite).toBeCloseTo(0.5, 2);
  });
});

describe('open surfaces', () => {
  it('let through the share that they do not cover, by finish and by texel', () => {
    const half = mapped(matt(0, { opacity: 0.5 }), image(1, 1, [WHITE]), undefined, uniformSky(1000));
    // 4,096 draws of one half: four standard errors are 3.1 %.
    expect(Math.abs(lookDown(half, 0, 0, 4096) / 500 - 1)).toBeLessThan(0.032);
    const holed = mapped(matt(0, { maps: 'test' }), image(2, 1, [[255, 255, 255, 0], WHITE]), undefined, uniformSky(1000));
    expect(lookDown(holed, 0.25, 0.5)).toBeCloseTo(1000, 0);
    expect(lookDown(holed, 0.75, 0.5)).toBeCloseTo(0, 3);
  });

  it('cast the shadow of what they cover', () => {
    const screen = testScene(
      [{ mesh: quad([-9, -9, 2], [9, -9, 2], [9, 9, 2], [-9, 9, 2]), finish: matt(0, { opacity: 0.25 }) }],
      onlySun([0, 0, 1]),
    );
    const lux = screen.kernel.measureIlluminance(screen.scene, 0, 0, 0, 0, 0, 1, 4096, 3);
    expect(Math.abs(lux / (SUN_LUX * 0.75) - 1)).toBeLessThan(0.03);
  });
});

describe('clear solids', () => {
  it('bend light as Snell says: the least deviation of a prism of 60 degrees with n = 1.5 is 37.18 degrees', () => {
    const deviation = 2 * Math.asin(1.5 * Math.sin(Math.PI / 6)) - Math.PI / 3;
    expect((deviation * 180) / Math.PI).toBeCloseTo(37.18, 2);
    // An upright prism, apex along +y; the ray travels along x, tilted up by half of the deviation, and leaves tilted down by it.
    const h = Math.sqrt(3) / 2;
    const corners = [[-0.5, 0], [0.5, 0], [0, h]] as const; // prettier-ignore
    const positions = [-4, 4].flatMap((z) => corners.flatMap(([x, y]) => [x, y, z]));
    const prism: Mesh = {
      positions: new Float32Array(positions),
      indices: new Uint32Array([0, 2, 1, 3, 4, 5, 0, 1, 4, 0, 4, 3, 1, 2, 5, 1, 5, 4, 2, 0, 3, 2, 3, 5]),
    };
    const glass = matt(1, { transmission: 1, ior: 1.5, roughness: 0, body: 'solid' });
    const half = deviation / 2;
    const radianceBeyond = (angle: number) => {
      const [dx, dy] = [Math.cos(angle), Math.sin(angle)];
      // A lit card of 2 x 0.2 m, 10 m away in that direction, facing the prism.
      const at = (side: number, z: number) => [10 * dx - dy * side, h / 2 + 10 * dy + dx * side, z];
      const card = quad(at(-0.1, -1), at(0.1, -1), at(0.1, 1), at(-0.1, 1));
      const scene = testScene([{ mesh: prism, finish: glass }, { mesh: card, finish: matt(1, { emissionCdM2: 1000 }) }], darkSky()); // prettier-ignore
      scene.settings({ seed: 1, maxDepth: 8, clampCdM2: 0 });
      const [ox, oy] = [-Math.cos(half) * 3, -Math.sin(half) * 3];
      // Through the middle of the prism's entry face, symmetric about it.
      const entry = [-0.25, h / 2] as const;
      return scene.kernel.measureRadiance(scene.scene, entry[0] + ox, entry[1] + oy, 0, Math.cos(half), Math.sin(half), 0, 4096, 1);
    };
    // Fresnel at both faces, by the formula itself: incidence 48.59 degrees, 30 degrees inside.
    const [ci, ct] = [Math.cos(Math.asin(0.75)), Math.cos(Math.PI / 6)];
    const rs = ((ci - 1.5 * ct) / (ci + 1.5 * ct)) ** 2;
    const rp = ((1.5 * ci - ct) / (1.5 * ci + ct)) ** 2;
    const passed = (1 - (rs + rp) / 2) ** 2;
    expect(Math.abs(radianceBeyond(-half) / (1000 * passed) - 1)).toBeLessThan(0.03);
    expect(radianceBeyond(-half + 0.05)).toBeLessThan(5);
    expect(radianceBeyond(half)).toBeLessThan(5);
  });

  it('dim what passes by Beer and Lambert along the way inside', () => {
    const slab = (depth: number) =>
      testScene(
        [
          {
            mesh: {
              positions: new Float32Array([-3, -3, 0, 3, -3, 0, 3, 3, 0, -3, 3, 0, -3, -3, -depth, 3, -3, -depth, 3, 3, -depth, -3, 3, -depth]),
              indices: new Uint32Array([0, 1, 2, 0, 2, 3, 4, 6, 5, 4, 7, 6, 0, 4, 5, 0, 5, 1, 1, 5, 6, 1, 6, 2, 2, 6, 7, 2, 7, 3, 3, 7, 4, 3, 4, 0]),
            },
            // Index 1: no reflection, so only the way inside counts. sRGB 188 is one half of the light in 100 mm.
            finish: matt(1, { transmission: 1, ior: 1.0001, roughness: 0, body: 'solid', attenuationColour: [0.7354, 0.7354, 0.7354], attenuationDistanceM: 0.1 }),
          },
        ],
        uniformSky(1000),
      ); // prettier-ignore
    expect(lookDown(slab(0.1), 0, 0, 256)).toBeCloseTo(500, -1);
    expect(lookDown(slab(0.2), 0, 0, 256)).toBeCloseTo(250, -1);
  });
});

describe('a scene that wears something else', () => {
  it('is rendered like one that was placed anew: matt, clear, lit and varied', () => {
    const floor = quad([-2, -2, 0], [2, -2, 0], [2, 2, 0], [-2, 2, 0]);
    const cover = quad([-2, -2, 1], [2, -2, 1], [2, 2, 1], [-2, 2, 1]);
    const meshes = new Map([['f', dressMesh(floor)], ['c', dressMesh(cover)]]); // prettier-ignore
    const of = (worn: Finish, under: Finish) => ({
      instances: [['c', worn], ['f', under]].map(([mesh, finish]) => ({ mesh: mesh as string, transform: compose([0, 0, 0], [], []), finish: finish as Finish, emissionScale: 1, lens: false })),
      lamps: [],
    }); // prettier-ignore
    const assets = { mesh: (key: string) => meshes.get(key), maps: () => undefined };
    const fresh = (worn: Finish, under: Finish) => {
      const scene = new SceneMemory(kernelModule());
      scene.setSky(uniformSky(500));
      scene.setScene(of(worn, under), assets);
      return scene;
    };
    const seen = (scene: SceneMemory) => {
      scene.settings({ seed: 7, maxDepth: 4, clampCdM2: 0 });
      return scene.kernel.measureRadiance(scene.scene, 0.3, 0.2, 3, 0, 0, -1, 256, 5);
    };
    const changing = fresh(matt(0.5), matt(0.2));
    const used = changing.memory.usedBytes;
    for (const [worn, under] of [
      [matt(0.3, { id: 'clear', transmission: 1, ior: 1.5, roughness: 0 }), matt(0.8, { id: 'light' })],
      [matt(0.5, { id: 'lamp', emissionCdM2: 900 }), matt(0.1)],
      [matt(0.9, { id: 'holed', opacity: 0.5 }), matt(0.5, { id: 'lit', emissionCdM2: 300 })],
      [matt(0.5), matt(0.2)],
    ] as const) {
      changing.setScene(of(worn, under), assets);
      expect(seen(changing)).toBe(seen(fresh(worn, under)));
    }
    // Nothing is left lying about.
    expect(changing.memory.usedBytes).toBe(used);
  });
});

describe('relief', () => {
  /** One step a repeat of 2 m: high and white over the first half, 0.2 m lower and grey over the second. Level normals. */
  const N = 256;
  const step = (high: number, low: number): [TextureImage, TextureImage] => {
    const texels = (of: (x: number) => Texel) =>
      image(
        N,
        1,
        Array.from({ length: N }, (_, x) => of(x)),
      );
    return [
      texels((x) => (x < N / 2 ? [high, high, high, 255] : [low, low, low, 255])),
      texels((x) => [128, 128, 255, x < N / 2 ? 255 : 0]),
    ];
  };
  const stepped = (sky: Sky, high = 255, low = 188, reliefM = 0.2, maxDepth = 1) => {
    const scene = mapped(matt(1, { maps: 'test', widthM: 2, heightM: 2, reliefM }), ...step(high, low), sky);
    scene.settings({ seed: 1, maxDepth, clampCdM2: 0 });
    return scene;
  };
  const low = 0.5029;

  it('moves what is seen by the depth over the slope of view, and hides what lies behind', () => {
    const scene = stepped(overhead);
    const flat = stepped(overhead, 255, 188, 0);
    // Going towards +x at 45 degrees, the ray into the low half meets the ground 0.2 m farther on.
    for (const [x, seen] of [
      [-0.5, low],
      [0.5, 1],
      [1.02, low],
      [1.7, low],
    ] as const) {
      expect(lookAlong(scene, x, 0, 1) / fullWhite).toBeCloseTo(seen, 2);
    }
    // The next step’s upright side stands in the way; its colours run into each other over one texel.
    expect(lookAlong(scene, 1.85, 0, 1) / fullWhite).toBeGreaterThan(low * 1.2);
    // On the flat the border stays where the map has it.
    expect(lookAlong(flat, 1.85, 0, 1) / fullWhite).toBeCloseTo(low, 2);
    // Straight down nothing moves.
    for (const x of [0.5, 1.1, 1.9]) expect(lookDown(scene, x, 0) / fullWhite).toBeCloseTo(x < 1 ? 1 : low, 2);
  });

  it('throws shadows into its hollows as long as the sun’s slope makes them', () => {
    // The sun over -x at a height of 45 degrees: the step at x = 1 shades 0.2 m of the ground behind it.
    const slanting = stepped(onlySun([-Math.SQRT1_2, 0, Math.SQRT1_2]));
    const lit = (x: number) => lookDown(slanting, x, 0) / fullWhite / Math.SQRT1_2;
    expect(lit(0.5)).toBeCloseTo(1, 2);
    for (const x of [1.03, 1.1, 1.18]) expect(lit(x)).toBe(0);
    for (const x of [1.22, 1.5, 1.9]) expect(lit(x)).toBeCloseTo(low, 2);
    // From the other side the ground is lit up to the step.
    const other = stepped(onlySun([Math.SQRT1_2, 0, Math.SQRT1_2]));
    expect(lookDown(other, 1.1, 0) / fullWhite / Math.SQRT1_2).toBeCloseTo(low, 2);
    expect(lookDown(other, 1.9, 0)).toBe(0);
  });

  it('sends light to and fro and loses little of it: white under an even sky stays near the sky’s own', () => {
    const scene = stepped(uniformSky(100), 255, 255, 0.2, 40);
    for (const x of [0.5, 1.04, 1.5]) {
      const seen = lookDown(scene, x, 0, 4000) / 100;
      expect(seen).toBeGreaterThan(0.93);
      expect(seen).toBeLessThan(1.02);
    }
    // Black on top: what stands low at the foot of the step sees less of the sky; half of it at the very foot.
    const foot = (x: number) => lookDown(stepped(uniformSky(100), 0, 255, 0.2, 1), x, 0, 4000) / 100;
    expect(foot(1.5)).toBeGreaterThan(0.93);
    // A point d from a long wall of height h misses (1 - d / hypot(d, h)) / 2 of the cosine-weighted sky.
    for (const d of [0.05, 0.1, 0.2]) expect(foot(1 + d)).toBeCloseTo(1 - (1 - d / Math.hypot(d, 0.2)) / 2, 1);
  });
});

describe('waves', () => {
  it('bend the normals of level faces by their slopes at the scene’s time, and leave walls alone', () => {
    const sea = { heightM: 0.3, lengthM: 2, towardsDeg: 20 };
    const table = wavesOf(sea);
    const scene = mapped(matt(1, { waves: sea }), image(1, 1, [WHITE]), undefined, overhead);
    for (const time of [0, 4.5])
      for (const [x, y] of [[0.2, 0.3], [-1.1, 0.7], [1.5, -1.6]] as const) {
        scene.setTime(time);
        const { alongX, alongY } = waveAt(table, x, y, time);
        // Matt white under the sun overhead shows the cosine of its tilt.
        expect(lookDown(scene, x, y) / fullWhite).toBeCloseTo(1 / Math.hypot(alongX, alongY, 1), 2);
      }
    const wall = testScene([{ mesh: quad([-2, 0, -2], [2, 0, -2], [2, 0, 2], [-2, 0, 2]), finish: matt(1, { waves: sea }) }], onlySun([0, -1, 0]));
    wall.settings({ seed: 1, maxDepth: 1, clampCdM2: 0 });
    expect(wall.kernel.measureRadiance(wall.scene, 0.3, -1, 0.4, 0, 1, 0, 64, 1) / fullWhite).toBeCloseTo(1, 2);
  }); // prettier-ignore
});

describe('a brushed surface', () => {
  it('spreads what it mirrors across its grain, and not along it, wherever the maps and the finish turn it', () => {
    const tilted = (x: number, y: number) => {
      const l = Math.hypot(x, y, 1);
      return onlySun([x / l, y / l, 1 / l]);
    };
    const shine = (sky: Sky, more: Partial<Finish> = {}) =>
      lookDown(
        mapped(matt(1, { metalness: 1, roughness: 0.2, ior: 1.5, anisotropy: 0.8, ...more }), image(1, 1, [WHITE]), undefined, sky),
        0.3,
        0.2,
      );
    const [acrossX, acrossY] = [tilted(0.5, 0), tilted(0, 0.5)];
    expect(shine(acrossX)).toBeGreaterThan(shine(acrossY) * 20);
    for (const turned of [{ anisotropyDeg: 90 }, { rotationDeg: 90 }])
      expect(shine(acrossY, turned)).toBeGreaterThan(shine(acrossX, turned) * 20);
    expect(shine(acrossY, { anisotropyDeg: 90, rotationDeg: 90 })).toBeLessThan(shine(acrossX) / 20);
    expect(shine(acrossX, { anisotropy: 0 }) / shine(acrossY, { anisotropy: 0 })).toBeCloseTo(1, 2);
  });
});

describe('rounded edges', () => {
  const block = box([-1, -1, 0], [1, 1, 1]);
  const top = (edgeRadiusM: number, fromEdge: number, sky = overhead) => {
    const scene = testScene([{ mesh: block, finish: matt(1, { edgeRadiusM }) }], sky);
    scene.settings({ seed: 1, maxDepth: 1, clampCdM2: 0 });
    return scene.kernel.measureRadiance(scene.scene, 1 - fromEdge, 0.3, 2, 0, 0, -1, 64, 1) / fullWhite;
  };

  it('turn the normal within their radius, half way to the other face at the edge', () => {
    // The sum of the face's normal and a part of the other's: 0.25 of it at half the radius.
    expect(top(0.02, 0.01)).toBeCloseTo(0.75 / Math.hypot(0.25, 0.75), 2);
    expect(top(0.02, 0.0002)).toBeCloseTo(Math.SQRT1_2, 1);
    expect(top(0.02, 0.021)).toBeCloseTo(1, 2);
    expect(top(0, 0.001)).toBeCloseTo(1, 2);
  });

  it('catch light that the face itself would not', () => {
    const low = onlySun([Math.cos(0.02), 0, Math.sin(0.02)]);
    expect(top(0.02, 0.004, low)).toBeGreaterThan(top(0, 0.004, low) * 10);
  });
});
