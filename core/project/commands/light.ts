import * as v from 'valibot';
import { parseCube } from '../../image/colour-cube';
import type { Metering } from '../../image/exposure';
import { gradingSchema, PLAIN_GRADING } from '../../image/grading';
import { LEAST_KELVIN, MOST_KELVIN, MOST_TINT } from '../../image/white-balance';
import { siteSchema } from '../../model/schema';
import { GENERAL_SKIES } from '../../sky/general-sky';
import { clock } from '../clock';
import { DEFAULT_SUN, entry, type Exposure } from '../project';
import { command, id, name } from './define';

const date = v.pipe(v.string(), v.isoDate());
const minutes = v.pipe(v.number(), v.minValue(0), v.maxValue(1440));

const whiteSchema = v.strictObject({
  kelvin: v.pipe(v.number(), v.minValue(LEAST_KELVIN), v.maxValue(MOST_KELVIN)),
  tint: v.pipe(v.number(), v.minValue(-MOST_TINT), v.maxValue(MOST_TINT)),
});

const between = (low: number, high: number) => v.pipe(v.number(), v.minValue(low), v.maxValue(high));
const skyPictureSchema = v.strictObject({
  hash: v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/, 'must be a SHA-256')),
  name,
  lights: v.boolean(),
  turnDeg: between(-360, 360),
  level: between(0.001, 1_000_000),
  sun: v.optional(
    v.strictObject({
      altitudeDeg: between(-90, 90),
      bearingDeg: between(0, 360),
      light: v.tuple([v.pipe(v.number(), v.minValue(0)), v.pipe(v.number(), v.minValue(0)), v.pipe(v.number(), v.minValue(0))]),
    }),
  ),
});
const weatherSchema = v.strictObject({
  turbidity: v.optional(between(1.2, 12)),
  groundAlbedo: v.optional(between(0, 1)),
  fog: v.optional(
    v.strictObject({
      visibilityM: between(20, 60_000),
      heightM: between(2, 20_000),
      colour: v.tuple([between(0, 1), between(0, 1), between(0, 1)]),
    }),
  ),
  clouds: v.optional(
    v.strictObject({
      cover: between(0.02, 1),
      heightM: between(200, 6000),
      seed: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(9999)),
      windMs: between(0, 40),
    }),
  ),
});
const share = v.pipe(v.number(), v.minValue(0), v.maxValue(1));
const meteringSchema = v.union([v.picklist(['all', 'middle', 'highlights']), v.strictObject({ x: share, y: share })]);
const lensSchema = v.strictObject({
  fNumber: v.pipe(v.number(), v.minValue(0.7), v.maxValue(64)),
  iso: v.pipe(v.number(), v.minValue(6), v.maxValue(409_600)),
});
const meteringWords = (metering: Metering | undefined): string =>
  typeof metering === 'object' ? 'a spot' : { all: 'all', middle: 'the middle', highlights: 'the highlights' }[metering ?? 'all'];

/** What an exposure changes of the one before. */
function exposureWords({ mode, ev100, white, metering }: Exposure, earlier: Exposure | undefined): string {
  if (mode === 'auto' && earlier?.mode === 'auto' && JSON.stringify(metering) !== JSON.stringify(earlier.metering))
    return `Exposure metered over ${meteringWords(metering)}`;
  if (JSON.stringify(white) !== JSON.stringify(earlier?.white))
    return white ? `White ${white.kelvin.toFixed(0)} K, tint ${white.tint.toFixed(0)}` : 'White automatic';
  return mode === 'auto' ? 'Exposure automatic' : `Exposure EV ${ev100.toFixed(1)}`;
}

/** A cube of 33 entries an edge, written out. */
const MOST_LOOK_LENGTH = 1_200_000;

/** Site, sun, exposure and development. */
export const LIGHT_COMMANDS = [
  command('set-sun', { date, minutes }, ({ date: day, minutes: time }, { put }) => {
    const whole = Math.min(1439, Math.round(time));
    return { label: `Sun at ${day} ${clock(whole)}`, changes: [put('sun', { date: day, minutes: whole })] };
  }),
  /** Null: by date and hour again. */
  command(
    'set-sun-by-hand',
    {
      place: v.nullable(
        v.strictObject({
          altitudeDeg: v.pipe(v.number(), v.minValue(-90), v.maxValue(90)),
          azimuthDeg: v.pipe(v.number(), v.minValue(0), v.maxValue(360)),
        }),
      ),
    },
    ({ place }, { entries, put }) => {
      const { date: day, minutes: time } = entry(entries, 'sun') ?? DEFAULT_SUN;
      return {
        label: place ? `Sun by hand, ${place.altitudeDeg.toFixed(1)}° high` : 'Sun by date and hour',
        changes: [put('sun', { date: day, minutes: time, ...(place && { byHand: place }) })],
      };
    },
  ),
  /** Null: the computed clear one. */
  command(
    'choose-sky',
    {
      sky: v.nullable(
        v.union([
          v.strictObject({ picture: skyPictureSchema }),
          v.strictObject({
            type: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(GENERAL_SKIES.length)),
            lux: v.optional(v.pipe(v.number(), v.minValue(1), v.maxValue(150_000))),
          }),
        ]),
      ),
    },
    ({ sky }, { put }) => {
      if (!sky) return { label: 'Sky: clear, computed', changes: [put('sky', undefined)] };
      if ('picture' in sky) return { label: `Sky: ${sky.picture.name}`, changes: [put('sky', { picture: sky.picture })] };
      return {
        label: `Sky: ${GENERAL_SKIES[sky.type - 1]!.name.toLowerCase()}`,
        changes: [put('sky', { type: sky.type, ...(sky.lux !== undefined && { lux: sky.lux }) })],
      };
    },
  ),
  /** What is left out is as usual: the air of a clear day, without fog and clouds. */
  command('set-weather', { weather: weatherSchema, name }, ({ weather, name: what }, { put }) => ({
    label: what,
    changes: [put('weather', Object.values(weather).some((part) => part !== undefined) ? weather : undefined)],
  })),
  command('choose-site', { site: v.nullable(siteSchema) }, ({ site }, { put }) => ({
    label: site ? `Site ${site.name}` : 'Site from the model',
    changes: [put('site', site ? { ...site, chosen: true } : undefined)],
  })),
  command(
    'set-exposure',
    {
      mode: v.picklist(['auto', 'fixed']),
      ev100: v.pipe(v.number(), v.minValue(-10), v.maxValue(24)),
      /** Without one the picture finds its own. */
      white: v.optional(whiteSchema),
      metering: v.optional(meteringSchema),
      camera: v.optional(lensSchema),
    },
    ({ mode, ev100, white, metering, camera }, { entries, put }) => {
      const exposure: Exposure = {
        mode,
        ev100,
        ...(white && { white }),
        ...(metering && metering !== 'all' && { metering }),
        ...(camera && { camera }),
      };
      return { label: exposureWords(exposure, entry(entries, 'exposure')), changes: [put('exposure', exposure)] };
    },
  ),
  /** Null: as the project is exposed. */
  command(
    'hold-exposure',
    { view: name, exposure: v.nullable(v.strictObject({ ev100: between(-10, 24), white: whiteSchema })) },
    ({ view, exposure }, { put }) => ({
      label: exposure ? `${view} holds EV ${exposure.ev100.toFixed(1)}` : `${view} exposed as the project`,
      changes: [put(`view-exposure/${view}`, exposure ?? undefined)],
    }),
  ),
  command('develop', { grading: gradingSchema, name }, ({ grading, name: what }, { entries, put }) => {
    if (grading.look && !entry(entries, `look/${grading.look.id}`)) return { refused: 'This look is no longer in the project.' };
    const isPlain = JSON.stringify({ ...PLAIN_GRADING, ...grading }) === JSON.stringify(PLAIN_GRADING);
    return { label: `Development: ${what}`, changes: [put('grading', isPlain ? undefined : grading)] };
  }),
  /** A table of colours, which the picture wears from now on. */
  command(
    'bring-look',
    { id, name, text: v.pipe(v.string(), v.maxLength(MOST_LOOK_LENGTH)) },
    ({ id: look, name: called, text }, { entries, put }) => {
      const cube = parseCube(text);
      if (typeof cube === 'string') return { refused: `${called}: ${cube}` };
      const grading = entry(entries, 'grading') ?? PLAIN_GRADING;
      return {
        label: `Look ${called}`,
        changes: [put(`look/${look}`, { name: called, text }), put('grading', { ...grading, look: { id: look, strength: 1 } })],
      };
    },
  ),
] as const;
