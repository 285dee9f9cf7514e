import type { Material } from '@gltf-transform/core';
import type {
  Anisotropy,
  Clearcoat,
  DiffuseTransmission,
  Dispersion,
  EmissiveStrength,
  IOR,
  Iridescence,
  Sheen,
  Specular,
  Transmission,
  Volume,
} from '@gltf-transform/extensions';
import type { Optics } from '../finish/finish';
import { encodeSrgb } from '../image/tone';

const unit = (x: number) => Math.min(1, Math.max(0, x));
/** Coded as sRGB, to as many digits as a colour needs, so that white is white. */
const coded = (x: number) => Math.round(encodeSrgb(unit(x)) * 1e6) / 1e6;

/** Most that a colour of mirroring may be above one is taken by the index instead (KHR_materials_specular allows it). */
function strongerIndex(ior: number, times: number): number {
  const root = Math.sqrt(Math.min(0.25, ((ior - 1) / (ior + 1)) ** 2 * times));
  return (1 + root) / (1 - root);
}

/**
 * How a glTF 2.0 material meets light, by its factors and those of the ratified extensions KHR_materials_ior, _transmission,
 * _volume, _clearcoat, _sheen, _anisotropy, _iridescence, _dispersion, _specular, _diffuse_transmission, _emissive_strength and _unlit. Of its pictures, see gltf-pictures.ts.
 */
export function opticsOf(material: Material): Partial<Optics> {
  const optics: Partial<Optics> = { roughness: unit(material.getRoughnessFactor()), metalness: unit(material.getMetallicFactor()) };
  if (material.getNormalTexture() && material.getNormalScale() !== 1)
    optics.normalScale = Math.min(4, Math.max(0, material.getNormalScale()));
  if (material.getAlphaMode() === 'MASK') optics.cutOut = true;
  const ior = material.getExtension<IOR>('KHR_materials_ior');
  if (ior) optics.ior = Math.min(3, Math.max(1, ior.getIOR()));
  const shine = material.getExtension<Specular>('KHR_materials_specular');
  if (shine) {
    const colour = shine.getSpecularColorFactor().map((c) => Math.max(0, c));
    const strongest = Math.max(1, ...colour);
    if (strongest > 1 && !material.getExtension('KHR_materials_transmission')) optics.ior = strongerIndex(optics.ior ?? 1.5, strongest);
    optics.specular = unit(shine.getSpecularFactor());
    optics.specularColour = colour.map((c) => coded(c / strongest)) as Optics['specularColour'];
  }
  // What its author draws without light is matt where there is light.
  if (material.getExtension('KHR_materials_unlit')) Object.assign(optics, { roughness: 1, metalness: 0, ior: 1 });
  const transmission = material.getExtension<Transmission>('KHR_materials_transmission');
  if (transmission) optics.transmission = unit(transmission.getTransmissionFactor());
  const volume = material.getExtension<Volume>('KHR_materials_volume');
  if (volume && volume.getThicknessFactor() > 0) {
    optics.body = 'solid';
    const distance = volume.getAttenuationDistance();
    if (distance > 0 && Number.isFinite(distance)) {
      optics.attenuationDistanceM = Math.min(1000, Math.max(1e-4, distance));
      optics.attenuationColour = volume.getAttenuationColor().map(coded) as Optics['attenuationColour'];
    }
  }
  const coat = material.getExtension<Clearcoat>('KHR_materials_clearcoat');
  if (coat) {
    optics.clearCoat = unit(coat.getClearcoatFactor());
    optics.clearCoatRoughness = unit(coat.getClearcoatRoughnessFactor());
    // Without normals of its own a coat lies level.
    optics.clearCoatNormal = coat.getClearcoatNormalTexture() ? Math.min(4, Math.max(0, coat.getClearcoatNormalScale())) : 0;
  }
  const brushed = material.getExtension<Anisotropy>('KHR_materials_anisotropy');
  if (brushed) {
    optics.anisotropy = unit(brushed.getAnisotropyStrength());
    optics.anisotropyDeg = Math.max(-180, Math.min(180, (brushed.getAnisotropyRotation() * 180) / Math.PI)) || 0;
  }
  const film = material.getExtension<Iridescence>('KHR_materials_iridescence');
  if (film) {
    optics.film = unit(film.getIridescenceFactor());
    optics.filmIor = Math.min(3, Math.max(1, film.getIridescenceIOR()));
    optics.filmNm = Math.min(3000, Math.max(0, film.getIridescenceThicknessMaximum()));
    if (film.getIridescenceThicknessTexture()) optics.filmLeastNm = Math.min(3000, Math.max(0, film.getIridescenceThicknessMinimum()));
  }
  const spread = material.getExtension<Dispersion>('KHR_materials_dispersion');
  if (spread) optics.dispersion = Math.min(5, Math.max(0, spread.getDispersion()));
  const sheen = material.getExtension<Sheen>('KHR_materials_sheen');
  const fibres = sheen?.getSheenColorFactor().map(unit) ?? [];
  const strongest = Math.max(0, ...fibres);
  if (sheen && strongest > 0) {
    optics.sheen = strongest;
    optics.sheenColour = fibres.map((c) => coded(c / strongest)) as Optics['sheenColour'];
    optics.sheenRoughness = Math.max(0.1, unit(sheen.getSheenRoughnessFactor()));
  }
  const through = material.getExtension<DiffuseTransmission>('KHR_materials_diffuse_transmission');
  if (through) {
    optics.diffuseTransmission = unit(through.getDiffuseTransmissionFactor());
    optics.diffuseTransmissionColour = through.getDiffuseTransmissionColorFactor().map(coded) as Optics['sheenColour'];
  }
  // Emission is in cd/m2 by KHR_materials_emissive_strength.
  const strength = material.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1;
  const glow = material.getEmissiveFactor();
  const brightest = Math.max(...glow);
  if (brightest > 0 && Number.isFinite(brightest * strength)) {
    optics.emissionCdM2 = Math.min(1e9, brightest * strength);
    optics.emissionColour = glow.map((c) => coded(c / brightest)) as Optics['sheenColour'];
  }
  return optics;
}
