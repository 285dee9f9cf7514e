import { strToU8, zipSync } from 'fflate';
import { beforeAll, describe, expect, it } from 'vitest';
import sharp from 'sharp';
import { readModelFile } from '../../files/read-model';
import { gltfReader, readGltf, type GltfReader } from './gltf';
import { MOST_TEXT_BYTES } from './text';

/** Small files that ask for much, and large ones: refused in a sentence before anything is made for them. */

let io: GltfReader;
beforeAll(async () => {
  io = await gltfReader();
});

const refusal = async (read: () => unknown): Promise<string> => {
  try {
    await read();
  } catch (error) {
    return (error as Error).message;
  }
  return 'read';
};

/** A GLB of this JSON and so many bytes of a binary chunk. */
function glb(json: object, binary = new Uint8Array()): Uint8Array<ArrayBuffer> {
  const text = strToU8(JSON.stringify(json).padEnd(Math.ceil(JSON.stringify(json).length / 4) * 4));
  const chunk = (kind: number, bytes: Uint8Array) => [...new Uint8Array(Uint32Array.of(bytes.length, kind).buffer), ...bytes];
  const body = Uint8Array.from([...chunk(0x4e4f534a, text), ...(binary.length > 0 ? chunk(0x004e4942, binary) : [])]);
  return Uint8Array.from([...new Uint8Array(Uint32Array.of(0x46546c67, 2, 12 + body.length).buffer), ...body]);
}

const triangle = { scene: 0, scenes: [{ nodes: [0] }], nodes: [{ mesh: 0 }], meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }] };
const positions = new Uint8Array(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer);
const told = (accessor: object, views: object[] = [{ buffer: 0, byteLength: 36 }]) => ({
  asset: { version: '2.0' }, ...triangle, buffers: [{ byteLength: 36 }], bufferViews: views,
  accessors: [{ componentType: 5126, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0], ...accessor }],
}); // prettier-ignore

describe('a small glTF that names a thousand million values', () => {
  const sentence = 'a.glb is damaged: it names 1000000000 values and is too short for them.';

  it('is refused, with bytes for them or without, by itself and in a zip', async () => {
    const bounded = glb(told({ count: 1e9, bufferView: 0 }), positions);
    expect(await refusal(() => readGltf(io, bounded, 'a.glb'))).toBe(sentence);
    const bare = glb(told({ count: 1e9 }), positions);
    expect(await refusal(() => readGltf(io, bare, 'a.glb'))).toContain('and is too short for them');
    const zip = zipSync({ 'a.glb': bare });
    expect(await refusal(() => readModelFile({ bytes: zip, fileName: 'z.zip', file: null, before: undefined, keep: () => undefined }))).toContain('z.zip/a.glb is damaged'); // prettier-ignore
  });

  it('or views that would unpack to as much', async () => {
    const view = { buffer: 0, byteLength: 4e9, extensions: { EXT_meshopt_compression: { buffer: 0, byteLength: 36, byteStride: 12, count: 333_333_333, mode: 'ATTRIBUTES' } } }; // prettier-ignore
    expect(await refusal(() => readGltf(io, glb(told({ count: 3, bufferView: 0 }, [view]), positions), 'a.glb'))).toContain('is damaged');
  });

  it('while a sound one is read', async () => {
    expect((await readGltf(io, glb(told({ count: 3, bufferView: 0 }), positions), 'a.glb')).model.elements.size).toBe(1);
    expect(await refusal(() => readGltf(io, glb(told({ count: 3, bufferView: 0 }), positions).slice(0, 80), 'a.glb'))).toContain('a.glb is cut off'); // prettier-ignore
  });
});

it('a GLB may keep its pictures beside itself', async () => {
  const picture = new Uint8Array(await sharp({ create: { width: 8, height: 8, channels: 3, background: '#c04020' } }).png().toBuffer()); // prettier-ignore
  const json = {
    ...told({ count: 3, bufferView: 0 }),
    meshes: [{ primitives: [{ attributes: { POSITION: 0 }, material: 0 }] }],
    images: [{ uri: 'tiles/red.png' }], textures: [{ source: 0 }],
    materials: [{ name: 'Tile', pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
  }; // prettier-ignore
  const bytes = glb(json, positions);
  const material = async (file: Parameters<typeof readGltf>[3]) => [...(await readGltf(io, bytes, 'a.glb', file)).model.materials.values()][0]!; // prettier-ignore
  expect((await material((name) => (name === 'tiles/red.png' ? picture : undefined))).texture?.image).toBeTruthy();
  expect(await material(() => undefined)).toMatchObject({ name: 'Tile', missing: 'tiles/red.png' });
  const { model } = await readModelFile({ bytes: zipSync({ 'm/a.glb': bytes, 'm/tiles/red.png': picture }), fileName: 'z.zip', file: null, before: undefined, keep: () => undefined }); // prettier-ignore
  expect([...model.materials.values()][0]!.texture?.image).toMatch(/^[0-9a-f]{64}$/);
});

describe('a 3MF', () => {
  const file = (objects: string, items = '<item objectid="1"/>') =>
    zipSync({ '_rels/.rels': strToU8('<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/a.model" Id="r" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'), '3D/a.model': strToU8(`<model unit="meter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>${objects}</resources><build>${items}</build></model>`) }); // prettier-ignore
  const mesh = '<object id="1"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/></vertices><triangles><triangle v1="0" v2="1" v3="2"/></triangles></mesh></object>'; // prettier-ignore
  const read = (bytes: Uint8Array) => readModelFile({ bytes, fileName: 'a.3mf', file: null, before: undefined, keep: () => undefined });

  it('whose components multiply themselves is refused', async () => {
    const nested = Array.from({ length: 9 }, (_, i) => `<object id="${String(i + 2)}"><components>${`<component objectid="${String(i + 1)}"/>`.repeat(10)}</components></object>`).join(''); // prettier-ignore
    expect(await refusal(() => read(file(mesh + nested, '<item objectid="10"/>')))).toBe('a.3mf would come to more than 100,000 objects; it is not opened.'); // prettier-ignore
    const circle = '<object id="1"><components><component objectid="2"/></components></object><object id="2"><components><component objectid="1"/></components></object>'; // prettier-ignore
    expect(await refusal(() => read(file(circle)))).toContain('made of each other without an end');
  });

  it('of a few is read', async () => {
    const few = '<object id="2"><components><component objectid="1"/><component objectid="1" transform="1 0 0 0 1 0 0 0 1 4 0 0"/></components></object>'; // prettier-ignore
    expect((await read(file(mesh + few, '<item objectid="2"/>'))).model.elements.size).toBeGreaterThan(0);
  });
});

it('a text that does not fit into one string is refused with its size', async () => {
  const bytes = new Uint8Array(MOST_TEXT_BYTES + 64_000_000);
  for (const ending of ['obj', 'dae', 'dxf', 'gltf'])
    expect(await refusal(() => readModelFile({ bytes, fileName: `big.${ending}`, file: null, before: undefined, keep: () => undefined }))).toBe(`big.${ending} holds 564 MB of text; up to 500 MB are read. Split the model, or use a format that is not text, as GLB.`); // prettier-ignore
  bytes.set(strToU8('solid x facet'));
  expect(await refusal(() => readModelFile({ bytes, fileName: 'big.stl', file: null, before: undefined, keep: () => undefined }))).toContain('564 MB of text'); // prettier-ignore
});
