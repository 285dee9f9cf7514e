import type { Camera } from '../model/schema';

/** What a client's viewer shows: one file that opens from the desktop. The model lies beside it as GLB. */

/** A state of light and design, baked. */
export interface ViewerLook {
  name: string;
  /** Minutes after midnight, local time, for the slider of the day. */
  minutes: number;
  date: string;
  /** Towards the sun; and what it brings to a surface that faces it, exposed: 1 on white is shown white. */
  sun: { direction: readonly number[]; light: readonly number[] };
  /** The sky as a picture, row 0 at the zenith, column 0 to +y, turning to +x; coded as `codeLight` does. */
  sky: string;
  /** What the open sky brings to level ground, over pi, exposed. */
  skyLight: readonly number[];
  /** Brings cd/m2 to what is shown white. */
  unit: number;
  /** White balance, rows of three. */
  balance: readonly number[];
  grading: { contrast: number; highlights: number; shadows: number; saturation: number; filmic: boolean };
}

export interface ViewerData {
  project: string;
  name: string;
  made: string;
  looks: ViewerLook[];
  /** `exposures`: how much brighter each is developed than its look, look by look; `state`: number of what it shows, 0 as the looks do. */
  views: { name: string; camera: Camera; exposures: number[]; state: number }[];
  /** Of what is built, project's metres. */
  near: { min: readonly number[]; max: readonly number[] };
  /** Address of the model: inside the file itself, as base64. */
  model: string;
  /** Seen until the model is there. */
  poster: string;
  /** Where remarks are sent; without: they stay in the file's own browser, and can be saved. */
  comments?: string | undefined;
}

/** Told of each mesh of the model: when it is shown, what it is to who walks, how strongly it shines in each look. */
export interface SurfaceExtras {
  /** In which looks, bit by bit, for each state of what is shown: views may hide layers, or show another option. */
  shown: number[];
  kind: 'solid' | 'open' | 'water' | 'planting';
  clear: boolean;
  /** cd/m2, linear; without: it does not shine. */
  emission?: { colour: readonly number[]; scales: readonly number[] } | undefined;
}

export const isShownIn = ({ shown }: SurfaceExtras, look: number, state: number): boolean => (((shown[state] ?? shown[0] ?? 0) >> look) & 1) === 1; // prettier-ignore

/** Light is coded in a byte by its root, up to this much. */
export const MOST_LIGHT = 6;
export const codeLight = (light: number): number => Math.round(255 * Math.sqrt(Math.min(1, Math.max(0, light / MOST_LIGHT))));
export const decodeLight = (byte: number): number => (byte / 255) ** 2 * MOST_LIGHT;
/** Name of the attribute that holds a look's light. */
export const lightAttribute = (look: number): string => `_LIGHT_${String(look)}`;
