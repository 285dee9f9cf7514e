import { withClouds } from './clouds';
import { fogInSky } from './fog';
import { generalSky } from './general-sky';
import { withMoon } from './moon';
import { clearSky, uniformSky, type Sky, type SkyInput } from './sky-map';
import { backdropOf, skyOfPicture, type SkyPicture } from './sky-picture';

/** Wide enough for clouds to be seen. */
const CLOUDY_WIDTH = { coarse: 256, fine: 1024 };
/** Stars are seen once the sun is this low. */
const STARS_BELOW_DEG = -8;

/** The sky of a moment, of whichever kind is chosen, with moon, stars, clouds and fog; `picture`: the one that is chosen, once it is there. */
export function skyOf(input: SkyInput, picture?: SkyPicture): Sky {
  const { picture: chosen } = input;
  if (!chosen || !picture) return computedSky(input);
  const fog = input.weather?.fog;
  const sky = chosen.lights
    ? skyOfPicture(picture, chosen, input.trueNorthDeg)
    : { ...computedSky(input), backdrop: backdropOf(picture, chosen, input.trueNorthDeg) };
  return fog ? { ...sky, fog: fogInSky(fog, sky) } : sky;
}

/** No light from above, for what lamps give alone; fog stays where it lies. */
export function unlitSky({ weather }: SkyInput): Sky {
  const dark = uniformSky(0);
  return weather?.fog ? { ...dark, fog: fogInSky(weather.fog, dark) } : dark;
}

/** The sky above the clouds that were drawn last: as they drift it stays. */
let aboveClouds: { key: string; sky: Sky } | undefined;

function skyAboveClouds({ timeS: _drift, ...input }: SkyInput): Sky {
  const key = JSON.stringify({ ...input, weather: { ...input.weather, clouds: undefined, fog: undefined } });
  if (aboveClouds?.key !== key) {
    const width = CLOUDY_WIDTH[input.coarse ? 'coarse' : 'fine'];
    aboveClouds = { key, sky: withMoon(clearSky({ ...input, width }), input) };
  }
  return aboveClouds.sky;
}

function computedSky(input: SkyInput): Sky {
  const { general, weather, timeS } = input;
  const clouds = general ? undefined : weather?.clouds;
  let sky = general ? generalSky(input) : clouds ? skyAboveClouds(input) : withMoon(clearSky(input), input);
  if (clouds) sky = withClouds(sky, clouds, timeS);
  if (!general && input.trueAltitudeDeg < STARS_BELOW_DEG) sky = { ...sky, stars: true };
  if (weather?.fog) sky = { ...sky, fog: fogInSky(weather.fog, sky) };
  return sky;
}
