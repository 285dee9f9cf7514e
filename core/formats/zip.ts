import { unzipSync } from 'fflate';
import { ModelFileError } from './model-file';

const MAX_FILES = 4000;
const MAX_BYTES = 1024 * 1024 * 1024;
/** More than any honest file shrinks; the limit of DEFLATE is 1032. */
const MAX_RATIO = 500;

export interface ZipFiles {
  names: ReadonlySet<string>;
  read(name: string): Uint8Array<ArrayBuffer> | undefined;
}

/** A zip whose files can be had several at once: each asking goes through its whole list. */
export interface OpenZip extends ZipFiles {
  readSome(names: readonly string[]): [name: string, bytes: Uint8Array<ArrayBuffer>][];
}

/** Opens a zip without unpacking it; what is asked for is unpacked, within bounds. Throws ModelFileError. */
export function openZip(bytes: Uint8Array, fileName: string): OpenZip {
  const sizes = new Map<string, number>();
  let total = 0;
  const guarded = <T>(work: () => T): T => {
    try {
      return work();
    } catch (error) {
      if (error instanceof ModelFileError) throw error;
      throw new ModelFileError(`${fileName} is a broken or cut off zip.`);
    }
  };
  guarded(() =>
    unzipSync(bytes, {
      filter: ({ name, size, originalSize }) => {
        total += originalSize;
        if (sizes.size >= MAX_FILES) throw new ModelFileError(`${fileName} holds more than ${String(MAX_FILES)} files.`);
        if (total > MAX_BYTES || originalSize > 1e6 + size * MAX_RATIO)
          throw new ModelFileError(`${fileName} would unpack to far more than it holds; it is not opened.`);
        if (!name.endsWith('/')) sizes.set(name, originalSize);
        return false;
      },
    }),
  );
  const readSome: OpenZip['readSome'] = (names) =>
    guarded(() => {
      const wanted = new Set(names);
      const found = Object.entries(unzipSync(bytes, { filter: ({ name }) => wanted.has(name) }));
      // A header may lie about the size.
      if (found.some(([name, unpacked]) => unpacked.length !== sizes.get(name)))
        throw new ModelFileError(`${fileName} is a broken or cut off zip.`);
      return found;
    });
  return {
    names: new Set(sizes.keys()),
    read: (name) => (sizes.has(name) ? readSome([name]).find(([found]) => found === name)?.[1] : undefined),
    readSome,
  };
}
