import { describe, expect, it } from 'vitest';
import { random } from '../random';
import { encodeNormalXy } from '../finish/maps/relief';
import { composeMaps, normalStyle } from './compose-maps';
import { roleOf, sortMapFiles, type MapRole } from './map-roles';
import { blurred } from './picture';

describe('the names of a map set', () => {
  it('tell what each picture is for, by several habits', () => {
    const habits: Readonly<Record<string, MapRole | undefined>> = {
      'Oak_BaseColor.png': 'base', 'oak-planks-2k-diff.jpg': 'base', 'oak_Color_1K-JPG.jpg': 'base', 'wall_albedo.tif': 'base', 'tiles_d.png': 'base',
      'Oak_Normal.png': 'normal', 'oak_nor_gl_4k.png': 'normal-gl', 'Oak_NormalDX.jpg': 'normal-dx', 'oak_normal_opengl.png': 'normal-gl', 'brick_n.png': 'normal',
      'Oak_Roughness.png': 'roughness', 'oak_rough_2k.jpg': 'roughness', 'set/inner/Wall_Gloss.png': 'glossiness', 'floor_smoothness.png': 'glossiness',
      'steel_Metalness.png': 'metalness', 'steel_metallic.png': 'metalness', 'oak_disp_2k.png': 'height', 'oak_Displacement.tif': 'height', 'stone_height.png': 'height',
      'oak_AO.jpg': 'occlusion', 'oak_AmbientOcclusion.png': 'occlusion', 'leaf_Opacity.png': 'opacity', 'crate_arm_2k.jpg': 'packed', 'crate_ORM.png': 'packed',
      'holiday.jpg': undefined, 'normandy beach.jpg': undefined, 'diary.png': undefined,
    }; // prettier-ignore
    for (const [name, role] of Object.entries(habits)) expect([name, roleOf(name)]).toEqual([name, role]);
  });

  it('are sorted once each; a lone picture without a known word is the colour', () => {
    const { roles, left } = sortMapFiles(['w_col.png', 'w_rough.png', 'w_roughness.png', 'preview.png']);
    expect(Object.fromEntries(roles)).toEqual({ base: 'w_col.png', roughness: 'w_rough.png' });
    expect(left).toEqual(['preview.png', 'w_roughness.png']);
    expect([...sortMapFiles(['wall.jpg', 'wall_normal.jpg']).roles.keys()]).toEqual(['normal', 'base']);
    expect([...sortMapFiles(['a.jpg', 'b.jpg']).roles.keys()]).toEqual([]);
  });
});

const SIZE = 64;
/** Normals of a hilly surface that repeats, OpenGL style, with their blue. */
function hills(): Uint8Array {
  const next = random(4);
  const heights = blurred(Float32Array.from({ length: SIZE * SIZE }, () => next()), SIZE, SIZE, 3, 'wraps').map((h) => h * 0.5); // prettier-ignore
  const out = new Uint8Array(SIZE * SIZE * 4).fill(255);
  encodeNormalXy(heights, SIZE, 1, 1, out);
  for (let i = 0; i < SIZE * SIZE; i++) {
    const [x, y] = [0, 1].map((k) => (out[i * 4 + k]! - 128) / 127) as [number, number];
    out[i * 4 + 2] = Math.round(127.5 + 127.5 * Math.sqrt(Math.max(0, 1 - x * x - y * y)));
  }
  return out;
}
const green = (map: Uint8Array) => Uint8Array.from(map, (v, i) => (i % 4 === 1 ? 255 - v : v));
const grey = (value: number) => new Uint8Array(SIZE * SIZE * 4).fill(value);

describe('the maps of a set', () => {
  it('have their normals’ style found by the curl of their slopes', () => {
    expect(normalStyle(hills(), SIZE)).toBe('OpenGL');
    expect(normalStyle(green(hills()), SIZE)).toBe('DirectX');
  });

  it('come out the same in both styles, by name or by curl', () => {
    const as = (role: MapRole, map: Uint8Array) => composeMaps(new Map([[role, map]]), SIZE, 1, 1, 0.01);
    const plain = as('normal', hills());
    expect(plain.normals).toEqual({ style: 'OpenGL', by: 'curl' });
    expect(as('normal', green(hills())).maps.surface).toEqual(plain.maps.surface);
    expect(as('normal-dx', green(hills())).normals).toEqual({ style: 'DirectX', by: 'name' });
    expect(as('normal-dx', green(hills())).maps.surface).toEqual(plain.maps.surface);
  });

  it('have glossiness turned to roughness, and packed channels taken apart', () => {
    const at = (pictures: [MapRole, Uint8Array][]) => composeMaps(new Map(pictures), SIZE, 1, 1, 0.01);
    expect(at([['glossiness', grey(55)]]).maps.surface[2]).toBe(200);
    const packed = Uint8Array.from({ length: SIZE * SIZE * 4 }, (_, i) => [100, 90, 255, 255][i % 4]!);
    const arm = at([['packed', packed], ['base', grey(200)]]); // prettier-ignore
    expect(arm.maps.surface[2]).toBe(90);
    expect(arm).toMatchObject({ metalness: 1, maps: { base: expect.anything() as Uint8Array } });
    expect(arm.maps.packedFactors).toBeUndefined();
    // Rust on steel: a map of its own, which the packed one would not overrule.
    const rusty = Uint8Array.from({ length: SIZE * SIZE * 4 }, (_, i) => ((i >> 2) % SIZE < 32 ? 255 : 20));
    const rust = at([['metalness', rusty], ['packed', packed]]); // prettier-ignore
    expect([rust.metalness, rust.maps.packedFactors![0], rust.maps.packedFactors![40 * 4]]).toEqual([1, 255, 20]);
    // Occlusion of 100 / 255 darkens the colour by half of what it says.
    expect(arm.maps.base[0]).toBe(Math.round(200 * (0.5 + (0.5 * 100) / 255)));
    expect(at([['opacity', grey(30)], ['base', grey(200)]]).maps.base[3]).toBe(30); // prettier-ignore
  });

  it('have normals from their heights where they bring none', () => {
    const ridge = Uint8Array.from({ length: SIZE * SIZE * 4 }, (_, i) => Math.round(255 * Math.exp(-((((i >> 2) % SIZE) - 32) ** 2) / 20)));
    const { maps, normals } = composeMaps(new Map([['height', ridge]]), SIZE, 1, 1, 0.05);
    expect(normals).toBeUndefined();
    expect(maps.surface[(10 * SIZE + 28) * 4]).toBeLessThan(120);
    expect(maps.surface[(10 * SIZE + 36) * 4]).toBeGreaterThan(136);
    expect(maps.surface[(10 * SIZE + 32) * 4 + 3]).toBe(255);
  });
});
