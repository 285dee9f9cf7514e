import { ALL_AS_AT_FIRST, type Visibility } from '../model/visibility-decisions';
import { isShown, NOT_BUILT, type Model } from '../model/model';
import type { ModelElement, Presentation } from '../model/schema';
import { entry, type Entries } from './project';

/** What elements can be shown and hidden by. */
export type GroupKind = 'source' | 'layer' | 'storey' | 'class' | 'element';
export type Grouping = Exclude<GroupKind, 'source' | 'element'>;

export function visibilityOf(entries: Entries): Visibility {
  return entry(entries, 'visibility') ?? ALL_AS_AT_FIRST;
}

export const groupKeyOf = (kind: GroupKind, source: string, name = '') =>
  kind === 'source' ? `source/${source}` : `${kind}/${source}/${name}`;

/** Layers of these names carry drawing, not building. */
const DRAWN_LAYERS = new Set([
  'annotation', 'annotations', 'anno', 'dimension', 'dimensions', 'text', 'texts', 'labels', 'grid', 'grids', 'gridlines', 'grid lines', 'axes', 'defpoints',
]); // prettier-ignore

/** Why a layer or class is hidden at first, or undefined. */
export function hiddenAtFirst(kind: GroupKind, name: string, presentation: Presentation): string | undefined {
  if (kind === 'layer' && presentation.hiddenLayers.includes(name)) return 'off in its author’s file';
  if (kind === 'layer' && DRAWN_LAYERS.has(name.toLowerCase())) return 'drawing, not building';
  if (kind === 'class' && NOT_BUILT.has(name)) return 'never built';
  return undefined;
}

/** The author's presentation with the option and phase that were chosen here. */
export function shownPresentation(entries: Entries, source: string, model: Model): Presentation {
  const variant = entry(entries, `variant/${source}`);
  if (!variant) return model.presentation;
  const { options, phases, option, phase } = model.presentation;
  return {
    ...model.presentation,
    option: options.some((o) => o.id === variant.option) ? variant.option! : option,
    phase: phases.some((p) => p.id === variant.phase) ? variant.phase! : phase,
  };
}

/** Which elements of one source are shown. */
export function shownElements(entries: Entries, source: string, model: Model): (element: ModelElement) => boolean {
  const { decisions, isolated } = visibilityOf(entries);
  // Layers are judged by their groups; here only options and phases are left to the presentation.
  const presentation = shownPresentation(entries, source, model);
  const alone = new Set(isolated);
  const hides = (kind: GroupKind, name: string) =>
    !(decisions[groupKeyOf(kind, source, name)] ?? hiddenAtFirst(kind, name, model.presentation) === undefined);
  const groups = new Map<string, { hidden: boolean; alone: boolean }>();
  const group = (kind: GroupKind, name: string) => {
    const key = groupKeyOf(kind, source, name);
    let known = groups.get(key);
    if (!known) groups.set(key, (known = { hidden: hides(kind, name), alone: alone.has(key) }));
    return known;
  };
  const whole = group('source', '');
  const layers = remember((name) => group('layer', name));
  const storeys = remember((name) => group('storey', name));
  const classes = remember((name) => group('class', name));
  const own = new Map<string, boolean>();
  const ownPrefix = groupKeyOf('element', source);
  for (const [key, shown] of Object.entries(decisions)) if (key.startsWith(ownPrefix)) own.set(key.slice(ownPrefix.length), shown);
  const ownAlone = new Set(isolated.filter((key) => key.startsWith(ownPrefix)).map((key) => key.slice(ownPrefix.length)));
  return (element) => {
    if (!isShown(element, presentation, NONE)) return false;
    const decided = own.get(element.id);
    if (alone.size > 0) {
      const belongs = [whole, layers(element.layer), storeys(element.storey), classes(element.class)];
      if (ownAlone.has(element.id)) return true;
      // What is isolated is shown even if it is hidden at other times; what is hidden within it stays so.
      return belongs.some((g) => g.alone) && decided !== false && belongs.every((g) => !g.hidden || g.alone);
    }
    return decided ?? !(whole.hidden || layers(element.layer).hidden || storeys(element.storey).hidden || classes(element.class).hidden);
  };
}

const NONE: ReadonlySet<string> = new Set();

function remember<T>(of: (name: string) => T): (name: string) => T {
  const known = new Map<string, T>();
  return (name) => {
    let value = known.get(name);
    if (value === undefined) known.set(name, (value = of(name)));
    return value;
  };
}
