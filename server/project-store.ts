import type { Kysely, Transaction } from 'kysely';
import { effectOf, type Command, type CommandEffect } from '../core/project/command';
import { mergedChanges } from '../core/project/merging';
import { applyChanges, invertChanges, type Entries, type EntryChange } from '../core/project/project';
import type { HistoryRow } from '../core/project/live';
import type { ProjectTables } from './database/schema';
import { serially } from '../core/serially';

const HISTORY_SHOWN = 200;
const OFFICE = 'office';

export interface Applied {
  changes: EntryChange[];
}

export type Outcome = Applied | { refused: string };

/** What the visualizer has decided: entries and their history. Each command is one transaction. */
export class ProjectStore {
  private entriesNow: Entries = new Map();
  private readonly inOrder = serially();
  private readonly listeners = new Set<(applied: Applied) => void>();

  private constructor(private readonly db: Kysely<ProjectTables>) {}

  static async open(db: Kysely<ProjectTables>): Promise<ProjectStore> {
    const store = new ProjectStore(db);
    const rows = await db.selectFrom('entry').selectAll().execute();
    store.entriesNow = new Map(rows.map((row) => [row.key, JSON.parse(row.value) as unknown]));
    return store;
  }

  get entries(): Entries {
    return this.entriesNow;
  }

  /** `seen`: what whoever sends it had before the eyes; what others have changed meanwhile stays. */
  run(command: Command, seen: Parameters<typeof mergedChanges>[1] = {}, now = new Date().toISOString()): Promise<Outcome> {
    return this.inOrder(async () => {
      const effect = effectOf(this.entriesNow, command, now);
      if ('refused' in effect) return effect;
      const changes = mergedChanges(effect.changes, seen);
      if ('refused' in changes) return changes;
      return this.keep({ ...effect, changes }, now);
    });
  }

  /** A command of somebody outside the office: whoever listens is told, and the office's undoing and redoing know nothing of it. */
  async runFor(by: string, command: Command, now = new Date().toISOString()): Promise<Outcome> {
    const outcome = await this.inOrder(async () => {
      const effect = effectOf(this.entriesNow, command, now);
      return 'refused' in effect ? effect : this.keep(effect, now, by);
    });
    if ('changes' in outcome) for (const tell of this.listeners) tell(outcome);
    return outcome;
  }

  /** What follows from a model alone, told and kept likewise. */
  async follow(changesTo: (entries: Entries) => EntryChange[], now = new Date().toISOString()): Promise<void> {
    const outcome = await this.inOrder(async () => {
      const changes = changesTo(this.entriesNow);
      return changes.length > 0 ? this.keep({ label: 'The model has changed', changes }, now, 'model') : undefined;
    });
    if (outcome) for (const tell of this.listeners) tell(outcome);
  }

  /** Told of what comes from outside the office. */
  subscribe(listener: (applied: Applied) => void): void {
    this.listeners.add(listener);
  }

  /** Puts entries as the store has held them before. */
  restore(label: string, changesTo: (entries: Entries) => EntryChange[], now = new Date().toISOString()): Promise<Outcome> {
    return this.inOrder(async () => {
      const changes = changesTo(this.entriesNow);
      return changes.length === 0 ? { changes } : this.keep({ label, changes }, now);
    });
  }

  undo(): Promise<Outcome> {
    return this.inOrder(async () => {
      const row = await this.db
        .selectFrom('history')
        .selectAll()
        .where('undone', '=', 0)
        .where('by', '=', OFFICE)
        .orderBy('id', 'desc')
        .limit(1)
        .executeTakeFirst();
      if (!row) return { refused: 'There is nothing to undo.' };
      return this.move(row.id, invertChanges(JSON.parse(row.changes) as EntryChange[]), 1);
    });
  }

  redo(): Promise<Outcome> {
    return this.inOrder(async () => {
      const row = await this.db
        .selectFrom('history')
        .selectAll()
        .where('undone', '=', 1)
        .where('by', '=', OFFICE)
        .orderBy('id')
        .limit(1)
        .executeTakeFirst();
      if (!row) return { refused: 'There is nothing to redo.' };
      return this.move(row.id, JSON.parse(row.changes) as EntryChange[], 0);
    });
  }

  /** Of the office, the last first. */
  async history(): Promise<HistoryRow[]> {
    const rows = await this.db
      .selectFrom('history')
      .select(['id', 'at', 'label', 'undone'])
      .where('by', '=', OFFICE)
      .orderBy('id', 'desc')
      .limit(HISTORY_SHOWN)
      .execute();
    return rows.map((row) => ({ ...row, undone: row.undone === 1 }));
  }

  private async keep({ label, changes }: CommandEffect, at: string, by = OFFICE): Promise<Applied> {
    await this.db.transaction().execute(async (tx) => {
      await tx.deleteFrom('history').where('undone', '=', 1).where('by', '=', by).execute();
      await tx
        .insertInto('history')
        .values({ at, label, changes: JSON.stringify(changes), undone: 0, by })
        .execute();
      await writeEntries(tx, changes);
    });
    return this.applied(changes);
  }

  private async move(id: number, changes: EntryChange[], undone: number): Promise<Applied> {
    await this.db.transaction().execute(async (tx) => {
      await tx.updateTable('history').set({ undone }).where('id', '=', id).execute();
      await writeEntries(tx, changes);
    });
    return this.applied(changes);
  }

  private applied(changes: EntryChange[]): Applied {
    this.entriesNow = applyChanges(this.entriesNow, changes);
    return { changes };
  }
}

async function writeEntries(tx: Transaction<ProjectTables>, changes: readonly EntryChange[]): Promise<void> {
  for (const { key, after } of changes) {
    if (after === undefined) await tx.deleteFrom('entry').where('key', '=', key).execute();
    else {
      const value = JSON.stringify(after);
      await tx
        .insertInto('entry')
        .values({ key, value })
        .onConflict((c) => c.column('key').doUpdateSet({ value }))
        .execute();
    }
  }
}
