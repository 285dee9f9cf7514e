import { readEulumdat } from './eulumdat';
import { readIes } from './ies';
import { between, factsOf, fluxOfWeb, PhotometricFileError, type PhotometricWeb, type WebFacts } from './photometric-web';

/** A photometric web as the kernel reads it. */

/**
 * The file's own angles, so that a narrow beam stays as it was measured: number of gammas, number of planes, the gammas and the planes in
 * degrees, then cd per lm of the luminaire plane by plane.
 */
export type WebGrid = Float32Array<ArrayBuffer>;

export interface LampWeb {
  web: PhotometricWeb;
  facts: WebFacts;
  /** Tells it from all others that were read. */
  key: string;
  grid: WebGrid;
}

/** A photometric file of either format, told by what it holds. Throws PhotometricFileError. */
export function readPhotometricFile(text: string): PhotometricWeb {
  const web = /^\s*TILT\s*=/im.test(text) || /^\s*IES/i.test(text) ? readIes(text) : readEulumdat(text);
  if (fluxOfWeb(web) <= 0) throw new PhotometricFileError('The file gives no light: all its intensities are 0.');
  return web;
}

export const gridOf = ({ gammaDeg, cDeg, candela }: PhotometricWeb, fluxLm: number): WebGrid =>
  Float32Array.from([gammaDeg.length, cDeg.length, ...gammaDeg, ...cDeg, ...candela.map((cd) => cd / fluxLm)]);

/** cd per lm at an angle from the axis, the mean of all round. */
export function meanIntensity(grid: WebGrid, gamma: number): number {
  const [gammas, planes] = [grid[0]!, grid[1]!];
  const [gammaDeg, cDeg] = [grid.subarray(2, 2 + gammas), grid.subarray(2 + gammas, 2 + gammas + planes)];
  if (gamma < gammaDeg[0]! || gamma > gammaDeg.at(-1)!) return 0;
  const [row, share] = between(gammaDeg, gamma);
  const inPlane = (plane: number) => {
    const at = 2 + gammas + planes + plane * gammas + row;
    return grid[at]! * (1 - share) + (share > 0 ? grid[at + 1]! * share : 0);
  };
  if (planes === 1) return inPlane(0);
  let sum = 0;
  for (let p = 0; p + 1 < planes; p++) sum += ((inPlane(p) + inPlane(p + 1)) / 2) * (cDeg[p + 1]! - cDeg[p]!);
  return sum / 360;
}

let count = 0;
export function lampWebOf(web: PhotometricWeb): LampWeb {
  const facts = factsOf(web);
  return { web, facts, key: String(++count), grid: gridOf(web, facts.fluxLm) };
}

const read = new Map<string, LampWeb | string>();
const MOST_KEPT = 500;

/** Read once for each text; a sentence where it cannot be read. */
export function webOf(text: string): LampWeb | string {
  let known = read.get(text);
  if (known === undefined) {
    try {
      known = lampWebOf(readPhotometricFile(text));
    } catch (error) {
      if (!(error instanceof PhotometricFileError)) throw error;
      known = error.message;
    }
    if (read.size >= MOST_KEPT) read.clear();
    read.set(text, known);
  }
  return known;
}
