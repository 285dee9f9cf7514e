import type { Model } from '../model/model';
import type { Site } from '../model/schema';
import { DEFAULT_FOLLOW, DEFAULT_SUN, entry, type Entries, type EntryTypes } from '../project/project';
import { refractionDeg } from '../sky/atmosphere';
import { instantOf, timeZoneAt } from '../sky/local-time';
import type { SkyInput } from '../sky/sky-map';
import { moonPosition, sunPosition, type SkyPosition } from '../sky/sun';

/** Where a model without a site is taken to stand. */
export const FALLBACK_SITE: Site = {
  name: 'No site given; Greenwich assumed',
  latitudeDeg: 51.48,
  longitudeDeg: 0,
  elevationM: 40,
  trueNorthDeg: 0,
};

export interface Moment {
  site: Site;
  /** `chosen` in Diaphane, from the `model`, or `assumed`. */
  siteOrigin: 'chosen' | 'model' | 'assumed';
  sun: EntryTypes['sun'];
  /** The author's time is followed. */
  followed: boolean;
  zone: string;
  instant: Date;
  position: SkyPosition;
  sky: EntryTypes['sky'] | undefined;
  weather: EntryTypes['weather'] | undefined;
  moon: ReturnType<typeof moonPosition>;
}

/** The place and time that the scene is seen at. */
export function momentOf(models: readonly Model[], entries: Entries): Moment {
  const chosen = entry(entries, 'site');
  const modelled = models.find((m) => m.site)?.site;
  const site = chosen ?? modelled ?? FALLBACK_SITE;
  const follow = entry(entries, 'follow') ?? DEFAULT_FOLLOW;
  const authorTime = follow.time ? models.find((m) => m.time)?.time : undefined;
  const sun = authorTime
    ? { date: authorTime.slice(0, 10), minutes: Number(authorTime.slice(11, 13)) * 60 + Number(authorTime.slice(14, 16)) }
    : (entry(entries, 'sun') ?? DEFAULT_SUN);
  const zone = timeZoneAt(site.latitudeDeg, site.longitudeDeg);
  const instant = instantOf(sun.date, sun.minutes, zone);
  return {
    site,
    siteOrigin: chosen ? 'chosen' : modelled ? 'model' : 'assumed',
    sun,
    followed: authorTime !== undefined,
    zone,
    instant,
    position: sun.byHand ? positionByHand(sun.byHand) : sunPosition(instant, site),
    sky: entry(entries, 'sky'),
    weather: entry(entries, 'weather'),
    moon: moonPosition(instant, site),
  };
}

/** What stands there, seen without the air that lifts it; the few minutes of arc are taken off as often as they change anything. */
function positionByHand({ altitudeDeg, azimuthDeg }: { altitudeDeg: number; azimuthDeg: number }): SkyPosition {
  let trueAltitudeDeg = altitudeDeg;
  for (let i = 0; i < 4; i++) trueAltitudeDeg = altitudeDeg - refractionDeg(trueAltitudeDeg);
  return { altitudeDeg, azimuthDeg, trueAltitudeDeg };
}

export function skyInputOf({ site, position, sky, weather, moon }: Moment): SkyInput {
  return {
    trueAltitudeDeg: position.trueAltitudeDeg,
    azimuthDeg: position.azimuthDeg,
    trueNorthDeg: site.trueNorthDeg,
    ...(sky && ('picture' in sky ? { picture: sky.picture } : { general: sky })),
    ...(weather && { weather }),
    // By day it is nowhere in the picture, and must not make a new sky with each minute.
    ...(position.trueAltitudeDeg < -4 && {
      moon: { trueAltitudeDeg: moon.trueAltitudeDeg, azimuthDeg: moon.azimuthDeg, litShare: moon.litShare },
    }),
  };
}
