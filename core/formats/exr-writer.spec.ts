import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { describe, expect, it } from 'vitest';
import { random } from '../random';
import { ExrWriter, halfOf, type ExrChannel } from './exr-writer';

/** OpenEXR files, read by readers of others: three's loader, and OpenEXR's own tools where they are (Debian's package openexr). */

const [WIDTH, HEIGHT] = [37, 41];

function written(channels: readonly ExrChannel[], values: Float32Array, pieces = [16, 3, 22]): Uint8Array {
  const file = new Uint8Array(1 << 20);
  let length = 0;
  const writer = new ExrWriter(channels, WIDTH, HEIGHT, { View: 'Ferry hall, “north”' }, (bytes, at) => {
    file.set(bytes, at);
    length = Math.max(length, at + bytes.length);
  });
  let row = 0;
  for (const rows of pieces) {
    writer.add(values.subarray(row * WIDTH * channels.length, (row + rows) * WIDTH * channels.length));
    row += rows;
  }
  return file.slice(0, length);
}

const next = random(7);
const noise = (count: number) => Float32Array.from({ length: WIDTH * HEIGHT * count }, () => 2 ** (next() * 20 - 8));

describe('an OpenEXR file', () => {
  it('holds each value as it was, whatever pieces it came in', () => {
    const kind = 'float' as const;
    const values = noise(4);
    const file = written(['R', 'G', 'B', 'A'].map((name) => ({ name, kind })), values); // prettier-ignore
    const read = new EXRLoader().setDataType(FloatType).parse(file.slice().buffer) as { width: number; height: number; data: Float32Array };
    expect([read.width, read.height]).toEqual([WIDTH, HEIGHT]);
    // The loader's rows run from the bottom up.
    for (let y = 0; y < HEIGHT; y++)
      for (let i = 0; i < WIDTH * 4; i++) expect(read.data[(HEIGHT - 1 - y) * WIDTH * 4 + i]).toBe(values[y * WIDTH * 4 + i]);
    const otherwise = written(['R', 'G', 'B', 'A'].map((name) => ({ name, kind })), values, [41]); // prettier-ignore
    expect(otherwise).toEqual(file);
  });

  it('holds halves to eleven bits', () => {
    const values = noise(3);
    const file = written(['R', 'G', 'B'].map((name) => ({ name, kind: 'half' as const })), values); // prettier-ignore
    const read = new EXRLoader().setDataType(FloatType).parse(file.slice().buffer) as { data: Float32Array };
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++)
        for (let c = 0; c < 3; c++) {
          const [was, is] = [values[(y * WIDTH + x) * 3 + c]!, read.data[((HEIGHT - 1 - y) * WIDTH + x) * 4 + c]!];
          expect(Math.abs(is / was - 1)).toBeLessThan(2 ** -11);
        }
  });

  it.skipIf(!existsSync('/usr/bin/exrheader'))('with layers is what OpenEXR’s own tools read', () => {
    const folder = mkdtempSync(path.join(tmpdir(), 'exr-'));
    const channels: ExrChannel[] = [
      ...['R', 'G', 'B'].map((name) => ({ name, kind: 'half' as const })),
      { name: 'depth.Z', kind: 'float' }, { name: 'direct.R', kind: 'half' },
    ]; // prettier-ignore
    const file = path.join(folder, 'layers.exr');
    writeFileSync(file, written(channels, noise(5)));
    const said = spawnSync('exrheader', [file], { encoding: 'utf8' }).stdout;
    for (const piece of ['depth.Z, 32-bit floating-point', 'direct.R, 16-bit floating-point', 'compression (type compression): zip', 'Ferry hall']) expect(said).toContain(piece);
    // Taken apart and put together again: every block can be unpacked.
    const packed = spawnSync('exrmultiview', ['-z', 'none', 'left', file, 'right', file, path.join(folder, 'both.exr')], { encoding: 'utf8' });
    expect([packed.status, packed.stderr]).toEqual([0, '']);
    rmSync(folder, { recursive: true });
  }); // prettier-ignore
});

it('halves are those of IEEE 754', () => {
  // From the standard: 1, -2, the largest, the smallest normal and subnormal ones, a third.
  for (const [value, half] of [[0, 0], [1, 0x3c00], [-2, 0xc000], [65504, 0x7bff], [1e9, 0x7bff], [2 ** -14, 0x0400], [2 ** -24, 0x0001], [1 / 3, 0x3555]] as const)
    expect([value, halfOf(value)]).toEqual([value, half]);
}); // prettier-ignore
