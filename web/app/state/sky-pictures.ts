import { inject, Injectable } from '@angular/core';
import { readSkyPicture } from '../../../core/formats/sky-pictures';
import { skyPictureKept } from '../../../core/project/answers';
import { decodeSrgb } from '../../../core/image/tone';
import {
  encodeSkyPicture,
  fittedSkyPicture,
  mendSkyPicture,
  MOST_SKY_WIDTH,
  takeSunOut,
  type SkyPicture,
  type SkyPictureChoice,
} from '../../../core/sky/sky-picture';
import { ask, bytes } from './ask';
import { Live } from './live';

const MOST_BYTES = 400_000_000;
/** Light that a picture with a sun, and one without, is given at first: level, lx. And the white of what is only seen, cd/m2. */
const FIRST_LEVEL = { sunny: 60_000, sunless: 12_000, seen: 12_000 };

/** Brings all-round pictures into the project. */
@Injectable({ providedIn: 'root' })
export class SkyPictures {
  private readonly live = inject(Live);

  /** A sentence about what was found and mended; undefined: it was refused, and that is said. */
  async bring(file: File): Promise<string | undefined> {
    const isPhotograph = /\.(jpe?g|png|webp)$/i.test(file.name);
    const read =
      file.size > MOST_BYTES
        ? `${file.name} is larger than 400 MB.`
        : isPhotograph
          ? await readPhotograph(file)
          : readSkyPicture(file.name, new Uint8Array(await file.arrayBuffer()));
    if (typeof read === 'string') {
      this.live.refusals$.next(read);
      return undefined;
    }
    const mended = mendSkyPicture(read);
    const picture = fittedSkyPicture(read);
    const sun = isPhotograph ? undefined : takeSunOut(picture);
    const kept = await ask(skyPictureKept, '/api/sky-pictures', bytes(encodeSkyPicture(picture)));
    if ('fault' in kept) {
      this.live.refusals$.next(kept.fault ?? 'The server is out of reach; the picture was not kept.');
      return undefined;
    }
    const choice: SkyPictureChoice = {
      hash: kept.answer.hash,
      name: file.name.slice(0, 100),
      lights: !isPhotograph,
      turnDeg: 0,
      level: isPhotograph ? FIRST_LEVEL.seen : sun ? FIRST_LEVEL.sunny : FIRST_LEVEL.sunless,
      ...(sun && { sun }),
    };
    this.live.run({ type: 'choose-sky', sky: { picture: choice } });
    return [
      sun ? `A sun was found ${sun.altitudeDeg.toFixed(0)}° high and is kept apart.` : '',
      mended > 0 ? `${String(mended)} broken values were mended.` : '',
    ]
      .filter(Boolean)
      .join(' ');
  }
}

async function readPhotograph(file: File): Promise<SkyPicture | string> {
  let bitmap: ImageBitmap;
  try {
    bitmap = await createImageBitmap(file);
  } catch {
    return `${file.name} is broken, or no picture that this browser reads.`;
  }
  if (Math.abs(bitmap.width / bitmap.height - 2) > 0.02)
    return `${file.name} is ${String(bitmap.width)} × ${String(bitmap.height)} pixels; a picture all round is twice as wide as high.`;
  const width = Math.min(MOST_SKY_WIDTH, bitmap.width - (bitmap.width % 2));
  const height = width / 2;
  const context = new OffscreenCanvas(width, height).getContext('2d')!;
  context.drawImage(bitmap, 0, 0, width, height);
  const { data } = context.getImageData(0, 0, width, height);
  const rgb = new Float32Array(width * height * 3);
  for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) rgb[i * 3 + c] = decodeSrgb(data[i * 4 + c]! / 255);
  return { width, height, rgb };
}
