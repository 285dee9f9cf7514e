import earcut from 'earcut';
import type { Mesh } from './mesh';
import { add, cross, normalise, scale, subtract, type Vec3 } from './vec3';

/** Collects triangles of simple solids into one mesh. All lengths in metres. */
export class MeshBuilder {
  private readonly positions: number[] = [];
  private readonly indices: number[] = [];

  get triangleCount(): number {
    return this.indices.length / 3;
  }

  build(): Mesh {
    return { positions: new Float32Array(this.positions), indices: new Uint32Array(this.indices) };
  }

  vertex(p: Vec3): number {
    this.positions.push(p[0], p[1], p[2]);
    return this.positions.length / 3 - 1;
  }

  triangle(a: Vec3, b: Vec3, c: Vec3): this {
    this.indices.push(this.vertex(a), this.vertex(b), this.vertex(c));
    return this;
  }

  /** Triangle of three vertices that are already there. */
  triangleOf(a: number, b: number, c: number): this {
    this.indices.push(a, b, c);
    return this;
  }

  /** Flat face over four vertices that are already there, so that its neighbours join smoothly. */
  face(a: number, b: number, c: number, d: number): this {
    this.indices.push(a, b, c, a, c, d);
    return this;
  }

  /** Flat face whose corners run anticlockwise seen from its front. */
  quad(a: Vec3, b: Vec3, c: Vec3, d: Vec3): this {
    const [i, j, k, l] = [a, b, c, d].map((p) => this.vertex(p)) as [number, number, number, number];
    this.indices.push(i, j, k, i, k, l);
    return this;
  }

  box(min: Vec3, max: Vec3): this {
    const [x0, y0, z0] = min;
    const [x1, y1, z1] = max;
    return this.prism(
      [
        [x0, y0],
        [x1, y0],
        [x1, y1],
        [x0, y1],
      ],
      [],
      ([x, y], t) => [x, y, t ? z1 : z0],
    );
  }

  /**
   * Solid between two copies of an outline (anticlockwise) with holes. `place` puts a point of the outline in space, at the
   * bottom (0) or top (1); the outline seen from the top must run anticlockwise.
   */
  prism(outline: readonly Point2[], holes: readonly (readonly Point2[])[], place: (p: Point2, end: 0 | 1) => Vec3): this {
    const rings = [outline, ...holes];
    const flat = rings.flat();
    const starts: number[] = [];
    let count = 0;
    for (const ring of rings.slice(0, -1)) starts.push((count += ring.length));
    const cap = earcut(flat.flat(), starts.length ? starts : undefined);
    const bottom = flat.map((p) => this.vertex(place(p, 0)));
    const top = flat.map((p) => this.vertex(place(p, 1)));
    for (let i = 0; i < cap.length; i += 3) {
      const turned = signedArea([flat[cap[i]!]!, flat[cap[i + 1]!]!, flat[cap[i + 2]!]!]) > 0;
      const [a, b, c] = turned ? [cap[i]!, cap[i + 1]!, cap[i + 2]!] : [cap[i]!, cap[i + 2]!, cap[i + 1]!];
      this.indices.push(top[a]!, top[b]!, top[c]!, bottom[a]!, bottom[c]!, bottom[b]!);
    }
    let offset = 0;
    for (const [index, ring] of rings.entries()) {
      const forward = signedArea(ring) > 0 === (index === 0);
      for (let i = 0; i < ring.length; i++) {
        const k = (i + 1) % ring.length;
        const [a, b] = forward ? [offset + i, offset + k] : [offset + k, offset + i];
        this.indices.push(bottom[a]!, bottom[b]!, top[b]!, bottom[a]!, top[b]!, top[a]!);
      }
      offset += ring.length;
    }
    return this;
  }

  /** Round bar along a line of points, closed at both ends. */
  tube(points: readonly Vec3[], radius: number, sides = 8): this {
    const rings = points.map((p, i) => {
      const direction = normalise(subtract(points[Math.min(i + 1, points.length - 1)]!, points[Math.max(i - 1, 0)]!));
      const side = normalise(cross(direction, Math.abs(direction[2]) > 0.9 ? [1, 0, 0] : [0, 0, 1]));
      const other = cross(direction, side);
      return Array.from({ length: sides }, (_, k) => {
        const a = (k / sides) * 2 * Math.PI;
        return this.vertex(add(p, add(scale(side, Math.cos(a) * radius), scale(other, Math.sin(a) * radius))));
      });
    });
    for (let i = 1; i < rings.length; i++)
      for (let k = 0; k < sides; k++) {
        const n = (k + 1) % sides;
        const [a, b, c, d] = [rings[i - 1]![k]!, rings[i - 1]![n]!, rings[i]![n]!, rings[i]![k]!];
        this.indices.push(a, b, c, a, c, d);
      }
    this.fan(rings[0]!, points[0]!, true);
    this.fan(rings.at(-1)!, points.at(-1)!, false);
    return this;
  }

  /** Solid of revolution about a vertical axis: profile of radius and height, from bottom to top. */
  revolve(centre: Vec3, profile: readonly Point2[], sides = 16): this {
    const rings = profile.map(([radius, height]) =>
      Array.from({ length: sides }, (_, k) => {
        const a = (k / sides) * 2 * Math.PI;
        return this.vertex([centre[0] + Math.cos(a) * radius, centre[1] + Math.sin(a) * radius, centre[2] + height]);
      }),
    );
    for (let i = 1; i < rings.length; i++)
      for (let k = 0; k < sides; k++) {
        const n = (k + 1) % sides;
        const [a, b, c, d] = [rings[i - 1]![k]!, rings[i - 1]![n]!, rings[i]![n]!, rings[i]![k]!];
        if (profile[i - 1]![0] > 1e-6) this.indices.push(a, b, c);
        if (profile[i]![0] > 1e-6) this.indices.push(a, c, d);
      }
    const first = profile[0]!;
    const last = profile.at(-1)!;
    if (first[0] > 1e-6) this.fan(rings[0]!, add(centre, [0, 0, first[1]]), true);
    if (last[0] > 1e-6) this.fan(rings.at(-1)!, add(centre, [0, 0, last[1]]), false);
    return this;
  }

  /** Ring with a round section, lying in the plane whose normal is y. */
  wheel(centre: Vec3, radius: number, thickness: number, sides = 28): this {
    const section = 6;
    const rings = Array.from({ length: sides }, (_, i) => {
      const a = (i / sides) * 2 * Math.PI;
      return Array.from({ length: section }, (_, k) => {
        const b = (k / section) * 2 * Math.PI;
        const r = radius + Math.cos(b) * thickness;
        return this.vertex(add(centre, [Math.cos(a) * r, Math.sin(b) * thickness, Math.sin(a) * r]));
      });
    });
    for (let i = 0; i < sides; i++)
      for (let k = 0; k < section; k++) {
        const [p, q] = [rings[i]!, rings[(i + 1) % sides]!];
        const n = (k + 1) % section;
        this.indices.push(p[k]!, q[n]!, q[k]!, p[k]!, p[n]!, q[n]!);
      }
    return this;
  }

  private fan(ring: readonly number[], centre: Vec3, flipped: boolean): void {
    const middle = this.vertex(centre);
    for (let k = 0; k < ring.length; k++) {
      const n = (k + 1) % ring.length;
      if (flipped) this.indices.push(middle, ring[n]!, ring[k]!);
      else this.indices.push(middle, ring[k]!, ring[n]!);
    }
  }
}

export type Point2 = readonly [number, number];

/** Positive for an outline that runs anticlockwise. */
export function signedArea(ring: readonly Point2[]): number {
  let sum = 0;
  for (let i = 0; i < ring.length; i++) {
    const [ax, ay] = ring[i]!;
    const [bx, by] = ring[(i + 1) % ring.length]!;
    sum += ax * by - bx * ay;
  }
  return sum / 2;
}
