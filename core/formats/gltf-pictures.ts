import type { Material, Texture, TextureInfo } from '@gltf-transform/core';
import type {
  Anisotropy,
  Clearcoat,
  DiffuseTransmission,
  Iridescence,
  Sheen,
  Specular,
  Transform,
  Transmission,
} from '@gltf-transform/extensions';
import { MAX_UV_SETS } from '../geometry/mesh';
import type { TEXTURE_PICTURES } from '../model/schema';

export type PicturePart = (typeof TEXTURE_PICTURES)[number];

type Pictures = Readonly<Record<PicturePart, readonly [Texture | null | undefined, TextureInfo | null | undefined]>>;

/** Pictures of a glTF material that come along, by what they tell, with how each lies. */
export function picturesOf(material: Material): Pictures {
  const coat = material.getExtension<Clearcoat>('KHR_materials_clearcoat');
  const clear = material.getExtension<Transmission>('KHR_materials_transmission');
  const sheen = material.getExtension<Sheen>('KHR_materials_sheen');
  const film = material.getExtension<Iridescence>('KHR_materials_iridescence');
  const brushed = material.getExtension<Anisotropy>('KHR_materials_anisotropy');
  const shine = material.getExtension<Specular>('KHR_materials_specular');
  const through = material.getExtension<DiffuseTransmission>('KHR_materials_diffuse_transmission');
  return {
    image: [material.getBaseColorTexture(), material.getBaseColorTextureInfo()],
    normal: [material.getNormalTexture(), material.getNormalTextureInfo()],
    roughnessMetalness: [material.getMetallicRoughnessTexture(), material.getMetallicRoughnessTextureInfo()],
    occlusion: [material.getOcclusionTexture(), material.getOcclusionTextureInfo()],
    emission: [material.getEmissiveTexture(), material.getEmissiveTextureInfo()],
    clearCoat: [coat?.getClearcoatTexture(), coat?.getClearcoatTextureInfo()],
    transmission: [clear?.getTransmissionTexture(), clear?.getTransmissionTextureInfo()],
    sheen: [sheen?.getSheenColorTexture(), sheen?.getSheenColorTextureInfo()],
    clearCoatRoughness: [coat?.getClearcoatRoughnessTexture(), coat?.getClearcoatRoughnessTextureInfo()],
    clearCoatNormal: [coat?.getClearcoatNormalTexture(), coat?.getClearcoatNormalTextureInfo()],
    sheenRoughness: [sheen?.getSheenRoughnessTexture(), sheen?.getSheenRoughnessTextureInfo()],
    film: [film?.getIridescenceTexture(), film?.getIridescenceTextureInfo()],
    filmThickness: [film?.getIridescenceThicknessTexture(), film?.getIridescenceThicknessTextureInfo()],
    brushing: [brushed?.getAnisotropyTexture(), brushed?.getAnisotropyTextureInfo()],
    specular: [shine?.getSpecularTexture(), shine?.getSpecularTextureInfo()],
    specularColour: [shine?.getSpecularColorTexture(), shine?.getSpecularColorTextureInfo()],
    diffuseTransmission: [through?.getDiffuseTransmissionTexture(), through?.getDiffuseTransmissionTextureInfo()],
    diffuseTransmissionColour: [through?.getDiffuseTransmissionColorTexture(), through?.getDiffuseTransmissionColorTextureInfo()],
  };
}

/** A way in which pictures lie: by which coordinates of a mesh, and how these are moved and turned (KHR_texture_transform). */
export interface Laying {
  texCoord: number;
  scale: readonly number[];
  offset: readonly number[];
  turnRad: number;
}

export interface AuthoredPictures {
  pictures: readonly { part: PicturePart; texture: Texture }[];
  /** A picture that is named, but not there or of no use. */
  lacking: Texture | undefined;
  /** The ways in which they lie, the first one's first. */
  layings: readonly Laying[];
  /** The same for pictures that lie in the same ways. */
  key: string;
  /** Which of these a picture lies by, where that is not the first. */
  sets: Partial<Record<PicturePart, number>>;
}

/** The pictures of a material that are of some use, and how they lie. What lies in more ways than a mesh tells lies by the first. */
export function authoredPictures(material: Material, isOfUse: (texture: Texture) => boolean): AuthoredPictures {
  const all = (Object.entries(picturesOf(material)) as [PicturePart, Pictures[PicturePart]][]).flatMap(([part, [texture, info]]) =>
    texture && info ? [{ part, texture, info }] : [],
  );
  const pictures = all.filter(({ texture }) => isOfUse(texture));
  const layings = new Map<string, Laying>();
  const sets: AuthoredPictures['sets'] = {};
  // Where a picture is missing, its coordinates still say how the surface is to be covered.
  for (const { part, info } of pictures.length > 0 ? pictures : all.slice(0, 1)) {
    const laying = layingOf(info);
    const key = JSON.stringify(laying);
    if (!layings.has(key) && layings.size < MAX_UV_SETS) layings.set(key, laying);
    const set = [...layings.keys()].indexOf(key);
    if (set > 0) sets[part] = set;
  }
  const lacking = all.find(({ texture }) => !isOfUse(texture))?.texture;
  return { pictures, lacking, layings: [...layings.values()], key: [...layings.keys()].join(' '), sets };
}

function layingOf(info: TextureInfo): Laying {
  const placing = info.getExtension<Transform>('KHR_texture_transform');
  return {
    texCoord: placing?.getTexCoord() ?? info.getTexCoord(),
    scale: placing?.getScale() ?? [1, 1],
    offset: placing?.getOffset() ?? [0, 0],
    turnRad: placing?.getRotation() ?? 0,
  };
}

/** A mesh's coordinates (glTF's, v downwards) as pictures of a laying lie, v upwards. */
export function laid(uvs: Float32Array, { scale, offset, turnRad }: Laying): Float32Array {
  const [cos, sin] = [Math.cos(turnRad), Math.sin(turnRad)];
  const out = new Float32Array(uvs.length);
  for (let i = 0; i < uvs.length; i += 2) {
    const [x, y] = [uvs[i]! * scale[0]!, uvs[i + 1]! * scale[1]!];
    out[i] = cos * x + sin * y + offset[0]!;
    out[i + 1] = 1 - (cos * y - sin * x + offset[1]!);
  }
  return out;
}
