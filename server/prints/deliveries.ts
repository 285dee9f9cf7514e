import { randomUUID } from 'node:crypto';
import type { Kysely } from 'kysely';
import type { DeliverySummary, PrintSummary } from '../../core/project/live';
import type { ProjectTables } from '../database/schema';
import { writeDelivery, type Delivery, type Made } from './delivery-files';
import type { PrintRecords } from './records';
import { readSight, tourOf } from './tour-files';

type Links = [number, number][];
const MOST_LISTED = 100;
const nobody = () => undefined;

/** Pictures that are handed over together. */
export class Deliveries {
  /** What tours are told to be, until they are put together anew. */
  private readonly tours = new Map<string, DeliverySummary['tour']>();

  constructor(
    private readonly db: Kysely<ProjectTables>,
    private readonly records: PrintRecords,
    private readonly directory: string,
    private readonly projectName: string,
  ) {}

  async create(name: string, tour: boolean): Promise<string> {
    const id = randomUUID();
    await this.db
      .insertInto('delivery')
      .values({ id, name, created_at: new Date().toISOString(), folder: null, tour: tour ? 1 : 0, links: null })
      .execute();
    return id;
  }

  async list(): Promise<DeliverySummary[]> {
    const rows = await this.db.selectFrom('delivery').selectAll().orderBy('created_at', 'desc').limit(MOST_LISTED).execute();
    const summaries: DeliverySummary[] = [];
    for (const row of rows) {
      const { id, name, created_at: createdAt, folder } = row;
      summaries.push({ id, name, createdAt, folder, tour: row.tour && folder ? await this.tourOf(row) : null });
    }
    return summaries;
  }

  prints(id: string): Promise<PrintSummary[]> {
    return this.records.list(nobody, id);
  }

  /** Folder of a delivery whose pictures are all there. */
  async folderOf(id: string): Promise<string | undefined> {
    const row = await this.db.selectFrom('delivery').select('folder').where('id', '=', id).executeTakeFirst();
    return row?.folder ?? undefined;
  }

  /** Which points of a tour are linked; it is put together anew. */
  async link(id: string, links: Links): Promise<void> {
    await this.db
      .updateTable('delivery')
      .set({ links: JSON.stringify(links) })
      .where('id', '=', id)
      .execute();
    await this.putTogether(id);
  }

  /** Writes a delivery's folder once the last of its pictures is there. */
  async putTogether(id: string): Promise<void> {
    this.tours.delete(id);
    const delivery = await this.db.selectFrom('delivery').selectAll().where('id', '=', id).executeTakeFirst();
    const prints = await this.prints(id);
    if (!delivery || prints.length === 0 || prints.some(({ state }) => state !== 'finished')) return;
    const made = new Map<string, Made>();
    for (const print of prints) made.set(print.id, await this.madeOf(print.id));
    const folder = await writeDelivery(this.directory, this.projectName, delivery, prints, (print) => made.get(print)!);
    await this.db.updateTable('delivery').set({ folder }).where('id', '=', id).execute();
  }

  async remove(id: string): Promise<void> {
    this.tours.delete(id);
    await this.db.deleteFrom('delivery').where('id', '=', id).execute();
  }

  private async tourOf({ id, name, links }: Delivery): Promise<DeliverySummary['tour']> {
    const known = this.tours.get(id);
    if (known) return known;
    const prints = (await this.prints(id)).filter(({ state }) => state === 'finished');
    const parts = await Promise.all(
      prints.map(async (print) => {
        const made = await this.madeOf(print.id);
        return { print, ...made, seen: readSight(made.sight) };
      }),
    );
    const tour = tourOf(this.projectName, name, parts, links === null ? undefined : (JSON.parse(links) as Links));
    const told = { points: tour.points.map((point) => point.name), links: tour.links };
    this.tours.set(id, told);
    return told;
  }

  private async madeOf(id: string): Promise<Made> {
    const { records } = this;
    const known = await records.find(id);
    return {
      file: records.fileOf(id, 'film') ?? records.fileOf(id, 'pictures.zip') ?? records.fileOf(id, 'picture')!,
      thumb: records.fileOf(id, 'thumb.png')!,
      sight: `${records.base(id)}.sight.json`,
      metadata: known!.metadata,
    };
  }
}
