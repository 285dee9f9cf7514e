import { Document, WebIO, type ExtensionProperty, type Material, type Node, type Primitive } from '@gltf-transform/core';
import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMeshQuantization,
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsDispersion,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsUnlit,
  KHRMaterialsTransmission,
  KHRMaterialsVolume,
  KHRTextureTransform,
  KHRMaterialsVariants,
  type Transmission,
  type Variant,
} from '@gltf-transform/extensions';
import draco3d from 'draco3dgltf';
import { existsSync, readFileSync } from 'node:fs';
import { MeshoptEncoder } from 'meshoptimizer';
import * as v from 'valibot';
import { beforeAll, describe, expect, it } from 'vitest';
import { transformPoint } from '../geometry/mat4';
import { decodeMesh, meshArea, meshVolume, type Mesh } from '../geometry/mesh';
import { MeshBuilder } from '../geometry/shapes';
import { sourceMaterialSchema } from '../model/schema';
import { finishOfMaterial } from '../scene/scene';
import { gltfReader, readGltf, type GltfReader } from './gltf';
import type { ModelFile } from './model-file';

/** Files written by the glTF library itself, and public ones from Debian's assimp-testmodels where they are installed. */

const SAMPLES = '/usr/share/assimp/models/glTF2/';
const PICTURE = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64');

const HASH = 'a'.repeat(64);

let io: GltfReader;
beforeAll(async () => {
  io = await gltfReader();
});

interface Made {
  document: Document;
  /** A primitive of a mesh as arrays. */
  primitive: (mesh: Mesh) => Primitive;
  node: (name: string, ...primitives: Primitive[]) => Node;
}

function made(fill: (made: Made) => Node[]): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const primitive = ({ positions, indices }: Mesh) =>
    document
      .createPrimitive()
      .setAttribute('POSITION', document.createAccessor().setType('VEC3').setArray(new Float32Array(positions)).setBuffer(buffer))
      .setIndices(document.createAccessor().setType('SCALAR').setArray(new Uint32Array(indices)).setBuffer(buffer));
  const node = (name: string, ...primitives: Primitive[]) => {
    const made = document.createNode(name);
    if (primitives.length === 0) return made;
    const mesh = document.createMesh();
    for (const p of primitives) mesh.addPrimitive(p);
    return made.setMesh(mesh);
  };
  const scene = document.createScene();
  for (const child of fill({ document, primitive, node })) scene.addChild(child);
  return document;
}

const box = new MeshBuilder().box([0, 0, 0], [1, 2, 3]).build();
const read = async (document: Document) =>
  readGltf(io, await new WebIO().registerExtensions(extensionsOf(document)).writeBinary(document), 'house.glb');
const extensionsOf = (document: Document) =>
  document
    .getRoot()
    .listExtensionsUsed()
    .map((e) => e.constructor as never);
const meshOf = (file: ModelFile, key: string) => decodeMesh(file.meshes.get(key)!) as Mesh;
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

  it('takes over what the material extensions say of light', async () => {
    const file = await read(
      made(({ document, primitive, node }) => {
        const add = <T extends ExtensionProperty>(name: string, property: T): [string, T] => [name, property];
        const glass = document.createMaterial('Glass');
        for (const [name, property] of [
          add('KHR_materials_ior', document.createExtension(KHRMaterialsIOR).createIOR().setIOR(1.33)),
          add('KHR_materials_transmission', document.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(0.9)),
          add('KHR_materials_volume', document.createExtension(KHRMaterialsVolume).createVolume().setThicknessFactor(0.1).setAttenuationDistance(0.5).setAttenuationColor([0.214041, 1, 1])),
          add('KHR_materials_clearcoat', document.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatFactor(0.7).setClearcoatRoughnessFactor(0.2)),
        ] as const) glass.setExtension(name, property);
        glass.setExtension('KHR_materials_anisotropy', document.createExtension(KHRMaterialsAnisotropy).createAnisotropy().setAnisotropyStrength(0.6).setAnisotropyRotation(Math.PI / 2));
        glass.setExtension('KHR_materials_sheen', document.createExtension(KHRMaterialsSheen).createSheen().setSheenColorFactor([0.4, 0.2, 0]).setSheenRoughnessFactor(0.6));
        const lit = document.createMaterial('Lit').setEmissiveFactor([1, 1, 1]).setAlphaMode('MASK');
        lit.setExtension('KHR_materials_emissive_strength', document.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(800));
        lit.setExtension('KHR_materials_diffuse_transmission', document.createExtension(KHRMaterialsDiffuseTransmission).createDiffuseTransmission().setDiffuseTransmissionFactor(0.4));
        const dull = document.createMaterial('Dull').setMetallicFactor(0);
        dull.setExtension('KHR_materials_specular', document.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(0.25));
        const bright = document.createMaterial('Bright');
        bright.setExtension('KHR_materials_specular', document.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularColorFactor([2, 1, 0]));
        const sign = document.createMaterial('Sign').setExtension('KHR_materials_unlit', document.createExtension(KHRMaterialsUnlit).createUnlit());
        const triangle = () => primitive({ positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), indices: new Uint32Array([0, 1, 2]) });
        return [node('A', triangle().setMaterial(glass)), node('B', triangle().setMaterial(lit)), node('C', triangle().setMaterial(dull)), node('D', triangle().setMaterial(sign)), node('E', triangle().setMaterial(bright))];
      }),
    ); // prettier-ignore
    const glass = file.model.materials.get('Glass')!;
    expect(glass).toMatchObject({
      ior: 1.33,
      transmission: 0.9,
      body: 'solid',
      attenuationDistanceM: 0.5,
      clearCoat: 0.7,
      clearCoatRoughness: 0.2,
      sheen: 0.4,
      sheenRoughness: 0.6,
      anisotropy: 0.6,
      anisotropyDeg: 90,
    });
    // Half of the strongest channel, coded.
    expect(glass.sheenColour!.map((c) => Number(c.toFixed(3)))).toEqual([1, 0.735, 0]);
    // Linear 0.214041 is 0.5 in sRGB (IEC 61966-2-1).
    expect(glass.attenuationColour![0]).toBeCloseTo(0.5, 4);
    expect(file.model.materials.get('Lit')).toMatchObject({ emissionCdM2: 800, cutOut: true, diffuseTransmission: 0.4 });
    expect(file.model.materials.get('Dull')).toMatchObject({ specular: 0.25, specularColour: [1, 1, 1] });
    // Twice the 4 in 100 that an index of 1.5 mirrors are those of 1.789: (0.789 / 2.789)^2; the strongest colour is then whole.
    expect(file.model.materials.get('Bright')!.ior).toBeCloseTo(1.7888, 4);
    expect(file.model.materials.get('Bright')!.specularColour!.map((c) => Math.round(c * 255))).toEqual([255, 188, 0]);
    expect(file.model.materials.get('Sign')).toMatchObject({ roughness: 1, metalness: 0, ior: 1 });
    // And the plain finish is made of it.
    expect(finishOfMaterial(new Map(), 's', { ...glass, name: 'qqq' })).toMatchObject({
      ior: 1.33,
      transmission: 0.9,
      body: 'solid',
      clearCoat: 0.7,
    });
    expect(v.safeParse(sourceMaterialSchema, glass).success).toBe(true);
  });

  it('brings pictures with the size that their coordinates give them on the surface', async () => {
    const file = await read(
      made(({ document, primitive, node }) => {
        const map = document.createTexture('brick').setImage(PICTURE).setMimeType('image/png');
        const material = document.createMaterial('Brick').setBaseColorTexture(map);
        const square = primitive({ positions: new Float32Array([0, 0, 0, 6, 0, 0, 6, 6, 0, 0, 6, 0]), indices: new Uint32Array([0, 1, 2, 0, 2, 3]) });
        const uv = document.createAccessor().setType('VEC2').setArray(new Float32Array([0, 0, 4, 0, 4, 4, 0, 4]));
        return [node('Wall', square.setMaterial(material).setAttribute('TEXCOORD_0', uv.setBuffer(document.getRoot().listBuffers()[0]!)))];
      }),
    ); // prettier-ignore
    const { texture } = file.model.materials.get('Brick')!;
    // Six metres hold four repeats.
    expect([texture!.widthM, texture!.heightM]).toEqual([1.5, 1.5]);
    expect(Buffer.from(file.pictures.get(texture!.image!)!)).toEqual(PICTURE);
  });

  it('brings variants of its materials as options', async () => {
    const { model } = await read(
      made(({ document, primitive, node }) => {
        const variants = document.createExtension(KHRMaterialsVariants);
        const [oak, slate] = ['Oak', 'Slate'].map((name) => document.createMaterial(name)) as [Material, Material];
        const [light, dark] = ['Light', 'Dark'].map((name) => variants.createVariant(name)) as [Variant, Variant];
        const list = variants.createMappingList();
        for (const [variant, material] of [[light, oak], [dark, slate]] as const) list.addMapping(variants.createMapping().addVariant(variant).setMaterial(material));
        return [node('Floor', primitive(box).setMaterial(document.createMaterial('Bare')).setExtension('KHR_materials_variants', list)), node('Wall', primitive(box))];
      }),
    ); // prettier-ignore
    const worn = [...model.elements.values()].map(({ id, option, parts }) => [id, option, parts[0]!.material, parts[0]!.mesh]);
    const floor = worn[0]![3];
    expect(worn.slice(0, 3)).toEqual([
      ['/Floor', 'As it comes', 'Bare', floor],
      ['/Floor~Light', 'Light', 'Oak', floor],
      ['/Floor~Dark', 'Dark', 'Slate', floor],
    ]);
    expect(worn[3]!.slice(0, 2)).toEqual(['/Wall', null]);
    expect(model.presentation.options.map(({ name }) => name)).toEqual(['As it comes', 'Light', 'Dark']);
    expect(model.presentation.option).toBe('As it comes');
  });

  it('brings thin films and dispersion', async () => {
    const { model } = await read(
      made(({ document, primitive, node }) => {
        const material = document.createMaterial('Crystal');
        material.setExtension('KHR_materials_iridescence', document.createExtension(KHRMaterialsIridescence).createIridescence().setIridescenceFactor(0.6).setIridescenceIOR(1.8).setIridescenceThicknessMaximum(350));
        material.setExtension('KHR_materials_dispersion', document.createExtension(KHRMaterialsDispersion).createDispersion().setDispersion(0.4));
        return [node('Drop', primitive(box).setMaterial(material))];
      }),
    ); // prettier-ignore
    expect(model.materials.get('Crystal')).toMatchObject({ film: 0.6, filmIor: 1.8, filmNm: 350, dispersion: 0.4 });
  });

  it('brings pictures of light, varnish, clearness and sheen, and the colour of light', async () => {
    const file = await read(
      made(({ document, primitive, node }) => {
        const picture = (last: number) => document.createTexture('').setImage(Buffer.from([...PICTURE, last])).setMimeType('image/png');
        const material = document.createMaterial('Screen').setBaseColorFactor([0, 0, 0, 1]).setEmissiveFactor([0, 1, 0.5]).setEmissiveTexture(picture(1));
        material.setExtension('KHR_materials_emissive_strength', document.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(300));
        material.setExtension('KHR_materials_clearcoat', document.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatFactor(1).setClearcoatTexture(picture(2)));
        material.setExtension('KHR_materials_transmission', document.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(1).setTransmissionTexture(picture(3)));
        material.setExtension('KHR_materials_sheen', document.createExtension(KHRMaterialsSheen).createSheen().setSheenColorFactor([1, 1, 1]).setSheenColorTexture(picture(4)));
        const square = primitive({ positions: new Float32Array([0, 0, 0, 6, 0, 0, 6, 6, 0, 0, 6, 0]), indices: new Uint32Array([0, 1, 2, 0, 2, 3]) });
        const uv = document.createAccessor().setType('VEC2').setArray(new Float32Array([0, 1, 1, 1, 1, 0, 0, 0]));
        return [node('Wall', square.setMaterial(material).setAttribute('TEXCOORD_0', uv.setBuffer(document.getRoot().listBuffers()[0]!)))];
      }),
    ); // prettier-ignore
    const screen = file.model.materials.get('Screen')!;
    expect(screen).toMatchObject({
      colour: [0, 0, 0],
      emissionCdM2: 300,
      clearCoat: 1,
      transmission: 1,
      sheen: 1,
      texture: { image: null, asLaid: true },
    });
    // Half of the light is 188 of 255 in sRGB (IEC 61966-2-1).
    expect(screen.emissionColour!.map((c) => Math.round(c * 255))).toEqual([0, 255, 188]);
    const { emission, clearCoat, transmission, sheen } = screen.texture!;
    expect([emission, clearCoat, transmission, sheen].map((key) => file.pictures.get(key!)!.at(-1))).toEqual([1, 2, 3, 4]);
  });

  it('brings every picture of the ratified material extensions', async () => {
    const file = await read(
      made(({ document, primitive, node }) => {
        let last = 0;
        const picture = () => document.createTexture('').setImage(Buffer.from([...PICTURE, ++last])).setMimeType('image/png');
        const material = document.createMaterial('All');
        const coat = document.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatFactor(1).setClearcoatRoughnessFactor(1);
        material.setExtension('KHR_materials_clearcoat', coat.setClearcoatRoughnessTexture(picture()).setClearcoatNormalTexture(picture()).setClearcoatNormalScale(0.6));
        const sheen = document.createExtension(KHRMaterialsSheen).createSheen().setSheenColorFactor([1, 1, 1]).setSheenRoughnessFactor(0.8);
        material.setExtension('KHR_materials_sheen', sheen.setSheenRoughnessTexture(picture()));
        const film = document.createExtension(KHRMaterialsIridescence).createIridescence().setIridescenceFactor(1).setIridescenceThicknessMinimum(120).setIridescenceThicknessMaximum(600);
        material.setExtension('KHR_materials_iridescence', film.setIridescenceTexture(picture()).setIridescenceThicknessTexture(picture()));
        const brushed = document.createExtension(KHRMaterialsAnisotropy).createAnisotropy().setAnisotropyStrength(1);
        material.setExtension('KHR_materials_anisotropy', brushed.setAnisotropyTexture(picture()));
        const shine = document.createExtension(KHRMaterialsSpecular).createSpecular();
        material.setExtension('KHR_materials_specular', shine.setSpecularTexture(picture()).setSpecularColorTexture(picture()));
        const through = document.createExtension(KHRMaterialsDiffuseTransmission).createDiffuseTransmission().setDiffuseTransmissionFactor(0.5).setDiffuseTransmissionColorFactor([1, 0.214041, 0]);
        material.setExtension('KHR_materials_diffuse_transmission', through.setDiffuseTransmissionTexture(picture()).setDiffuseTransmissionColorTexture(picture()));
        const square = primitive({ positions: new Float32Array([0, 0, 0, 6, 0, 0, 6, 6, 0, 0, 6, 0]), indices: new Uint32Array([0, 1, 2, 0, 2, 3]) });
        const uv = document.createAccessor().setType('VEC2').setArray(new Float32Array([0, 1, 1, 1, 1, 0, 0, 0]));
        return [node('Wall', square.setMaterial(material).setAttribute('TEXCOORD_0', uv.setBuffer(document.getRoot().listBuffers()[0]!)))];
      }),
    ); // prettier-ignore
    const all = file.model.materials.get('All')!;
    expect(v.safeParse(sourceMaterialSchema, { ...all, texture: null }).success).toBe(true);
    expect(all).toMatchObject({ clearCoatNormal: 0.6, filmLeastNm: 120, filmNm: 600, texture: { asLaid: true } });
    expect(all.diffuseTransmissionColour!.map((c) => Number(c.toFixed(3)))).toEqual([1, 0.5, 0]);
    const { clearCoatRoughness, clearCoatNormal, sheenRoughness, film, filmThickness, brushing, specular, specularColour, diffuseTransmission, diffuseTransmissionColour } = all.texture!; // prettier-ignore
    const parts = [clearCoatRoughness, clearCoatNormal, sheenRoughness, film, filmThickness, brushing, specular, specularColour, diffuseTransmission, diffuseTransmissionColour]; // prettier-ignore
    expect(parts.map((key) => file.pictures.get(key!)!.at(-1))).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9, 10]);
  });

  it('shows WebP too, and says which picture is missing or of another kind, whatever it tells', async () => {
    const webp = Buffer.from('RIFF\0\0\0\0WEBPVP8 ', 'latin1');
    const ktx = Buffer.from('\xabKTX 20\xbb\r\n\x1a\n', 'latin1');
    const { model, pictures } = await read(
      made(({ document, primitive, node }) => {
        const wall = document.createMaterial('Wall').setBaseColorTexture(document.createTexture().setImage(webp).setMimeType('image/webp'));
        wall.setNormalTexture(document.createTexture('weave').setImage(ktx).setMimeType('image/ktx2'));
        return [node('A', primitive(box).setMaterial(wall))];
      }),
    );
    const wall = model.materials.get('Wall')!;
    expect([...pictures.values()].map((bytes) => Buffer.from(bytes).equals(webp))).toEqual([true]);
    expect(wall).toMatchObject({ missing: 'weave', texture: { image: expect.any(String) as string } });
    expect(wall.texture!.normal).toBeUndefined();
  });

  it('brings normals, roughness, metalness and occlusion, where they lie', async () => {
    const file = await read(
      made(({ document, primitive, node }) => {
        const picture = (name: string, last: number) => document.createTexture(name).setImage(Buffer.from([...PICTURE, last])).setMimeType('image/png');
        const material = document
          .createMaterial('Panel')
          .setMetallicRoughnessTexture(picture('mr', 1))
          .setNormalTexture(picture('n', 2))
          .setNormalScale(0.5)
          .setOcclusionTexture(picture('o', 3));
        const moved = document.createExtension(KHRTextureTransform).createTransform().setScale([2, 1]).setOffset([0.25, 0]);
        material.getNormalTextureInfo()!.setExtension('KHR_texture_transform', moved);
        const square = primitive({ positions: new Float32Array([0, 0, 0, 6, 0, 0, 6, 6, 0, 0, 6, 0]), indices: new Uint32Array([0, 1, 2, 0, 2, 3]) });
        const uv = document.createAccessor().setType('VEC2').setArray(new Float32Array([0, 1, 1, 1, 1, 0, 0, 0]));
        return [node('Wall', square.setMaterial(material).setAttribute('TEXCOORD_0', uv.setBuffer(document.getRoot().listBuffers()[0]!)))];
      }),
    ); // prettier-ignore
    const panel = file.model.materials.get('Panel')!;
    expect(panel).toMatchObject({ normalScale: 0.5, texture: { image: null, asLaid: true } });
    const { normal, roughnessMetalness, occlusion } = panel.texture!;
    expect([roughnessMetalness, normal, occlusion].map((key) => file.pictures.get(key!)!.at(-1))).toEqual([1, 2, 3]);
    // u doubled and moved; glTF's v runs down, ours up.
    const mesh = meshOf(file, file.model.elements.get('/Wall')!.parts[0]!.mesh);
    expect([...mesh.pictureUvs!]).toEqual([0.25, 0, 2.25, 0, 2.25, 1, 0.25, 1]);
    // The others lie as they are.
    expect(panel.texture!.sets).toEqual({ roughnessMetalness: 1, occlusion: 1 });
    expect(mesh.furtherUvs!.map((uvs) => [...uvs])).toEqual([[0, 0, 1, 0, 1, 1, 0, 1]]);
    expect(v.is(sourceMaterialSchema, { ...panel, texture: { ...panel.texture!, image: null, normal: HASH, roughnessMetalness: HASH, occlusion: HASH } })).toBe(true); // prettier-ignore
  });

  it('lays each picture by its own coordinates and transform, also where a variant wears others; more than eight ways lie by the first', async () => {
    const file = await read(
      made(({ document, primitive, node }) => {
        const picture = document.createTexture('').setImage(PICTURE).setMimeType('image/png');
        const buffer = document.getRoot().listBuffers()[0]!;
        const uv = (...values: number[]) => document.createAccessor().setType('VEC2').setArray(new Float32Array(values)).setBuffer(buffer);
        const cloth = document.createMaterial('Cloth').setBaseColorTexture(picture).setNormalTexture(picture).setOcclusionTexture(picture);
        cloth.getOcclusionTextureInfo()!.setTexCoord(1);
        const transforms = document.createExtension(KHRTextureTransform);
        // A quarter turn by the extension's matrix: (u, v) to (v, -u).
        cloth.getNormalTextureInfo()!.setExtension('KHR_texture_transform', transforms.createTransform().setScale([30, 30]).setRotation(Math.PI / 2));
        const other = document.createMaterial('Other').setBaseColorTexture(picture);
        other.getBaseColorTextureInfo()!.setTexCoord(1);
        const coat = document.createExtension(KHRMaterialsClearcoat).createClearcoat().setClearcoatFactor(1);
        const many = document.createMaterial('Many').setBaseColorTexture(picture).setNormalTexture(picture).setMetallicRoughnessTexture(picture).setOcclusionTexture(picture).setEmissiveTexture(picture)
          .setExtension('KHR_materials_clearcoat', coat.setClearcoatTexture(picture).setClearcoatRoughnessTexture(picture).setClearcoatNormalTexture(picture))
          .setExtension('KHR_materials_transmission', document.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(1).setTransmissionTexture(picture));
        for (const [i, info] of [many.getBaseColorTextureInfo(), many.getNormalTextureInfo(), many.getMetallicRoughnessTextureInfo(), many.getOcclusionTextureInfo(), many.getEmissiveTextureInfo(),
          coat.getClearcoatTextureInfo(), coat.getClearcoatRoughnessTextureInfo(), coat.getClearcoatNormalTextureInfo(), many.getExtension<Transmission>('KHR_materials_transmission')!.getTransmissionTextureInfo()].entries())
          info!.setExtension('KHR_texture_transform', transforms.createTransform().setScale([i + 1, 1]));
        const variants = document.createExtension(KHRMaterialsVariants);
        const dyed = variants.createVariant('Dyed');
        const square = () => primitive({ positions: new Float32Array([0, 0, 0, 6, 0, 0, 6, 6, 0, 0, 6, 0]), indices: new Uint32Array([0, 1, 2, 0, 2, 3]) })
          .setAttribute('TEXCOORD_0', uv(0, 1, 1, 1, 1, 0, 0, 0))
          .setAttribute('TEXCOORD_1', uv(0.1, 0.5, 0.4, 0.5, 0.4, 0.2, 0.1, 0.2));
        const seat = square().setMaterial(cloth).setExtension('KHR_materials_variants', variants.createMappingList().addMapping(variants.createMapping().setMaterial(other).addVariant(dyed)));
        return [node('Seat', seat), node('Back', square().setMaterial(many))];
      }),
    ); // prettier-ignore
    const seat = (path: string) => meshOf(file, file.model.elements.get(path)!.parts[0]!.mesh);
    const near = (uvs: Float32Array) => [...uvs].map((x) => Number(x.toFixed(4)) || 0);
    expect(file.model.materials.get('Cloth')!.texture!.sets).toEqual({ normal: 1, occlusion: 2 });
    const { pictureUvs, furtherUvs } = seat('/Seat');
    expect(near(pictureUvs!)).toEqual([0, 0, 1, 0, 1, 1, 0, 1]);
    expect(furtherUvs!.map(near)).toEqual([
      [30, 1, 30, 31, 0, 31, 0, 1],
      [0.1, 0.5, 0.4, 0.5, 0.4, 0.8, 0.1, 0.8],
    ]);
    const dyed = seat('/Seat~Dyed');
    expect([near(dyed.pictureUvs!), dyed.furtherUvs]).toEqual([[0.1, 0.5, 0.4, 0.5, 0.4, 0.8, 0.1, 0.8], undefined]);
    const many = file.model.materials.get('Many')!.texture!.sets!;
    expect(Object.values(many).sort()).toEqual([1, 2, 3, 4, 5, 6, 7]);
    expect(seat('/Back').furtherUvs).toHaveLength(7);
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
