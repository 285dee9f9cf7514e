import { addTo } from '../grouping';
import type { Vec3 } from '../geometry/vec3';
import { centroid, clip, polygonArea, type Point2 } from './clip';
import { isInside } from './inside';
import { corner, doubleArea, keyOf, middleOf, nameOf, nudgeBy, refOf, sizeOf, type Body } from './body';
import { findingId, type Finding } from './finding';

/** Faces this close flicker, metres. */
const NEAR_M = 0.001;
/** Directions are alike within this. */
const ALIKE = 1e-4;
/** Less overlap than this is not seen, m2. */
const LEAST_M2 = 0.0004;
const TERRACE_OFFSET_M = 0.05;
const OFFSET_M = 0.005;
/** A level face of this size and more is ground. */
const GROUND_M2 = 40;
/** What lies so close behind another surface is not seen, metres. */
const COVER_M = 0.002;
const MOST_TRIANGLES = 3_000_000;

interface Face {
  body: number;
  a: Vec3;
  b: Vec3;
  c: Vec3;
  n: Vec3;
  d: number;
}

/** Faces of different elements that lie in one plane, look to the same side and overlap: what flickers. */
export function checkCoplanar(bodies: readonly Body[]): Finding[] {
  if (bodies.reduce((sum, b) => sum + b.indices.length / 3, 0) > MOST_TRIANGLES) return [];
  const planes = new Map<string, Face[]>();
  const level = new Map<number, number>();
  bodies.forEach((body, index) => {
    for (let t = 0; t < body.indices.length; t += 3) {
      const [a, b, c] = [corner(body, body.indices[t]!), corner(body, body.indices[t + 1]!), corner(body, body.indices[t + 2]!)];
      const twice = doubleArea(a, b, c);
      const length = Math.hypot(...twice);
      if (length < LEAST_M2 / 10) continue;
      const n: Vec3 = [twice[0] / length, twice[1] / length, twice[2] / length];
      const face: Face = { body: index, a, b, c, n, d: n[0] * a[0] + n[1] * a[1] + n[2] * a[2] };
      if (n[2] > 0.999) level.set(index, (level.get(index) ?? 0) + length / 2);
      const key = planeKey(n, face.d, 0);
      addTo(planes, key, face);
    }
  });
  const overlaps = new Map<string, { pair: [number, number]; areaM2: number; place: [number, number, number]; normals: Vec3[] }>();
  for (const faces of planes.values()) {
    const sample = faces[0]!;
    // A plane's faces may have been counted to the next number.
    const next = planes.get(planeKey(sample.n, sample.d, 1)) ?? [];
    collect(bodies, [...faces, ...next], faces.length, overlaps);
  }
  return [...overlaps.values()]
    .filter((o) => o.areaM2 >= LEAST_M2)
    .map(({ pair, areaM2, place, normals }) => describe(bodies, level, pair, areaM2, place, normals));
}

function planeKey(n: Vec3, d: number, step: number): string {
  return `${n.map((v) => Math.round(v / (ALIKE * 10))).join(' ')} ${String(Math.floor(d / (NEAR_M * 4)) + step)}`;
}

/** Pairs among `faces` of which at least one is among the first `own`. */
function collect(
  bodies: readonly Body[],
  faces: readonly Face[],
  own: number,
  into: Map<string, { pair: [number, number]; areaM2: number; place: [number, number, number]; normals: Vec3[] }>,
): void {
  if (faces.length < 2) return;
  const n = faces[0]!.n;
  const axis = Math.abs(n[2]) > 0.7 ? 2 : Math.abs(n[1]) > 0.7 ? 1 : 0;
  const [u, v] = axis === 2 ? [0, 1] : axis === 1 ? [0, 2] : [1, 2];
  // Seen along an axis, areas shrink by the cosine.
  const cosine = Math.abs(n[axis]);
  const flat = faces
    .map((face, i) => {
      const points = [face.a, face.b, face.c].map((p): Point2 => [p[u]!, p[v]!]);
      return { face, own: i < own, points, low: Math.min(...points.map((p) => p[0])), high: Math.max(...points.map((p) => p[0])), under: Math.min(...points.map((p) => p[1])), over: Math.max(...points.map((p) => p[1])) }; // prettier-ignore
    })
    .sort((p, q) => p.low - q.low);
  for (const [i, p] of flat.entries())
    for (let j = i + 1; j < flat.length && flat[j]!.low < p.high; j++) {
      const q = flat[j]!;
      if (p.face.body === q.face.body || !(p.own || q.own) || (p.own !== q.own && p.face.d === q.face.d)) continue;
      if (q.under >= p.over || p.under >= q.over || Math.abs(p.face.d - q.face.d) > NEAR_M) continue;
      if (p.face.n[0] * q.face.n[0] + p.face.n[1] * q.face.n[1] + p.face.n[2] * q.face.n[2] < 1 - ALIKE) continue;
      const shared = clip(p.points, q.points);
      const areaM2 = polygonArea(shared) / cosine;
      if (areaM2 < 1e-8) continue;
      const middle = lifted(shared, p.face, axis, u, v);
      // Two faces against a third, such as two columns on one slab, are not seen.
      if (isInside([middle[0] + n[0] * COVER_M, middle[1] + n[1] * COVER_M, middle[2] + n[2] * COVER_M], bodies)) continue;
      const pair: [number, number] = p.face.body < q.face.body ? [p.face.body, q.face.body] : [q.face.body, p.face.body];
      const key = pair.join(' ');
      const known = into.get(key) ?? { pair, areaM2: 0, place: [0, 0, 0], normals: [] };
      known.place = known.place.map((x, k) => (x * known.areaM2 + middle[k]! * areaM2) / (known.areaM2 + areaM2)) as [
        number,
        number,
        number,
      ];
      known.areaM2 += areaM2;
      if (!known.normals.some((m) => m[0] * n[0] + m[1] * n[1] + m[2] * n[2] > 0.99)) known.normals.push(n);
      into.set(key, known);
    }
}

/** The middle of a polygon that was seen along an axis, back in the plane of its face. */
function lifted(points: readonly Point2[], { n, d }: Face, axis: number, u: number, v: number): [number, number, number] {
  const out: [number, number, number] = [0, 0, 0];
  [out[u], out[v]] = centroid(points);
  out[axis] = (d - n[u]! * out[u] - n[v]! * out[v]) / n[axis]!;
  return out;
}

function describe(
  bodies: readonly Body[],
  level: ReadonlyMap<number, number>,
  pair: [number, number],
  areaM2: number,
  place: Vec3,
  normals: readonly Vec3[],
): Finding {
  // The smaller one gives way.
  const [kept, moved] = sizeOf(bodies[pair[0]]!.bounds) >= sizeOf(bodies[pair[1]]!.bounds) ? pair : [pair[1], pair[0]];
  const [large, small] = [bodies[kept]!, bodies[moved]!];
  const onGround = normals[0]![2] > 0.999 && (level.get(kept) ?? 0) >= GROUND_M2;
  const offset = onGround ? TERRACE_OFFSET_M : OFFSET_M;
  // Out of every plane that they share.
  const move = [0, 1, 2].map((k) => normals.reduce((sum, n) => sum + n[k]! * offset, 0));
  return {
    id: findingId('coplanar', keyOf(large), keyOf(small)),
    check: 'coplanar',
    severity: 'fault',
    words: `${nameOf(small)} and ${nameOf(large)} lie in one plane over ${areaM2 < 0.1 ? `${(areaM2 * 1e4).toFixed(0)} cm²` : `${areaM2.toFixed(1)} m²`}; they flicker.`,
    elements: [refOf(large), refOf(small)],
    place: place.every(Number.isFinite) ? place : middleOf(small.bounds),
    sizeM: Math.sqrt(areaM2),
    remedy: {
      label: `${onGround ? 'Raise' : 'Move out'} ${nameOf(small).slice(0, 60)} by ${String(offset * 1000)} mm`,
      command: nudgeBy(small, move),
    },
  };
}
