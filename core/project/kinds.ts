import type { ThingKinds } from '../setting/setting-model';
import type { ThingKind } from '../setting/thing-kind';
import { entry, type Entries } from './project';

let last: { shipped: ThingKinds; own: readonly ThingKind[]; kinds: ThingKinds } | undefined;

/** What ships and what the project has of its own; the same object as long as nothing has come or gone. */
export function kindsWith(shipped: ThingKinds, entries: Entries): ThingKinds {
  const own = [...entries.keys()].flatMap((key) => (key.startsWith('kind/') ? [entry(entries, key as `kind/${string}`)!] : []));
  if (own.length === 0) return shipped;
  if (last?.shipped === shipped && last.own.length === own.length && last.own.every((kind, i) => kind === own[i])) return last.kinds;
  const kinds = new Map([...shipped, ...own.map((kind) => [kind.id, kind] as const)]);
  last = { shipped, own, kinds };
  return kinds;
}
