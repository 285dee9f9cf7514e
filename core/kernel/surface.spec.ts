import { describe, expect, it } from 'vitest';
import { prepareMesh } from '../geometry/prepare-mesh';
import { compose } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import type { Finish } from '../finish/finish';
import { decodeSrgb } from '../image/tone';
import { cameraFrame } from '../camera/camera';
import type { Sky } from '../sky/sky-map';
import { waveAt, wavesOf } from '../finish/waves';
import { SceneMemory } from './scene-memory';
import { SUN_LUX, onlySun, image, mapped, lookAlong, lookDown, WHITE, FLAT_NORMAL, overhead, fullWhite, type Texel } from './test-face';
import { box, darkSky, kernelModule, matt, quad, testScene, uniformSky } from './testing';

/** What a ray finds: maps at true size, normals from maps, open texels, light through clear bodies. */

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

  it('have any number of texels each way', () => {
    for (const [width, height] of [
      [5, 3],
      [7, 9],
      [12, 1],
      [1, 6],
    ] as const) {
      const grey = (i: number) => 40 + ((i * 37) % 200);
      const texels = Array.from({ length: width * height }, (_, i): Texel => [grey(i), grey(i), grey(i), 255]);
      const scene = mapped(matt(1, { maps: 'test', widthM: 1, heightM: 1 }), image(width, height, texels), undefined, overhead);
      for (let i = 0; i < texels.length; i++) {
        const seen = lookDown(scene, ((i % width) + 0.5) / width, (Math.floor(i / width) + 0.5) / height, 16) / fullWhite;
        expect(seen).toBeCloseTo(decodeSrgb(grey(i) / 255), 2);
      }
    }
  });

  it('tell where a surface is metal', () => {
    // Of a white metal of roughness 1 less comes straight back than of a matt white (its lobe is wider than the half space of pi).
    const metal = image(2, 1, [[0, 0, 0, 0], WHITE]); // prettier-ignore
    const finish = matt(1, { maps: 'test', widthM: 2, heightM: 2, metalness: 1, ior: 1.5 });
    const scene = mapped(finish, image(1, 1, [WHITE]), undefined, overhead, 1, { packedFactors: metal });
    const plain = (metalness: number) => lookDown(mapped({ ...finish, metalness }, image(1, 1, [WHITE]), undefined, overhead), 0.5, 0.5);
    expect(plain(0) / plain(1)).not.toBeCloseTo(1, 1);
    expect(lookDown(scene, 0.5, 0.5) / plain(0)).toBeCloseTo(1, 3);
    expect(lookDown(scene, -0.5, 0.5) / plain(1)).toBeCloseTo(1, 3);
  });

  it('tell where a surface is varnished and clear, each by its own share', () => {
    const finish = matt(0.5, { maps: 'test', widthM: 2, heightM: 2, ior: 1.5, roughness: 0.5 });
    const half = (texel: Texel) => image(2, 1, [texel, WHITE]);
    const seen = (f: Finish, shares?: Texel) =>
      [0.5, -0.5].map((x) =>
        lookDown(mapped(f, image(1, 1, [WHITE]), undefined, overhead, 1, shares && { packedFactors: half(shares) }), x, 0.5),
      );
    const cases: [Partial<Finish>, Texel][] = [
      [{ clearCoat: 1 }, [255, 0, 255, 255]],
      [{ transmission: 1 }, [255, 255, 0, 255]],
    ];
    for (const [layer, none] of cases) {
      const [without] = seen(finish);
      const [, withAll] = seen({ ...finish, ...layer });
      expect(withAll! / without!).not.toBeCloseTo(1, 2);
      const [left, right] = seen({ ...finish, ...layer }, none);
      expect([left! / without!, right! / withAll!].map((r) => r.toFixed(2))).toEqual(['1.00', '1.00']);
    }
  });

  it('tell roughness of coat and of sheen, a film and its thickness, what is mirrored and scattered through, each by its own channel', () => {
    const plain = matt(0.5, { maps: 'test', widthM: 2, heightM: 2, ior: 1.5, roughness: 0.5 });
    const seen = (finish: Finish, beside: Parameters<typeof mapped>[5], x: number) =>
      lookDown(mapped(finish, image(1, 1, [WHITE]), undefined, overhead, 1, beside), x, 0.5);
    const coated = { clearCoat: 1, clearCoatRoughness: 0.8 };
    const woolly = { sheen: 1, sheenRoughness: 1 };
    const filmed = { film: 1, filmIor: 2, filmNm: 500, filmLeastNm: 100 };
    // The kind of map, what its texel is on the left, and what the finish would be without a map there and on the right.
    const cases: ['filmAndCoat' | 'sheen' | 'specular' | 'diffuseTransmission', Texel, Partial<Finish>, Partial<Finish>][] = [
      ['filmAndCoat', [255, 128, 255, 255], coated, { clearCoatRoughness: 0.8 * (128 / 255) }],
      ['sheen', [255, 255, 255, 128], woolly, { sheenRoughness: 128 / 255 }],
      ['filmAndCoat', [255, 255, 128, 255], filmed, { film: 128 / 255 }],
      ['filmAndCoat', [0, 255, 255, 255], filmed, { filmNm: 100 }],
      // sRGB 188 is half of the light (IEC 61966-2-1); what lies under sheen is hidden by its strongest colour.
      ['sheen', [188, 0, 0, 255], { sheen: 1, sheenRoughness: 0.5 }, { sheenColour: [188 / 255, 0, 0] }],
      ['specular', [255, 255, 255, 51], { roughness: 0.3 }, { specular: 0.2 }],
      ['specular', [188, 188, 188, 255], { roughness: 0.3 }, { specularColour: [188 / 255, 188 / 255, 188 / 255] }],
      [
        'diffuseTransmission',
        [255, 255, 255, 51],
        { diffuseTransmission: 1, diffuseTransmissionColour: [1, 1, 1] },
        { diffuseTransmission: 0.2 },
      ],
    ];
    for (const [kind, texel, whole, left] of cases) {
      const finish = { ...plain, ...whole };
      const beside = { [kind]: image(2, 1, [texel, WHITE]) };
      const [alike, other] = [seen(finish, undefined, 0.5), seen({ ...finish, ...left }, undefined, 0.5)];
      expect(Math.abs(other / alike - 1), JSON.stringify(left)).toBeGreaterThan(0.003);
      expect([seen(finish, beside, -0.5) / alike, seen(finish, beside, 0.5) / other].map((r) => r.toFixed(3)), JSON.stringify(left)).toEqual(['1.000', '1.000']); // prettier-ignore
    }
    // Seen from behind: in its own colour, which need not be that of the base.
    const shade = matt(0.2, { maps: 'test', widthM: 2, heightM: 2, diffuseTransmission: 1, diffuseTransmissionColour: [1, 1, 1] });
    const scene = mapped(shade, image(1, 1, [WHITE]), undefined, onlySun([0, 0, -1]), 1, { diffuseTransmission: image(2, 1, [[188, 188, 188, 255], WHITE]) }); // prettier-ignore
    expect(lookDown(scene, -0.5, 0.5) / fullWhite).toBeCloseTo(1, 2);
    expect(lookDown(scene, 0.5, 0.5) / fullWhite).toBeCloseTo(0.5029, 2);
  });

  it('lay the coat by normals of its own, or by those under it as far as it follows them', () => {
    const sloping = 0.2;
    const tilted: Texel = [Math.round(((Math.sin(sloping) + 1.003922) / 2) * 255), 128, 255, 255];
    const black = matt(0, { maps: 'test', widthM: 1, heightM: 1, clearCoat: 1, clearCoatRoughness: 0.2 });
    const even = (texel: Texel) => image(1, 1, [texel]);
    /** Brightest seen straight down, by the sun's way from upright towards +x, degrees. */
    const mirrorsSunFrom = (finish: Finish, surface: Texel, bearings?: Texel) => {
      const light = Array.from({ length: 31 }, (_, deg) => {
        const sun = onlySun([Math.sin((deg * Math.PI) / 180), 0, Math.cos((deg * Math.PI) / 180)]);
        return lookDown(mapped(finish, even(WHITE), even(surface), sun, 1, bearings && { coatNormal: even(bearings) }), 0.3, 0.3, 256);
      });
      return light.indexOf(Math.max(...light));
    };
    const tiltDeg = (sloping * 2 * 180) / Math.PI;
    expect(Math.abs(mirrorsSunFrom(black, tilted) - tiltDeg)).toBeLessThan(2.5);
    expect(mirrorsSunFrom({ ...black, clearCoatNormal: 0 }, tilted)).toBeLessThan(2);
    const own: Texel = [...(tilted.slice(0, 2) as [number, number]), 255, 128];
    expect(Math.abs(mirrorsSunFrom(black, FLAT_NORMAL, own) - tiltDeg)).toBeLessThan(2.5);
    expect(mirrorsSunFrom({ ...black, clearCoatNormal: 0 }, FLAT_NORMAL, own)).toBeLessThan(2);
  });

  it('lay the grain by its own directions, as strongly as they are long', () => {
    const steel = matt(0.9, { maps: 'test', widthM: 2, heightM: 2, metalness: 1, roughness: 0.3, anisotropy: 0.9 });
    const slant = onlySun([0, Math.sin(0.5), Math.cos(0.5)]);
    const seen = (finish: Finish, texel?: Texel) => lookDown(mapped(finish, image(1, 1, [WHITE]), undefined, slant, 1, texel && { coatNormal: image(1, 1, [texel]) }), 0.5, 0.5, 256); // prettier-ignore
    const along = seen(steel);
    const across = seen({ ...steel, anisotropyDeg: 90 });
    expect(Math.max(along, across) / Math.min(along, across)).toBeGreaterThan(1.5);
    expect(seen(steel, [128, 128, 255, 128]) / along).toBeCloseTo(1, 1);
    expect(seen(steel, [128, 128, 128, 255]) / across).toBeCloseTo(1, 1);
    // And by both turns together.
    expect(seen({ ...steel, anisotropyDeg: 90 }, [128, 128, 128, 255]) / along).toBeCloseTo(1, 1);
    expect(seen(steel, [128, 128, 128, 128]) / seen({ ...steel, anisotropy: 0 })).toBeCloseTo(1, 2);
  });

  it('colour the light that a surface gives, beside and over its own', () => {
    // sRGB 188 is half of the light (IEC 61966-2-1).
    const glow = image(2, 1, [WHITE, [188, 0, 0, 255]]);
    const finish = matt(0, { maps: 'test', widthM: 2, heightM: 2, emissionCdM2: 400, emissionColour: [1, 1, 1] });
    const scene = mapped(finish, image(1, 1, [WHITE]), undefined, overhead, 1, { emission: glow });
    expect(lookDown(scene, 0.5, 0.5)).toBeCloseTo(400, 3);
    expect(lookDown(scene, -0.5, 0.5)).toBeCloseTo(400 * 0.5029 * 0.2126, 1);
    // Without a colour of its own its light has that of the base, and a black one gives none.
    expect(lookDown(mapped({ ...finish, emissionColour: null }, image(1, 1, [WHITE]), undefined, overhead), 0.5, 0.5)).toBe(0);
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
      scene.setScene({ instances: [instance], lamps: [] }, { mesh: () => prepareMesh(mesh), maps: () => ({ base: four, surface: undefined }) });
      scene.settings({ seed: 1, maxDepth: 1 });
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

  it('let no light through from below, however they bend the normal', () => {
    const tilted: Texel = [255, 128, 180, 255];
    for (const deg of [-3, -20, -40]) {
      const sun = onlySun([Math.cos((deg * Math.PI) / 180), 0, Math.sin((deg * Math.PI) / 180)]);
      expect(lookDown(mapped(matt(1, { maps: 'test' }), image(1, 1, [WHITE]), image(1, 1, [tilted]), sun), 0.5, 0.5, 1024)).toBe(0);
    }
  });

  it('gain no light where they bend the normal away from the eye', () => {
    for (const roughness of [0.1, 0.3]) {
      const finish = matt(1, { maps: 'test', metalness: 1, ior: 1.5, roughness });
      for (const [red, blue] of [[255, 180], [230, 200], [200, 230]] as const)
        for (const slope of [0.1, 0.3, 1]) {
          const scene = mapped(finish, image(1, 1, [WHITE]), image(1, 1, [[red, 128, blue, 255]]), uniformSky(1000));
          expect(lookAlong(scene, 0, 0, slope, 16384)).toBeLessThan(1010);
        }
    } // prettier-ignore
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
      scene.settings({ seed: 1, maxDepth: 8 });
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

describe('a scene that has something else', () => {
  it('is rendered like one that was placed anew: matt, clear, lit and varied', () => {
    const floor = quad([-2, -2, 0], [2, -2, 0], [2, 2, 0], [-2, 2, 0]);
    const cover = quad([-2, -2, 1], [2, -2, 1], [2, 2, 1], [-2, 2, 1]);
    const meshes = new Map([['f', prepareMesh(floor)], ['c', prepareMesh(cover)]]); // prettier-ignore
    const of = (assigned: Finish, under: Finish) => ({
      instances: [['c', assigned], ['f', under]].map(([mesh, finish]) => ({ mesh: mesh as string, transform: compose([0, 0, 0], [], []), finish: finish as Finish, emissionScale: 1, lens: false })),
      lamps: [],
    }); // prettier-ignore
    const assets = { mesh: (key: string) => meshes.get(key), maps: () => undefined };
    const fresh = (assigned: Finish, under: Finish) => {
      const scene = new SceneMemory(kernelModule());
      scene.setSky(uniformSky(500));
      scene.setScene(of(assigned, under), assets);
      return scene;
    };
    const seen = (scene: SceneMemory) => {
      scene.settings({ seed: 7, maxDepth: 4 });
      return scene.kernel.measureRadiance(scene.scene, 0.3, 0.2, 3, 0, 0, -1, 256, 5);
    };
    const changing = fresh(matt(0.5), matt(0.2));
    const used = changing.memory.usedBytes;
    for (const [assigned, under] of [
      [matt(0.3, { id: 'clear', transmission: 1, ior: 1.5, roughness: 0 }), matt(0.8, { id: 'light' })],
      [matt(0.5, { id: 'lamp', emissionCdM2: 900 }), matt(0.1)],
      [matt(0.9, { id: 'holed', opacity: 0.5 }), matt(0.5, { id: 'lit', emissionCdM2: 300 })],
      [matt(0.5), matt(0.2)],
    ] as const) {
      changing.setScene(of(assigned, under), assets);
      expect(seen(changing)).toBe(seen(fresh(assigned, under)));
    }
    // Nothing is left lying about.
    expect(changing.memory.usedBytes).toBe(used);
  });
});

describe('waves', () => {
  it('bend the normals of level faces by their slopes at the scene’s time, and leave walls alone', () => {
    const sea = { heightM: 0.3, lengthM: 2, towardsDeg: 20, windMs: 0 };
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
    wall.settings({ seed: 1, maxDepth: 1 });
    expect(wall.kernel.measureRadiance(wall.scene, 0.3, -1, 0.4, 0, 1, 0, 64, 1) / fullWhite).toBeCloseTo(1, 2);
  }); // prettier-ignore

  it('are exact to the frame: a moment is the same whenever it is rendered, and the next frame another', () => {
    const water = matt(0, { ior: 1.33, roughness: 0.1, waves: { heightM: 0.3, lengthM: 2, towardsDeg: 20, windMs: 0 } });
    const framesOf = (order: readonly number[]) => {
      const scene = testScene([{ mesh: quad([-9, -9, 0], [9, -9, 0], [9, 9, 0], [-9, 9, 0]), finish: water }], overhead);
      scene.settings({ seed: 1, maxDepth: 2 });
      scene.camera(cameraFrame({ position: [0, -6, 3], target: [0, 0, 0], focalMm: 30 }, 2));
      const frames = order.map((frame) => {
        scene.setTime(frame / 25);
        scene.setFilm(32, 16);
        scene.kernel.renderTile(scene.scene, 0, 0, 32, 16, 0, 2);
        return [frame, [...scene.filmData()].join()] as const;
      });
      return new Map(frames);
    };
    const [forth, back] = [framesOf([0, 1, 2, 3, 100]), framesOf([100, 3, 2, 1, 0])];
    for (const [frame, picture] of forth) expect(back.get(frame)).toBe(picture);
    expect(new Set(forth.values()).size).toBe(5);
  });
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
    scene.settings({ seed: 1, maxDepth: 1 });
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
