import type { Material, Texture, TextureInfo } from '@gltf-transform/core';
import type { Clearcoat, Sheen, Transmission } from '@gltf-transform/extensions';
import type { TEXTURE_PICTURES } from '../model/schema';

export type PicturePart = (typeof TEXTURE_PICTURES)[number];

const coatOf = (material: Material) => material.getExtension<Clearcoat>('KHR_materials_clearcoat');
const clearOf = (material: Material) => material.getExtension<Transmission>('KHR_materials_transmission');
const sheenOf = (material: Material) => material.getExtension<Sheen>('KHR_materials_sheen');

/** Pictures of a glTF material that come along, by what they tell. */
export const texturesOf = (material: Material): Readonly<Record<PicturePart, Texture | null | undefined>> => ({
  image: material.getBaseColorTexture(),
  normal: material.getNormalTexture(),
  roughnessMetalness: material.getMetallicRoughnessTexture(),
  occlusion: material.getOcclusionTexture(),
  emission: material.getEmissiveTexture(),
  clearCoat: coatOf(material)?.getClearcoatTexture(),
  transmission: clearOf(material)?.getTransmissionTexture(),
  sheen: sheenOf(material)?.getSheenColorTexture(),
});

/** How its pictures lie: as the first of them does. */
export const layingInfo = (material: Material): TextureInfo | null =>
  material.getBaseColorTextureInfo() ??
  material.getNormalTextureInfo() ??
  material.getMetallicRoughnessTextureInfo() ??
  material.getEmissiveTextureInfo() ??
  clearOf(material)?.getTransmissionTextureInfo() ??
  coatOf(material)?.getClearcoatTextureInfo() ??
  sheenOf(material)?.getSheenColorTextureInfo() ??
  null;
