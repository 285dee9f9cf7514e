/** The veil that bright places throw over a picture in lens and eye: a share of the light, spread over wide blurs of it. */

/** Share of the light that is spread at full bloom. */
export const MOST_SPREAD = 0.2;
/** Pixels that the blurs have in the height of the picture; alike at every size of it. */
export const BLUR_HEIGHTS = [64, 32, 16, 8] as const;

interface Layer {
  width: number;
  height: number;
  rgb: Float32Array;
}

/** How a picture lies: it goes on beyond its sides as it began; and so many pictures stand one over the other, each for an eye. */
export interface Layout {
  wraps: boolean;
  stacked: number;
}
export const PLAIN_LAYOUT: Layout = { wraps: false, stacked: 1 };

/** Adds bloom to radiance (f32x4 a pixel) into `out`. The sum of the light stays as it was but at the edges. */
export function withBloom(
  radiance: Float32Array,
  width: number,
  bloom: number,
  out: Float32Array,
  { wraps, stacked } = PLAIN_LAYOUT,
): void {
  const each = radiance.length / stacked;
  for (let at = 0; at < radiance.length; at += each)
    addBloom(radiance.subarray(at, at + each), width, bloom, out.subarray(at, at + each), wraps);
}

function addBloom(radiance: Float32Array, width: number, bloom: number, out: Float32Array, wraps: boolean): void {
  const height = radiance.length / 4 / width;
  const spread = MOST_SPREAD * bloom;
  const veil = new Float32Array(width * height * 3);
  for (const rows of BLUR_HEIGHTS) {
    const blurred = shrunk(radiance, width, height, Math.max(1, Math.round((rows * width) / height)), rows);
    addGrown(blurred, veil, width, height, 1 / BLUR_HEIGHTS.length, wraps);
  }
  for (let i = 0, p = 0; i < radiance.length; i += 4, p += 3) {
    for (let c = 0; c < 3; c++) out[i + c] = radiance[i + c]! * (1 - spread) + veil[p + c]! * spread;
    out[i + 3] = radiance[i + 3]!;
  }
}

/** Means over the areas of a coarser grid. */
function shrunk(radiance: Float32Array, width: number, height: number, columns: number, rows: number): Layer {
  const rgb = new Float32Array(columns * rows * 3);
  const count = new Float32Array(columns * rows);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = (y * width + x) * 4;
      const cell = Math.floor((y * rows) / height) * columns + Math.floor((x * columns) / width);
      count[cell]!++;
      for (let c = 0; c < 3; c++) rgb[cell * 3 + c]! += Number.isFinite(radiance[i + c]!) ? radiance[i + c]! : 0;
    }
  for (let cell = 0; cell < count.length; cell++)
    for (let c = 0; c < 3; c++) rgb[cell * 3 + c] = rgb[cell * 3 + c]! / Math.max(1, count[cell]!);
  return { width: columns, height: rows, rgb };
}

/** Weights of the cubic B-spline for the four cells about a place, `f` on from the second. */
function spline(f: number): [number, number, number, number] {
  const g = 1 - f;
  return [(g * g * g) / 6, (4 - 6 * f * f + 3 * f * f * f) / 6, (4 - 6 * g * g + 3 * g * g * g) / 6, (f * f * f) / 6];
}

/** For each pixel along a side: its four cells and their weights. */
function taps(pixels: number, cells: number, wraps = false): { at: number[]; weight: number[] }[] {
  return Array.from({ length: pixels }, (_, p) => {
    const place = ((p + 0.5) * cells) / pixels - 0.5;
    const first = Math.floor(place);
    return {
      at: [-1, 0, 1, 2].map((d) => (wraps ? (first + d + cells) % cells : Math.min(cells - 1, Math.max(0, first + d)))),
      weight: spline(place - first),
    };
  });
}

/** Adds a coarse layer, grown by cubic B-splines across and then down. */
function addGrown(
  { width: columns, height: rows, rgb }: Layer,
  veil: Float32Array,
  width: number,
  height: number,
  share: number,
  wraps: boolean,
): void {
  const wide = new Float32Array(width * rows * 3);
  const across = taps(width, columns, wraps);
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < width; x++) {
      const { at, weight } = across[x]!;
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        for (let k = 0; k < 4; k++) sum += weight[k]! * rgb[(y * columns + at[k]!) * 3 + c]!;
        wide[(y * width + x) * 3 + c] = sum * share;
      }
    }
  const row = width * 3;
  for (const [y, { at, weight }] of taps(height, rows).entries())
    for (let i = 0; i < row; i++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += weight[k]! * wide[at[k]! * row + i]!;
      veil[y * row + i]! += sum;
    }
}

/** `veil(picture, at, size)`: the blurs from the mip levels of a picture of `size` pixels. */
export const BLOOM_GLSL = /* glsl */ `
vec4 spline(float f) {
  float g = 1.0 - f;
  return vec4(g * g * g, 4.0 - 6.0 * f * f + 3.0 * f * f * f, 4.0 - 6.0 * g * g + 3.0 * g * g * g, f * f * f) / 6.0;
}
vec3 blurred(sampler2D picture, vec2 at, vec2 size, float rows) {
  vec2 cells = vec2(floor(rows * size.x / size.y + 0.5), rows);
  float level = log2(size.y / rows);
  vec2 place = at * cells - 0.5;
  vec2 first = floor(place);
  vec4 across = spline(place.x - first.x);
  vec4 down = spline(place.y - first.y);
  vec3 sum = vec3(0.0);
  for (int j = 0; j < 4; j++)
    for (int i = 0; i < 4; i++)
      sum += across[i] * down[j] * textureLod(picture, (first + vec2(float(i), float(j)) - 0.5) / cells, level).rgb;
  return sum;
}
vec3 veil(sampler2D picture, vec2 at, vec2 size) {
  return (${BLUR_HEIGHTS.map((rows) => `blurred(picture, at, size, ${rows.toFixed(1)})`).join(' + ')}) / ${BLUR_HEIGHTS.length.toFixed(1)};
}
`;
