import { describe, expect, it } from 'vitest';
import { readSkyPicture } from '../formats/sky-pictures';
import { random } from '../random';
import { skyOf } from './sky';
import { skyHorizontalLux } from './sky-map';
import {
  decodeSkyPicture,
  encodeSkyPicture,
  fittedSkyPicture,
  isSkyPicture,
  mendSkyPicture,
  takeSunOut,
  type SkyPicture,
  type SkyPictureChoice,
} from './sky-picture';

const [WIDTH, HEIGHT] = [256, 128];
/** An even sky over dark ground, with a sun of 2 degrees at a place. */
function made(sun?: { altitudeDeg: number; bearingDeg: number; value: number }): SkyPicture {
  const rgb = new Float32Array(WIDTH * HEIGHT * 3);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const altitude = 90 - ((y + 0.5) * 180) / HEIGHT;
      const bearing = ((x + 0.5) * 360) / WIDTH;
      const isSun = sun && Math.hypot(altitude - sun.altitudeDeg, (bearing - sun.bearingDeg) * Math.cos((altitude * Math.PI) / 180)) < 1.5;
      rgb.set(isSun ? [sun.value, sun.value, sun.value * 0.8] : altitude > 0 ? [0.8, 1, 1.4] : [0.1, 0.1, 0.1], (y * WIDTH + x) * 3);
    }
  return { width: WIDTH, height: HEIGHT, rgb };
}
const choice = (change: Partial<SkyPictureChoice> = {}): SkyPictureChoice => ({
  hash: '',
  name: 'shore.hdr',
  lights: true,
  turnDeg: 0,
  level: 10_000,
  ...change,
});
const input = (picture: SkyPictureChoice) => ({ trueAltitudeDeg: 30, azimuthDeg: 180, trueNorthDeg: 0, picture });

/** As a Radiance file is written, without runs (Ward 1991). */
function hdrFile({ width, height, rgb }: SkyPicture): Uint8Array {
  const head = new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${String(height)} +X ${String(width)}\n`);
  const texels = encodeSkyPicture({ width, height, rgb }).subarray(16);
  const out = new Uint8Array(head.length + texels.length);
  out.set(head);
  out.set(texels, head.length);
  return out;
}

/** An uncompressed OpenEXR file of one channel set, written from the published layout. */
function exrFile(width: number, height: number, at: (x: number, y: number) => number[]): Uint8Array {
  const bytes: number[] = [0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0];
  const text = (s: string) => bytes.push(...new TextEncoder().encode(s), 0);
  const int = (n: number) => bytes.push(n & 255, (n >> 8) & 255, (n >> 16) & 255, (n >> 24) & 255);
  const float = (n: number) => bytes.push(...new Uint8Array(Float32Array.of(n).buffer));
  const attribute = (name: string, type: string, size: number, write: () => void) => {
    text(name);
    text(type);
    int(size);
    write();
  };
  attribute('channels', 'chlist', 3 * 18 + 1, () => {
    for (const channel of ['B', 'G', 'R']) {
      text(channel);
      int(2);
      int(0);
      int(1);
      int(1);
    }
    bytes.push(0);
  });
  attribute('compression', 'compression', 1, () => bytes.push(0));
  for (const window of ['dataWindow', 'displayWindow']) attribute(window, 'box2i', 16, () => { [0, 0, width - 1, height - 1].forEach(int); }); // prettier-ignore
  attribute('lineOrder', 'lineOrder', 1, () => bytes.push(0));
  attribute('pixelAspectRatio', 'float', 4, () => { float(1); }); // prettier-ignore
  attribute('screenWindowCenter', 'v2f', 8, () => { float(0); float(0); }); // prettier-ignore
  attribute('screenWindowWidth', 'float', 4, () => { float(1); }); // prettier-ignore
  bytes.push(0);
  const line = 8 + width * 12;
  const first = bytes.length + height * 8;
  for (let y = 0; y < height; y++) {
    int(first + y * line);
    int(0);
  }
  for (let y = 0; y < height; y++) {
    int(y);
    int(width * 12);
    for (const channel of [2, 1, 0]) for (let x = 0; x < width; x++) float(at(x, y)[channel]!);
  }
  return Uint8Array.from(bytes);
}

describe('pictures of skies', () => {
  it('are read from Radiance and OpenEXR files, the zenith on top', () => {
    const hdr = readSkyPicture('shore.hdr', hdrFile(made())) as SkyPicture;
    expect([hdr.width, hdr.height]).toEqual([WIDTH, HEIGHT]);
    [0.8, 1, 1.4].forEach((want, c) => {
      expect(Math.abs(hdr.rgb[c]! / want - 1)).toBeLessThan(0.01);
    });
    const exr = readSkyPicture(
      'shore.exr',
      exrFile(8, 4, (x, y) => [x, y, y === 0 ? 100 : 0.5]),
    ) as SkyPicture;
    expect([...exr.rgb.subarray(0, 6)]).toEqual([0, 0, 100, 1, 0, 100]);
    expect([...exr.rgb.subarray(exr.rgb.length - 3)]).toEqual([7, 3, 0.5]);
  });

  it('that are none, cut off or of another shape are refused in a sentence', () => {
    expect(readSkyPicture('note.hdr', new TextEncoder().encode('hello'))).toMatch(/neither a Radiance .hdr nor an OpenEXR/);
    expect(readSkyPicture('cut.hdr', hdrFile(made()).subarray(0, 500))).toMatch(/broken/);
    expect(readSkyPicture('cut.exr', exrFile(8, 4, () => [1, 1, 1]).subarray(0, 120))).toMatch(/broken/);
    expect(
      readSkyPicture(
        'square.exr',
        exrFile(4, 4, () => [1, 1, 1]),
      ),
    ).toMatch(/twice as wide as high/);
    const whole = exrFile(8, 4, () => [1, 1, 1]);
    const next = random(5);
    for (let i = 0; i < 300; i++) {
      const broken = Uint8Array.from(whole);
      for (let k = 0; k < 3; k++) broken[Math.floor(next() * broken.length)] = Math.floor(next() * 256);
      const read = readSkyPicture('broken.exr', broken);
      if (typeof read === 'string') expect(read).toMatch(/\.$/);
    }
  });

  it('are kept to 1 %', () => {
    const next = random(3);
    const picture = { width: 64, height: 32, rgb: Float32Array.from({ length: 64 * 32 * 3 }, () => 10 ** (next() * 8 - 3)) };
    for (let i = 0; i < picture.rgb.length; i += 3) picture.rgb.fill(picture.rgb[i]!, i, i + 3);
    const bytes = encodeSkyPicture(picture);
    expect(isSkyPicture(bytes)).toBe(true);
    expect(isSkyPicture(bytes.subarray(0, 100))).toBe(false);
    decodeSkyPicture(bytes).rgb.forEach((value, i) => {
      expect(Math.abs(value / picture.rgb[i]! - 1)).toBeLessThan(0.01);
    });
  });

  it('have what no light has mended by what stands beside it', () => {
    const picture = made();
    [NaN, Infinity, -3].forEach((value, i) => (picture.rgb[(20 * WIDTH + i * 9) * 3] = value));
    expect(mendSkyPicture(picture)).toBe(3);
    expect([...picture.rgb.subarray(20 * WIDTH * 3, 20 * WIDTH * 3 + 3)].map((c) => Number(c.toFixed(3)))).toEqual([0.8, 1, 1.4]);
  });

  it('keep their mean when they are made smaller', () => {
    const next = random(9);
    const large = { width: 2304, height: 1152, rgb: Float32Array.from({ length: 2304 * 1152 * 3 }, () => next()) };
    const small = fittedSkyPicture(large);
    expect([small.width, small.height]).toEqual([2048, 1024]);
    const mean = (rgb: Float32Array) => rgb.reduce((a, b) => a + b) / rgb.length;
    expect(mean(small.rgb)).toBeCloseTo(mean(large.rgb), 4);
  });

  it('have their sun found, kept apart with all its light, and its place closed', () => {
    const picture = made({ altitudeDeg: 35, bearingDeg: 222, value: 5000 });
    const whole = skyHorizontalLux({
      ...picture,
      radiance: Float32Array.from(picture.rgb),
      sun: { direction: [0, 0, 1], normalLux: [0, 0, 0], radiance: [0, 0, 0], radiusRad: 1 },
    });
    const sun = takeSunOut(picture)!;
    expect(Math.abs(sun.altitudeDeg - 35)).toBeLessThan(0.5);
    expect(Math.abs(sun.bearingDeg - 222)).toBeLessThan(0.5);
    const rest = skyHorizontalLux({
      ...picture,
      radiance: picture.rgb,
      sun: { direction: [0, 0, 1], normalLux: [0, 0, 0], radiance: [0, 0, 0], radiusRad: 1 },
    });
    const ofSun = (0.2126 * sun.light[0] + 0.7152 * sun.light[1] + 0.0722 * sun.light[2]) * Math.sin((sun.altitudeDeg * Math.PI) / 180);
    expect(Math.abs((rest + ofSun) / whole - 1)).toBeLessThan(0.01);
    expect(Math.max(...picture.rgb)).toBeLessThan(2);
    expect(takeSunOut(made())).toBeUndefined();
  });

  it('light at the level that is set, from where they are turned', () => {
    const picture = made({ altitudeDeg: 35, bearingDeg: 90, value: 5000 });
    const sun = takeSunOut(picture)!;
    for (const turnDeg of [0, 90, -45]) {
      const sky = skyOf(input(choice({ sun, turnDeg })), picture);
      const [r, g, b] = sky.sun.normalLux;
      expect(skyHorizontalLux(sky) + (0.2126 * r + 0.7152 * g + 0.0722 * b) * sky.sun.direction[2]).toBeCloseTo(10_000, 0);
      const bearing = (Math.atan2(sky.sun.direction[0], sky.sun.direction[1]) * 180) / Math.PI;
      expect(Math.abs(bearing - (90 + turnDeg))).toBeLessThan(1);
    }
  });

  it('that are only seen leave the light as it is', () => {
    const [plain, seen] = [skyOf({ ...input(choice()), picture: undefined }), skyOf(input(choice({ lights: false, level: 500 })), made())];
    expect(seen.radiance).toEqual(plain.radiance);
    expect(seen.backdrop!.radiance[1]).toBeCloseTo(500, 3);
  });
});
