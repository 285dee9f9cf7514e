/** Tables of colours in the .cube format, version 1.0 (Adobe 2013), from coded colours to coded colours. */

export interface ColourCube {
  title: string;
  /** Entries along an edge, or of each channel's curve. */
  size: number;
  kind: 'curves' | 'cube';
  /** Colours that the first and the last entry stand for. */
  least: readonly number[];
  most: readonly number[];
  /** RGB after RGB, red fastest. */
  values: Float32Array;
}

/** A larger cube is brought to this many entries along an edge. */
export const MOST_CUBE_SIZE = 33;
const LARGEST = { curves: 65_536, cube: 256 } as const;

const isNumber = (word: string): boolean => Number.isFinite(Number(word)) && /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(word);

/** A sentence that names the line where the text is not what it should be. */
export function parseCube(text: string): ColourCube | string {
  let title = '';
  let size: { kind: ColourCube['kind']; count: number } | undefined;
  let least = [0, 0, 0];
  let most = [1, 1, 1];
  const values: number[] = [];
  for (const [i, line] of text.split(/\r\n|\n|\r/).entries()) {
    const at = `line ${String(i + 1)}`;
    const words = line.trim().split(/\s+/);
    const [head = ''] = words;
    if (head === '' || head.startsWith('#')) continue;
    if (isNumber(head)) {
      if (!size) return `${at}: colours come before the size of the table is said.`;
      if (words.length < 3 || !words.slice(0, 3).every(isNumber)) return `${at}: a colour has three numbers.`;
      values.push(...words.slice(0, 3).map(Number));
      if (values.length > 3 * entries(size)) return `${at}: there are more than the ${String(entries(size))} colours that its size says.`;
    } else if (head === 'TITLE') title = line.replace(/^[^"]*"?|"?\s*$/g, '');
    else if (head === 'LUT_1D_SIZE' || head === 'LUT_3D_SIZE') {
      const kind = head === 'LUT_1D_SIZE' ? 'curves' : 'cube';
      const count = Number(words[1]);
      if (!Number.isInteger(count) || count < 2 || count > LARGEST[kind])
        return `${at}: the size is between 2 and ${String(LARGEST[kind])}.`;
      if (size) return `${at}: the size is said twice.`;
      size = { kind, count };
    } else if (head === 'DOMAIN_MIN' || head === 'DOMAIN_MAX') {
      if (words.length < 4 || !words.slice(1, 4).every(isNumber)) return `${at}: ${head} has three numbers.`;
      const domain = words.slice(1, 4).map(Number);
      if (head === 'DOMAIN_MIN') least = domain;
      else most = domain;
    } else if (/^[A-Z0-9_]+$/.test(head)) continue;
    else return `${at}: “${head.slice(0, 40)}” is not known in a table of colours.`;
  }
  if (!size) return 'No size of a table of colours is said; this is no .cube file.';
  if (values.length < 3 * entries(size)) return `It ends after ${String(values.length / 3)} of its ${String(entries(size))} colours.`;
  if (least.some((l, i) => l >= most[i]!)) return 'The least colour of its domain is not below the largest.';
  return { title, size: size.count, kind: size.kind, least, most, values: Float32Array.from(values) };
}

const entries = ({ kind, count }: { kind: ColourCube['kind']; count: number }): number => (kind === 'cube' ? count ** 3 : count);

/** Colour that a coded colour becomes: straight between entries of curves, by tetrahedra in a cube. `out` may be `rgb`. */
export function throughCube(
  { kind, size, least, most, values }: ColourCube,
  rgb: Float32Array | number[],
  out: Float32Array | number[],
): void {
  const place = (c: number) => Math.min(1, Math.max(0, (rgb[c]! - least[c]!) / (most[c]! - least[c]!))) * (size - 1);
  const [x, y, z] = [place(0), place(1), place(2)];
  const [i, j, k] = [x, y, z].map((p) => Math.min(size - 2, Math.floor(p))) as [number, number, number];
  const [fx, fy, fz] = [x - i, y - j, z - k];
  if (kind === 'curves') {
    const along = (c: number, n: number, f: number) => values[n * 3 + c]! * (1 - f) + values[(n + 1) * 3 + c]! * f;
    [out[0], out[1], out[2]] = [along(0, i, fx), along(1, j, fy), along(2, k, fz)];
    return;
  }
  // The cell falls into six tetrahedra about its grey diagonal; each goes from corner to corner by the largest part first.
  const [sx, sy, sz] = [1, size, size * size];
  const low = i + j * sy + k * sz;
  const parts = ([[fx, sx], [fy, sy], [fz, sz]] as [number, number][]).sort((p, q) => q[0] - p[0]); // prettier-ignore
  const [[f1, s1], [f2, s2], [f3, s3]] = parts as [[number, number], [number, number], [number, number]];
  for (let c = 0; c < 3; c++) {
    const at = (n: number) => values[n * 3 + c]!;
    out[c] = at(low) * (1 - f1) + at(low + s1) * (f1 - f2) + at(low + s1 + s2) * (f2 - f3) + at(low + s1 + s2 + s3) * f3;
  }
}

/** The same table with no more entries than a project keeps. */
export function smallerCube(cube: ColourCube): ColourCube {
  const most = cube.kind === 'cube' ? MOST_CUBE_SIZE : 1024;
  if (cube.size <= most) return cube;
  const size = most;
  const values = new Float32Array(3 * entries({ kind: cube.kind, count: size }));
  const coded = (c: number, n: number) => cube.least[c]! + (n / (size - 1)) * (cube.most[c]! - cube.least[c]!);
  const rgb = [0, 0, 0];
  for (let n = 0; n < values.length / 3; n++) {
    const at = cube.kind === 'cube' ? [n % size, Math.floor(n / size) % size, Math.floor(n / size ** 2)] : [n, n, n];
    throughCube(
      cube,
      at.map((p, c) => coded(c, p)),
      rgb,
    );
    values.set(rgb, n * 3);
  }
  return { ...cube, size, values };
}

/** As a file that `parseCube` reads. */
export function writeCube({ title, kind, size, least, most, values }: ColourCube): string {
  const line = (colour: readonly number[] | Float32Array) => [...colour].map((x) => String(Math.round(x * 1e5) / 1e5)).join(' ');
  const head = [
    `TITLE "${title.replace(/["\r\n]/g, '')}"`,
    `LUT_${kind === 'cube' ? '3D' : '1D'}_SIZE ${String(size)}`,
    `DOMAIN_MIN ${line(least)}`,
    `DOMAIN_MAX ${line(most)}`,
  ];
  return [...head, ...Array.from({ length: values.length / 3 }, (_, i) => line(values.subarray(i * 3, i * 3 + 3))), ''].join('\n');
}

/** Of a cube that lies in a 3D texture, red along x. */
export const CUBE_GLSL = /* glsl */ `
uniform highp sampler3D cube;
uniform highp sampler2D curves;
uniform int cubeSize;
uniform int curveSize;
uniform vec3 cubeLeast;
uniform vec3 cubeMost;
uniform float lookStrength;
vec3 throughCube(vec3 rgb) {
  vec3 p = clamp((rgb - cubeLeast) / (cubeMost - cubeLeast), 0.0, 1.0);
  if (curveSize > 1) {
    vec3 q = p * float(curveSize - 1);
    ivec3 i = min(ivec3(q), ivec3(curveSize - 2));
    vec3 f = q - vec3(i);
    vec3 low = vec3(texelFetch(curves, ivec2(i.x, 0), 0).r, texelFetch(curves, ivec2(i.y, 0), 0).g, texelFetch(curves, ivec2(i.z, 0), 0).b);
    vec3 high = vec3(texelFetch(curves, ivec2(i.x + 1, 0), 0).r, texelFetch(curves, ivec2(i.y + 1, 0), 0).g, texelFetch(curves, ivec2(i.z + 1, 0), 0).b);
    return mix(low, high, f);
  }
  vec3 q = p * float(cubeSize - 1);
  ivec3 i = min(ivec3(q), ivec3(cubeSize - 2));
  vec3 f = q - vec3(i);
  float f1 = max(f.x, max(f.y, f.z));
  float f3 = min(f.x, min(f.y, f.z));
  float f2 = f.x + f.y + f.z - f1 - f3;
  ivec3 first = f.x == f1 ? ivec3(1, 0, 0) : f.y == f1 ? ivec3(0, 1, 0) : ivec3(0, 0, 1);
  ivec3 last = f.z == f3 ? ivec3(0, 0, 1) : f.y == f3 ? ivec3(0, 1, 0) : ivec3(1, 0, 0);
  return texelFetch(cube, i, 0).rgb * (1.0 - f1) + texelFetch(cube, i + first, 0).rgb * (f1 - f2)
    + texelFetch(cube, i + 1 - last, 0).rgb * (f2 - f3) + texelFetch(cube, i + 1, 0).rgb * f3;
}
`;
