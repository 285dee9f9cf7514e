import { multiply, rotationZ, translation } from '../../core/geometry/mat4';
import type { MeshBuilder } from '../../core/geometry/shapes';
import { rectangle, type Kit } from './kit';
import { tree } from './trees';
import type { Parameters } from './parameters';

const WATER = -1.35;

/** Height of the natural ground: level about the building, falling to the shore in the south and rolling off inland. */
function groundHeight(x: number, y: number): number {
  const shore = Math.min(1, Math.max(0, (y + 7.5) / 7));
  const eased = shore * shore * (3 - 2 * shore);
  const beyond = Math.max(0, Math.hypot(Math.max(0, Math.abs(x - 12) - 22), Math.max(0, y - 30)) - 2);
  const swell = Math.sin(x * 0.07 + 1) * Math.cos(y * 0.06) * Math.min(1.6, beyond * 0.05) + Math.min(7, beyond * 0.055);
  return -2.6 + eased * 2.5 + swell * eased;
}

function terrain(kit: Kit): void {
  kit.add({ id: 'terrain', name: 'Terrain, tidal bank', class: 'Site', storey: 'Site', layer: 'Site' }, [
    [
      'bank',
      'terrain 2',
      (b) => {
        const xs = Array.from({ length: 61 }, (_, i) => 12 + spread((i - 30) / 30) * 190);
        const ys = Array.from({ length: 50 }, (_, i) => -7.6 + (i < 18 ? i * 0.5 : 9 + ((i - 18) / 31) ** 2 * 210));
        const grid = xs.map((x) => ys.map((y) => b.vertex([x, y, groundHeight(x, y)])));
        for (let i = 1; i < xs.length; i++)
          for (let k = 1; k < ys.length; k++) b.face(grid[i - 1]![k - 1]!, grid[i]![k - 1]!, grid[i]![k]!, grid[i - 1]![k]!);
      },
    ],
  ]);
  kit.box({ id: 'bed', name: 'Estuary bed', class: 'Site', storey: 'Site', layer: 'Site' }, 'bed', [-240, -330, -3.4], [500, 324, 0.5]);
  kit.add({ id: 'water', name: 'Tidal water', class: 'Site', storey: 'Site', layer: 'Site', at: translation(0, 0, WATER) }, [
    ['water', 'water sheet', (b) => b.box([-240, -330, -1.5], [260, -4.3, 0])],
  ]);
  // The far shore: low dunes that close the view across the water.
  kit.add({ id: 'far-shore', name: 'Far shore', class: 'Site', storey: 'Site', layer: 'Site' }, [
    [
      'bank',
      'far shore',
      (b) => {
        const height = (i: number) => 3 + 4 * Math.abs(Math.sin(i * 0.37)) + 3 * Math.sin(i * 0.11) ** 2;
        for (let i = 0; i < 50; i++) {
          const [x0, x1] = [-240 + i * 10, -230 + i * 10];
          const [h0, h1] = [height(i), height(i + 1)];
          b.quad([x0, -300, -2], [x0, -318, h0], [x1, -318, h1], [x1, -300, -2]);
          b.quad([x0, -318, h0], [x0, -330, h0 * 0.7], [x1, -330, h1 * 0.7], [x1, -318, h1]);
        }
      },
    ],
  ]);
}

const spread = (t: number) => Math.sign(t) * (0.35 * Math.abs(t) + 0.65 * Math.abs(t) ** 2.2);

function paving(kit: Kit): void {
  const site = { class: 'Slab', storey: 'Site', layer: 'Site' };
  kit.box({ ...site, id: 'terrace', name: 'Terrace' }, 'stone', [-2.5, -5.2, -0.17], [29, 4.85, 0.15]);
  kit.box({ ...site, id: 'terrace-edge', name: 'Terrace edge' }, 'plinth', [-2.65, -5.4, -3.2], [29.3, 0.2, 3.2]);
  kit.box({ ...site, id: 'terrace-west', name: 'Terrace edge west' }, 'plinth', [-2.65, -5.2, -3.2], [0.15, 5.6, 3.19]);
  kit.box({ ...site, id: 'terrace-east', name: 'Terrace edge east' }, 'plinth', [26.5, -5.2, -3.2], [0.15, 5.6, 3.19]);
  kit.box({ ...site, id: 'path-west', name: 'Path west' }, 'stone', [-4.9, 0.4, -0.19], [2.3, 11.8, 0.15]);
  kit.box({ ...site, id: 'yard', name: 'Workshop yard' }, 'road', [-5, 12.2, -0.19], [34, 3.6, 0.15]);
  kit.box({ ...site, id: 'road', name: 'Access road' }, 'road', [29, 10.5, -0.2], [60, 5.3, 0.14]);
}

function jetty(kit: Kit): void {
  const layer = 'Jetty';
  for (let i = 0; i < 6; i++) {
    const y = -8.6 - i * 3.2;
    kit.box(
      { id: `jetty-${String(i + 1)}`, name: `Jetty deck ${String(i + 1)}`, class: 'Slab', storey: 'Site', layer },
      'jetty',
      [10, y, -0.5],
      [4, 3.18, 0.3],
    );
    for (const [k, x] of [10.35, 13.65].entries())
      kit.add({ id: `pile-${String(i + 1)}${String(k)}`, name: `Pile ${String(i + 1)}.${String(k + 1)}`, class: 'Pile', storey: 'Site', layer, at: translation(x, y + 1.6, -3.2) }, [
        ['jetty', 'pile', (b) => b.tube([[0, 0, 0], [0, 0, 2.7]], 0.19, 16)],
      ]); // prettier-ignore
  }
  // Steps from the terrace down to the deck, then rails along it.
  for (let i = 0; i < 2; i++)
    kit.box(
      { id: `step-${String(i + 1)}`, name: `Step ${String(i + 1)}`, class: 'StairFlight', storey: 'Site', layer },
      'jetty',
      [10.4, -5.72 - i * 0.32, -0.16 - (i + 1) * 0.17 + 0.05],
      [3.2, 0.32, 0.17],
    );
  for (const [side, x] of [
    ['w', 10.12],
    ['e', 13.88],
  ] as const)
    railing(kit, `rail-${side}`, x, -24.4, -6.3, -0.2, side === 'e' ? [[-20, -15.4]] : []);
  for (const [i, y] of [-10.4, -16.8, -23.2].entries()) {
    kit.add(
      {
        id: `bollard-${String(i + 1)}`,
        name: `Bollard ${String(i + 1)}`,
        class: 'Furniture',
        storey: 'Site',
        layer,
        at: translation(13.6, y, -0.2),
      },
      [
        [
          'steel',
          'bollard',
          (b) =>
            b.revolve(
              [0, 0, 0],
              [
                [0.16, 0],
                [0.1, 0.05],
                [0.09, 0.3],
                [0.14, 0.36],
                [0.13, 0.42],
                [0, 0.45],
              ],
              20,
            ),
        ],
      ],
    );
  }
  for (let i = 0; i < 5; i++)
    kit.add({ id: `fender-${String(i + 1)}`, name: `Fender ${String(i + 1)}`, class: 'Furniture', storey: 'Site', layer, at: translation(14.08, -9.5 - i * 3.2, -1.2) }, [
      ['rubber', 'fender', (b) => b.tube([[0, 0, 0], [0, 0, 0.95]], 0.11, 12)],
    ]); // prettier-ignore
}

/** Posts every 1.2 m with a handrail and three wires; `gaps` are left open. */
function railing(kit: Kit, id: string, x: number, y0: number, y1: number, z: number, gaps: readonly (readonly [number, number])[]): void {
  const inGap = (y: number) => gaps.some(([a, b]) => y > a && y < b);
  const posts = Math.floor((y1 - y0) / 1.2);
  for (let i = 0; i <= posts; i++) {
    const y = y0 + i * 1.2;
    if (inGap(y)) continue;
    kit.add(
      {
        id: `${id}-post-${String(i)}`,
        name: `Railing post ${id} ${String(i)}`,
        class: 'Railing',
        storey: 'Site',
        layer: 'Jetty',
        at: translation(x, y, z),
      },
      [['steel', 'rail post', (b) => b.box([-0.02, -0.03, 0], [0.02, 0.03, 1.02]).box([-0.06, -0.06, 0], [0.06, 0.06, 0.012])]],
    );
    if (i === posts || inGap(y + 0.6)) continue;
    kit.add(
      {
        id: `${id}-bar-${String(i)}`,
        name: `Railing bars ${id} ${String(i)}`,
        class: 'Railing',
        storey: 'Site',
        layer: 'Jetty',
        at: translation(x, y, z),
      },
      [
        ['glulam', 'rail hand', (b) => b.box([-0.035, 0, 1.02], [0.035, 1.2, 1.06])],
        [
          'steel',
          'rail wires',
          (b) => {
            for (const h of [0.2, 0.45, 0.7]) b.tube([[0, 0, h], [0, 1.2, h]], 0.006, 6); // prettier-ignore
          },
        ],
      ],
    );
  }
}

function workshop(kit: Kit): void {
  const common = { class: 'Wall', layer: 'Workshop' };
  const [x0, y0, w, d, h] = [2, 17, 14, 8, 3.4];
  kit.wall({ ...common, id: 'workshop-s', name: 'Workshop wall south', at: translation(x0, y0, 0) }, 'brick', {
    outline: rectangle(0.3, -0.3, w - 0.3, h),
    holes: [rectangle(1.2, -0.02, 4.8, 2.9), rectangle(6.4, 1, 8.2, 2.4), rectangle(10, 1, 11.8, 2.4)],
    depthM: 0.3,
  });
  kit.wall(
    { ...common, id: 'workshop-n', name: 'Workshop wall north', at: multiply(translation(x0 + w, y0 + d, 0), rotationZ(Math.PI)) },
    'brick',
    { outline: rectangle(0.3, -0.3, w - 0.3, h), holes: [], depthM: 0.3 },
  );
  const gable = [[0, -0.3], [d, -0.3], [d, h], [d / 2, h + 2.2], [0, h]] as const; // prettier-ignore
  kit.wall(
    { ...common, id: 'workshop-e', name: 'Workshop gable east', at: multiply(translation(x0 + w, y0, 0), rotationZ(Math.PI / 2)) },
    'brick',
    { outline: gable, holes: [], depthM: 0.3 },
  );
  kit.wall(
    { ...common, id: 'workshop-w', name: 'Workshop gable west', at: multiply(translation(x0, y0 + d, 0), rotationZ(-Math.PI / 2)) },
    'brick',
    { outline: gable, holes: [], depthM: 0.3 },
  );
  for (const [i, x] of [8.4, 12].entries())
    kit.add(
      {
        id: `workshop-window-${String(i)}`,
        name: `Workshop window ${String(i + 1)}`,
        class: 'Window',
        layer: 'Workshop',
        at: translation(x, y0 + 0.1, 0),
      },
      [
        [
          'frame',
          'workshop frame',
          (b) =>
            b.prism(
              rectangle(0, 1, 1.8, 2.4),
              [0, 1, 2].map((k) => rectangle(0.05 + k * 0.58, 1.05, 0.59 + k * 0.58, 2.35)),
              ([u, z], end) => [u, end ? 0 : 0.06, z],
            ),
        ],
        ['glazing', 'workshop pane', (b) => b.box([0.03, 0.025, 1.03], [1.77, 0.035, 2.37])],
      ],
    );
  kit.add({ id: 'workshop-door', name: 'Workshop sliding door', class: 'Door', layer: 'Workshop', at: translation(x0 + 1, y0 - 0.12, 0) }, [
    [
      'cladding',
      'sliding door',
      (b) => {
        for (let i = 0; i < 26; i++) b.box([i * 0.15, 0, 0.02], [i * 0.15 + 0.142, 0.04, 3]);
      },
    ],
    ['frame', 'sliding rail', (b) => b.box([-0.3, -0.03, 3], [8, 0.06, 3.08]).tube([[3.7, -0.05, 0.9], [3.7, -0.05, 1.3]], 0.014, 8)],
  ]); // prettier-ignore
  for (const [side, sign] of [['s', -1], ['n', 1]] as const)
    kit.add({ id: `workshop-roof-${side}`, name: `Workshop roof ${side}`, class: 'Roof', storey: 'Roof', layer: 'Workshop' }, [
      [
        'roof',
        `workshop roof ${side}`,
        (b) => {
          const middle = y0 + d / 2;
          const edge = middle + sign * (d / 2 + 0.4);
          const low = h - 0.22;
          const [a, e] = [x0 - 0.3, x0 + w + 0.3];
          const t = 0.14;
          b.prism(sign < 0 ? [[a, edge], [e, edge], [e, middle], [a, middle]] : [[a, middle], [e, middle], [e, edge], [a, edge]], [], ([x, y], end) => [x, y, (y === middle ? h + 2.2 : low) + (end ? t : 0)]);
        },
      ],
    ]); // prettier-ignore
  kit.box(
    { id: 'workshop-floor', name: 'Workshop floor', class: 'Slab', layer: 'Workshop' },
    'plinth',
    [x0 + 0.1, y0 + 0.1, -0.2],
    [w - 0.2, d - 0.2, 0.2],
  );
}

function bicycle(kit: Kit, id: string, x: number, y: number, turnRad: number): void {
  kit.add(
    {
      id,
      name: `Bicycle ${id}`,
      class: 'Furniture',
      storey: 'Site',
      layer: 'Entourage',
      at: multiply(translation(x, y, -0.02), rotationZ(turnRad)),
    },
    [
      ['rubber', 'bike tyres', (b) => b.wheel([-0.52, 0, 0.34], 0.325, 0.018).wheel([0.52, 0, 0.34], 0.325, 0.018)],
      [
        'steel',
        'bike frame',
        (b) => {
          const line = (...p: [number, number, number][]) => b.tube(p, 0.015, 6);
          line([-0.52, 0, 0.34], [-0.12, 0, 0.3], [0.4, 0, 0.8]);
          line([-0.12, 0, 0.3], [-0.25, 0, 0.85]);
          line([-0.52, 0, 0.34], [-0.23, 0, 0.76], [0.38, 0, 0.84]);
          line([0.52, 0, 0.34], [0.38, 0, 0.92]);
          line([0.38, -0.27, 0.98], [0.38, 0, 0.93], [0.38, 0.27, 0.98]);
          b.box([-0.37, -0.07, 0.85], [-0.13, 0.07, 0.9]);
          for (const wx of [-0.52, 0.52])
            for (let i = 0; i < 6; i++) {
              const a = (i / 6) * Math.PI;
              b.tube([[wx - Math.cos(a) * 0.31, 0, 0.34 - Math.sin(a) * 0.31], [wx + Math.cos(a) * 0.31, 0, 0.34 + Math.sin(a) * 0.31]], 0.0025, 4); // prettier-ignore
            }
        },
      ],
    ],
  );
}

/** A small ferry, moored east of the jetty. */
function ferry(kit: Kit): void {
  const at = translation(17, -17.6, WATER);
  const section = (t: number) => Math.pow(Math.sin(Math.min(1, t * 1.35 + 0.12) * (Math.PI / 2)), 0.7);
  const hull = (b: MeshBuilder, z0: number, z1: number, flare: number) => {
    const n = 14;
    const side = (i: number, s: number, z: number, f: number): [number, number, number] => {
      const t = i / n;
      return [s * 2.1 * section(1 - t) * f, -6 + t * 12.5, z + t * t * 0.35 * (z > 0.5 ? 1 : 0)];
    };
    for (let i = 0; i < n; i++)
      for (const s of [-1, 1]) {
        const [p, q, r, u] = [side(i, s, z0, flare), side(i + 1, s, z0, flare), side(i + 1, s, z1, 1), side(i, s, z1, 1)];
        if (s > 0) b.quad(p, q, r, u);
        else b.quad(p, u, r, q);
      }
    for (let i = 0; i < n; i++) b.quad(side(i, -1, z1, 1), side(i, 1, z1, 1), side(i + 1, 1, z1, 1), side(i + 1, -1, z1, 1));
    b.quad(side(0, -1, z0, flare), side(0, 1, z0, flare), side(0, 1, z1, 1), side(0, -1, z1, 1));
  };
  const common = { class: 'Furniture', storey: 'Site', layer: 'Entourage', at };
  kit.add({ ...common, id: 'ferry-hull', name: 'Ferry, hull' }, [
    ['hullred', 'ferry hull low', (b) => { hull(b, -0.6, 0.35, 0.82); }],
    ['hull', 'ferry hull high', (b) => { hull(b, 0.35, 1.05, 0.96); }],
  ]); // prettier-ignore
  kit.add({ ...common, id: 'ferry-cabin', name: 'Ferry, cabin' }, [
    [
      'hull',
      'ferry cabin',
      (b) => {
        b.box([-1.45, -3.2, 1], [1.45, 2, 1.65]).box([-1.55, -3.4, 2.45], [1.55, 2.3, 2.55]);
        for (const x of [-1.42, 1.36]) for (let i = 0; i < 6; i++) b.box([x, -3.2 + i * 1.03, 1.65], [x + 0.06, -3.1 + i * 1.03, 2.45]);
        b.box([-0.9, -0.6, 2.55], [0.9, 1.6, 3.1]).box([-1, -0.8, 3.9], [1, 1.8, 3.98]);
        for (const x of [-0.88, 0.82]) for (const y of [-0.58, 1.52]) b.box([x, y, 3.1], [x + 0.06, y + 0.06, 3.9]);
        b.tube([[0, 0.2, 3.98], [0, 0.2, 5.4]], 0.03, 8); // prettier-ignore
      },
    ],
    ['glazing', 'ferry glass', (b) => b.box([-1.4, -3.15, 1.66], [1.4, 1.95, 2.44]).box([-0.85, -0.55, 3.1], [0.85, 1.55, 3.9])],
  ]);
}

export function buildSite(kit: Kit, p: Parameters): void {
  terrain(kit);
  paving(kit);
  jetty(kit);
  workshop(kit);
  ferry(kit);
  for (let i = 0; i < 4; i++) bicycle(kit, `bicycle-${String(i + 1)}`, -1.6 + (i % 2) * 0.08, -0.2 - i * 0.75, 0.1 * (i % 3));
  const trees = [
    ['birch', -9, 4, 1, 0.3], ['birch', -12.5, 8.5, 1.15, 2], ['birch', -7.6, 10.5, 0.85, 4.1], ['birch', 31.5, 3.2, 1.05, 1.2],
    ['birch', 34, 7, 0.9, 5], ['pine', -16, 15, 1.1, 0], ['pine', -11, 21, 1.25, 1], ['pine', 22, 24, 1.2, 2], ['pine', 28, 28, 1, 3],
    ['pine', 36, 21, 1.3, 4], ['pine', -24, 26, 1.2, 5.5],
  ] as const; // prettier-ignore
  for (const [i, [kind, x, y, size, turn]] of trees.entries())
    tree(kit, `tree-${String(i + 1)}`, kind, [x, y, groundHeight(x, y) - 0.1], size, turn);
  for (let i = 0; i < 3; i++) {
    const y = -10 - i * 6;
    const id = `jetty-light-${String(i + 1)}`;
    const state = p.luminaires[id];
    if (state?.removed) continue;
    kit.add(
      {
        id,
        name: `Jetty light ${String(i + 1)}`,
        class: 'LightFixture',
        storey: 'Site',
        layer: 'Lighting',
        at: translation(10.35, y, -0.2),
      },
      [
        ['frame', 'jetty post', (b) => b.box([-0.04, -0.04, 0], [0.04, 0.04, 0.86]).box([-0.07, -0.07, 0.98], [0.07, 0.07, 1])],
        ['lens', 'jetty lens', (b) => b.box([-0.05, -0.05, 0.86], [0.05, 0.05, 0.98])],
      ],
    );
    kit.luminaires.push({
      id,
      name: `Jetty light ${String(i + 1)}`,
      circuit: 'Outside',
      element: id,
      position: [10.35, y, 0.72],
      direction: [0, 0, -1],
      fluxLm: 500,
      colourTemperatureK: 3000,
      beamDeg: 360,
      photometry: 'jetty',
      dim: state?.dim ?? 1,
    });
  }
  for (const [i, x] of [5, 11].entries()) {
    const id = `workshop-light-${String(i + 1)}`;
    const state = p.luminaires[id];
    if (!state?.removed)
      kit.luminaires.push({
        id,
        name: `Workshop light ${String(i + 1)}`,
        circuit: 'Workshop',
        element: null,
        position: [x, 20, 3],
        direction: [0, 0, -1],
        fluxLm: 3500,
        colourTemperatureK: 4000,
        beamDeg: 120,
        photometry: 'linear',
        dim: state?.dim ?? 0.6,
      });
  }
  for (let i = 0; i <= 8; i++)
    kit.box(
      { id: `grid-${String(i)}`, name: `Grid ${String(i + 1)}`, class: 'Grid', layer: 'Grid' },
      'grid',
      [i * 3 - 0.01, -6, 0.02],
      [0.02, 20, 0.005],
    );
}
