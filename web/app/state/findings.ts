import { inject, Injectable } from '@angular/core';
import { BehaviorSubject } from 'rxjs';
import type { Progress } from '../../../core/hygiene/check';
import type { Finding } from '../../../core/hygiene/finding';
import { Live } from './live';

export interface FindingsState {
  findings: readonly Finding[];
  /** 0 to 1 while it is being checked; undefined: at rest. */
  checking: number | undefined;
  /** Models as they were checked; undefined: never. */
  of: unknown;
  fault: string | null;
}

/** What is wrong with the models, as the server finds it. */
@Injectable({ providedIn: 'root' })
export class Findings {
  private readonly live = inject(Live);
  readonly state$ = new BehaviorSubject<FindingsState>({ findings: [], checking: undefined, of: undefined, fault: null });
  private run = 0;

  async check(): Promise<void> {
    const run = ++this.run;
    let findings: readonly Finding[] = [];
    const of = this.live.models$.value;
    const tell = (checking: number | undefined, fault: string | null = null) => {
      if (run === this.run) this.state$.next({ findings, checking, of, fault });
    };
    tell(0);
    try {
      const response = await fetch('/api/findings');
      const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
      let text = '';
      for (let part = await reader.read(); !part.done; part = await reader.read()) {
        text += part.value;
        for (let end = text.indexOf('\n'); end >= 0; end = text.indexOf('\n')) {
          const progress = JSON.parse(text.slice(0, end)) as Progress;
          text = text.slice(end + 1);
          findings = [...findings, ...progress.findings];
          tell(progress.done);
        }
      }
      tell(undefined);
    } catch {
      tell(undefined, 'The check did not come to its end; try again.');
    }
  }
}
