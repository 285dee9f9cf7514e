import { DISK_FULL, isDiskFull } from './disk-full';
import * as v from 'valibot';
import type { WebSocket } from 'ws';
import { fromPageSchema, type FromPage, type ToPage } from '../core/project/live';
import { firstComplaint } from '../core/model/protocol';
import { snapshotOf } from '../core/model/model';
import type { Outcome, ProjectStore } from './project-store';
import type { PrintQueue } from './prints/queue';
import { shownAgain } from './prints/spec';
import type { SourceStore } from './source-store';

export interface LiveContext {
  projectName: string;
  linkToken: string;
  /** Where files can be put to be watched. */
  watchFolders: readonly string[];
  project: ProjectStore;
  sources: SourceStore;
  prints: PrintQueue;
  /** A person has started a source again that reads a file. */
  onSourceStarted(id: string): void;
}

/** Prints leave the working picture the processor for so long after it has moved. */
const AT_WORK_MS = 700;
/** Of one message. */
const MOST_BYTES = 4 * 1024 ** 2;

/** Keeps every open page in agreement: whatever is committed is told to all of them, in the same order. */
export class LiveHub {
  private readonly pages = new Set<WebSocket>();

  constructor(private readonly context: LiveContext) {
    context.sources.subscribe((event) => {
      if (event.type === 'changed') this.broadcast({ type: 'model', source: event.source, revision: event.revision, change: event.change });
      else if (event.type === 'removed') this.broadcast({ type: 'model-gone', source: event.source });
      else this.broadcast({ type: 'sources', sources: context.sources.summaries() });
    });
    context.project.subscribe(({ changes }) => {
      void context.project.history().then((history) => {
        this.broadcast({ type: 'changes', changes, history, reply: '' });
      });
    });
    context.prints.subscribe(() => {
      void this.tellPrints();
    });
  }

  async serve(socket: WebSocket): Promise<void> {
    const { project, sources, prints } = this.context;
    const queue: Buffer[] = [];
    let greeted = false;
    socket.on('message', (data: Buffer) => {
      if (data.byteLength > MOST_BYTES) this.refuseLarge(socket, data);
      else if (greeted) void this.take(socket, data.toString('utf8'));
      else queue.push(data);
    });
    socket.on('close', () => this.pages.delete(socket));
    socket.on('error', () => {
      socket.terminate();
    });
    const [history, printsNow] = await Promise.all([project.history(), prints.now()]);
    // From here to joining the audience nothing may wait, or a change could be missed.
    this.send(socket, {
      type: 'project',
      name: this.context.projectName,
      linkToken: this.context.linkToken,
      watchFolders: [...this.context.watchFolders],
      entries: [...project.entries],
      history,
    });
    this.send(socket, { type: 'sources', sources: sources.summaries() });
    for (const { id, revision, model } of sources.models())
      this.send(socket, { type: 'model', source: id, revision, change: snapshotOf(model) });
    this.send(socket, { type: 'prints', ...printsNow });
    this.pages.add(socket);
    greeted = true;
    for (const data of queue) void this.take(socket, data.toString('utf8'));
  }

  /** Without reading it: its id stands near its beginning. */
  private refuseLarge(socket: WebSocket, data: Buffer): void {
    const reply = /"id":"([^"\\]{1,200})"/.exec(data.subarray(0, 500).toString('utf8'))?.[1] ?? '';
    const megabytes = (data.byteLength / 1024 ** 2).toFixed(0);
    this.send(socket, { type: 'refused', reply, message: `This change is too large to be kept: ${megabytes} MB, where 4 MB are taken.` });
  }

  private async take(socket: WebSocket, text: string): Promise<void> {
    let parsed: unknown;
    try {
      parsed = JSON.parse(text);
    } catch {
      this.send(socket, { type: 'refused', reply: '', message: 'The message is not JSON.' });
      return;
    }
    const result = v.safeParse(fromPageSchema, parsed);
    if (!result.success) {
      const { field, message } = firstComplaint(result.issues);
      const id = (parsed as { id?: unknown } | null)?.id;
      this.send(socket, { type: 'refused', reply: typeof id === 'string' ? id : '', message: `${field}: ${message}` });
      return;
    }
    try {
      await this.carryOut(socket, result.output);
    } catch (error) {
      console.error('live:', error);
      this.send(socket, {
        type: 'refused',
        reply: result.output.id,
        message: isDiskFull(error) ? DISK_FULL : 'The server could not keep this change; nothing was changed.',
      });
    }
  }

  private async carryOut(socket: WebSocket, message: FromPage): Promise<void> {
    const { project } = this.context;
    if (message.type === 'source') {
      await this.actOnSource(message.source, message.action);
      return;
    }
    if (message.type === 'at-work') {
      this.context.prints.hold(AT_WORK_MS);
      return;
    }
    const outcome = await this.outcomeOf(message);
    if ('refused' in outcome) this.send(socket, { type: 'refused', reply: message.id, message: outcome.refused });
    else this.broadcast({ type: 'changes', changes: outcome.changes, history: await project.history(), reply: message.id });
  }

  private async outcomeOf(message: Exclude<FromPage, { type: 'source' | 'at-work' }>): Promise<Outcome> {
    const { project, prints } = this.context;
    if (message.type === 'command') return project.run(message.command, message.seen);
    if (message.type === 'undo') return project.undo();
    if (message.type === 'redo') return project.redo();
    const known = await prints.records.find(message.print);
    const { state, order } = known ?? {};
    if (!state || !order) return { refused: 'What this print was made of is not known any more.' };
    return project.restore(`${order.name} shown as printed`, (entries) => shownAgain(entries, state));
  }

  private async actOnSource(id: string, action: 'hold' | 'resume' | 'stop' | 'start' | 'remove'): Promise<void> {
    await this.context.sources[action](id);
    if (action === 'start') this.context.onSourceStarted(id);
  }

  private async tellPrints(): Promise<void> {
    this.broadcast({ type: 'prints', ...(await this.context.prints.now()) });
  }

  private broadcast(message: ToPage): void {
    const text = JSON.stringify(message);
    for (const page of this.pages) if (page.readyState === page.OPEN) page.send(text);
  }

  private send(socket: WebSocket, message: ToPage): void {
    if (socket.readyState === socket.OPEN) socket.send(JSON.stringify(message));
  }
}
