import { createHash } from 'node:crypto';
import { EventEmitter } from 'node:events';
import { deflateRawSync } from 'node:zlib';
import { WebSocket } from 'ws';
import { blobsOf, countChange, differenceOf, EMPTY_MODEL, snapshotOf, type Model } from '../core/model/model';
import { partsOf } from '../core/model/change-parts';
import { CODING_DEFLATE, LINK_VERSION, MAX_BLOB_BYTES, MAX_OFFER, type ToAuthor } from '../core/model/protocol';
import { elementSchema, type ModelChange, type ModelElement } from '../core/model/schema';

/** JSON of a part of a change. */
const PART_BYTES = 16 * 1024 * 1024;

/** How the author side stands. */
export type LinkStatus = 'connecting' | 'linked' | 'stopped' | 'refused' | 'removed' | 'off';

export interface LinkClientOptions {
  /** For example http://127.0.0.1:4600. */
  server: string;
  token: string;
  sourceId: string;
  sourceName: string;
  /** Name of the tool that the source comes from. */
  tool: string;
  /** Bytes of a blob by its hash. */
  blob: (hash: string) => Uint8Array | undefined;
  retryMs?: number;
}

/**
 * The author's end of the link: sends the model once, then only what changed, one change in flight at a time, and takes
 * up again by itself after a lost connection. Nothing of Diaphane but the public protocol is used.
 */
export class LinkClient extends EventEmitter<{
  status: [LinkStatus, string];
  acknowledged: [number];
  follow: [{ camera: boolean; time: boolean }];
}> {
  private socket: WebSocket | undefined;
  private timer: NodeJS.Timeout | undefined;
  private wanted: Model | undefined;
  private acknowledged: Model = EMPTY_MODEL;
  private acknowledgedSequence = 0;
  /** The change that is on its way. */
  private inFlight: { model: Model; sequence: number; change: ModelChange; toOffer: string[]; needed: string[] } | undefined;
  private windowBytes = 0;
  private credit = 0;
  private readonly creditWaiters: (() => void)[] = [];
  private fresh = true;
  private running = false;
  status: LinkStatus = 'off';

  constructor(private readonly options: LinkClientOptions) {
    super();
  }

  start(): void {
    this.running = true;
    this.connect();
  }

  stop(): void {
    this.running = false;
    clearTimeout(this.timer);
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify({ type: 'bye' }));
    this.socket?.close();
    this.setStatus('off', '');
  }

  /** Nothing is on its way: the other side has what it was brought to last. */
  get isInStep(): boolean {
    return this.inFlight === undefined;
  }

  /** The state to bring the other side to; states in between may be skipped. */
  update(model: Model): void {
    this.wanted = model;
    this.advance();
  }

  private connect(): void {
    if (!this.running) return;
    this.setStatus('connecting', '');
    const url = `${this.options.server.replace(/^http/, 'ws')}/link`;
    const socket = new WebSocket(url, { perMessageDeflate: false });
    this.socket = socket;
    socket.on('open', () => {
      const { sourceId: id, sourceName: name, token, tool } = this.options;
      this.say({
        type: 'hello',
        protocol: LINK_VERSION,
        token,
        source: { id, name, tool },
        resume: this.acknowledgedSequence || null,
      });
    });
    socket.on('message', (data: Buffer) => {
      this.hear(JSON.parse(data.toString('utf8')) as ToAuthor);
    });
    socket.on('close', () => {
      this.inFlight = undefined;
      this.releaseCredit();
      if (this.status === 'linked' || this.status === 'connecting') this.setStatus('connecting', 'Out of reach; trying again.');
      if (this.running) this.timer = setTimeout(() => { this.connect(); }, this.options.retryMs ?? 1000); // prettier-ignore
    });
    socket.on('error', () => undefined);
  }

  private hear(message: ToAuthor): void {
    switch (message.type) {
      case 'welcome':
        this.credit = this.windowBytes = message.windowBytes;
        // The same sequence on both sides means that the other side has exactly what we last knew acknowledged.
        this.fresh = this.acknowledgedSequence === 0 || message.sequence !== this.acknowledgedSequence;
        this.acknowledgedSequence = message.sequence;
        if (this.fresh) this.acknowledged = EMPTY_MODEL;
        this.setStatus('linked', '');
        this.advance();
        break;
      case 'need':
        this.inFlight?.needed.push(...message.blobs);
        this.offerMore();
        break;
      case 'credit':
        this.credit += message.bytes;
        this.releaseCredit();
        break;
      case 'ack':
        if (this.inFlight?.sequence !== message.sequence) break;
        this.acknowledged = this.inFlight.model;
        this.acknowledgedSequence = message.sequence;
        this.inFlight = undefined;
        this.fresh = false;
        this.emit('acknowledged', message.revision);
        this.advance();
        break;
      case 'refused':
        this.inFlight = undefined;
        if (message.code === 'stopped') this.setStatus('stopped', message.message);
        else if (message.code === 'removed') {
          this.running = false;
          this.setStatus('removed', message.message);
        } else if (message.code === 'out-of-order') this.socket?.close();
        else this.setStatus('refused', message.message);
        break;
      case 'follow':
        this.emit('follow', { camera: message.camera, time: message.time });
        break;
      case 'state':
        if (message.state !== 'stopped' && this.status === 'stopped') {
          this.setStatus('linked', '');
          this.advance();
        }
        break;
    }
  }

  private advance(): void {
    if (this.status !== 'linked' || this.inFlight || !this.wanted) return;
    const change = this.fresh ? snapshotOf(this.wanted) : differenceOf(this.acknowledged, this.wanted);
    if (countChange(change) === 0) return;
    const known = this.fresh ? new Set<string>() : blobsOf(snapshotOf(this.acknowledged));
    const toOffer = [...blobsOf(change)].filter((hash) => !known.has(hash));
    this.inFlight = { model: this.wanted, sequence: this.acknowledgedSequence + 1, change, toOffer, needed: [] };
    this.offerMore();
  }

  /** Offers blobs, as many as a message may name; when all are offered, those that are needed go, and the change. */
  private offerMore(): void {
    const flight = this.inFlight;
    if (!flight) return;
    if (flight.toOffer.length > 0) this.say({ type: 'offer', blobs: flight.toOffer.splice(0, MAX_OFFER) });
    else void this.sendBlobsAndChange(flight.needed);
  }

  private async sendBlobsAndChange(hashes: readonly string[]): Promise<void> {
    const flight = this.inFlight;
    const socket = this.socket;
    for (const hash of hashes) {
      const bytes = this.options.blob(hash);
      if (!bytes) continue;
      if (bytes.byteLength > MAX_BLOB_BYTES) {
        this.inFlight = undefined;
        this.setStatus('refused', `A mesh or picture of ${String(Math.ceil(bytes.byteLength / 1e6))} MB is larger than the link takes (${String(Math.floor(MAX_BLOB_BYTES / 1e6))} MB); split what it belongs to.`); // prettier-ignore
        return;
      }
      const body = deflateRawSync(bytes, { level: 3 });
      const frame = Buffer.concat([Buffer.from(hash, 'hex'), Buffer.from([CODING_DEFLATE]), body]);
      // One that is larger than the window goes when nothing else is under way.
      const needed = Math.min(frame.byteLength, this.windowBytes);
      while (this.credit < needed && this.socket === socket && socket?.readyState === WebSocket.OPEN)
        await new Promise<void>((resolve) => this.creditWaiters.push(resolve));
      if (this.socket !== socket || socket?.readyState !== WebSocket.OPEN) return;
      this.credit -= frame.byteLength;
      socket.send(frame);
    }
    if (!flight || this.inFlight !== flight) return;
    const parts = partsOf(stripped(flight.change), PART_BYTES);
    for (const [i, change] of parts.entries())
      this.say({ type: 'change', sequence: flight.sequence, last: i === parts.length - 1, change });
  }

  private releaseCredit(): void {
    for (const resolve of this.creditWaiters.splice(0)) resolve();
  }

  private say(message: unknown): void {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message));
  }

  private setStatus(status: LinkStatus, message: string): void {
    this.status = status;
    this.emit('status', status, message);
  }
}

const ELEMENT_FIELDS = Object.keys(elementSchema.entries) as (keyof ModelElement)[];

/** Elements without what only the tool itself keeps about them. */
function stripped(change: ModelChange): ModelChange {
  const told = (element: ModelElement) =>
    Object.fromEntries(ELEMENT_FIELDS.filter((field) => element[field] !== undefined).map((field) => [field, element[field]])) as unknown as ModelElement; // prettier-ignore
  return { ...change, elements: change.elements.map(told) };
}

export const sha256Hex = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
