import { cross, normalise, scale, add, subtract, type Vec3 } from '../../core/geometry/vec3';
import type { MeshBuilder } from '../../core/geometry/shapes';
import type { Kit } from './kit';
import type { Parameters } from './parameters';

/** The hall in plan: x 0 to 24, y 0 to 11; columns every 3 m. */
export const HALL = { lengthM: 24, depthM: 11, eavesM: 4.2, bayM: 3, foldM: 6 } as const;
const SOUTH = -1.9;
const NORTH = HALL.depthM + 0.8;
const END = 0.7;

/** Height of the underside of the folded roof at a place along the hall. */
export function foldedHeight(x: number, pitchDeg: number): number {
  const t = (((x % HALL.foldM) + HALL.foldM) % HALL.foldM) / HALL.foldM;
  return HALL.eavesM + (t < 0.5 ? t : 1 - t) * HALL.foldM * Math.tan((pitchDeg * Math.PI) / 180);
}

/** Height of the underside of the pitched roof at a place across the hall. */
export function pitchedHeight(y: number, pitchDeg: number): number {
  const middle = HALL.depthM / 2;
  return HALL.eavesM + (middle - Math.abs(y - middle)) * Math.tan((pitchDeg * Math.PI) / 180);
}

/** A slab over four corners of its underside (anticlockwise from above), `thickness` at right angles to it. */
function slab(b: MeshBuilder, [p, q, r, s]: readonly [Vec3, Vec3, Vec3, Vec3], low: number, high: number): void {
  const n = normalise(cross(subtract(q, p), subtract(s, p)));
  const lift = (v: Vec3, d: number) => add(v, scale(n, d));
  const [a, c, d, e] = [p, q, r, s].map((v) => lift(v, low)) as [Vec3, Vec3, Vec3, Vec3];
  const [f, g, h, i] = [p, q, r, s].map((v) => lift(v, high)) as [Vec3, Vec3, Vec3, Vec3];
  b.quad(f, g, h, i).quad(a, e, d, c).quad(a, c, g, f).quad(c, d, h, g).quad(d, e, i, h).quad(e, a, f, i);
}

/** One roof plane in three layers, and the fascias at its free ends. */
function plane(kit: Kit, id: string, option: string, corners: readonly [Vec3, Vec3, Vec3, Vec3]): void {
  const key = corners
    .flat()
    .map((v) => v.toFixed(3))
    .join(' ');
  const common = { class: 'Roof', layer: 'Roof', option, storey: 'Roof' };
  kit.add({ ...common, id: `${id}-zinc`, name: `Roof plane ${id}, zinc` }, [
    [
      'roof',
      `zinc ${key}`,
      (b) => {
        slab(b, corners, 0.2, 0.235);
      },
    ],
  ]);
  kit.add({ ...common, id: `${id}-core`, name: `Roof plane ${id}, build-up` }, [
    [
      'glulam',
      `core ${key}`,
      (b) => {
        slab(b, corners, 0.022, 0.2);
      },
    ],
  ]);
  kit.add({ ...common, id: `${id}-soffit`, name: `Roof plane ${id}, soffit boards` }, [
    [
      'soffit',
      `soffit ${key}`,
      (b) => {
        slab(b, corners, 0, 0.022);
      },
    ],
  ]);
}

/** A bar of rectangular section from one point to another; `down` and `up` are measured at right angles to it, upright. */
function bar(
  kit: Kit,
  common: { id: string; name: string; class: string; layer: string; option?: string },
  material: string,
  a: Vec3,
  b: Vec3,
  width: number,
  down: number,
  up: number,
): void {
  const along = normalise(subtract(b, a));
  const side = scale(normalise(cross(along, [0, 0, 1])), width / 2);
  const over = normalise(cross(side, along));
  const corner = (p: Vec3, s: number, h: number): Vec3 => add(p, add(scale(side, s), scale(over, h)));
  const key = `bar ${[...a, ...b, width, down, up].map((v) => v.toFixed(3)).join(' ')}`;
  kit.add({ ...common, storey: 'Roof' }, [
    [
      material,
      key,
      (m) => {
        const [p, q, r, s] = [corner(a, -1, -down), corner(a, 1, -down), corner(a, 1, up), corner(a, -1, up)];
        const [t, u, v, w] = [corner(b, -1, -down), corner(b, 1, -down), corner(b, 1, up), corner(b, -1, up)];
        m.quad(p, q, r, s).quad(t, w, v, u).quad(p, t, u, q).quad(q, u, v, r).quad(r, v, w, s).quad(s, w, t, p);
      },
    ],
  ]);
}

function foldedRoof(kit: Kit, pitch: number): void {
  const option = 'folded';
  const h = (x: number) => foldedHeight(x, pitch);
  const folds = HALL.lengthM / HALL.foldM;
  for (let i = 0; i < folds * 2; i++) {
    const x0 = i * 3;
    const x1 = x0 + 3;
    // The outer planes overhang the gables, continuing their slope.
    const left = i === 0 ? x0 - END : x0;
    const right = i === folds * 2 - 1 ? x1 + END : x1;
    const rise = (h(x1 - 1e-6) - h(x0 + 1e-6)) / (x1 - x0);
    const zl = h(x0 + 1e-6) + rise * (left - x0);
    const zr = h(x0 + 1e-6) + rise * (right - x0);
    plane(kit, `fold-${String(i + 1)}`, option, [[left, SOUTH, zl], [right, SOUTH, zr], [right, NORTH, zr], [left, NORTH, zl]]); // prettier-ignore
    for (const [side, y] of [
      ['s', SOUTH - 0.015],
      ['n', NORTH + 0.015],
    ] as const)
      kit.add({ id: `fascia-${side}${String(i + 1)}`, name: `Fascia ${side}${String(i + 1)}`, class: 'Covering', layer: 'Roof', option, storey: 'Roof' }, [
        // Its ends are plumb, so that two of them meet at ridge and valley without a gap.
        [
          'roof',
          `fascia ${[left, right, y, zl, zr].map((v) => v.toFixed(3)).join(' ')}`,
          (b) =>
            b.prism([[left, zl - 0.03], [right, zr - 0.03], [right, zr + 0.29], [left, zl + 0.29]], [], ([x, z], end) => [x, end ? y - 0.015 : y + 0.015, z]),
        ],
      ]); // prettier-ignore
    for (const [k, y] of [0, 2.75, 5.5, 8.25, 11].entries())
      bar(
        kit,
        {
          id: `rafter-${String(i + 1)}-${String(k)}`,
          name: `Rafter ${String(i + 1)}.${String(k)}`,
          class: 'Member',
          layer: 'Structure',
          option,
        },
        'glulam',
        [x0, y, h(x0 + 1e-6) - 0.01],
        [x1, y, h(x1 - 1e-6) - 0.01],
        0.09,
        0.24,
        0,
      );
  }
  for (let i = 0; i <= folds; i++) {
    const x = i * HALL.foldM;
    if (i > 0 && i < folds) {
      bar(
        kit,
        { id: `valley-${String(i)}`, name: `Valley gutter ${String(i)}`, class: 'PipeSegment', layer: 'Roof', option },
        'roof',
        [x, SOUTH - 0.16, h(x) + 0.2],
        [x, NORTH + 0.16, h(x) + 0.2],
        0.26,
        0,
        0.08,
      );
      bar(
        kit,
        { id: `spout-${String(i)}`, name: `Spout ${String(i)}`, class: 'PipeSegment', layer: 'Roof', option },
        'frame',
        [x, SOUTH - 0.55, h(x) + 0.13],
        [x, SOUTH - 0.03, h(x) + 0.17],
        0.12,
        0,
        0.08,
      );
    }
  }
  for (let i = 0; i < folds; i++) {
    const x = i * HALL.foldM + 3;
    bar(
      kit,
      { id: `ridge-${String(i + 1)}`, name: `Ridge cap ${String(i + 1)}`, class: 'Covering', layer: 'Roof', option },
      'roof',
      [x, SOUTH - 0.05, h(x) + 0.2],
      [x, NORTH + 0.05, h(x) + 0.2],
      0.22,
      0,
      0.075,
    );
    bar(
      kit,
      { id: `ridge-beam-${String(i + 1)}`, name: `Ridge beam ${String(i + 1)}`, class: 'Beam', layer: 'Structure', option },
      'glulam',
      [x, -0.1, h(x) - 0.02],
      [x, HALL.depthM + 0.1, h(x) - 0.02],
      0.14,
      0.36,
      0,
    );
  }
}

function pitchedRoof(kit: Kit, pitch: number): void {
  const option = 'pitched';
  const h = (y: number) => pitchedHeight(y, pitch);
  const slope = Math.tan((pitch * Math.PI) / 180);
  const middle = HALL.depthM / 2;
  const [w, e] = [-END, HALL.lengthM + END];
  const zs = h(0) + SOUTH * slope;
  const zn = h(0) - (NORTH - HALL.depthM) * slope;
  const top = h(middle);
  plane(kit, 'pitch-s', option, [[w, SOUTH, zs], [e, SOUTH, zs], [e, middle, top], [w, middle, top]]); // prettier-ignore
  plane(kit, 'pitch-n', option, [[w, middle, top], [e, middle, top], [e, NORTH, zn], [w, NORTH, zn]]); // prettier-ignore
  bar(
    kit,
    { id: 'gutter-s', name: 'Gutter south', class: 'PipeSegment', layer: 'Roof', option },
    'roof',
    [w - 0.02, SOUTH - 0.07, zs + 0.1],
    [e + 0.02, SOUTH - 0.07, zs + 0.1],
    0.14,
    0.04,
    0.09,
  );
  bar(
    kit,
    { id: 'gutter-n', name: 'Gutter north', class: 'PipeSegment', layer: 'Roof', option },
    'roof',
    [w - 0.02, NORTH + 0.07, zn + 0.1],
    [e + 0.02, NORTH + 0.07, zn + 0.1],
    0.14,
    0.04,
    0.09,
  );
  for (const [side, x] of [
    ['w', w - 0.015],
    ['e', e + 0.015],
  ] as const) {
    // Plumb at the ridge, so that the two meet there without lying in each other.
    for (const [end, y0, z0, y1, z1] of [
      ['s', SOUTH, zs, middle, top],
      ['n', middle, top, NORTH, zn],
    ] as const)
      kit.add({ id: `verge-${side}${end}`, name: `Verge ${side}${end}`, class: 'Covering', layer: 'Roof', option, storey: 'Roof' }, [
        [
          'roof',
          `verge ${[x, y0, z0, y1, z1].map((v) => v.toFixed(3)).join(' ')}`,
          (b) =>
            b.prism([[y0, z0 - 0.03], [y1, z1 - 0.03], [y1, z1 + 0.28], [y0, z0 + 0.28]], [], ([y, z], far) => [far ? x + 0.015 : x - 0.015, y, z]),
        ],
      ]); // prettier-ignore
  }
  bar(
    kit,
    { id: 'ridge-p', name: 'Ridge cap', class: 'Covering', layer: 'Roof', option },
    'roof',
    [w, middle, top + 0.19],
    [e, middle, top + 0.19],
    0.24,
    0,
    0.09,
  );
  bar(
    kit,
    { id: 'ridge-beam-p', name: 'Ridge beam', class: 'Beam', layer: 'Structure', option },
    'glulam',
    [-0.1, middle, top - 0.03],
    [HALL.lengthM + 0.1, middle, top - 0.03],
    0.16,
    0.42,
    0,
  );
  for (let i = 0; i <= HALL.lengthM / HALL.bayM; i++) {
    const x = i * HALL.bayM;
    bar(
      kit,
      { id: `rafter-ps${String(i)}`, name: `Rafter s${String(i)}`, class: 'Member', layer: 'Structure', option },
      'glulam',
      [x, 0, h(0) - 0.01],
      [x, middle, top - 0.01],
      0.1,
      0.28,
      0,
    );
    bar(
      kit,
      { id: `rafter-pn${String(i)}`, name: `Rafter n${String(i)}`, class: 'Member', layer: 'Structure', option },
      'glulam',
      [x, middle, top - 0.01],
      [x, HALL.depthM, h(HALL.depthM) - 0.01],
      0.1,
      0.28,
      0,
    );
  }
}

export function buildRoof(kit: Kit, p: Parameters): void {
  foldedRoof(kit, p.roofPitchDeg);
  pitchedRoof(kit, p.roofPitchDeg);
}
