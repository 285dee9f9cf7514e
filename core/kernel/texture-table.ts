import { meanTexel } from '../finish/maps/mean';
import type { TextureImage } from '../finish/maps/texture-image';
import * as L from './assembly/layout';
import type { KernelMemory } from './memory';

/** Textures in the kernel's memory, by the names that materials give them. They stay placed while a scene uses them. */
export class TextureTable {
  private readonly placed = new Map<string, { pointer: number; width: number; height: number; srgb: boolean; mean: readonly number[] }>();
  /** Numbers of those of the scene that is being written. */
  private used = new Map<string, number>();

  constructor(private readonly memory: KernelMemory) {}

  /** A new scene is going to say what it uses. */
  begin(): void {
    this.used = new Map();
  }

  /** Number of a texture in the scene that is being written; -1 for none. */
  numberOf(key: string, image: TextureImage | undefined, srgb: boolean): number {
    if (!image) return -1;
    if (!this.placed.has(key)) {
      const { texels, width, height } = image;
      const blocks = inBlocks(texels, width, height);
      const pointer = this.memory.allocate(blocks.byteLength);
      this.memory.write(pointer, blocks);
      this.placed.set(key, { pointer, width, height, srgb, mean: meanTexel(texels, width, height, srgb) });
    }
    if (!this.used.has(key)) this.used.set(key, this.used.size);
    return this.used.get(key)!;
  }

  /** Drops what the scene has not asked for, and writes the table of the rest into room that `allocate` gives. */
  write(allocate: (bytes: number) => number): number {
    for (const [key, { pointer }] of this.placed)
      if (!this.used.has(key)) {
        this.memory.release(pointer);
        this.placed.delete(key);
      }
    const table = allocate(Math.max(1, this.used.size) * L.TEXTURE_SIZE);
    const view = this.memory.view();
    for (const [key, index] of this.used) {
      const t = this.placed.get(key)!;
      const p = table + index * L.TEXTURE_SIZE;
      [t.pointer, t.width, t.height, t.srgb ? 1 : 0].forEach((word, i) => {
        view.setUint32(p + i * 4, word, true);
      });
      t.mean.forEach((value, i) => {
        view.setFloat32(p + L.TEXTURE_MEAN + i * 4, value, true);
      });
    }
    return table;
  }
}

/** RGBA8 texels by blocks of 4 x 4, row by row in each, and the blocks row by row; see assembly/texture.ts. */
function inBlocks(texels: Uint8Array, width: number, height: number): Uint32Array {
  const aligned = texels.byteOffset % 4 === 0 ? texels : texels.slice();
  const from = new Uint32Array(aligned.buffer, aligned.byteOffset, width * height);
  const across = Math.ceil(width / 4);
  const out = new Uint32Array(across * Math.ceil(height / 4) * 16);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0, row = (y >> 2) * across * 16 + (y & 3) * 4; x < width; x++, i++) out[row + (x >> 2) * 16 + (x & 3)] = from[i]!;
  return out;
}
