import type { Mat4 } from '../../../core/geometry/mat4';
import type { Vec3 } from '../../../core/geometry/vec3';

/** What is drawn over the picture in lines, and what handles hold of it. A movement leads from where that was to where it is to be. */

export const HANDLE_MODES = ['translate', 'rotate', 'scale'] as const;
export type HandleMode = (typeof HANDLE_MODES)[number];

export interface Outline {
  segments: readonly (readonly [Vec3, Vec3])[];
  /** It goes with the handles. */
  isChosen: boolean;
}

export interface Held {
  /** The same while it is the same that is held, wherever it is. */
  key: string;
  words: string;
  /** Each with the axes that it offers, and whether they are its own. */
  modes: Partial<Record<HandleMode, { axes: 'xyz' | 'z'; own: boolean }>>;
  /** Where the handles stand. */
  frame: Mat4;
  /** While it is dragged it is only seen; once let go it is a step. */
  preview: (by: Mat4) => void;
  put: (by: Mat4, mode: HandleMode) => void;
}

export interface Handling {
  outlines: readonly Outline[];
  held?: Held | undefined;
}

export const NOTHING_HELD: Handling = { outlines: [] };
