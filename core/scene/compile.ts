import { addTo } from '../grouping';
import type { UvOverride } from '../finish/uv-override';
import { type Finish, PLAIN_VARIATION } from '../finish/finish';
import { pictureMapsName } from './material-pictures';
import { variationOf } from '../finish/variation';
import { meanScale, multiply, translation } from '../geometry/mat4';
import { authoredUvsKey, faceOverrideKey, fromFacesKey, turnedKey } from '../geometry/mesh';
import { LayeredMap } from '../model/layered-map';
import type { Model } from '../model/model';
import type { ModelElement } from '../model/schema';
import { styledFinish, type StyleKind } from '../project/style';
import { LIGHTING_KEYS, litLevel, photometryOf } from '../project/lighting';
import { entry, findFinish, overrideKey, type Entries } from '../project/project';
import { shownElements } from '../project/visibility';
import { lampOf, lensNumber, litPlacedLamps } from './lamps';
import { finishOfMaterial, type Scene, type SceneInstance, type SceneLamp, type SceneSource } from './scene';

/** Decisions that no scene is made of: what is seen how, from where, and what is written beside it; what is set comes as a source. */
const NO_SCENE =
  '^(sun|site|sky|weather|exposure|grading|follow|hygiene|stand-ins|section-fills|drawing|view-order)$|^(excused|shown|note|view|view-exposure|section|remark|walk|look|condition|set|land|kind)/';
const NO_SCENE_KEYS = new RegExp(NO_SCENE);
const WEAR_KEYS = new RegExp(`${NO_SCENE}|^(assign|finish)/`);
const LIT_KEYS = new RegExp(`${NO_SCENE}|${LIGHTING_KEYS}`);
const SHOWN_KEYS = new RegExp(`${NO_SCENE}|^visibility$|^variant/`);

/** Whether two states of decisions make the same scene of the same models. */
export const makeSameScene = (a: Entries, b: Entries): boolean => a === b || differOnlyIn(NO_SCENE_KEYS, a, b);

/** How a scene differs from the one with another number. */
export interface SceneStep {
  from: number;
  removed: readonly SceneInstance[];
  added: readonly SceneInstance[];
}

/** A scene among others of one compiler. What has not changed since the last one are the same objects. */
export interface NumberedScene extends Scene {
  number: number;
  /** Where only a few elements differ from the scene before. */
  step?: SceneStep;
}

/** Two steps, one after the other, as one. */
export function joinSteps(first: SceneStep, second: SceneStep): SceneStep {
  const came = new Set(first.added);
  const passing = new Set(second.removed.filter((instance) => came.has(instance)));
  return {
    from: first.from,
    removed: [...first.removed, ...second.removed.filter((instance) => !passing.has(instance))],
    added: [...first.added.filter((instance) => !passing.has(instance)), ...second.added],
  };
}

/** Compiles models and decisions into one scene. */
export const compileScene = (sources: readonly SceneSource[], entries: Entries): Scene => new SceneCompiler().compile(sources, entries);

/** Compiles one scene after the other, so that an edit of one element costs what one element costs. */
export class SceneCompiler {
  private number = 0;
  private readonly compiled = new WeakMap<ModelElement, Compiled>();
  private last: Compilation | undefined;

  compile(sources: readonly SceneSource[], entries: Entries): NumberedScene {
    const { last } = this;
    if (last && makeSameScene(last.entries, entries)) {
      const edited = editedElements(last.sources, sources);
      if (edited) return this.stepTo(edited, { sources, entries, rules: last.rules, lamps: last.lamps });
    }
    const rules = sources.map((source) => rulesOf(source, entries));
    const lamps = sources.flatMap((source, i) => lampsOf(source, rules[i]!));
    if (last?.sources.length === sources.length && sources.every(({ id, model }, i) => isSource(last.sources[i], id, model))) {
      if (differOnlyIn(WEAR_KEYS, last.entries, entries)) {
        const assigned = sources.map(({ model }, i) => [
          ...new Set([...users(model, changedFinishes(last.rules[i]!, rules[i]!)), ...overridden(rules[i]!, last.entries)]),
        ]);
        return this.stepTo(assigned, { sources, entries, rules, lamps: last.lamps });
      }
      if (differOnlyIn(LIT_KEYS, last.entries, entries)) {
        const relit = rules.map(({ dims }, i) => [...dims].flatMap(([id, dim]) => (last.rules[i]!.dims.get(id) === dim ? [] : [id])));
        return this.stepTo(relit, { sources, entries, rules, lamps });
      }
      if (differOnlyIn(SHOWN_KEYS, last.entries, entries)) {
        return this.turnTo({ sources, entries, rules, lamps });
      }
    }
    this.last = { sources, entries, rules, lamps };
    return {
      number: ++this.number,
      instances: this.allInstances(sources, rules),
      lamps: [...lamps, ...litPlacedLamps(sources, entries, hiddenIn(sources, rules))],
      ground: groundIn(entries),
    };
  }

  /** On from the last scene, from which only these elements differ, source by source, and perhaps the lamps. */
  private stepTo(differing: readonly (readonly string[])[], now: Compilation): NumberedScene {
    const last = this.last!;
    const made = ({ sources, rules }: Compilation) =>
      differing.map((ids, i) =>
        ids.map((id) => {
          const element = sources[i]!.model.elements.get(id);
          return element && rules[i]!.shown(element) ? this.instancesOf(rules[i]!, element) : NOTHING;
        }),
      );
    const before = made(last);
    this.last = now;
    const after = made(now);
    const others = (these: typeof before, those: typeof before) =>
      these.flatMap((lists, i) => lists.filter((list, k) => list !== those[i]![k]).flat());
    return this.step(others(before, after), others(after, before), now);
  }

  /** On from the last scene, from which only what is shown differs. */
  private turnTo(now: Compilation): NumberedScene {
    const last = this.last!;
    const [off, on] = [last, now].map((): ModelElement[][] => now.sources.map(() => [])) as [ModelElement[][], ModelElement[][]];
    for (const [i, { model }] of now.sources.entries())
      for (const element of model.elements.values()) {
        const shown = now.rules[i]!.shown(element);
        if (last.rules[i]!.shown(element) !== shown) (shown ? on : off)[i]!.push(element);
      }
    const of = ({ rules }: Compilation, elements: readonly ModelElement[][]) =>
      elements.flatMap((those, i) => those.flatMap((element) => this.instancesOf(rules[i]!, element)));
    const removed = of(last, off);
    this.last = now;
    return this.step(removed, of(now, on), now);
  }

  private step(
    removed: readonly SceneInstance[],
    added: readonly SceneInstance[],
    { sources, entries, rules, lamps }: Compilation,
  ): NumberedScene {
    const all = () => this.allInstances(sources, rules);
    const from = this.number++;
    return {
      number: this.number,
      step: { from, removed, added },
      get instances() {
        return all();
      },
      lamps: [...lamps, ...litPlacedLamps(sources, entries, hiddenIn(sources, rules))],
      ground: groundIn(entries),
    };
  }

  private allInstances(sources: readonly SceneSource[], rules: readonly SourceRules[]): SceneInstance[] {
    const instances: SceneInstance[] = [];
    for (const [i, { model }] of sources.entries())
      for (const element of model.elements.values())
        if (rules[i]!.shown(element)) for (const instance of this.instancesOf(rules[i]!, element)) instances.push(instance);
    return instances;
  }

  private isCurrent(rules: SourceRules): boolean {
    return this.last?.rules.includes(rules) === true;
  }

  private instancesOf(rules: SourceRules, element: ModelElement): readonly SceneInstance[] {
    const { source, entries, decided, dims, finishes, laidOut, style } = rules;
    const has = decided.has(element.id);
    const override = has ? entry(entries, overrideKey(source, element.id)) : undefined;
    const own = override && findFinish(entries, override.finish);
    const by = has ? entry(entries, `nudge/${source}/${element.id}`) : undefined;
    const turned = has && entry(entries, `turned/${source}/${element.id}`) === true;
    const laid = has ? entry(entries, `laid/${source}/${element.id}`) : undefined;
    const dim = dims.get(element.id);
    const known = this.compiled.get(element);
    if (
      known?.by === by && known?.turned === turned && known.dim === dim && known.laid === laid &&
      known.instances.every((i) => i.source === source && i.finish === styledFinish(own ?? finishes.get(i.material)!, style))
    )
      return known.instances; // prettier-ignore
    const transform = by ? multiply(translation(...by), element.transform) : element.transform;
    const instances = element.parts.map(({ mesh, material }, part): SceneInstance => {
      const finish = styledFinish(own ?? finishes.get(material)!, style);
      const key = turned ? turnedKey(mesh) : mesh;
      const lens = dim !== undefined && finish.emissionCdM2 > 0 && lensNumber(source, element.id);
      const emissionScale = lens ? dim : 1;
      const asLaid = !own && laidOut.has(material);
      // Repeats are counted by the author's coordinates, however large the element is drawn.
      const variation = asLaid ? { ...PLAIN_VARIATION, size: meanScale(transform) } : variationOf(finish, element.id, laid);
      return {
        source,
        element: element.id,
        class: element.class,
        layer: element.layer,
        part,
        material,
        mesh: asLaid ? authoredUvsKey(key) : placedKey(key, finish, laid),
        transform,
        finish,
        emissionScale,
        ...(variation && { variation }),
        lens,
      };
    });
    // An earlier scene may be asked for its instances late; what it makes then is not what the next step begins from.
    if (this.isCurrent(rules)) this.compiled.set(element, { by, turned, laid, dim, instances });
    return instances;
  }
}

/** The mesh as the finish, and what was laid by hand, want it prepared. */
function placedKey(key: string, finish: Finish, laid: UvOverride | undefined): string {
  const begun = finish.origin === 'face' && finish.maps !== null ? fromFacesKey(key) : key;
  return laid?.faces ? faceOverrideKey(begun, laid.faces) : begun;
}

const NOTHING: readonly SceneInstance[] = [];

/** What an element was made into, and what beside the element it was made of. */
interface Compiled {
  by: readonly [number, number, number] | undefined;
  turned: boolean;
  laid: UvOverride | undefined;
  dim: number | undefined;
  instances: readonly SceneInstance[];
}

/** What a scene was made of, and its lamps. */
interface Compilation {
  sources: readonly SceneSource[];
  entries: Entries;
  rules: readonly SourceRules[];
  lamps: SceneLamp[];
}

/** What holds for all elements of a source. */
interface SourceRules {
  source: string;
  entries: Entries;
  shown: (element: ModelElement) => boolean;
  finishes: ReadonlyMap<string, Finish>;
  /** Materials whose pictures lie where their author has laid them. */
  laidOut: ReadonlySet<string>;
  /** Of the luminaires, by the elements that carry them. */
  dims: ReadonlyMap<string, number>;
  /** Ids of the elements that something was decided about, one by one. */
  decided: ReadonlySet<string>;
  style: StyleKind;
}

function rulesOf({ id, model }: SceneSource, entries: Entries): SourceRules {
  const finishes = new Map<string, Finish>();
  const laidOut = new Set<string>();
  for (const material of model.materials.values()) {
    const finish = finishOfMaterial(entries, id, material);
    finishes.set(material.id, finish);
    if (material.texture?.asLaid && finish.maps === pictureMapsName(material.texture)) laidOut.add(material.id);
  }
  const dims = new Map<string, number>();
  for (const lamp of model.luminaires.values()) if (lamp.element !== null) dims.set(lamp.element, litLevel(entries, id, lamp));
  const prefixes = ['element', 'nudge', 'turned', 'laid'].map((kind) => `${kind}/${id}/`);
  const decided = new Set<string>();
  for (const key of entries.keys()) for (const prefix of prefixes) if (key.startsWith(prefix)) decided.add(key.slice(prefix.length));
  const style = entry(entries, 'style') ?? 'photograph';
  return { source: id, entries, shown: shownElements(entries, id, model), finishes, laidOut, dims, decided, style };
}

/** Whether an element is there and not shown. */
const hiddenIn =
  (sources: readonly SceneSource[], rules: readonly SourceRules[]) =>
  (source: string, id: string): boolean => {
    const at = sources.findIndex((each) => each.id === source);
    const element = sources[at]?.model.elements.get(id);
    return element !== undefined && !rules[at]!.shown(element);
  };

const groundIn = (entries: Entries) => entry(entries, 'ground') ?? 'auto';

function lampsOf({ id, model }: SceneSource, { entries, shown }: SourceRules): SceneLamp[] {
  const lamps: SceneLamp[] = [];
  for (const luminaire of model.luminaires.values()) {
    const carrier = luminaire.element === null ? undefined : model.elements.get(luminaire.element);
    const level = litLevel(entries, id, luminaire);
    if (level > 0 && (!carrier || shown(carrier)))
      lamps.push(lampOf(id, luminaire, level, photometryOf(entries, id, model, luminaire)?.text));
  }
  return lamps;
}

/** Ids of the elements that differ, source by source; undefined where more differs than elements that carry no lamp. */
function editedElements(before: readonly SceneSource[], after: readonly SceneSource[]): string[][] | undefined {
  if (before.length !== after.length) return undefined;
  const edited: string[][] = [];
  for (const [i, { id, model }] of after.entries()) {
    const old = before[i]!;
    if (old.id !== id || !alikeButElements(old.model, model)) return undefined;
    const keys = old.model === model ? [] : LayeredMap.differing(old.model.elements, model.elements);
    if (!keys) return undefined;
    const carriers = new Set([...model.luminaires.values()].map(({ element }) => element));
    if (keys.some((key) => carriers.has(key))) return undefined;
    edited.push(keys);
  }
  return edited;
}

/** Whether decisions differ only under keys of a kind. */
export function differOnlyIn(keys: RegExp, before: Entries, after: Entries): boolean {
  const differs = (a: Entries, b: Entries) => [...a].some(([key, value]) => b.get(key) !== value && !keys.test(key));
  return !differs(before, after) && !differs(after, before);
}

const isSource = (source: SceneSource | undefined, id: string, model: Model): boolean => source?.id === id && source.model === model;

/** Materials that have something else. */
const changedFinishes = (before: SourceRules, after: SourceRules): string[] =>
  [...after.finishes].flatMap(([material, finish]) => (before.finishes.get(material) === finish ? [] : [material]));

/** Elements that have by themselves a finish that was another one before. */
function overridden({ source, entries, decided }: SourceRules, before: Entries): string[] {
  return [...decided].filter((element) => {
    const id = entry(entries, overrideKey(source, element))?.finish;
    return id !== undefined && findFinish(before, id) !== findFinish(entries, id);
  });
}

const usersOf = new WeakMap<Model, Map<string, string[]>>();

/** Ids of the elements with a part of one of the materials, in the model's order. */
function users(model: Model, materials: readonly string[]): string[] {
  let known = usersOf.get(model);
  if (!known) {
    known = new Map<string, string[]>();
    usersOf.set(model, known);
    for (const { id, parts } of model.elements.values())
      for (const material of new Set(parts.map((part) => part.material))) {
        addTo(known, material, id);
      }
  }
  return [...new Set(materials.flatMap((material) => known.get(material) ?? []))];
}

const alikeButElements = (a: Model, b: Model): boolean =>
  a.materials === b.materials && a.luminaires === b.luminaires && a.presentation === b.presentation;
