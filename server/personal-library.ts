import { mkdir, readdir, readFile, stat, unlink } from 'node:fs/promises';
import path from 'node:path';
import { strFromU8 } from 'fflate';
import { finishMark, type Finish } from '../core/finish/finish';
import type { LibraryItem } from '../core/finish/library';
import { openZip } from '../core/formats/zip';
import type { BlobStore } from './blobs';
import { writeWhole } from './whole-file';
import { packFinishes, readPackage } from './finish-package';
import { swatchOf } from './swatch';

const SWATCH = 'swatch.png';
const SAFE_ID = /^[0-9a-f]{1,8}-[0-9a-f]{1,8}$/;

/** Finishes that a person keeps for all projects on this computer: a folder with one package for each (docs/formats.md). */
export class PersonalLibrary {
  private readonly known = new Map<string, { changed: number; item: LibraryItem }>();

  constructor(private readonly folder: string) {}

  async list(): Promise<LibraryItem[]> {
    const files = await readdir(this.folder).catch(() => []);
    const items: LibraryItem[] = [];
    for (const id of files.filter((f) => f.endsWith('.zip')).map((f) => f.slice(0, -4))) {
      const item = SAFE_ID.test(id) ? await this.itemOf(id) : undefined;
      if (item) items.push(item);
    }
    return items.sort((a, b) => a.name.localeCompare(b.name));
  }

  /** Keeps finishes; one that is there already stays as it is. Returns how many are new. */
  async keep(finishes: readonly Finish[], blobs: BlobStore): Promise<number> {
    await mkdir(this.folder, { recursive: true });
    let kept = 0;
    for (const finish of finishes) {
      const file = this.fileOf(`${finishMark(finish)}-${markOfText(finish.name)}`);
      if (await exists(file)) continue;
      const zip = await packFinishes([finish], blobs, { [SWATCH]: await swatchOf(finish, blobs) });
      await writeWhole(file, zip);
      kept++;
    }
    return kept;
  }

  /** A finish, its maps put among the project's; its id is new. */
  async bring(id: string, blobs: BlobStore): Promise<{ finishes: Finish[] } | { fault: string }> {
    const bytes = await this.read(id);
    return bytes ? readPackage('My library', bytes, blobs) : { fault: 'This finish is no longer in your library.' };
  }

  async swatch(id: string): Promise<Uint8Array | undefined> {
    const bytes = await this.read(id);
    return bytes && openZip(bytes, id).read(SWATCH);
  }

  async remove(id: string): Promise<boolean> {
    if (!SAFE_ID.test(id)) return false;
    return unlink(this.fileOf(id)).then(
      () => true,
      () => false,
    );
  }

  private fileOf(id: string): string {
    return path.join(this.folder, `${id}.zip`);
  }

  private async read(id: string): Promise<Uint8Array | undefined> {
    if (!SAFE_ID.test(id)) return undefined;
    return readFile(this.fileOf(id)).catch(() => undefined);
  }

  /** Undefined where the file is no package: somebody may have put it there. */
  private async itemOf(id: string): Promise<LibraryItem | undefined> {
    try {
      const changed = (await stat(this.fileOf(id))).mtimeMs;
      const known = this.known.get(id);
      if (known?.changed === changed) return known.item;
      const zip = openZip((await this.read(id))!, id);
      const json = zip.read([...zip.names].find((name) => name.endsWith('/finish.json')) ?? '');
      const { finish } = JSON.parse(strFromU8(json!)) as { finish: Finish };
      const item = { id, name: finish.name, family: finish.family, tags: finish.tags };
      this.known.set(id, { changed, item });
      return item;
    } catch {
      return undefined;
    }
  }
}

const exists = (file: string): Promise<boolean> => stat(file).then(() => true, () => false); // prettier-ignore

/** FNV-1a. */
function markOfText(text: string): string {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return (hash >>> 0).toString(16);
}
