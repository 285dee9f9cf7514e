import { generalSky } from './general-sky';
import { clearSky, type Sky, type SkyInput } from './sky-map';

/** The sky of a moment, of whichever kind is chosen. */
export const skyOf = (input: SkyInput): Sky => (input.general ? generalSky(input) : clearSky(input));
