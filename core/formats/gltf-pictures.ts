import type { Material, Texture, TextureInfo } from '@gltf-transform/core';
import type { Anisotropy, Clearcoat, DiffuseTransmission, Iridescence, Sheen, Specular, Transmission } from '@gltf-transform/extensions';
import type { TEXTURE_PICTURES } from '../model/schema';

export type PicturePart = (typeof TEXTURE_PICTURES)[number];

/** Pictures of a glTF material that come along, by what they tell, with how each lies. */
function picturesOf(
  material: Material,
): Readonly<Record<PicturePart, readonly [Texture | null | undefined, TextureInfo | null | undefined]>> {
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

export const texturesOf = (material: Material): readonly [PicturePart, Texture][] =>
  Object.entries(picturesOf(material)).flatMap(([part, [texture]]) =>
    texture ? [[part as PicturePart, texture] as [PicturePart, Texture]] : [],
  );

/** How its pictures lie: as the first of them does. */
export const layingInfo = (material: Material): TextureInfo | null =>
  Object.values(picturesOf(material)).find(([texture, info]) => texture && info)?.[1] ?? null;
