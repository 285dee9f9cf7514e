import { Injectable, type OnDestroy } from '@angular/core';
import { BehaviorSubject, Subject } from 'rxjs';
import { applyChange, EMPTY_MODEL, type Model } from '../../../core/model/model';
import { seenBy } from '../../../core/project/merging';
import type { FromPage, HistoryRow, PrintsNow, SourceSummary, ToPage } from '../../../core/project/live';
import { effectOf, type Command } from '../../../core/project/command';
import { applyChanges, type Entries } from '../../../core/project/project';

export interface ProjectInfo {
  name: string;
  linkToken: string;
  watchFolders: readonly string[];
}

const RETRY_MS = 1000;

/**
 * The page's end of the live connection. Commands show at once and are confirmed or taken back by the server; what other
 * pages and authors do arrives here too.
 */
@Injectable({ providedIn: 'root' })
export class Live implements OnDestroy {
  readonly project$ = new BehaviorSubject<ProjectInfo | undefined>(undefined);
  readonly connected$ = new BehaviorSubject(false);
  /** As the server knows them, with the page's own unconfirmed commands on top. */
  readonly entries$ = new BehaviorSubject<Entries>(new Map());
  /** The same before this page's last step. */
  readonly before$ = new BehaviorSubject<Entries | undefined>(undefined);
  readonly models$ = new BehaviorSubject<ReadonlyMap<string, Model>>(new Map());
  readonly sources$ = new BehaviorSubject<readonly SourceSummary[]>([]);
  readonly prints$ = new BehaviorSubject<PrintsNow>({ prints: [], deliveries: [], paused: false, samplesPerSecond: 1, makesFilms: false });
  readonly history$ = new BehaviorSubject<readonly HistoryRow[]>([]);
  /** Sentences about what could not be done. */
  readonly refusals$ = new Subject<string>();

  private socket: WebSocket | undefined;
  private confirmed: Entries = new Map();
  private pending: { id: string; command: Command }[] = [];
  private number = 0;
  /** Replies are told to all pages: ids of one page are no other's. */
  private readonly page = [...crypto.getRandomValues(new Uint32Array(2))].map((n) => n.toString(36)).join('');
  private closed = false;

  constructor() {
    this.connect();
  }

  ngOnDestroy(): void {
    this.closed = true;
    this.socket?.close();
  }

  run(command: Command): void {
    const id = this.nextId();
    if (!this.send({ type: 'command', id, command, seen: seenBy(this.entries$.value, command) })) return;
    this.before$.next(this.entries$.value);
    this.pending.push({ id, command });
    this.showEntries();
  }

  undo(): void {
    this.step('undo');
  }

  redo(): void {
    this.step('redo');
  }

  private step(type: 'undo' | 'redo'): void {
    if (this.send({ type, id: this.nextId() })) this.before$.next(this.entries$.value);
  }

  actOnSource(source: string, action: 'hold' | 'resume' | 'stop' | 'start' | 'remove'): void {
    this.send({ type: 'source', id: this.nextId(), source, action });
  }

  private nextId(): string {
    return `${this.page}-${String(++this.number)}`;
  }

  /** Light and exposure of a print, and what of the models it shows, are shown again. */
  showPrint(print: string): void {
    this.send({ type: 'show-print', id: this.nextId(), print });
  }

  /** The working picture moves, for which prints make room. */
  tellAtWork(): void {
    if (this.connected$.value) this.send({ type: 'at-work', id: this.nextId() });
  }

  private send(message: FromPage): boolean {
    if (this.socket?.readyState !== WebSocket.OPEN) {
      this.refusals$.next('The server is out of reach; the change was not made. The page connects again by itself.');
      return false;
    }
    this.socket.send(JSON.stringify(message));
    return true;
  }

  private connect(): void {
    const socket = new WebSocket(`${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}/live`);
    this.socket = socket;
    socket.onmessage = ({ data }: MessageEvent<string>) => {
      this.hear(JSON.parse(data) as ToPage);
    };
    socket.onclose = () => {
      this.connected$.next(false);
      if (this.pending.length > 0 && !this.closed)
        this.refusals$.next(
          'The connection was lost before the last change was confirmed. Look whether it was made when the page is connected again.',
        );
      this.pending = [];
      if (!this.closed) setTimeout(() => { this.connect(); void leaveIfSignedOut(); }, RETRY_MS); // prettier-ignore
    };
  }

  private hear(message: ToPage): void {
    switch (message.type) {
      case 'project':
        this.confirmed = new Map(message.entries);
        this.models$.next(new Map());
        this.project$.next({ name: message.name, linkToken: message.linkToken, watchFolders: message.watchFolders });
        this.history$.next(message.history);
        this.showEntries();
        this.connected$.next(true);
        break;
      case 'sources':
        this.sources$.next(message.sources);
        break;
      case 'model': {
        const models = new Map(this.models$.value);
        models.set(message.source, applyChange(models.get(message.source) ?? EMPTY_MODEL, message.change));
        this.models$.next(models);
        break;
      }
      case 'model-gone': {
        const models = new Map(this.models$.value);
        models.delete(message.source);
        this.models$.next(models);
        break;
      }
      case 'changes':
        this.confirmed = applyChanges(this.confirmed, message.changes);
        this.settle(message.reply);
        this.history$.next(message.history);
        break;
      case 'refused':
        this.settle(message.reply);
        this.refusals$.next(message.message);
        break;
      case 'prints':
        this.prints$.next(message);
        break;
    }
  }

  private settle(reply: string): void {
    this.pending = this.pending.filter(({ id }) => id !== reply);
    this.showEntries();
  }

  private showEntries(): void {
    let entries = this.confirmed;
    for (const { command } of this.pending) {
      const effect = effectOf(entries, command, new Date().toISOString());
      if (!('refused' in effect)) entries = applyChanges(entries, effect.changes);
    }
    // What the server confirms is mostly what is shown already; then nothing is made anew.
    if (!sameEntries(entries, this.entries$.value)) this.entries$.next(entries);
  }
}

function sameEntries(a: Entries, b: Entries): boolean {
  if (a.size !== b.size) return false;
  for (const [key, value] of a) {
    const other = b.get(key);
    if (value !== other && JSON.stringify(value) !== JSON.stringify(other)) return false;
  }
  return true;
}

/** A session that has ended keeps the connection from coming back. */
async function leaveIfSignedOut(): Promise<void> {
  const answer = await fetch('/api/previews').catch(() => undefined);
  if (answer?.status === 401) location.assign('/sign-in');
}
