import * as v from 'valibot';
import { changeSchema, sha256 } from './schema';

/** The link protocol, version 1; docs/link-protocol.md tells it in words. JSON text frames, and binary frames for blobs. */
export const LINK_VERSION = 1;
/** Largest text frame, and largest blob frame. */
export const MAX_TEXT_BYTES = 64 * 1024 * 1024;
export const MAX_BLOB_BYTES = 256 * 1024 * 1024;
/** All parts of one change together, as text. */
export const MAX_CHANGE_BYTES = 512 * 1024 * 1024;
export const MAX_OFFER = 100_000;

const shortText = v.pipe(v.string(), v.minLength(1), v.maxLength(200));

export const fromAuthorSchema = v.variant('type', [
  v.strictObject({
    type: v.literal('hello'),
    protocol: v.pipe(v.number(), v.integer()),
    token: shortText,
    source: v.strictObject({
      id: v.pipe(shortText, v.regex(/^[\w.-]+$/, 'may hold letters, digits, dot, dash and underscore')),
      name: shortText,
      tool: shortText,
    }),
    /** Last revision this author knows to be acknowledged. */
    resume: v.optional(v.nullable(v.pipe(v.number(), v.integer(), v.minValue(0))), null),
  }),
  v.strictObject({ type: v.literal('offer'), blobs: v.pipe(v.array(sha256), v.maxLength(MAX_OFFER)) }),
  v.strictObject({
    type: v.literal('change'),
    /** The author's own number for this change; acknowledged by it. */
    sequence: v.pipe(v.number(), v.safeInteger(), v.minValue(1)),
    /** False: more parts of the same change follow; they are applied together. */
    last: v.optional(v.boolean(), true),
    change: changeSchema,
  }),
  v.strictObject({ type: v.literal('bye') }),
]);
export type FromAuthor = v.InferOutput<typeof fromAuthorSchema>;

export type LinkErrorCode =
  | 'unsupported-version'
  | 'bad-token'
  | 'not-greeted'
  | 'invalid-message'
  | 'too-large'
  | 'blob-mismatch'
  | 'missing-blob'
  | 'out-of-order'
  | 'source-busy'
  | 'replaced'
  | 'removed'
  | 'stopped'
  | 'server-fault';

export type ToAuthor =
  | { type: 'welcome'; protocol: number; revision: number; sequence: number; windowBytes: number }
  | { type: 'need'; blobs: string[] }
  | { type: 'credit'; bytes: number }
  | { type: 'ack'; sequence: number; revision: number; held: boolean }
  | { type: 'refused'; sequence: number | null; code: LinkErrorCode; field: string | null; message: string }
  | { type: 'follow'; camera: boolean; time: boolean }
  | { type: 'state'; state: SourceState };

/** `in-step`, `held` (changes wait), `stopped` (by the person) or `out-of-reach` (the author is gone). */
export type SourceState = 'in-step' | 'held' | 'stopped' | 'out-of-reach';

/** First complaint of a validation: the field's path and what is wrong with it. */
export interface Complaint {
  field: string;
  message: string;
}

export function firstComplaint(issues: readonly v.BaseIssue<unknown>[]): Complaint {
  const issue = issues[0]!;
  return { field: v.getDotPath(issue) ?? '(message)', message: issue.message };
}

/** Blob frame: 32 bytes of SHA-256, one byte coding (0 plain, 1 deflate), then the bytes. */
export const BLOB_HEADER = 33;
export const CODING_PLAIN = 0;
export const CODING_DEFLATE = 1;
