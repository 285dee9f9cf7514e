import { createHash } from 'node:crypto';
import { readFileSync, realpathSync, statSync } from 'node:fs';
import path from 'node:path';
import { parentPort } from 'node:worker_threads';
import { IfcAPI, LogLevel } from 'web-ifc';
import { readDxf } from '../../core/formats/dxf';
import { gltfReader, readGltf } from '../../core/formats/gltf';
import { readIfcProperties } from '../../core/formats/ifc-properties';
import { readIfc } from '../../core/formats/ifc';
import { nearOrigin } from '../../core/formats/local-origin';
import { ModelFileError, NO_SIDE_FILES, withHashes, type ModelFile, type SideFiles } from '../../core/formats/model-file';
import { readObj, readPly, readStl } from '../../core/formats/plain-meshes';
import { read3mf, readCollada } from '../../core/formats/xml-meshes';
import { plainName } from '../../core/formats/side-files';
import { openZip } from '../../core/formats/zip';
import { keepIds } from '../../core/model/identity';
import { applyChange, differenceOf, EMPTY_MODEL, snapshotOf } from '../../core/model/model';
import type { ModelChange } from '../../core/model/schema';

/** Reads model files in a thread of its own, so that neither a big nor a broken file holds up the server. */

export interface FileRequest {
  kind: 'model';
  number: number;
  bytes: Uint8Array;
  fileName: string;
  /** Where it lies, if it is watched; null: uploaded. */
  file: string | null;
  /** What the project has of this file, as a snapshot, because only plain values travel between threads; null: nothing yet. */
  before: ModelChange | null;
}
/** What the file says of its elements beside their shape; asked for once the model is on its way. */
export interface PropertiesRequest {
  kind: 'properties';
  number: number;
  bytes: Uint8Array;
  fileName: string;
}
export interface PropertiesAnswer {
  number: number;
  /** JSON by element; undefined: nothing, or not of this format. */
  properties: Uint8Array | undefined;
}
export type FileAnswer =
  | { number: number; ok: true; change: ModelChange; blobs: { hash: string; bytes: Uint8Array }[]; format: string }
  | { number: number; ok: false; message: string };

async function startIfc(): Promise<IfcAPI> {
  const api = new IfcAPI();
  await api.Init();
  api.SetLogLevel(LogLevel.LOG_LEVEL_OFF);
  return api;
}

/** Parsers by the ending of a file's name; each is started when it is first needed. */
const ifc = once(startIfc);
const gltf = once(gltfReader);
type Reader = (bytes: Uint8Array, fileName: string, beside: SideFiles) => ModelFile | Promise<ModelFile>;
const READERS: Readonly<Record<string, Reader>> = {
  ifc: async (bytes, fileName) => readIfc(await ifc(), bytes, fileName),
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

const KINDS = `${Object.keys(READERS).join(', ')}, zip`;
const MAX_SIDE_BYTES = 256 * 1024 * 1024;

const endingOf = (name: string) => (/\.([^./\\]+)$/.exec(name)?.[1] ?? '').toLowerCase();

function once<T>(start: () => Promise<T>): () => Promise<T> {
  let started: Promise<T> | undefined;
  return () => (started ??= start());
}

/** The one model of a zip, with the rest of the zip beside it. */
function fromZip(bytes: Uint8Array, fileName: string): { name: string; bytes: Uint8Array; beside: SideFiles } {
  const zip = openZip(bytes, fileName);
  const models = [...zip.names].filter((name) => endingOf(name) in READERS && !name.startsWith('__MACOSX/'));
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

async function readerOf({ bytes, fileName, file }: FileRequest): Promise<{ ending: string; read: ModelFile }> {
  const ending = endingOf(fileName);
  if (ending === 'zip') {
    const { name, bytes: inner, beside } = fromZip(bytes, fileName);
    return { ending: endingOf(name), read: await READERS[endingOf(name)]!(inner, `${fileName}/${name}`, beside) };
  }
  const reader = Object.hasOwn(READERS, ending) ? READERS[ending] : undefined;
  if (!reader) throw new ModelFileError(`${fileName} is of no kind that is read: ${KINDS}.`);
  return { ending, read: await reader(bytes, fileName, file === null ? NO_SIDE_FILES : besidePath(file)) };
}

async function read(request: FileRequest): Promise<FileAnswer> {
  const { number, fileName, before } = request;
  try {
    const { ending, read: file } = await readerOf(request);
    const hashes = new Map<string, string>();
    const blobs = new Map<string, Uint8Array>();
    for (const [key, blob] of [...file.meshes, ...file.pictures]) {
      const hash = createHash('sha256').update(blob).digest('hex');
      hashes.set(key, hash);
      blobs.set(hash, blob);
    }
    const known = before && applyChange(EMPTY_MODEL, before);
    const placed = nearOrigin(file.model, known?.basePoint, file.broughtNear);
    const hashed = withHashes(placed, (key) => hashes.get(key)!);
    const model = known && !WITH_IDS.has(ending) ? keepIds(known, hashed) : hashed;
    const change = known ? differenceOf(known, model) : snapshotOf(model);
    return { number, ok: true, change, blobs: [...blobs].map(([hash, blob]) => ({ hash, bytes: blob })), format: file.format };
  } catch (error) {
    if (!(error instanceof ModelFileError)) console.error('file:', fileName, error);
    const message = error instanceof ModelFileError ? error.message : `${fileName} could not be read; the parser stopped.`;
    return { number, ok: false, message };
  }
}

async function properties({ number, bytes, fileName }: PropertiesRequest): Promise<PropertiesAnswer> {
  if (endingOf(fileName) !== 'ifc') return { number, properties: undefined };
  try {
    const found = readIfcProperties(await ifc(), bytes);
    return { number, properties: Object.keys(found).length > 0 ? new TextEncoder().encode(JSON.stringify(found)) : undefined };
  } catch (error) {
    console.error('file:', fileName, error);
    return { number, properties: undefined };
  }
}

parentPort!.on('message', (request: FileRequest | PropertiesRequest) => {
  void (request.kind === 'model' ? read(request) : properties(request)).then((answer) => {
    parentPort!.postMessage(answer);
  });
});
