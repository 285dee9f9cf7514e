import type { Vec3 } from '../geometry/vec3';

/** A tour: all-round pictures of points, the ways between them, and the states that each was printed in. */

export interface TourPoint {
  name: string;
  position: Vec3;
  /** Of the middle of its pictures, degrees clockwise from the model's y. */
  headingDeg: number;
  /** Addresses of its pictures, one for each state; empty: it was not printed in that one. */
  pictures: string[];
}

export interface Tour {
  project: string;
  name: string;
  /** Conditions and options, as they are called. */
  states: string[];
  points: TourPoint[];
  /** Pairs of points by number that are linked, the smaller first. */
  links: [number, number][];
  /** A look down at eye height, north up: its picture, and what it shows, metres of the model. */
  plan: { picture: string; minX: number; minY: number; maxX: number; maxY: number } | undefined;
  /** True north, degrees clockwise from the model's y. */
  northDeg: number;
}

/** Points further apart than this are linked by way of others. */
const FAR_M = 30;

/** Pairs of points that see each other, by what each has seen: `seen[i]` are the points that are in sight of point i. */
export function linksBySight(points: readonly Pick<TourPoint, 'position'>[], seen: readonly (readonly number[])[]): [number, number][] {
  const links: [number, number][] = [];
  for (let a = 0; a < points.length; a++)
    for (let b = a + 1; b < points.length; b++) {
      const [p, q] = [points[a]!.position, points[b]!.position];
      const apart = Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);
      if (apart <= FAR_M && (seen[a]!.includes(b) || seen[b]!.includes(a))) links.push([a, b]);
    }
  return joined(points, links);
}

/** Links what would be reached from nowhere with the nearest of what is reached: nobody is to be lost. */
function joined(points: readonly Pick<TourPoint, 'position'>[], links: [number, number][]): [number, number][] {
  const group = points.map((_, i) => i);
  const root = (i: number): number => (group[i] === i ? i : root(group[i]!));
  for (const [a, b] of links) group[root(a)] = root(b);
  for (;;) {
    let best: [number, number] | undefined;
    let nearest = Infinity;
    for (let a = 0; a < points.length; a++)
      for (let b = a + 1; b < points.length; b++) {
        if (root(a) === root(b)) continue;
        const [p, q] = [points[a]!.position, points[b]!.position];
        const apart = Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);
        if (apart < nearest) [best, nearest] = [[a, b], apart];
      }
    if (!best) return links;
    links = [...links, best];
    group[root(best[0])] = root(best[1]);
  }
}

/** Where a point is seen from another one: degrees clockwise from the model's y, and above the horizon. */
export function bearingTo(from: Vec3, to: Vec3): { azimuthDeg: number; altitudeDeg: number } {
  const [x, y, z] = [to[0] - from[0], to[1] - from[1], to[2] - from[2]];
  return {
    azimuthDeg: ((Math.atan2(x, y) * 180) / Math.PI + 360) % 360,
    altitudeDeg: (Math.atan2(z, Math.hypot(x, y)) * 180) / Math.PI,
  };
}

/** The plan's frame about the points, metres of the model, as wide as it is high. */
export function planAround(points: readonly Pick<TourPoint, 'position'>[], marginM = 8): { minX: number; minY: number; maxX: number; maxY: number } {
  const xs = points.map(({ position }) => position[0]);
  const ys = points.map(({ position }) => position[1]);
  const half = Math.max(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys)) / 2 + marginM;
  const [x, y] = [(Math.max(...xs) + Math.min(...xs)) / 2, (Math.max(...ys) + Math.min(...ys)) / 2];
  return { minX: x - half, minY: y - half, maxX: x + half, maxY: y + half };
} // prettier-ignore
