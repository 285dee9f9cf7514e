import { inject, Injectable } from '@angular/core';
import { BehaviorSubject, combineLatest, distinctUntilChanged, map } from 'rxjs';
import { ownThingRead, ownThings } from '../../../core/project/answers';
import { kindsWith } from '../../../core/project/kinds';
import type { ThingKinds } from '../../../core/setting/setting-model';
import type { ThingGroup, ThingKind } from '../../../core/setting/thing-kind';
import { ask, bytes } from './ask';
import { Live } from './live';

const OUT_OF_REACH = 'The server is out of reach; nothing was brought.';

/** The library of things: what ships, the project's own, and what a person keeps for other projects. */
@Injectable({ providedIn: 'root' })
export class ThingLibrary {
  private readonly live = inject(Live);
  private readonly shipped$ = new BehaviorSubject<ThingKinds>(new Map());
  readonly kinds$ = new BehaviorSubject<ThingKinds>(new Map());
  /** Kept on this computer, whether the project has them or not. */
  readonly own$ = new BehaviorSubject<readonly ThingKind[]>([]);

  constructor() {
    combineLatest([this.shipped$, this.live.entries$])
      .pipe(
        map(([shipped, entries]) => kindsWith(shipped, entries)),
        distinctUntilChanged(),
      )
      .subscribe(this.kinds$);
    void this.load();
  }

  /** A model file as a thing of one's own; what is to be said of it. */
  async read(file: File, group: ThingGroup): Promise<string> {
    const query = new URLSearchParams({ name: file.name, group });
    const read = await ask(ownThingRead, `/api/own-things?${query.toString()}`, bytes(file));
    if ('fault' in read) return read.fault ?? OUT_OF_REACH;
    const { kind, said } = read.answer;
    this.live.run({ type: 'bring-kind', kind });
    await this.loadOwn();
    const { heightM, triangles } = kind.forms[0]!;
    return `${kind.name}, ${heightM.toFixed(2)} m high, ${String(triangles)} triangles. ${said}`.trim();
  }

  /** Brings one that is kept into the project; undefined: it is there. */
  async bring(id: string): Promise<string | undefined> {
    const brought = await ask(ownThingRead, `/api/own-things/${id}/bring`, bytes());
    if ('fault' in brought) return brought.fault ?? OUT_OF_REACH;
    this.live.run({ type: 'bring-kind', kind: brought.answer.kind });
    return undefined;
  }

  /** Takes one out of what is kept; the project keeps what it has. */
  async remove(id: string): Promise<void> {
    await fetch(`/api/own-things/${id}`, { method: 'DELETE' }).catch(() => undefined);
    await this.loadOwn();
  }

  private async load(): Promise<void> {
    const response = await fetch('/api/things').catch(() => undefined);
    if (response?.ok) this.shipped$.next(new Map(((await response.json()) as ThingKind[]).map((kind) => [kind.id, kind])));
    await this.loadOwn();
  }

  private async loadOwn(): Promise<void> {
    const own = await ask(ownThings, '/api/own-things');
    if ('answer' in own) this.own$.next(own.answer);
  }
}
