import { Document, MathUtils, WebIO, type Accessor, type Buffer, type Material } from '@gltf-transform/core';
import { EXTMeshGPUInstancing, EXTMeshoptCompression, EXTTextureWebP, KHRMeshQuantization } from '@gltf-transform/extensions';
import { MeshoptEncoder } from 'meshoptimizer/encoder';
import type { Finish } from '../finish/finish';
import { inRepeats } from '../finish/repeats';
import { decodeSrgb } from '../image/tone';
import { MAP_IS_SRGB } from '../finish/maps/texture-image';
import { mapSetsOf } from '../scene/material-pictures';
import type { SceneAssets } from '../scene/rendered-scene';
import { cubeLight, type BakedModel } from '../viewing/baked-surfaces';
import { smoothLight } from '../viewing/smooth-light';
import { codeLight, lightAttribute, type SurfaceExtras } from '../viewing/viewing';
import { baseFactor, texturesOfMaps, type PngEncoder } from './gltf-maps';

/** The model of a client's viewer: GLB with meshopt, WebP and the light of each look at its corners. z stays up. */

/** Baked light of a look: for each point f32x3, and what brings it to what is shown white. */
export interface BakedLook {
  light: Float32Array;
  unit: number;
}

export async function viewerModel(
  model: BakedModel,
  looks: readonly BakedLook[],
  assets: Pick<SceneAssets, 'maps'>,
  webp: PngEncoder,
): Promise<Uint8Array<ArrayBuffer>> {
  await MeshoptEncoder.ready;
  const io = new WebIO()
    .registerExtensions([EXTMeshGPUInstancing, EXTMeshoptCompression, EXTTextureWebP, KHRMeshQuantization])
    .registerDependencies({ 'meshopt.encoder': MeshoptEncoder });
  const document = new Document();
  document.getRoot().getAsset().generator = 'Diaphane';
  const writer = new ViewerWriter(document, assets, webp);
  for (const [i, surface] of model.surfaces.entries()) {
    const first = model.firstPoint[i]!;
    const count = surface.mesh.positions.length / 3;
    const lights = looks.map(({ light, unit }) => {
      const own = light.slice(first * 3, (first + count) * 3);
      for (let v = 0; v < count; v++) {
        const cube = surface.cubes[v]!;
        if (cube < 0) continue;
        const n = surface.mesh.normals.slice(v * 3, v * 3 + 3);
        for (let c = 0; c < 3; c++) own[v * 3 + c] = cubeLight(light, model.firstCube + cube, n, c);
      }
      smoothLight(surface.mesh, own);
      return coded(own, unit);
    });
    await writer.addSurface(surface.mesh, surface.finish, surface.extras, lights);
  }
  for (const kind of model.planted) await writer.addPlanted(kind);
  for (const texture of document.getRoot().listTextures()) texture.setMimeType('image/webp');
  document.createExtension(EXTTextureWebP).setRequired(true);
  document.createExtension(KHRMeshQuantization).setRequired(true);
  document
    .createExtension(EXTMeshoptCompression)
    .setRequired(true)
    .setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE });
  return io.writeBinary(document);
}

/** Illuminance over pi, exposed, a byte each; the fourth is a filling. */
function coded(lux: Float32Array, unit: number): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array((lux.length / 3) * 4).fill(255);
  for (let i = 0; i < lux.length / 3; i++) for (let c = 0; c < 3; c++) out[i * 4 + c] = codeLight((lux[i * 3 + c]! / Math.PI) * unit);
  return out;
}

class ViewerWriter {
  private readonly buffer: Buffer;
  private readonly root;
  private readonly materials = new Map<string, Promise<Material>>();

  constructor(
    private readonly document: Document,
    private readonly assets: Pick<SceneAssets, 'maps'>,
    private readonly webp: PngEncoder,
  ) {
    this.buffer = document.createBuffer();
    this.root = document.createNode('Model');
    document.createScene('Model').addChild(this.root);
  }

  async addSurface(
    { positions, normals, uvs, indices }: { positions: readonly number[]; normals: readonly number[]; uvs: readonly number[]; indices: readonly number[] },
    finish: Finish,
    extras: SurfaceExtras,
    lights: readonly Uint8Array<ArrayBuffer>[],
  ): Promise<void> {
    const primitive = this.document
      .createPrimitive()
      .setAttribute('POSITION', this.accessor('VEC3', new Float32Array(positions)))
      .setAttribute('NORMAL', this.accessor('VEC3', asBytes(normals), true))
      .setIndices(this.accessor('SCALAR', new Uint32Array(indices)))
      .setMaterial(await this.materialOf(finish));
    if (finish.maps !== null) primitive.setAttribute('TEXCOORD_0', this.accessor('VEC2', new Float32Array(uvs)));
    for (const [look, light] of lights.entries()) primitive.setAttribute(lightAttribute(look), this.accessor('VEC4', light, true));
    const mesh = this.document.createMesh(finish.name).addPrimitive(primitive);
    this.root.addChild(this.document.createNode(finish.name).setMesh(mesh).setExtras({ ...withEmission(extras, finish, this.meanOf(finish, 'emission')) }));
  } // prettier-ignore

  async addPlanted({ finish, mesh, extras, transforms }: BakedModel['planted'][number]): Promise<void> {
    const places = [new Float32Array(transforms.length * 3), new Float32Array(transforms.length * 4), new Float32Array(transforms.length * 3)] as const;
    for (const [i, transform] of transforms.entries()) {
      const [t, r, s]: [[number, number, number], [number, number, number, number], [number, number, number]] = [[0, 0, 0], [0, 0, 0, 1], [1, 1, 1]];
      MathUtils.decompose([...transform] as Parameters<typeof MathUtils.decompose>[0], t, r, s);
      for (const [k, part] of [t, r, s].entries()) places[k]!.set(part, i * part.length);
    }
    const primitive = this.document
      .createPrimitive()
      .setAttribute('POSITION', this.accessor('VEC3', new Float32Array(mesh.positions)))
      .setAttribute('NORMAL', this.accessor('VEC3', asBytes(mesh.normals), true))
      .setIndices(this.accessor('SCALAR', new Uint32Array(mesh.indices)))
      .setMaterial(await this.materialOf(finish));
    if (finish.maps !== null) primitive.setAttribute('TEXCOORD_0', this.accessor('VEC2', inRepeats(mesh.uvs, finish)));
    const batch = this.document.createExtension(EXTMeshGPUInstancing).setRequired(true).createInstancedMesh();
    batch
      .setAttribute('TRANSLATION', this.accessor('VEC3', places[0]))
      .setAttribute('ROTATION', this.accessor('VEC4', places[1]))
      .setAttribute('SCALE', this.accessor('VEC3', places[2]));
    const node = this.document.createNode(finish.name).setMesh(this.document.createMesh(finish.name).addPrimitive(primitive));
    this.root.addChild(node.setExtension('EXT_mesh_gpu_instancing', batch).setExtras({ ...extras }));
  } // prettier-ignore

  private accessor(type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', array: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer> | Uint8Array<ArrayBuffer> | Int8Array<ArrayBuffer>, normalized = false): Accessor {
    return this.document.createAccessor().setType(type).setArray(array).setNormalized(normalized).setBuffer(this.buffer);
  } // prettier-ignore

  private materialOf(finish: Finish): Promise<Material> {
    const key = JSON.stringify(finish);
    let material = this.materials.get(key);
    if (!material) this.materials.set(key, (material = this.createMaterial(finish)));
    return material;
  }

  /** Mean of a finish's pictures of a kind, linear rgb; ones where it has none: the file has one value for what they tell place by place. */
  private meanOf(finish: Finish, kind: 'packedFactors' | 'emission'): number[] {
    const decode = (byte: number) => (MAP_IS_SRGB[kind] ? decodeSrgb(byte / 255) : byte / 255);
    const mean = [1, 1, 1];
    for (const name of mapSetsOf(finish.maps)) {
      const texels = this.assets.maps(name)?.[kind]?.texels;
      if (!texels) continue;
      const sum = [0, 0, 0];
      for (let i = 0; i < texels.length; i += 4) for (let c = 0; c < 3; c++) sum[c]! += decode(texels[i + c]!);
      for (let c = 0; c < 3; c++) mean[c]! *= sum[c]! / (texels.length / 4);
    }
    return mean;
  }

  private async createMaterial(finish: Finish): Promise<Material> {
    const sets = mapSetsOf(finish.maps).flatMap((name) => {
      const maps = this.assets.maps(name);
      return maps ? [{ name, maps: { base: maps.base, surface: undefined } }] : [];
    });
    const maps = await texturesOfMaps(this.document, sets.slice(0, 1), finish, this.webp);
    const factor = baseFactor(finish, maps !== undefined);
    const material = this.document
      .createMaterial(finish.name)
      .setBaseColorFactor([...factor, finish.opacity])
      .setMetallicFactor(finish.metalness * this.meanOf(finish, 'packedFactors')[0]!)
      .setRoughnessFactor(finish.roughness)
      .setDoubleSided(true)
      .setExtras({ transmission: finish.transmission, ior: finish.ior });
    if (finish.cutOut) material.setAlphaMode('MASK');
    else if (finish.opacity < 1 || finish.transmission > 0 || maps?.fades) material.setAlphaMode('BLEND');
    if (maps) material.setBaseColorTexture(maps.base);
    return material;
  }
}

const withEmission = (
  extras: SurfaceExtras,
  { emissionCdM2, emissionColour, baseColour }: Finish,
  glow: readonly number[],
): SurfaceExtras =>
  extras.emission
    ? {
        ...extras,
        emission: { ...extras.emission, colour: (emissionColour ?? baseColour).map((c, i) => decodeSrgb(c) * emissionCdM2 * glow[i]!) },
      }
    : extras;

function asBytes(normals: ArrayLike<number>): Int8Array<ArrayBuffer> {
  // Three bytes and one that fills, so that each begins at a multiple of four, are made by the writer.
  const out = new Int8Array(normals.length);
  for (let i = 0; i < normals.length; i++) out[i] = Math.round(normals[i]! * 127);
  return out;
}
