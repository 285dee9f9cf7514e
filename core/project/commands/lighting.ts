import * as v from 'valibot';
import { placedLampSchema } from '../../lamp/placed-lamp';
import { webOf } from '../../lamp/web-grid';
import { photometrySchema } from '../../model/schema';
import { circuitKey, lampKey, type LampDecision, type LightingKey } from '../lighting';
import { entry, type EntryChange } from '../project';
import { thingKey } from '../things';
import { command, id, name, type Before } from './define';

const lightingKey = v.pipe(v.string(), v.maxLength(600), v.regex(/^(lamp|lamp-type|circuit)\/.+/, 'must name a lamp, a type or a circuit'));
const level = v.pipe(v.number(), v.minValue(0), v.maxValue(1));

/** What is decided of a row, without what is undefined; undefined: nothing. */
function changed(
  { entries, put }: Before,
  key: LightingKey,
  change: { [K in keyof LampDecision]: LampDecision[K] | undefined },
): EntryChange {
  const after = Object.entries({ ...entry(entries, key), ...change }).filter(([, value]) => value !== undefined);
  return put(key, after.length > 0 ? (Object.fromEntries(after) as LampDecision) : undefined);
}

const percent = (share: number): string => `${(share * 100).toFixed(0)} %`;

/** Switching and dimming, and what is on which circuit. */
export const LIGHTING_COMMANDS = [
  /** Null: as the model has it, or whole. `modelLevels`: of the lamps among the keys, what the model has now. */
  command(
    'dim-lamps',
    {
      keys: v.pipe(v.array(lightingKey), v.minLength(1), v.maxLength(20_000)),
      level: v.nullable(level),
      modelLevels: v.optional(v.record(v.string(), level), {}),
      name,
    },
    ({ keys, level: to, modelLevels, name: what }, project) => ({
      label: to === null ? `${what} as in the model` : `${what} at ${percent(to)}`,
      changes: keys.map((key) =>
        changed(project, key as LightingKey, { level: to ?? undefined, modelLevel: to === null ? undefined : modelLevels[key] }),
      ),
    }),
  ),
  command(
    'switch-lamps',
    { keys: v.pipe(v.array(lightingKey), v.minLength(1), v.maxLength(20_000)), on: v.boolean(), name },
    ({ keys, on, name: what }, project) => ({
      label: `${what} ${on ? 'on' : 'off'}`,
      changes: keys.map((key) => changed(project, key as LightingKey, { off: on ? undefined : true })),
    }),
  ),
  /** Those that are lit alone; none: all as they are switched. */
  command('light-alone', { keys: v.pipe(v.array(lightingKey), v.maxLength(1000)), name }, ({ keys, name: what }, { put }) => ({
    label: keys.length > 0 ? `${what} lit alone` : 'All circuits lit again',
    changes: [put('solo', keys.length > 0 ? (keys as LightingKey[]) : undefined)],
  })),
  /** Null: on that of the model. */
  command(
    'put-on-circuit',
    {
      lamps: v.pipe(v.array(v.strictObject({ source: id, lamp: id })), v.minLength(1), v.maxLength(20_000)),
      circuit: v.nullable(name),
      name,
    },
    ({ lamps, circuit, name: what }, project) => ({
      label: `${what} on ${circuit === null ? 'the model’s circuit' : `circuit ${circuit}`}`,
      changes: lamps.map(({ source, lamp }) => changed(project, lampKey(source, lamp), { circuit: circuit ?? undefined })),
    }),
  ),
  /** A photometric file, and the lamps or types that have it from now on. */
  command(
    'bring-photometry',
    { file: photometrySchema, on: v.pipe(v.array(lightingKey), v.maxLength(20_000)) },
    ({ file: { id: file, name: called, text }, on }, project) => {
      const web = webOf(text);
      if (typeof web === 'string') return { refused: `${called}: ${web}` };
      return {
        label: `Photometric file ${called.slice(0, 60)}`,
        changes: [
          project.put(`photometry/${file}`, { name: called, text }),
          ...on.map((key) => changed(project, key as LightingKey, { photometry: file })),
        ],
      };
    },
  ),
  /** Null: as the model has it. */
  command(
    'give-photometry',
    { file: v.nullable(id), on: v.pipe(v.array(lightingKey), v.minLength(1), v.maxLength(20_000)), name },
    ({ file, on, name: what }, project) => {
      const known = file === null ? undefined : entry(project.entries, `photometry/${file}`);
      if (file !== null && !known) return { refused: 'This photometric file is no longer in the project.' };
      return {
        label: `${what} with ${known ? known.name.slice(0, 60) : 'the light of the model'}`,
        changes: on.map((key) => changed(project, key as LightingKey, { photometry: file ?? undefined })),
      };
    },
  ),
  /** Null: taken away. */
  command(
    'place-lamps',
    { lamps: v.pipe(v.array(v.strictObject({ id, lamp: v.nullable(placedLampSchema) })), v.minLength(1), v.maxLength(5000)), name },
    ({ lamps, name: what }, { entries, put }) => {
      const missing = lamps.find(({ lamp }) => lamp?.form.kind === 'measured' && !entry(entries, `photometry/${lamp.form.photometry}`));
      if (missing) return { refused: 'The photometric file of this lamp is not in the project.' };
      return { label: what, changes: lamps.map(({ id: thing, lamp }) => put(thingKey(thing), lamp ?? undefined)) };
    },
  ),
  command('name-circuit', { circuit: name, name }, ({ circuit, name: called }, { entries, put }) => {
    const key = circuitKey(circuit);
    return { label: `Circuit ${circuit} called ${called}`, changes: [put(key, { ...entry(entries, key), name: called })] };
  }),
] as const;
