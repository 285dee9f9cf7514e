import { randomBytes } from 'node:crypto';
import { accessSync, constants, mkdirSync, realpathSync } from 'node:fs';
import type { Server } from 'node:http';
import path from 'node:path';
import type { Kysely } from 'kysely';
import { createApp } from './app';
import { BlobStore } from './blobs';
import { openProjectDatabase, openSourceDatabase } from './database/open';
import type { ProjectTables } from './database/schema';
import { FileSources } from './files/file-sources';
import { PersonalLibrary } from './personal-library';
import { OwnThings } from './things/own-things';
import { leftBy } from '../core/project/left';
import { FINISHES } from '../core/finish/library';
import { Previews } from './previews/previews';
import { Deliveries } from './prints/deliveries';
import { PrintQueue } from './prints/queue';
import { PrintRecords } from './prints/records';
import { ProjectStore } from './project-store';
import { Owner } from './sign-in/owner';
import { hashPassword, LEAST_LENGTH } from './sign-in/password';
import { SourceStore } from './source-store';
import { Viewers } from './viewers/viewers';

export interface OpenOptions {
  data: string;
  /** Folders whose IFC files may be watched, beside `models` in the data directory. */
  watch: readonly string[];
  name: string;
  /** Folder of the person's own library of finishes. */
  library: string;
  /** Address that will be listened on. */
  host: string;
  /** Previews of the finishes that ship are made beforehand. */
  previewsAhead: boolean;
  /** Proxies that stand before the server. */
  trustedProxies: number;
  /** The owner's password from now on; undefined: as it was set before, if it was. */
  password: string | undefined;
}

export interface OpenProject {
  server: Server;
  linkToken: string;
  close(): Promise<void>;
}

const LOOPBACK = ['127.0.0.1', 'localhost', '::1', '[::1]'];

/** A fault that a person can mend; its message is the whole sentence. */
export class StartError extends Error {}

/** Opens a project's data directory and builds the server over it; nothing listens yet. */
export async function openProject({
  data,
  watch,
  name,
  library,
  host,
  password,
  previewsAhead,
  trustedProxies,
}: OpenOptions): Promise<OpenProject> {
  const directory = path.resolve(data);
  const models = path.join(directory, 'models');
  try {
    mkdirSync(models, { recursive: true });
    accessSync(directory, constants.W_OK);
  } catch {
    throw new StartError(`The data directory ${data} cannot be written.`);
  }
  const db = await openProjectDatabase(path.join(directory, 'project.sqlite'));
  const revisions = await openSourceDatabase(path.join(directory, 'sources.sqlite'));
  const isLocal = LOOPBACK.includes(host);
  const owner = await ownerOf(db, password, isLocal);
  const blobs = new BlobStore(path.join(directory, 'blobs'));
  const project = await ProjectStore.open(db);
  const sources = await SourceStore.open(revisions);
  sources.subscribe((event) => {
    if (event.type === 'summaries') return;
    const after = event.type === 'changed' ? event.after : undefined;
    void project.follow((entries) => leftBy(entries, event.source, event.before, after));
  });
  const projectName = await nameOf(db, name);
  const records = new PrintRecords(db, path.join(directory, 'prints'));
  const deliveries = new Deliveries(db, records, path.join(directory, 'deliveries'), projectName);
  const prints = new PrintQueue(db, records, deliveries, path.join(directory, 'blobs'), path.join(path.resolve(library), 'maps'));
  const previews = new Previews(path.join(path.resolve(library), 'previews'), path.join(directory, 'blobs'));
  const files = new FileSources(
    sources,
    blobs,
    [models, ...watch].map((folder) => realpathSync(folder)),
  );
  const ownThings = new OwnThings(path.join(path.resolve(library), 'things'), blobs);
  const viewers = new Viewers(db, path.join(directory, 'viewers'), path.join(directory, 'blobs'));
  const linkToken = await tokenOf(db);
  const app = createApp({
    projectName,
    linkToken,
    watchFolders: files.watchFolders,
    owner,
    trustedProxies,
    hosts: isLocal ? LOOPBACK : undefined,
    token: linkToken,
    blobs,
    project,
    sources,
    prints,
    previews,
    library: new PersonalLibrary(path.resolve(library)),
    ownThings,
    viewers,
    files,
    onSourceStarted: (id) => void files.reread(id),
  });
  files.startWatching();
  await prints.begin();
  await viewers.begin();
  if (previewsAhead) void previews.makeAll(FINISHES);
  return {
    server: app.server,
    linkToken,
    close: async () => {
      files.close();
      ownThings.close();
      previews.close();
      await prints.close();
      await viewers.close();
      const closed = new Promise((resolve) => app.server.close(resolve));
      app.endConnections();
      await closed;
      await revisions.destroy();
      await db.destroy();
    },
  };
}

const PASSWORD = 'owner-password';

/** Who has to sign in where other computers reach the server. Throws StartError where nobody could. */
async function ownerOf(db: Kysely<ProjectTables>, password: string | undefined, isLocal: boolean): Promise<Owner | undefined> {
  if (password !== undefined) {
    if (password.length < LEAST_LENGTH)
      throw new StartError(`The password in DIAPHANE_PASSWORD is too short: at least ${String(LEAST_LENGTH)} characters are needed.`);
    const value = await hashPassword(password);
    await db.insertInto('setting').values({ key: PASSWORD, value }).onConflict((c) => c.column('key').doUpdateSet({ value })).execute(); // prettier-ignore
  }
  if (isLocal) return undefined;
  const kept = await db.selectFrom('setting').select('value').where('key', '=', PASSWORD).executeTakeFirst();
  if (!kept)
    throw new StartError(`With --host other computers can reach this project, so that its owner has to sign in. Set the password once, when you start it: DIAPHANE_PASSWORD='at least ${String(LEAST_LENGTH)} characters'.`); // prettier-ignore
  return new Owner(kept.value);
}

async function setting(db: Kysely<ProjectTables>, key: string, make: () => string): Promise<string> {
  const row = await db.selectFrom('setting').select('value').where('key', '=', key).executeTakeFirst();
  if (row) return row.value;
  const value = make();
  await db.insertInto('setting').values({ key, value }).execute();
  return value;
}

const tokenOf = (db: Kysely<ProjectTables>) => setting(db, 'link-token', () => randomBytes(18).toString('hex'));
const nameOf = (db: Kysely<ProjectTables>, name: string) => setting(db, 'name', () => name);
