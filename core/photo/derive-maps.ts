import type { FinishMaps } from '../finish/maps/paint';
import { encodeNormalXy } from '../finish/maps/relief';
import { blurred, luminanceOf, type LinearPicture } from './picture';
import { codedByte } from '../image/tone';

/** What a person says of a photographed surface beside its colour. */
export interface Derivation {
  /** Of one repeat, metres. */
  widthM: number;
  heightM: number;
  /** From its lowest to its highest place, metres. */
  reliefM: number;
  /** 1: what is light stands out; -1: what is dark does. */
  raised: 1 | -1;
  /** Mean roughness, and how much smoother what stands out is. */
  roughness: number;
  roughnessSpread: number;
  /** How much what lies low is darkened, 0 to 1. */
  occlusion: number;
}

/** Sizes of detail that make up the height, as parts of the map's side, and how much each counts. */
const BANDS = [[0.004, 0.3], [0.012, 0.35], [0.04, 0.35]] as const; // prettier-ignore
/** How far about a place its hollow is looked for, as a part of the side. */
const HOLLOW = 0.012;

/**
 * Map set of a seamless picture: height from the luminance in bands of detail, so that stains and light do not become hills;
 * normals from the height at true size; what lies low is rougher and darker. Estimates, as every height from one photograph.
 */
export function deriveMaps(picture: LinearPicture, size: number, d: Derivation): FinishMaps {
  const square = resampled(picture, size);
  const height = heightOf(square);
  const base = new Uint8Array(size * size * 4);
  const surface = new Uint8Array(size * size * 4);
  const about = blurred(height, size, size, size * HOLLOW, 'wraps');
  const metres = height.map((h) => (d.raised > 0 ? h : 1 - h) * d.reliefM);
  for (let i = 0; i < size * size; i++) {
    const h = d.raised > 0 ? height[i]! : 1 - height[i]!;
    const hollow = Math.min(1, Math.max(0, (d.raised > 0 ? about[i]! - height[i]! : height[i]! - about[i]!) * 4));
    const shade = 1 - d.occlusion * hollow;
    for (let k = 0; k < 3; k++) base[i * 4 + k] = codedByte(square.data[i * 3 + k]! * shade);
    base[i * 4 + 3] = 255;
    surface[i * 4 + 2] = Math.round(Math.min(1, Math.max(0, d.roughness - d.roughnessSpread * (h - 0.5) * 2)) * 255);
    surface[i * 4 + 3] = Math.round(h * 255);
  }
  encodeNormalXy(metres, size, d.widthM, d.heightM, surface);
  return { size, base, surface };
}

/** Height 0 to 1 of each pixel of a square picture that repeats. */
function heightOf(square: LinearPicture): Float32Array {
  const { width: size } = square;
  const light = luminanceOf(square).map(Math.sqrt);
  const sum = new Float32Array(size * size);
  for (const [part, weight] of BANDS) {
    const low = blurred(light, size, size, Math.max(1, size * part), 'wraps');
    let spread = 0;
    for (let i = 0; i < sum.length; i++) spread += (light[i]! - low[i]!) ** 2 / sum.length;
    const scale = spread > 1e-10 ? weight / Math.sqrt(spread) : 0;
    for (let i = 0; i < sum.length; i++) sum[i]! += (light[i]! - low[i]!) * scale;
  }
  // Three deviations either way are the whole range; a logistic curve keeps what lies beyond.
  return sum.map((s) => 1 / (1 + Math.exp(-s * 2)));
}

/** A square picture of that side, each pixel the mean of what it covers; the picture repeats. */
function resampled({ width, height, data }: LinearPicture, size: number): LinearPicture {
  const out = new Float32Array(size * size * 3);
  const n = Math.max(1, Math.ceil(Math.max(width, height) / size));
  const steps = Math.max(2, n);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++)
      for (let j = 0; j < steps; j++)
        for (let i = 0; i < steps; i++) {
          const px = ((x + (i + 0.5) / steps) / size) * width - 0.5;
          const py = ((y + (j + 0.5) / steps) / size) * height - 0.5;
          const [x0, y0] = [Math.floor(px), Math.floor(py)];
          const [fx, fy] = [px - x0, py - y0];
          const at = (a: number, b: number) => ((((b % height) + height) % height) * width + (((a % width) + width) % width)) * 3;
          const [p00, p10, p01, p11] = [at(x0, y0), at(x0 + 1, y0), at(x0, y0 + 1), at(x0 + 1, y0 + 1)];
          // Maps have their first row at v = 0, the bottom.
          const o = ((size - 1 - y) * size + x) * 3;
          for (let k = 0; k < 3; k++)
            out[o + k]! +=
              ((data[p00 + k]! * (1 - fx) + data[p10 + k]! * fx) * (1 - fy) + (data[p01 + k]! * (1 - fx) + data[p11 + k]! * fx) * fy) /
              (steps * steps);
        }
  return { width: size, height: size, data: out };
}
