import type { Document, ExtensionProperty, Material } from '@gltf-transform/core';
import {
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsDiffuseTransmission,
  KHRMaterialsDispersion,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVariants,
  KHRMaterialsVolume,
  KHRTextureTransform,
  type Transmission,
  type Variant,
} from '@gltf-transform/extensions';
import * as v from 'valibot';
import { beforeAll, describe, expect, it } from 'vitest';
import { MeshBuilder } from '../geometry/shapes';
import { sourceMaterialSchema } from '../model/schema';
import { finishOfMaterial } from '../scene/scene';
import { gltfReader, type GltfReader } from './gltf';
import { made, meshOf, PICTURE, readMade } from './gltf-made';

/** What comes of glTF's materials: their factors, pictures and variants. */

const HASH = 'a'.repeat(64);
const box = new MeshBuilder().box([0, 0, 0], [1, 2, 3]).build();

let io: GltfReader;
beforeAll(async () => {
  io = await gltfReader();
});
const read = (document: Document) => readMade(io, document);

describe('a material of a glTF file', () => {
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
    const assigned = [...model.elements.values()].map(({ id, option, parts }) => [id, option, parts[0]!.material, parts[0]!.mesh]);
    const floor = assigned[0]![3];
    expect(assigned.slice(0, 3)).toEqual([
      ['/Floor', 'As it comes', 'Bare', floor],
      ['/Floor~Light', 'Light', 'Oak', floor],
      ['/Floor~Dark', 'Dark', 'Slate', floor],
    ]);
    expect(assigned[3]!.slice(0, 2)).toEqual(['/Wall', null]);
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

  it('lays each picture by its own coordinates and transform, also where a variant has others; more than eight ways lie by the first', async () => {
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
});
