import * as v from 'valibot';
import { shownSchema, type Shown } from '../../core/model/shown';
import { entriesUnder } from '../../core/project/under';
import { kindsWith } from '../../core/project/kinds';
import { placedSources } from '../../core/project/placed-sources';
import { DEFAULT_EXPOSURE, entry, type Entries } from '../../core/project/project';
import { withSetting } from '../../core/project/setting-source';
import { compileScene } from '../../core/scene/compile';
import { gradingOf, gradingWithCube } from '../../core/scene/grading-of';
import { momentOf, skyInputOf } from '../../core/scene/moment';
import type { Scene } from '../../core/scene/scene';
import type { Metering } from '../../core/image/exposure';
import type { Grading } from '../../core/image/grading';
import { whiteOf, type WhiteBalance } from '../../core/image/white-balance';
import { cameraSchema, type Camera } from '../../core/model/schema';
import type { SkyInput } from '../../core/sky/sky-map';
import type { BoundsOf } from '../../core/setting/stand-in';
import type { ProjectStore } from '../project-store';
import type { SourceStore } from '../source-store';
import { shippedKinds } from '../things/catalogue';

const text = v.pipe(v.string(), v.minLength(1), v.maxLength(200));

/** What a person orders: looks, each under a condition, with an option, at a time of day; and views to begin from. */
export const viewerOrderSchema = v.strictObject({
  name: text,
  looks: v.pipe(
    v.array(
      v.strictObject({
        name: text,
        condition: v.optional(text),
        option: v.optional(v.strictObject({ source: text, option: text })),
        minutes: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(1439))),
      }),
    ),
    v.minLength(1, 'A viewer has one look at least.'),
    v.maxLength(12, 'A viewer has twelve looks at most.'),
  ),
  views: v.pipe(v.array(v.strictObject({ name: text, camera: cameraSchema, shown: v.optional(shownSchema) })), v.minLength(1, 'A viewer begins from a view.'), v.maxLength(100)),
  /** Samples a point of the baked light. */
  samples: v.optional(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(1024)), 32),
}); // prettier-ignore
export type ViewerOrder = v.InferOutput<typeof viewerOrderSchema>;

/** An order with everything that it depends on. */
export interface ViewerSpec {
  project: string;
  name: string;
  made: string;
  samples: number;
  poster: Camera;
  /** `state`: number of what it shows, 0 as the looks do; `ev100`: what it holds. */
  views: { name: string; camera: Camera; state: number; ev100?: number }[];
  looks: {
    name: string;
    date: string;
    minutes: number;
    scene: Scene;
    /** What it is in the further states of what views show. */
    others: Scene[];
    sky: SkyInput;
    exposure: { ev100: number | undefined; metering: Metering; white: WhiteBalance | undefined };
    grading: { grading?: Grading };
  }[];
}

function heldBy(view: string, entries: Entries): { ev100?: number } {
  const held = entry(entries, `view-exposure/${view}`);
  return held ? { ev100: held.ev100 } : {};
}

/** A sentence: what it asks for is not there. */
export function viewerSpecOf(order: ViewerOrder, projectName: string, made: string, project: ProjectStore, sources: SourceStore, boundsOf: BoundsOf): ViewerSpec | string {
  const looks: ViewerSpec['looks'] = [];
  const states = [...new Map(order.views.flatMap(({ shown }) => (shown ? [[JSON.stringify(shown), shown] as const] : [])))];
  const compiled = (entries: Entries) => {
    const models = withSetting(placedSources(sources.models(), entries), entries, kindsWith(shippedKinds(), entries), undefined, boundsOf);
    return { models, scene: compileScene(models, entries) };
  };
  for (const { name, condition, option, minutes } of order.looks) {
    const under = (shown?: Shown) => entriesUnder(project.entries, { ...(shown && { shown }), ...(condition && { condition }), ...(option && { option }), ...(minutes !== undefined && { minutes }) });
    const now = under();
    if (!now) return 'A condition of this viewer has been dropped meanwhile.';
    const { models, scene } = compiled(now);
    const others = states.map(([, shown]) => compiled(under(shown)!).scene);
    if (scene.instances.length === 0) return 'There is nothing to show yet: link a model first.';
    const moment = momentOf(models.map(({ model }) => model), now); // prettier-ignore
    const { mode, ev100, white, metering = 'all' } = entry(now, 'exposure') ?? DEFAULT_EXPOSURE;
    looks.push({
      name, scene, others, date: moment.sun.date, minutes: moment.sun.minutes, sky: skyInputOf(moment),
      exposure: { ev100: mode === 'fixed' ? ev100 : undefined, metering, white: white && whiteOf(white) },
      grading: { grading: gradingWithCube(gradingOf(now)).grading },
    }); // prettier-ignore
  }
  const { name, samples } = order;
  const views = order.views.map(({ name: called, camera, shown }) => ({ ...heldBy(called, project.entries), name: called, camera, state: shown ? 1 + states.findIndex(([key]) => key === JSON.stringify(shown)) : 0 }));
  return { project: projectName, name, made, samples, views, poster: views[0]!.camera, looks };
} // prettier-ignore
