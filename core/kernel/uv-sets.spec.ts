import { beforeAll, describe, expect, it } from 'vitest';
import { type Finish, PLAIN_VARIATION } from '../finish/finish';
import { mapSetsOf, pictureMapsName } from '../scene/material-pictures';
import type { MapSet } from '../finish/maps/texture-image';
import { prepareKey, type PreparedMesh } from '../geometry/prepare-mesh';
import { compose } from '../geometry/mat4';
import { authoredUvsKey } from '../geometry/mesh';
import { decodeSrgb } from '../image/tone';
import type { Sky } from '../sky/sky-map';
import { glowOver } from './emission-picture';
import { SceneMemory } from './scene-memory';
import { fullWhite, image, lookDown, onlySun, overhead, WHITE, type Texel } from './test-face';
import { darkSky, kernelModule, matt, quad } from './testing';

/**
 * A level square of 4 m whose pictures lie by two sets of coordinates: the first grows by a repeat over it, the second by three, and a
 * quarter turn on, so that its u runs along y.
 */

const NAME = pictureMapsName({ image: 'a'.repeat(64), normal: 'b'.repeat(64), sets: { normal: 1 }, widthM: 1, heightM: 1 });
const [FIRST, SECOND] = mapSetsOf(NAME) as [string, string];
const PLAIN: MapSet = { base: image(1, 1, [WHITE]), surface: undefined };

const square = quad([-2, -2, 0], [2, -2, 0], [2, 2, 0], [-2, 2, 0]);
let mesh: PreparedMesh;
beforeAll(() => {
  mesh = prepareKey(authoredUvsKey('q'), {
    ...square,
    pictureUvs: new Float32Array([0, 0, 1, 0, 1, 1, 0, 1]),
    furtherUvs: [new Float32Array([0, 3, 0, 0, 3, 0, 3, 3])],
  });
});

function scene(finish: Finish, sets: Readonly<Record<string, MapSet>>, sky: Sky = overhead): SceneMemory {
  const memory = new SceneMemory(kernelModule());
  memory.setSky(sky);
  const transform = compose([0, 0, 0], [], [1, 1, 1]);
  memory.setScene(
    { instances: [{ mesh: 'q', transform, finish, emissionScale: 1, lens: false }], lamps: [] },
    { mesh: () => mesh, maps: (name) => sets[name] },
  );
  memory.settings({ seed: 1, maxDepth: 1 });
  return memory;
}

const laid = (look: Partial<Finish> = {}): Finish => matt(1, { maps: NAME, widthM: 1, heightM: 1, ...look });

describe('pictures that lie by different coordinates', () => {
  it('are each looked up by their own', () => {
    const across = image(
      4,
      1,
      [60, 120, 180, 240].map((grey): Texel => [grey, grey, grey, 255]),
    );
    const hollows = image(
      3,
      1,
      [90, 150, 210].map((grey): Texel => [grey, grey, grey, 255]),
    );
    const memory = scene(laid(), { [FIRST]: { ...PLAIN, base: across }, [SECOND]: { ...PLAIN, base: hollows } });
    // In the middles of texels: four along x over 4 m, nine along y.
    for (let i = 0; i < 4; i++)
      for (let j = 0; j < 9; j++) {
        const seen = lookDown(memory, -2 + i + 0.5, -2 + ((j + 0.5) * 4) / 9, 16) / fullWhite;
        const expected = decodeSrgb([60, 120, 180, 240][i]! / 255) * decodeSrgb([90, 150, 210][j % 3]! / 255);
        expect(Math.abs(seen - expected)).toBeLessThan(0.004);
      }
  });

  it('tilt what they lie on along their own axes', () => {
    // Tilted by 0.3 rad along the picture's u, which is the square's y here.
    const tilted: Texel = [Math.round(((Math.sin(0.3) + 1.003922) / 2) * 255), 128, 255, 255];
    const sun = (deg: number, axis: 0 | 1) => {
      const [s, c] = [Math.sin((deg * Math.PI) / 180), Math.cos((deg * Math.PI) / 180)];
      return onlySun(axis === 0 ? [s, 0, c] : [0, s, c]);
    };
    const look = (axis: 0 | 1) =>
      lookDown(scene(laid(), { [FIRST]: PLAIN, [SECOND]: { ...PLAIN, surface: image(1, 1, [tilted]) } }, sun(40, axis)), 0.3, 0.4) / fullWhite; // prettier-ignore
    // Lambert's cosine law.
    expect(look(1)).toBeCloseTo(Math.cos((40 * Math.PI) / 180 - 0.3), 2);
    expect(look(0)).toBeCloseTo(Math.cos((40 * Math.PI) / 180) * Math.cos(0.3), 2);
  });

  it('leave grain and coat to the set that tells of them', () => {
    const untold: Texel = [255, 255, 255, 255];
    const grain: Texel = [255, 255, 128, 255];
    const brushed = laid({ metalness: 1, roughness: 0.4, anisotropy: 0.9, clearCoat: 0.5, clearCoatRoughness: 0.3 });
    const low = onlySun([0.5, 0.2, 0.84]);
    const bearings = (texel: Texel) => ({ ...PLAIN, coatNormal: image(1, 1, [texel]) });
    const look = (first: MapSet, second: MapSet) => lookDown(scene(brushed, { [FIRST]: first, [SECOND]: second }, low), 0.3, 0.4, 256);
    const bySecond = look(PLAIN, bearings(grain));
    // Nothing is told by either: as the finish itself has it.
    expect(look(bearings(untold), bearings(untold))).toBeCloseTo(look(PLAIN, PLAIN), 3);
    expect(look(bearings(untold), bearings(grain))).toBeCloseTo(bySecond, 3);
    expect(look(bearings(grain), bearings(untold)) / bySecond).not.toBeCloseTo(1, 1);
    // Along the second set's v, which runs down x, is along x: a quarter turn of the finish's own way by the first.
    const own = scene({ ...brushed, anisotropyDeg: 180 }, { [FIRST]: PLAIN, [SECOND]: PLAIN }, low);
    expect(Math.abs(bySecond / lookDown(own, 0.3, 0.4, 256) - 1)).toBeLessThan(0.02);
  });

  it('are seen to give light, and shed it, by the set that says where', () => {
    const lit = image(3, 1, [WHITE, [0, 0, 0, 255], [0, 0, 0, 255]]);
    const lamp = laid({ emissionCdM2: 100, baseColour: [0, 0, 0], emissionColour: [1, 1, 1] });
    const memory = scene(lamp, { [FIRST]: PLAIN, [SECOND]: { ...PLAIN, emission: lit } }, darkSky());
    const seen = [1, 3].map((ninths) => lookDown(memory, 0.1, -2 + (4 * ninths) / 18, 16));
    expect(seen.map((cd) => Number(cd.toFixed(1)))).toEqual([100, 0]);
    // Of the triangle below the diagonal a quarter lies in the left half, and 7 / 12 in the lower halves of its three strips.
    const part = { transform: compose([0, 0, 0], [], [1, 1, 1]), finish: lamp, emissionScale: 1, variation: PLAIN_VARIATION };
    const half = image(2, 1, [WHITE, [0, 0, 0, 255]]);
    expect([0, 1].map((set) => glowOver(mesh, part, { picture: half, set })(0)[0]).map((mean, set) => Math.abs(mean - [1 / 4, 7 / 12][set]!) < 0.04)).toEqual([true, true]); // prettier-ignore
  });

  it('lie by the first where a mesh has no other', () => {
    const half = image(2, 1, [[188, 188, 188, 255], WHITE]);
    const bare: PreparedMesh = { ...mesh };
    delete (bare as { furtherUvs?: unknown }).furtherUvs;
    mesh = bare;
    const memory = scene(laid(), { [FIRST]: PLAIN, [SECOND]: { ...PLAIN, base: half } });
    expect(lookDown(memory, -1, 0.3, 16) / fullWhite).toBeCloseTo(decodeSrgb(188 / 255), 2);
    expect(lookDown(memory, 1, 0.3, 16) / fullWhite).toBeCloseTo(1, 2);
  });
});
