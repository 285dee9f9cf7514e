import { randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { Worker } from 'node:worker_threads';
import type { Kysely } from 'kysely';
import * as v from 'valibot';
import type { DeliverySummary, JobState, PrintFile, PrintsNow, PrintSummary } from '../../core/project/live';
import {
  framesIn,
  frameSize,
  PICTURE_FORMATS,
  printOrderSchema,
  samplesOf,
  type PrintedState,
  type PrintOrder,
  type PrintSpec,
} from '../../core/render/print';
import { frozenText, thawed } from '../../core/scene/frozen-scene';
import type { ProjectTables } from '../database/schema';
import { worker } from '../dist-paths';
import { writeDelivery } from './delivery-files';
import { readSight, tourOf } from './tour-files';
import { ffmpeg } from './film-file';
import type { FromPrintWorker, PrintWorkerInput, ToPrintWorker } from './worker';

interface Running {
  id: string;
  thread: Worker;
  since: number;
  done: number;
  secondsLeft: number | null;
}

/** What is known of an order beside its state; its frozen scene may be megabytes. */
interface Known {
  order: PrintOrder;
  condition: string | null;
  option: string | null;
  metadata: Record<string, string>;
  state: PrintedState | undefined;
}

const COMMIT_EVERY_MS = 1000;
const PAUSED = 'prints-paused';
/** Samples a second on a computer that has not printed yet; about what two cores do. */
const FIRST_RATE = 110_000;
const RATE_OF = 5;

/** Whether a text from outside may name a print, and so a file. */
export function isPrintId(id: string): boolean {
  return /^[0-9a-f-]{36}$/.test(id);
}

/** Prints, one at a time in the order of their positions. Orders are in the database; a restart takes up where it was. */
export class PrintQueue {
  private running: Running | undefined;
  private readonly listeners = new Set<() => void>();
  private lastTold = 0;
  private readonly known = new Map<string, Known>();
  private readonly files = new Map<string, PrintFile[]>();
  private closed = false;
  private paused = false;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly db: Kysely<ProjectTables>,
    private readonly directory: string,
    private readonly blobDirectory: string,
    private readonly mapDirectory: string,
    private readonly deliveryDirectory: string,
    private readonly projectName: string,
  ) {
    mkdirSync(directory, { recursive: true });
  }

  subscribe(listener: () => void): void {
    this.listeners.add(listener);
  }

  /** Takes up prints that a restart interrupted, then whatever waits. */
  async begin(): Promise<void> {
    const row = await this.db.selectFrom('setting').select('value').where('key', '=', PAUSED).executeTakeFirst();
    this.paused = row?.value === 'yes';
    await this.advance();
  }

  async order(spec: PrintSpec, more: { startAt?: string; delivery?: string; fileName?: string } = {}): Promise<string> {
    const id = randomUUID();
    const last = await this.db.selectFrom('print').select(({ fn }) => fn.max('position').as('position')).executeTakeFirst(); // prettier-ignore
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
        start_at: more.startAt ?? null,
        delivery: more.delivery ?? null,
        file_name: more.fileName ?? null,
        note: null,
        position: (last?.position ?? 0) + 1,
      })
      .execute();
    this.known.set(id, knownOf(spec));
    this.tell();
    await this.advance();
    return id;
  }

  /** Pictures that are handed over together. */
  async deliver(
    { name, tour = false }: { name: string; tour?: boolean | undefined },
    specs: readonly { spec: PrintSpec; fileName: string }[],
    startAt?: string,
  ): Promise<{ id: string; prints: string[] }> {
    const id = randomUUID();
    await this.db.insertInto('delivery').values({ id, name, created_at: new Date().toISOString(), folder: null, tour: tour ? 1 : 0, links: null }).execute();
    const prints: string[] = [];
    for (const { spec, fileName } of specs)
      prints.push(await this.order(spec, { delivery: id, fileName, ...(startAt && { startAt }) }));
    return { id, prints };
  } // prettier-ignore

  /** Ends a print for good, or for a while; what it has done so far is kept for a while only. */
  async stop(id: string, state: 'cancelled' | 'paused'): Promise<void> {
    if (this.running?.id === id) await this.end(id, state, null);
    else
      await this.db
        .updateTable('print')
        .set({ state, ...(state === 'cancelled' && { finished_at: new Date().toISOString() }) })
        .where('id', '=', id)
        .where('state', 'in', ['waiting', 'paused'])
        .execute();
    // What was finished meanwhile stays.
    const now = await this.db.selectFrom('print').select('state').where('id', '=', id).executeTakeFirst();
    if (state === 'cancelled' && now?.state === 'cancelled') this.sweep(id);
    this.tell();
  }

  /** Lets a print that was paused, cancelled or has failed wait again. */
  async resume(id: string): Promise<void> {
    await this.db
      .updateTable('print')
      .set({ state: 'waiting', fault: null, finished_at: null })
      .where('id', '=', id)
      .where('state', 'in', ['paused', 'failed', 'cancelled'])
      .execute();
    this.tell();
    await this.advance();
  }

  /** Puts a print before another one, or behind all. */
  async move(id: string, before: string | null): Promise<void> {
    const rows = await this.db.selectFrom('print').select(['id', 'position']).orderBy('position').orderBy('created_at').execute();
    const order = rows.map((row) => row.id).filter((other) => other !== id);
    const at = before === null ? -1 : order.indexOf(before);
    order.splice(at < 0 ? order.length : at, 0, id);
    await this.db.transaction().execute(async (tx) => {
      for (const [i, each] of order.entries())
        await tx
          .updateTable('print')
          .set({ position: i + 1 })
          .where('id', '=', each)
          .execute();
    });
    this.tell();
  }

  async annotate(id: string, { starred, note }: { starred?: boolean; note?: string }): Promise<void> {
    const set = { ...(starred !== undefined && { starred: starred ? 1 : 0 }), ...(note !== undefined && { note }) };
    if (Object.keys(set).length > 0) await this.db.updateTable('print').set(set).where('id', '=', id).execute();
    this.tell();
  }

  async pause(paused: boolean): Promise<void> {
    this.paused = paused;
    const value = paused ? 'yes' : 'no';
    await this.db.insertInto('setting').values({ key: PAUSED, value }).onConflict((c) => c.column('key').doUpdateSet({ value })).execute(); // prettier-ignore
    const running = this.running?.id;
    // What was rendering comes first again.
    if (paused && running) await this.end(running, 'waiting', null);
    this.tell();
    await this.advance();
  }

  /** Whoever works has the processor for a moment. */
  hold(ms: number): void {
    this.running?.thread.postMessage({ type: 'hold', ms } satisfies ToPrintWorker);
  }

  async remove(id: string): Promise<void> {
    await this.stop(id, 'cancelled');
    await this.db.deleteFrom('print').where('id', '=', id).execute();
    this.known.delete(id);
    this.sweep(id);
    this.tell();
  }

  async now(): Promise<PrintsNow> {
    const deliveries = await this.db.selectFrom('delivery').selectAll().orderBy('created_at', 'desc').limit(100).execute();
    const prints = await this.list();
    const tourIn = ({ id, name, links }: (typeof deliveries)[number]): DeliverySummary['tour'] => {
      const made = prints.filter(({ delivery, state }) => delivery === id && state === 'finished').reverse();
      const all = made.map((print) => ({ print, ...this.madeOf(print.id), seen: readSight(this.madeOf(print.id).sight) }));
      const { points, links: linked } = tourOf(
        this.projectName,
        name,
        all,
        links === null ? undefined : (JSON.parse(links) as [number, number][]),
      );
      return { points: points.map((point) => point.name), links: linked };
    };
    return {
      prints,
      deliveries: deliveries.map((delivery) => {
        const { id, name, created_at: createdAt, folder, tour } = delivery;
        return { id, name, createdAt, folder, tour: tour && folder ? tourIn(delivery) : null };
      }),
      paused: this.paused,
      samplesPerSecond: await this.rate(),
      makesFilms: ffmpeg() !== undefined,
    };
  }

  async list(): Promise<PrintSummary[]> {
    const rows = await this.db
      .selectFrom('print')
      .select(['id', 'state', 'done', 'created_at', 'finished_at', 'fault', 'start_at', 'delivery', 'file_name', 'note', 'position', 'starred'])
      .orderBy('created_at', 'desc')
      .limit(400)
      .execute(); // prettier-ignore
    await this.learn(rows.map(({ id }) => id));
    return rows.map((row): PrintSummary => {
      const { order, condition, option } = this.known.get(row.id)!;
      const running = this.running?.id === row.id ? this.running : undefined;
      return {
        id: row.id, name: order.name, ...frameSize(order), quality: order.quality, samples: samplesOf(order),
        noise: order.noise ?? null, frames: framesIn(order), seed: order.seed, denoise: order.denoise, projection: order.projection.kind,
        format: order.format, condition, option, state: row.state as JobState, progress: Math.max(running?.done ?? 0, row.done),
        secondsLeft: running?.secondsLeft ?? null, createdAt: row.created_at, finishedAt: row.finished_at, fault: row.fault,
        startAt: row.start_at, position: row.position, starred: row.starred === 1, note: row.note ?? '', delivery: row.delivery,
        fileName: row.file_name, camera: order.camera, files: row.state === 'finished' ? this.filesOf(row.id) : [],
      }; // prettier-ignore
    });
  }

  /** The state that a print was made of. */
  async stateOf(id: string): Promise<{ name: string; state: PrintedState | undefined } | undefined> {
    await this.learn([id]);
    const known = this.known.get(id);
    return known && { name: known.order.name, state: known.state };
  }

  /** Path of a file of a finished print, if it is there. */
  async findFile(id: string, name: PrintFile): Promise<string | undefined> {
    if (isPrintId(id)) await this.learn([id]);
    return this.fileOf(id, name);
  }

  /** Of a print that is known. */
  private fileOf(id: string, name: PrintFile): string | undefined {
    const order = isPrintId(id) ? this.known.get(id)?.order : undefined;
    if (!order) return undefined;
    const endings: Record<PrintFile, string> = {
      picture: `.${PICTURE_FORMATS[order.format].ending}`,
      'thumb.png': '.thumb.png',
      'pictures.zip': '.zip',
      'moving.webp': '.webp',
      film: `.${order.walk?.film ?? 'none'}`,
    };
    if (name === 'moving.webp' && !order.walk) return undefined;
    const file = `${this.fileBase(id)}${endings[name]}`;
    return existsSync(file) ? file : undefined;
  }

  async removeDelivery(id: string): Promise<void> {
    const prints = await this.db.selectFrom('print').select('id').where('delivery', '=', id).execute();
    for (const print of prints) await this.remove(print.id);
    await this.db.deleteFrom('delivery').where('id', '=', id).execute();
    this.tell();
  }

  /** Folder of a delivery whose pictures are all there. */
  async folderOf(id: string): Promise<string | undefined> {
    const row = await this.db.selectFrom('delivery').select('folder').where('id', '=', id).executeTakeFirst();
    return row?.folder ?? undefined;
  }

  async close(): Promise<void> {
    this.closed = true;
    clearTimeout(this.timer);
    await this.running?.thread.terminate();
  }

  private isIdle(): boolean {
    return !this.running && !this.closed && !this.paused;
  }

  private async advance(): Promise<void> {
    if (!this.isIdle()) return;
    const rows = await this.db
      .selectFrom('print')
      .select(['id', 'state', 'start_at'])
      .where('state', 'in', ['rendering', 'waiting'])
      .orderBy('state')
      .orderBy('position')
      .orderBy('created_at')
      .execute();
    const now = new Date().toISOString();
    const next = rows.find(({ start_at }) => start_at === null || start_at <= now);
    clearTimeout(this.timer);
    if (!next) {
      const first = rows.map(({ start_at }) => start_at!).sort()[0];
      // Timers hold 24 days at most; looked at again after an hour at the latest.
      if (first) this.timer = setTimeout(() => void this.advance(), Math.min(3_600_000, Math.max(0, Date.parse(first) - Date.now())));
      return;
    }
    const row = await this.db
      .selectFrom('print')
      .select('spec')
      .where('id', '=', next.id)
      .where('state', 'in', ['rendering', 'waiting'])
      .executeTakeFirst();
    // It may have been called off, the queue paused, or another begun, while this was read.
    if (!row || !this.isIdle()) return;
    const spec = thawed(row.spec) as PrintSpec;
    const input: PrintWorkerInput = {
      spec: { ...spec, order: orderOf(spec) },
      blobDirectory: this.blobDirectory,
      mapDirectory: this.mapDirectory,
      output: this.fileBase(next.id),
    };
    const thread = new Worker(worker('print-worker'), { workerData: input });
    this.running = { id: next.id, thread, since: Date.now(), done: 0, secondsLeft: null };
    await this.db.updateTable('print').set({ state: 'rendering' }).where('id', '=', next.id).execute();
    thread.on('message', (message: FromPrintWorker) => {
      if (message.type === 'finished') void this.end(next.id, 'finished', null);
      else this.progress(message);
    });
    thread.on('error', (error) => {
      console.error('print:', error);
      void this.end(next.id, 'failed', `The print stopped: ${error.message}`);
    });
    this.tell();
  }

  private async learn(ids: readonly string[]): Promise<void> {
    const unknown = ids.filter((id) => !this.known.has(id));
    if (unknown.length === 0) return;
    const rows = await this.db.selectFrom('print').select(['id', 'spec']).where('id', 'in', unknown).execute();
    for (const { id, spec } of rows) this.known.set(id, knownOf(JSON.parse(spec) as PrintSpec));
  }

  /** Samples a second of the last prints. */
  private async rate(): Promise<number> {
    const rows = await this.db
      .selectFrom('print')
      .select(['id', 'seconds'])
      .where('state', '=', 'finished')
      .where('seconds', '>', 1)
      .orderBy('finished_at', 'desc')
      .limit(RATE_OF)
      .execute();
    await this.learn(rows.map(({ id }) => id));
    const rates = rows.flatMap(({ id, seconds }) => {
      const { order } = this.known.get(id)!;
      const { width, height } = frameSize(order);
      return order.noise ? [] : [(width * height * framesIn(order) * samplesOf(order)) / seconds];
    });
    return rates.length > 0 ? rates.sort((a, b) => a - b)[rates.length >> 1]! : FIRST_RATE;
  }

  /** What can be fetched of a finished print; looked for once, for the list is told every second. */
  private filesOf(id: string): PrintFile[] {
    let files = this.files.get(id);
    if (!files) this.files.set(id, (files = PRINT_FILES.filter((file) => this.fileOf(id, file))));
    return files;
  }

  private fileBase(id: string): string {
    if (!isPrintId(id)) throw new Error('not a print');
    return path.join(this.directory, id);
  }

  /** Drops the files of a print. */
  private sweep(id: string): void {
    const base = path.basename(this.fileBase(id));
    this.files.delete(id);
    for (const name of readdirSync(this.directory))
      if (name.startsWith(base)) rmSync(path.join(this.directory, name), { recursive: true, force: true });
  }

  private progress({ done, secondsLeft }: Extract<FromPrintWorker, { type: 'progress' }>): void {
    const running = this.running;
    if (!running) return;
    running.done = done;
    running.secondsLeft = secondsLeft;
    if (Date.now() - this.lastTold < COMMIT_EVERY_MS) return;
    void this.db.updateTable('print').set({ done }).where('id', '=', running.id).execute();
    this.tell();
  }

  private async end(id: string, state: JobState, fault: string | null): Promise<void> {
    const running = this.running;
    if (running?.id !== id) return;
    this.running = undefined;
    await running.thread.terminate();
    const { seconds } = await this.db.selectFrom('print').select('seconds').where('id', '=', id).executeTakeFirstOrThrow();
    const hasEnded = state !== 'paused' && state !== 'waiting';
    await this.db
      .updateTable('print')
      .set({
        state,
        fault,
        finished_at: hasEnded ? new Date().toISOString() : null,
        done: state === 'finished' ? 1 : running.done,
        seconds: seconds + (Date.now() - running.since) / 1000,
      })
      .where('id', '=', id)
      .execute();
    if (state === 'finished') await this.handOver(id);
    this.tell();
    await this.advance();
  }

  /** Which points of a tour are linked; it is put together anew. */
  async link(delivery: string, links: readonly [number, number][]): Promise<void> {
    await this.db
      .updateTable('delivery')
      .set({ links: JSON.stringify(links) })
      .where('id', '=', delivery)
      .execute();
    await this.putTogether(delivery);
    this.tell();
  }

  /** Puts a delivery together once the last of its pictures is there. */
  private async handOver(id: string): Promise<void> {
    const print = await this.db.selectFrom('print').select('delivery').where('id', '=', id).executeTakeFirst();
    if (!print?.delivery) return;
    try {
      await this.putTogether(print.delivery);
    } catch (error) {
      console.error('delivery:', error);
      const fault = `The pictures are all there, but they could not be put together: ${error instanceof Error ? error.message : 'unknown'}`;
      await this.db.updateTable('print').set({ fault }).where('id', '=', id).execute();
    }
  }

  private async putTogether(id: string): Promise<void> {
    const delivery = await this.db.selectFrom('delivery').selectAll().where('id', '=', id).executeTakeFirst();
    const prints = await this.inDelivery(id);
    if (!delivery || prints.length === 0 || prints.some(({ state }) => state !== 'finished')) return;
    const folder = await writeDelivery(this.deliveryDirectory, this.projectName, delivery, prints, (of) => this.madeOf(of));
    await this.db.updateTable('delivery').set({ folder }).where('id', '=', id).execute();
  }

  /** In the order that they were ordered in. */
  private async inDelivery(id: string): Promise<PrintSummary[]> {
    return (await this.list()).filter(({ delivery }) => delivery === id).reverse();
  }

  private madeOf(id: string) {
    return {
      file: this.fileOf(id, 'film') ?? this.fileOf(id, 'pictures.zip') ?? this.fileOf(id, 'picture')!,
      thumb: this.fileOf(id, 'thumb.png')!,
      sight: `${this.fileBase(id)}.sight.json`,
      metadata: this.known.get(id)!.metadata,
    };
  }

  private tell(): void {
    this.lastTold = Date.now();
    for (const listener of this.listeners) listener();
  }
}

const PRINT_FILES: readonly PrintFile[] = ['picture', 'thumb.png', 'pictures.zip', 'moving.webp', 'film'];

/** Orders of before there was more to order are those of plain pictures. */
function orderOf({ order }: Pick<PrintSpec, 'order'>): PrintOrder {
  const whole = v.safeParse(printOrderSchema, order);
  return whole.success ? whole.output : order;
}

const knownOf = (spec: PrintSpec): Known => ({
  order: orderOf(spec),
  condition: spec.metadata['Condition'] ?? null,
  option: spec.metadata['Option'] ?? null,
  metadata: spec.metadata,
  state: spec.state,
});
