import { createHash } from 'node:crypto';
import { readFile, realpath, stat } from 'node:fs/promises';
import path from 'node:path';
import { applyChange, countChange, snapshotOf } from '../../core/model/model';
import { matchModels, type ModelMatches } from '../../core/project/replacing';
import type { BlobStore } from '../blobs';
import { worker } from '../dist-paths';
import { stateOf, watchFile } from '../../files/watch-file';
import { serially } from '../../core/serially';
import type { KnownSource, SourceStore } from '../source-store';
import { ReadingThread } from '../../files/reading-thread';
import type { FileAnswer } from '../../files/reading-worker';

export const MAX_FILE_BYTES = 1024 * 1024 * 1024;

export type FileResult = { source: string; changed: number } | { fault: string };

/** What it would mean if a file took a source's place. */
export interface ReplacementOffer {
  number: number;
  fileName: string;
  matches: ModelMatches;
}

/** Model files as sources: uploaded, or watched below one of the allowed folders, named from there or in full. */
export class FileSources {
  private readonly thread = new ReadingThread(worker('file-worker'));
  private number = 0;
  private readonly inOrder = serially();
  private offered:
    { number: number; id: string; base: number; name: string; bytes: Uint8Array; answer: Extract<FileAnswer, { ok: true }> } | undefined;
  /** What ends the watching of each source. */
  private readonly watchers = new Map<string, () => void>();

  constructor(
    private readonly sources: SourceStore,
    private readonly blobs: BlobStore,
    readonly watchFolders: readonly string[],
  ) {}

  /** Takes up watching again after a restart; files may have changed meanwhile, so they are read once. */
  startWatching(): void {
    for (const { id, path: file } of this.sources.watched()) this.watchFile(id, file, '');
  }

  async upload(fileName: string, bytes: Uint8Array): Promise<FileResult> {
    const name = plainFileName(fileName);
    return this.update(this.idOfUpload(name), name, bytes, null);
  }

  /** Reads a file that is to take a source's place. Nothing changes until it is taken. */
  offer(id: string, fileName: string, bytes: Uint8Array): Promise<ReplacementOffer | { fault: string }> {
    return this.inOrder(async () => {
      const known = this.sources.get(id);
      if (!known) return { fault: 'This source is no longer in the project.' };
      const name = plainFileName(fileName);
      const answer = await this.read(name, bytes, null, known);
      if (!answer.ok) return { fault: answer.message };
      const number = ++this.number;
      this.offered = { number, id, base: known.revision, name, bytes, answer };
      return { number, fileName: name, matches: matchModels(known.ahead, applyChange(known.ahead, answer.change)) };
    });
  }

  /** Puts the file that was offered last in a source's place. */
  take(id: string, number: number): Promise<FileResult> {
    return this.inOrder(async () => {
      const { offered } = this;
      const known = this.sources.get(id);
      if (offered?.number !== number || offered.id !== id || !known) return { fault: 'This file is no longer at hand; choose it again.' };
      if (known.revision !== offered.base)
        return { fault: 'The source has changed meanwhile; choose the file again to see what it means now.' };
      this.offered = undefined;
      return this.put(id, offered.name, offered.bytes, null, offered.answer);
    });
  }

  /** Adds a file that is read again whenever it changes. */
  async addPath(asked: string): Promise<FileResult> {
    const file = await this.allowedPath(asked);
    if (typeof file !== 'string') return file;
    const known = stateOf(file);
    const result = await this.readPath(sourceIdOf(file), file);
    if ('source' in result) this.watchFile(result.source, file, known);
    return result;
  }

  /** Reads a watched source again, after it was started by hand. */
  async reread(id: string): Promise<void> {
    const file = this.sources.get(id)?.path;
    if (file) await this.readPath(id, file);
  }

  close(): void {
    for (const end of this.watchers.values()) end();
    this.thread.close();
  }

  private async allowedPath(asked: string): Promise<string | { fault: string }> {
    const places = path.isAbsolute(asked) ? [asked] : this.watchFolders.map((folder) => path.join(folder, asked));
    for (const place of places) {
      const file = await realpath(place).catch(() => undefined);
      if (file === undefined) continue;
      const inside = this.watchFolders.some((folder) => file.startsWith(folder + path.sep));
      return inside ? file : { fault: `${asked} lies outside the folders that this server may read: ${this.watchFolders.join(', ')}.` };
    }
    return { fault: `${asked} cannot be read by the server.` };
  }

  private async readPath(id: string, file: string): Promise<FileResult> {
    try {
      const { size } = await stat(file);
      if (size > MAX_FILE_BYTES) return { fault: `${path.basename(file)} is larger than 1 GiB.` };
      return await this.update(id, path.basename(file), await readFile(file), file);
    } catch {
      const fault = `${path.basename(file)} cannot be read just now; the last good model stays, and it is tried again by itself.`;
      this.sources.setFault(id, fault);
      return { fault };
    }
  }

  private update(id: string, name: string, bytes: Uint8Array, file: string | null): Promise<FileResult> {
    return this.inOrder(async () => {
      const known = this.sources.get(id);
      if (known?.stopped) return { fault: 'This source is stopped; start it first.' };
      const answer = await this.read(name, bytes, file, known);
      if (answer.ok) return this.put(id, name, bytes, file, answer);
      this.sources.setFault(id, answer.message);
      return { fault: answer.message };
    });
  }

  /** Blobs are stored while the file is still being read. Those of a file that turns out to be bad stay, and nothing names them. */
  private async read(fileName: string, bytes: Uint8Array, file: string | null, known: KnownSource | undefined): Promise<FileAnswer> {
    const before = known && known.revision > 0 ? snapshotOf(known.ahead) : null;
    const stored: Promise<unknown>[] = [];
    const answer = await this.thread.model({ bytes, fileName, file, before }, (_, blob) => {
      const storing = this.blobs.put(blob);
      // A full disk is told below, once for all of them.
      storing.catch(() => undefined);
      stored.push(storing);
    });
    await Promise.all(stored);
    return answer;
  }

  private async put(
    id: string,
    name: string,
    bytes: Uint8Array,
    file: string | null,
    { change, format }: Extract<FileAnswer, { ok: true }>,
  ): Promise<FileResult> {
    await this.sources.register(id, 'file', name, format, file);
    const changed = countChange(change);
    if (changed > 0) await this.sources.commit(id, change, 0);
    this.sources.setFault(id, null);
    void this.readProperties(id, name, bytes);
    return { source: id, changed };
  }

  /** After the model, because nobody waits for it. */
  private readProperties(id: string, fileName: string, bytes: Uint8Array): Promise<void> {
    return this.inOrder(async () => {
      const properties = await this.thread.properties(fileName, bytes);
      await this.sources.setProperties(id, properties ? await this.blobs.put(properties) : null);
    });
  }

  /** The source that has this file now, or a new one: an older one may have got another file since. */
  private idOfUpload(name: string): string {
    const known = this.sources.uploadedAs(name);
    if (known !== undefined) return known;
    const id = sourceIdOf(name);
    let free = id;
    for (let n = 2; this.sources.get(free); n++) free = `${id}-${String(n)}`;
    return free;
  }

  private watchFile(id: string, file: string, known: string): void {
    if (this.watchers.has(id)) return;
    const end = watchFile(
      file,
      () => {
        if (this.sources.get(id)?.path === file) void this.readPath(id, file);
        else {
          end();
          this.watchers.delete(id);
        }
      },
      known,
    );
    this.watchers.set(id, end);
  }
}

const plainFileName = (name: string) => path.basename(name).slice(0, 200) || 'model.ifc';

/** The same file name or path is the same source. */
function sourceIdOf(name: string): string {
  const kind =
    path
      .extname(name)
      .slice(1)
      .toLowerCase()
      .replace(/[^a-z0-9]/g, '') || 'file';
  return `${kind.slice(0, 8)}-${createHash('sha256').update(name).digest('hex').slice(0, 12)}`;
}
