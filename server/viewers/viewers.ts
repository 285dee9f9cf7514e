import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import type { Kysely } from 'kysely';
import type * as v from 'valibot';
import type { viewerList, viewerWeighed } from '../../core/project/answers';
import { Attempts } from '../attempts';
import type { ProjectTables } from '../database/schema';
import { worker } from '../dist-paths';
import { hashPassword, isPassword } from '../sign-in/password';
import type { ViewerSpec } from './spec';
import type { FromViewerWorker, ViewerWorkerInput } from './worker';

/** Viewers that are made one after the other, their files, and the links at which they are shown. */

const LOGGED = 50;
/** So many wrong words from one address, or at one link, and it has to wait. */
const MOST_WRONG = 8;
/** So many remarks along a link in a minute. */
const MOST_REMARKS = 20;

type Weight = v.InferOutput<typeof viewerWeighed>;
type Listed = v.InferOutput<typeof viewerList>['viewers'][number];
export interface LinkWish {
  days: number;
  password?: string | undefined;
  mayComment: boolean;
  showsOthers?: boolean | undefined;
}
/** A link that is good now. */
export interface OpenLink {
  id: string;
  viewer: string;
  mayComment: boolean;
  showsOthers: boolean;
  passwordHash: string | null;
  tokenHash: string;
}

const markOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');

export class Viewers {
  private readonly waiting: { id: string; spec: ViewerSpec }[] = [];
  private running: { id: string; thread: Worker; done: number } | undefined;
  private weighing: { thread: Worker; end: (weight: Weight | undefined) => void } | undefined;
  private readonly attempts: Attempts;
  private readonly remarks: Attempts;

  constructor(
    private readonly db: Kysely<ProjectTables>,
    private readonly folder: string,
    private readonly blobDirectory: string,
    private readonly now: () => number = Date.now,
  ) {
    this.attempts = new Attempts(MOST_WRONG, now);
    this.remarks = new Attempts(MOST_REMARKS, now);
  }

  /** What a server that ended has left undone is not taken up: nobody knows what it was to show. */
  async begin(): Promise<void> {
    mkdirSync(this.folder, { recursive: true });
    await this.db
      .updateTable('viewer')
      .set({ state: 'failed', fault: 'The server ended while this was being made; order it again.' })
      .where('state', 'in', ['waiting', 'baking'])
      .execute();
  }

  async order(spec: ViewerSpec): Promise<string> {
    const id = randomUUID();
    const created_at = new Date(this.now()).toISOString();
    await this.db.insertInto('viewer').values({ id, name: spec.name, created_at, state: 'waiting', fault: null, report: null }).execute();
    this.waiting.push({ id, spec });
    void this.next();
    return id;
  }

  /** How large the file would be; one at a time: undefined once another is asked for. */
  weigh(spec: ViewerSpec): Promise<Weight | undefined> {
    this.weighing?.end(undefined);
    const thread = new Worker(worker('viewer-worker'), {
      workerData: { spec, blobDirectory: this.blobDirectory } satisfies ViewerWorkerInput,
    });
    return new Promise((resolve) => {
      const end = (weight: Weight | undefined) => {
        void thread.terminate();
        if (this.weighing?.thread === thread) this.weighing = undefined;
        resolve(weight);
      };
      this.weighing = { thread, end };
      thread.on('message', (message: FromViewerWorker) => {
        if (message.type === 'weighed') end({ bytes: message.bytes, corners: message.corners, leftOut: message.leftOut });
      });
      thread.on('error', (error) => {
        console.error('viewer:', error);
        end(undefined);
      });
    });
  }

  private async next(): Promise<void> {
    const job = this.running ? undefined : this.waiting.shift();
    if (!job) return;
    const input: ViewerWorkerInput = { spec: job.spec, blobDirectory: this.blobDirectory, output: this.fileOf(job.id) };
    const thread = new Worker(worker('viewer-worker'), { workerData: input });
    this.running = { id: job.id, thread, done: 0 };
    const end = async (state: 'finished' | 'failed', fault: string | null, report: string | null) => {
      if (this.running?.id !== job.id) return;
      this.running = undefined;
      await this.db.updateTable('viewer').set({ state, fault, report }).where('id', '=', job.id).execute();
      void this.next();
    };
    thread.on('message', (message: FromViewerWorker) => {
      if (message.type === 'progress' && this.running) this.running.done = message.done;
      if (message.type !== 'finished') return;
      const { bytes, modelBytes, corners, seconds, leftOut } = message;
      void end('finished', null, JSON.stringify({ bytes, modelBytes, corners, seconds, leftOut }));
    });
    thread.on('error', (error) => {
      console.error('viewer:', error);
      void end('failed', `The viewer could not be made: ${error.message}`, null);
    });
    await this.db.updateTable('viewer').set({ state: 'baking' }).where('id', '=', job.id).execute();
  }

  fileOf(id: string): string {
    return path.join(this.folder, `${id}.html`);
  }

  async nameOf(id: string): Promise<string | undefined> {
    return (await this.db.selectFrom('viewer').select('name').where('id', '=', id).where('state', '=', 'finished').executeTakeFirst())
      ?.name;
  }

  async list(): Promise<Listed[]> {
    const [viewers, links, log] = await Promise.all([
      this.db.selectFrom('viewer').selectAll().orderBy('created_at', 'desc').execute(),
      this.db.selectFrom('viewer_link').selectAll().orderBy('created_at').execute(),
      this.db.selectFrom('viewer_access').selectAll().orderBy('id', 'desc').execute(),
    ]);
    return viewers.map((row) => ({
      id: row.id,
      name: row.name,
      createdAt: row.created_at,
      state: row.state as Listed['state'],
      done: row.state === 'finished' ? 1 : this.running?.id === row.id ? this.running.done : 0,
      fault: row.fault,
      report: row.report === null ? null : (JSON.parse(row.report) as Listed['report']),
      links: links
        .filter(({ viewer }) => viewer === row.id)
        .map((link) => {
          const mine = log.filter((entry) => entry.link === link.id);
          return {
            id: link.id,
            expiresAt: link.expires_at,
            hasPassword: link.password_hash !== null,
            mayComment: link.may_comment === 1,
            showsOthers: link.shows_others === 1,
            revoked: link.revoked_at !== null,
            opened: mine.filter(({ what }) => what === 'opened').length,
            log: mine.slice(0, LOGGED).map(({ at, address, what }) => ({ at, address, what })),
          };
        }),
    }));
  }

  async remove(id: string): Promise<void> {
    if (this.running?.id === id) {
      void this.running.thread.terminate();
      this.running = undefined;
    }
    const place = this.waiting.findIndex((job) => job.id === id);
    if (place >= 0) this.waiting.splice(place, 1);
    await this.db.deleteFrom('viewer').where('id', '=', id).execute();
    rmSync(this.fileOf(id), { force: true });
    void this.next();
  }

  /** Undefined: there is no such viewer. Its token is told only now. */
  async link(viewer: string, { days, password, mayComment, showsOthers }: LinkWish): Promise<{ id: string; token: string } | undefined> {
    if ((await this.nameOf(viewer)) === undefined) return undefined;
    const [id, token] = [randomUUID(), randomBytes(24).toString('base64url')];
    await this.db
      .insertInto('viewer_link')
      .values({
        id,
        viewer,
        token_hash: markOf(token),
        password_hash: password === undefined ? null : await hashPassword(password),
        may_comment: mayComment ? 1 : 0,
        shows_others: showsOthers ? 1 : 0,
        created_at: new Date(this.now()).toISOString(),
        expires_at: new Date(this.now() + days * 86_400_000).toISOString(),
        revoked_at: null,
      })
      .execute();
    return { id, token };
  }

  async revoke(link: string): Promise<void> {
    await this.db
      .updateTable('viewer_link')
      .set({ revoked_at: new Date(this.now()).toISOString() })
      .where('id', '=', link)
      .execute();
  }

  /** The link of a token; undefined: it is none, or is over; `wait`: too many wrong ones came from this address. */
  async open(token: string, address: string): Promise<OpenLink | 'wait' | undefined> {
    const row = await this.db.selectFrom('viewer_link').selectAll().where('token_hash', '=', markOf(token)).executeTakeFirst();
    if (!row || row.revoked_at !== null || Date.parse(row.expires_at) < this.now()) {
      const by = `address ${address}`;
      this.attempts.count(by);
      return this.attempts.mustWait(by) ? 'wait' : undefined;
    }
    return {
      id: row.id,
      viewer: row.viewer,
      mayComment: row.may_comment === 1,
      showsOthers: row.shows_others === 1,
      passwordHash: row.password_hash,
      tokenHash: row.token_hash,
    };
  }

  /** Wrong ones are counted by link and by address, apart; a right one clears its link's count alone. */
  async isPassword(link: OpenLink, password: string, address: string): Promise<boolean | 'wait' | 'busy'> {
    if (link.passwordHash === null) return true;
    const counted = [`link ${link.id}`, `password ${address}`] as const;
    if (counted.some((by) => this.attempts.mustWait(by))) return 'wait';
    for (const by of counted) this.attempts.count(by);
    const right = await isPassword(password, link.passwordHash);
    if (right !== false) for (const by of counted) this.attempts.takeBack(by);
    if (right === true) this.attempts.forget(counted[0]);
    if (right === false) await this.log(link.id, address, 'wrong password');
    return right;
  }

  /** Whether one more remark is taken along a link now; it is counted. */
  takesRemark(link: OpenLink): boolean {
    if (this.remarks.mustWait(link.id)) return false;
    this.remarks.count(link.id);
    return true;
  }

  async log(link: string, address: string, what: string): Promise<void> {
    await this.db
      .insertInto('viewer_access')
      .values({ link, at: new Date(this.now()).toISOString(), address, what })
      .execute();
  }

  async close(): Promise<void> {
    this.waiting.length = 0;
    const { running } = this;
    this.running = undefined;
    await running?.thread.terminate();
  }
}
