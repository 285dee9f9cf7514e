import { GLB_BUFFER, type JSONDocument } from '@gltf-transform/core';
import { ModelFileError, type SideFiles } from './model-file';
import { checkTextSize } from './text';

type Json = JSONDocument['json'];
type Bytes = Uint8Array<ArrayBuffer>;

/** A glTF's JSON with its buffers and pictures, those of other files among them; of a GLB, or of a .gltf. Throws ModelFileError. */
export function gltfDocument(bytes: Uint8Array, fileName: string, beside: SideFiles): JSONDocument {
  const { text, binary } = isBinary(bytes) ? chunksOf(bytes, fileName) : { text: bytes, binary: undefined };
  const json = parsedJson(text, fileName);
  const resources: Record<string, Bytes> = binary ? { [GLB_BUFFER]: binary } : {};
  for (const { uri } of json.buffers ?? []) {
    if (uri === undefined || uri.startsWith('data:')) continue;
    const found = beside(uri);
    if (!found)
      throw new ModelFileError(`${fileName} keeps ${uri.slice(0, 200)} in a file of its own, which is missing; give both in one zip.`);
    resources[uri] = found;
  }
  for (const { uri } of json.images ?? []) {
    if (uri === undefined || uri.startsWith('data:')) continue;
    // One that is missing is a finding later, not a fault.
    resources[uri] = beside(uri) ?? new Uint8Array();
  }
  const size = Object.values(resources).reduce((sum, { byteLength }) => sum + byteLength, bytes.byteLength);
  checkCounts(json, size, fileName);
  return { json, resources };
}

const isBinary = (bytes: Uint8Array): boolean => bytes.length >= 4 && new TextDecoder('latin1').decode(bytes.subarray(0, 4)) === 'glTF';

/** Chunks of a GLB (glTF 2.0, 4.4): a header of 12 bytes, then for each its length, its kind and its bytes. */
const [JSON_CHUNK, BINARY_CHUNK] = [0x4e4f534a, 0x004e4942];

function chunksOf(bytes: Uint8Array, fileName: string): { text: Uint8Array; binary: Bytes | undefined } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let text: Uint8Array | undefined;
  let binary: Bytes | undefined;
  for (let at = 12; at + 8 <= bytes.length;) {
    const [length, kind] = [view.getUint32(at, true), view.getUint32(at + 4, true)];
    if (at + 8 + length > bytes.length) throw new ModelFileError(`${fileName} is cut off: it is shorter than it says.`);
    const chunk = bytes.subarray(at + 8, at + 8 + length);
    if (kind === JSON_CHUNK) text ??= chunk;
    else if (kind === BINARY_CHUNK) binary ??= new Uint8Array(chunk);
    at += 8 + length;
  }
  if (!text) throw new ModelFileError(`${fileName} is cut off: it is a GLB without its description.`);
  return { text, binary };
}

function parsedJson(text: Uint8Array, fileName: string): Json {
  checkTextSize(text, fileName);
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder('utf8', { fatal: true }).decode(text));
  } catch {
    throw new ModelFileError(`${fileName} is neither a GLB nor glTF in JSON.`);
  }
  if (typeof json !== 'object' || json === null || LISTS.some((name) => !isListOfObjects((json as Record<string, unknown>)[name] ?? [])))
    throw new ModelFileError(`${fileName} is not glTF: its buffers, images and nodes are not lists.`);
  // A file of an untrusted source may lack what its schema asks for.
  const version = (json as { asset?: { version?: unknown } }).asset?.version;
  if (version !== '2.0')
    throw new ModelFileError(`${fileName} is glTF ${typeof version === 'string' ? version : 'of no version'}; 2.0 is read.`);
  return json as Json;
}

const LISTS = ['buffers', 'bufferViews', 'accessors', 'images', 'nodes'] as const;
const isListOfObjects = (list: unknown): boolean => Array.isArray(list) && list.every((item) => typeof item === 'object' && item !== null);

/** Bytes of a component by its type, and components of an element (glTF 2.0, 3.6.2.2 and 3.6.2.3). */
const COMPONENT_BYTES: Readonly<Record<number, number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const COMPONENTS: Readonly<Record<string, number>> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
/** What compressed meshes may come to: many times what they weigh, and so much whatever they weigh. */
const [MOST_GROWTH, MOST_FREE] = [200, 16_000_000];

/** Refuses counts that the file's bytes cannot hold, before anything is made for them. */
function checkCounts({ accessors = [], bufferViews = [] }: Json, size: number, fileName: string): void {
  const tooMany = (count: number): never => {
    throw new ModelFileError(`${fileName} is damaged: it names ${String(count)} values and is too short for them.`);
  };
  let unpacked = 0;
  for (const { count, type, componentType, bufferView } of accessors) {
    const bytes = count * (COMPONENTS[type] ?? 1) * (COMPONENT_BYTES[componentType] ?? 1);
    const view = bufferView === undefined ? undefined : bufferViews[bufferView];
    if (!(count >= 0)) tooMany(count);
    if (view && bytes > view.byteLength) tooMany(count);
    unpacked += bytes;
  }
  // Views of compressed data say how much they unpack to; without compression they are part of a buffer.
  for (const view of bufferViews) if (view.extensions) unpacked += view.byteLength;
  if (unpacked > MOST_FREE + size * MOST_GROWTH) tooMany(unpacked);
}
