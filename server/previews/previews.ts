import { createHash } from 'node:crypto';
import { existsSync, mkdirSync } from 'node:fs';
import { readFile, rename, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { looksOf, type Finish } from '../../core/finish/finish';
import { spareCore } from './spare-core';
import { PreviewThread } from './thread';
import type { Previewed, PreviewedThing } from './worker';

/** Counts up when test cards come out differently, so that kept ones are made anew. */
const VERSION = 1;

export interface PreviewProgress {
  made: number;
  of: number;
}

/**
 * Pictures of finishes by the light kernel, kept for all projects on this computer: those that ship are made beforehand, when
 * the program first starts, as long as the computer has a core to spare; what is asked for is made at once.
 */
export class Previews {
  /** Of those that are made beforehand: how many there are, and the files that are not there yet. */
  private shipped = 0;
  private readonly missing = new Set<string>();
  private isClosed = false;
  private readonly thread = new PreviewThread();
  private readonly making = new Map<string, Promise<Uint8Array>>();

  constructor(
    private readonly directory: string,
    private readonly blobs: string,
  ) {
    try {
      mkdirSync(directory, { recursive: true });
    } catch {
      // Then each is made whenever it is asked for.
    }
  }

  /** Of those that are made beforehand, however they came to be made. */
  get progress(): PreviewProgress {
    return { made: this.shipped - this.missing.size, of: this.shipped };
  }

  /** PNG of a finish's test card. */
  of(finish: Finish): Promise<Uint8Array> {
    return this.kept({ finish }, this.fileOf(finish));
  }

  /** PNG of a thing of the library. */
  ofThing(thing: PreviewedThing): Promise<Uint8Array> {
    return this.kept({ thing }, this.fileFor(thing));
  }

  private async kept(what: Previewed, file: string): Promise<Uint8Array> {
    const kept = await readFile(file).catch(() => undefined);
    if (kept) return kept;
    let making = this.making.get(file);
    if (!making) {
      making = this.make(what, file).finally(() => this.making.delete(file));
      this.making.set(file, making);
    }
    return making;
  }

  /** Makes those that are not there yet, each when `ready`, and tells how far it is; ends early when closed. */
  async makeAll(finishes: readonly Finish[], ready: () => Promise<void> = spareCore): Promise<void> {
    this.shipped = finishes.length;
    for (const finish of finishes) if (!existsSync(this.fileOf(finish))) this.missing.add(this.fileOf(finish));
    for (const finish of finishes) {
      if (!this.missing.has(this.fileOf(finish))) continue;
      await ready();
      if (this.isClosed) return;
      await this.of(finish).catch(() => undefined);
      this.missing.delete(this.fileOf(finish));
    }
  }

  close(): void {
    this.isClosed = true;
    this.thread.close();
  }

  private fileOf(finish: Finish): string {
    return this.fileFor(looksOf(finish));
  }

  private fileFor(looks: unknown): string {
    const hash = createHash('sha256')
      .update(JSON.stringify([VERSION, looks]))
      .digest('hex')
      .slice(0, 40);
    return path.join(this.directory, `${hash}.png`);
  }

  private async make(what: Previewed, file: string): Promise<Uint8Array> {
    const png = await this.thread.make(what, this.blobs);
    // Another program may be making the same one.
    const part = `${file}.${String(process.pid)}.part`;
    await writeFile(part, png).then(() => rename(part, file)).catch(() => undefined); // prettier-ignore
    this.missing.delete(file);
    return png;
  }
}
