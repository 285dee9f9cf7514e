import * as v from 'valibot';
import { LEAST_KELVIN, MOST_KELVIN, MOST_TINT } from '../../image/white-balance';
import { siteSchema } from '../../model/schema';
import { GENERAL_SKIES } from '../../sky/general-sky';
import { clock } from '../clock';
import { entry, type EntryTypes } from '../project';
import { command } from './define';

const date = v.pipe(v.string(), v.isoDate());
const minutes = v.pipe(v.number(), v.minValue(0), v.maxValue(1440));

const whiteSchema = v.strictObject({
  kelvin: v.pipe(v.number(), v.minValue(LEAST_KELVIN), v.maxValue(MOST_KELVIN)),
  tint: v.pipe(v.number(), v.minValue(-MOST_TINT), v.maxValue(MOST_TINT)),
});

/** What an exposure changes of the one before. */
function exposureWords({ mode, ev100, white }: EntryTypes['exposure'], earlier: EntryTypes['exposure'] | undefined): string {
  if (JSON.stringify(white) !== JSON.stringify(earlier?.white))
    return white ? `White ${white.kelvin.toFixed(0)} K, tint ${white.tint.toFixed(0)}` : 'White automatic';
  return mode === 'auto' ? 'Exposure automatic' : `Exposure EV ${ev100.toFixed(1)}`;
}

/** Site, sun and exposure. */
export const LIGHT_COMMANDS = [
  command('set-sun', { date, minutes }, ({ date: day, minutes: time }, { put }) => {
    const whole = Math.min(1439, Math.round(time));
    return { label: `Sun at ${day} ${clock(whole)}`, changes: [put('sun', { date: day, minutes: whole })] };
  }),
  /** Null: the computed clear one. */
  command(
    'choose-sky',
    {
      sky: v.nullable(
        v.strictObject({
          type: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(GENERAL_SKIES.length)),
          lux: v.optional(v.pipe(v.number(), v.minValue(1), v.maxValue(150_000))),
        }),
      ),
    },
    ({ sky }, { put }) => ({
      label: sky ? `Sky: ${GENERAL_SKIES[sky.type - 1]!.name.toLowerCase()}` : 'Sky: clear, computed',
      changes: [put('sky', sky ? { type: sky.type, ...(sky.lux !== undefined && { lux: sky.lux }) } : undefined)],
    }),
  ),
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
    },
    (exposure, { entries, put }) => ({
      label: exposureWords(exposure, entry(entries, 'exposure')),
      changes: [put('exposure', { mode: exposure.mode, ev100: exposure.ev100, ...(exposure.white && { white: exposure.white }) })],
    }),
  ),
] as const;
