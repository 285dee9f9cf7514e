import { renameSync, rmSync, writeFileSync } from 'node:fs';
import { rename, writeFile } from 'node:fs/promises';

/** Files that are whole, or as they were before. What a full disk took of one is given back, or there would be no room to say so. */

export async function writeWhole(file: string, bytes: Uint8Array, part = `${file}.part`): Promise<void> {
  try {
    await writeFile(part, bytes, { flush: true });
    await rename(part, file);
  } catch (error) {
    rmSync(part, { force: true });
    throw error;
  }
}

export function writeWholeSync(file: string, bytes: Uint8Array): void {
  const part = `${file}.part`;
  try {
    writeFileSync(part, bytes);
    renameSync(part, file);
  } catch (error) {
    rmSync(part, { force: true });
    throw error;
  }
}
