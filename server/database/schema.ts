import type { Generated } from 'kysely';

/** Decisions and prints. Times are ISO 8601 in UTC; JSON is text. */
export interface ProjectTables {
  setting: { key: string; value: string };
  entry: { key: string; value: string };
  history: { id: Generated<number>; at: string; label: string; changes: string; undone: number; by: Generated<string> };
  print: {
    id: string;
    spec: string;
    state: string;
    samples_done: number;
    created_at: string;
    finished_at: string | null;
    fault: string | null;
    /** Not before then. */
    start_at: string | null;
    delivery: string | null;
    /** In its delivery, without ending. */
    file_name: string | null;
    note: string | null;
    /** In the queue, the smallest first. */
    position: Generated<number>;
    starred: Generated<number>;
    /** 0 to 1. */
    done: Generated<number>;
    /** Spent on it. */
    seconds: Generated<number>;
  };
  /** Files for clients; `report`: what came out, as JSON. */
  viewer: { id: string; name: string; created_at: string; state: string; fault: string | null; report: string | null };
  /** Addresses at which a viewer is shown; of token and password only hashes are kept. */
  viewer_link: {
    id: string;
    viewer: string;
    token_hash: string;
    password_hash: string | null;
    may_comment: number;
    /** Remarks of the office and of other links are shown there. */
    shows_others: Generated<number>;
    created_at: string;
    expires_at: string;
    revoked_at: string | null;
  };
  viewer_access: { id: Generated<number>; link: string; at: string; address: string; what: string };
  /** Pictures that are handed over together; the folder is where they lie once all are there. */
  /** A tour's links are those by sight until they are edited. */
  delivery: { id: string; name: string; created_at: string; folder: string | null; tour: Generated<number>; links: string | null };
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
