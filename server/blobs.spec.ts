import { createHash } from 'node:crypto';
import { readdirSync, statSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { BlobStore } from './blobs';
import { removeFolder, temporaryFolder } from './testing/running-server';

const folder = temporaryFolder();
afterAll(() => {
  removeFolder(folder);
});
const store = new BlobStore(path.join(folder, 'blobs'));
const bytes = (text: string) => new TextEncoder().encode(text);
const filesBelow = (directory: string): string[] =>
  readdirSync(directory, { recursive: true, encoding: 'utf8' }).filter((f) => statSync(path.join(directory, f)).isFile());

describe('the blob store', () => {
  it('keeps bytes under their SHA-256, once', async () => {
    const content = bytes('a mesh');
    const hash = await store.put(content);
    expect(hash).toBe(createHash('sha256').update(content).digest('hex'));
    expect(await store.put(content)).toBe(hash);
    expect(filesBelow(path.join(folder, 'blobs'))).toEqual([path.join(hash.slice(0, 2), hash)]);
    expect((await store.get(hash))!.toString()).toBe('a mesh');
  });

  it('is found again by another instance, as after a restart', async () => {
    const hash = await store.put(bytes('another'));
    const again = new BlobStore(path.join(folder, 'blobs'));
    expect(await again.has(hash)).toBe(true);
    expect(await again.missing([hash, 'f'.repeat(64)])).toEqual(['f'.repeat(64)]);
  });

  it('takes the same bytes from many at once', async () => {
    const content = bytes('x'.repeat(100_000));
    const hashes = await Promise.all(Array.from({ length: 20 }, () => store.put(content)));
    expect(new Set(hashes).size).toBe(1);
    expect((await store.get(hashes[0]!))!.byteLength).toBe(100_000);
    expect(filesBelow(path.join(folder, 'blobs')).filter((f) => f.includes('.'))).toEqual([]);
  });

  it('answers nothing to what is not a hash, wherever it points', async () => {
    for (const hostile of ['', '../project.sqlite', '..%2f', 'A'.repeat(64), `${'a'.repeat(63)}/`, '/etc/hostname']) {
      expect(await store.get(hostile)).toBeUndefined();
      expect(await store.has(hostile)).toBe(false);
    }
    expect(await store.get('0'.repeat(64))).toBeUndefined();
  });
});
