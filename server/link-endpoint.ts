import { DISK_FULL, isDiskFull } from './disk-full';
import { createHash, timingSafeEqual } from 'node:crypto';
import { inflateRaw } from 'node:zlib';
import { promisify } from 'node:util';
import * as v from 'valibot';
import type { WebSocket } from 'ws';
import { decodeMesh } from '../core/geometry/mesh';
import { joinParts } from '../core/model/change-parts';
import { blobsOf, findDangling } from '../core/model/model';
import {
  BLOB_HEADER,
  CODING_DEFLATE,
  CODING_PLAIN,
  firstComplaint,
  fromAuthorSchema,
  LINK_VERSION,
  MAX_BLOB_BYTES,
  MAX_CHANGE_BYTES,
  MAX_TEXT_BYTES,
  type FromAuthor,
  type LinkErrorCode,
  type ToAuthor,
  type SourceState,
} from '../core/model/protocol';
import type { ModelChange } from '../core/model/schema';
import { entry } from '../core/project/project';
import type { BlobStore } from './blobs';
import type { ProjectStore } from './project-store';
import { isShowable } from '../core/formats/model-builder';
import { serially } from '../core/serially';
import type { SourceStore } from './source-store';

const inflate = promisify(inflateRaw);
/** Blob bytes an author may send before it has credit for more. */
const WINDOW_BYTES = 16 * 1024 * 1024;

export interface LinkContext {
  blobs: BlobStore;
  sources: SourceStore;
  project: ProjectStore;
  token: string;
}

/** Source ids that an author is connected for. */
const taken = new Set<string>();

const REPLACED = 'A file has taken the place of this source in the project; remove it there to link again.';

/** One author's connection: greets, takes blobs and changes, answers each with what came of it. */
export function serveAuthor(socket: WebSocket, context: LinkContext): void {
  const inOrder = serially();
  let source: string | undefined;
  let parts: ModelChange[] = [];
  let partsBytes = 0;
  let partsSequence = 0;
  /** A part was refused: those that follow up to the last one belong to it, and would be half a change. */
  let isBroken = false;
  /** Bytes of blobs that have come and are not yet credited. */
  let outstanding = 0;
  let welcomed = false;
  let toldState: SourceState | undefined;
  const send = (message: ToAuthor) => {
    if (socket.readyState === socket.OPEN) socket.send(JSON.stringify(message));
  };
  const refuse = (code: LinkErrorCode, message: string, field: string | null = null, sequence: number | null = null) => {
    send({ type: 'refused', sequence, code, field, message });
  };

  const greet = async (hello: Extract<FromAuthor, { type: 'hello' }>) => {
    if (hello.protocol !== LINK_VERSION) {
      refuse('unsupported-version', `This server speaks version ${String(LINK_VERSION)} of the link protocol.`, 'protocol');
      socket.close(1002);
      return;
    }
    if (!sameText(hello.token, context.token)) {
      refuse('bad-token', 'The token is not the one shown in this project’s Source station.', 'token');
      socket.close(1008);
      return;
    }
    if (taken.has(hello.source.id)) {
      refuse('source-busy', 'Another author is connected for this source.', 'source.id');
      socket.close(1013);
      return;
    }
    if (context.sources.get(hello.source.id)?.kind === 'file') {
      refuse('replaced', REPLACED, 'source.id');
      socket.close(1008);
      return;
    }
    taken.add(hello.source.id);
    source = hello.source.id;
    await context.sources.register(source, 'link', hello.source.name, hello.source.tool);
    context.sources.setConnected(source, true);
    const known = context.sources.get(source)!;
    welcomed = true;
    send({ type: 'welcome', protocol: LINK_VERSION, revision: known.revision, sequence: known.sequence, windowBytes: WINDOW_BYTES });
    send({ type: 'follow', ...(entry(context.project.entries, 'follow') ?? { camera: false, time: false }) });
    tellState();
  };

  const tellState = () => {
    const state = context.sources.summaries().find((s) => s.id === source)?.state;
    if (state === undefined || state === toldState) return;
    toldState = state;
    send({ type: 'state', state });
  };

  /** Refuses a part, and with it all of its change. */
  const refusePart = (last: boolean, ...refusal: Parameters<typeof refuse>) => {
    forgetParts();
    isBroken = !last;
    refuse(...refusal);
  };

  const forgetParts = () => {
    parts = [];
    partsBytes = 0;
  };

  const takeChange = async (message: Extract<FromAuthor, { type: 'change' }>, bytes: number) => {
    const { last, sequence } = message;
    if (isBroken) {
      isBroken = !last;
      return;
    }
    const known = context.sources.get(source!);
    if (!known || known.stopped) {
      refusePart(last, 'stopped', 'The person has stopped this source.', null, sequence);
      return;
    }
    if (known.kind === 'file') {
      refusePart(last, 'replaced', REPLACED, null, sequence);
      return;
    }
    const resets = parts[0]?.reset ?? message.change.reset;
    if (sequence !== known.sequence + 1 && !(resets && sequence > known.sequence)) {
      refusePart(last, 'out-of-order', `Expected sequence ${String(known.sequence + 1)}.`, 'sequence', sequence);
      return;
    }
    if (partsSequence !== sequence) forgetParts();
    partsSequence = sequence;
    partsBytes += bytes;
    if (partsBytes > MAX_CHANGE_BYTES) {
      refusePart(last, 'too-large', `The parts of this change come to more than ${String(MAX_CHANGE_BYTES / 1024 ** 2)} MiB.`, null, sequence); // prettier-ignore
      return;
    }
    parts.push(message.change);
    if (!last) return;
    const change = joinParts(parts);
    forgetParts();
    const dangling = findDangling(known.ahead, change);
    if (dangling) {
      refuse('invalid-message', dangling.message, dangling.field, message.sequence);
      return;
    }
    const missing = await context.blobs.missing(blobsOf(change));
    if (missing.length > 0) {
      refuse(
        'missing-blob',
        `${String(missing.length)} blobs were named but not sent, first ${missing[0]!}.`,
        'change.elements',
        message.sequence,
      );
      return;
    }
    const { revision, held } = await context.sources.commit(source!, change, message.sequence);
    send({ type: 'ack', sequence: message.sequence, revision, held });
  };

  const takeText = async (text: string) => {
    let parsed: unknown;
    try {
      parsed = JSON.parse(text);
    } catch {
      refuse('invalid-message', 'The message is not JSON.');
      return;
    }
    const result = v.safeParse(fromAuthorSchema, parsed);
    if (!result.success) {
      const { field, message } = firstComplaint(result.issues);
      const { type, sequence, last } = (parsed ?? {}) as Record<string, unknown>;
      const refusal = ['invalid-message', `${field}: ${message}`, field, typeof sequence === 'number' ? sequence : null] as const;
      if (type === 'change') refusePart(last !== false, ...refusal);
      else refuse(...refusal);
      return;
    }
    const message = result.output;
    if (message.type === 'hello' && source === undefined) await greet(message);
    else if (source === undefined) refuse('not-greeted', 'Say hello first.');
    else if (message.type === 'offer') send({ type: 'need', blobs: await context.blobs.missing(new Set(message.blobs)) });
    else if (message.type === 'change') await takeChange(message, text.length);
    else if (message.type === 'bye') socket.close(1000);
    else refuse('invalid-message', 'This connection has already been greeted.', 'type');
  };

  const takeBlob = async (frame: Buffer) => {
    if (source === undefined) {
      refuse('not-greeted', 'Say hello first.');
      return;
    }
    const bytes = await readBlob(frame);
    if (typeof bytes === 'string') refuse(bytes === 'The blob is too large.' ? 'too-large' : 'blob-mismatch', bytes);
    else await context.blobs.put(bytes);
    send({ type: 'credit', bytes: frame.byteLength });
  };

  const unsubscribe = context.sources.subscribe((event) => {
    if (event.type === 'summaries' && welcomed) tellState();
    if (event.type !== 'removed' || event.source !== source) return;
    refuse('removed', 'The person has removed this source from the project.');
    socket.close(1000);
  });
  socket.on('message', (data: Buffer, binary: boolean) => {
    if (binary) {
      // A blob larger than the window may come when nothing else is under way.
      if (outstanding > 0 && outstanding + data.byteLength > WINDOW_BYTES) {
        refuse('too-large', `More than ${String(WINDOW_BYTES)} bytes of blobs were sent before there was credit for them.`);
        socket.close(1008);
        return;
      }
      outstanding += data.byteLength;
    } else if (data.byteLength > MAX_TEXT_BYTES) {
      refuse('too-large', `A text frame holds at most ${String(MAX_TEXT_BYTES / 1024 ** 2)} MiB; send the change in parts.`);
      socket.close(1009);
      return;
    }
    void inOrder(() => (binary ? takeBlob(data) : takeText(data.toString('utf8'))))
      .catch((error: unknown) => {
        console.error('link:', error);
        refuse('server-fault', isDiskFull(error) ? DISK_FULL : 'The server could not keep this message; send it again.');
      })
      .finally(() => {
        if (binary) outstanding -= data.byteLength;
      });
  });
  socket.on('close', () => {
    unsubscribe();
    if (source === undefined) return;
    taken.delete(source);
    context.sources.setConnected(source, false);
  });
  socket.on('error', () => {
    socket.terminate();
  });
}

function sameText(a: string, b: string): boolean {
  const digest = (text: string) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(a), digest(b));
}

/** Checks a blob frame: its hash, and that it is a sound mesh or a picture. Returns the bytes or what is wrong. */
async function readBlob(frame: Buffer): Promise<Buffer | string> {
  if (frame.byteLength <= BLOB_HEADER) return 'The blob frame is cut off.';
  const hash = frame.subarray(0, 32).toString('hex');
  const coding = frame[32]!;
  if (coding !== CODING_PLAIN && coding !== CODING_DEFLATE) return `Blob ${hash}: unknown coding ${String(coding)}.`;
  const body = frame.subarray(BLOB_HEADER);
  let bytes: Buffer;
  try {
    bytes = coding === CODING_DEFLATE ? await inflate(body, { maxOutputLength: MAX_BLOB_BYTES }) : body;
  } catch (error) {
    return (error as { code?: string }).code === 'ERR_BUFFER_TOO_LARGE' ? 'The blob is too large.' : `Blob ${hash}: cannot be unpacked.`;
  }
  if (createHash('sha256').update(bytes).digest('hex') !== hash) return `Blob ${hash}: its bytes have another hash.`;
  if (isShowable(bytes)) return bytes;
  const mesh = decodeMesh(bytes);
  return typeof mesh === 'string' ? `Blob ${hash}: ${mesh}.` : bytes;
}
