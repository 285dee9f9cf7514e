/// <reference lib="webworker" />
import { makeFinishMaps } from '../../../core/photo/make-finish-maps';
import { linearPicture, type LinearPicture } from '../../../core/photo/picture';
import type { FromPhotoWorker, ToPhotoWorker } from './photo-messages';

/** Makes map sets of a photograph, away from the page. */

let photo: LinearPicture | undefined;
const post = (message: FromPhotoWorker) => {
  postMessage(message);
};

addEventListener('message', ({ data }: MessageEvent<ToPhotoWorker>) => {
  if (data.type === 'photo') {
    photo = linearPicture(data.rgba, data.width, data.height);
    return;
  }
  const { number, settings, size } = data;
  try {
    const result =
      photo &&
      makeFinishMaps(photo, settings, size, (words) => {
        post({ type: 'step', number, words });
      });
    const made = result && {
      size,
      base: Uint8Array.from(result.maps.base),
      surface: Uint8Array.from(result.maps.surface),
      widthM: result.widthM,
      heightM: result.heightM,
    };
    post({ type: 'made', number, made });
  } catch (error) {
    post({ type: 'fault', number, message: error instanceof Error ? error.message : 'The photograph could not be worked on.' });
  }
});
