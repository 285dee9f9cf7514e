import { Injectable, signal } from '@angular/core';
import type { Finish } from '../../../core/finish/finish';
import type { LibraryItem } from '../../../core/finish/library';

/** What the server keeps for the person beside the project. */
@Injectable({ providedIn: 'root' })
export class PersonalLibrary {
  readonly items = signal<readonly LibraryItem[]>([]);

  async read(): Promise<void> {
    const answer = await asked<{ items: LibraryItem[] }>('/api/library');
    if (answer) this.items.set(answer.items);
  }

  /** Keeps the project's own finishes. */
  async keepOwn(): Promise<{ said: string } | { fault: string }> {
    const answer = await asked<{ kept?: number; message?: string }>('/api/library', 'POST');
    if (answer?.kept === undefined) return { fault: answer?.message ?? 'Your library could not be reached.' };
    await this.read();
    return {
      said:
        answer.kept === 0
          ? 'They are in your library already.'
          : `Kept in your library: ${String(answer.kept)}. Every project on this computer finds them there.`,
    };
  }

  async bring(id: string): Promise<{ finishes: Finish[] } | { fault: string }> {
    const answer = await asked<{ finishes?: Finish[]; message?: string }>(`/api/library/${id}/bring`, 'POST');
    return answer?.finishes ? { finishes: answer.finishes } : { fault: answer?.message ?? 'Your library could not be reached.' };
  }

  async remove(id: string): Promise<void> {
    await fetch(`/api/library/${id}`, { method: 'DELETE' }).catch(() => undefined);
    await this.read();
  }
}

async function asked<T>(address: string, method = 'GET'): Promise<T | undefined> {
  try {
    return (await (await fetch(address, { method })).json()) as T;
  } catch {
    return undefined;
  }
}
