import { blurred, luminanceOf, type LinearPicture } from './picture';

/** Larger differences than this part of the picture's side are taken for light, smaller ones for the surface. */
const LIGHT_SIZE = 0.2;

/**
 * Takes out how light falls off across a photograph: divides by its low frequencies, brought to their mean (homomorphic
 * filtering: Oppenheim, Schafer & Stockham, 1968). `strength` 0 leaves the picture, 1 takes out all of it.
 */
export function evenLight(picture: LinearPicture, strength: number): LinearPicture {
  if (strength <= 0) return picture;
  const { width, height } = picture;
  const logs = luminanceOf(picture).map((y) => Math.log(y + 1e-3));
  const low = blurred(logs, width, height, Math.min(width, height) * LIGHT_SIZE, 'stays');
  let mean = 0;
  for (const v of low) mean += v / low.length;
  const data = picture.data.map((v, i) => v * Math.exp((mean - low[Math.floor(i / 3)]!) * strength));
  return { width, height, data };
}
