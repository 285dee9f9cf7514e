import { existsSync } from 'node:fs';
import { rename, writeFile } from 'node:fs/promises';
import sharp from 'sharp';
import type { ExrChannel } from '../../core/formats/exr-writer';
import * as L from '../../core/kernel/assembly/layout';
import { isMask, MASKS, type Channel, type Mask, type PrintSpec } from '../../core/render/print';
import type { SceneInstance } from '../../core/scene/scene';
import { writeExr } from './picture-file';

/** What a picture is handed over with: its channels as one OpenEXR file of layers, masks of flat colours, and their legend. */

const FLOATS = L.CHANNELS_SIZE / 4;
/** Where each channel begins among those of a pixel (see CHANNELS_SIZE), and what its parts are called. */
const GEOMETRY = {
  depth: { at: 0, parts: ['Z'], kind: 'float' },
  position: { at: 1, parts: ['X', 'Y', 'Z'], kind: 'float' },
  normal: { at: 4, parts: ['X', 'Y', 'Z'], kind: 'half' },
  colour: { at: 7, parts: ['R', 'G', 'B'], kind: 'half' },
} as const;
export const LIGHT = ['direct', 'indirect', 'emission'] as const;
export type LightChannel = (typeof LIGHT)[number];
export const isLight = (channel: Channel): channel is LightChannel => (LIGHT as readonly Channel[]).includes(channel);

export interface ChannelData {
  /** CHANNELS_SIZE a pixel. */
  geometry: Float32Array;
  /** f32x3 a pixel, cd/m2. */
  light: Partial<Record<LightChannel, Float32Array>>;
  /** The instance of a number; what no source has sent is a part of the ground. */
  instanceAt: (number: number) => Partial<SceneInstance> | undefined;
}

/** Endings of what is written, and the names that it is handed over under. */
const NAMES = { '.channels.exr': 'channels.exr', '.elements.png': 'mask of elements.png', '.finishes.png': 'mask of finishes.png', '.layers.png': 'mask of layers.png', '.legend.csv': 'legend of masks.csv' } as const; // prettier-ignore

/** The channels that are there of a print, by the names that they are handed over under. */
export const channelFiles = (output: string): [name: string, file: string][] =>
  Object.entries(NAMES).flatMap(([ending, name]) => (existsSync(`${output}${ending}`) ? [[name, `${output}${ending}`]] : []));

/** Writes the channels that are asked for. */
export async function writeChannels(output: string, spec: PrintSpec, width: number, height: number, data: ChannelData): Promise<void> {
  const { channels } = spec.order;
  const layers = channels.filter((channel) => !isMask(channel));
  if (layers.length > 0) {
    const parts = layers.flatMap((channel): readonly (readonly [ExrChannel, Float32Array, number, number])[] => {
      if (isLight(channel)) return ['R', 'G', 'B'].map((part, i) => [{ name: `${channel}.${part}`, kind: 'float' }, data.light[channel]!, i, 3] as const);
      const { at, parts, kind } = GEOMETRY[channel];
      return parts.map((part, i) => [{ name: `${channel}.${part}`, kind }, data.geometry, at + i, FLOATS] as const);
    });
    const values = new Float32Array(width * height * parts.length);
    parts.forEach(([, from, at, step], c) => {
      for (let i = 0, k = c, q = at; i < width * height; i++, k += parts.length, q += step) values[k] = from[q]!;
    });
    const file = `${output}.channels.exr`;
    writeExr(`${file}.part`, parts.map(([channel]) => channel), width, height, spec.metadata, values);
    await rename(`${file}.part`, file);
  }
  const legend: string[] = ['mask,colour,name,id,share of the picture'];
  for (const mask of MASKS.filter((m) => channels.includes(m))) {
    const file = `${output}.${mask}.png`;
    const { rgb, shown } = paintMask(mask, spec, data, width * height);
    await sharp(rgb, { raw: { width, height, channels: 3 }, limitInputPixels: false }).png().toFile(`${file}.part`);
    await rename(`${file}.part`, file);
    for (const { colour, name, id, pixels } of shown) legend.push([mask, colour, name, id, (pixels / (width * height)).toFixed(6)].map(cell).join(','));
  }
  if (legend.length > 1) {
    const file = `${output}.legend.csv`;
    await writeFile(file, `${legend.join('\r\n')}\r\n`);
  }
} // prettier-ignore

const cell = (text: string): string => (/[",\n]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text);

/** An odd number, by whose multiples all colours are gone through before one comes again; neighbours are far apart. */
const STEP = 0x9e3779;
const colourOf = (number: number): number => Math.imul(number + 1, STEP) & 0xffffff;

interface Shown {
  colour: string;
  name: string;
  id: string;
  pixels: number;
}

function paintMask(mask: Mask, spec: PrintSpec, { geometry, instanceAt }: ChannelData, count: number): { rgb: Uint8Array; shown: Shown[] } {
  const numbers = new Int32Array(geometry.buffer, geometry.byteOffset, geometry.length);
  const shown = new Map<string, Shown & { value: number }>();
  const byInstance = new Map<number, (Shown & { value: number }) | undefined>();
  const rgb = new Uint8Array(count * 3);
  for (let i = 0; i < count; i++) {
    const number = numbers[i * FLOATS + L.CHANNELS_INSTANCE / 4]!;
    if (!byInstance.has(number)) byInstance.set(number, number < 0 ? undefined : groupOf(instanceAt(number)));
    const group = byInstance.get(number);
    // The sky is black.
    if (!group) continue;
    group.pixels++;
    rgb[i * 3] = group.value >> 16;
    rgb[i * 3 + 1] = (group.value >> 8) & 255;
    rgb[i * 3 + 2] = group.value & 255;
  }
  return { rgb, shown: [...shown.values()] };

  function groupOf(instance: Partial<SceneInstance> | undefined): Shown & { value: number } {
    const [id, name] = instance?.element === undefined ? ['ground', 'Ground and grass'] : belongs(mask, spec, instance as SceneInstance);
    let group = shown.get(id);
    if (!group) {
      const value = colourOf(shown.size);
      group = { value, colour: `#${value.toString(16).padStart(6, '0')}`, id, name, pixels: 0 };
      shown.set(id, group);
    }
    return group;
  }
}

function belongs(mask: Mask, { named }: PrintSpec, { source, element, finish }: SceneInstance): readonly [id: string, name: string] {
  const id = `${source}/${element}`;
  const said = named?.[id];
  if (mask === 'elements') return [id, said?.name ?? element];
  if (mask === 'finishes') return [finish.id, finish.name];
  const layer = said?.layer ?? '';
  return [`${source}/${layer}`, layer || 'no layer'];
}
