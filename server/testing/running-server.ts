import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync, symlinkSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { WebSocket } from 'ws';
import type { FromPage, ToPage } from '../../core/project/live';
import type { ToAuthor } from '../../core/model/protocol';

/** The built server as a process of its own, for tests that restart or kill it. */

/** Tests and benches run from the repository's root. */
const DIST = path.resolve('dist');
/** Previews that one test server has made are there for the next; they are named by what they show. */
const PREVIEWS = path.resolve('node_modules/.cache/diaphane-previews');

export interface RunningServer {
  url: string;
  token: string;
  data: string;
  pid: number;
  kill(signal: NodeJS.Signals): Promise<void>;
}

export function temporaryFolder(): string {
  return mkdtempSync(path.join(tmpdir(), 'diaphane-'));
}

/** With the library that a server over it has. */
export function removeFolder(folder: string): void {
  for (const place of [folder, `${folder}-library`]) rmSync(place, { recursive: true, force: true });
}

/** First line that a child prints, as JSON. */
export function firstJson<T>(child: ChildProcess): Promise<T> {
  return new Promise((resolve, reject) => {
    let text = '';
    child.stdout!.on('data', (data: Buffer) => {
      text += data.toString();
      const end = text.indexOf('\n');
      if (end >= 0) resolve(JSON.parse(text.slice(0, end)) as T);
    });
    child.once('exit', (code) => {
      reject(new Error(`ended with ${String(code)} before it was ready`));
    });
  });
}

/** How a child is started that ends with the test, however that ends. */
export const withMe = (): { stdio: ['pipe', 'pipe', 'inherit']; env: NodeJS.ProcessEnv } => ({
  stdio: ['pipe', 'pipe', 'inherit'],
  env: { ...process.env, DIAPHANE_END_WITH_INPUT: '1' },
});

function sharePreviews(library: string): void {
  mkdirSync(PREVIEWS, { recursive: true });
  mkdirSync(library, { recursive: true });
  const here = path.join(library, 'previews');
  if (!existsSync(here)) symlinkSync(PREVIEWS, here);
}

export async function startServer(data: string, ...extra: string[]): Promise<RunningServer> {
  sharePreviews(`${data}-library`);
  const child = spawn(
    'node',
    [
      path.join(DIST, 'server.mjs'),
      '--port',
      '0',
      '--data',
      data,
      '--name',
      'Test',
      '--library',
      `${data}-library`,
      '--no-previews',
      ...extra,
    ],
    withMe(),
  );
  const { listening, token } = await firstJson<{ listening: string; token: string }>(child);
  return {
    url: listening,
    token,
    data,
    pid: child.pid!,
    kill: (signal) =>
      new Promise((resolve) => {
        if (child.exitCode !== null || child.signalCode !== null) resolve();
        child.once('exit', () => {
          resolve();
        });
        child.kill(signal);
      }),
  };
}

/** A WebSocket whose messages can be waited for; messages that came before are found too. */
export class Peer<In extends { type: string }> {
  readonly received: In[] = [];
  private readonly waiters = new Set<() => void>();
  closed = false;

  private constructor(readonly socket: WebSocket) {
    socket.on('message', (data: Buffer) => {
      this.received.push(JSON.parse(data.toString()) as In);
      for (const check of this.waiters) check();
    });
    socket.on('close', () => {
      this.closed = true;
      for (const check of this.waiters) check();
    });
  }

  static async open<In extends { type: string }>(url: string, headers: Record<string, string> = {}): Promise<Peer<In>> {
    const socket = new WebSocket(url.replace(/^http/, 'ws'), { headers });
    const peer = new Peer<In>(socket);
    await new Promise<void>((resolve, reject) => {
      socket.once('open', () => {
        resolve();
      });
      socket.once('error', reject);
    });
    return peer;
  }

  send(message: unknown): void {
    this.socket.send(typeof message === 'string' ? message : JSON.stringify(message));
  }

  /** The first message, from `from` on, that satisfies a test. */
  next<T extends In['type']>(
    type: T,
    test: (message: Extract<In, { type: T }>) => boolean = () => true,
    from = 0,
  ): Promise<Extract<In, { type: T }>> {
    const find = () =>
      this.received.slice(from).find((m): m is Extract<In, { type: T }> => m.type === type && test(m as Extract<In, { type: T }>));
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => {
        this.waiters.delete(check);
        reject(new Error(`no ${type} came; last was ${JSON.stringify(this.received.at(-1) ?? null).slice(0, 300)}`));
      }, 400_000);
      const check = () => {
        const found = find();
        if (!found) return;
        this.waiters.delete(check);
        clearTimeout(timer);
        resolve(found);
      };
      this.waiters.add(check);
      check();
    });
  }

  close(): void {
    this.socket.close();
  }
}

export const openPage = (server: RunningServer) => Peer.open<ToPage>(`${server.url}/live`);
export const openAuthor = (server: RunningServer) => Peer.open<ToAuthor>(`${server.url}/link`);
export const say = (page: Peer<ToPage>, message: FromPage) => {
  page.send(message);
};
