import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { map } from 'rxjs';
import type { ElementProperties } from '../../../core/formats/ifc-properties';
import type { ModelElement } from '../../../core/model/schema';
import { treeOf, type TreeGroup } from '../../../core/project/model-tree';
import { entry } from '../../../core/project/project';
import { groupKeyOf, shownElements, visibilityOf, type Grouping } from '../../../core/project/visibility';
import type { Model } from '../../../core/model/model';
import { SETTING } from '../../../core/setting/setting-model';
import { Icon } from '../sheet/icon';
import { elementProperties } from '../../../core/project/answers';
import { ask } from '../state/ask';
import { Live } from '../state/live';
import { PictureState, type Pointed } from '../state/picture-state';
import { SceneState } from '../state/scene-state';

interface PickedElement {
  source: string;
  id: string;
  name: string;
  facts: [string, string][];
}

const UNNAMED: Record<Grouping, string> = { layer: 'No layer', storey: 'No storey', class: 'No class' };

/** Layers, storeys, classes and elements: what is shown. */
@Component({
  selector: 'dp-elements',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon],
  templateUrl: './elements.html',
  styleUrls: ['./station.scss', './elements.scss'],
})
export class Elements {
  private readonly live = inject(Live);
  protected readonly MOST_MEMBERS = 100;
  protected readonly groupings: readonly { kind: Grouping; word: string }[] = [
    { kind: 'layer', word: 'Layers' },
    { kind: 'storey', word: 'Storeys' },
    { kind: 'class', word: 'Classes' },
  ];
  protected readonly grouping = signal<Grouping>('layer');
  protected readonly search = signal('');
  protected readonly opened = signal<string | undefined>(undefined);
  private readonly entries = toSignal(this.live.entries$, { requireSync: true });
  private readonly linked = toSignal(this.live.models$, { requireSync: true });
  private readonly setting = toSignal(inject(SceneState).sources$.pipe(map((sources) => sources.find(({ id }) => id === SETTING)?.model)));
  /** The models, and what is set about them. */
  private readonly models = computed((): ReadonlyMap<string, Model> => {
    const setting = this.setting();
    return setting ? new Map([...this.linked(), [SETTING, setting]]) : this.linked();
  });
  private readonly sources = toSignal(this.live.sources$, { requireSync: true });
  /** The element that was picked in the picture. */
  protected readonly picked = signal<PickedElement | undefined>(undefined);
  protected readonly properties = signal<ElementProperties | undefined>(undefined);
  protected readonly visibility = computed(() => visibilityOf(this.entries()));
  protected readonly trees = computed(() =>
    [...this.models()].map(([id, model]) => {
      const key = groupKeyOf('source', id);
      return {
        id,
        key,
        name: this.nameOf(id),
        shown: this.visibility().decisions[key] ?? true,
        groups: treeOf(id, model, this.grouping(), this.entries(), this.search()),
      };
    }),
  );
  private readonly predicates = computed(
    () => new Map([...this.models()].map(([id, model]) => [id, shownElements(this.entries(), id, model)] as const)),
  );
  private readonly groups = computed(() => this.trees().flatMap((tree) => tree.groups));
  protected readonly elementCount = computed(() => this.groups().reduce((sum, g) => sum + g.elements.length, 0));
  protected readonly shownCount = computed(() => this.groups().reduce((sum, g) => sum + g.shown, 0));
  protected readonly variants = computed(() =>
    [...this.models()].flatMap(([id, { presentation: p }]) => {
      if (p.options.length === 0 && p.phases.length === 0) return [];
      const chosen = entry(this.entries(), `variant/${id}`);
      return {
        id,
        name: this.nameOf(id),
        options: p.options,
        phases: p.phases,
        option: chosen?.option ?? null,
        phase: chosen?.phase ?? null,
        authorOption: p.options.find((o) => o.id === p.option)?.name ?? 'all',
        authorPhase: p.phases.find((o) => o.id === p.phase)?.name ?? 'all',
      };
    }),
  );
  protected readonly kept = computed(() =>
    [...this.entries().keys()]
      .filter((key) => key.startsWith('shown/'))
      .map((key) => ({ id: key.slice(6), name: entry(this.entries(), key as `shown/${string}`)!.name })),
  );
  protected readonly isChanged = computed(
    () => this.visibility().isolated.length > 0 || Object.keys(this.visibility().decisions).length > 0,
  );

  constructor() {
    const picture = inject(PictureState);
    const take = (pointed: Pointed) => {
      void this.pick(pointed);
    };
    picture.pointTaker$.next(take);
    inject(DestroyRef).onDestroy(() => {
      if (picture.pointTaker$.value === take) picture.pointTaker$.next(undefined);
    });
  }

  private nameOf(id: string): string {
    return id === SETTING ? 'Setting' : (this.sources().find((s) => s.id === id)?.name ?? id);
  }

  private async pick({ source, element: id }: Pointed): Promise<void> {
    const element = this.models().get(source)?.elements.get(id);
    if (!element) return;
    const known = this.sources().find((s) => s.id === source);
    const facts: [string, string][] = [['Source', this.nameOf(source)], ['Class', element.class], ['Layer', element.layer], ['Storey', element.storey], ['Id', id]]; // prettier-ignore
    this.picked.set({ source, id, name: element.name || id, facts: facts.filter(([, value]) => value !== '') });
    this.properties.set(undefined);
    if (!known?.hasProperties) return;
    const address = `/api/sources/${encodeURIComponent(source)}/properties?element=${encodeURIComponent(id)}`;
    const asked = await ask(elementProperties, address);
    if ('answer' in asked && this.picked()?.id === id) this.properties.set(asked.answer);
  }

  protected hidePicked({ source, id, name }: PickedElement): void {
    this.show(groupKeyOf('element', source, id), name, false);
    this.picked.set(undefined);
  }

  protected isolatePicked({ source, id, name }: PickedElement): void {
    this.live.run({ type: 'isolate', keys: [groupKeyOf('element', source, id)], name: name.slice(0, 200) });
  }

  protected wordOf(group: TreeGroup): string {
    return group.name || UNNAMED[this.grouping()];
  }

  /** The group's own switch, whatever else hides its elements. */
  protected isOn(group: TreeGroup): boolean {
    return group.decided ?? group.hiddenAtFirst === undefined;
  }

  protected countOf({ shown, elements }: TreeGroup): string {
    return shown === 0 || shown === elements.length ? String(elements.length) : `${String(shown)} of ${String(elements.length)}`;
  }

  protected isShown(group: TreeGroup, element: ModelElement): boolean {
    return this.predicates().get(group.source)?.(element) ?? false;
  }

  protected toggle(group: TreeGroup): void {
    this.opened.set(this.opened() === group.key ? undefined : group.key);
  }

  protected show(key: string, name: string, shown: boolean): void {
    this.live.run({ type: 'show', keys: [key], shown, name: name.slice(0, 200) });
  }

  protected showElement(group: TreeGroup, element: ModelElement): void {
    this.show(groupKeyOf('element', group.source, element.id), element.name || element.id, !this.isShown(group, element));
  }

  protected isolate(group: TreeGroup): void {
    if (group.isolated) this.isolateNothing();
    else this.live.run({ type: 'isolate', keys: [group.key], name: this.wordOf(group).slice(0, 200) });
  }

  protected isolateElement(group: TreeGroup, element: ModelElement): void {
    const name = (element.name || element.id).slice(0, 200);
    this.live.run({ type: 'isolate', keys: [groupKeyOf('element', group.source, element.id)], name });
  }

  protected isolateNothing(): void {
    this.live.run({ type: 'isolate', keys: [], name: 'all' });
  }

  protected asAtFirst(): void {
    this.live.run({ type: 'show-as-at-first' });
  }

  protected chooseVariant(source: string, option: string | null, phase: string | null): void {
    this.live.run({ type: 'choose-variant', source, option, phase });
  }

  protected keep(event: Event, input: HTMLInputElement): void {
    event.preventDefault();
    const name = input.value.trim();
    if (!name) return;
    this.live.run({ type: 'keep-shown', id: crypto.randomUUID(), name });
    input.value = '';
  }

  protected useKept(id: string): void {
    this.live.run({ type: 'use-shown', id });
  }

  protected dropKept(id: string): void {
    this.live.run({ type: 'drop-shown', id });
  }

  protected valueOf(event: Event): string {
    return (event.target as HTMLInputElement).value;
  }
}
