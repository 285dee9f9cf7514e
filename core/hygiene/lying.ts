import { addTo } from '../grouping';
import { entry, type Entries } from '../project/project';
import { AS_IT_COMES, type Placement } from '../project/placement';
import { nameOf, type Body } from './body';
import { findingId, type Finding } from './finding';

/** Sources that lie on their side, as files do that say nothing of which axis points up. */

const LEVEL =
  /^(slab|covering|footing)$|(^|[^a-zà-ž])(floors?|slabs?|ceilings?|b[oö]den|decken?|dalles?|planchers?|solai?o?|forjados?|vloer(en)?)($|[^a-zà-ž])/i;
const UPRIGHT = /^wall|(^|[^a-zà-ž])(walls?|w[aä]nde?|murs?|muri|muros?|muren)($|[^a-zà-ž])/i;
const TOP = /^roof$|(^|[^a-zà-ž])(roofs?|d[aä]ch(er)?|toits?|tetto|tejados?|dak(en)?)($|[^a-zà-ž])/i;
/** So much of the area that names speak of has to face an axis. */
const MOST = 0.7;

type Axes = [x: number, y: number, z: number];

/** What faces each axis, m2, either way. */
function facing({ positions, indices }: Body): Axes {
  const areas: Axes = [0, 0, 0];
  const edge = (a: number, b: number): Axes => [0, 1, 2].map((k) => positions[b * 3 + k]! - positions[a * 3 + k]!) as Axes;
  for (let t = 0; t < indices.length; t += 3) {
    const [u, v] = [edge(indices[t]!, indices[t + 1]!), edge(indices[t]!, indices[t + 2]!)];
    for (let k = 0; k < 3; k++) areas[k]! += Math.abs(u[(k + 1) % 3]! * v[(k + 2) % 3]! - u[(k + 2) % 3]! * v[(k + 1) % 3]!) / 2;
  }
  return areas;
}

const said = (body: Body, words: RegExp): boolean =>
  words.test(body.element.class) || words.test(nameOf(body)) || words.test(body.element.layer);
const sum = (bodies: readonly Body[]): Axes => bodies.map(facing).reduce((all, one) => all.map((a, k) => a + one[k]!) as Axes, [0, 0, 0]);
const middle = (bodies: readonly Body[], k: number): number =>
  bodies.reduce((all, { bounds }) => all + (bounds.min[k]! + bounds.max[k]!) / 2, 0) / bodies.length;

/** The axis that points up in a source, by what its floors and walls face; without their names, by its proportions; undefined: not told. */
function upAxisOf(bodies: readonly Body[]): 0 | 1 | 2 | undefined {
  const floors = sum(bodies.filter((body) => said(body, LEVEL)));
  const walls = sum(bodies.filter((body) => said(body, UPRIGHT)));
  const [level, upright] = [floors, walls].map((areas) => areas[0] + areas[1] + areas[2]) as [number, number];
  for (const axis of [0, 1, 2] as const)
    if (level > 0 ? floors[axis] > MOST * level : upright > 0 && walls[axis] < 0.1 * upright && bothOthers(walls, axis, upright))
      return axis;
  if (level > 0 || upright > 0) return undefined;
  // A building is spread out along the ground, and most of what it shows from above lies level.
  const size = [0, 1, 2].map((k) => Math.max(...bodies.map((b) => b.bounds.max[k]!)) - Math.min(...bodies.map((b) => b.bounds.min[k]!)));
  const areas = sum(bodies);
  const flat = ([0, 1, 2] as const).find((k) =>
    [0, 1, 2].every((o) => o === k || (size[k]! < 0.45 * size[o]! && areas[k] > 1.5 * areas[o]!)),
  );
  return bodies.length >= 3 ? flat : undefined;
}

const bothOthers = (areas: Axes, axis: number, all: number): boolean => areas.every((area, k) => k === axis || area > 0.2 * all);

/** A source whose floors stand and whose walls lie; the remedy raises it. */
export function checkLying(bodies: readonly Body[], names: ReadonlyMap<string, string>, entries: Entries): Finding[] {
  const bySource = new Map<string, Body[]>();
  for (const body of bodies) addTo(bySource, body.source, body);
  return [...bySource].flatMap(([source, own]): Finding[] => {
    const axis = upAxisOf(own);
    if (axis === undefined || axis === 2) return [];
    const before = entry(entries, `placement/${source}`) ?? AS_IT_COMES;
    const up = before.up === 'z' ? upwards(own, axis) : 'z';
    const name = names.get(source) ?? source;
    return [
      {
        id: findingId('lying', source),
        check: 'lying',
        severity: 'fault',
        words: `${name} lies on its side: its floors stand upright. Files that say nothing of which way is up come so.`,
        elements: own.slice(0, 200).map(({ element }) => ({ source, element: element.id })),
        place: null,
        sizeM: 0,
        // Of a source that somebody has turned, which way it fell is not told by the project's axes.
        remedy:
          before.turnDeg !== 0 && before.up === 'z'
            ? null
            : {
                label: up === 'z' ? 'Take it as it comes' : `Raise ${name}`.slice(0, 60),
                command: { type: 'place-source', sources: [source], placement: { ...before, up }, name: name.slice(0, 200) },
              },
      },
    ];
  });
}

/** Roofs are above floors; where neither is named, glTF that was written z-up comes with its top along -y. */
function upwards(bodies: readonly Body[], axis: 0 | 1): Placement['up'] {
  const [tops, floors] = [bodies.filter((body) => said(body, TOP)), bodies.filter((body) => said(body, LEVEL))];
  const along = tops.length > 0 && floors.length > 0 ? middle(tops, axis) - middle(floors, axis) : 0;
  return axis === 1 ? (along > 0 ? 'y' : '-y') : along < 0 ? '-x' : 'x';
}
