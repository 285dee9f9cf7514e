/** Luminous intensity by direction, as luminaires are measured. */

export interface PhotometricWeb {
  name: string;
  /** From the luminaire's axis, degrees, rising from 0 or 90 to 90 or 180. */
  gammaDeg: readonly number[];
  /** Half planes about the axis, degrees, rising from 0 to 360; one alone: the same all round. */
  cDeg: readonly number[];
  /** cd, plane by plane, for the whole luminaire as it is measured. */
  candela: Float64Array;
  /** Of the lamps in it, lm; null: measured as a whole. */
  lampLm: number | null;
  inputW: number;
  /** Luminous opening, m: along C90 to C270, along C0 to C180, and upright. */
  lengthM: number;
  widthM: number;
  heightM: number;
  /** What the lamps still give when the luminaire is tilted, by degrees from upright. */
  tilt?: { degrees: readonly number[]; factors: readonly number[] };
}

/** A file that is not what it should be, in a sentence that names the line. */
export class PhotometricFileError extends Error {}

const RAD = Math.PI / 180;

/** Place of a value among rising ones: the lower neighbour, and how far on to the next. */
export function between(values: ArrayLike<number>, value: number): [number, number] {
  let low = 0;
  let high = values.length - 1;
  if (high === 0 || value <= values[0]!) return [0, 0];
  if (value >= values[high]!) return [high - 1, 1];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (values[middle]! <= value) low = middle;
    else high = middle;
  }
  return [low, (value - values[low]!) / (values[high]! - values[low]!)];
}

/** cd towards a direction; 0 where nothing is measured. */
export function intensityAt({ gammaDeg, cDeg, candela }: PhotometricWeb, c: number, gamma: number): number {
  const count = gammaDeg.length;
  if (gamma < gammaDeg[0]! - 1e-9 || gamma > gammaDeg[count - 1]! + 1e-9) return 0;
  const [g, gs] = between(gammaDeg, gamma);
  const inPlane = (plane: number) => {
    const at = plane * count + g;
    return count === 1 ? candela[at]! : candela[at]! * (1 - gs) + candela[at + 1]! * gs;
  };
  const turned = ((c % 360) + 360) % 360;
  const [p, ps] = between(cDeg, turned < cDeg[0]! ? turned + 360 : turned);
  return cDeg.length === 1 ? inPlane(0) : inPlane(p) * (1 - ps) + inPlane(p + 1) * ps;
}

/** lm: the intensity over the sphere, which between angles runs straight, so that this is no approximation of it. */
export function fluxOfWeb({ gammaDeg, cDeg, candela }: PhotometricWeb): number {
  const count = gammaDeg.length;
  const zone = (plane: number) => {
    let sum = 0;
    for (let i = 0; i + 1 < count; i++) {
      const [a, b] = [gammaDeg[i]! * RAD, gammaDeg[i + 1]! * RAD];
      const [ia, ib] = [candela[plane * count + i]!, candela[plane * count + i + 1]!];
      const slope = (ib - ia) / (b - a);
      // Of (ia + slope (g - a)) sin g.
      sum += ia * (Math.cos(a) - Math.cos(b)) + slope * (Math.sin(b) - Math.sin(a) - (b - a) * Math.cos(b));
    }
    return sum;
  };
  if (cDeg.length === 1) return 2 * Math.PI * zone(0);
  let flux = 0;
  for (let p = 0; p + 1 < cDeg.length; p++) flux += ((zone(p) + zone(p + 1)) / 2) * (cDeg[p + 1]! - cDeg[p]!) * RAD;
  return flux;
}

export interface WebFacts {
  fluxLm: number;
  /** lm/W; null where the file gives no power. */
  efficacy: number | null;
  maximumCd: number;
  maximumAt: { c: number; gamma: number };
  /** Full angles at a half and at a tenth of what is on the axis's brightest, in the planes C0 to C180 and C90 to C270; 360: nowhere below. */
  beamDeg: [number, number];
  fieldDeg: [number, number];
}

export function factsOf(web: PhotometricWeb): WebFacts {
  const { gammaDeg, cDeg, candela, inputW } = web;
  let best = 0;
  for (let i = 1; i < candela.length; i++) if (candela[i]! > candela[best]!) best = i;
  const fluxLm = fluxOfWeb(web);
  return {
    fluxLm,
    efficacy: inputW > 0 ? fluxLm / inputW : null,
    maximumCd: candela[best]!,
    maximumAt: { c: cDeg[Math.floor(best / gammaDeg.length)]!, gamma: gammaDeg[best % gammaDeg.length]! },
    beamDeg: [angleAt(web, 0, 0.5), angleAt(web, 90, 0.5)],
    fieldDeg: [angleAt(web, 0, 0.1), angleAt(web, 90, 0.1)],
  };
}

/** Full angle in a plane outside of which the intensity is below a share of the plane's largest. */
function angleAt(web: PhotometricWeb, c: number, share: number): number {
  const STEP = 0.1;
  const along = (side: number) => Array.from({ length: 1801 }, (_, i) => intensityAt(web, side, i * STEP));
  const sides = [along(c), along(c + 180)];
  const largest = Math.max(...sides.flat());
  const edge = (side: readonly number[]) => {
    for (let i = side.length - 1; i >= 0; i--) if (side[i]! >= largest * share) return i * STEP;
    return 0;
  };
  return largest > 0 ? Math.round((edge(sides[0]!) + edge(sides[1]!)) * 10) / 10 : 0;
}

/** All planes from 0 to 360 of those that a symmetric file gives; the last is the first again. */
export function allRound(
  cDeg: readonly number[],
  planes: readonly (readonly number[])[],
): { cDeg: number[]; planes: (readonly number[])[] } {
  if (cDeg.length === 1) return { cDeg: [0], planes: [planes[0]!] };
  const known = new Map(cDeg.map((c, i) => [((c % 360) + 360) % 360, planes[i]!]));
  const [first, last] = [cDeg[0]!, cDeg.at(-1)!];
  const mirrored = (about: number) => {
    for (const [c, plane] of [...known]) known.set((((2 * about - c) % 360) + 360) % 360, plane);
  };
  if (first === 0 && last === 90) mirrored(90);
  if ((first === 0 && last === 90) || (first === 0 && last === 180)) mirrored(180);
  if ((first === 90 && last === 270) || (first === 270 && last === 450)) mirrored(90);
  const sorted = [...known].sort((a, b) => a[0] - b[0]);
  return { cDeg: [...sorted.map(([c]) => c), sorted[0]![0] + 360], planes: [...sorted.map(([, plane]) => plane), sorted[0]![1]] };
}

/** What the lamps give at a tilt of the luminaire's axis from straight down, as a share. */
export function tiltFactor({ tilt }: PhotometricWeb, degrees: number): number {
  if (!tilt || tilt.degrees.length === 0) return 1;
  const [at, share] = between(tilt.degrees, degrees);
  return tilt.factors.length === 1 ? tilt.factors[0]! : tilt.factors[at]! * (1 - share) + tilt.factors[at + 1]! * share;
}
