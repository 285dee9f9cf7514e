import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js';
import type { SkyPicture } from '../sky/sky-picture';

const MOST_PIXELS = 64e6;

/** Reads an all-round picture of high dynamic range (Radiance .hdr, OpenEXR); a sentence where it is none. */
export function readSkyPicture(name: string, bytes: Uint8Array): SkyPicture | string {
  const start = String.fromCharCode(...bytes.subarray(0, 10));
  const isExr = bytes[0] === 0x76 && bytes[1] === 0x2f && bytes[2] === 0x31 && bytes[3] === 0x01;
  if (!isExr && !start.startsWith('#?')) return `${name} is neither a Radiance .hdr nor an OpenEXR file.`;
  const fault = isExr ? exrFault(bytes) : undefined;
  if (fault) return `${name} ${fault}`;
  try {
    const copy = Uint8Array.from(bytes).buffer;
    const read = isExr ? new EXRLoader().setDataType(FloatType).parse(copy) : new HDRLoader().setDataType(FloatType).parse(copy);
    const { width, height, data } = read as unknown as { width: number; height: number; data: Float32Array };
    if (width * height > MOST_PIXELS) return `${name} has ${String(Math.round((width * height) / 1e6))} million pixels; 64 are read.`;
    if (Math.abs(width / height - 2) > 0.02)
      return `${name} is ${String(width)} × ${String(height)} pixels; a picture all round is twice as wide as high.`;
    if (!(data.length >= width * height)) return `${name} is broken: it ends before its last row.`;
    // EXR rows come from below upwards.
    return { width, height, rgb: toRgb(data, width, height, isExr) };
  } catch (error) {
    return `${name} is broken: ${error instanceof Error ? error.message.slice(0, 120) : 'it cannot be read'}.`;
  }
}

function toRgb(data: Float32Array, width: number, height: number, isUpsideDown: boolean): Float32Array {
  const channels = Math.round(data.length / (width * height));
  const rgb = new Float32Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = ((isUpsideDown ? height - 1 - y : y) * width + x) * channels;
      for (let c = 0; c < 3; c++) rgb[(y * width + x) * 3 + c] = data[from + Math.min(c, channels - 1)]!;
    }
  return rgb;
}

/** Lines in a block, by the number of the compression. */
const LINES: Readonly<Record<number, number>> = { 0: 1, 1: 1, 2: 1, 3: 16, 4: 32, 5: 16, 6: 32, 7: 32, 8: 32, 9: 256 };
const TILED = 0x200;
const DEEP_OR_PARTS = 0x1800;
const MOST_SIDE = 16_384;

/** Why the head of an OpenEXR file cannot be trusted to be read ("OpenEXR File Layout"); undefined: it can. A reader may never end on others. */
function exrFault(bytes: Uint8Array): string | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const broken = 'is broken: its head is not whole.';
  const version = bytes.byteLength > 8 ? view.getUint32(4, true) : 0;
  if (version & DEEP_OR_PARTS) return 'has several parts or depths; one flat picture is read.';
  if (version & TILED) return 'is stored in tiles; one that is stored in lines is read.';
  let at = 8;
  const text = (): string | undefined => {
    const end = bytes.indexOf(0, at);
    if (end < 0 || end - at > 255) return undefined;
    const word = String.fromCharCode(...bytes.subarray(at, end));
    at = end + 1;
    return word;
  };
  let [width, height, compression] = [0, 0, -1];
  for (;;) {
    if (bytes[at] === 0) break;
    const [name, type] = [text(), text()];
    if (!name || !type || at + 4 > bytes.byteLength) return broken;
    const size = view.getInt32(at, true);
    at += 4;
    if (size < 0 || at + size > bytes.byteLength) return broken;
    if (name === 'dataWindow' && size === 16) {
      const [x0, y0, x1, y1] = [0, 4, 8, 12].map((offset) => view.getInt32(at + offset, true)) as [number, number, number, number];
      [width, height] = [x1 - x0 + 1, y1 - y0 + 1];
    }
    if (name === 'compression' && size === 1) compression = bytes[at]!;
    if (name === 'channels') {
      const channels = channelsIn(bytes.subarray(at, at + size));
      if (!channels) return broken;
    }
    at += size;
  }
  at++;
  if (!(width > 0 && height > 0 && width <= MOST_SIDE && height <= MOST_SIDE)) return broken;
  const lines = LINES[compression];
  if (!lines) return 'is packed in a way that is not known.';
  const blocks = Math.ceil(height / lines);
  if (at + blocks * 8 > bytes.byteLength) return 'is broken: it ends before its last row.';
  for (let i = 0; i < blocks; i++) {
    const from = view.getUint32(at + i * 8, true) + view.getUint32(at + i * 8 + 4, true) * 2 ** 32;
    if (from < at || from + 8 > bytes.byteLength) return 'is broken: it ends before its last row.';
    const size = view.getInt32(from + 4, true);
    if (size <= 0 || from + 8 + size > bytes.byteLength) return 'is broken: it ends before its last row.';
  }
  return undefined;
}

/** How many channels a list names; undefined: it is none. Each: name, 0, type 0 to 2, four bytes, samplings of 1. */
function channelsIn(list: Uint8Array): number | undefined {
  const view = new DataView(list.buffer, list.byteOffset, list.byteLength);
  let at = 0;
  for (let count = 0; count < 64; count++) {
    if (list[at] === 0) return count || undefined;
    const end = list.indexOf(0, at);
    if (end < 0 || end + 17 > list.byteLength) return undefined;
    const [type, x, y] = [1, 9, 13].map((offset) => view.getInt32(end + offset, true));
    if (type! < 0 || type! > 2 || x !== 1 || y !== 1) return undefined;
    at = end + 17;
  }
  return undefined;
}
