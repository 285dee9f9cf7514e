import { Injectable, signal } from '@angular/core';
import type { Finish } from '../../../core/finish/finish';
import type { LibraryItem } from '../../../core/finish/library';
import { finishesRead, libraryKept, libraryList } from '../../../core/project/answers';
import { ask } from './ask';

/** What the server keeps for the person beside the project. */
@Injectable({ providedIn: 'root' })
export class PersonalLibrary {
  readonly items = signal<readonly LibraryItem[]>([]);

  async read(): Promise<void> {
    const asked = await ask(libraryList, '/api/library');
    if ('answer' in asked) this.items.set(asked.answer.items);
  }

  /** Keeps the project's own finishes. */
  async keepOwn(): Promise<{ said: string } | { fault: string }> {
    const asked = await ask(libraryKept, '/api/library', { method: 'POST' });
    if (!('answer' in asked)) return { fault: asked.fault ?? 'Your library could not be reached.' };
    await this.read();
    const { kept } = asked.answer;
    return {
      said:
        kept === 0
          ? 'They are in your library already.'
          : `Kept in your library: ${String(kept)}. Every project on this computer finds them there.`,
    };
  }

  async bring(id: string): Promise<{ finishes: Finish[] } | { fault: string }> {
    const asked = await ask(finishesRead, `/api/library/${id}/bring`, { method: 'POST' });
    return 'answer' in asked ? asked.answer : { fault: asked.fault ?? 'Your library could not be reached.' };
  }

  async remove(id: string): Promise<void> {
    await fetch(`/api/library/${id}`, { method: 'DELETE' }).catch(() => undefined);
    await this.read();
  }
}
