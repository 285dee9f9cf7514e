import { randomUUID } from 'node:crypto';
import type { Kysely } from 'kysely';
import type { JobState, PrintsNow } from '../../core/project/live';
import type { PrintSpec } from '../../core/render/print';
import { frozenText, thawed } from '../../core/scene/frozen-scene';
import type { ProjectTables } from '../database/schema';
import type { Deliveries } from './deliveries';
import { hasRoom, isDiskFull, PRINT_WAITS } from '../disk-full';
import { ffmpeg } from './film-file';
import { orderOf, type PrintRecords } from './records';
import type { FromPrintWorker, PrintInput } from './print-job';
import { PrintThread } from './print-thread';

interface Running {
  id: string;
  since: number;
  done: number;
  secondsLeft: number | null;
}

const COMMIT_EVERY_MS = 1000;
const ROOM_EVERY_MS = 5000;
const PAUSED = 'prints-paused';
/** Prints, one at a time in the order of their positions. Orders are in the database; a restart takes up where it was. */
export class PrintQueue {
  private running: Running | undefined;
  private readonly thread = new PrintThread();
  private readonly listeners = new Set<() => void>();
  private lastTold = 0;
  private closed = false;
  private paused = false;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly db: Kysely<ProjectTables>,
    readonly records: PrintRecords,
    readonly deliveries: Deliveries,
    private readonly blobDirectory: string,
    private readonly mapDirectory: string,
  ) {}

  subscribe(listener: () => void): void {
    this.listeners.add(listener);
  }

  /** Takes up prints that a restart interrupted, then whatever waits. */
  async begin(): Promise<void> {
    const row = await this.db.selectFrom('setting').select('value').where('key', '=', PAUSED).executeTakeFirst();
    this.paused = row?.value === 'yes';
    const stopped = await this.db.selectFrom('print').select('id').where('fault', '=', PRINT_WAITS).where('state', '=', 'failed').execute();
    for (const { id } of stopped) this.resumeOnRoom(id);
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
    this.records.learn(id, spec);
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
    const id = await this.deliveries.create(name, tour);
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
    if (state === 'cancelled' && now?.state === 'cancelled') this.records.sweep(id);
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
    this.thread.hold(ms);
  }

  async remove(id: string): Promise<void> {
    await this.stop(id, 'cancelled');
    await this.db.deleteFrom('print').where('id', '=', id).execute();
    this.records.forget(id);
    this.records.sweep(id);
    this.tell();
  }

  async now(): Promise<PrintsNow> {
    const running = (id: string) => (this.running?.id === id ? this.running : undefined);
    return {
      prints: await this.records.list(running),
      deliveries: await this.deliveries.list(),
      paused: this.paused,
      samplesPerSecond: await this.records.rate(),
      makesFilms: ffmpeg() !== undefined,
    };
  }

  /** Which points of a tour are linked. */
  async link(delivery: string, links: [number, number][]): Promise<void> {
    await this.deliveries.link(delivery, links);
    this.tell();
  }

  async removeDelivery(id: string): Promise<void> {
    for (const print of await this.deliveries.prints(id)) await this.remove(print.id);
    await this.deliveries.remove(id);
    this.tell();
  }

  async close(): Promise<void> {
    this.closed = true;
    clearTimeout(this.timer);
    await this.thread.end();
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
    const input: PrintInput = {
      spec: { ...spec, order: orderOf(spec) },
      blobDirectory: this.blobDirectory,
      mapDirectory: this.mapDirectory,
      output: this.records.base(next.id),
    };
    this.running = { id: next.id, since: Date.now(), done: 0, secondsLeft: null };
    this.thread.begin(input, {
      message: (message) => {
        if (message.type === 'finished') void this.end(next.id, 'finished', null);
        else this.progress(message);
      },
      failed: (error) => {
        console.error('print:', error);
        void this.end(next.id, 'failed', faultOf(error));
      },
    });
    await this.db.updateTable('print').set({ state: 'rendering' }).where('id', '=', next.id).where('state', '=', 'waiting').execute();
    this.tell();
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
    if (state === 'finished') this.thread.rest();
    else await this.thread.end();
    if (fault === PRINT_WAITS) this.resumeOnRoom(id);
    await this.onceThereIsRoom(() => this.keepEnd(id, state, fault, running));
    if (state === 'finished') await this.handOver(id);
    this.tell();
    await this.advance();
  }

  /** A print that a full disk has stopped waits again when there is room. */
  private resumeOnRoom(id: string): void {
    const timer = setTimeout(() => {
      void hasRoom(this.blobDirectory).then((room) => {
        if (this.closed) return;
        if (room) void this.onceThereIsRoom(() => this.resume(id));
        else this.resumeOnRoom(id);
      });
    }, ROOM_EVERY_MS);
    timer.unref();
  }

  /** Tries to keep something until the disk has room for it. */
  private async onceThereIsRoom(keep: () => Promise<void>): Promise<void> {
    for (;;) {
      try {
        await keep();
        return;
      } catch (error) {
        if (!isDiskFull(error) || this.closed) throw error;
        await new Promise((resolve) => setTimeout(resolve, ROOM_EVERY_MS).unref());
      }
    }
  }

  private async keepEnd(id: string, state: JobState, fault: string | null, running: Running): Promise<void> {
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
  }

  /** Puts a delivery together once the last of its pictures is there. */
  private async handOver(id: string): Promise<void> {
    const print = await this.db.selectFrom('print').select('delivery').where('id', '=', id).executeTakeFirst();
    if (!print?.delivery) return;
    try {
      await this.deliveries.putTogether(print.delivery);
    } catch (error) {
      console.error('delivery:', error);
      const fault = `The pictures are all there, but they could not be put together: ${error instanceof Error ? error.message : 'unknown'}`;
      await this.db.updateTable('print').set({ fault }).where('id', '=', id).execute();
    }
  }

  private tell(): void {
    this.lastTold = Date.now();
    for (const listener of this.listeners) listener();
  }
}

/** A sentence for whoever waits for the print; what stood where is in the server's log. */
const faultOf = (error: Error): string =>
  isDiskFull(error) ? PRINT_WAITS : `The print stopped: ${error.message.split('\n')[0]!.replace(/(?:\/[\w.@ -]+){2,}/g, 'a file')}`;
