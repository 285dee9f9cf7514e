import type { Generated } from 'kysely';

/** Decisions and prints. Times are ISO 8601 in UTC; JSON is text. */
export interface ProjectTables {
  setting: { key: string; value: string };
  entry: { key: string; value: string };
  history: { id: Generated<number>; at: string; label: string; changes: string; undone: number };
  print: {
    id: string;
    spec: string;
    state: string;
    samples_done: number;
    created_at: string;
    finished_at: string | null;
    fault: string | null;
  };
}

/** Linked models. */
export interface SourceTables {
  source: {
    id: string;
    kind: 'link' | 'file';
    name: string;
    tool: string;
    stopped: number;
    held: number;
    /** Watched file, if any. */
    path: string | null;
    revision: number;
    sequence: number;
    changed_at: string | null;
    /** Blob of what the file says of its elements, JSON by id; null: nothing. */
    properties: string | null;
  };
  /** A change as it arrived (deflated JSON); `held` ones are acknowledged but not yet applied. */
  revision: {
    source: string;
    revision: number;
    at: string;
    held: number;
    snapshot: number;
    change: Buffer;
    /** Elements; null in rows of before they were counted. */
    added: number | null;
    changed: number | null;
    removed: number | null;
  };
}
