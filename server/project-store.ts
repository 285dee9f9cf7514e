import type { Kysely, Transaction } from 'kysely';
import { effectOf, type Command, type CommandEffect } from '../core/project/command';
import { applyChanges, invertChanges, type Entries, type EntryChange } from '../core/project/project';
import type { HistoryRow } from '../core/project/live';
import type { ProjectTables } from './database/schema';
import { serially } from '../core/serially';

const HISTORY_SHOWN = 200;

export interface Applied {
  changes: EntryChange[];
}

export type Outcome = Applied | { refused: string };

/** What the visualizer has decided: entries and their history. Each command is one transaction. */
export class ProjectStore {
  private entriesNow: Entries = new Map();
  private readonly inOrder = serially();

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

  run(command: Command, now = new Date().toISOString()): Promise<Outcome> {
    return this.inOrder(async () => {
      const effect = effectOf(this.entriesNow, command, now);
      if ('refused' in effect) return effect;
      return this.keep(effect, now);
    });
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
      const row = await this.db.selectFrom('history').selectAll().where('undone', '=', 0).orderBy('id', 'desc').limit(1).executeTakeFirst();
      if (!row) return { refused: 'There is nothing to undo.' };
      return this.move(row.id, invertChanges(JSON.parse(row.changes) as EntryChange[]), 1);
    });
  }

  redo(): Promise<Outcome> {
    return this.inOrder(async () => {
      const row = await this.db.selectFrom('history').selectAll().where('undone', '=', 1).orderBy('id').limit(1).executeTakeFirst();
      if (!row) return { refused: 'There is nothing to redo.' };
      return this.move(row.id, JSON.parse(row.changes) as EntryChange[], 0);
    });
  }

  async history(): Promise<HistoryRow[]> {
    const rows = await this.db
      .selectFrom('history')
      .select(['id', 'at', 'label', 'undone'])
      .orderBy('id', 'desc')
      .limit(HISTORY_SHOWN)
      .execute();
    return rows.map((row) => ({ ...row, undone: row.undone === 1 }));
  }

  private async keep({ label, changes }: CommandEffect, at: string): Promise<Applied> {
    await this.db.transaction().execute(async (tx) => {
      await tx.deleteFrom('history').where('undone', '=', 1).execute();
      await tx
        .insertInto('history')
        .values({ at, label, changes: JSON.stringify(changes), undone: 0 })
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
