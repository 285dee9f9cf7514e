import type { Model } from '../model/model';
import type { Entries } from './project';

/** A decision about an element or source material that the model does not have now; it comes back with it. */
export interface SleepingDecision {
  key: string;
  /** Id of the element or source material. */
  of: string;
  kind: 'element' | 'source material';
}

const ABOUT: readonly (readonly [prefix: string, kind: SleepingDecision['kind']])[] = [
  ['element', 'element'], ['nudge', 'element'], ['turned', 'element'], ['laid', 'element'], ['assign', 'source material'],
]; // prettier-ignore

/** Decisions that wait for what they were made about. */
export function sleepingDecisions(source: string, model: Model, entries: Entries): SleepingDecision[] {
  const out: SleepingDecision[] = [];
  for (const key of entries.keys())
    for (const [prefix, kind] of ABOUT) {
      const start = `${prefix}/${source}/`;
      if (!key.startsWith(start)) continue;
      const of = key.slice(start.length);
      if (!(kind === 'element' ? model.elements : model.materials).has(of)) out.push({ key, of, kind });
    }
  return out;
}
