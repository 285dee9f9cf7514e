import { random } from '../random';
import type { Rgb } from './atmosphere';
import type { Sky } from './sky-map';

/** Broken clouds in one layer, as a person sets them. */
export interface Clouds {
  /** Share of the sky that they hide, 0 to 1. */
  cover: number;
  /** Of their base, metres. */
  heightM: number;
  /** Which clouds: a whole number. */
  seed: number;
  /** Metres a second, towards the east. */
  windMs: number;
}

/** What they let through of the sun, by place: a square that repeats. */
export interface CloudsInSky {
  size: number;
  /** 0 to 1, row by row towards the north. */
  through: Float32Array;
  repeatM: number;
  heightM: number;
  driftM: readonly [number, number];
}

const SIZE = 512;
const REPEAT_M = 6000;
const OCTAVES = 6;
/** Cells of the coarsest noise over the square. */
const CELLS = 5;
/** Optical depth of the thickest, and share of what is scattered that comes out below. */
const THICKEST = 9;
/** Further away they are a haze of their own, metres. */
const FURTHEST_M = 45_000;
const EARTH_M = 6_360_000;

/** Thickness by place, 0 to 1, and what it lets through: noise of several sizes (Perlin 1985) above what leaves the cover that was asked for. */
interface Layer {
  key: string;
  thick: Float32Array;
  through: Float32Array;
}

/** The last one, which is asked for again as it drifts. */
let last: Layer | undefined;

function layerOf({ seed, cover }: Clouds): Layer {
  const key = `${String(seed)} ${cover.toFixed(3)}`;
  if (last?.key !== key) {
    const thick = makeThickness(seed, cover);
    last = { key, thick, through: thick.map(throughOf) };
  }
  return last;
}

function makeThickness(seed: number, cover: number): Float32Array {
  const field = new Float32Array(SIZE * SIZE);
  let weight = 1;
  for (let octave = 0, cells = CELLS; octave < OCTAVES; octave++, cells *= 2, weight *= 0.52)
    addNoise(field, cells, seed * 97 + octave, weight);
  const sorted = Float32Array.from(field).sort();
  const from = sorted[Math.min(sorted.length - 1, Math.floor((1 - cover) * sorted.length))]!;
  const range = Math.max(1e-6, sorted.at(-1)! - from) * 0.55;
  return field.map((value) => Math.min(1, Math.max(0, (value - from) / range)));
}

/** Gradient noise that repeats over the square. */
function addNoise(field: Float32Array, cells: number, seed: number, weight: number): void {
  const next = random(seed);
  const [gx, gy] = [new Float64Array(cells * cells), new Float64Array(cells * cells)];
  for (let i = 0; i < cells * cells; i++) {
    const angle = next() * 2 * Math.PI;
    [gx[i], gy[i]] = [Math.cos(angle), Math.sin(angle)];
  }
  const fade = (t: number) => t * t * t * (t * (6 * t - 15) + 10);
  // Cell, place in it and weight of each column, and so of each row.
  const cell = new Int32Array(SIZE);
  const part = new Float64Array(SIZE);
  const faded = new Float64Array(SIZE);
  for (let x = 0; x < SIZE; x++) {
    const u = ((x + 0.5) / SIZE) * cells;
    cell[x] = Math.floor(u);
    part[x] = u - cell[x]!;
    faded[x] = fade(part[x]!);
  }
  for (let y = 0; y < SIZE; y++) {
    const [j, fy, sy] = [cell[y]!, part[y]!, faded[y]!];
    const [near, far] = [(j % cells) * cells, ((j + 1) % cells) * cells];
    for (let x = 0; x < SIZE; x++) {
      const [i, fx, sx] = [cell[x]!, part[x]!, faded[x]!];
      const [left, right] = [i % cells, (i + 1) % cells];
      const corner = (at: number, dx: number, dy: number) => gx[at]! * dx + gy[at]! * dy;
      const a = corner(near + left, fx, fy);
      const b = corner(near + right, fx - 1, fy);
      const c = corner(far + left, fx, fy - 1);
      const d = corner(far + right, fx - 1, fy - 1);
      const low = a + (b - a) * sx;
      const high = c + (d - c) * sx;
      field[y * SIZE + x]! += weight * (low + (high - low) * sy);
    }
  }
}

/** Between the texels about a place, metres. */
function readAt(field: Float32Array, x: number, y: number): number {
  const u = (((x / REPEAT_M) % 1) + 1) % 1 * SIZE - 0.5; // prettier-ignore
  const v = (((y / REPEAT_M) % 1) + 1) % 1 * SIZE - 0.5; // prettier-ignore
  const [i, j] = [Math.floor(u), Math.floor(v)];
  const [fx, fy] = [u - i, v - j];
  const [left, right] = [(i + SIZE) % SIZE, (i + 1) % SIZE];
  const [low, high] = [((j + SIZE) % SIZE) * SIZE, ((j + 1) % SIZE) * SIZE];
  return (field[low + left]! * (1 - fx) + field[low + right]! * fx) * (1 - fy) + (field[high + left]! * (1 - fx) + field[high + right]! * fx) * fy; // prettier-ignore
}

/** Share of light that goes straight through a thickness. */
const throughOf = (thick: number): number => Math.exp(-THICKEST * thick * thick);

/**
 * Draws clouds into a sky and lets them shade its sun by place. Each is lit by sun and sky from above and thrown on by droplets, the
 * more forward the thinner it is; thick ones are dark below.
 */
export function withClouds(sky: Sky, clouds: Clouds, timeS = 0): Sky {
  const { width, height, sun } = sky;
  const radiance = Float32Array.from(sky.radiance);
  const { thick: field, through } = layerOf(clouds);
  const driftM = [clouds.windMs * timeS, 0] as const;
  const zenith = meanAbove(sky);
  const up = Math.max(0, sun.direction[2]);
  for (let y = 0; y < height / 2; y++) {
    const elevation = (0.5 - (y + 0.5) / height) * Math.PI;
    // Over a round earth they come down at the horizon.
    const sine = Math.sin(elevation);
    const along = Math.min(FURTHEST_M, -EARTH_M * sine + Math.sqrt((EARTH_M * sine) ** 2 + 2 * EARTH_M * clouds.heightM));
    const flat = along * Math.cos(elevation);
    const far = Math.exp(-along / 22_000);
    for (let x = 0; x < width; x++) {
      const bearing = ((x + 0.5) / width) * 2 * Math.PI;
      const [dx, dy] = [Math.sin(bearing), Math.cos(bearing)];
      const thick = readAt(field, dx * flat - driftM[0], dy * flat - driftM[1]);
      if (thick === 0) continue;
      const shut = (1 - throughOf(thick)) * far;
      const turned = Math.cos(elevation) * (dx * sun.direction[0] + dy * sun.direction[1]) + sine * sun.direction[2];
      // Towards the sun thin edges shine; what is thick keeps its light above.
      const forward = 0.5 + 2.2 * Math.max(0, turned) ** 8 * (1 - thick);
      const below = 0.55 + 0.45 * (1 - thick);
      const o = (y * width + x) * 3;
      for (let c = 0; c < 3; c++) {
        const lit = ((sun.normalLux[c]! * (0.3 + 0.7 * up) * forward) / Math.PI + zenith[c]!) * below * 0.8;
        radiance[o + c] = radiance[o + c]! * (1 - shut) + lit * shut;
      }
    }
  }
  return { ...sky, radiance, clouds: { size: SIZE, through, repeatM: REPEAT_M, heightM: clouds.heightM, driftM } };
}

/** What of the sun comes through to a place, as the kernel finds it. */
export function cloudThrough(
  { size, through, repeatM, heightM, driftM }: CloudsInSky,
  [x, y, z]: readonly [number, number, number],
  [dx, dy, dz]: readonly [number, number, number],
): number {
  if (dz < 0.01 || heightM <= z) return 1;
  const up = (heightM - z) / dz;
  const cell = (at: number) => ((Math.floor((at / repeatM) * size) % size) + size) % size;
  return through[cell(y + dy * up - driftM[1]) * size + cell(x + dx * up - driftM[0])]!;
}

/** Mean radiance of the upper half, which lights clouds from all sides. */
function meanAbove({ width, height, radiance }: Sky): Rgb {
  const sum: Rgb = [0, 0, 0];
  for (let y = 0; y < height / 2; y++) {
    const weight = (Math.cos((y * Math.PI) / height) - Math.cos(((y + 1) * Math.PI) / height)) / width;
    for (let x = 0; x < width; x++) for (let c = 0; c < 3; c++) sum[c] = sum[c]! + radiance[(y * width + x) * 3 + c]! * weight;
  }
  return sum;
}
