import { readEulumdat } from './eulumdat';
import { readIes } from './ies';
import { factsOf, fluxOfWeb, intensityAt, PhotometricFileError, type PhotometricWeb, type WebFacts } from './photometric-web';

/** A photometric web as the pictures use it: even steps, so that a direction finds its place by arithmetic. */

export const WEB_PLANES = 72;
export const WEB_GAMMAS = 181;

/** cd per lm of the luminaire: planes from C0 by 5 degrees, the first again at their end; in each, gamma from 0 by a degree. */
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

export function gridOf(web: PhotometricWeb, fluxLm: number): WebGrid {
  const grid = new Float32Array((WEB_PLANES + 1) * WEB_GAMMAS);
  for (let plane = 0; plane <= WEB_PLANES; plane++)
    for (let gamma = 0; gamma < WEB_GAMMAS; gamma++)
      grid[plane * WEB_GAMMAS + gamma] = intensityAt(web, plane * (360 / WEB_PLANES), gamma) / fluxLm;
  return grid;
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
