import { conditionNow, CONDITION_PARTS, recalled } from '../../core/project/conditions';
import { cutsOf } from '../../core/project/sections';
import { entriesIn } from '../../core/project/style';
import { entriesUnder, timeOfCondition } from '../../core/project/under';
import { WalkLight, isLit } from '../../core/camera/walk-light';
import { frameCount, WalkWay } from '../../core/camera/walk';
import { clock } from '../../core/project/clock';
import { withSetting } from '../../core/project/setting-source';
import { placedSources } from '../../core/project/placed-sources';
import { DEFAULT_EXPOSURE, entry, type Entries, type EntryChange } from '../../core/project/project';
import { sheetOf } from '../../core/render/drawing-sheet';
import {
  isDrawn,
  isMask,
  samplesOf,
  type LitFrom,
  type PrintedScene,
  type PrintedState,
  type PrintOrder,
  type PrintSpec,
} from '../../core/render/print';
import { momentOf, skyInputOf } from '../../core/scene/moment';
import { gradingOf } from '../../core/scene/grading-of';
import { compileScene, SceneCompiler } from '../../core/scene/compile';
import { whiteOf } from '../../core/image/white-balance';
import { kindsWith } from '../../core/project/kinds';
import { shippedKinds } from '../things/catalogue';
import type { BoundsOf } from '../../core/setting/stand-in';
import type { ProjectStore } from '../project-store';
import type { SourceStore } from '../source-store';

/** What the view of an order holds, where the order leaves it open. */
function asHeld(order: PrintOrder, entries: Entries): PrintOrder {
  const held = order.ev100 === undefined && !order.walk ? entry(entries, `view-exposure/${order.name}`) : undefined;
  return held ? { ...order, ev100: held.ev100, white: order.white ?? whiteOf(held.white) } : order;
}

/** The paper of a drawing in lines, and the scale that it is to. */
function sheetWords({ width, height, projection, camera }: PrintOrder): string {
  const { widthMm, heightMm, scale } = sheetOf(width / height, projection.kind === 'orthographic' ? projection.widthM : camera.parallelM);
  return `${widthMm.toFixed(0)} × ${heightMm.toFixed(0)} mm, ${scale ? `1:${String(scale)}` : 'in perspective'}`;
}

/** A sentence: an option or a section that an order asks for is not there. */
function missingOf({ option, sections = [] }: PrintOrder, entries: Entries, models: Models): string | undefined {
  if (option && optionName(option, models) === undefined) return 'The option of this picture is not there any more.';
  if (sections.some((id) => !entry(entries, `section/${id}`))) return 'A section of this picture has been dropped meanwhile.';
  return undefined;
}

const GONE = 'The condition of this picture has been dropped meanwhile.';

/** Freezes everything that an order depends on. A sentence: what it asks for is not there. */
export function specOf(asked: PrintOrder, project: ProjectStore, sources: SourceStore, boundsOf: BoundsOf): PrintSpec | string {
  const order = asHeld(asked, project.entries);
  const { condition: wanted, option } = order;
  const missing = missingOf(order, project.entries, sources.models());
  if (missing) return missing;
  const decided = order.style ? entriesIn(project.entries, order.style) : project.entries;
  const before = entriesUnder(decided, {
    ...(order.shown && { shown: order.shown }),
    ...(wanted && { condition: wanted }),
    ...(option && { option }),
  });
  const light = order.walk && isLit(order.walk) ? new WalkLight(order.walk, (id) => timeOfCondition(project.entries, id)) : undefined;
  const entries = before && light ? entriesUnder(before, light.at(0)) : before;
  if (!entries) return GONE;
  const models = sources.models();
  const placed = placedIn(models, entries, boundsOf);
  const moment = momentOf(
    placed.map((s) => s.model),
    entries,
  );
  const condition = order.condition && entry(entries, `condition/${order.condition}`)?.name;
  const scene = compileScene(placed, entries);
  if (scene.instances.length === 0) return 'There is nothing to print yet: link a model first.';
  const cuts = cutsOf(entries, order.sections ?? []);
  const along = light && alongWalk(order.walk!, light, before!, models, boundsOf);
  if (along === GONE) return GONE;
  return {
    order,
    scene,
    ...(along && { along }),
    ...(cuts && { cuts }),
    ...(entry(entries, 'drawing') && { drawing: entry(entries, 'drawing') }),
    sky: skyInputOf(moment),
    ...developedIn(entries),
    state: stateIn(entries),
    ...(order.channels.some(isMask) && { named: namesOf(placed) }),
    metadata: {
      View: order.name,
      ...(condition && { Condition: condition }),
      ...(entry(entries, 'style') && { Style: entry(entries, 'style') }),
      ...(order.option && { Option: optionName(order.option, models) ?? '' }),
      ...(isDrawn(order.format) && { Sheet: sheetWords(order) }),
      FocalLengthMm: String(order.camera.focalMm),
      EyeHeightM: order.camera.position[2].toFixed(2),
      LocalTime: `${moment.sun.date} ${clock(moment.sun.minutes)} ${moment.zone}`,
      Site: `${moment.site.name}, ${moment.site.latitudeDeg.toFixed(4)}, ${moment.site.longitudeDeg.toFixed(4)}`,
      TrueNorthDeg: moment.site.trueNorthDeg.toFixed(2),
      SunAltitudeDeg: moment.position.altitudeDeg.toFixed(2),
      SunAzimuthDeg: moment.position.azimuthDeg.toFixed(2),
      ExposureEv100: order.ev100 === undefined ? 'measured' : order.ev100.toFixed(2),
      Revision: models.map((m) => `${m.id} ${String(m.revision)}`).join(', '),
      Samples: String(samplesOf(order)),
      Seed: String(order.seed),
      Denoised: order.denoise ? 'yes' : 'no',
    },
  };
}

type Models = ReturnType<SourceStore['models']>;

/** Models where they stand, and what is set about them. */
const placedIn = (models: Models, entries: Entries, boundsOf: BoundsOf) =>
  withSetting(placedSources(models, entries), entries, kindsWith(shippedKinds(), entries), undefined, boundsOf);

/** Whatever a walk is seen under from picture to picture, and at the moments between that it is dissolved at. */
function alongWalk(walk: NonNullable<PrintOrder['walk']>, light: WalkLight, entries: Entries, models: Models, boundsOf: BoundsOf): NonNullable<PrintSpec['along']> | typeof GONE {
  const compiler = new SceneCompiler();
  const numbers = new Map<string, number>();
  const scenes: PrintedScene[] = [];
  const lit: LitFrom[] = [];
  for (const shotS of momentsOf(walk)) {
    const under = light.at(shotS);
    const now = entriesUnder(entries, under);
    if (!now) return GONE;
    const placed = placedIn(models, now, boundsOf);
    const key = JSON.stringify([under.shown, under.condition, under.option]);
    let scene = numbers.get(key);
    if (scene === undefined) {
      scene = scenes.length;
      numbers.set(key, scene);
      const { instances, lamps, ground } = compiler.compile(placed, now);
      scenes.push({ scene: { instances, lamps, ...(ground && { ground }) }, ...developedIn(now) });
    }
    const sky = skyInputOf(momentOf(placed.map((s) => s.model), now)); // prettier-ignore
    const last = lit.at(-1);
    if (last?.scene !== scene || JSON.stringify(last.sky) !== JSON.stringify(sky)) lit.push({ shotS, scene, sky });
  }
  return { scenes, lit };
} // prettier-ignore

/** Moments at which a walk is seen, in order. */
function momentsOf(walk: NonNullable<PrintOrder['walk']>): number[] {
  const way = new WalkWay(walk);
  const frames = Array.from({ length: frameCount(walk, walk.framesPerSecond) }, (_, i) => i / walk.framesPerSecond);
  return [...new Set(frames.flatMap((at) => way.seenAt(at).map(({ shotS }) => shotS)))].sort((a, b) => a - b);
}

export const optionName = ({ source, option }: NonNullable<PrintOrder['option']>, models: Models): string | undefined =>
  models.find(({ id }) => id === source)?.model.presentation.options.find(({ id }) => id === option)?.name;

const developedIn = (entries: Entries): Required<Pick<PrintedScene, 'grading' | 'exposure'>> => ({
  grading: gradingOf(entries),
  exposure: entry(entries, 'exposure') ?? DEFAULT_EXPOSURE,
});

const isOfShown = (key: string): boolean => key === 'visibility' || key.startsWith('variant/');

const stateIn = (entries: Entries): PrintedState => ({
  condition: conditionNow(entries, '', CONDITION_PARTS),
  shown: Object.fromEntries([...entries].filter(([key]) => isOfShown(key))),
});

/** What changes where a print's state is shown again. */
export function shownAgain(entries: Entries, { condition, shown }: PrintedState): EntryChange[] {
  const keys = new Set([...[...entries.keys()].filter(isOfShown), ...Object.keys(shown)]);
  const others = [...keys].map((key) => ({ key, before: entries.get(key), after: shown[key] }));
  return [...recalled(entries, condition), ...others.filter(({ before, after }) => JSON.stringify(before) !== JSON.stringify(after))];
}

const namesOf = (placed: ReturnType<typeof placedIn>): NonNullable<PrintSpec['named']> =>
  Object.fromEntries(
    placed.flatMap(({ id, model }) =>
      [...model.elements.values()].map((element) => [`${id}/${element.id}`, { name: element.name, layer: element.layer }]),
    ),
  );
