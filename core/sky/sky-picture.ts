import type { Rgb } from './atmosphere';
import { skyHorizontalLux, sunDisc, type Sky } from './sky-map';
import { directionOf } from './sun';

/** All-round pictures in place of a computed sky. Equirectangular: row 0 at the zenith, the left edge faces north before it is turned. */

export interface SkyPicture {
  width: number;
  height: number;
  /** Linear Rec.709. */
  rgb: Float32Array;
}

/** A sun that was found in a picture, and taken out of it. Light in the picture's own units times sr. */
export interface FoundSun {
  altitudeDeg: number;
  /** Clockwise from the picture's left edge. */
  bearingDeg: number;
  light: Rgb;
}

/** How a project uses one. */
export interface SkyPictureChoice {
  /** Blob of the picture, see `encodeSkyPicture`. */
  hash: string;
  name: string;
  /** It lights the scene; otherwise it is only seen, and the light is that of the computed sky. */
  lights: boolean;
  /** Clockwise, degrees. */
  turnDeg: number;
  /** Level illuminance of sky and sun together, lx; of what is only seen, the luminance of its white, cd/m2. */
  level: number;
  sun?: FoundSun | undefined;
}

export const MOST_SKY_WIDTH = 2048;
const MAGIC = 0x50534b44;
const HEAD = 16;

/** Each texel as a shared exponent and three mantissas (Ward 1991, "Real Pixels"), behind a head of 16 bytes: mark, width, height, 0. */
export function encodeSkyPicture({ width, height, rgb }: SkyPicture): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(HEAD + width * height * 4);
  const head = new DataView(out.buffer);
  [MAGIC, width, height].forEach((value, i) => {
    head.setUint32(i * 4, value, true);
  });
  for (let i = 0; i < width * height; i++) {
    const top = Math.max(rgb[i * 3]!, rgb[i * 3 + 1]!, rgb[i * 3 + 2]!);
    if (!(top > 1e-32)) continue;
    const exponent = Math.ceil(Math.log2(top * 1.0000001));
    const scale = 256 / 2 ** exponent;
    for (let c = 0; c < 3; c++) out[HEAD + i * 4 + c] = Math.min(255, Math.floor(rgb[i * 3 + c]! * scale));
    out[HEAD + i * 4 + 3] = Math.min(255, Math.max(1, exponent + 128));
  }
  return out;
}

export function isSkyPicture(bytes: Uint8Array): boolean {
  if (bytes.byteLength < HEAD) return false;
  const head = new DataView(bytes.buffer, bytes.byteOffset, HEAD);
  const [mark, width, height] = [0, 4, 8].map((at) => head.getUint32(at, true)) as [number, number, number];
  return mark === MAGIC && width === 2 * height && width <= MOST_SKY_WIDTH && bytes.byteLength === HEAD + width * height * 4;
}

/** What `encodeSkyPicture` has made, to 1 %. */
export function decodeSkyPicture(bytes: Uint8Array): SkyPicture {
  const head = new DataView(bytes.buffer, bytes.byteOffset, HEAD);
  const [width, height] = [head.getUint32(4, true), head.getUint32(8, true)];
  const rgb = new Float32Array(width * height * 3);
  for (let i = 0; i < width * height; i++) {
    const exponent = bytes[HEAD + i * 4 + 3]!;
    if (exponent === 0) continue;
    const scale = 2 ** (exponent - 128) / 256;
    for (let c = 0; c < 3; c++) rgb[i * 3 + c] = (bytes[HEAD + i * 4 + c]! + 0.5) * scale;
  }
  return { width, height, rgb };
}

/** Values that no light has are replaced by what stands beside them; how many there were. */
export function mendSkyPicture({ width, height, rgb }: SkyPicture): number {
  let mended = 0;
  const isSound = (i: number) => [0, 1, 2].every((c) => Number.isFinite(rgb[i * 3 + c]!) && rgb[i * 3 + c]! >= 0);
  for (let i = 0; i < width * height; i++) {
    if (isSound(i)) continue;
    mended++;
    const x = i % width;
    const beside = [i - x + ((x + width - 1) % width), i - x + ((x + 1) % width), i - width, i + width].filter(
      (j) => j >= 0 && j < width * height && isSound(j),
    );
    for (let c = 0; c < 3; c++)
      rgb[i * 3 + c] = beside.length > 0 ? beside.reduce((sum, j) => sum + rgb[j * 3 + c]!, 0) / beside.length : 0;
  }
  return mended;
}

/** Means over areas, so that the light stays what it was: twice as wide as high, and no wider than is kept. */
export function fittedSkyPicture({ width, height, rgb }: SkyPicture): SkyPicture {
  const columns = Math.min(MOST_SKY_WIDTH, width - (width % 2));
  const rows = columns / 2;
  if (columns === width && rows === height) return { width, height, rgb };
  const out = new Float32Array(columns * rows * 3);
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < columns; x++) {
      const [x0, x1] = [
        Math.floor((x * width) / columns),
        Math.max(Math.floor((x * width) / columns) + 1, Math.floor(((x + 1) * width) / columns)),
      ];
      const [y0, y1] = [
        Math.floor((y * height) / rows),
        Math.max(Math.floor((y * height) / rows) + 1, Math.floor(((y + 1) * height) / rows)),
      ];
      for (let j = y0; j < Math.min(height, y1); j++)
        for (let i = x0; i < Math.min(width, x1); i++)
          for (let c = 0; c < 3; c++) out[(y * columns + x) * 3 + c]! += rgb[(j * width + i) * 3 + c]! / ((x1 - x0) * (y1 - y0));
    }
  return { width: columns, height: rows, rgb: out };
}

const luminanceAt = (rgb: Float32Array, i: number) => 0.2126 * rgb[i * 3]! + 0.7152 * rgb[i * 3 + 1]! + 0.0722 * rgb[i * 3 + 2]!;
/** A sun is so many times as bright as the mean of the sky, and no wider than this, degrees. */
const SUN_CONTRAST = 60;
const WIDEST_SUN_DEG = 6;

/**
 * Finds the sun above the horizon, takes its light out of the picture and closes the place with what surrounds it. Undefined: no
 * place is that bright and small.
 */
export function takeSunOut({ width, height, rgb }: SkyPicture): FoundSun | undefined {
  let [top, at, sum, weights] = [0, 0, 0, 0];
  for (let y = 0; y < height / 2; y++) {
    const weight = Math.sin(((y + 0.5) * Math.PI) / height);
    for (let x = 0; x < width; x++) {
      const light = luminanceAt(rgb, y * width + x);
      sum += Math.min(light, 1e6) * weight;
      weights += weight;
      if (light > top) [top, at] = [light, y * width + x];
    }
  }
  // The mean of all would hold the sun's own light.
  const sky = medianAbove({ width, height, rgb });
  if (!(top > SUN_CONTRAST * Math.max(sky, (sum / weights) * 0.02)) || sky <= 0) return undefined;
  const [cx, cy] = [at % width, Math.floor(at / width)];
  const direction = (x: number, y: number) => directionOf(90 - ((y + 0.5) * 180) / height, ((x + 0.5) * 360) / width);
  const centre = direction(cx, cy);
  const reach = Math.cos((WIDEST_SUN_DEG * Math.PI) / 180);
  const near: { i: number; cos: number; omega: number; d: [number, number, number] }[] = [];
  for (let y = 0; y < height / 2; y++) {
    const omega = ((2 * Math.PI) / width) * (Math.cos((y * Math.PI) / height) - Math.cos(((y + 1) * Math.PI) / height));
    for (let x = 0; x < width; x++) {
      const d = direction(x, y);
      const cos = d[0] * centre[0] + d[1] * centre[1] + d[2] * centre[2];
      if (cos > reach) near.push({ i: y * width + x, cos, omega, d });
    }
  }
  const rim = near.filter(({ cos }) => cos < Math.cos((WIDEST_SUN_DEG * 0.8 * Math.PI) / 180));
  const about = [0, 1, 2].map((c) => rim.reduce((total, { i }) => total + rgb[i * 3 + c]!, 0) / Math.max(1, rim.length)) as Rgb;
  const level = 0.2126 * about[0] + 0.7152 * about[1] + 0.0722 * about[2];
  const sun = near.filter(({ i }) => luminanceAt(rgb, i) > Math.max(4 * level, top * 0.02));
  // Brightest light that reaches the rim is a bright sky, not a sun.
  if (sun.length === 0 || level > top / 10) return undefined;
  const light: Rgb = [0, 0, 0];
  const middle = [0, 0, 0];
  for (const { i, omega, d } of sun)
    for (let c = 0; c < 3; c++) {
      const over = Math.max(0, rgb[i * 3 + c]! - about[c]!) * omega;
      light[c] = light[c]! + over;
      for (let k = 0; k < 3; k++) middle[k] = middle[k]! + d[k]! * over;
      rgb[i * 3 + c] = about[c]!;
    }
  const length = Math.hypot(...middle);
  const [x, y, z] = middle.map((m) => m / length) as [number, number, number];
  return { altitudeDeg: (Math.asin(z) * 180) / Math.PI, bearingDeg: ((Math.atan2(x, y) * 180) / Math.PI + 360) % 360, light };
}

function medianAbove({ width, height, rgb }: SkyPicture): number {
  const step = Math.max(1, Math.floor((width * height) / 2 / 20_000));
  const lights = Float64Array.from({ length: Math.floor((width * height) / 2 / step) }, (_, i) => luminanceAt(rgb, i * step)).sort();
  return lights[Math.floor(lights.length / 2)] ?? 0;
}

/** The same sky, turned and at its level. */
export function skyOfPicture({ width, height, rgb }: SkyPicture, { turnDeg, level, sun }: SkyPictureChoice, trueNorthDeg: number): Sky {
  const radiance = turned({ width, height, rgb }, turnDeg + trueNorthDeg);
  const direction = sun ? directionOf(sun.altitudeDeg, sun.bearingDeg + turnDeg, trueNorthDeg) : ([0, 0, 1] as [number, number, number]);
  const sky: Sky = { width, height, radiance, sun: sunDisc(direction, sun?.light ?? [0, 0, 0]) };
  const [r, g, b] = sun?.light ?? [0, 0, 0];
  const whole = skyHorizontalLux(sky) + (0.2126 * r + 0.7152 * g + 0.0722 * b) * Math.max(0, direction[2]);
  const scale = whole > 0 ? level / whole : 0;
  for (let i = 0; i < radiance.length; i++) radiance[i] = radiance[i]! * scale;
  return { ...sky, sun: sunDisc(direction, [r * scale, g * scale, b * scale]) };
}

/** A picture that is only seen, at the luminance of its white. */
export const backdropOf = ({ width, height, rgb }: SkyPicture, { turnDeg, level }: SkyPictureChoice, trueNorthDeg: number) => ({
  width,
  height,
  radiance: turned({ width, height, rgb }, turnDeg + trueNorthDeg).map((value) => value * level),
});

function turned({ width, height, rgb }: SkyPicture, byDeg: number): Float32Array {
  const shift = Math.round((((byDeg % 360) + 360) % 360) * (width / 360)) % width;
  const out = new Float32Array(rgb.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = (y * width + ((x - shift + width) % width)) * 3;
      for (let c = 0; c < 3; c++) out[(y * width + x) * 3 + c] = rgb[from + c]!;
    }
  return out;
}
