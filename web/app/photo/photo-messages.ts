import type { PhotoSettings } from '../../../core/photo/make-finish-maps';

/** What the page and its photograph worker tell each other. */
export type ToPhotoWorker =
  | { type: 'photo'; rgba: Uint8ClampedArray; width: number; height: number }
  /** `number` tells asks apart; the last one counts. */
  | { type: 'make'; number: number; settings: PhotoSettings; size: number };

export interface MadeMaps {
  size: number;
  base: Uint8Array<ArrayBuffer>;
  surface: Uint8Array<ArrayBuffer>;
  widthM: number;
  heightM: number;
}
export type FromPhotoWorker =
  | { type: 'step'; number: number; words: string }
  | { type: 'made'; number: number; made: MadeMaps | undefined }
  | { type: 'fault'; number: number; message: string };
