import { deflateSync, inflateSync } from 'node:zlib';
import { sql, type Kysely, type Selectable } from 'kysely';
import {
  applyChange,
  countChange,
  differenceOf,
  elementCounts,
  EMPTY_MODEL,
  snapshotOf,
  type ElementCounts,
  type Model,
} from '../core/model/model';
import type { RevisionRow, SourceSummary } from '../core/project/live';
import type { SourceState } from '../core/model/protocol';
import type { ModelChange } from '../core/model/schema';
import type { SourceTables } from './database/schema';
import { serially } from '../core/serially';

/** Revisions between two whole models that are kept: the larger the model, the more, since writing one costs as much as its size. */
const snapshotEvery = (model: Model): number => Math.max(100, model.elements.size / 8);

interface Source {
  row: Selectable<SourceTables['source']>;
  model: Model;
  /** Model with the held changes applied; same as `model` when nothing is held. */
  ahead: Model;
  waiting: number;
  connected: boolean;
  fault: string | null;
  sinceSnapshot: number;
  last: ElementCounts | null;
}

export interface KnownSource {
  model: Model;
  ahead: Model;
  revision: number;
  sequence: number;
  stopped: boolean;
  kind: 'link' | 'file';
  name: string;
  /** Where a watched file lies. */
  path: string | null;
}

export type SourceEvent =
  | { type: 'changed'; source: string; revision: number; change: ModelChange; before: Model; after: Model }
  | { type: 'removed'; source: string; before: Model }
  | { type: 'summaries' };

const pack = (change: ModelChange) => deflateSync(JSON.stringify(change), { level: 1 });
const unpack = (bytes: Buffer) => JSON.parse(inflateSync(bytes).toString()) as ModelChange;

/** Linked models and their revisions. What is acknowledged has been committed. */
export class SourceStore {
  private readonly sources = new Map<string, Source>();
  private readonly listeners = new Set<(event: SourceEvent) => void>();
  private readonly inOrder = serially();

  private constructor(private readonly db: Kysely<SourceTables>) {}

  static async open(db: Kysely<SourceTables>): Promise<SourceStore> {
    const store = new SourceStore(db);
    for (const row of await db.selectFrom('source').selectAll().execute()) {
      const source: Source = {
        row,
        model: EMPTY_MODEL,
        ahead: EMPTY_MODEL,
        waiting: 0,
        connected: false,
        fault: null,
        sinceSnapshot: 0,
        last: null,
      };
      const last = await db
        .selectFrom('revision')
        .select('revision')
        .where('source', '=', row.id)
        .where('snapshot', '=', 1)
        .orderBy('revision', 'desc')
        .limit(1)
        .executeTakeFirst();
      const rows = await db
        .selectFrom('revision')
        .selectAll()
        .where('source', '=', row.id)
        .where('revision', '>=', last?.revision ?? 0)
        .orderBy('revision')
        .execute();
      for (const revision of rows) {
        const change = unpack(revision.change);
        source.ahead = applyChange(source.ahead, change);
        if (revision.held) source.waiting += countWaiting(change);
        else source.model = applyChange(source.model, change);
      }
      source.last = rows.length > 0 ? countsOf(rows.filter((r) => !r.held).at(-1)) : null;
      source.sinceSnapshot = rows.length;
      if (source.waiting === 0) source.ahead = source.model;
      store.sources.set(row.id, source);
    }
    return store;
  }

  subscribe(listener: (event: SourceEvent) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  summaries(): SourceSummary[] {
    return [...this.sources.values()].map((source) => ({
      id: source.row.id,
      name: source.row.name,
      tool: source.row.tool,
      kind: source.row.kind,
      hasProperties: source.row.properties !== null,
      state: stateOf(source),
      waiting: source.waiting,
      last: source.last,
      waitingElements: source.waiting > 0 ? elementCounts(source.model, source.ahead) : null,
      revision: source.row.revision,
      changedAt: source.row.changed_at,
      fault: source.fault,
    }));
  }

  models(): { id: string; revision: number; model: Model }[] {
    return [...this.sources.values()].map(({ row, model }) => ({ id: row.id, revision: row.revision, model }));
  }

  get(id: string): KnownSource | undefined {
    const source = this.sources.get(id);
    return (
      source && {
        model: source.model,
        ahead: source.ahead,
        revision: source.row.revision,
        sequence: source.row.sequence,
        stopped: source.row.stopped === 1,
        kind: source.row.kind,
        name: source.row.name,
        path: source.row.path,
      }
    );
  }

  /** Revisions of a source, the newest first. */
  async revisions(id: string, most = 200): Promise<RevisionRow[]> {
    const rows = await this.db
      .selectFrom('revision')
      .select(['revision', 'at', 'held', 'added', 'changed', 'removed'])
      .where('source', '=', id)
      .orderBy('revision', 'desc')
      .limit(most)
      .execute();
    return rows.map((row) => ({ revision: row.revision, at: row.at, held: row.held === 1, counts: countsOf(row) }));
  }

  /** A source's model as it was at a revision; undefined if there is none. */
  async modelAt(id: string, revision: number): Promise<Model | undefined> {
    const rows = () => this.db.selectFrom('revision').where('source', '=', id).where('revision', '<=', revision);
    const start = await rows().select('revision').where('snapshot', '=', 1).orderBy('revision', 'desc').limit(1).executeTakeFirst();
    const changes = await rows()
      .select(['revision', 'change'])
      .where('revision', '>=', start?.revision ?? 0)
      .orderBy('revision')
      .execute();
    if (changes.at(-1)?.revision !== revision) return undefined;
    return changes.reduce((model, row) => applyChange(model, unpack(row.change)), EMPTY_MODEL);
  }

  /** The source that was uploaded under a file's name, or has taken its place. */
  uploadedAs(name: string): string | undefined {
    return [...this.sources.values()].find(({ row }) => row.kind === 'file' && row.path === null && row.name === name)?.row.id;
  }

  watched(): { id: string; path: string }[] {
    return [...this.sources.values()].flatMap(({ row }) => (row.path === null ? [] : [{ id: row.id, path: row.path }]));
  }

  /** Makes a source known, or says that it comes from elsewhere now. */
  register(id: string, kind: 'link' | 'file', name: string, tool: string, path: string | null = null): Promise<void> {
    return this.inOrder(async () => {
      const known = this.sources.get(id);
      await this.db
        .insertInto('source')
        .values({ id, kind, name, tool, path, stopped: 0, held: 0, revision: 0, sequence: 0, changed_at: null, properties: null })
        .onConflict((c) => c.column('id').doUpdateSet({ kind, name, tool, path }))
        .execute();
      if (known) known.row = { ...known.row, kind, name, tool, path };
      else
        this.sources.set(id, {
          row: { id, kind, name, tool, path, stopped: 0, held: 0, revision: 0, sequence: 0, changed_at: null, properties: null },
          model: EMPTY_MODEL, ahead: EMPTY_MODEL, waiting: 0, connected: false, fault: null, sinceSnapshot: 0, last: null,
        }); // prettier-ignore
      this.tell({ type: 'summaries' });
    });
  }

  setProperties(id: string, properties: string | null): Promise<void> {
    return this.inOrder(async () => {
      const source = this.sources.get(id);
      if (!source || source.row.properties === properties) return;
      await this.db.updateTable('source').set({ properties }).where('id', '=', id).execute();
      source.row = { ...source.row, properties };
      this.tell({ type: 'summaries' });
    });
  }

  /** Hash of the blob with what a source's file says of its elements. */
  propertiesOf(id: string): string | null {
    return this.sources.get(id)?.row.properties ?? null;
  }

  setConnected(id: string, connected: boolean): void {
    const source = this.sources.get(id);
    if (!source || source.connected === connected) return;
    source.connected = connected;
    if (connected) source.fault = null;
    this.tell({ type: 'summaries' });
  }

  setFault(id: string, fault: string | null): void {
    const source = this.sources.get(id);
    if (!source) return;
    source.fault = fault;
    this.tell({ type: 'summaries' });
  }

  /** Commits a change that has been validated; applied at once, or kept waiting while the source is held. */
  commit(id: string, change: ModelChange, sequence: number): Promise<{ revision: number; held: boolean }> {
    return this.inOrder(async () => {
      const source = this.sources.get(id)!;
      const held = source.row.held === 1;
      const revision = source.row.revision + 1;
      const at = new Date().toISOString();
      const snapshot = !held && (change.reset || source.sinceSnapshot >= snapshotEvery(source.model));
      const after = applyChange(source.ahead, change);
      const counts = change.reset ? elementCounts(source.ahead, after) : countsOfChange(source.ahead, change);
      const stored = snapshot && !change.reset ? snapshotOf(after) : change;
      await this.db.transaction().execute(async (tx) => {
        await tx
          .insertInto('revision')
          .values({ source: id, revision, at, held: held ? 1 : 0, snapshot: snapshot ? 1 : 0, change: pack(stored), ...counts })
          .execute();
        await tx
          .updateTable('source')
          .set({ revision, sequence, ...(held ? {} : { changed_at: at }) })
          .where('id', '=', id)
          .execute();
      });
      // Nobody sends a file again after a cut of power, so it waits for the disk.
      if (source.row.kind === 'file') await sql`pragma wal_checkpoint(full)`.execute(this.db);
      source.row = { ...source.row, revision, sequence, ...(held ? {} : { changed_at: at }) };
      source.ahead = after;
      source.sinceSnapshot = snapshot ? 0 : source.sinceSnapshot + 1;
      if (held) source.waiting += countWaiting(change);
      else {
        const before = source.model;
        source.model = after;
        source.last = counts;
        this.tell({ type: 'changed', source: id, revision, change, before, after });
      }
      this.tell({ type: 'summaries' });
      return { revision, held };
    });
  }

  hold(id: string): Promise<void> {
    return this.setFlag(id, { held: 1 });
  }

  /** Ends a hold: everything that waited is applied as one consistent state. */
  resume(id: string): Promise<void> {
    return this.inOrder(async () => {
      const source = this.sources.get(id);
      if (!source) return;
      const at = new Date().toISOString();
      await this.db.transaction().execute(async (tx) => {
        await tx.updateTable('revision').set({ held: 0 }).where('source', '=', id).execute();
        await tx
          .updateTable('source')
          .set({ held: 0, ...(source.waiting ? { changed_at: at } : {}) })
          .where('id', '=', id)
          .execute();
      });
      const change = differenceOf(source.model, source.ahead);
      source.row = { ...source.row, held: 0, ...(source.waiting ? { changed_at: at } : {}) };
      source.last = elementCounts(source.model, source.ahead);
      const before = source.model;
      source.model = source.ahead;
      source.waiting = 0;
      if (change.reset || countChange(change) > 0)
        this.tell({ type: 'changed', source: id, revision: source.row.revision, change, before, after: source.model });
      this.tell({ type: 'summaries' });
    });
  }

  stop(id: string): Promise<void> {
    return this.setFlag(id, { stopped: 1 });
  }

  start(id: string): Promise<void> {
    return this.setFlag(id, { stopped: 0 });
  }

  remove(id: string): Promise<void> {
    return this.inOrder(async () => {
      const before = this.sources.get(id)?.model;
      if (!before || !this.sources.delete(id)) return;
      await this.db.deleteFrom('source').where('id', '=', id).execute();
      this.tell({ type: 'removed', source: id, before });
      this.tell({ type: 'summaries' });
    });
  }

  private setFlag(id: string, flags: { held?: 0 | 1; stopped?: 0 | 1 }): Promise<void> {
    return this.inOrder(async () => {
      const source = this.sources.get(id);
      if (!source) return;
      await this.db.updateTable('source').set(flags).where('id', '=', id).execute();
      source.row = { ...source.row, ...flags };
      this.tell({ type: 'summaries' });
    });
  }

  private tell(event: SourceEvent): void {
    for (const listener of this.listeners) listener(event);
  }
}

/** A reset to nothing is a change too. */
const countWaiting = (change: ModelChange): number => Math.max(1, countChange(change));

function countsOf(row: { added: number | null; changed: number | null; removed: number | null } | undefined): ElementCounts | null {
  return row?.added == null || row.changed === null || row.removed === null
    ? null
    : { added: row.added, changed: row.changed, removed: row.removed };
}

function countsOfChange(before: Model, change: ModelChange): ElementCounts {
  const added = change.elements.filter((e) => !before.elements.has(e.id)).length;
  const removed = change.remove.elements.filter((id) => before.elements.has(id)).length;
  return { added, changed: change.elements.length - added, removed };
}

function stateOf({ row, connected }: Source): SourceState {
  if (row.stopped) return 'stopped';
  if (row.held) return 'held';
  if (row.kind === 'link' && !connected) return 'out-of-reach';
  return 'in-step';
}
