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

/** Index of the surface that mirrors as much, looked at straight, as one of another index whose mirroring is held down (KHR_materials_specular). */
function duller(ior: number, shine: Specular): number {
  const mirrored = ((ior - 1) / (ior + 1)) ** 2 * Math.max(...shine.getSpecularColorFactor());
  const root = Math.sqrt(Math.min(0.25, Math.max(0, Math.min(1, mirrored) * shine.getSpecularFactor())));
  return (1 + root) / (1 - root);
}

/**
 * How a glTF 2.0 material meets light, by its factors and those of the ratified extensions KHR_materials_ior, _transmission,
 * _volume, _clearcoat, _sheen, _anisotropy, _iridescence (at its greatest thickness), _dispersion, _specular, _diffuse_transmission, _emissive_strength and _unlit. Of its pictures, see gltf.ts.
 */
export function opticsOf(material: Material): Partial<Optics> {
  const optics: Partial<Optics> = { roughness: unit(material.getRoughnessFactor()), metalness: unit(material.getMetallicFactor()) };
  if (material.getNormalTexture() && material.getNormalScale() !== 1)
    optics.normalScale = Math.min(4, Math.max(0, material.getNormalScale()));
  if (material.getAlphaMode() === 'MASK') optics.cutOut = true;
  const ior = material.getExtension<IOR>('KHR_materials_ior');
  if (ior) optics.ior = Math.min(3, Math.max(1, ior.getIOR()));
  const shine = material.getExtension<Specular>('KHR_materials_specular');
  if (shine && !material.getExtension('KHR_materials_transmission')) optics.ior = duller(optics.ior ?? 1.5, shine);
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
      optics.attenuationColour = volume.getAttenuationColor().map((c) => encodeSrgb(unit(c))) as Optics['attenuationColour'];
    }
  }
  const coat = material.getExtension<Clearcoat>('KHR_materials_clearcoat');
  if (coat) {
    optics.clearCoat = unit(coat.getClearcoatFactor());
    optics.clearCoatRoughness = unit(coat.getClearcoatRoughnessFactor());
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
  }
  const spread = material.getExtension<Dispersion>('KHR_materials_dispersion');
  if (spread) optics.dispersion = Math.min(5, Math.max(0, spread.getDispersion()));
  const sheen = material.getExtension<Sheen>('KHR_materials_sheen');
  const fibres = sheen?.getSheenColorFactor().map(unit) ?? [];
  const strongest = Math.max(0, ...fibres);
  if (sheen && strongest > 0) {
    optics.sheen = strongest;
    optics.sheenColour = fibres.map((c) => encodeSrgb(c / strongest)) as Optics['sheenColour'];
    optics.sheenRoughness = Math.max(0.1, unit(sheen.getSheenRoughnessFactor()));
  }
  const through = material.getExtension<DiffuseTransmission>('KHR_materials_diffuse_transmission');
  if (through) optics.diffuseTransmission = unit(through.getDiffuseTransmissionFactor());
  // Emission is in cd/m2 by KHR_materials_emissive_strength.
  const strength = material.getExtension<EmissiveStrength>('KHR_materials_emissive_strength')?.getEmissiveStrength() ?? 1;
  const glow = material.getEmissiveFactor();
  const brightest = Math.max(...glow);
  if (brightest > 0 && Number.isFinite(brightest * strength)) {
    optics.emissionCdM2 = Math.min(1e9, brightest * strength);
    optics.emissionColour = glow.map((c) => encodeSrgb(unit(c / brightest))) as Optics['sheenColour'];
  }
  return optics;
}
