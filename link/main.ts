#!/usr/bin/env node
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, watch } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { applyChange, EMPTY_MODEL, snapshotOf, type Model } from '../core/model/model';
import { isModelName } from '../files/model-names';
import { ReadingThread } from '../files/reading-thread';
import { watchFile } from '../files/watch-file';
import { serially } from '../core/serially';
import { LinkClient } from './link-client';

/** diaphane link FILE|FOLDER --to URL --token T: links files from another computer, and keeps them in step as they change. */

const USAGE = 'Usage: diaphane link FILE|FOLDER --to http://ADDRESS:PORT --token TOKEN [--once]';

function fail(sentence: string): never {
  console.error(sentence);
  process.exit(1);
}

function argumentsOf() {
  try {
    return parseArgs({
      allowPositionals: true,
      options: { to: { type: 'string' }, token: { type: 'string' }, once: { type: 'boolean', default: false } },
    });
  } catch {
    return fail(USAGE);
  }
}

const { values, positionals } = argumentsOf();
const [verb, place] = positionals;
if (verb !== 'link' || !place || !values.to || !values.token) fail(USAGE);
if (!/^https?:\/\//.test(values.to)) fail(`${values.to} is no address; it begins with http:// or https://.`);
if (!existsSync(place)) fail(`${place} is not there.`);
const root = path.resolve(place);
const isFolder = statSync(root).isDirectory();
const { to, token, once } = { to: values.to, token: values.token, once: values.once };

/** Where the build puts it, beside this program. */
const reading = new ReadingThread(fileURLToPath(new URL('file-worker.mjs', import.meta.url)));

/** One file as one source. */
class LinkedFile {
  private readonly blobs = new Map<string, Uint8Array>();
  private readonly client: LinkClient;
  private readonly inOrder = serially();
  private model: Model | undefined;
  private readonly name: string;

  constructor(
    private readonly file: string,
    private readonly done: () => void,
  ) {
    this.name = path.basename(file);
    this.client = new LinkClient({
      server: to,
      token,
      sourceId: `cli-${createHash('sha256').update(file).digest('hex').slice(0, 16)}`,
      sourceName: this.name,
      tool: 'diaphane link',
      blob: (hash) => this.blobs.get(hash),
    });
    this.client.on('status', (status, message) => {
      if (status === 'refused') fail(`${this.name} was refused: ${message}`);
      if (status === 'removed') fail(`${this.name}: ${message}`);
      if (message) this.say(message);
    });
    this.client.on('acknowledged', (revision) => {
      this.say(`in step, revision ${String(revision)}`);
      this.done();
    });
  }

  async start(): Promise<void> {
    // Watched first: what is still being written is read again when it rests.
    if (!once) watchFile(this.file, () => void this.inOrder(() => this.read()));
    await this.inOrder(() => this.read());
    this.client.start();
  }

  stop(): void {
    this.client.stop();
  }

  private async read(): Promise<void> {
    try {
      const bytes = readFileSync(this.file);
      const keep = (hash: string, blob: Uint8Array) => this.blobs.set(hash, blob);
      const before = this.model ? snapshotOf(this.model) : null;
      const answer = await reading.model({ bytes, fileName: this.name, file: this.file, before }, keep);
      if (!answer.ok) {
        this.complain(answer.message);
        return;
      }
      this.model = applyChange(this.model ?? EMPTY_MODEL, answer.change);
      this.client.update(this.model);
    } catch {
      this.complain(`${this.name} cannot be read just now.`);
    }
  }

  /** The last good model stays linked. */
  private complain(sentence: string): void {
    console.error(sentence);
    if (once) process.exit(1);
  }

  private say(words: string): void {
    console.log(`${this.name}: ${words}`);
  }
}

const linked = new Map<string, LinkedFile>();

async function take(file: string): Promise<void> {
  if (linked.has(file)) return;
  const source = new LinkedFile(file, () => {
    waiting.delete(file);
    if (once && waiting.size === 0) end();
  });
  linked.set(file, source);
  waiting.add(file);
  await source.start();
}

const waiting = new Set<string>();

function end(): void {
  for (const source of linked.values()) source.stop();
  reading.close();
  process.exit(0);
}

const modelsOf = (folder: string) => readdirSync(folder).filter(isModelName).sort().map((name) => path.join(folder, name)); // prettier-ignore

const files = isFolder ? modelsOf(root) : [root];
if (isFolder && files.length === 0 && once) fail(`${place} holds no model of a kind that is read.`);
for (const file of files) await take(file);
if (isFolder && !once)
  watch(root, () => {
    for (const file of modelsOf(root)) void take(file);
  });
process.on('SIGTERM', end);
process.on('SIGINT', end);
