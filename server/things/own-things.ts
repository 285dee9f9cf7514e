import { randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile, unlink } from 'node:fs/promises';
import path from 'node:path';
import { strFromU8, strToU8, zipSync, type Zippable } from 'fflate';
import * as v from 'valibot';
import { openZip } from '../../core/formats/zip';
import { decodeMesh, encodeMesh } from '../../core/geometry/mesh';
import { applyChange, EMPTY_MODEL } from '../../core/model/model';
import { ownThing } from '../../core/setting/own-thing';
import { thingKindSchema, type ThingGroup, type ThingKind } from '../../core/setting/thing-kind';
import { ReadingThread } from '../../files/reading-thread';
import type { BlobStore } from '../blobs';
import { worker } from '../dist-paths';
import { writeWhole } from '../whole-file';

const SAFE_ID = /^own-[0-9a-f-]{36}$/;
const KIND = 'kind.json';

/** Elements of a file that becomes one thing. */
const MOST_ELEMENTS = 2000;

/** Things that a person has brought, kept for all projects on this computer: a folder with one zip for each, the kind and its blobs. */
export class OwnThings {
  private readonly thread = new ReadingThread(worker('file-worker'));

  constructor(
    private readonly folder: string,
    private readonly blobs: BlobStore,
  ) {}

  async list(): Promise<ThingKind[]> {
    const files = await readdir(this.folder).catch(() => []);
    const kinds = await Promise.all(files.filter((file) => file.endsWith('.zip')).map((file) => this.kindOf(file.slice(0, -4))));
    return kinds.filter((kind) => kind !== undefined).sort((a, b) => a.name.localeCompare(b.name));
  }

  /** A model file as a thing, kept here and for the project; a fault in a sentence where it cannot be one. */
  async read(fileName: string, bytes: Uint8Array, group: ThingGroup): Promise<{ kind: ThingKind; said: string } | { fault: string }> {
    const found = new Map<string, Uint8Array>();
    const answer = await this.thread.model({ bytes, fileName, file: null, before: null }, (hash, blob) => found.set(hash, blob));
    if (!answer.ok) return { fault: answer.message };
    const count = answer.change.elements.length;
    if (count > MOST_ELEMENTS)
      return { fault: `${fileName} has ${String(count)} parts; a thing of the library may have ${String(MOST_ELEMENTS)}.` };
    const meshOf = (hash: string) => {
      const mesh = decodeMesh(found.get(hash) ?? new Uint8Array());
      return typeof mesh === 'string' ? undefined : mesh;
    };
    const name = fileName.replace(/\.[^.]+$/, '').slice(0, 200) || 'Thing';
    const made = ownThing(`own-${randomUUID()}`, name, group, applyChange(EMPTY_MODEL, answer.change), meshOf);
    if (typeof made === 'string') return { fault: `${fileName}: ${made}` };
    const package_: Zippable = {};
    const keep = async (blob: Uint8Array): Promise<string> => {
      const hash = await this.blobs.put(blob);
      package_[hash] = [blob, { level: 0 }];
      return hash;
    };
    const hashes = new Map<string, string>();
    for (const [number, mesh] of made.meshes) hashes.set(number, await keep(encodeMesh(mesh)));
    for (const { texture } of made.kind.materials)
      for (const value of Object.values(texture ?? {})) {
        const picture = typeof value === 'string' ? found.get(value) : undefined;
        if (picture) await keep(picture);
      }
    const forms = made.kind.forms.map((form) => ({
      ...form,
      parts: form.parts.map((part) => ({ ...part, mesh: hashes.get(part.mesh)! })),
    }));
    const kind = { ...made.kind, forms };
    package_[KIND] = strToU8(JSON.stringify(kind));
    await mkdir(this.folder, { recursive: true });
    await writeWhole(this.fileOf(kind.id), zipSync(package_));
    return { kind, said: made.said };
  }

  /** Puts the blobs of one into the project. */
  async bring(id: string): Promise<ThingKind | undefined> {
    const kind = await this.kindOf(id);
    if (!kind) return undefined;
    const zip = openZip(await readFile(this.fileOf(id)), id);
    for (const name of zip.names) if (name !== KIND) await this.blobs.put(zip.read(name)!);
    return kind;
  }

  async remove(id: string): Promise<boolean> {
    if (!SAFE_ID.test(id)) return false;
    return unlink(this.fileOf(id)).then(
      () => true,
      () => false,
    );
  }

  close(): void {
    this.thread.close();
  }

  private fileOf(id: string): string {
    return path.join(this.folder, `${id}.zip`);
  }

  /** Undefined where the file is none of ours: somebody may have put it there. */
  private async kindOf(id: string): Promise<ThingKind | undefined> {
    if (!SAFE_ID.test(id)) return undefined;
    try {
      const json = openZip(await readFile(this.fileOf(id)), id).read(KIND);
      const kind = v.safeParse(thingKindSchema, JSON.parse(strFromU8(json!)));
      return kind.success ? kind.output : undefined;
    } catch {
      return undefined;
    }
  }
}
