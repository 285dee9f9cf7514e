import { describe, expect, it } from 'vitest';
import { finishOfMaterial } from './scene';
import { decodeMaps, encodeMaps, isMapSet } from '../finish/maps/generate';
import { composePictures, mapSetsOf, pictureMapsName, picturesOf } from './material-pictures';
import type { TextureImage } from '../finish/maps/texture-image';

const plain = (side: number, texel: readonly number[]): TextureImage => ({
  width: side,
  height: side,
  texels: Uint8Array.from({ length: side * side * 4 }, (_, i) => texel[i % 4]!),
});

describe('pictures that came with a model', () => {
  const [a, b, c] = ['a', 'b', 'c'].map((letter) => letter.repeat(64)) as [string, string, string];
  const size = { widthM: 2, heightM: 1 };

  it('are named by their hashes, and found again by the name', () => {
    expect(pictureMapsName({ image: a, ...size })).toBe(`image:${a}`);
    const name = pictureMapsName({ image: null, normal: b, occlusion: c, ...size });
    expect([...picturesOf(name)!]).toEqual([['normal', b], ['occlusion', c]]); // prettier-ignore
    expect(picturesOf('oak')).toBeUndefined();
  });

  it('are a map set for each set of coordinates that they lie by', () => {
    const name = pictureMapsName({
      image: a,
      normal: b,
      occlusion: c,
      emission: b,
      sets: { occlusion: 2, normal: 1, emission: 2 },
      ...size,
    });
    expect(mapSetsOf(name)).toEqual([`image:${a}`, `image:.${b}`, `image:...${c}.${b}`]);
    expect([...picturesOf(name)!.values()]).toEqual([a, b, c, b]);
    expect([mapSetsOf('oak'), mapSetsOf(`image:${a}`), mapSetsOf(null)]).toEqual([['oak'], [`image:${a}`], []]);
  });

  it('become maps of the largest one’s size, as glTF 2.0 packs them', async () => {
    const asked: string[] = [];
    const decode = (hash: string, fit?: { width: number }) => {
      asked.push(`${hash[0]!}${fit ? String(fit.width) : ''}`);
      const [r, g, blue] = { a: [200, 100, 50], b: [128, 90, 255], c: [0, 40, 220], d: [0, 9, 9] }[hash[0] as 'a'];
      return Promise.resolve(plain(fit?.width ?? (hash[0] === 'b' ? 4 : 2), [r!, g!, blue!, 255]));
    };
    const pictures = new Map([['base', a], ['normal', b], ['roughnessMetalness', c], ['occlusion', 'd']] as const); // prettier-ignore
    const { base, surface, packedFactors: packedFactors } = await composePictures(pictures, decode);
    expect(asked).toEqual(['a', 'b', 'c', 'd', 'a4', 'c4', 'd4']);
    expect([base.width, surface!.width, packedFactors!.height]).toEqual([4, 4, 4]);
    // No light in the hollows: half the colour.
    expect([...base.texels.subarray(0, 4)]).toEqual([100, 50, 25, 255]);
    expect([...surface!.texels.subarray(0, 4)]).toEqual([128, 90, 40, 128]);
    expect([...packedFactors!.texels.subarray(0, 4)]).toEqual([220, 255, 255, 255]);
    expect((await composePictures(new Map([['base', a]]), decode)).surface).toBeUndefined();
  });

  it('share one map for what is told in places: varnish and clearness, whole where there is no picture', async () => {
    const texels: Readonly<Record<string, number[]>> = { v: [10, 1, 1, 255], t: [20, 1, 1, 255], e: [7, 8, 9, 255] };
    const decode = (hash: string) => Promise.resolve({ width: 1, height: 1, texels: Uint8Array.from(texels[hash]!) });
    const whole = await composePictures(new Map([['clearCoat', 'v'], ['transmission', 't'], ['emission', 'e']]), decode); // prettier-ignore
    expect([...whole.packedFactors!.texels]).toEqual([255, 10, 20, 255]);
    expect([...whole.emission!.texels]).toEqual([7, 8, 9, 255]);
    expect([...whole.base.texels]).toEqual([255, 255, 255, 255]);
    expect((await composePictures(new Map([['emission', 'e']]), decode)).packedFactors).toBeUndefined();
  });

  it('keep what lies on a surface, how it is brushed, mirrors and scatters through, as its extensions pack them', async () => {
    const texels: Readonly<Record<string, number[]>> = {
      r: [1, 30, 3, 255], n: [140, 100, 255, 255], s: [1, 2, 3, 40], w: [4, 5, 6, 255], f: [50, 2, 3, 255], t: [1, 60, 3, 255],
      // Three across and four along, of half strength: 0.6 and 0.8 of 64 about the middle.
      b: [166, 178, 128, 255], m: [1, 2, 3, 70], c: [7, 8, 9, 255], d: [1, 2, 3, 80], k: [10, 11, 12, 255],
    }; // prettier-ignore
    const decode = (hash: string) => Promise.resolve({ width: 1, height: 1, texels: Uint8Array.from(texels[hash]!) });
    const pictures = new Map([
      ['clearCoatRoughness', 'r'], ['clearCoatNormal', 'n'], ['sheenRoughness', 's'], ['sheen', 'w'], ['film', 'f'], ['filmThickness', 't'], ['brushing', 'b'],
      ['specular', 'm'], ['specularColour', 'c'], ['diffuseTransmission', 'd'], ['diffuseTransmissionColour', 'k'],
    ] as const); // prettier-ignore
    const {
      filmAndCoat: layers,
      sheen: fibres,
      coatNormal: bearings,
      specular: mirror,
      diffuseTransmission: through,
      surface,
      packedFactors: packedFactors,
    } = await composePictures(pictures, decode);
    expect([...layers!.texels]).toEqual([60, 30, 50, 255]);
    expect([...fibres!.texels]).toEqual([4, 5, 6, 40]);
    expect([...bearings!.texels]).toEqual([140, 100, 166, 178]);
    expect([...mirror!.texels]).toEqual([7, 8, 9, 70]);
    expect([...through!.texels]).toEqual([10, 11, 12, 80]);
    expect([surface, packedFactors]).toEqual([undefined, undefined]);
    expect([...(await composePictures(new Map([['clearCoatNormal', 'n']] as const), decode)).coatNormal!.texels]).toEqual([
      140, 100, 255, 255,
    ]);
  });

  it('that were kept when metalness alone was told in places still say that', () => {
    const set = { size: 16, base: new Uint8Array(1024), surface: new Uint8Array(1024), packedFactors: new Uint8Array(1024).fill(90) };
    const { packedFactors } = decodeMaps(encodeMaps(set));
    expect([...packedFactors!.subarray(0, 8)]).toEqual([90, 255, 255, 255, 90, 255, 255, 255]);
  });

  it('are kept before what a name might say, and give way to a choice', () => {
    const material = { id: 'm', name: 'Oak', colour: [1, 1, 1] as [number, number, number], opacity: 1 };
    const texture = { image: a, ...size };
    expect(finishOfMaterial(new Map(), 's', { ...material, texture: null }).id).toBe('oak');
    expect(finishOfMaterial(new Map(), 's', { ...material, texture })).toMatchObject({ maps: `image:${a}`, widthM: 2, heightM: 1 });
    expect(finishOfMaterial(new Map(), 's', { ...material, texture: { ...texture, asLaid: true } })).toMatchObject({
      widthM: 1,
      heightM: 1,
    });
    const chosen = new Map([['assign/s/m', { finish: 'zinc', at: '2026-11-26' }]]);
    expect(finishOfMaterial(chosen, 's', { ...material, texture }).id).toBe('zinc');
  });

  it('may be three in a map set’s file', () => {
    const maps = {
      size: 16,
      base: new Uint8Array(1024).fill(1),
      surface: new Uint8Array(1024).fill(2),
      packedFactors: new Uint8Array(1024).map((_, i) => i),
    };
    expect(isMapSet(encodeMaps(maps))).toBe(true);
    expect(decodeMaps(encodeMaps(maps))).toEqual(maps);
    expect(isMapSet(encodeMaps(maps).subarray(0, -1))).toBe(false);
  });
});
