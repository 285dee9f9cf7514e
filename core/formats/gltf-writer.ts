import { Document, MathUtils, WebIO, type Accessor, type Buffer, type Material, type Mesh } from '@gltf-transform/core';
import {
  EXTMeshGPUInstancing,
  KHRLightsPunctual,
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
  KHRMaterialsVolume,
} from '@gltf-transform/extensions';
import { addTo } from '../grouping';
import { hasAuthoredUvs } from '../geometry/mesh';
import { adjustmentMatrix, isAdjusted } from '../finish/adjust';
import { type Finish, PLAIN_VARIATION } from '../finish/finish';
import { inRepeats } from '../finish/repeats';
import type { MapSet } from '../finish/maps/texture-image';
import { mapSetsOf } from '../scene/material-pictures';
import { uvSet, type PreparedMesh } from '../geometry/prepare-mesh';
import { transformDirection, transformPoint, type Mat4, meanScale } from '../geometry/mat4';
import { decodeSrgb } from '../image/tone';
import type { SceneAssets } from '../scene/rendered-scene';
import { baseFactor, texturesOfMaps, type MapTextures, type PngEncoder } from './gltf-maps';
import { picturesOf } from './gltf-pictures';
import type { Scene, SceneInstance, SceneLamp } from '../scene/scene';

const IO = new WebIO().registerExtensions([
  EXTMeshGPUInstancing,
  KHRLightsPunctual,
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
  KHRMaterialsVolume,
]);

/** The model's z-up becomes glTF's y-up: a quarter turn about x, as a quaternion. */
const TO_Y_UP: [number, number, number, number] = [-Math.SQRT1_2, 0, 0, Math.SQRT1_2];

/**
 * The dressed model as a GLB: elements as nodes with their own names, finishes as materials with maps, lamps as lights. Elements of
 * a source that is `repeated` are instances of one node where they are alike (EXT_mesh_gpu_instancing).
 */
export async function writeGltf(scene: Scene, assets: SceneAssets, png: PngEncoder, repeated?: string): Promise<Uint8Array<ArrayBuffer>> {
  const writer = new SceneWriter(assets, png);
  const alike = new Map<string, (readonly SceneInstance[])[]>();
  for (const parts of elementsOf(scene.instances).values()) {
    const key = parts[0]!.source === repeated ? keyOfRepeated(parts) : undefined;
    if (key === undefined) await writer.addElement(parts);
    else addTo(alike, key, parts);
  }
  for (const elements of alike.values()) await writer.addRepeated(elements);
  for (const lamp of scene.lamps) writer.addLamp(lamp);
  return IO.writeBinary(writer.document);
}

/** What elements have in common that are alike but for their place; undefined: each has coordinates of its own, or is sheared. */
function keyOfRepeated(parts: readonly SceneInstance[]): string | undefined {
  const isSimple = parts.every(({ mesh, finish, transform }) => (finish.maps === null || hasAuthoredUvs(mesh)) && !shears(transform));
  return isSimple ? JSON.stringify(parts.map(({ mesh, finish }) => [mesh, finish.id])) : undefined;
}

function elementsOf(instances: readonly SceneInstance[]): Map<string, SceneInstance[]> {
  const elements = new Map<string, SceneInstance[]>();
  for (const instance of instances) {
    const key = JSON.stringify([instance.source, instance.element]);
    elements.set(key, [...(elements.get(key) ?? []), instance]);
  }
  return elements;
}

class SceneWriter {
  readonly document = new Document();
  private readonly buffer: Buffer = this.document.createBuffer();
  private readonly root = this.document.createNode('Model').setRotation(TO_Y_UP);
  private readonly meshes = new Map<string, Mesh>();
  private readonly shapes = new Map<string, { positions: Accessor; normals: Accessor; indices: Accessor }>();
  private readonly mappings = new Map<string, Accessor>();
  private readonly tangents = new Map<Accessor, Map<Accessor, Accessor>>();
  private readonly materials = new Map<string, Promise<Material>>();
  private readonly textures = new Map<string, Promise<MapTextures | undefined>>();

  constructor(
    private readonly assets: SceneAssets,
    private readonly png: PngEncoder,
  ) {
    this.document.getRoot().getAsset().generator = 'Diaphane';
    this.document.createScene('Model').addChild(this.root);
  }

  async addElement(parts: readonly SceneInstance[]): Promise<void> {
    const shown = parts.filter(({ mesh }) => (this.assets.mesh(mesh)?.indices.length ?? 0) > 0);
    if (shown.length === 0) return;
    const { element, source, transform } = shown[0]!;
    // glTF's nodes turn, scale and move; what shears is written into the mesh instead.
    const sheared = shears(transform);
    const mesh = await this.meshOf(shown, sheared ? transform : undefined);
    const node = this.document.createNode(element).setMesh(mesh).setExtras({ element, source });
    if (!sheared) node.setMatrix([...transform] as Parameters<typeof node.setMatrix>[0]);
    this.root.addChild(node);
  }

  /** Elements that are alike but for their place. */
  async addRepeated(elements: readonly (readonly SceneInstance[])[]): Promise<void> {
    const shown = elements[0]!.filter(({ mesh }) => (this.assets.mesh(mesh)?.indices.length ?? 0) > 0);
    if (shown.length === 0) return;
    const places = [new Float32Array(elements.length * 3), new Float32Array(elements.length * 4), new Float32Array(elements.length * 3)] as const;
    for (const [i, [first]] of elements.entries()) {
      const [t, r, s]: [[number, number, number], [number, number, number, number], [number, number, number]] = [[0, 0, 0], [0, 0, 0, 1], [1, 1, 1]];
      MathUtils.decompose([...first!.transform] as Parameters<typeof MathUtils.decompose>[0], t, r, s);
      for (const [k, value] of [t, r, s].entries()) places[k]!.set(value, i * value.length);
    }
    const batch = this.document.createExtension(EXTMeshGPUInstancing).setRequired(true).createInstancedMesh();
    batch.setAttribute('TRANSLATION', this.vectors(places[0])).setAttribute('ROTATION', this.accessor('VEC4', places[1])).setAttribute('SCALE', this.vectors(places[2]));
    const { source, element } = shown[0]!;
    const node = this.document.createNode(element).setMesh(await this.meshOf(shown, undefined)).setExtension('EXT_mesh_gpu_instancing', batch);
    this.root.addChild(node.setExtras({ source, elements: elements.map(([first]) => first!.element) }));
  } // prettier-ignore

  addLamp({ id, position, axis, beam, colour }: SceneLamp): void {
    const lights = this.document.createExtension(KHRLightsPunctual);
    const around = beam.cosOuter <= -1;
    const peak = Math.max(...colour) || 1;
    const light = lights
      .createLight(id)
      .setType(around ? 'point' : 'spot')
      // Receivers multiply intensity and colour: together they have the lamp's luminance.
      .setIntensity(beam.intensityCd * peak);
    light.setColor(colour.map((c) => c / peak) as [number, number, number]);
    if (!around) {
      const outer = Math.min(Math.PI / 2, Math.acos(beam.cosOuter));
      light.setOuterConeAngle(outer).setInnerConeAngle(Math.min(Math.acos(Math.min(1, beam.cosInner)), outer * 0.999));
    }
    const node = this.document
      .createNode(id)
      .setTranslation([...position])
      .setRotation(turnFromMinusZ(axis));
    this.root.addChild(node.setExtension('KHR_lights_punctual', light));
  }

  private async meshOf(parts: readonly SceneInstance[], baked: Mat4 | undefined): Promise<Mesh> {
    const key =
      parts.map(({ mesh, finish, transform, variation }) => `${mesh}|${finish.maps === null ? '' : String(meanScale(transform))}|${JSON.stringify([finish, variation])}`).join('|') + JSON.stringify(baked ?? null); // prettier-ignore
    const known = this.meshes.get(key);
    if (known) return known;
    const mesh = this.document.createMesh(parts[0]!.finish.name);
    for (const part of parts) {
      const { positions, normals, indices } = this.shapeOf(part.mesh, baked);
      const primitive = this.document.createPrimitive().setAttribute('POSITION', positions).setAttribute('NORMAL', normals);
      primitive.setIndices(indices).setMaterial(await this.materialOf(part.finish));
      if (part.finish.maps !== null) {
        const sets = this.setsOf(part.finish);
        const mappings = (sets.length > 0 ? sets : [0]).map((_, set) => this.mappingOf(part, meanScale(part.transform), set));
        for (const [set, mapping] of mappings.entries()) primitive.setAttribute(`TEXCOORD_${String(set)}`, mapping);
        // Normals of two sets have no common frame; who reads them makes one for each.
        const [tilted, another] = sets.flatMap(({ maps }, set) => ((maps.surface ?? maps.coatNormal) ? [set] : []));
        if (tilted !== undefined && another === undefined)
          primitive.setAttribute('TANGENT', this.tangentsOf(positions, normals, indices, mappings[tilted]!));
      }
      mesh.addPrimitive(primitive);
    }
    this.meshes.set(key, mesh);
    return mesh;
  }

  private shapeOf(hash: string, baked: Mat4 | undefined): { positions: Accessor; normals: Accessor; indices: Accessor } {
    const key = hash + JSON.stringify(baked ?? null);
    let shape = this.shapes.get(key);
    if (!shape) {
      const mesh = this.assets.mesh(hash)!;
      const { positions, normals } = baked ? moved(mesh, baked) : mesh;
      shape = {
        positions: this.vectors(positions),
        normals: this.vectors(unit(normals)),
        indices: this.accessor('SCALAR', new Uint32Array(mesh.indices)),
      };
      this.shapes.set(key, shape);
    }
    return shape;
  }

  /** Texture coordinates in repeats of the finish's maps, assigned as the element has it: glTF knows no metres. */
  private mappingOf({ mesh, finish, variation = PLAIN_VARIATION }: SceneInstance, scale: number, set: number): Accessor {
    const { widthM, heightM, rotationDeg, offsetM } = finish;
    const key = JSON.stringify([mesh, set, widthM, heightM, rotationDeg, offsetM, variation, scale]);
    let mapping = this.mappings.get(key);
    if (!mapping) {
      const uvs = uvSet(this.assets.mesh(mesh)!, set);
      const repeats = inRepeats(uvs, finish, variation, scale);
      this.mappings.set(key, (mapping = this.accessor('VEC2', repeats)));
    }
    return mapping;
  }

  private tangentsOf(positions: Accessor, normals: Accessor, indices: Accessor, mapping: Accessor): Accessor {
    let known = this.tangents.get(positions);
    if (!known) this.tangents.set(positions, (known = new Map<Accessor, Accessor>()));
    let made = known.get(mapping);
    if (!made) {
      const [p, n, i, uv] = [positions, normals, indices, mapping].map((a) => a.getArray() as ArrayLike<number>) as [ArrayLike<number>, ArrayLike<number>, ArrayLike<number>, ArrayLike<number>]; // prettier-ignore
      known.set(mapping, (made = this.accessor('VEC4', tangents(p, n, i, uv))));
    }
    return made;
  }

  private materialOf(finish: Finish): Promise<Material> {
    const key = JSON.stringify(finish);
    let material = this.materials.get(key);
    if (!material) this.materials.set(key, (material = this.createMaterial(finish)));
    return material;
  }

  private async createMaterial(finish: Finish): Promise<Material> {
    const { document } = this;
    const linear = finish.baseColour.map(decodeSrgb) as [number, number, number];
    const maps = await this.texturesOf(finish);
    const factor = baseFactor(finish, maps !== undefined);
    const material = document
      .createMaterial(finish.name)
      .setBaseColorFactor([...factor, finish.opacity])
      .setMetallicFactor(finish.metalness)
      .setRoughnessFactor(finish.roughness)
      .setDoubleSided(finish.body !== 'solid')
      .setExtras({ finish: finish.id, widthM: finish.widthM, heightM: finish.heightM });
    if (finish.cutOut) material.setAlphaMode('MASK');
    else if (finish.opacity < 1 || maps?.fades) material.setAlphaMode('BLEND');
    if (maps) material.setBaseColorTexture(maps.base).setNormalTexture(maps.normal).setNormalScale(finish.normalScale).setMetallicRoughnessTexture(maps.roughness).setOcclusionTexture(maps.occlusion); // prettier-ignore
    if (finish.ior !== 1.5)
      material.setExtension('KHR_materials_ior', document.createExtension(KHRMaterialsIOR).createIOR().setIOR(finish.ior));
    if (finish.transmission > 0) {
      const clear = document.createExtension(KHRMaterialsTransmission).createTransmission().setTransmissionFactor(finish.transmission);
      clear.setTransmissionTexture(maps?.clear ?? null);
      material.setExtension('KHR_materials_transmission', clear);
    }
    if (finish.body === 'solid' && finish.transmission > 0) {
      const volume = document.createExtension(KHRMaterialsVolume).createVolume().setThicknessFactor(1);
      volume.setAttenuationColor(finish.attenuationColour.map(decodeSrgb) as [number, number, number]);
      if (finish.attenuationDistanceM !== null) volume.setAttenuationDistance(finish.attenuationDistanceM);
      material.setExtension('KHR_materials_volume', volume);
    }
    if (finish.film > 0) {
      const film = document.createExtension(KHRMaterialsIridescence).createIridescence().setIridescenceFactor(finish.film);
      const least = maps?.filmThickness ? finish.filmLeastNm : finish.filmNm;
      film.setIridescenceIOR(finish.filmIor).setIridescenceThicknessMinimum(least).setIridescenceThicknessMaximum(finish.filmNm);
      film.setIridescenceTexture(maps?.film ?? null).setIridescenceThicknessTexture(maps?.filmThickness ?? null);
      material.setExtension('KHR_materials_iridescence', film);
    }
    if (finish.specular < 1 || finish.specularColour.some((c) => c < 1) || maps?.mirror || maps?.mirrorColour) {
      const shine = document.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(finish.specular);
      shine.setSpecularColorFactor(finish.specularColour.map(decodeSrgb) as [number, number, number]);
      shine.setSpecularTexture(maps?.mirror ?? null).setSpecularColorTexture(maps?.mirrorColour ?? null);
      material.setExtension('KHR_materials_specular', shine);
    }
    if (finish.dispersion > 0) {
      const spread = document.createExtension(KHRMaterialsDispersion).createDispersion().setDispersion(finish.dispersion);
      material.setExtension('KHR_materials_dispersion', spread);
    }
    if (finish.clearCoat > 0) {
      const coat = document.createExtension(KHRMaterialsClearcoat).createClearcoat();
      coat.setClearcoatFactor(finish.clearCoat).setClearcoatRoughnessFactor(finish.clearCoatRoughness);
      coat.setClearcoatTexture(maps?.coat ?? null).setClearcoatRoughnessTexture(maps?.coatRoughness ?? null);
      if (maps && finish.clearCoatNormal > 0) {
        coat.setClearcoatNormalTexture(maps.coatNormal ?? maps.normal);
        coat.setClearcoatNormalScale(maps.coatNormal ? finish.clearCoatNormal : finish.normalScale * finish.clearCoatNormal);
      }
      material.setExtension('KHR_materials_clearcoat', coat);
    }
    if (finish.anisotropy > 0) {
      const brushed = document.createExtension(KHRMaterialsAnisotropy).createAnisotropy();
      brushed.setAnisotropyStrength(finish.anisotropy).setAnisotropyRotation((-finish.anisotropyDeg * Math.PI) / 180);
      brushed.setAnisotropyTexture(maps?.brushing ?? null);
      material.setExtension('KHR_materials_anisotropy', brushed);
    }
    if (finish.sheen > 0) {
      const colour = finish.sheenColour.map((c) => decodeSrgb(c) * finish.sheen) as [number, number, number];
      const fibres = document
        .createExtension(KHRMaterialsSheen)
        .createSheen()
        .setSheenColorFactor(colour)
        .setSheenRoughnessFactor(finish.sheenRoughness);
      fibres.setSheenColorTexture(maps?.sheen ?? null).setSheenRoughnessTexture(maps?.sheenRoughness ?? null);
      material.setExtension('KHR_materials_sheen', fibres);
    }
    if (finish.diffuseTransmission > 0) {
      const through = document.createExtension(KHRMaterialsDiffuseTransmission).createDiffuseTransmission();
      const colour = finish.diffuseTransmissionColour?.map(decodeSrgb) as [number, number, number] | undefined;
      through.setDiffuseTransmissionFactor(finish.diffuseTransmission).setDiffuseTransmissionColorFactor(colour ?? linear);
      through.setDiffuseTransmissionTexture(maps?.through ?? null).setDiffuseTransmissionColorTexture(maps?.throughColour ?? null);
      material.setExtension('KHR_materials_diffuse_transmission', through);
    }
    if (finish.emissionCdM2 > 0) {
      const glow = document.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(finish.emissionCdM2);
      const [r, g, b] = (finish.emissionColour ?? finish.baseColour).map(decodeSrgb) as [number, number, number];
      material.setEmissiveFactor([r, g, b]).setExtension('KHR_materials_emissive_strength', glow);
      material.setEmissiveTexture(maps?.glow ?? null);
    }
    if (maps && maps.sets.size > 0)
      for (const [texture, info] of Object.values(picturesOf(material))) info?.setTexCoord((texture && maps.sets.get(texture)) ?? 0);
    return material;
  }

  private texturesOf(finish: Finish) {
    const key = isAdjusted(finish) ? JSON.stringify([finish.maps, finish.baseColour, adjustmentMatrix(finish), finish.contrast]) : finish.maps ?? ''; // prettier-ignore
    let textures = this.textures.get(key);
    if (!textures) this.textures.set(key, (textures = texturesOfMaps(this.document, this.setsOf(finish), finish, this.png)));
    return textures;
  }

  /** Its map sets, as far as they are known. */
  private setsOf({ maps }: Finish): { name: string; maps: MapSet }[] {
    const sets = mapSetsOf(maps).map((name) => ({ name, maps: this.assets.maps(name) }));
    const unknown = sets.findIndex((set) => !set.maps);
    return (unknown < 0 ? sets : sets.slice(0, unknown)) as { name: string; maps: MapSet }[];
  }

  private vectors(values: Float32Array): Accessor {
    return this.accessor('VEC3', values);
  }

  private accessor(type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', values: Float32Array | Uint32Array): Accessor {
    return this.document.createAccessor().setType(type).setArray(values.slice()).setBuffer(this.buffer);
  }
}

/** Whether the axes of a placing do not stand square on each other. */
function shears(m: Mat4): boolean {
  const axis = (k: number) => [m[k * 4]!, m[k * 4 + 1]!, m[k * 4 + 2]!];
  const slant = (a: number[], b: number[]) =>
    Math.abs(a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!) / (Math.hypot(...a) * Math.hypot(...b) || 1);
  const [x, y, z] = [axis(0), axis(1), axis(2)];
  return Math.max(slant(x, y), slant(y, z), slant(z, x)) > 1e-4;
}

function moved({ positions, normals }: PreparedMesh, m: Mat4): { positions: Float32Array; normals: Float32Array } {
  // Normals go by the cofactors of the placing, which keep them square on the surface.
  const c: Mat4 = [
    m[5]! * m[10]! - m[6]! * m[9]!, m[6]! * m[8]! - m[4]! * m[10]!, m[4]! * m[9]! - m[5]! * m[8]!, 0,
    m[9]! * m[2]! - m[10]! * m[1]!, m[10]! * m[0]! - m[8]! * m[2]!, m[8]! * m[1]! - m[9]! * m[0]!, 0,
    m[1]! * m[6]! - m[2]! * m[5]!, m[2]! * m[4]! - m[0]! * m[6]!, m[0]! * m[5]! - m[1]! * m[4]!, 0,
    0, 0, 0, 1,
  ]; // prettier-ignore
  const out = { positions: new Float32Array(positions.length), normals: new Float32Array(normals.length) };
  for (let i = 0; i < positions.length; i += 3) {
    out.positions.set(transformPoint(m, [positions[i]!, positions[i + 1]!, positions[i + 2]!]), i);
    out.normals.set(transformDirection(c, [normals[i]!, normals[i + 1]!, normals[i + 2]!]), i);
  }
  return out;
}

/** Normals of length one, which the standard asks for to six digits. */
function unit(normals: Float32Array): Float32Array {
  const out = normals.slice();
  for (let i = 0; i < out.length; i += 3) {
    const length = Math.hypot(out[i]!, out[i + 1]!, out[i + 2]!);
    if (length > 0) for (let k = i; k < i + 3; k++) out[k]! /= length;
    else out[i + 2] = 1;
  }
  return out;
}

/**
 * Directions in which the first texture coordinate grows, square on the normals, for each vertex; the fourth number makes
 * the bitangent point up the picture, which is against the second coordinate.
 */
function tangents(
  positions: ArrayLike<number>,
  normals: ArrayLike<number>,
  indices: ArrayLike<number>,
  uvs: ArrayLike<number>,
): Float32Array {
  const count = positions.length / 3;
  const [along, up] = [new Float64Array(count * 3), new Float64Array(count * 3)];
  for (let t = 0; t + 2 < indices.length; t += 3) {
    const [a, b, c] = [indices[t]!, indices[t + 1]!, indices[t + 2]!];
    const [u1, v1] = [uvs[b * 2]! - uvs[a * 2]!, uvs[b * 2 + 1]! - uvs[a * 2 + 1]!];
    const [u2, v2] = [uvs[c * 2]! - uvs[a * 2]!, uvs[c * 2 + 1]! - uvs[a * 2 + 1]!];
    const turn = Math.sign(u1 * v2 - u2 * v1);
    for (let k = 0; k < 3; k++) {
      const e1 = positions[b * 3 + k]! - positions[a * 3 + k]!;
      const e2 = positions[c * 3 + k]! - positions[a * 3 + k]!;
      for (const corner of [a, b, c]) {
        along[corner * 3 + k]! += turn * (e1 * v2 - e2 * v1);
        up[corner * 3 + k]! += turn * (e1 * u2 - e2 * u1);
      }
    }
  }
  const out = new Float32Array(count * 4);
  for (let i = 0; i < count; i++) {
    const n = [normals[i * 3]!, normals[i * 3 + 1]!, normals[i * 3 + 2]!];
    const d = n[0]! * along[i * 3]! + n[1]! * along[i * 3 + 1]! + n[2]! * along[i * 3 + 2]!;
    let t = n.map((v, k) => along[i * 3 + k]! - v * d);
    let length = Math.hypot(...t);
    if (!(length > 1e-20)) {
      // No picture direction here: any one in the surface will do.
      const side = Math.abs(n[0]!) < 0.9 ? [1, 0, 0] : [0, 1, 0];
      const e = n[0]! * side[0]! + n[1]! * side[1]!;
      t = n.map((v, k) => side[k]! - v * e);
      length = Math.hypot(...t);
    }
    const [x, y, z] = t.map((v) => v / length) as [number, number, number];
    const bitangent = [n[1]! * z - n[2]! * y, n[2]! * x - n[0]! * z, n[0]! * y - n[1]! * x];
    const agrees = bitangent[0]! * up[i * 3]! + bitangent[1]! * up[i * 3 + 1]! + bitangent[2]! * up[i * 3 + 2]!;
    out.set([x, y, z, agrees < 0 ? -1 : 1], i * 4);
  }
  return out;
}

/** The turn that takes -z to a direction, as a quaternion: half way between the two. */
function turnFromMinusZ(axis: readonly [number, number, number]): [number, number, number, number] {
  const length = Math.hypot(...axis) || 1;
  const [x, y, z] = axis.map((a) => a / length) as [number, number, number];
  const w = 1 - z;
  if (w < 1e-6) return [1, 0, 0, 0];
  const size = Math.hypot(y, -x, w);
  return [y / size, -x / size, 0, w / size];
}
