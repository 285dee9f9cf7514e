/** What the pictures on a screen are made with at most; those that are printed have limits of their own. */

const REFINE_SAMPLES_KEY = 'refine-to';
/** So sharp a screen is served; a sharper one would take longer than it shows. */
const MAX_PIXEL_RATIO = 1.5;

/** Samples a pixel: no more than this browser is set to refine to. */
export const atMostSamples = (samples: number): number => Math.min(samples, Number(localStorage.getItem(REFINE_SAMPLES_KEY)) || Infinity);

/** Pixels of a picture for each of its layout. */
export const pixelRatio = (): number => Math.min(MAX_PIXEL_RATIO, window.devicePixelRatio);

/** Pixels across a small picture: no more than the screen has in its place, however coarse that is. */
export const smallPictureWidth = (cssPixels: number): number => Math.max(16, Math.round(cssPixels * Math.min(1, window.devicePixelRatio)));
