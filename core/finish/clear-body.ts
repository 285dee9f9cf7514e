import { decodeSrgb } from '../image/tone';
import type { Finish } from './finish';

type Rgb = [number, number, number];

/** What a body takes of light on its way inside, 1/m for each colour (Beer-Lambert); a sheet has no inside. */
export const absorptionOf = ({ attenuationColour, attenuationDistanceM }: Finish): Rgb =>
  attenuationColour.map((left) => (attenuationDistanceM ? -Math.log(Math.max(1e-4, decodeSrgb(left))) / attenuationDistanceM : 0)) as Rgb;

/** Whether a clear body takes light on the way through it, and not at its faces alone. */
export const isDense = ({ attenuationDistanceM, body }: Finish): boolean => attenuationDistanceM !== null && body !== 'sheet';

/** Whether something floats in a clear body that scatters light back out of it. */
export const isMurky = ({ transmission, scatteredBack }: Finish): boolean => transmission > 0 && scatteredBack.some((share) => share > 0);

/** Linear colour that one crossing leaves: a body with two faces takes half of its tint at each. */
export const faceTintOf = ({ baseColour, body }: Finish): Rgb =>
  baseColour.map((c) => decodeSrgb(c) ** (body === 'sheet' ? 1 : 0.5)) as Rgb;
