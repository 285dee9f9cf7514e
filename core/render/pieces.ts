import type { Plate } from '../camera/projection';
import type { Denoiser, Weights } from '../denoise/denoiser';
import { NETWORK_REACH, NETWORK_STEP } from '../denoise/network';
import { PIXEL_SIZE } from '../kernel/assembly/layout';
import type { SceneMemory } from '../kernel/scene-memory';

/** So many pixels of film at once: about 750 MB of the kernel's memory, with the room for denoising. */
export const MOST_FILM_PIXELS = 9_000_000;

/** A part of a picture that is rendered at once. */
export interface Piece {
  plate: Plate;
  /** Where it lies in the picture, pixels; its parts come from the left to the right and from the top down. */
  left: number;
  top: number;
  width: number;
  height: number;
  /** It goes on beyond its sides as it began. */
  wraps: boolean;
  /** The film that it is cut from, in the plate's pixels; wider by what the denoiser looks at. */
  film: { left: number; top: number; width: number; height: number };
}

const REACH = NETWORK_REACH;
const down = (pixels: number): number => Math.floor(pixels / NETWORK_STEP) * NETWORK_STEP;

/**
 * Cuts a picture's plates, or the region of them that is wanted, into bands of whole rows. Each film reaches beyond its band as far
 * as the denoiser looks, so that no join is seen.
 */
export function piecesOf(plates: readonly Plate[], region?: { left: number; top: number; width: number; height: number }, mostPixels = MOST_FILM_PIXELS): Piece[] {
  return plates.flatMap((plate) => {
    const whole = region ?? { left: 0, top: 0, width: plate.width, height: plate.height };
    const isRound = plate.frame.projection === 'equirectangular';
    const filmLeft = Math.max(0, down(whole.left - REACH));
    const filmRight = Math.min(plate.width, whole.left + whole.width + REACH);
    const across = filmRight - filmLeft;
    const all = Math.min(plate.height, whole.top + whole.height + REACH) - Math.max(0, down(whole.top - REACH));
    const most = Math.max(NETWORK_STEP, down(Math.floor(mostPixels / across) - 2 * REACH));
    const count = across * all <= mostPixels ? 1 : Math.ceil(whole.height / most);
    // Alike in height, in whole steps of the network but for the last.
    const rows = count === 1 ? whole.height : Math.min(most, Math.ceil(whole.height / count / NETWORK_STEP) * NETWORK_STEP);
    return Array.from({ length: count }, (_, i): Piece => {
      const top = whole.top + i * rows;
      const height = Math.min(rows, whole.top + whole.height - top);
      const filmTop = Math.max(0, down(top - REACH));
      return {
        plate,
        left: region ? 0 : plate.left,
        top: (region ? 0 : plate.top) + i * rows,
        width: whole.width,
        height,
        wraps: isRound,
        film: { left: filmLeft, top: filmTop, width: filmRight - filmLeft, height: Math.min(plate.height, top + height + REACH) - filmTop },
      };
    });
  });
} // prettier-ignore

/** Where in the film the piece begins. */
export function insetOf({ plate, left, top, film }: Piece, region?: { left: number; top: number }): { left: number; top: number } {
  const [x, y] = region ? [region.left, region.top + top] : [left - plate.left, top - plate.top];
  return { left: x - film.left, top: y - film.top };
}

/**
 * The film of a piece without its noise, f32x4 a pixel, and how wide that is; the piece's film begins `left` in it. What goes all round
 * is denoised with its beginning laid to its end, and the other way round. Valid until the next call.
 */
export async function denoisedPiece(
  scene: SceneMemory,
  denoiser: Denoiser,
  { wraps, film, plate }: Piece,
  weights: Weights,
  scale?: number,
): Promise<{ light: Float32Array; width: number; left: number }> {
  if (!wraps) return { light: (await denoiser.denoised(weights, scale))!, width: film.width, left: 0 };
  const { width, height } = film;
  const floats = PIXEL_SIZE / 4;
  const narrow = scene.filmData().slice();
  const wide = width + 2 * REACH;
  const at = scene.filmAt;
  scene.setFilm(wide, height, 'light');
  const to = scene.filmData();
  for (let y = 0; y < height; y++)
    for (let x = 0; x < wide; x++) {
      const from = (y * width + ((((x - REACH) % width) + width) % width)) * floats;
      to.set(narrow.subarray(from, from + floats), (y * wide + x) * floats);
    }
  const light = (await denoiser.denoised(weights, scale))!;
  scene.showFilm(at, width, height);
  scene.setWindow(film.left, film.top, plate.width, plate.height);
  return { light, width: wide, left: REACH };
}
