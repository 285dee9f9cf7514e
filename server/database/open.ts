import Database from 'better-sqlite3';
import { Kysely, Migrator, sql, SqliteDialect, type Migration } from 'kysely';
import type { ProjectTables, SourceTables } from './schema';

const PROJECT: Record<string, Migration> = {
  '001-first': {
    async up(db: Kysely<unknown>) {
      await db.schema.createTable('setting').addColumn('key', 'text', (c) => c.primaryKey()).addColumn('value', 'text', (c) => c.notNull()).execute();
      await db.schema.createTable('entry').addColumn('key', 'text', (c) => c.primaryKey()).addColumn('value', 'text', (c) => c.notNull()).execute();
      await db.schema
        .createTable('history')
        .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
        .addColumn('at', 'text', (c) => c.notNull())
        .addColumn('label', 'text', (c) => c.notNull())
        .addColumn('changes', 'text', (c) => c.notNull())
        .addColumn('undone', 'integer', (c) => c.notNull().defaultTo(0))
        .execute();
      await db.schema
        .createTable('print')
        .addColumn('id', 'text', (c) => c.primaryKey())
        .addColumn('spec', 'text', (c) => c.notNull())
        .addColumn('state', 'text', (c) => c.notNull())
        .addColumn('samples_done', 'integer', (c) => c.notNull().defaultTo(0))
        .addColumn('created_at', 'text', (c) => c.notNull())
        .addColumn('finished_at', 'text')
        .addColumn('fault', 'text')
        .execute();
    },
  },
  '002-which-axis-is-up': {
    async up(db: Kysely<unknown>) {
      for (const [before, after] of [['"yUp":true', '"up":"y"'], ['"yUp":false', '"up":"z"']]) {
        await sql`update entry set value = replace(value, ${before}, ${after}) where key like 'placement/%'`.execute(db);
        await sql`update history set changes = replace(changes, ${before}, ${after})`.execute(db);
      }
    },
  },
  '003-register': {
    async up(db: Kysely<unknown>) {
      await db.schema
        .createTable('delivery')
        .addColumn('id', 'text', (c) => c.primaryKey())
        .addColumn('name', 'text', (c) => c.notNull())
        .addColumn('created_at', 'text', (c) => c.notNull())
        .addColumn('folder', 'text')
        .addColumn('tour', 'integer', (c) => c.notNull().defaultTo(0))
        .addColumn('links', 'text')
        .execute();
      for (const column of ['start_at', 'delivery', 'file_name', 'note'] as const) await db.schema.alterTable('print').addColumn(column, 'text').execute();
      await db.schema.alterTable('print').addColumn('position', 'real', (c) => c.notNull().defaultTo(0)).execute();
      await db.schema.alterTable('print').addColumn('starred', 'integer', (c) => c.notNull().defaultTo(0)).execute();
      await db.schema.alterTable('print').addColumn('done', 'real', (c) => c.notNull().defaultTo(0)).execute();
      await db.schema.alterTable('print').addColumn('seconds', 'real', (c) => c.notNull().defaultTo(0)).execute();
      await sql`update print set done = 1 where state = 'finished'`.execute(db);
    },
  },
  '004-viewers': {
    async up(db: Kysely<unknown>) {
      await db.schema
        .createTable('viewer')
        .addColumn('id', 'text', (c) => c.primaryKey())
        .addColumn('name', 'text', (c) => c.notNull())
        .addColumn('created_at', 'text', (c) => c.notNull())
        .addColumn('state', 'text', (c) => c.notNull())
        .addColumn('fault', 'text')
        .addColumn('report', 'text')
        .execute();
      await db.schema
        .createTable('viewer_link')
        .addColumn('id', 'text', (c) => c.primaryKey())
        .addColumn('viewer', 'text', (c) => c.notNull().references('viewer.id').onDelete('cascade'))
        .addColumn('token_hash', 'text', (c) => c.notNull().unique())
        .addColumn('password_hash', 'text')
        .addColumn('may_comment', 'integer', (c) => c.notNull())
        .addColumn('created_at', 'text', (c) => c.notNull())
        .addColumn('expires_at', 'text', (c) => c.notNull())
        .addColumn('revoked_at', 'text')
        .execute();
      await db.schema
        .createTable('viewer_access')
        .addColumn('id', 'integer', (c) => c.primaryKey().autoIncrement())
        .addColumn('link', 'text', (c) => c.notNull().references('viewer_link.id').onDelete('cascade'))
        .addColumn('at', 'text', (c) => c.notNull())
        .addColumn('address', 'text', (c) => c.notNull())
        .addColumn('what', 'text', (c) => c.notNull())
        .execute();
    },
  },
  '005-by-whom': {
    async up(db: Kysely<unknown>) {
      await db.schema.alterTable('history').addColumn('by', 'text', (c) => c.notNull().defaultTo('office')).execute();
      await db.schema.alterTable('viewer_link').addColumn('shows_others', 'integer', (c) => c.notNull().defaultTo(0)).execute();
    },
  },
}; // prettier-ignore

const SOURCES: Record<string, Migration> = {
  '001-first': {
    async up(db: Kysely<unknown>) {
      await db.schema
        .createTable('source')
        .addColumn('id', 'text', (c) => c.primaryKey())
        .addColumn('kind', 'text', (c) => c.notNull())
        .addColumn('name', 'text', (c) => c.notNull())
        .addColumn('tool', 'text', (c) => c.notNull())
        .addColumn('stopped', 'integer', (c) => c.notNull().defaultTo(0))
        .addColumn('held', 'integer', (c) => c.notNull().defaultTo(0))
        .addColumn('path', 'text')
        .addColumn('revision', 'integer', (c) => c.notNull().defaultTo(0))
        .addColumn('sequence', 'integer', (c) => c.notNull().defaultTo(0))
        .addColumn('changed_at', 'text')
        .execute();
      await db.schema
        .createTable('revision')
        .addColumn('source', 'text', (c) => c.notNull().references('source.id').onDelete('cascade'))
        .addColumn('revision', 'integer', (c) => c.notNull())
        .addColumn('at', 'text', (c) => c.notNull())
        .addColumn('held', 'integer', (c) => c.notNull())
        .addColumn('snapshot', 'integer', (c) => c.notNull())
        .addColumn('change', 'blob', (c) => c.notNull())
        .addPrimaryKeyConstraint('revision_key', ['source', 'revision'])
        .execute();
    },
  },
  '002-files-of-every-kind': {
    async up(db: Kysely<unknown>) {
      await sql`update source set kind = 'file' where kind = 'ifc'`.execute(db);
    },
  },
  '004-properties': {
    async up(db: Kysely<unknown>) {
      await db.schema.alterTable('source').addColumn('properties', 'text').execute();
    },
  },
  '003-what-revisions-did': {
    async up(db: Kysely<unknown>) {
      for (const column of ['added', 'changed', 'removed']) await db.schema.alterTable('revision').addColumn(column, 'integer').execute();
    },
  },
}; // prettier-ignore

/** What the person has decided, and the prints. What is committed is on the disk and outlives a cut of power. */
export function openProjectDatabase(file: string): Promise<Kysely<ProjectTables>> {
  return open<ProjectTables>(file, PROJECT, 'FULL');
}

/**
 * Linked models and their revisions. What is committed outlives the process, but does not wait for the disk: after a cut of
 * power an author sees that the server knows less than it acknowledged, and sends its model again.
 */
export function openSourceDatabase(file: string): Promise<Kysely<SourceTables>> {
  return open<SourceTables>(file, SOURCES, 'NORMAL');
}

/** Opens a database and brings it up to date. */
async function open<Tables>(file: string, migrations: Record<string, Migration>, synchronous: 'FULL' | 'NORMAL'): Promise<Kysely<Tables>> {
  const sqlite = new Database(file);
  sqlite.pragma('journal_mode = WAL');
  sqlite.pragma(`synchronous = ${synchronous}`);
  sqlite.pragma('foreign_keys = ON');
  const db = new Kysely<Tables>({ dialect: new SqliteDialect({ database: sqlite }) });
  const migrator = new Migrator({ db, provider: { getMigrations: () => Promise.resolve(migrations) } });
  const { error } = await migrator.migrateToLatest();
  if (error) throw error instanceof Error ? error : new Error('The database could not be brought up to date.');
  return db;
}
