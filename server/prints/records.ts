import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import type { Kysely } from 'kysely';
import * as v from 'valibot';
import type { JobState, PrintFile, PrintSummary } from '../../core/project/live';
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
import type { ProjectTables } from '../database/schema';

/** What is known of an order beside its state; its frozen scene may be megabytes. */
export interface Known {
  order: PrintOrder;
  condition: string | null;
  option: string | null;
  metadata: Record<string, string>;
  state: PrintedState | undefined;
}

/** How far a print is that is being made. */
export interface Advance {
  done: number;
  secondsLeft: number | null;
}

/** Files of a print by their names in its address. */
export const PRINT_FILES: readonly PrintFile[] = ['picture', 'thumb.png', 'pictures.zip', 'moving.webp', 'film'];
const MOST_LISTED = 400;
/** Samples a second on a computer that has not printed yet; about what two cores do. */
const FIRST_RATE = 110_000;
const RATE_OF = 5;

/** Whether a text from outside may name a print, and so a file. */
export function isPrintId(id: string): boolean {
  return /^[0-9a-f-]{36}$/.test(id);
}

/** Orders of before there was more to order are those of plain pictures. */
export function orderOf({ order }: Pick<PrintSpec, 'order'>): PrintOrder {
  const whole = v.safeParse(printOrderSchema, order);
  return whole.success ? whole.output : order;
}

/** Prints as they are kept: what was ordered, how far each is, and its files. */
export class PrintRecords {
  private readonly known = new Map<string, Known>();
  private readonly files = new Map<string, PrintFile[]>();

  constructor(
    private readonly db: Kysely<ProjectTables>,
    private readonly directory: string,
  ) {
    mkdirSync(directory, { recursive: true });
  }

  learn(id: string, spec: PrintSpec): void {
    this.known.set(id, {
      order: orderOf(spec),
      condition: spec.metadata['Condition'] ?? null,
      option: spec.metadata['Option'] ?? null,
      metadata: spec.metadata,
      state: spec.state,
    });
  }

  /** Each specification is read once. */
  async find(id: string): Promise<Known | undefined> {
    await this.read([id]);
    return this.known.get(id);
  }

  forget(id: string): void {
    this.known.delete(id);
  }

  /** The last ones first; those of one delivery in the order they were ordered in. */
  async list(advanceOf: (id: string) => Advance | undefined, delivery?: string): Promise<PrintSummary[]> {
    const all = this.db
      .selectFrom('print')
      .select(['id', 'state', 'done', 'created_at', 'finished_at', 'fault', 'start_at', 'delivery', 'file_name', 'note', 'position', 'starred']); // prettier-ignore
    const rows = await (
      delivery === undefined
        ? all.orderBy('created_at', 'desc').limit(MOST_LISTED)
        : all.where('delivery', '=', delivery).orderBy('created_at')
    ).execute();
    await this.read(rows.map(({ id }) => id));
    return rows.map((row): PrintSummary => {
      const { order, condition, option } = this.known.get(row.id)!;
      const advance = advanceOf(row.id);
      return {
        id: row.id, name: order.name, ...frameSize(order), quality: order.quality, samples: samplesOf(order),
        noise: order.noise ?? null, frames: framesIn(order), seed: order.seed, denoise: order.denoise, projection: order.projection.kind,
        format: order.format, condition, option, state: row.state as JobState, progress: Math.max(advance?.done ?? 0, row.done),
        secondsLeft: advance?.secondsLeft ?? null, createdAt: row.created_at, finishedAt: row.finished_at, fault: row.fault,
        startAt: row.start_at, position: row.position, starred: row.starred === 1, note: row.note ?? '', delivery: row.delivery,
        fileName: row.file_name, camera: order.camera, files: row.state === 'finished' ? this.filesOf(row.id) : [],
      }; // prettier-ignore
    });
  }

  /** Samples a second of the last prints. */
  async rate(): Promise<number> {
    const rows = await this.db
      .selectFrom('print')
      .select(['id', 'seconds'])
      .where('state', '=', 'finished')
      .where('seconds', '>', 1)
      .orderBy('finished_at', 'desc')
      .limit(RATE_OF)
      .execute();
    await this.read(rows.map(({ id }) => id));
    const rates = rows.flatMap(({ id, seconds }) => {
      const { order } = this.known.get(id)!;
      const { width, height } = frameSize(order);
      return order.noise ? [] : [(width * height * framesIn(order) * samplesOf(order)) / seconds];
    });
    return rates.length > 0 ? rates.sort((a, b) => a - b)[rates.length >> 1]! : FIRST_RATE;
  }

  /** Path of a file of a finished print, if it is there. */
  async findFile(id: string, name: PrintFile): Promise<string | undefined> {
    if (isPrintId(id)) await this.read([id]);
    return this.fileOf(id, name);
  }

  /** Of a print that is known. */
  fileOf(id: string, name: PrintFile): string | undefined {
    const order = this.known.get(id)?.order;
    if (!order || (name === 'moving.webp' && !order.walk)) return undefined;
    const endings: Record<PrintFile, string> = {
      picture: `.${PICTURE_FORMATS[order.format].ending}`,
      'thumb.png': '.thumb.png',
      'pictures.zip': '.zip',
      'moving.webp': '.webp',
      film: `.${order.walk?.film ?? 'none'}`,
    };
    const file = `${this.base(id)}${endings[name]}`;
    return existsSync(file) ? file : undefined;
  }

  /** Path of all files of a print, without ending. */
  base(id: string): string {
    if (!isPrintId(id)) throw new Error('not a print');
    return path.join(this.directory, id);
  }

  /** Drops the files of a print. */
  sweep(id: string): void {
    const base = path.basename(this.base(id));
    this.files.delete(id);
    for (const name of readdirSync(this.directory))
      if (name.startsWith(base)) rmSync(path.join(this.directory, name), { recursive: true, force: true });
  }

  /** What can be fetched of a finished print; looked for once, for the list is told every second. */
  private filesOf(id: string): PrintFile[] {
    let files = this.files.get(id);
    if (!files) this.files.set(id, (files = isPrintId(id) ? PRINT_FILES.filter((file) => this.fileOf(id, file)) : []));
    return files;
  }

  private async read(ids: readonly string[]): Promise<void> {
    const unknown = ids.filter((id) => !this.known.has(id));
    if (unknown.length === 0) return;
    const rows = await this.db.selectFrom('print').select(['id', 'spec']).where('id', 'in', unknown).execute();
    for (const { id, spec } of rows) this.learn(id, JSON.parse(spec) as PrintSpec);
  }
}
