import type { MeshBuilder } from '../../geometry/shapes';
import { MeshBuilder as Builder } from '../../geometry/shapes';
import type { Vec3 } from '../../geometry/vec3';
import { random } from '../../random';
import { stuff, type Shape, type ShapePart, type Stuff } from './shape';

/** Reeds, grasses, flowers and hedges as clumps, and rocks. */

interface Blades {
  count: number;
  /** Of the clump's foot. */
  spreadM: number;
  heightM: number;
  widthM: number;
  /** How far tips hang over, as a share of the height. */
  bend: number;
}

function blade(b: MeshBuilder, foot: Vec3, turn: number, height: number, width: number, bend: number): Vec3 {
  const at = (t: number, across: number): Vec3 => {
    const out = bend * height * t * t;
    return [foot[0] + Math.cos(turn) * out - Math.sin(turn) * across, foot[1] + Math.sin(turn) * out + Math.cos(turn) * across, foot[2] + height * (t - 0.35 * bend * t ** 3)];
  };
  const half = (t: number) => (width / 2) * (1 - t ** 2.2);
  const parts = 4;
  for (let i = 0; i < parts - 1; i++) {
    const [s, t] = [i / parts, (i + 1) / parts];
    b.quad(at(s, -half(s)), at(s, half(s)), at(t, half(t)), at(t, -half(t)));
  }
  b.triangle(at(0.75, -half(0.75)), at(0.75, half(0.75)), at(1, 0));
  return at(1, 0);
} // prettier-ignore

const grow = ({ count, spreadM, heightM, widthM, bend }: Blades, seed: number) => {
  const next = random(seed);
  const b = new Builder();
  const tips: Vec3[] = [];
  for (let i = 0; i < count; i++) {
    const [r, a] = [spreadM * Math.sqrt(next()), next() * 2 * Math.PI];
    const h = heightM * (0.6 + 0.4 * next());
    tips.push(blade(b, [Math.cos(a) * r, Math.sin(a) * r, 0], next() * 2 * Math.PI, h, widthM * (0.7 + 0.6 * next()), bend * (0.5 + next())));
  }
  return { mesh: b.build(), tips };
}; // prettier-ignore

const leaf = (name: string, colour: string): Stuff => stuff(name, colour, { roughness: 0.6, diffuseTransmission: 0.3 });

const seasons = (mesh: ShapePart['mesh'], name: string, green: string, gold: string): ShapePart[] => [
  { mesh, stuff: leaf(`${name}, green`, green), in: ['leaf', 'blossom'] },
  { mesh, stuff: leaf(`${name}, dry`, gold), in: ['autumn', 'bare'] },
];

function heads(tips: readonly Vec3[], size: Vec3, every: number): Builder {
  const b = new Builder();
  for (const [i, [x, y, z]] of tips.entries()) {
    if (i % every > 0) continue;
    b.revolve([x, y, z - size[2] * 0.6], [[0, 0], [size[0], size[2] * 0.35], [size[1], size[2] * 0.7], [0, size[2]]], 6);
  }
  return b;
} // prettier-ignore

const reeds = (seed: number) => (): ShapePart[] => {
  const { mesh } = grow({ count: 46, spreadM: 0.42, heightM: 1.9, widthM: 0.02, bend: 0.3 }, seed);
  const stems = grow({ count: 12, spreadM: 0.4, heightM: 2.25, widthM: 0.008, bend: 0.12 }, seed + 1);
  return [
    ...seasons(mesh, 'reed', '#6f7f45', '#b39a63'),
    ...seasons(stems.mesh, 'reed', '#6f7f45', '#b39a63'),
    { mesh: heads(stems.tips, [0.022, 0.03, 0.26], 1).build(), stuff: stuff('reed heads', '#6d5540', { roughness: 0.95 }) },
  ];
};

const meadow = (seed: number, colour: string) => (): ShapePart[] => {
  const { mesh } = grow({ count: 60, spreadM: 0.4, heightM: 0.42, widthM: 0.009, bend: 0.45 }, seed);
  const stems = grow({ count: 16, spreadM: 0.38, heightM: 0.55, widthM: 0.005, bend: 0.15 }, seed + 1);
  const flowers = heads(stems.tips, [0.024, 0.03, 0.024], 1).build();
  return [
    ...seasons(mesh, 'meadow', '#60783a', '#a08d58'),
    ...seasons(stems.mesh, 'meadow', '#60783a', '#a08d58'),
    { mesh: flowers, stuff: stuff(`flowers ${colour}`, colour, { roughness: 0.8, diffuseTransmission: 0.3 }), in: ['leaf', 'blossom'] },
    { mesh: flowers, stuff: stuff('seed heads', '#6f5b41', { roughness: 0.9 }), in: ['autumn', 'bare'] },
  ];
};

/** A clipped hedge: a metre of it, full of small leaves. */
const hedge = (heightM: number) => (): ShapePart[] => {
  const next = random(3);
  const b = new Builder();
  const core = new Builder().box([-0.5, -0.22, 0], [0.5, 0.22, heightM - 0.06]);
  for (let i = 0; i < 2600; i++) {
    const face = next();
    const [x, z] = [(next() - 0.5) * 1.06, next() * heightM];
    const at: Vec3 = face < 0.36 ? [x, -0.27 + next() * 0.07, z] : face < 0.72 ? [x, 0.27 - next() * 0.07, z] : face < 0.94 ? [x, (next() - 0.5) * 0.54, heightM - next() * 0.07] : [(face < 0.97 ? -1 : 1) * (0.53 - next() * 0.05), (next() - 0.5) * 0.5, z];
    const [turn, lean] = [next() * 2 * Math.PI, (next() - 0.5) * 2];
    const [u, v]: [Vec3, Vec3] = [[Math.cos(turn) * 0.032, Math.sin(turn) * 0.032, 0], [-Math.sin(turn) * 0.02 * Math.cos(lean), Math.cos(turn) * 0.02 * Math.cos(lean), 0.026 * Math.sin(lean) + 0.01]];
    b.quad([at[0] - u[0], at[1] - u[1], at[2]], [at[0] - v[0], at[1] - v[1], at[2] - v[2]], [at[0] + u[0], at[1] + u[1], at[2]], [at[0] + v[0], at[1] + v[1], at[2] + v[2]]);
  }
  return [
    { mesh: core.build(), stuff: stuff('inside of the hedge', '#2c2f1e', { roughness: 1 }) },
    { mesh: b.build(), stuff: leaf('hedge leaves', '#4c6a33'), in: ['leaf', 'blossom'] },
    { mesh: b.build(), stuff: leaf('hedge leaves, autumn', '#8d6a36'), in: ['autumn', 'bare'] },
  ];
}; // prettier-ignore

function rock(seed: number, [rx, ry, rz]: Vec3): ShapePart[] {
  const next = random(seed);
  const bumps = Array.from({ length: 14 }, () => ({ axis: [next() - 0.5, next() - 0.5, next() - 0.5] as Vec3, at: 0.25 + next() * 0.35 }));
  const b = new Builder();
  const [rows, columns] = [14, 22];
  const point = (i: number, k: number): Vec3 => {
    const [t, u] = [(i / rows - 0.5) * Math.PI, (k / columns) * 2 * Math.PI];
    const d: Vec3 = [Math.cos(t) * Math.cos(u), Math.cos(t) * Math.sin(u), Math.sin(t)];
    let r = 1;
    // Cut by planes, as broken stone is.
    for (const { axis, at } of bumps) {
      const along = (d[0] * axis[0] + d[1] * axis[1] + d[2] * axis[2]) / Math.hypot(...axis);
      if (along > 0) r = Math.min(r, (0.45 + at) / along);
    }
    return [d[0] * r * rx, d[1] * r * ry, d[2] * r * rz + rz * 0.55];
  };
  for (let i = 0; i < rows; i++) for (let k = 0; k < columns; k++) b.quad(point(i, k), point(i, k + 1), point(i + 1, k + 1), point(i + 1, k)); // prettier-ignore
  return [{ mesh: b.build(), stuff: stuff('boulder', '#85807a', { roughness: 0.95 }) }];
}

export const herbs: readonly (Shape & { kind: string })[] = [
  ...[1, 2].map((n) => ({ kind: 'reeds', id: `clump-${String(n)}`, name: `clump ${String(n)}`, make: reeds(n * 10) })),
  ...[1, 2].map((n) => ({ kind: 'meadow-white', id: `clump-${String(n)}`, name: `clump ${String(n)}`, make: meadow(n * 30, '#ece8dc') })),
  ...[1, 2].map((n) => ({ kind: 'meadow-blue', id: `clump-${String(n)}`, name: `clump ${String(n)}`, make: meadow(n * 50, '#6e7fb8') })),
  { kind: 'hedge', id: 'low', name: '0.9 m', make: hedge(0.9) },
  { kind: 'hedge', id: 'high', name: '1.6 m', make: hedge(1.6) },
];

export const rocks: readonly Shape[] = [
  { id: 'boulder', name: 'boulder', make: () => rock(7, [0.55, 0.42, 0.4]) },
  { id: 'block', name: 'block', make: () => rock(19, [0.8, 0.55, 0.5]) },
  { id: 'stone', name: 'stone', make: () => rock(31, [0.25, 0.2, 0.16]) },
];
