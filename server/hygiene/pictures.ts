import sharp from 'sharp';
import { addTo } from '../../core/grouping';
import { findingId, type Finding } from '../../core/hygiene/finding';
import type { Model } from '../../core/model/model';
import { TEXTURE_PICTURES } from '../../core/model/schema';
import { MAX_PIXELS } from '../photo/photograph';

/** What a picture tells of a surface, in words. */
const WORDS: Readonly<Record<(typeof TEXTURE_PICTURES)[number], string>> = {
  image: 'colour', normal: 'relief', roughnessMetalness: 'roughness and metalness', occlusion: 'hollows', emission: 'light', clearCoat: 'coat',
  clearCoatRoughness: 'roughness of the coat', clearCoatNormal: 'relief of the coat', transmission: 'clearness', film: 'film', filmThickness: 'thickness of the film',
  sheen: 'sheen', sheenRoughness: 'roughness of the sheen', specular: 'mirroring', specularColour: 'colour of mirroring', brushing: 'brushing',
  diffuseTransmission: 'light let through', diffuseTransmissionColour: 'colour of light let through',
}; // prettier-ignore

/** Pictures that cannot be decoded; the surfaces are shown without them. `read` gives a picture's bytes. */
export async function brokenPictures(
  source: { id: string; name: string; model: Model },
  read: (hash: string) => Uint8Array | undefined,
): Promise<Finding[]> {
  const carriers = new Map<string, string[]>();
  for (const { id, parts } of source.model.elements.values()) for (const { material } of parts) addTo(carriers, material, id);
  const sound = new Map<string, boolean>();
  const out: Finding[] = [];
  for (const { id, name, texture } of source.model.materials.values())
    for (const part of TEXTURE_PICTURES) {
      const hash = texture?.[part];
      if (!hash) continue;
      if (!sound.has(hash)) sound.set(hash, await isSound(read(hash)));
      if (sound.get(hash)) continue;
      out.push({
        id: findingId('missing-pictures', source.id, id, part),
        check: 'missing-pictures',
        severity: 'warning',
        words: `The picture of “${name || id}” in ${source.name} that tells its ${WORDS[part]} is cut off, broken or too large; the surface is shown without it.`,
        elements: [...new Set(carriers.get(id))].map((element) => ({ source: source.id, element })),
        place: null,
        sizeM: 0,
        remedy: null,
      });
    }
  return out;
}

async function isSound(picture: Uint8Array | undefined): Promise<boolean> {
  if (!picture) return false;
  try {
    await sharp(picture, { limitInputPixels: MAX_PIXELS, failOn: 'truncated' }).resize(8, 8, { fit: 'fill' }).raw().toBuffer();
    return true;
  } catch {
    return false;
  }
}
