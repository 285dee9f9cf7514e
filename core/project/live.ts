import * as v from 'valibot';
import { commandSchema } from './command';
import type { EntryChange } from './project';
import type { ElementCounts } from '../model/model';
import type { SourceState } from '../model/protocol';
import type { ModelChange } from '../model/schema';

/** What server and pages say to each other over the live connection. JSON text frames. */

const id = v.pipe(v.string(), v.minLength(1), v.maxLength(200));

export const fromPageSchema = v.variant('type', [
  v.strictObject({ type: v.literal('command'), id, command: commandSchema }),
  v.strictObject({ type: v.literal('undo'), id }),
  v.strictObject({ type: v.literal('redo'), id }),
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

export type JobState = 'waiting' | 'rendering' | 'finished' | 'cancelled' | 'failed';

export interface PrintSummary {
  id: string;
  name: string;
  width: number;
  height: number;
  quality: string;
  /** Of each picture. */
  samples: number;
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
}

export type ToPage =
  | { type: 'project'; name: string; linkToken: string; watchFolders: string[]; entries: [string, unknown][]; history: HistoryRow[] }
  | { type: 'sources'; sources: SourceSummary[] }
  | { type: 'model'; source: string; revision: number; change: ModelChange }
  | { type: 'model-gone'; source: string }
  | { type: 'changes'; changes: EntryChange[]; history: HistoryRow[]; reply: string }
  | { type: 'refused'; reply: string; message: string }
  | { type: 'prints'; prints: PrintSummary[] };
