import { cameraFrame, type CameraFrame } from '../camera/camera';
import { encodeSrgb } from '../image/tone';
import { PIXEL_COUNT, PIXEL_DEPTH, PIXEL_FEATURES, PIXEL_SIZE } from '../kernel/assembly/layout';
import type { ThingForm } from '../setting/thing-kind';

/** A thing as two pictures by the kernel, from its front and from its right, that stand crosswise for it where it is far away. */

/** Pixels of one picture; the two lie side by side. */
export const BILLBOARD_PX = { width: 96, height: 128 } as const;
/** Luminance of the even sky that they are lit by; there is no ground. */
export const BILLBOARD_SKY_CDM2 = 1000;
/** How far away the sky counts among the kernel's features, metres: so depth tells how much of a pixel is covered. */
const SKY_M = 1e5;
/** It is looked at from so many times its size. */
const AWAY = 5;

/** Metres that a picture shows, with the thing's foot in the middle of its lower edge. */
export function billboardSize({ heightM, acrossM }: Pick<ThingForm, 'heightM' | 'acrossM'>): { widthM: number; heightM: number } {
  const aspect = BILLBOARD_PX.width / BILLBOARD_PX.height;
  const widthM = Math.max(acrossM, heightM * aspect) * 1.02;
  return { widthM, heightM: widthM / aspect };
}

const awayM = (form: Pick<ThingForm, 'heightM' | 'acrossM'>): number => AWAY * billboardSize(form).heightM;

export function billboardCameras(form: Pick<ThingForm, 'heightM' | 'acrossM'>): [front: CameraFrame, right: CameraFrame] {
  const { widthM, heightM } = billboardSize(form);
  const from = (x: number, y: number) =>
    cameraFrame(
      { position: [x * awayM(form), y * awayM(form), heightM / 2], target: [0, 0, heightM / 2], focalMm: 50, parallelM: widthM },
      BILLBOARD_PX.width / BILLBOARD_PX.height,
    );
  return [from(0, -1), from(1, 0)];
}

/**
 * RGBA8 of a film of such a picture under the even sky, row by row from the top: what the thing sends back of that light, in sRGB, and
 * how much of the pixel it covers. Colours go on a little beyond its edges, so that none mixes with the sky.
 */
export function billboardPixels(film: Float32Array, form: Pick<ThingForm, 'heightM' | 'acrossM'>): Uint8Array {
  const { width, height } = BILLBOARD_PX;
  const out = new Uint8Array(width * height * 4);
  for (let p = 0; p < width * height; p++) {
    const q = (p * PIXEL_SIZE) / 4;
    const [count, features] = [film[q + PIXEL_COUNT / 4]!, film[q + PIXEL_FEATURES / 4]!];
    if (count === 0 || features === 0) continue;
    const cover = Math.min(1, Math.max(0, (SKY_M - film[q + PIXEL_DEPTH / 4]! / features) / (SKY_M - awayM(form))));
    if (cover < 0.02) continue;
    for (let c = 0; c < 3; c++) {
      const sent = (film[q + c]! / count / BILLBOARD_SKY_CDM2 - (1 - cover)) / cover;
      out[p * 4 + c] = Math.round(encodeSrgb(Math.min(1, Math.max(0, sent))) * 255);
    }
    out[p * 4 + 3] = Math.round(cover * 255);
  }
  return bled(out, width, height);
}

/** Uncovered pixels take the colour of what is next to them. */
function bled(rgba: Uint8Array, width: number, height: number): Uint8Array {
  for (let turn = 0; turn < 4; turn++) {
    const before = rgba.slice();
    const isSet = (x: number, y: number) => x >= 0 && y >= 0 && x < width && y < height && before.subarray((y * width + x) * 4, (y * width + x) * 4 + 3).some((v) => v > 0); // prettier-ignore
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        if (isSet(x, y)) continue;
        const next = [[x - 1, y], [x + 1, y], [x, y - 1], [x, y + 1]].find(([nx, ny]) => isSet(nx!, ny!)); // prettier-ignore
        if (next) rgba.set(before.subarray((next[1]! * width + next[0]!) * 4, (next[1]! * width + next[0]!) * 4 + 3), (y * width + x) * 4);
      }
  }
  return rgba;
}
