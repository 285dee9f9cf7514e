import { createHash } from 'node:crypto';
import { EventEmitter } from 'node:events';
import { deflateRawSync } from 'node:zlib';
import { WebSocket } from 'ws';
import { blobsOf, countChange, differenceOf, EMPTY_MODEL, snapshotOf, type Model } from '../core/model/model';
import { CODING_DEFLATE, LINK_VERSION, type ToAuthor } from '../core/model/protocol';
import type { ModelChange } from '../core/model/schema';

/** How the author side stands. */
export type LinkStatus = 'connecting' | 'linked' | 'stopped' | 'refused' | 'off';

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
  private inFlight: { model: Model; sequence: number; change: ModelChange } | undefined;
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
        this.credit = message.windowBytes;
        // The same sequence on both sides means that the other side has exactly what we last knew acknowledged.
        this.fresh = this.acknowledgedSequence === 0 || message.sequence !== this.acknowledgedSequence;
        this.acknowledgedSequence = message.sequence;
        if (this.fresh) this.acknowledged = EMPTY_MODEL;
        this.setStatus('linked', '');
        this.advance();
        break;
      case 'need':
        void this.sendBlobsAndChange(message.blobs);
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
        else if (message.code === 'out-of-order') this.socket?.close();
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
    this.inFlight = { model: this.wanted, sequence: this.acknowledgedSequence + 1, change };
    const known = this.fresh ? new Set<string>() : blobsOf(snapshotOf(this.acknowledged));
    const blobs = [...blobsOf(change)].filter((hash) => !known.has(hash));
    if (blobs.length > 0) this.say({ type: 'offer', blobs });
    else void this.sendBlobsAndChange([]);
  }

  private async sendBlobsAndChange(hashes: readonly string[]): Promise<void> {
    const flight = this.inFlight;
    const socket = this.socket;
    for (const hash of hashes) {
      const bytes = this.options.blob(hash);
      if (!bytes) continue;
      const body = deflateRawSync(bytes, { level: 3 });
      const frame = Buffer.concat([Buffer.from(hash, 'hex'), Buffer.from([CODING_DEFLATE]), body]);
      while (this.credit < frame.byteLength && this.socket === socket && socket?.readyState === WebSocket.OPEN)
        await new Promise<void>((resolve) => this.creditWaiters.push(resolve));
      if (this.socket !== socket || socket?.readyState !== WebSocket.OPEN) return;
      this.credit -= frame.byteLength;
      socket.send(frame);
    }
    if (flight && this.inFlight === flight)
      this.say({ type: 'change', sequence: flight.sequence, last: true, change: stripped(flight.change) });
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

/** Elements without what only the tool itself keeps about them. */
function stripped(change: ModelChange): ModelChange {
  return {
    ...change,
    elements: change.elements.map(({ id, name, class: className, storey, layer, option, phase, transform, parts }) => ({
      id,
      name,
      class: className,
      storey,
      layer,
      option,
      phase,
      transform,
      parts,
    })),
  };
}

export const sha256Hex = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
