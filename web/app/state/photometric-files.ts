import { inject, Injectable } from '@angular/core';
import { webOf } from '../../../core/lamp/web-grid';
import type { LightingKey } from '../../../core/project/lighting';
import { Live } from './live';

const MOST_BYTES = 2_000_000;

/** Brings photometric files into the project. */
@Injectable({ providedIn: 'root' })
export class PhotometricFiles {
  private readonly live = inject(Live);

  /** Rows of the luminaire schedule have it from now on; what is wrong with it is said in a sentence. */
  async bring(file: File, on: readonly LightingKey[]): Promise<void> {
    if (file.size > MOST_BYTES) {
      this.live.refusals$.next(`${file.name} is larger than any photometric file: ${String(Math.round(file.size / 1000))} kB.`);
      return;
    }
    const bytes = new Uint8Array(await file.arrayBuffer());
    const text = decoded(bytes);
    const web = webOf(text);
    if (typeof web === 'string') {
      this.live.refusals$.next(`${file.name}: ${web}`);
      return;
    }
    this.live.run({ type: 'bring-photometry', file: { id: await idOf(bytes), name: file.name.slice(0, 200), text }, on: [...on] });
  }
}

/** The same file is brought in once. */
async function idOf(bytes: Uint8Array<ArrayBuffer>): Promise<string> {
  const hash = new Uint8Array(await crypto.subtle.digest('SHA-256', bytes));
  return [...hash.subarray(0, 12)].map((b) => b.toString(16).padStart(2, '0')).join('');
}

/** Older files have the letters of their country; only names suffer by taking these for western ones. */
function decoded(bytes: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}
