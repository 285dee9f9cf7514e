import { MeshBuilder } from '../../geometry/shapes';
import type { Vec3 } from '../../geometry/vec3';
import { random } from '../../random';
import { solid } from './solid';
import { stuff, type Shape, type ShapePart } from './shape';

/** What closes the horizon: rings about where they are set, in steps of distance that the air makes bluer. */

/** Heights all round: waves of chance, the same for the same seed; `rough` adds crowns of trees. */
function skyline(seed: number, rough: number): (turn: number) => number {
  const next = random(seed);
  const waves = Array.from({ length: 9 }, (_, k) => ({ times: k + 2, phase: next() * 2 * Math.PI, size: next() / (k + 1.5) }));
  const crowns = Array.from({ length: 40 }, (_, k) => ({ times: 140 + k * 23, phase: next() * 2 * Math.PI, size: rough * next() }));
  return (turn) => [...waves, ...crowns].reduce((sum, { times, phase, size }) => sum + size * Math.sin(turn * times + phase), 0);
}

interface Range {
  radiusM: number;
  heightM: number;
  /** Share of the round that rises over the level, from 0 to 1: where it does not, the view stays open. */
  shut: number;
  colour: string;
  rough?: number;
}

function range(seed: number, { radiusM, heightM, shut, rough = 0 }: Range, steps = 720): MeshBuilder {
  const b = new MeshBuilder();
  const height = skyline(seed, rough);
  const level = (i: number) => heightM * (0.35 * height((i / steps) * 2 * Math.PI) + shut - 0.3);
  const at = (i: number, back: number, z: number): number => {
    const turn = ((i % steps) / steps) * 2 * Math.PI;
    return b.vertex([Math.cos(turn) * (radiusM + back), Math.sin(turn) * (radiusM + back), z]);
  };
  const rows = Array.from({ length: steps + 1 }, (_, i) => [at(i, 0, -12), at(i, heightM * 1.5, level(i) * 0.6), at(i, heightM * 3.4, level(i))] as const);
  for (let i = 1; i < rows.length; i++)
    for (let k = 1; k < 3; k++) b.face(rows[i - 1]![k - 1]!, rows[i - 1]![k]!, rows[i]![k]!, rows[i]![k - 1]!);
  return b;
} // prettier-ignore

const ranges = (seed: number, name: string, list: readonly Range[]) => (): ShapePart[] =>
  list.map((one, i) => ({ mesh: range(seed + i, one).build(), stuff: stuff(`${name}, ${['near', 'farther', 'far'][i] ?? 'far'}`, one.colour, { roughness: 1 }) })); // prettier-ignore

/** A house with a pitched roof: walls, then roof. */
function house(walls: MeshBuilder, roof: MeshBuilder, [x, y]: readonly [number, number], turn: number, [w, d, h]: Vec3): void {
  const at = (u: number, v: number, z: number): Vec3 => [x + Math.cos(turn) * u - Math.sin(turn) * v, y + Math.sin(turn) * u + Math.cos(turn) * v, z];
  const outline = [[-w / 2, -d / 2], [w / 2, -d / 2], [w / 2, d / 2], [-w / 2, d / 2]] as [number, number][];
  walls.prism(outline, [], ([u, v], end) => at(u, v, end ? h : -3));
  const ridge = h + d * 0.42;
  const [a, b, c, e] = outline.map(([u, v]) => at(u * 1.04, v * 1.08, h - 0.2)) as [Vec3, Vec3, Vec3, Vec3];
  const [r, s] = [at(-w / 2, 0, ridge), at(w / 2, 0, ridge)];
  roof.quad(a, b, s, r).quad(c, e, r, s);
  walls.triangle(at(-w / 2, d / 2, h), at(-w / 2, -d / 2, h), at(-w / 2, 0, ridge)).triangle(at(w / 2, -d / 2, h), at(w / 2, d / 2, h), at(w / 2, 0, ridge));
} // prettier-ignore

/** Houses on a part of the round, from so near to so far. */
function town(seed: number, count: number, [near, far]: readonly [number, number], sectorDeg: number): ShapePart[] {
  const next = random(seed);
  const [light, brick, roof] = [new MeshBuilder(), new MeshBuilder(), new MeshBuilder()];
  for (let i = 0; i < count; i++) {
    const turn = (90 + (next() - 0.5) * sectorDeg) * (Math.PI / 180);
    const away = near + (far - near) * Math.sqrt(next());
    house(next() < 0.6 ? light : brick, roof, [Math.cos(turn) * away, Math.sin(turn) * away], turn + Math.PI / 2 + (next() - 0.5) * 0.6, [8 + next() * 9, 6.5 + next() * 3, 3 + Math.floor(next() * 3) * 2.8]);
  }
  const tower = solid((b) => { b.box([-4, near * 1.3 - 4, 0], [4, near * 1.3 + 4, 24]); b.revolve([0, near * 1.3, 24], [[5.4, 0], [0, 14]], 4); });
  return [
    { mesh: light.build(), stuff: stuff('rendered walls of the town', '#d8cfbf', { roughness: 0.95 }) },
    { mesh: brick.build(), stuff: stuff('walls of the town', '#9c6a52', { roughness: 0.95 }) },
    { mesh: roof.build(), stuff: stuff('roofs of the town', '#6c4f46', { roughness: 0.9 }) },
    { mesh: tower, stuff: stuff('tower of the town', '#a59a8a', { roughness: 0.95 }) },
  ];
} // prettier-ignore

/** White blocks as of a working model, about a free middle. */
function blocks(): ShapePart[] {
  const next = random(8);
  const mesh = solid((b) => {
    for (let i = -7; i <= 7; i++)
      for (let j = -7; j <= 7; j++) {
        const [x, y] = [i * 42 + (next() - 0.5) * 8, j * 36 + (next() - 0.5) * 8];
        const [w, d, h] = [14 + next() * 16, 10 + next() * 12, 6 + next() ** 2 * 22];
        if (Math.hypot(x, y) > 70) b.box([x - w / 2, y - d / 2, -2], [x + w / 2, y + d / 2, h]);
      }
  });
  return [{ mesh, stuff: stuff('white card', '#e9e7e2', { roughness: 1 }) }];
}

export const surrounds: readonly Shape[] = [
  { id: 'hills', name: 'Hills all round', make: ranges(3, 'hills', [{ radiusM: 900, heightM: 70, shut: 0.46, colour: '#5f6f4a' }, { radiusM: 1700, heightM: 210, shut: 0.5, colour: '#71806f' }, { radiusM: 3200, heightM: 520, shut: 0.52, colour: '#8698a3' }]) },
  { id: 'woods', name: 'Woods all round', make: ranges(11, 'woods', [{ radiusM: 420, heightM: 24, shut: 0.7, colour: '#3f4f33', rough: 0.05 }, { radiusM: 900, heightM: 44, shut: 0.7, colour: '#54634d', rough: 0.03 }]) },
  { id: 'far-shore', name: 'Far shore of an estuary', make: ranges(23, 'shore', [{ radiusM: 1300, heightM: 60, shut: 0.36, colour: '#76805f', rough: 0.012 }, { radiusM: 2600, heightM: 240, shut: 0.44, colour: '#8b9aa0' }]) },
  { id: 'dunes', name: 'Dunes all round', make: ranges(31, 'dunes', [{ radiusM: 300, heightM: 9, shut: 0.55, colour: '#c9b98f' }, { radiusM: 520, heightM: 16, shut: 0.5, colour: '#b7ad86' }]) },
  { id: 'town', name: 'Small town to the north', make: () => town(5, 170, [220, 900], 110) },
  { id: 'white-blocks', name: 'White blocks', make: blocks },
]; // prettier-ignore
