import type { Grading } from '../image/grading';
import { LIGHTING_KEYS, type LightingKey, type Switching } from './lighting';
import { DEFAULT_EXPOSURE, DEFAULT_SUN, entry, type Entries, type EntryChange, type EntryTypes, type Exposure } from './project';

/** Kept states of light: "October, 18:40, lamps on". */

export const CONDITION_PARTS = ['sun', 'lamps', 'exposure', 'development'] as const;
export type ConditionPart = (typeof CONDITION_PARTS)[number];

/** What is absent of a condition is left as it is when it is recalled. */
export interface Condition {
  name: string;
  /** Sun and sky; a null sky is the computed clear one. */
  sun?: { sun: EntryTypes['sun']; sky: EntryTypes['sky'] | null; weather: EntryTypes['weather'] | null };
  /** What is off or dimmed, and which rows alone are lit; all others are as they came. */
  lamps?: { rows: Record<string, Pick<Switching, 'off' | 'level'>>; solo: LightingKey[] };
  exposure?: Exposure;
  /** Null: nothing but the curve. */
  development?: Grading | null;
}

const ROW = new RegExp(LIGHTING_KEYS);
const isRow = (key: string): key is LightingKey => ROW.test(key) && /^(lamp|lamp-type|circuit)\//.test(key);

/** What a project shows now, in the parts that are asked for. */
export function conditionNow(entries: Entries, name: string, parts: readonly ConditionPart[]): Condition {
  const has = (part: ConditionPart) => parts.includes(part);
  return {
    name,
    ...(has('sun') && {
      sun: { sun: entry(entries, 'sun') ?? DEFAULT_SUN, sky: entry(entries, 'sky') ?? null, weather: entry(entries, 'weather') ?? null },
    }),
    ...(has('lamps') && { lamps: { rows: switched(entries), solo: entry(entries, 'solo') ?? [] } }),
    ...(has('exposure') && { exposure: entry(entries, 'exposure') ?? DEFAULT_EXPOSURE }),
    ...(has('development') && { development: entry(entries, 'grading') ?? null }),
  };
}

function switched(entries: Entries): Record<string, Pick<Switching, 'off' | 'level'>> {
  const rows: Record<string, Pick<Switching, 'off' | 'level'>> = {};
  for (const key of entries.keys()) {
    if (!isRow(key)) continue;
    const { off, level } = entry(entries, key)!;
    if (off !== undefined || level !== undefined) rows[key] = { ...(off && { off }), ...(level !== undefined && { level }) };
  }
  return rows;
}

/** The entries as a condition has them, all else as it is. */
export function withCondition(entries: Entries, condition: Condition): Entries {
  const after = new Map(entries);
  for (const { key, after: value } of recalled(entries, condition)) {
    if (value === undefined) after.delete(key);
    else after.set(key, value);
  }
  return after;
}

/** What recalling a condition changes. */
export function recalled(entries: Entries, { sun, lamps, exposure, development }: Condition): EntryChange[] {
  const wanted = new Map<string, unknown>();
  if (sun)
    wanted
      .set('sun', sun.sun)
      .set('sky', sun.sky ?? undefined)
      .set('weather', sun.weather ?? undefined);
  if (exposure) wanted.set('exposure', exposure);
  if (development !== undefined) wanted.set('grading', development ?? undefined);
  if (lamps) {
    wanted.set('solo', lamps.solo.length > 0 ? lamps.solo : undefined);
    for (const key of new Set([...[...entries.keys()].filter(isRow), ...Object.keys(lamps.rows)])) {
      const row: Switching = { ...entry(entries, key as LightingKey) };
      delete row.off;
      delete row.level;
      Object.assign(row, lamps.rows[key]);
      wanted.set(key, Object.keys(row).length > 0 ? row : undefined);
    }
  }
  return [...wanted]
    .map(([key, after]) => ({ key, before: entries.get(key), after }))
    .filter(({ before, after }) => JSON.stringify(before) !== JSON.stringify(after));
}

export interface KeptCondition extends Condition {
  id: string;
}

/** A project's conditions by name. */
export const conditionsOf = (entries: Entries): KeptCondition[] =>
  [...entries.keys()]
    .filter((key) => key.startsWith('condition/'))
    .map((key) => ({ id: key.slice('condition/'.length), ...entry(entries, key as `condition/${string}`)! }));

/** Whether the project shows what the condition keeps. */
export const isShown = (entries: Entries, condition: Condition): boolean => recalled(entries, condition).length === 0;
