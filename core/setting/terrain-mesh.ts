import type { Mesh } from '../geometry/mesh';
import type { LandGrid } from './land';
import { isGround, type Covers } from './terrain';

/** The ground goes down by so much at its edges, so that no gap is seen. */
const SKIRT_M = 1.5;

/** A corner of what is left of a triangle: its place, and how far it lies within each of the covers still to be cut out. */
type Corner = readonly [x: number, y: number, z: number, ...inside: number[]];

/** Meshes of a terrain by what covers them: cells as two triangles each, cut where one cover meets another. */
export function terrainMeshes(heights: ArrayLike<number>, grid: LandGrid, { base, fields }: Covers): { finish: string; mesh: Mesh }[] {
  const { columns, rows } = grid;
  const covers = [...fields.keys()];
  const builders = new Map<string, GridBuilder>();
  const builderOf = (finish: string) => {
    let known = builders.get(finish);
    if (!known) builders.set(finish, (known = new GridBuilder(grid, heights)));
    return known;
  };
  const corner = (at: number): Corner => [
    grid.x + (at % columns) * grid.cellM, grid.y + Math.floor(at / columns) * grid.cellM, heights[at]!,
    ...covers.map((cover) => fields.get(cover)![at]!),
  ]; // prettier-ignore
  const lay = (points: readonly number[]) => {
    const whole = covers.findIndex((cover) => points.every((at) => fields.get(cover)![at]! > 0));
    if (whole >= 0 || covers.every((cover) => points.every((at) => fields.get(cover)![at]! <= 0))) {
      builderOf(whole >= 0 ? covers[whole]! : base).onGrid(points);
      return;
    }
    let rest: Corner[] = points.map(corner);
    for (const [k, cover] of covers.entries()) {
      const [inside, outside] = cut(rest, 3 + k);
      if (inside.length > 2) builderOf(cover).polygon(inside);
      rest = outside;
      if (rest.length < 3) return;
    }
    builderOf(base).polygon(rest);
  };
  const has = (i: number, j: number) =>
    i >= 0 &&
    j >= 0 &&
    i < columns - 1 &&
    j < rows - 1 &&
    [0, 1, columns, columns + 1].every((d) => isGround(heights[j * columns + i + d]!));
  const skirt = (a: number, b: number) => {
    const [from, to] = [corner(a), corner(b)];
    const down = ([x, y, z]: Corner): Corner => [x, y, z - SKIRT_M];
    builderOf(base).apart([from, down(from), down(to), to]);
  };
  for (let j = 0; j < rows - 1; j++)
    for (let i = 0; i < columns - 1; i++) {
      if (!has(i, j)) continue;
      const at = j * columns + i;
      lay([at, at + 1, at + columns]);
      lay([at + columns + 1, at + columns, at + 1]);
      if (!has(i, j - 1)) skirt(at, at + 1);
      if (!has(i + 1, j)) skirt(at + 1, at + columns + 1);
      if (!has(i, j + 1)) skirt(at + columns + 1, at + columns);
      if (!has(i - 1, j)) skirt(at + columns, at);
    }
  return [...builders].map(([finish, builder]) => ({ finish, mesh: builder.mesh() }));
}

/** Parts of a polygon where a value is above zero, and where it is not (Sutherland & Hodgman 1974). */
function cut(polygon: readonly Corner[], value: number): [Corner[], Corner[]] {
  const [inside, outside]: [Corner[], Corner[]] = [[], []];
  for (const [i, to] of polygon.entries()) {
    const from = polygon[(i + polygon.length - 1) % polygon.length]!;
    const [a, b] = [from[value]!, to[value]!];
    if (a > 0 !== b > 0) {
      const t = a / (a - b);
      const between = from.map((c, k) => c + (to[k]! - c) * t) as unknown as Corner;
      inside.push(between);
      outside.push(between);
    }
    (b > 0 ? inside : outside).push(to);
  }
  return [inside, outside];
}

/** Polygons whose corners are shared where they lie in the same place; there is one height to a place. */
class GridBuilder {
  private readonly positions: number[] = [];
  private readonly indices: number[] = [];
  private readonly known = new Map<number, number>();
  /** Of the grid's points, by their number, one more; 0: it is not there yet. */
  private readonly ofGrid: Int32Array;

  constructor(
    private readonly grid: LandGrid,
    private readonly heights: ArrayLike<number>,
  ) {
    this.ofGrid = new Int32Array(heights.length);
  }

  /** A face between points of the grid, by their numbers. */
  onGrid(points: readonly number[]): void {
    this.face(points.map((at) => this.gridVertex(at)));
  }

  polygon(corners: readonly Corner[]): void {
    this.face(corners.map((corner) => this.vertex(corner)));
  }

  /** With corners of its own. */
  apart(corners: readonly Corner[]): void {
    this.face(corners.map(([x, y, z]) => this.positions.push(x, y, z) / 3 - 1));
  }

  mesh(): Mesh {
    return { positions: new Float32Array(this.positions), indices: new Uint32Array(this.indices) };
  }

  private face(at: readonly number[]): void {
    for (let i = 2; i < at.length; i++)
      if (at[0] !== at[i - 1] && at[i - 1] !== at[i] && at[0] !== at[i]) this.indices.push(at[0]!, at[i - 1]!, at[i]!);
  }

  private gridVertex(at: number): number {
    const { x, y, cellM, columns } = this.grid;
    if (this.ofGrid[at] === 0)
      this.ofGrid[at] = this.positions.push(x + (at % columns) * cellM, y + Math.floor(at / columns) * cellM, this.heights[at]!) / 3;
    return this.ofGrid[at]! - 1;
  }

  private vertex([x, y, z]: Corner): number {
    const { grid } = this;
    const [i, j] = [Math.round((x - grid.x) / grid.cellM), Math.round((y - grid.y) / grid.cellM)];
    if (Math.abs(grid.x + i * grid.cellM - x) < 1e-6 && Math.abs(grid.y + j * grid.cellM - y) < 1e-6)
      return this.gridVertex(j * grid.columns + i);
    const step = grid.cellM / 4096;
    const key = Math.round((x - grid.x) / step) * 4_194_304 + Math.round((y - grid.y) / step);
    let at = this.known.get(key);
    if (at === undefined) {
      this.known.set(key, (at = this.positions.length / 3));
      this.positions.push(x, y, z);
    }
    return at;
  }
}
