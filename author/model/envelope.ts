import { multiply, rotationZ, translation, type Mat4 } from '../../core/geometry/mat4';
import type { Point2 } from '../../core/geometry/shapes';
import { rectangle, type Kit } from './kit';
import type { Parameters } from './parameters';
import { foldedHeight, HALL, pitchedHeight } from './roof';

const FRAME = 0.06;
const TRANSOM = 2.5;
/** Places a wall whose front faces the given side, its left end seen from outside at the point. */
const facing = {
  south: (x: number, y: number): Mat4 => translation(x, y, 0),
  north: (x: number, y: number): Mat4 => multiply(translation(x, y, 0), rotationZ(Math.PI)),
  east: (x: number, y: number): Mat4 => multiply(translation(x, y, 0), rotationZ(Math.PI / 2)),
  west: (x: number, y: number): Mat4 => multiply(translation(x, y, 0), rotationZ(-Math.PI / 2)),
};

/** A glazed field between its outline: frame all round, pane set back in it. */
function glazing(kit: Kit, id: string, name: string, at: Mat4, outline: readonly Point2[], option?: string): void {
  const inner = inset(outline, FRAME);
  const key = JSON.stringify(outline);
  kit.add({ id, name, class: 'Window', layer: 'Envelope', at, ...(option ? { option } : {}) }, [
    ['frame', `glazing frame ${key}`, (b) => b.prism(outline, [inner], ([x, z], end) => [x, end ? -0.04 : 0.07, z])],
    ['glazing', `glazing pane ${key}`, (b) => b.prism(inset(outline, FRAME - 0.012), [], ([x, z], end) => [x, end ? 0.004 : 0.028, z])],
  ]);
}

/** The outline moved inwards by a distance, corner by corner. */
function inset(outline: readonly Point2[], d: number): Point2[] {
  const n = outline.length;
  return outline.map((p, i) => {
    const a = outline[(i + n - 1) % n]!;
    const b = outline[(i + 1) % n]!;
    const u = unit(p[0] - a[0], p[1] - a[1]);
    const v = unit(b[0] - p[0], b[1] - p[1]);
    // Inward normals of an anticlockwise outline point left of its edges.
    const nx = -u[1] - v[1];
    const nz = u[0] + v[0];
    const k = d / (1 + (u[0] * v[0] + u[1] * v[1]));
    return [p[0] + nx * k, p[1] + nz * k];
  });
}

function unit(x: number, y: number): Point2 {
  const l = Math.hypot(x, y) || 1;
  return [x / l, y / l];
}

function southFront(kit: Kit, p: Parameters): void {
  const bays = HALL.lengthM / HALL.bayM;
  for (let i = 0; i < bays; i++) {
    const x = i * HALL.bayM;
    const at = facing.south(x, 0);
    const door = i === 2 || i === 5;
    const half = HALL.bayM / 2;
    for (const [k, x0] of [0.1, half].entries()) {
      const x1 = k === 0 ? half : HALL.bayM - 0.1;
      if (!door)
        glazing(kit, `s${String(i)}${String(k)}`, `Shop front ${String(i + 1)}.${String(k + 1)}`, at, rectangle(x0, 0.12, x1, TRANSOM));
      else entranceLeaf(kit, `door-${String(i)}${String(k)}`, at, x0, x1, k === 0);
      glazing(
        kit,
        `t${String(i)}${String(k)}`,
        `Fanlight ${String(i + 1)}.${String(k + 1)}`,
        at,
        rectangle(x0, TRANSOM, x1, HALL.eavesM - 0.27),
      );
    }
    kit.box(
      { id: `sill-${String(i)}`, name: `Sill ${String(i + 1)}`, class: 'Covering', layer: 'Envelope' },
      door ? 'stone' : 'plinth',
      [x + 0.1, -0.1, 0],
      [HALL.bayM - 0.2, 0.26, door ? 0.015 : 0.12],
    );
    // Above the eaves beam the glass follows the fold.
    const h = (u: number) => foldedHeight(x + u, p.roofPitchDeg);
    const rises = i % 2 === 0;
    const [low, high] = rises ? [0.35, HALL.bayM - 0.09] : [HALL.bayM - 0.35, 0.09];
    const base = HALL.eavesM;
    const peak = h(high) - 0.05;
    const outline: Point2[] = rises ? [[low, base], [high, base], [high, peak]] : [[high, base], [low, base], [high, peak]]; // prettier-ignore
    if (peak > base + 0.4) {
      glazing(kit, `g${String(i)}`, `Gable light ${String(i + 1)}`, at, outline, 'folded');
      kit.add(
        {
          id: `gn${String(i)}`,
          name: `Gable boarding north ${String(i + 1)}`,
          class: 'Wall',
          layer: 'Envelope',
          option: 'folded',
          at: translation(x, HALL.depthM - 0.16, 0),
        },
        [
          [
            'cladding',
            `gable boards ${JSON.stringify(outline)}`,
            (b) =>
              b.prism(
                outline.map(([u, z]) => [u, z + (z > base ? 0.04 : 0)] as const),
                [],
                ([u, z], end) => [u, end ? 0 : 0.16, z],
              ),
          ],
        ],
      );
    }
  }
}

/** One leaf of a double door: frame, pane and a pull handle on either face. */
function entranceLeaf(kit: Kit, id: string, at: Mat4, x0: number, x1: number, left: boolean): void {
  const outline = rectangle(x0 + 0.01, 0.02, x1 - 0.01, TRANSOM - 0.01);
  const key = JSON.stringify(outline);
  const hx = left ? x1 - 0.13 : x0 + 0.13;
  kit.add({ id, name: `Entrance door leaf ${id}`, class: 'Door', layer: 'Envelope', at }, [
    ['frame', `leaf frame ${key}`, (b) => b.prism(outline, [inset(outline, 0.08)], ([x, z], end) => [x, end ? -0.03 : 0.03, z])],
    ['glazing', `leaf pane ${key}`, (b) => b.prism(inset(outline, 0.07), [], ([x, z], end) => [x, end ? -0.01 : 0.014, z])],
    [
      'alu',
      `leaf handle ${String(hx)}`,
      (b) => {
        for (const y of [-0.09, 0.09]) {
          b.tube([[hx, y, 0.75], [hx, y, 1.55]], 0.014, 10); // prettier-ignore
          for (const z of [0.85, 1.45]) b.tube([[hx, y, z], [hx, 0, z]], 0.009, 8); // prettier-ignore
        }
      },
    ],
  ]);
}

function columns(kit: Kit, p: Parameters): void {
  for (let i = 0; i <= HALL.lengthM / HALL.bayM; i++)
    for (const [side, y] of [
      ['s', 0],
      ['n', HALL.depthM],
    ] as const) {
      const id = `column-${side}${String(i)}`;
      if (p.deletedColumns.includes(id)) continue;
      kit.box(
        { id, name: `Column ${side.toUpperCase()}${String(i)}`, class: 'Column', layer: 'Structure' },
        'glulam',
        [i * HALL.bayM - 0.09, y - 0.12, 0],
        [0.18, 0.24, HALL.eavesM],
      );
      kit.box(
        { id: `${id}-shoe`, name: `Column shoe ${side.toUpperCase()}${String(i)}`, class: 'Member', layer: 'Structure' },
        'frame',
        [i * HALL.bayM - 0.1, y - 0.13, 0],
        [0.2, 0.26, 0.09],
      );
    }
  for (const [side, y] of [
    ['s', 0],
    ['n', HALL.depthM],
  ] as const)
    kit.box(
      { id: `eaves-beam-${side}`, name: `Eaves beam ${side}`, class: 'Beam', layer: 'Structure' },
      'glulam',
      [-0.1, y - 0.08, HALL.eavesM - 0.26],
      [HALL.lengthM + 0.2, 0.16, 0.25],
    );
}

/** North wall in three layers with windows that have reveals, sills and casements. */
function northWall(kit: Kit, p: Parameters): void {
  const top = HALL.eavesM - 0.26;
  for (let i = 0; i < HALL.lengthM / HALL.bayM; i++) {
    const n = String(i + 1);
    const right = (i + 1) * HALL.bayM - 0.09;
    const at = facing.north(right, HALL.depthM + 0.16);
    const width = HALL.bayM - 0.18;
    const opening = i > 0 && i < 7 ? p.openings[i - 1] : null;
    const hole = opening ? rectangle(width / 2 - opening / 2, 1, width / 2 + opening / 2, 2.4) : undefined;
    const holes = hole ? [hole] : [];
    const outline = rectangle(0, 0.1, width, top);
    kit.wall({ id: `wall-n${n}-boards`, name: `North wall ${n}, boards`, class: 'Wall', layer: 'Envelope', at }, 'cladding', {
      outline,
      holes,
      depthM: 0.03,
    });
    kit.wall(
      {
        id: `wall-n${n}-core`,
        name: `North wall ${n}, stud layer`,
        class: 'Wall',
        layer: 'Envelope',
        at: multiply(at, translation(0, 0.03, 0)),
      },
      'glulam',
      { outline, holes, depthM: 0.2 },
    );
    kit.wall(
      {
        id: `wall-n${n}-lining`,
        name: `North wall ${n}, lining`,
        class: 'Wall',
        layer: 'Envelope',
        at: multiply(at, translation(0, 0.23, 0)),
      },
      'plaster',
      { outline, holes, depthM: 0.025 },
    );
    if (!hole) continue;
    glazing(kit, `window-n${n}`, `Window N${n}`, multiply(at, translation(0, 0.12, 0)), hole);
    kit.add({ id: `window-sill-n${n}`, name: `Window sill N${n}`, class: 'Covering', layer: 'Envelope', at }, [
      ['roof', `sill ${JSON.stringify(hole)}`, (b) => b.box([hole[0]![0] - 0.03, -0.05, 0.97], [hole[1]![0] + 0.03, 0.13, 1.008])],
    ]);
  }
}

/** East and west ends: boarded walls with a large window each; the east one can be moved. */
function endWalls(kit: Kit, p: Parameters): void {
  for (const end of ['west', 'east'] as const) {
    const east = end === 'east';
    const x = east ? HALL.lengthM + 0.12 + p.wallShiftM : -0.12;
    const at = east ? facing.east(x, 0.12) : facing.west(x, HALL.depthM - 0.12);
    const width = HALL.depthM - 0.24;
    const hole = east ? rectangle(1.2, 0.5, 4.4, 2.9) : rectangle(6.2, 0.5, 9.6, 2.9);
    const outline = rectangle(0, 0.1, width, HALL.eavesM);
    const wall = { outline, holes: [hole] };
    kit.wall({ id: `wall-${end}-boards`, name: `Wall ${end}, boards`, class: 'Wall', layer: 'Envelope', at }, 'cladding', {
      ...wall,
      depthM: 0.03,
    });
    kit.wall(
      {
        id: `wall-${end}-core`,
        name: `Wall ${end}, stud layer`,
        class: 'Wall',
        layer: 'Envelope',
        at: multiply(at, translation(0, 0.03, 0)),
      },
      'glulam',
      { ...wall, depthM: 0.18 },
    );
    kit.wall(
      {
        id: `wall-${end}-lining`,
        name: `Wall ${end}, lining`,
        class: 'Wall',
        layer: 'Envelope',
        at: multiply(at, translation(0, 0.21, 0)),
      },
      'plaster',
      // It meets the lining of the north wall.
      {
        ...wall,
        outline: east ? rectangle(0, 0.1, width + 0.025, HALL.eavesM) : rectangle(-0.025, 0.1, width, HALL.eavesM),
        depthM: 0.025,
      },
    );
    const middle = (hole[0]![0] + hole[1]![0]) / 2;
    const pane = multiply(at, translation(0, 0.1, 0));
    glazing(kit, `window-${end}-1`, `Window ${end} 1`, pane, rectangle(hole[0]![0], 0.5, middle, 2.9));
    glazing(kit, `window-${end}-2`, `Window ${end} 2`, pane, rectangle(middle, 0.5, hole[1]![0], 2.9));
    const rise = pitchedHeight(HALL.depthM / 2, p.roofPitchDeg);
    const gable: Point2[] = [[0, HALL.eavesM], [width, HALL.eavesM], [width / 2, rise - 0.05]]; // prettier-ignore
    kit.wall({ id: `gable-${end}`, name: `Gable ${end}`, class: 'Wall', layer: 'Envelope', option: 'pitched', at }, 'cladding', {
      outline: gable,
      holes: [],
      depthM: 0.22,
    });
  }
}

/** Slab, plinth, floor finish, door mats. */
function floors(kit: Kit): void {
  kit.box(
    { id: 'slab', name: 'Ground slab', class: 'Slab', layer: 'Structure' },
    'plinth',
    [-0.35, -0.35, -0.32],
    [HALL.lengthM + 0.7, HALL.depthM + 0.7, 0.3],
  );
  kit.box(
    { id: 'floor-hall', name: 'Floor, hall', class: 'Covering', layer: 'Finishes' },
    'floor',
    [-0.1, -0.1, -0.02],
    [16.1, HALL.depthM + 0.2, 0.02],
  );
  kit.box(
    { id: 'floor-cafe', name: 'Floor, café', class: 'Covering', layer: 'Finishes' },
    'floor',
    [16, -0.1, -0.02],
    [HALL.lengthM - 15.9, HALL.depthM + 0.2, 0.02],
  );
  for (const [i, x] of [6.3, 15.3].entries())
    kit.box(
      { id: `mat-${String(i)}`, name: `Door mat ${String(i + 1)}`, class: 'Covering', layer: 'Finishes' },
      'carpet',
      [x, 0.3, 0],
      [2.4, 1.4, 0.012],
    );
}

export function buildEnvelope(kit: Kit, p: Parameters): void {
  floors(kit);
  columns(kit, p);
  southFront(kit, p);
  northWall(kit, p);
  endWalls(kit, p);
}
