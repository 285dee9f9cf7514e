import sharp from 'sharp';
import { unpackZip } from '../zip/unpack';
import { composeMaps } from '../../core/photo/compose-maps';
import { sortMapFiles, type MapRole } from '../../core/photo/map-roles';
import type { FinishMaps } from '../../core/finish/maps/paint';
import { isPicture, MAX_PIXELS } from './photograph';
import { squareTexels, zipFault } from './square-texels';

/** What came of the pictures of a map set. */
export interface ReadMapSet {
  maps: FinishMaps;
  widthM: number;
  heightM: number;
  metalness: number;
  /** In words, for the person. */
  remark: string;
}

const SIZES = [2048, 1024, 512, 256];
/** Until a person says how large it is. */
const WIDTH_M = 1;
const RELIEF_M = 0.01;
const WORDS: Readonly<Record<MapRole, string>> = {
  base: 'colour', 'normal-gl': 'normals', 'normal-dx': 'normals', normal: 'normals', roughness: 'roughness', glossiness: 'glossiness', metalness: 'metalness',
  height: 'height', occlusion: 'occlusion', opacity: 'opacity', packed: 'occlusion, roughness and metalness in one',
}; // prettier-ignore

/** Reads a zip of pictures as one map set, or says in a sentence why not. */
export async function readMapSet(name: string, bytes: Uint8Array): Promise<ReadMapSet | { fault: string }> {
  try {
    const zip = await unpackZip(bytes, name);
    const named = [...zip.names].filter((file) => !/(^|\/)(\.|__MACOSX)/.test(file));
    const pictures = new Map(named.map((file) => [file, zip.read(file)!] as const).filter(([, bytes]) => isPicture(bytes)));
    const { roles, left } = sortMapFiles([...pictures.keys()]);
    if (roles.size === 0)
      return { fault: `${name} holds no map set: no picture in it is named for what it is (colour, normal, roughness …).` };
    const sizes = new Map<MapRole, { width: number; height: number }>();
    for (const [role, file] of roles) {
      const { width, height } = await sharp(zip.read(file), { limitInputPixels: false }).metadata();
      if (width * height > MAX_PIXELS) return { fault: `${file} in ${name} has more than ${String(MAX_PIXELS / 1e6)} million pixels.` };
      sizes.set(role, { width, height });
    }
    const lead = sizes.get('base') ?? [...sizes.values()][0]!;
    const size = SIZES.find((s) => s <= Math.max(lead.width, lead.height)) ?? SIZES.at(-1)!;
    const texels = new Map<MapRole, Uint8Array>();
    for (const [role, file] of roles) texels.set(role, await squareTexels(pictures.get(file)!, size));
    const heightM = (WIDTH_M * lead.height) / lead.width;
    const { maps, metalness, normals } = composeMaps(texels, size, WIDTH_M, heightM, RELIEF_M);
    const found = [...roles.keys()].map((role) => WORDS[role]);
    const turned = normals?.style === 'DirectX' ? ` The normals are of the DirectX kind${normals.by === 'curl' ? ', as their slopes tell,' : ''} and have been turned.` : ''; // prettier-ignore
    const rest = left.length > 0 ? ` Left out: ${left.slice(0, 4).join(', ')}${left.length > 4 ? ' …' : ''}.` : '';
    return { maps, widthM: WIDTH_M, heightM, metalness, remark: `Found ${found.join(', ')}.${turned}${rest}` };
  } catch (error) {
    return { fault: zipFault(name, error) };
  }
}
