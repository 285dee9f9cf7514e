import { randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import type { Kysely } from 'kysely';
import type { JobState, PrintSummary } from '../../core/project/live';
import { framesIn, PRINT_QUALITIES, type PrintOrder, type PrintSpec } from '../../core/render/print';
import type { ProjectTables } from '../database/schema';
import { worker } from '../dist-paths';
import { framesFolder } from './walk-files';
import { frozenText, thawed } from '../../core/scene/frozen-scene';
import type { FromPrintWorker, PrintWorkerInput } from './worker';

interface Running {
  id: string;
  thread: Worker;
  samples: number;
  secondsLeft: number | null;
}

const COMMIT_EVERY_MS = 1000;

/** Whether a text from outside may name a print, and so a file. */
export function isPrintId(id: string): boolean {
  return /^[0-9a-f-]{36}$/.test(id);
}

/** Endings of what is handed over. */
export const PRINT_FILES = { 'picture.png': '.png', 'thumb.png': '.thumb.png', 'pictures.zip': '.zip', 'moving.webp': '.webp' } as const;
export type PrintFile = keyof typeof PRINT_FILES;

/** Prints, one at a time in the order they were asked for. Orders are in the database; a restart takes up where it was. */
export class PrintQueue {
  private running: Running | undefined;
  private readonly listeners = new Set<() => void>();
  private lastTold = 0;
  private readonly orders = new Map<string, PrintOrder>();
  private closed = false;

  constructor(
    private readonly db: Kysely<ProjectTables>,
    private readonly directory: string,
    private readonly blobDirectory: string,
    private readonly mapDirectory: string,
  ) {
    mkdirSync(directory, { recursive: true });
  }

  subscribe(listener: () => void): void {
    this.listeners.add(listener);
  }

  async order(spec: PrintSpec): Promise<string> {
    const id = randomUUID();
    await this.db
      .insertInto('print')
      .values({
        id,
        spec: frozenText(spec),
        state: 'waiting',
        samples_done: 0,
        created_at: new Date().toISOString(),
        finished_at: null,
        fault: null,
      })
      .execute();
    this.orders.set(id, spec.order);
    this.tell();
    await this.advance();
    return id;
  }

  /** Takes up prints that a restart interrupted, then whatever waits. */
  async advance(): Promise<void> {
    if (this.running || this.closed) return;
    const row = await this.db
      .selectFrom('print')
      .select(['id', 'spec'])
      .where('state', 'in', ['rendering', 'waiting'])
      .orderBy('created_at')
      .limit(1)
      .executeTakeFirst();
    if (!row || this.running) return;
    const input: PrintWorkerInput = {
      spec: thawed(row.spec) as PrintSpec,
      blobDirectory: this.blobDirectory,
      mapDirectory: this.mapDirectory,
      output: this.fileBase(row.id),
    };
    const thread = new Worker(worker('print-worker'), { workerData: input });
    this.running = { id: row.id, thread, samples: 0, secondsLeft: null };
    await this.db.updateTable('print').set({ state: 'rendering' }).where('id', '=', row.id).execute();
    thread.on('message', (message: FromPrintWorker) => {
      if (message.type === 'finished') void this.end(row.id, 'finished', null);
      else this.progress(message);
    });
    thread.on('error', (error) => {
      console.error('print:', error);
      void this.end(row.id, 'failed', `The print stopped: ${error.message}`);
    });
    this.tell();
  }

  async cancel(id: string): Promise<void> {
    if (this.running?.id === id) await this.end(id, 'cancelled', null);
    else
      await this.db
        .updateTable('print')
        .set({ state: 'cancelled', finished_at: new Date().toISOString() })
        .where('id', '=', id)
        .where('state', '=', 'waiting')
        .execute();
    rmSync(`${this.fileBase(id)}.film`, { force: true });
    rmSync(framesFolder(this.fileBase(id)), { recursive: true, force: true });
    this.tell();
  }

  async remove(id: string): Promise<void> {
    await this.cancel(id);
    await this.db.deleteFrom('print').where('id', '=', id).execute();
    this.orders.delete(id);
    for (const ending of [...Object.values(PRINT_FILES), '.film', '.part']) rmSync(`${this.fileBase(id)}${ending}`, { force: true });
    this.tell();
  }

  async list(): Promise<PrintSummary[]> {
    const rows = await this.db
      .selectFrom('print')
      .select(['id', 'state', 'samples_done', 'created_at', 'finished_at', 'fault'])
      .orderBy('created_at', 'desc')
      .limit(200)
      .execute();
    await this.learnOrders(rows.map(({ id }) => id));
    return rows.map((row) => {
      const order = this.orders.get(row.id)!;
      const { samples } = PRINT_QUALITIES[order.quality];
      const frames = framesIn(order);
      const total = samples * frames;
      const running = this.running?.id === row.id ? this.running : undefined;
      const done = row.state === 'finished' ? total : Math.max(running?.samples ?? 0, row.samples_done);
      return {
        id: row.id, name: order.name, width: order.width, height: order.height, quality: order.quality, samples, frames, seed: order.seed,
        denoise: order.denoise, state: row.state as JobState, progress: done / total, secondsLeft: running?.secondsLeft ?? null,
        createdAt: row.created_at, finishedAt: row.finished_at, fault: row.fault,
      }; // prettier-ignore
    });
  }

  /** Each specification is read once: with its frozen scene it may be megabytes. */
  private async learnOrders(ids: readonly string[]): Promise<void> {
    const unknown = ids.filter((id) => !this.orders.has(id));
    if (unknown.length === 0) return;
    const rows = await this.db.selectFrom('print').select(['id', 'spec']).where('id', 'in', unknown).execute();
    for (const { id, spec } of rows) this.orders.set(id, (JSON.parse(spec) as PrintSpec).order);
  }

  /** Path of a file of a finished print, if it is there. */
  fileOf(id: string, name: PrintFile): string | undefined {
    if (!isPrintId(id)) return undefined;
    const file = `${this.fileBase(id)}${PRINT_FILES[name]}`;
    return existsSync(file) ? file : undefined;
  }

  async close(): Promise<void> {
    this.closed = true;
    await this.running?.thread.terminate();
  }

  private fileBase(id: string): string {
    if (!isPrintId(id)) throw new Error('not a print');
    return path.join(this.directory, id);
  }

  private progress({ samples, secondsLeft }: Extract<FromPrintWorker, { type: 'progress' }>): void {
    const running = this.running;
    if (!running) return;
    running.samples = samples;
    running.secondsLeft = secondsLeft;
    if (Date.now() - this.lastTold < COMMIT_EVERY_MS) return;
    void this.db.updateTable('print').set({ samples_done: samples }).where('id', '=', running.id).execute();
    this.tell();
  }

  private async end(id: string, state: JobState, fault: string | null): Promise<void> {
    const running = this.running;
    if (running?.id !== id) return;
    this.running = undefined;
    await running.thread.terminate();
    await this.db.updateTable('print').set({ state, fault, finished_at: new Date().toISOString() }).where('id', '=', id).execute();
    this.tell();
    await this.advance();
  }

  private tell(): void {
    this.lastTold = Date.now();
    for (const listener of this.listeners) listener();
  }
}
