import type { Vec3 } from '../geometry/vec3';
import { groupKeyOf } from '../project/visibility';
import { corner, doubleArea, keyOf, middleOf, nameOf, refOf, sizeOf, type Body } from './body';
import { findingId, type Check, type Finding, type Severity } from './finding';

/** Faces smaller than this have no area that could be seen, m2. */
const NO_AREA_M2 = 1e-10;
const SPECK_M = 0.005;
/** Keeps the round numbers that people build with away from where rounding turns. */
const OFF_ROUND_M = 0.00037;
/** Nothing belongs to a building that lies so far from the rest of it. */
const FAR_M = 500;
const HEAVY_TRIANGLES = 50_000;
/** Elements of a building that enclose a volume. */
const SOLID_CLASSES = new Set(['Wall', 'WallStandardCase', 'Slab', 'Column', 'Beam', 'Member', 'Footing', 'Pile']);

const hide = (body: Body): Finding['remedy'] => ({
  label: 'Hide it',
  command: { type: 'show', keys: [groupKeyOf('element', body.source, body.element.id)], shown: false, name: nameOf(body).slice(0, 200) },
});

function finding(check: Check, severity: Severity, body: Body, words: string, remedy: Finding['remedy'] = null): Finding {
  return {
    id: findingId(check, keyOf(body)), check, severity, words, elements: [refOf(body)], place: middleOf(body.bounds), sizeM: sizeOf(body.bounds), remedy,
  }; // prettier-ignore
}

/** How the edges of a body meet. */
interface Edges {
  /** Edges of one face only. */
  open: number;
  /** Edges whose two faces look to opposite sides. */
  torn: number;
  /** Enclosed volume if closed, m3; negative when the faces look inwards. */
  volumeM3: number;
  degenerate: number;
}

function edgesOf(body: Body): Edges {
  const { indices, positions } = body;
  const count = positions.length / 3;
  const uses = new Map<number, number>();
  const directed = new Map<number, number>();
  let [degenerate, volumeM3] = [0, 0];
  const [ox, oy, oz] = corner(body, 0);
  for (let t = 0; t < indices.length; t += 3) {
    const [i, j, k] = [indices[t]!, indices[t + 1]!, indices[t + 2]!];
    const [a, b, c] = [corner(body, i), corner(body, j), corner(body, k)];
    const n = doubleArea(a, b, c);
    if (i === j || j === k || k === i || Math.hypot(...n) / 2 < NO_AREA_M2) {
      degenerate++;
      if (i === j || j === k || k === i) continue;
    }
    volumeM3 += ((a[0] - ox) * n[0] + (a[1] - oy) * n[1] + (a[2] - oz) * n[2]) / 6;
    for (const [p, q] of [
      [i, j],
      [j, k],
      [k, i],
    ] as const) {
      // prettier-ignore
      const either = Math.min(p, q) * count + Math.max(p, q);
      uses.set(either, (uses.get(either) ?? 0) + 1);
      directed.set(p * count + q, (directed.get(p * count + q) ?? 0) + 1);
    }
  }
  let torn = 0;
  const single: [number, number][] = [];
  for (const [key, n] of uses) {
    if (n === 1) single.push([Math.floor(key / count), key % count]);
    else if (n === 2) {
      const [p, q] = [Math.floor(key / count), key % count];
      if (directed.get(p * count + q) === 2 || directed.get(q * count + p) === 2) torn++;
    }
  }
  const open = uncovered(
    body,
    single.map(([p, q]) => (directed.has(p * count + q) ? [p, q] : [q, p])),
  );
  return { open, torn, volumeM3, degenerate };
}

/**
 * How many edges are left open when those that run along each other in opposite directions are closed, also where one long edge
 * meets several short ones, as triangulations leave them.
 */
function uncovered(body: Body, edges: readonly (readonly [number, number])[]): number {
  const lines = new Map<string, { from: number; to: number; sign: number }[]>();
  for (const [p, q] of edges) {
    const [a, b] = [corner(body, p), corner(body, q)];
    const length = Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]);
    let d: Vec3 = [(b[0] - a[0]) / length, (b[1] - a[1]) / length, (b[2] - a[2]) / length];
    const lead = d.find((v) => Math.abs(v) > 1e-3) ?? 1;
    const sign = lead < 0 ? -1 : 1;
    if (sign < 0) d = [-d[0], -d[1], -d[2]];
    const [s, t] = [a[0] * d[0] + a[1] * d[1] + a[2] * d[2], b[0] * d[0] + b[1] * d[1] + b[2] * d[2]];
    const foot = a.map((v, k) => v - s * d[k]!);
    const key = [...d, ...foot].map((v) => String(Math.round((v + OFF_ROUND_M) * 500))).join(' ');
    const list = lines.get(key) ?? [];
    list.push({ from: Math.min(s, t), to: Math.max(s, t), sign });
    lines.set(key, list);
  }
  let open = 0;
  for (const list of lines.values()) {
    const ends = [...new Set(list.flatMap((e) => [e.from, e.to]))].sort((x, y) => x - y);
    for (let i = 0; i + 1 < ends.length; i++) {
      const [low, high] = [ends[i]!, ends[i + 1]!];
      if (high - low < 2e-4) continue;
      const middle = (low + high) / 2;
      const net = list.reduce((sum, e) => (e.from < middle && middle < e.to ? sum + e.sign : sum), 0);
      open += Math.abs(net);
    }
  }
  return open;
}

/** What is wrong with the surfaces of single elements. */
export function checkSurfaces(bodies: readonly Body[]): Finding[] {
  const out: Finding[] = [];
  for (const body of bodies) {
    const size = sizeOf(body.bounds);
    if (size < SPECK_M) {
      out.push(finding('specks', 'note', body, `${nameOf(body)} is ${(size * 1000).toFixed(1)} mm large.`, hide(body)));
      continue;
    }
    const { open, torn, volumeM3, degenerate } = edgesOf(body);
    const faces = body.indices.length / 3;
    if (degenerate > 0)
      out.push(
        finding(
          'degenerate',
          degenerate === faces ? 'warning' : 'note',
          body,
          degenerate === faces
            ? `None of the faces of ${nameOf(body)} has an area.`
            : `${plural(degenerate, 'face')} of ${nameOf(body)} without area.`,
          degenerate === faces ? hide(body) : null,
        ),
      );
    if (degenerate === faces) continue;
    if (open > 0 && SOLID_CLASSES.has(body.element.class))
      out.push(
        finding('open', 'warning', body, `${nameOf(body)} should be closed and has ${plural(open, 'open edge')}; light can leak in.`),
      );
    if (torn > 0)
      out.push(finding('flipped', 'fault', body, `Some faces of ${nameOf(body)} look the other way than their neighbours.`, turn(body)));
    else if (open === 0 && volumeM3 < -1e-9)
      out.push(finding('flipped', 'fault', body, `All faces of ${nameOf(body)} look inwards.`, turn(body)));
  }
  return out;
}

const turn = (body: Body): Finding['remedy'] => ({
  label: 'Turn its faces outwards',
  command: { type: 'turn-faces', source: body.source, element: body.element.id, turned: true, name: nameOf(body).slice(0, 200) },
});

const plural = (n: number, word: string) => `${String(n)} ${word}${n === 1 ? '' : 's'}`;

/** Elements that lie far out, and such as hold more triangles than all they show is worth. */
export function checkExtent(bodies: readonly Body[]): Finding[] {
  if (bodies.length === 0) return [];
  const middles = bodies.map((b) => middleOf(b.bounds));
  const centre = [0, 1, 2].map((k) => middles.map((m) => m[k]!).sort((a, b) => a - b)[middles.length >> 1]!);
  const distances = middles.map((m) => Math.hypot(m[0] - centre[0]!, m[1] - centre[1]!, m[2] - centre[2]!));
  const usual = [...distances].sort((a, b) => a - b)[Math.floor(distances.length * 0.9)]!;
  const out: Finding[] = [];
  bodies.forEach((body, i) => {
    // What reaches back to the building, such as terrain, is not apart from it.
    const apart = distances[i]! - sizeOf(body.bounds) / 2;
    if (apart > Math.max(FAR_M, usual * 10))
      out.push(
        finding(
          'far',
          'warning',
          body,
          `${nameOf(body)} lies ${Math.round(distances[i]!).toLocaleString('en')} m from the rest.`,
          hide(body),
        ),
      );
    const triangles = body.indices.length / 3;
    if (triangles > HEAVY_TRIANGLES)
      out.push(
        finding(
          'heavy',
          'note',
          body,
          `${nameOf(body)} has ${triangles.toLocaleString('en')} triangles, more than most whole rooms.`,
          hide(body),
        ),
      );
  });
  return out;
}

/** Elements that are there twice. */
export function checkDuplicates(bodies: readonly Body[]): Finding[] {
  const first = new Map<string, Body>();
  const out: Finding[] = [];
  for (const body of bodies) {
    const { parts, transform } = body.element;
    const key = parts.map((p) => p.mesh).join() + transform.map((v) => Math.round(v * 1000)).join();
    const other = first.get(key);
    if (!other) first.set(key, body);
    else
      out.push({
        ...finding('duplicates', 'fault', body, `${nameOf(body)} is there twice, in the same place as ${nameOf(other)}.`, {
          ...hide(body)!,
          label: 'Hide the second one',
        }),
        id: findingId('duplicates', keyOf(other), keyOf(body)),
        elements: [refOf(other), refOf(body)],
      });
  }
  return out;
}
