import { createHash, randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { access, readFile } from 'node:fs/promises';
import path from 'node:path';
import { writeWhole } from './whole-file';
import { THINGS_DIRECTORY } from './dist-paths';

const SHA256 = /^[0-9a-f]{64}$/;

/** Meshes and textures by the SHA-256 of their bytes, one file each below the data directory. */
export class BlobStore {
  private readonly known = new Set<string>();

  constructor(
    readonly directory: string,
    /** Blobs that come with the application, by their hashes alone. */
    private readonly shipped = THINGS_DIRECTORY,
  ) {
    mkdirSync(directory, { recursive: true });
  }

  async has(hash: string): Promise<boolean> {
    if (this.known.has(hash)) return true;
    try {
      await access(this.fileOf(hash));
      this.known.add(hash);
      return true;
    } catch {
      return false;
    }
  }

  async missing(hashes: Iterable<string>): Promise<string[]> {
    const out: string[] = [];
    for (const hash of hashes) if (!(await this.has(hash))) out.push(hash);
    return out;
  }

  /** Stores bytes; returns their hash. A crash leaves either nothing or the whole file. */
  async put(bytes: Uint8Array): Promise<string> {
    const hash = createHash('sha256').update(bytes).digest('hex');
    if (await this.has(hash)) return hash;
    const file = this.fileOf(hash);
    mkdirSync(path.dirname(file), { recursive: true });
    await writeWhole(file, bytes, `${file}.${randomUUID()}`);
    this.known.add(hash);
    return hash;
  }

  async get(hash: string): Promise<Buffer | undefined> {
    if (!SHA256.test(hash)) return undefined;
    return readFile(this.fileOf(hash)).catch(() => readFile(path.join(this.shipped, hash)).catch(() => undefined));
  }

  fileOf(hash: string): string {
    if (!SHA256.test(hash)) throw new Error('not a SHA-256');
    return path.join(this.directory, hash.slice(0, 2), hash);
  }
}
