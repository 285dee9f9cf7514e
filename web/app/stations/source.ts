import { NgTemplateOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, signal, viewChild } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import type { SourceSummary } from '../../../core/project/live';
import { orderOf } from '../../../core/project/placed-sources';
import { entry } from '../../../core/project/project';
import { sleepingDecisions } from '../../../core/project/sleeping';
import { groupKeyOf, visibilityOf } from '../../../core/project/visibility';
import { Icon } from '../sheet/icon';
import { localClock } from '../sheet/local-clock';
import { Elements } from './elements';
import { FindingsSchedule } from './findings';
import { countWords, RevisionList } from './revision-list';
import { PlacementCard } from './placement-card';
import { fileTaken } from '../../../core/project/answers';
import { ask, bytes, json } from '../state/ask';
import { NgbCollapse, NgbNavModule } from '@ng-bootstrap/ng-bootstrap';
import { Live } from '../state/live';
import { SceneState } from '../state/scene-state';
import { WorkingDetailCard } from './working-detail-card';
import { ReplacementCard } from './replacement-card';

const ACCEPTED = '.ifc,.glb,.gltf,.obj,.dae,.stl,.ply,.3mf,.dxf,.zip';
const MAX_BYTES = 1024 * 1024 * 1024;

const STATE_WORDS = {
  'in-step': 'in step',
  held: 'held',
  stopped: 'stopped',
  'out-of-reach': 'out of reach, tried again by itself',
} as const;

/** Linked models and their states. */
@Component({
  selector: 'dp-source-station',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    NgbCollapse,
    NgbNavModule,
    NgTemplateOutlet,
    Elements,
    FindingsSchedule,
    Icon,
    PlacementCard,
    ReplacementCard,
    RevisionList,
    WorkingDetailCard,
  ],
  templateUrl: './source.html',
  styleUrl: './station.scss',
  styles: `
    .source {
      padding: 10px 14px;
    }
    .source + .source {
      border-top: 1px solid var(--rule);
    }
    .source h3 {
      font-size: 0.9375rem;
      font-weight: 600;
      margin: 0;
    }
    .title {
      display: flex;
      align-items: baseline;
      gap: 8px;
    }
    .title h3 {
      flex: 1;
    }
    .title .form-check-input {
      flex: none;
    }
    .facts {
      color: var(--ink-quiet);
    }
    code {
      color: var(--ink);
      overflow-wrap: anywhere;
    }
  `,
})
export class SourceStation {
  protected readonly live = inject(Live);
  private readonly known = toSignal(this.live.sources$, { initialValue: [] });
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  protected readonly sources = computed(() => {
    const order = orderOf(
      this.known().map((s) => s.id),
      this.entries(),
    );
    return order.map((id) => this.known().find((s) => s.id === id)!);
  });
  /** Source whose placement is open. */
  protected readonly placing = signal('');
  /** The source that a file is to take the place of. */
  protected readonly replacing = signal('');
  /** Source whose revisions are listed. */
  protected readonly listed = signal('');
  protected readonly models = toSignal(this.live.models$, { requireSync: true });
  protected readonly project = toSignal(this.live.project$);
  protected readonly follow = toSignal(inject(SceneState).follow$, { initialValue: { camera: false, time: false } });
  protected readonly tab = signal<'sources' | 'elements' | 'findings'>('sources');
  protected readonly busy = signal('');
  /** One sentence for each file that was refused. */
  protected readonly faults = signal<readonly string[]>([]);
  protected readonly accepted = ACCEPTED;
  private readonly placedAs = viewChild<ElementRef<HTMLSelectElement>>('placedAs');
  protected readonly origin = location.origin;
  protected readonly clock = localClock;

  /** What the last update did. */
  protected report({ last, waitingElements, revision }: SourceSummary): string {
    if (waitingElements) return `Waiting: ${countWords(waitingElements)}.`;
    return last && revision > 1 ? `Last update: ${countWords(last)}.` : '';
  }

  protected sleeping(id: string): { said: string; names: string } | undefined {
    const model = this.models().get(id);
    const asleep = model ? sleepingDecisions(id, model, this.entries()) : [];
    if (asleep.length === 0) return undefined;
    const said =
      asleep.length === 1
        ? 'One decision sleeps: what it was made for is gone.'
        : `${String(asleep.length)} decisions sleep: what they were made for is gone.`;
    return {
      said,
      names: asleep
        .slice(0, 30)
        .map((d) => d.of)
        .join('\n'),
    };
  }

  protected isShown(id: string): boolean {
    return visibilityOf(this.entries()).decisions[groupKeyOf('source', id)] ?? true;
  }

  protected show({ id, name }: SourceSummary, shown: boolean): void {
    this.live.run({ type: 'show', keys: [groupKeyOf('source', id)], shown, name });
  }

  protected moveUp(id: string): void {
    const order = this.sources().map((s) => s.id);
    const at = order.indexOf(id);
    order.splice(at - 1, 2, id, order[at - 1]!);
    this.live.run({ type: 'order-sources', order });
  }

  protected words(source: SourceSummary): string {
    return source.state === 'held' ? `held, ${String(source.waiting)} waiting` : STATE_WORDS[source.state];
  }

  protected counts(id: string): string {
    const model = this.models().get(id);
    if (!model) return 'nothing received yet';
    const { elements, materials, luminaires } = model;
    const count = (of: number, word: string) => `${String(of)} ${word}${of === 1 ? '' : 's'}`;
    const lamps = luminaires.size > 0 ? `, ${count(luminaires.size, 'luminaire')}` : '';
    return `${count(elements.size, 'element')}, ${count(materials.size, 'source material')}${lamps}`;
  }

  protected setFollow(camera: boolean, time: boolean): void {
    this.live.run({ type: 'follow-author', camera, time });
  }

  protected checked(event: Event): boolean {
    return (event.target as HTMLInputElement).checked;
  }

  /** Files one after the other; one that is refused does not hold up the rest. */
  protected async upload(event: Event): Promise<void> {
    const input = event.target as HTMLInputElement;
    const files = [...(input.files ?? [])];
    input.value = '';
    this.faults.set([]);
    const like = this.placedAs()?.nativeElement.value;
    const added: string[] = [];
    for (const [i, file] of files.entries()) {
      const which = files.length > 1 ? ` (${String(i + 1)} of ${String(files.length)})` : '';
      if (file.size > MAX_BYTES) {
        this.faults.update((faults) => [...faults, `${file.name} is larger than 1 GiB; split it by storey or trade.`]);
        continue;
      }
      const address = `/api/sources/file?name=${encodeURIComponent(file.name)}`;
      const source = await this.read(`Reading ${file.name}${which} …`, file.name, address, bytes(file));
      if (source !== undefined) added.push(source);
    }
    const placement = like ? entry(this.entries(), `placement/${like}`) : undefined;
    const sources = added.filter((id) => id !== like);
    if (placement && sources.length > 0)
      this.live.run({
        type: 'place-source',
        sources,
        placement,
        name: `${String(sources.length)} ${sources.length === 1 ? 'file' : 'files'}`,
      });
  }

  protected async watch(event: Event, input: HTMLInputElement): Promise<void> {
    event.preventDefault();
    const path = input.value.trim();
    if (!path) return;
    this.faults.set([]);
    await this.read(`Reading ${path} …`, path, '/api/sources/watch', json({ path }));
  }

  /** Id of the source, or undefined after a fault. */
  private async read(words: string, name: string, address: string, init: RequestInit): Promise<string | undefined> {
    this.busy.set(words);
    const asked = await ask(fileTaken, address, init);
    this.busy.set('');
    if ('answer' in asked) return asked.answer.source;
    this.faults.update((faults) => [...faults, asked.fault ?? `${name} did not reach the server; try again.`]);
    return undefined;
  }
}
