import { strFromU8, strToU8, zipSync, type Zippable } from 'fflate';
import sharp from 'sharp';
import * as v from 'valibot';
import { completeFinish, finishSchema, ownFinish, PLAIN_FINISH, type Finish } from '../core/finish/finish';
import { encodeMaps, KEPT_MAPS, MAP_NAMES } from '../core/finish/maps/generate';
import { picturesOf } from '../core/scene/material-pictures';
import { metalShares } from '../core/finish/maps/packed-factors';
import type { TextureImage } from '../core/finish/maps/texture-image';
import { isShowable } from '../core/formats/model-builder';
import type { BlobStore } from './blobs';
import { unpackZip } from './zip/unpack';
import { isPicture } from './photo/photograph';
import { squareTexels, zipFault } from './photo/square-texels';
import { loadMaps } from './scene-assets';

/** Finishes as a zip for other projects and other programs: a folder each, with their values as JSON and their maps as PNG (docs/formats.md). */

const FORMAT = 'diaphane-finish';
/** What each PNG holds, from which channels of the map set. */
const PICTURES = [
  { file: 'colour.png', from: 'base', channels: [0, 1, 2, 3] },
  { file: 'normal.png', from: 'surface', channels: [0, 1] },
  { file: 'roughness.png', from: 'surface', channels: [2] },
  { file: 'height.png', from: 'surface', channels: [3] },
  { file: 'metalness.png', from: 'packedFactors', channels: [0] },
] as const;

/** Where the pictures of a linked model lie, named by their hashes. */
const PICTURE_FOLDER = 'pictures/';

/** `beside`: files that go in with them. */
export async function packFinishes(finishes: readonly Finish[], blobs: BlobStore, beside: Zippable = {}): Promise<Uint8Array> {
  const files: Zippable = { ...beside };
  for (const [i, finish] of finishes.entries()) {
    const folder = `${String(i + 1).padStart(3, '0')} ${finish.name.replace(/[^\p{L}\p{N} ,.()-]/gu, '_').slice(0, 60)}`;
    files[`${folder}/finish.json`] = strToU8(`${JSON.stringify({ format: FORMAT, version: 1, finish }, null, 1)}\n`);
    // Maps that ship are named; all others go along, those of a linked model's pictures as the files that they are.
    if (finish.maps === null || MAP_NAMES.includes(finish.maps)) continue;
    const pictures = picturesOf(finish.maps);
    if (pictures) {
      for (const hash of new Set(pictures.values())) {
        const picture = await blobs.get(hash);
        if (picture) files[`${folder}/${PICTURE_FOLDER}${hash}`] = [picture, { level: 0 }];
      }
      continue;
    }
    const maps = await loadMaps(finish.maps, blobs);
    if (!maps) continue;
    for (const { file, from, channels } of PICTURES) {
      const picture = maps[from];
      if (picture) files[`${folder}/${file}`] = [await pngOf(picture, channels), { level: 0 }];
    }
  }
  return zipSync(files);
}

/** A PNG, top row first, of some channels: one is grey, two are a normal map whose blue is what is left. */
async function pngOf({ width, height, texels }: TextureImage, channels: readonly number[]): Promise<Uint8Array> {
  const out = channels.length === 1 ? 1 : channels.length === 4 ? 4 : 3;
  const pixels = new Uint8Array(width * height * out);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = ((height - 1 - y) * width + x) * 4;
      const to = (y * width + x) * out;
      channels.forEach((channel, k) => {
        pixels[to + k] = texels[from + channel]!;
      });
      if (channels.length === 2) {
        const [nx, ny] = [0, 1].map((k) => (pixels[to + k]! - 128) / 127) as [number, number];
        pixels[to + 2] = Math.round(128 + 127 * Math.sqrt(Math.max(0, 1 - nx * nx - ny * ny)));
      }
    }
  return sharp(pixels, { raw: { width, height, channels: out } })
    .png()
    .toBuffer();
}

/** Each is written to the project one after the other. */
const MOST_FINISHES = 500;

/** Finishes of a package; their maps are kept as blobs. Ids are new, so that nothing here is written over. */
export async function readPackage(name: string, bytes: Uint8Array, blobs: BlobStore): Promise<{ finishes: Finish[] } | { fault: string }> {
  try {
    const zip = await unpackZip(bytes, name);
    const finishes: Finish[] = [];
    const told = [...zip.names].filter((n) => /(^|\/)finish\.json$/.test(n)).sort();
    if (told.length > MOST_FINISHES)
      return { fault: `${name} holds ${String(told.length)} finishes; up to ${String(MOST_FINISHES)} are read at once.` };
    for (const file of told) {
      const folder = file.slice(0, -'finish.json'.length);
      const json = v.safeParse(v.object({ format: v.literal(FORMAT), version: v.literal(1), finish: v.record(v.string(), v.unknown()) }), parsedJson(zip.read(file)!)); // prettier-ignore
      // A package of an earlier version lacks what finishes had not got then.
      const finish = json.success ? v.safeParse(finishSchema, { ...PLAIN_FINISH, ...json.output.finish }) : undefined;
      if (!finish?.success) return { fault: `${file} in ${name} is no finish${finish ? `: ${v.getDotPath(finish.issues[0]) ?? ''} ${finish.issues[0].message}` : ''}.` }; // prettier-ignore
      const read = (picture: string) => zip.read(`${folder}${picture}`);
      const maps = (await picturesFrom(finish.output.maps, read, blobs)) ?? (await mapsFrom(finish.output.maps, read, blobs));
      const fresh = ownFinish(finish.output.name, finish.output.family, '', finish.output.widthM, finish.output.heightM);
      finishes.push(completeFinish({ ...finish.output, id: fresh.id, maps }));
    }
    return finishes.length > 0 ? { finishes } : { fault: `${name} holds no finishes.` };
  } catch (error) {
    return { fault: zipFault(name, error) };
  }
}

function parsedJson(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(strFromU8(bytes));
  } catch {
    return undefined;
  }
}

/** The name of the pictures of a linked model, if all of them came along and are what they were. */
async function picturesFrom(
  named: string | null,
  read: (picture: string) => Uint8Array | undefined,
  blobs: BlobStore,
): Promise<string | undefined> {
  const pictures = named === null ? undefined : picturesOf(named);
  if (!pictures || pictures.size === 0) return undefined;
  for (const hash of new Set(pictures.values())) {
    const picture = read(`${PICTURE_FOLDER}${hash}`);
    if (!picture || !isShowable(picture) || (await blobs.put(new Uint8Array(picture))) !== hash) return undefined;
  }
  return named!;
}

/** Name of the maps that a finish of a package has here. */
async function mapsFrom(named: string | null, read: (picture: string) => Uint8Array | undefined, blobs: BlobStore): Promise<string | null> {
  const picture = (file: string) => {
    const bytes = read(file);
    if (bytes && !isPicture(bytes)) throw new Error(`${file} is no picture.`);
    return bytes;
  };
  const colour = picture('colour.png');
  if (!colour) return named !== null && MAP_NAMES.includes(named) ? named : null;
  const { width } = await sharp(colour, { limitInputPixels: false }).metadata();
  const size = [256, 512, 1024, 2048].findLast((s) => s <= width) ?? 256;
  const base = await squareTexels(colour, size);
  const surface = new Uint8Array(size * size * 4);
  const [normal, roughness, height, metalness] = await Promise.all(['normal.png', 'roughness.png', 'height.png', 'metalness.png'].map(async (file) => {
    const bytes = picture(file);
    return bytes && squareTexels(bytes, size);
  })); // prettier-ignore
  for (let i = 0; i < surface.length; i += 4)
    surface.set([normal?.[i] ?? 128, normal?.[i + 1] ?? 128, roughness?.[i] ?? 255, height?.[i] ?? 128], i);
  return `${KEPT_MAPS}${await blobs.put(encodeMaps({ size, base, surface, ...(metalness && { packedFactors: metalShares(metalness, 0) }) }))}`;
}
