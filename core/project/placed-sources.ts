import type { Model } from '../model/model';
import { placedModel } from './placement';
import { entry, type Entries } from './project';

/** Source ids in the order that the project lists them in; the first that has a site says where it stands. */
export function orderOf(ids: readonly string[], entries: Entries): string[] {
  const order = entry(entries, 'source-order') ?? [];
  const rank = new Map(order.map((id, i) => [id, i]));
  return [...ids].sort((a, b) => (rank.get(a) ?? order.length) - (rank.get(b) ?? order.length));
}

/** The project's models where they are placed, in their order. */
export function placedSources(sources: readonly { id: string; model: Model }[], entries: Entries): { id: string; model: Model }[] {
  const byId = new Map(sources.map(({ id, model }) => [id, model]));
  return orderOf([...byId.keys()], entries).map((id) => ({ id, model: placedModel(byId.get(id)!, entry(entries, `placement/${id}`)) }));
}
