import { Document, WebIO } from '@gltf-transform/core';
import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMeshQuantization,
} from '@gltf-transform/extensions';
import draco3d from 'draco3dgltf';
import { existsSync, readFileSync } from 'node:fs';
import { MeshoptEncoder } from 'meshoptimizer';
import { beforeAll, describe, expect, it } from 'vitest';
import { transformPoint } from '../geometry/mat4';
import { meshArea, meshVolume } from '../geometry/mesh';
import { MeshBuilder } from '../geometry/shapes';
import { gltfReader, readGltf, type GltfReader } from './gltf';
import { made, meshOf, readMade } from './gltf-made';

/** Files written by the glTF library itself, and public ones from Debian's assimp-testmodels where they are installed. */

const SAMPLES = '/usr/share/assimp/models/glTF2/';

let io: GltfReader;
beforeAll(async () => {
  io = await gltfReader();
});

const box = new MeshBuilder().box([0, 0, 0], [1, 2, 3]).build();
const read = (document: Document) => readMade(io, document);
const only = <T>(map: ReadonlyMap<string, T>): T => {
  expect(map.size).toBe(1);
  return [...map.values()][0]!;
};

describe('a glTF file', () => {
  it('stands upright: its y is the model’s z, in metres', async () => {
    const file = await read(made(({ primitive, node }) => [node('Mast', primitive(box)).setTranslation([10, 5, -20])]));
    const mast = only(file.model.elements);
    // The corner (1, 2, 3) of the box lies at (11, 7, -17) in glTF, and y-up (x, y, z) is z-up (x, -z, y).
    expect(transformPoint(mast.transform, [1, 2, 3]).map((v) => v + 0)).toEqual([11, 17, 7]);
    expect(meshVolume(meshOf(file, mast.parts[0]!.mesh))).toBeCloseTo(6, 5);
  });

  it('keeps names from the root down as ids, numbers brothers of one name, and takes the topmost for a layer', async () => {
    const { model } = await read(
      made(({ primitive, node }) => {
        const level = node('Ground floor');
        for (let i = 0; i < 3; i++) level.addChild(node('Chair', primitive(box)));
        return [level, node('Roof', primitive(box))];
      }),
    );
    expect([...model.elements.keys()]).toEqual(['/Ground floor/Chair', '/Ground floor/Chair#2', '/Ground floor/Chair#3', '/Roof']);
    expect([...model.elements.values()].map((e) => e.layer)).toEqual(['Ground floor', 'Ground floor', 'Ground floor', 'Model']);
  });

  it('shares a mesh that many nodes use, and gives each primitive its material', async () => {
    const file = await read(
      made(({ document, primitive, node }) => {
        const oak = document.createMaterial('Oak').setBaseColorFactor([0.2140, 0.2140, 0.2140, 1]); // prettier-ignore
        const glass = document.createMaterial('Glass').setBaseColorFactor([1, 1, 1, 0.3]).setAlphaMode('BLEND');
        const first = node('A', primitive(box).setMaterial(oak), primitive(box).setMaterial(glass));
        return [first, document.createNode('B').setMesh(first.getMesh())];
      }),
    );
    expect([file.model.elements.size, file.meshes.size]).toEqual([2, 2]);
    expect([...file.model.elements.get('/B')!.parts.map((p) => p.material)]).toEqual(['Oak', 'Glass']);
    // Linear 0.2140 is 0.5 in sRGB (IEC 61966-2-1).
    expect(file.model.materials.get('Oak')!.colour[0]).toBeCloseTo(0.5, 3);
    expect(file.model.materials.get('Glass')).toMatchObject({ opacity: 0.3, texture: null });
    expect(file.model.materials.get('Oak')).toMatchObject({ opacity: 1, roughness: 1, metalness: 1 });
  });

  it('takes strips and fans apart, and leaves points and lines', async () => {
    const square = { positions: new Float32Array([0, 0, 0, 2, 0, 0, 0, 2, 0, 2, 2, 0]), indices: new Uint32Array([0, 1, 2, 3]) };
    const file = await read(
      made(({ primitive, node }) => [
        node('Strip', primitive(square).setMode(5)),
        node('Fan', primitive({ ...square, indices: new Uint32Array([0, 1, 3, 2]) }).setMode(6)),
        node('Lines', primitive(square).setMode(1)),
        node('Points', primitive(square).setMode(0)),
      ]),
    );
    expect([...file.model.elements.keys()]).toEqual(['/Strip', '/Fan']);
    for (const { parts } of file.model.elements.values()) {
      const mesh = meshOf(file, parts[0]!.mesh);
      expect(meshArea(mesh)).toBeCloseTo(4, 6);
      // All of it faces the same way: the areas seen along z add up.
      const facing = Array.from({ length: mesh.indices.length / 3 }, (_, t) => {
        const [a, b, c] = [0, 1, 2].map((k) => [...mesh.positions.subarray(mesh.indices[t * 3 + k]! * 3, mesh.indices[t * 3 + k]! * 3 + 2)]) as [number[], number[], number[]];
        return (b[0]! - a[0]!) * (c[1]! - a[1]!) - (b[1]! - a[1]!) * (c[0]! - a[0]!);
      }); // prettier-ignore
      expect(facing).toEqual([4, 4]);
    }
  });

  it('brings cameras with their lens and lights with their flux', async () => {
    const { model } = await read(
      made(({ document, primitive, node }) => {
        const lights = document.createExtension(KHRLightsPunctual);
        const half = Math.PI / 3;
        const spot = lights.createLight('Spot').setType('spot').setIntensity(1000).setInnerConeAngle(half).setOuterConeAngle(half); // prettier-ignore
        const bulb = lights.createLight('Bulb').setType('point').setIntensity(100);
        const sun = lights.createLight('Sun').setType('directional').setIntensity(100_000);
        const eye = document.createCamera('Eye').setType('perspective').setAspectRatio(1.5).setYFov(2 * Math.atan(12 / 35)); // prettier-ignore
        return [
          node('Box', primitive(box)),
          document.createNode('Eye').setCamera(eye).setTranslation([0, 1.6, 10]),
          document.createNode('Spot').setExtension('KHR_lights_punctual', spot).setRotation([-Math.SQRT1_2, 0, 0, Math.SQRT1_2]),
          document.createNode('Bulb').setExtension('KHR_lights_punctual', bulb),
          document.createNode('Sun').setExtension('KHR_lights_punctual', sun),
        ];
      }),
    );
    // 24 mm of height and 36 mm of width behind a 35 mm lens; glTF looks along -z, which is the model's +y.
    const camera = only(model.cameras);
    expect(camera.focalMm).toBeCloseTo(35, 3);
    camera.position.forEach((v, i) => { expect(v).toBeCloseTo([0, -10, 1.6][i]!, 6); }); // prettier-ignore
    camera.target.forEach((v, i) => { expect(v).toBeCloseTo([0, -5, 1.6][i]!, 6); }); // prettier-ignore
    expect([...model.luminaires.keys()]).toEqual(['/Spot', '/Bulb']);
    const spot = model.luminaires.get('/Spot')!;
    // Candela times the solid angle of a cone of 60 degrees either way: 2 pi (1 - cos 60).
    expect(spot.fluxLm).toBeCloseTo(1000 * Math.PI, 2);
    expect(spot.beamDeg).toBeCloseTo(120, 4);
    spot.direction.forEach((v, i) => { expect(v).toBeCloseTo([0, 0, -1][i]!, 6); }); // prettier-ignore
    expect(model.luminaires.get('/Bulb')).toMatchObject({ beamDeg: 360 });
    expect(model.luminaires.get('/Bulb')!.fluxLm).toBeCloseTo(400 * Math.PI, 3);
  });

  it('places instances one by one', async () => {
    const { model } = await read(
      made(({ document, primitive, node }) => {
        const batch = document.createExtension(EXTMeshGPUInstancing).createInstancedMesh();
        const places = document
          .createAccessor()
          .setType('VEC3')
          .setArray(new Float32Array([0, 0, 0, 4, 0, 0, 8, 0, 0]));
        places.setBuffer(document.getRoot().listBuffers()[0]!);
        return [node('Pile', primitive(box)).setExtension('EXT_mesh_gpu_instancing', batch.setAttribute('TRANSLATION', places))];
      }),
    );
    expect([...model.elements].map(([id, e]) => [id, e.transform[12]])).toEqual([['/Pile@0', 0], ['/Pile@1', 4], ['/Pile@2', 8]]); // prettier-ignore
  });

  it('gives an id of a reasonable length to names of any', async () => {
    const { model } = await read(
      made(({ primitive, node }) => ['x'.repeat(5000), `${'x'.repeat(5000)}y`].map((n) => node(n, primitive(box)))),
    );
    const ids = [...model.elements.keys()];
    expect(new Set(ids).size).toBe(2);
    expect(Math.max(...ids.map((id) => id.length))).toBeLessThanOrEqual(200);
  });
});

describe('a compressed glTF file', () => {
  it.each([
    ['Draco', KHRDracoMeshCompression],
    ['meshopt', EXTMeshoptCompression],
  ])('holds the same house: %s', async (_, Compression) => {
    const document = made(({ primitive, node }) => [node('Box', primitive(box))]);
    document.createExtension(Compression as typeof KHRDracoMeshCompression).setRequired(true);
    document.createExtension(KHRMeshQuantization);
    await MeshoptEncoder.ready;
    const writer = new WebIO()
      .registerExtensions([Compression, KHRMeshQuantization])
      .registerDependencies({ 'meshopt.encoder': MeshoptEncoder, 'draco3d.encoder': await encoderModule() });
    const file = await readGltf(io, await writer.writeBinary(document), 'house.glb');
    const mesh = meshOf(file, only(file.model.elements).parts[0]!.mesh);
    expect(mesh.indices.length).toBe(box.indices.length);
    expect(meshVolume(mesh)).toBeCloseTo(6, 1);
  });
});

const encoderModule = () => (draco3d as unknown as { createEncoderModule(): Promise<unknown> }).createEncoderModule();

describe('what is no sound glTF', () => {
  const refused = async (bytes: Uint8Array, name = 'bad.gltf') => {
    const error: unknown = await readGltf(io, bytes, name).catch((e: unknown) => e);
    expect(error).toMatchObject({ code: 'model-file' });
    return (error as Error).message;
  };
  const json = (value: unknown) => new TextEncoder().encode(JSON.stringify(value));

  it('is refused in a sentence that names file and reason', async () => {
    expect(await refused(new Uint8Array([1, 2, 3]))).toBe('bad.gltf is neither a GLB nor glTF in JSON.');
    expect(await refused(json({ asset: { version: '1.0' } }))).toBe('bad.gltf is glTF 1.0; 2.0 is read.');
    expect(await refused(json({}))).toBe('bad.gltf is glTF of no version; 2.0 is read.');
    expect(await refused(json({ asset: { version: '2.0' }, nodes: 7 }))).toMatch(/not lists/);
    expect(await refused(json({ asset: { version: '2.0' }, buffers: [{ uri: 'house.bin', byteLength: 4 }] }))).toBe(
      'bad.gltf keeps house.bin in a file of its own, which is missing; give both in one zip.',
    );
    expect(await refused(json({ asset: { version: '2.0' } }))).toBe('bad.gltf holds no scene.');
    expect(await refused(json({ asset: { version: '2.0' }, scenes: [{}] }))).toBe('bad.gltf holds no surfaces.');
  });

  it('may be cut off anywhere', async () => {
    const whole = await new WebIO().writeBinary(made(({ primitive, node }) => [node('Box', primitive(box))]));
    for (const share of [0.02, 0.1, 0.5, 0.9, 0.999]) expect(await refused(whole.slice(0, Math.floor(whole.length * share)), 'cut.glb')).toMatch(/cut\.glb/);
  }); // prettier-ignore

  it('has numbers that are none, or names vertices that are not there', async () => {
    const broken = (change: (mesh: { positions: Float32Array; indices: Uint32Array }) => void) => {
      const mesh = { positions: box.positions.slice(), indices: box.indices.slice() };
      change(mesh);
      return new WebIO().writeBinary(made(({ primitive, node }) => [node('Box', primitive(mesh))]));
    };
    expect(await refused(await broken((m) => (m.positions[4] = NaN)))).toMatch(/coordinates are not numbers/);
    expect(await refused(await broken((m) => (m.indices[4] = 9999)))).toMatch(/names vertices it does not have/);
    const far = made(({ primitive, node }) => {
      const child = node('Box', primitive(box)).setTranslation([1e200, 0, 0]);
      return [node('Far').setScale([1e200, 1e200, 1e200]).addChild(child)];
    });
    expect(await refused(await new WebIO().writeBinary(far))).toMatch(/Box is placed by what are not numbers/);
  });

  it('goes in circles', async () => {
    const circle = { asset: { version: '2.0' }, scene: 0, scenes: [{ nodes: [0] }], nodes: [{ children: [1] }, { children: [0] }] };
    expect(await refused(json(circle))).toMatch(/bad\.gltf/);
  });
});

describe.skipIf(!existsSync(SAMPLES))('public files', () => {
  const sample = (name: string) => readGltf(io, new Uint8Array(readFileSync(SAMPLES + name)), name.split('/').at(-1)!);

  it('hold what an independent pass over their JSON counts', async () => {
    for (const name of ['2CylinderEngine-glTF-Binary/2CylinderEngine.glb', 'BoxTextured-glTF-Binary/BoxTextured.glb']) {
      const bytes = readFileSync(SAMPLES + name);
      interface Json { nodes: { mesh?: number }[]; meshes: { primitives: { indices: number; material: number }[] }[]; accessors: { count: number }[]; materials: unknown[] } // prettier-ignore
      const json = JSON.parse(bytes.subarray(20, 20 + bytes.readUInt32LE(12)).toString()) as Json;
      const placed = json.nodes.filter((n) => n.mesh !== undefined);
      const triangles = placed.reduce((sum, n) => sum + json.meshes[n.mesh!]!.primitives.reduce((s, p) => s + json.accessors[p.indices]!.count / 3, 0), 0);
      const { model, ...file } = await sample(name);
      expect(model.elements.size).toBe(placed.length);
      const ours = [...model.elements.values()].flatMap((e) => e.parts).reduce((sum, p) => sum + meshOf({ model, ...file }, p.mesh).indices.length / 3, 0);
      expect(ours).toBe(triangles);
      expect(model.materials.size).toBe(new Set(json.meshes.flatMap((m) => m.primitives.map((p) => p.material))).size);
    } // prettier-ignore
  });

  it('that are broken on purpose are explained', async () => {
    await expect(sample('BoxWithInfinites-glTF-Binary/BoxWithInfinites.glb')).rejects.toThrow(/coordinates are not numbers/);
    await expect(sample('TestNoRootNode/NoScene.gltf')).rejects.toThrow(/holds no scene/);
    await expect(sample('RecursiveNodes/RecursiveNodes.gltf')).rejects.toThrow(/RecursiveNodes\.gltf/);
  });
});
