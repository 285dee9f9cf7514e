import { WebIO, type Accessor, type Texture } from '@gltf-transform/core';
import {
  ALL_EXTENSIONS,
  type Clearcoat,
  type Dispersion,
  type Iridescence,
  type Sheen,
  type Transmission,
} from '@gltf-transform/extensions';
import sharp from 'sharp';
import type { Light } from '@gltf-transform/extensions';
import { validateBytes } from 'gltf-validator';
import { beforeAll, describe, expect, it } from 'vitest';
import { buildMarramLanding } from '../../author/model/build';
import { storedMesh } from '../../author/model/kit';
import { DEFAULT_PARAMETERS } from '../../author/model/parameters';
import { FINISHES } from '../finish/library';
import { generateMaps } from '../finish/maps/generate';
import { composePictures, mapSetsOf, pictureMapsName, picturesOf } from '../scene/material-pictures';
import type { MapSet, TextureImage } from '../finish/maps/texture-image';
import { prepareKey, prepareMesh, type PreparedMesh } from '../geometry/prepare-mesh';
import { transformPoint, type Mat4 } from '../geometry/mat4';
import { authoredUvsKey, decodeMesh, type Mesh } from '../geometry/mesh';
import { MeshBuilder } from '../geometry/shapes';
import type { SceneAssets } from '../scene/rendered-scene';
import { compileScene } from '../scene/compile';
import type { Scene, SceneInstance } from '../scene/scene';
import { gltfReader, readGltf } from './gltf';
import { writeGltf } from './gltf-writer';

/** Everything that leaves is given to the standard's own validator. */

const png = (texels: Uint8Array, width: number, height: number) => sharp(texels, { raw: { width, height, channels: texels.length === width * height * 4 ? 4 : 3 } }).png().toBuffer(); // prettier-ignore
const box = prepareMesh(new MeshBuilder().box([0, 0, 0], [1, 2, 3]).build());
const finish = (id: string) => FINISHES.find((f) => f.id === id)!;
const IN_PLACE: Mat4 = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

const instance = (extra: Partial<SceneInstance> = {}): SceneInstance => ({
  source: 's', element: 'wall', part: 0, material: 'm', mesh: 'box', transform: IN_PLACE, finish: finish('plaster'), emissionScale: 1, lens: false, ...extra,
}); // prettier-ignore

/** Maps of 16 pixels, so that every finish is quick. */
const assets: SceneAssets = {
  mesh: (hash) => (hash === 'box' ? box : undefined),
  maps: (name) => {
    const maps = generateMaps(name, 16);
    return maps && { base: { width: 16, height: 16, texels: maps.base }, surface: { width: 16, height: 16, texels: maps.surface } };
  },
};

async function written(scene: Scene, from = assets) {
  const bytes = await writeGltf(scene, from, png);
  const { issues, info } = await validateBytes(bytes);
  expect(issues.messages.filter((m) => m.severity < 2)).toEqual([]);
  return { bytes, info, document: await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes) };
}

describe('a dressed model as GLB', () => {
  it('passes the standard’s validator with every shipped finish, and carries its values', async () => {
    const instances = FINISHES.map((f) => instance({ element: f.id, finish: f }));
    const { document, info } = await written({ instances, lamps: [] });
    expect(info.totalTriangleCount).toBe(12 * FINISHES.length);
    const materials = new Map(document.getRoot().listMaterials().map((m) => [m.getExtras()['finish'], m])); // prettier-ignore
    for (const f of FINISHES) {
      const material = materials.get(f.id)!;
      expect(material.getName()).toBe(f.name);
      expect(material.getRoughnessFactor()).toBeCloseTo(f.roughness, 6);
      expect(material.getMetallicFactor()).toBeCloseTo(f.metalness, 6);
      expect(material.getBaseColorTexture() !== null).toBe(f.maps !== null);
      expect(material.getExtension('KHR_materials_transmission') !== null).toBe(f.transmission > 0);
    }
  });

  it('stands as it stood: written and read again, every corner is where it was', async () => {
    const [c, s] = [Math.cos(0.4), Math.sin(0.4)];
    const placings: Record<string, Mat4> = {
      turned: [c, s, 0, 0, -s, c, 0, 0, 0, 0, 1, 0, 5, -3, 2, 1],
      scaled: [2, 0, 0, 0, 0, 3, 0, 0, 0, 0, 0.5, 0, 1, 2, 3, 1],
      mirrored: [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 7, 1],
      sheared: [1, 0, 0, 0, 0.5, 1, 0, 0, 0, 0, 1, 0, -4, 0, 0, 1],
    };
    const { bytes } = await written({
      instances: Object.entries(placings).map(([element, transform]) => instance({ element, transform })),
      lamps: [],
    });
    const { model, meshes } = await readGltf(await gltfReader(), bytes, 'out.glb');
    const extent = (points: readonly (readonly number[])[]) =>
      [0, 1, 2].flatMap((k) => [Math.min(...points.map((p) => p[k]!)), Math.max(...points.map((p) => p[k]!))]);
    for (const [name, transform] of Object.entries(placings)) {
      const element = model.elements.get(`/Model/${name}`)!;
      const positions = new Float32Array(meshes.get(element.parts[0]!.mesh)!.slice(16).buffer, 0, 24 * 3);
      const corners = (list: Float32Array, m: Mat4) =>
        Array.from({ length: list.length / 3 }, (_, i) => transformPoint(m, [list[i * 3]!, list[i * 3 + 1]!, list[i * 3 + 2]!]));
      const [is, was] = [extent(corners(positions, element.transform)), extent(corners(box.positions.slice(0, 72), transform))];
      for (const [i, v] of is.entries()) expect(v).toBeCloseTo(was[i]!, 4);
    }
  });

  it('shares meshes and materials, and repeats maps at their size', async () => {
    const oak = finish('oak');
    const { document } = await written({
      instances: [instance({ element: 'a', finish: oak }), instance({ element: 'b', finish: oak }), instance({ element: 'c', finish: oak, transform: [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 1] })],
      lamps: [],
    }); // prettier-ignore
    const root = document.getRoot();
    expect([root.listMeshes().length, root.listMaterials().length, root.listNodes().length]).toEqual([2, 1, 4]); // A scaled copy has the maps at the same size, so coordinates of its own.
    const primitive = root.listMeshes()[0]!.listPrimitives()[0]!;
    const [place, uv, corner] = [primitive.getAttribute('POSITION')!, primitive.getAttribute('TEXCOORD_0')!, primitive.getIndices()!];
    for (let i = 0; i < corner.getCount(); i++) {
      const [a, b] = [corner.getScalar(i), corner.getScalar(i % 3 === 2 ? i - 2 : i + 1)];
      const [p, q] = [place.getElement(a, []), place.getElement(b, [])];
      const [s, t] = [uv.getElement(a, []), uv.getElement(b, [])];
      const onMap = Math.hypot((t[0]! - s[0]!) * oak.widthM, (t[1]! - s[1]!) * oak.heightM);
      expect(onMap).toBeCloseTo(Math.hypot(...p.map((v, k) => q[k]! - v)), 4);
    }
  });

  it('writes what is set many times as instances of one node, which come back where they were', async () => {
    const at = (x: number, turn: number, size: number): Mat4 => {
      const [c, s] = [Math.cos(turn) * size, Math.sin(turn) * size];
      return [c, s, 0, 0, -s, c, 0, 0, 0, 0, size, 0, x, 2 * x, 0.5, 1];
    };
    const places = [at(0, 0, 1), at(4, 1.1, 0.8), at(9, -2.5, 1.3)];
    const plain = { ...finish('plaster'), maps: null };
    const set = places.map((transform, i) => instance({ source: '+setting', element: `area/${String(i)}`, finish: plain, transform }));
    const bytes = await writeGltf({ instances: [...set, instance({ element: 'alone', finish: plain })], lamps: [] }, assets, png, '+setting');
    const { issues } = await validateBytes(bytes);
    expect(issues.messages.filter((m) => m.severity < 2)).toEqual([]);
    const document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes);
    expect(document.getRoot().listNodes().filter((node) => node.getMesh())).toHaveLength(2);
    const back = [...(await readGltf(await gltfReader(), bytes, 'set.glb')).model.elements.values()].filter(({ id }) => id.includes('@'));
    expect(back).toHaveLength(3);
    for (const [i, { transform }] of back.entries()) for (const corner of [[0, 0, 0], [1, 2, 3]] as const) {
      const [is, was] = [transformPoint(transform, [...corner]), transformPoint(places[i]!, [...corner])];
      for (let k = 0; k < 3; k++) expect(is[k]).toBeCloseTo(was[k]!, 4);
    }
  }); // prettier-ignore

  it('gives tangents that run along the map, square on the surface, and bitangents that point up it', async () => {
    const { document } = await written({ instances: [instance({ finish: finish('oak') })], lamps: [] });
    const primitive = document.getRoot().listMeshes()[0]!.listPrimitives()[0]!;
    const [place, normal, uv, tangent, corner] = [
      ...['POSITION', 'NORMAL', 'TEXCOORD_0', 'TANGENT'].map((semantic) => primitive.getAttribute(semantic)!),
      primitive.getIndices()!,
    ] as [Accessor, Accessor, Accessor, Accessor, Accessor];
    const dot = (a: number[], b: number[]) => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;
    for (let t = 0; t < corner.getCount(); t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => corner.getScalar(t + k)) as [number, number, number];
      const edge = (to: number) => place.getElement(to, []).map((v, k) => v - place.getElement(a, [])[k]!);
      const step = (to: number) => uv.getElement(to, []).map((v, k) => v - uv.getElement(a, [])[k]!) as [number, number];
      const [[u1, v1], [u2, v2]] = [step(b), step(c)];
      const det = u1 * v2 - u2 * v1;
      const alongU = edge(b).map((e, k) => (e * v2 - edge(c)[k]! * v1) / det);
      const alongV = edge(b).map((e, k) => (edge(c)[k]! * u1 - e * u2) / det);
      const n = normal.getElement(a, []);
      const [x, y, z, w] = tangent.getElement<number[]>(a, []) as [number, number, number, number];
      expect(dot(n, [x, y, z])).toBeCloseTo(0, 5);
      expect(dot(alongU, [x, y, z])).toBeGreaterThan(0.99 * Math.hypot(...alongU));
      const bitangent = [n[1]! * z - n[2]! * y, n[2]! * x - n[0]! * z, n[0]! * y - n[1]! * x].map((v) => v * w);
      expect(dot(alongV, bitangent)).toBeLessThan(-0.99 * Math.hypot(...alongV));
    }
  });

  it('has the holes of what is cut out, and what shines, is varnished, clear or woolly in places, there', async () => {
    const square = (texel: (i: number) => number[]) => ({ width: 2, height: 1, texels: Uint8Array.from([texel(0), texel(1)].flat()) });
    const maps = { base: square((i) => [200, 100, 50, i * 255]), surface: undefined, packedFactors: square((i) => [255, i * 255, i * 128, 255]), sheen: square((i) => [i * 188, 0, 70, 255]), emission: square((i) => [i * 90, 0, 0, 255]) };
    const look = { ...finish('plaster'), maps: 'places', cutOut: true, clearCoat: 1, transmission: 1, sheen: 1, emissionCdM2: 50, film: 0.5, filmNm: 300, body: 'solid', dispersion: 0.3 } as const;
    const { document } = await written(
      { instances: [instance({ finish: look }), instance({ element: 'b', finish: { ...look, cutOut: false } })], lamps: [] },
      { ...assets, maps: () => maps },
    );
    const [material, other] = document.getRoot().listMaterials();
    expect([material!.getAlphaMode(), other!.getAlphaMode()]).toEqual(['MASK', 'BLEND']);
    const texels = async (texture: Texture | null | undefined) => [...(await sharp(texture!.getImage()!).raw().toBuffer())];
    expect(await texels(material!.getBaseColorTexture())).toEqual([200, 100, 50, 0, 200, 100, 50, 255]);
    expect(await texels(material!.getEmissiveTexture())).toEqual([0, 0, 0, 90, 0, 0]);
    expect(await texels(material!.getExtension<Clearcoat>('KHR_materials_clearcoat')!.getClearcoatTexture())).toEqual([0, 0, 0, 255, 255, 255]);
    expect(await texels(material!.getExtension<Transmission>('KHR_materials_transmission')!.getTransmissionTexture())).toEqual([0, 0, 0, 128, 128, 128]);
    expect(material!.getExtension<Iridescence>('KHR_materials_iridescence')!.getIridescenceThicknessMaximum()).toBe(300);
    expect(material!.getExtension<Dispersion>('KHR_materials_dispersion')!.getDispersion()).toBeCloseTo(0.3);
    expect(await texels(material!.getExtension<Sheen>('KHR_materials_sheen')!.getSheenColorTexture())).toEqual([0, 0, 70, 255, 188, 0, 70, 255]);
  }); // prettier-ignore

  it('comes back as it went out: what lies on surfaces, how they are brushed, mirror and scatter through', async () => {
    const one = (...texel: number[]) => ({ width: 2, height: 1, texels: Uint8Array.from([...texel, ...texel]) });
    const maps = {
      base: one(200, 100, 50, 255), surface: undefined,
      filmAndCoat: one(60, 30, 50, 255), sheen: one(3, 4, 5, 40), coatNormal: one(140, 100, 166, 178), specular: one(7, 8, 9, 250), diffuseTransmission: one(10, 11, 12, 250),
    }; // prettier-ignore
    const look = {
      clearCoat: 0.8, clearCoatRoughness: 0.7, clearCoatNormal: 0.5, sheen: 1, sheenRoughness: 0.6, film: 0.5, filmNm: 500, filmLeastNm: 200,
      anisotropy: 0.75, anisotropyDeg: 30, specular: 0.5, diffuseTransmission: 0.25,
    } as const; // prettier-ignore
    const { bytes } = await written(
      { instances: [instance({ finish: { ...finish('plaster'), ...look, maps: 'all', specularColour: [1, 0, 1], diffuseTransmissionColour: [0, 1, 1] } })], lamps: [] },
      { ...assets, maps: () => maps },
    ); // prettier-ignore
    const again = await readGltf(await gltfReader(), bytes, 'out.glb');
    const [material] = again.model.materials.values();
    // The picture stands on its head in glTF, so the grain turns the other way in it.
    expect(material).toMatchObject({ specularColour: [1, 0, 1], diffuseTransmissionColour: [0, 1, 1], clearCoat: 0.8, filmLeastNm: 200 });
    expect(material!.anisotropyDeg).toBeCloseTo(-30, 4);
    const composed = await composePictures(new Map(picturesOf(pictureMapsName(material!.texture!))), async (key) => {
      const { data, info } = await sharp(again.pictures.get(key)).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
      return { width: info.width, height: info.height, texels: new Uint8Array(data) };
    });
    const texel = (image: TextureImage | undefined) => [...image!.texels.subarray(0, 4)];
    expect([texel(composed.filmAndCoat), texel(composed.sheen), texel(composed.specular), texel(composed.diffuseTransmission)]).toEqual([[60, 30, 50, 255], [3, 4, 5, 40], [7, 8, 9, 250], [10, 11, 12, 250]]); // prettier-ignore
    // Green up the picture there, down its rows here; a step is lost on the way.
    [140, 155, 166, 77].forEach((value, i) => { expect(Math.abs(texel(composed.coatNormal)[i]! - value)).toBeLessThan(2); }); // prettier-ignore
  });

  it('lays each picture by its own coordinates, and brings them back so', async () => {
    const two = (a: number[], b: number[]) => ({ width: 2, height: 1, texels: Uint8Array.from([...a, ...b]) });
    const maps = pictureMapsName({ image: 'a', occlusion: 'b', roughnessMetalness: 'c', specular: 'd', sets: { occlusion: 1, roughnessMetalness: 2, specular: 1 }, widthM: 1, heightM: 1 });
    const [first, second, third] = mapSetsOf(maps) as [string, string, string];
    const white = { width: 1, height: 1, texels: Uint8Array.of(255, 255, 255, 255) };
    const sets: Readonly<Record<string, MapSet>> = {
      [first]: { base: two([200, 100, 50, 255], [20, 10, 5, 255]), surface: undefined },
      [second]: { base: two([170, 170, 170, 255], [255, 255, 255, 255]), surface: undefined, specular: two([255, 255, 255, 30], [255, 255, 255, 90]) },
      [third]: { base: white, surface: two([128, 128, 60, 128], [128, 128, 70, 128]), packedFactors: two([90, 255, 255, 255], [99, 255, 255, 255]) },
    };
    const pictureUvs = new Float32Array([0, 0, 1, 0, 1, 1, 0, 1]);
    const laid = prepareKey(authoredUvsKey('q'), {
      positions: new Float32Array([0, 0, 0, 2, 0, 0, 2, 2, 0, 0, 2, 0]), indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
      pictureUvs, furtherUvs: [pictureUvs.map((c) => c / 4), pictureUvs.map((c) => c * 8)],
    });
    const look = { ...finish('plaster'), maps, widthM: 1, heightM: 1, metalness: 1, breakRepeat: false };
    const { bytes } = await written({ instances: [instance({ finish: look })], lamps: [] }, { mesh: () => laid, maps: (name) => sets[name] });
    const again = await readGltf(await gltfReader(), bytes, 'out.glb');
    const [material] = again.model.materials.values();
    expect(material!.texture!.sets).toEqual({ roughnessMetalness: 1, occlusion: 2, specular: 2 });
    const [{ parts }] = [...again.model.elements.values()] as unknown as [{ parts: { mesh: string }[] }];
    const back = decodeMesh(again.meshes.get(parts[0]!.mesh)!) as Mesh;
    const widths = [back.pictureUvs!, ...back.furtherUvs!].map((uvs) => Math.max(...uvs.filter((_, i) => i % 2 === 0)));
    expect(widths).toEqual([1, 8, 0.25]);
    const composed = await Promise.all(mapSetsOf(pictureMapsName(material!.texture!)).map((name) => composePictures(picturesOf(name)!, async (key) => {
      const { data, info } = await sharp(again.pictures.get(key)).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
      return { width: info.width, height: info.height, texels: new Uint8Array(data) };
    })));
    const texel = (image: TextureImage | undefined) => [...image!.texels.subarray(0, 4)];
    expect([texel(composed[0]!.base), texel(composed[1]!.surface), texel(composed[1]!.packedFactors), texel(composed[2]!.base), texel(composed[2]!.specular)]).toEqual(
      [[200, 100, 50, 255], [128, 128, 60, 128], [90, 255, 255, 255], [170, 170, 170, 255], [255, 255, 255, 30]],
    );
  }); // prettier-ignore

  it('brings its lamps back with the same flux and direction', async () => {
    const model = buildMarramLanding(DEFAULT_PARAMETERS);
    const scene = compileScene([{ id: 'demo', model }], new Map());
    const { bytes } = await written({ instances: [instance()], lamps: scene.lamps });
    const again = await readGltf(await gltfReader(), bytes, 'out.glb');
    expect(again.model.luminaires.size).toBe(scene.lamps.length);
    const [lamp] = scene.lamps;
    const back = [...again.model.luminaires.values()][0]!;
    expect(back.fluxLm / model.luminaires.get(lamp!.id)!.fluxLm / model.luminaires.get(lamp!.id)!.dim).toBeCloseTo(1, 1);
    // As receivers have it: colour times intensity is the lamp's luminance.
    const { document } = await written({ instances: [instance()], lamps: [lamp!] });
    const light = document.getRoot().listNodes().map((node) => node.getExtension<Light>('KHR_lights_punctual')).find((each) => each)!; // prettier-ignore
    const [r, g, b] = light.getColor();
    expect((light.getIntensity() * (0.2126 * r + 0.7152 * g + 0.0722 * b)) / lamp!.beam.intensityCd).toBeCloseTo(1, 4);
    const length = Math.hypot(...lamp!.axis);
    back.direction.forEach((v, i) => {
      expect(v).toBeCloseTo(lamp!.axis[i]! / length, 3);
    });
    back.position.forEach((v, i) => {
      expect(v).toBeCloseTo(lamp!.position[i]!, 4);
    });
  });

  let demo: Scene;
  beforeAll(() => {
    demo = compileScene([{ id: 'demo', model: buildMarramLanding(DEFAULT_PARAMETERS) }], new Map());
  });
  it('holds the whole demo building without a fault', async () => {
    const prepared = new Map<string, PreparedMesh>();
    const mesh = (hash: string) => {
      if (!prepared.has(hash)) prepared.set(hash, prepareMesh(storedMesh(hash)!.mesh));
      return prepared.get(hash);
    };
    const { info, document } = await written(demo, { ...assets, mesh });
    const placed = document.getRoot().listNodes().flatMap((n) => n.getMesh()?.listPrimitives() ?? []);
    const triangles = placed.reduce((sum, p) => sum + p.getIndices()!.getCount() / 3, 0);
    expect(triangles).toBe(demo.instances.reduce((sum, i) => sum + mesh(i.mesh)!.indices.length / 3, 0));
    expect(info.totalTriangleCount).toBeLessThan(triangles / 2);
    expect(document.getRoot().listNodes().filter((n) => n.getMesh())).toHaveLength(new Set(demo.instances.map((i) => i.element)).size);
  }); // prettier-ignore
});
