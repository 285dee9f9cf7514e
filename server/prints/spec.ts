import { conditionNow, CONDITION_PARTS, recalled, withCondition } from '../../core/project/conditions';
import { clock } from '../../core/project/clock';
import { placedSources } from '../../core/project/placed-sources';
import { DEFAULT_EXPOSURE, entry, type Entries, type EntryChange } from '../../core/project/project';
import { isMask, samplesOf, type PrintedState, type PrintOrder, type PrintSpec } from '../../core/render/print';
import { momentOf, skyInputOf } from '../../core/scene/moment';
import { gradingOf } from '../../core/scene/grading-of';
import { compileScene } from '../../core/scene/compile';
import type { ProjectStore } from '../project-store';
import type { SourceStore } from '../source-store';

/** Freezes everything that an order depends on. A sentence: what it asks for is not there. */
export function specOf(order: PrintOrder, project: ProjectStore, sources: SourceStore): PrintSpec | string {
  const entries = entriesFor(order, project.entries);
  if (typeof entries === 'string') return entries;
  const models = sources.models();
  const placed = placedSources(models, entries);
  const moment = momentOf(
    placed.map((s) => s.model),
    entries,
  );
  const condition = order.condition && entry(entries, `condition/${order.condition}`)?.name;
  const scene = compileScene(placed, entries);
  if (scene.instances.length === 0) return 'There is nothing to print yet: link a model first.';
  return {
    order,
    scene,
    sky: skyInputOf(moment),
    grading: gradingOf(entries),
    exposure: entry(entries, 'exposure') ?? DEFAULT_EXPOSURE,
    state: stateIn(entries),
    ...(order.channels.some(isMask) && { named: namesOf(placed) }),
    metadata: {
      View: order.name,
      ...(condition && { Condition: condition }),
      ...(order.option && { Option: optionName(order.option, models) ?? '' }),
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

/** What is decided, with the condition and the option that an order asks for. */
function entriesFor({ condition, option }: PrintOrder, entries: Entries): Entries | string {
  let now = entries;
  if (condition) {
    const kept = entry(entries, `condition/${condition}`);
    if (!kept) return 'The condition of this picture has been dropped meanwhile.';
    now = withCondition(now, kept);
  }
  if (!option) return now;
  const key = `variant/${option.source}` as const;
  return new Map(now).set(key, { phase: null, ...entry(entries, key), option: option.option });
}

type Models = ReturnType<SourceStore['models']>;

export const optionName = ({ source, option }: NonNullable<PrintOrder['option']>, models: Models): string | undefined =>
  models.find(({ id }) => id === source)?.model.presentation.options.find(({ id }) => id === option)?.name;

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

const namesOf = (placed: ReturnType<typeof placedSources>): NonNullable<PrintSpec['named']> =>
  Object.fromEntries(
    placed.flatMap(({ id, model }) =>
      [...model.elements.values()].map((element) => [`${id}/${element.id}`, { name: element.name, layer: element.layer }]),
    ),
  );
