import { hash as hashOf } from 'node:crypto';
import { readFileSync, realpathSync, statSync } from 'node:fs';
import path from 'node:path';
import { readDxf } from '../core/formats/dxf';
import { gltfReader, readGltf } from '../core/formats/gltf';
import type { ElementProperties } from '../core/formats/ifc-properties';
import { nearOrigin } from '../core/formats/local-origin';
import { ModelFileError, NO_SIDE_FILES, withHashes, type ModelFile, type SideFiles, type TakeBlob } from '../core/formats/model-file';
import { readObj, readPly, readStl } from '../core/formats/plain-meshes';
import { plainName } from '../core/formats/side-files';
import { read3mf, readCollada } from '../core/formats/xml-meshes';
import { openZip } from '../core/formats/zip';
import { keepIds } from '../core/model/identity';
import type { Model } from '../core/model/model';
import { endingOf, isModelEnding, MODEL_ENDINGS, type ModelEnding } from './model-names';

/** Reads model files of every kind, with what lies beside them. */

export interface FileToRead {
  bytes: Uint8Array;
  fileName: string;
  /** Where it lies, if it may look beside itself; null: nowhere. */
  file: string | null;
  /** What is known of this file from before; undefined: nothing. */
  before: Model | undefined;
  /** Takes each mesh and picture once, by its hash; of a format that allows it, while others are still being read. */
  keep: (hash: string, blob: Uint8Array) => void;
}

/** Parsers by the ending of a file's name; each is started when it is first needed, and that of IFC takes a second to load. */
const ifc = once(async () => {
  const [{ startIfc }, { readIfc }, { readIfcProperties }] = await Promise.all([
    import('../core/formats/ifc-parser'),
    import('../core/formats/ifc'),
    import('../core/formats/ifc-properties'),
  ]);
  return { api: await startIfc(), readIfc, readIfcProperties };
});
const gltf = once(gltfReader);
type Reader = (bytes: Uint8Array, fileName: string, beside: SideFiles, take: TakeBlob) => ModelFile | Promise<ModelFile>;
const READERS: Readonly<Record<ModelEnding, Reader>> = {
  ifc: async (bytes, fileName, beside, take) => {
    const { api, readIfc } = await ifc();
    return readIfc(api, bytes, fileName, take, beside);
  },
  glb: async (bytes, fileName, beside) => readGltf(await gltf(), bytes, fileName, beside),
  gltf: async (bytes, fileName, beside) => readGltf(await gltf(), bytes, fileName, beside),
  obj: readObj,
  dae: readCollada,
  stl: readStl,
  ply: readPly,
  '3mf': read3mf,
  dxf: readDxf,
};
/** Formats whose elements have ids of their own. */
const WITH_IDS = new Set(['ifc', 'dxf']);

const KINDS = `${MODEL_ENDINGS.join(', ')}, zip`;
const MAX_SIDE_BYTES = 256 * 1024 * 1024;

function once<T>(start: () => Promise<T>): () => Promise<T> {
  let started: Promise<T> | undefined;
  return () => (started ??= start());
}

/** Starts the parser that a file needs, where that takes a while. */
export async function startParser(fileName: string): Promise<void> {
  const ending = endingOf(fileName);
  if (ending === 'ifc') await ifc();
  else if (ending === 'glb' || ending === 'gltf') await gltf();
}

/** The one model of a zip, with the rest of the zip beside it. */
function fromZip(bytes: Uint8Array, fileName: string): { name: string; bytes: Uint8Array; beside: SideFiles } {
  const zip = openZip(bytes, fileName);
  const models = [...zip.names].filter((name) => isModelEnding(endingOf(name)) && !name.startsWith('__MACOSX/'));
  if (models.length === 0) throw new ModelFileError(`${fileName} holds no model of a kind that is read: ${KINDS}.`);
  if (models.length > 1)
    throw new ModelFileError(`${fileName} holds several models, ${models.slice(0, 3).join(', ')}; give each by itself, with its pictures.`);
  const name = models[0]!;
  const folder = name.slice(0, name.lastIndexOf('/') + 1);
  const byName = new Map([...zip.names].map((n) => [n.slice(n.lastIndexOf('/') + 1).toLowerCase(), n]));
  return {
    name,
    bytes: zip.read(name)!,
    beside: (asked) => {
      const plain = plainName(asked);
      return zip.read(folder + plain) ?? zip.read(byName.get(path.posix.basename(plain).toLowerCase()) ?? '');
    },
  };
}

/** Files beside a watched one: in its folder or below, never elsewhere. */
function besidePath(file: string): SideFiles {
  const folder = path.dirname(file);
  return (asked) => {
    const plain = plainName(asked);
    for (const name of [plain, path.posix.basename(plain)]) {
      try {
        const found = realpathSync(path.join(folder, name));
        if (found.startsWith(folder + path.sep) && statSync(found).size <= MAX_SIDE_BYTES) return new Uint8Array(readFileSync(found));
      } catch {
        // Not there under this name.
      }
    }
    return undefined;
  };
}

async function parse({ bytes, fileName, file }: FileToRead, take: TakeBlob): Promise<{ ending: string; read: ModelFile }> {
  const ending = endingOf(fileName);
  if (ending === 'zip') {
    const { name, bytes: inner, beside } = fromZip(bytes, fileName);
    const kind = endingOf(name) as ModelEnding;
    return { ending: kind, read: await READERS[kind](inner, `${fileName}/${name}`, beside, take) };
  }
  if (!isModelEnding(ending)) throw new ModelFileError(`${fileName} is of no kind that is read: ${KINDS}.`);
  return { ending, read: await READERS[ending](bytes, fileName, file === null ? NO_SIDE_FILES : besidePath(file), take) };
}

/** The model of a file, with its meshes and pictures by their hashes. Throws ModelFileError. */
export async function readModelFile(request: FileToRead): Promise<{ model: Model; format: string }> {
  const { before, keep } = request;
  const hashes = new Map<string, string>();
  const kept = new Set<string>();
  const take = (key: string, blob: Uint8Array): void => {
    const hash = hashOf('sha256', blob);
    hashes.set(key, hash);
    if (kept.has(hash)) return;
    kept.add(hash);
    keep(hash, blob);
  };
  const { ending, read: file } = await parse(request, take);
  for (const [key, blob] of [...file.meshes, ...file.pictures]) take(key, blob);
  const hashed = withHashes(nearOrigin(file.model, before?.basePoint, file.broughtNear), (key) => hashes.get(key)!);
  return { model: before && !WITH_IDS.has(ending) ? keepIds(before, hashed) : hashed, format: file.format };
}

/** What a file says of its elements beside their shapes, by element; undefined: nothing, or not of this format. */
export async function readProperties(bytes: Uint8Array, fileName: string): Promise<Record<string, ElementProperties> | undefined> {
  const inner = endingOf(fileName) === 'zip' ? fromZip(bytes, fileName) : { name: fileName, bytes };
  if (endingOf(inner.name) !== 'ifc') return undefined;
  const { api, readIfcProperties } = await ifc();
  const found = readIfcProperties(api, inner.bytes);
  return Object.keys(found).length > 0 ? found : undefined;
}
