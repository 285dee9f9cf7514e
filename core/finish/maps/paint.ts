import { encodeNormalXy } from './relief';

/** The maps of a finish, all RGBA8, `size` x `size`, row 0 at v = 0. */
export interface FinishMaps {
  size: number;
  /** sRGB base colour; alpha is opacity. */
  base: Uint8Array;
  /** Normal x and y (128 is level, +x along u, +y along v), roughness factor, height. */
  surface: Uint8Array;
  /** Shares of metalness, clear coat and transmission, where one is not the same all over. */
  packedFactors?: Uint8Array | undefined;
}

/** What a generator tells about one point: linear-ish sRGB colour 0..1, roughness factor 0..1, height in metres. */
export interface Point {
  r: number;
  g: number;
  b: number;
  roughness: number;
  heightM: number;
  /** 1 unless the painter cuts holes. */
  opacity: number;
}

export type Painter = (u: number, v: number, point: Point) => void;

/** Paints a seamless map set; normals come from the heights by central differences over the size of one repeat. */
export function paintMaps(painter: Painter, widthM: number, heightM: number, size: number): FinishMaps {
  const base = new Uint8Array(size * size * 4);
  const surface = new Uint8Array(size * size * 4);
  const heights = new Float32Array(size * size);
  const point: Point = { r: 0, g: 0, b: 0, roughness: 1, heightM: 0, opacity: 1 };
  let low = Infinity;
  let high = -Infinity;
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      painter((x + 0.5) / size, (y + 0.5) / size, point);
      const i = y * size + x;
      base[i * 4] = byte(point.r);
      base[i * 4 + 1] = byte(point.g);
      base[i * 4 + 2] = byte(point.b);
      base[i * 4 + 3] = byte(point.opacity);
      surface[i * 4 + 2] = byte(point.roughness);
      heights[i] = point.heightM;
      low = Math.min(low, point.heightM);
      high = Math.max(high, point.heightM);
    }
  const range = high - low || 1;
  for (let i = 0; i < heights.length; i++) surface[i * 4 + 3] = Math.round(((heights[i]! - low) / range) * 255);
  encodeNormalXy(heights, size, widthM, heightM, surface);
  return { size, base, surface };
}

const byte = (x: number) => Math.max(0, Math.min(255, Math.round(x * 255)));
