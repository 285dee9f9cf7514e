import { PLAIN_VARIATION, type Finish, type Variation } from './finish';

type Laid = Pick<Finish, 'widthM' | 'heightM' | 'rotationDeg' | 'offsetM'>;

/**
 * From coordinates in metres to repeats of a finish's maps, as an element has it: for what knows no metres. `scale`: of the element's
 * transform. Two values for each corner, in and out.
 */
export function inRepeats(uvs: ArrayLike<number>, finish: Laid, variation: Variation = PLAIN_VARIATION, scale = 1): Float32Array<ArrayBuffer> {
  const { widthM, heightM, rotationDeg, offsetM } = finish;
  const turned = (radians: number) => [Math.cos(radians), Math.sin(radians)] as const;
  const [ec, es] = turned(variation.turnRad);
  const [c, s] = turned((rotationDeg * Math.PI) / 180);
  const larger = scale / variation.size;
  const repeats = new Float32Array(uvs.length);
  for (let i = 0; i < uvs.length; i += 2) {
    const u = (ec * uvs[i]! + es * uvs[i + 1]!) * larger + variation.uM;
    const v = (ec * uvs[i + 1]! - es * uvs[i]!) * larger + variation.vM;
    repeats[i] = (c * u + s * v + offsetM[0]) / widthM;
    repeats[i + 1] = (c * v - s * u + offsetM[1]) / heightM;
  }
  return repeats;
} // prettier-ignore
