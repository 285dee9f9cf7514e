import * as v from 'valibot';
import type { Projection } from '../camera/projection';
import { commandSchema } from './command';
import type { EntryChange } from './project';
import type { ElementCounts } from '../model/model';
import type { SourceState } from '../model/protocol';
import type { Camera, ModelChange } from '../model/schema';

/** What server and pages say to each other over the live connection. JSON text frames. */

const id = v.pipe(v.string(), v.minLength(1), v.maxLength(200));

export const fromPageSchema = v.variant('type', [
  /** `seen`: the entries that it changes, as whoever sends it has them before the eyes; see merging.ts. */
  v.strictObject({
    type: v.literal('command'),
    id,
    command: commandSchema,
    seen: v.optional(v.record(v.string(), v.record(v.string(), v.unknown()))),
  }),
  v.strictObject({ type: v.literal('undo'), id }),
  v.strictObject({ type: v.literal('redo'), id }),
  /** The state that a print was made of is shown again. */
  v.strictObject({ type: v.literal('show-print'), id, print: v.pipe(v.string(), v.maxLength(64)) }),
  /** The working picture moves: prints leave it the processor for a moment. */
  v.strictObject({ type: v.literal('at-work'), id }),
  v.strictObject({
    type: v.literal('source'),
    id,
    source: id,
    action: v.picklist(['hold', 'resume', 'stop', 'start', 'remove']),
  }),
]);
export type FromPage = v.InferOutput<typeof fromPageSchema>;

export interface SourceSummary {
  id: string;
  name: string;
  tool: string;
  kind: 'link' | 'file';
  /** Whether its file says more of its elements than their shape. */
  hasProperties: boolean;
  state: SourceState;
  /** Changes that wait while held. */
  waiting: number;
  /** What the last change that was applied did to the elements, and what those do that wait; null: not known. */
  last: ElementCounts | null;
  waitingElements: ElementCounts | null;
  revision: number;
  /** Of the last change that was applied, ISO. */
  changedAt: string | null;
  /** What went wrong last, if the last attempt failed. */
  fault: string | null;
}

/** One revision of a source in its history. */
export interface RevisionRow {
  revision: number;
  /** ISO. */
  at: string;
  /** Null in projects of before this was counted. */
  counts: ElementCounts | null;
  /** Not applied yet. */
  held: boolean;
}

export interface HistoryRow {
  id: number;
  at: string;
  label: string;
  undone: boolean;
}

export type JobState = 'waiting' | 'rendering' | 'paused' | 'finished' | 'cancelled' | 'failed';

export interface PrintSummary {
  id: string;
  name: string;
  width: number;
  height: number;
  quality: string;
  projection: Projection['kind'];
  format: string;
  /** What the state that it shows is called: a kept condition, an option. */
  condition: string | null;
  option: string | null;
  /** Of each picture, at most. */
  samples: number;
  /** The target that they go to instead. */
  noise: number | null;
  /** Pictures: of a walk more than one. */
  frames: number;
  seed: number;
  denoise: boolean;
  state: JobState;
  /** 0 to 1. */
  progress: number;
  /** Seconds, as far as can be told. */
  secondsLeft: number | null;
  createdAt: string;
  finishedAt: string | null;
  fault: string | null;
  /** Not before then. */
  startAt: string | null;
  /** Those that wait come in this order, the smallest first. */
  position: number;
  starred: boolean;
  note: string;
  /** Pictures that are handed over together, and its name among them. */
  delivery: string | null;
  fileName: string | null;
  /** What can be fetched of it. */
  files: PrintFile[];
  camera: Camera;
}

/** Files of a print by their names in its address. */
export type PrintFile = 'picture' | 'thumb.png' | 'pictures.zip' | 'moving.webp' | 'film';

export interface DeliverySummary {
  id: string;
  name: string;
  createdAt: string;
  /** Where its pictures lie once all are there. */
  folder: string | null;
  /** Of a tour: its points by name, and which are linked, by number. */
  tour: { points: string[]; links: [number, number][] } | null;
}

/** Prints, and what is to be known before one is ordered. */
export interface PrintsNow {
  prints: PrintSummary[];
  deliveries: DeliverySummary[];
  /** Nothing is begun for now. */
  paused: boolean;
  /** What this computer has done of late. */
  samplesPerSecond: number;
  /** Films are made on the server; else by the browser. */
  makesFilms: boolean;
}

export type ToPage =
  | { type: 'project'; name: string; linkToken: string; watchFolders: string[]; entries: [string, unknown][]; history: HistoryRow[] }
  | { type: 'sources'; sources: SourceSummary[] }
  | { type: 'model'; source: string; revision: number; change: ModelChange }
  | { type: 'model-gone'; source: string }
  | { type: 'changes'; changes: EntryChange[]; history: HistoryRow[]; reply: string }
  | { type: 'refused'; reply: string; message: string }
  | ({ type: 'prints' } & PrintsNow);
