import { multiply, rotationZ, translation } from '../../core/geometry/mat4';
import type { MeshBuilder } from '../../core/geometry/shapes';
import { rectangle, type Kit } from './kit';
import type { Parameters } from './parameters';
import { foldedHeight, HALL, pitchedHeight } from './roof';

function bench(kit: Kit, id: string, x: number, y: number, turnRad = 0, phase?: string): void {
  const at = multiply(translation(x, y, 0), rotationZ(turnRad));
  kit.add({ id, name: `Bench ${id}`, class: 'Furniture', layer: 'Furniture', at, ...(phase ? { phase } : {}) }, [
    [
      'counter',
      'bench slats',
      (b) => {
        for (let i = 0; i < 5; i++) b.box([-0.95, -0.24 + i * 0.1, 0.41], [0.95, -0.16 + i * 0.1, 0.45]);
        for (let i = 0; i < 3; i++) b.box([-0.95, 0.25 + i * 0.012, 0.55 + i * 0.11], [0.95, 0.275 + i * 0.012, 0.63 + i * 0.11]);
      },
    ],
    [
      'frame',
      'bench legs',
      (b) => {
        for (const lx of [-0.75, 0.75]) {
          b.box([lx - 0.02, -0.22, 0], [lx + 0.02, -0.18, 0.41]).box([lx - 0.02, 0.22, 0], [lx + 0.02, 0.25, 0.86]);
          b.box([lx - 0.02, -0.22, 0.37], [lx + 0.02, 0.25, 0.41]);
        }
      },
    ],
    [
      'felt',
      'bench cushion',
      (b) => {
        roundedSlab(b, [-0.88, -0.22, 0.45], [0.88, 0.22, 0.51]);
      },
    ],
  ]);
}

/** A cushion: a slab whose upper edges are rounded in three steps. */
function roundedSlab(b: MeshBuilder, min: readonly [number, number, number], max: readonly [number, number, number]): void {
  const steps = [[0, 0], [0, 0.6], [0.012, 0.85], [0.035, 1]] as const; // prettier-ignore
  const ring = (inset: number, t: number) => {
    const z = min[2] + (max[2] - min[2]) * t;
    return rectangle(min[0] + inset, min[1] + inset, max[0] - inset, max[1] - inset).map(([x, y]) => [x, y, z] as const);
  };
  for (let i = 1; i < steps.length; i++) {
    const [a, c] = [ring(steps[i - 1]![0], steps[i - 1]![1]), ring(steps[i]![0], steps[i]![1])];
    for (let k = 0; k < 4; k++) b.quad(a[k]!, a[(k + 1) % 4]!, c[(k + 1) % 4]!, c[k]!);
  }
  const [low, top] = [ring(...steps[0]), ring(...steps[3])];
  b.quad(top[0]!, top[1]!, top[2]!, top[3]!).quad(low[3]!, low[2]!, low[1]!, low[0]!);
}

function counter(kit: Kit, id: string, name: string, x: number, y: number, length: number, turnRad: number, screen: boolean): void {
  const at = multiply(translation(x, y, 0), rotationZ(turnRad));
  const battens = Math.floor(length / 0.06);
  kit.add({ id, name, class: 'Furniture', layer: 'Furniture', at, phase: 'fitted' }, [
    [
      'counter',
      `counter battens ${String(length)}`,
      (b) => {
        b.box([0, 0.03, 0.08], [length, 0.6, 1.06]);
        for (let i = 0; i < battens; i++) b.box([i * 0.06 + 0.012, 0, 0.1], [i * 0.06 + 0.048, 0.03, 1.05]);
      },
    ],
    ['worktop', `counter top ${String(length)}`, (b) => b.box([-0.04, -0.06, 1.06], [length + 0.04, 0.66, 1.1])],
    ['frame', `counter plinth ${String(length)}`, (b) => b.box([0.03, 0.07, 0], [length - 0.03, 0.55, 0.08])],
  ]);
  if (!screen) return;
  kit.add({ id: `${id}-screen`, name: `${name}, screen`, class: 'Window', layer: 'Furniture', at, phase: 'fitted' }, [
    ['glazing', `screen ${String(length)}`, (b) => b.box([0.1, 0.02, 1.14], [length - 0.1, 0.03, 1.95])],
    [
      'alu',
      `screen posts ${String(length)}`,
      (b) => {
        for (const px of [0.08, length / 2, length - 0.08]) b.tube([[px, 0.025, 1.1], [px, 0.025, 2]], 0.014, 8); // prettier-ignore
      },
    ],
  ]);
}

function stool(kit: Kit, id: string, x: number, y: number): void {
  kit.add({ id, name: `Stool ${id}`, class: 'Furniture', layer: 'Furniture', at: translation(x, y, 0), phase: 'fitted' }, [
    [
      'leather',
      'stool seat',
      (b) =>
        b.revolve(
          [0, 0, 0.7],
          [
            [0.15, 0],
            [0.19, 0.02],
            [0.19, 0.05],
            [0.15, 0.075],
            [0, 0.08],
          ],
          20,
        ),
    ],
    [
      'frame',
      'stool frame',
      (b) => {
        for (let i = 0; i < 4; i++) {
          const a = (i / 4) * 2 * Math.PI + 0.4;
          b.tube([[Math.cos(a) * 0.22, Math.sin(a) * 0.22, 0], [Math.cos(a) * 0.12, Math.sin(a) * 0.12, 0.7]], 0.011, 6); // prettier-ignore
        }
      },
    ],
  ]);
}

function table(kit: Kit, id: string, x: number, y: number): void {
  kit.add({ id, name: `Table ${id}`, class: 'Furniture', layer: 'Furniture', at: translation(x, y, 0), phase: 'fitted' }, [
    [
      'counter',
      'table top',
      (b) =>
        b.revolve(
          [0, 0, 0.71],
          [
            [0.36, 0],
            [0.38, 0.012],
            [0.38, 0.03],
            [0, 0.03],
          ],
          28,
        ),
    ],
    [
      'frame',
      'table foot',
      (b) =>
        b.revolve(
          [0, 0, 0],
          [
            [0.24, 0],
            [0.24, 0.012],
            [0.03, 0.03],
            [0.025, 0.71],
          ],
          20,
        ),
    ],
  ]);
  for (const [i, a] of [0.3, 2.4, 4.4].entries())
    chair(kit, `${id}-chair-${String(i)}`, x + Math.cos(a) * 0.62, y + Math.sin(a) * 0.62, a - Math.PI / 2);
}

function chair(kit: Kit, id: string, x: number, y: number, turnRad: number): void {
  kit.add(
    {
      id,
      name: `Chair ${id}`,
      class: 'Furniture',
      layer: 'Furniture',
      at: multiply(translation(x, y, 0), rotationZ(turnRad)),
      phase: 'fitted',
    },
    [
      [
        'counter',
        'chair seat',
        (b) => {
          b.box([-0.2, -0.2, 0.43], [0.2, 0.2, 0.455]);
          b.box([-0.19, 0.19, 0.62], [0.19, 0.21, 0.82]);
        },
      ],
      [
        'frame',
        'chair frame',
        (b) => {
          for (const lx of [-0.18, 0.18]) {
            b.tube([[lx, -0.19, 0], [lx, -0.17, 0.43]], 0.011, 6); // prettier-ignore
            b.tube(
              [
                [lx, 0.22, 0],
                [lx, 0.18, 0.43],
                [lx, 0.215, 0.84],
              ],
              0.011,
              6,
            );
          }
        },
      ],
    ],
  );
}

/** Back wall of the café, shelves, a core with washroom doors, timetable, planters. */
function fittings(kit: Kit): void {
  const fitted = { layer: 'Interior', phase: 'fitted' };
  kit.wall({ id: 'core-front', name: 'Core wall, front', class: 'Wall', ...fitted, at: translation(9.2, 8.2, 0) }, 'plaster', {
    outline: rectangle(0, 0, 5.2, 3),
    holes: [rectangle(0.5, 0.01, 1.45, 2.13), rectangle(3.7, 0.01, 4.65, 2.13)],
    depthM: 0.12,
  });
  kit.wall(
    {
      id: 'core-west',
      name: 'Core wall, west',
      class: 'Wall',
      ...fitted,
      at: multiply(translation(9.2, HALL.depthM - 0.1, 0), rotationZ(-Math.PI / 2)),
    },
    'plaster',
    { outline: rectangle(-0.005, 0, 2.58, 3), holes: [], depthM: 0.12 },
  );
  kit.wall(
    { id: 'core-east', name: 'Core wall, east', class: 'Wall', ...fitted, at: multiply(translation(14.4, 8.2, 0), rotationZ(Math.PI / 2)) },
    'plaster',
    { outline: rectangle(0.12, 0, 2.705, 3), holes: [], depthM: 0.12 },
  );
  kit.box({ id: 'core-ceiling', name: 'Core ceiling', class: 'Slab', ...fitted }, 'paint', [9.2, 8.2, 3], [5.2, 2.7, 0.14]);
  for (const [i, x] of [9.7, 12.9].entries())
    kit.add({ id: `washroom-door-${String(i)}`, name: `Washroom door ${String(i + 1)}`, class: 'Door', ...fitted, at: translation(x, 8.2, 0) }, [
      ['counter', 'washroom leaf', (b) => b.box([0.03, 0.03, 0.01], [0.92, 0.07, 2.1])],
      ['frame', 'washroom frame', (b) => b.prism(rectangle(0, 0, 0.95, 2.13), [rectangle(0.03, 0.005, 0.92, 2.1)], ([u, z], end) => [u, end ? -0.01 : 0.13, z])],
      ['alu', 'washroom handle', (b) => b.tube([[0.82, 0.03, 1.05], [0.82, -0.02, 1.05], [0.7, -0.02, 1.05]], 0.009, 8)],
    ]); // prettier-ignore
  kit.box({ id: 'mirror', name: 'Mirror, core', class: 'Furniture', ...fitted }, 'mirror', [11.1, 8.17, 0.9], [1.3, 0.02, 1.2]);
  kit.add({ id: 'timetable', name: 'Timetable board', class: 'Furniture', ...fitted, at: translation(8.6, 8.0, 0) }, [
    [
      'frame',
      'timetable frame',
      (b) => b.prism(rectangle(-1.4, 1, 0.2, 2.3), [rectangle(-1.36, 1.04, 0.16, 2.26)], ([u, z], end) => [u, end ? -0.03 : 0.03, z]),
    ],
    ['paint', 'timetable panel', (b) => b.box([-1.37, -0.005, 1.03], [0.17, 0.005, 2.27])],
    ['frame', 'timetable posts', (b) => b.box([-1.42, -0.03, 0], [-1.38, 0.03, 2.3]).box([0.18, -0.03, 0], [0.22, 0.03, 2.3])],
  ]);
  kit.box({ id: 'cafe-tiles', name: 'Café back wall tiles', class: 'Covering', ...fitted }, 'tile', [18.2, 10.86, 0.9], [4.8, 0.02, 1.2]);
  for (const z of [1.55, 2.0]) {
    kit.box(
      { id: `shelf-${z.toFixed(1)}`, name: `Shelf ${z.toFixed(1)}`, class: 'Furniture', ...fitted },
      'counter',
      [18.4, 10.6, z],
      [4.4, 0.26, 0.03],
    );
    for (let i = 0; i < 14; i++)
      kit.add(
        {
          id: `jar-${z.toFixed(1)}-${String(i)}`,
          name: `Jar ${String(i + 1)}`,
          class: 'Furniture',
          ...fitted,
          layer: 'Furniture',
          at: translation(18.6 + i * 0.31, 10.73, z + 0.03),
        },
        [
          [
            i % 3 ? 'paint' : 'counter',
            `jar ${String(i % 4)}`,
            (b) =>
              b.revolve(
                [0, 0, 0],
                [
                  [0.05 + (i % 4) * 0.008, 0],
                  [0.055 + (i % 4) * 0.008, 0.1 + (i % 4) * 0.03],
                  [0.03, 0.14 + (i % 4) * 0.03],
                  [0, 0.145 + (i % 4) * 0.03],
                ],
                14,
              ),
          ],
        ],
      );
  }
  kit.box({ id: 'back-counter', name: 'Café back counter', class: 'Furniture', ...fitted }, 'counter', [18.2, 10.3, 0], [4.8, 0.56, 0.86]);
  kit.box(
    { id: 'back-counter-top', name: 'Café back counter top', class: 'Furniture', ...fitted },
    'worktop',
    [18.18, 10.28, 0.86],
    [4.84, 0.58, 0.04],
  );
}

function pendant(kit: Kit, p: Parameters, id: string, x: number, y: number, dropTo: number, circuit: string): void {
  const state = p.luminaires[id];
  if (state?.removed) return;
  for (const option of ['folded', 'pitched'] as const) {
    const top = option === 'folded' ? foldedHeight(x, p.roofPitchDeg) : pitchedHeight(y, p.roofPitchDeg);
    const cord = Math.max(0.3, top - dropTo);
    kit.add({ id: option === 'folded' ? id : `${id}-cord-p`, name: `Pendant ${id.replace('pendant-', '')}`, class: 'LightFixture', layer: 'Lighting', at: translation(x, y, dropTo), option }, [
      ['frame', `pendant cord ${cord.toFixed(2)}`, (b) => b.tube([[0, 0, 0.16], [0, 0, cord]], 0.006, 6).revolve([0, 0, 0], [[0.05, 0.12], [0.045, 0.16], [0.02, 0.19], [0, 0.19]], 16)],
      ['lens', 'pendant globe', (b) => b.revolve([0, 0, 0], globe(0.13), 20)],
    ]); // prettier-ignore
  }
  kit.luminaires.push({
    id,
    name: `Pendant ${id.replace('pendant-', '')}`,
    circuit,
    element: id,
    position: [x, y, dropTo],
    direction: [0, 0, -1],
    fluxLm: 1900,
    colourTemperatureK: 2900,
    beamDeg: 360,
    photometry: 'globe',
    dim: state?.dim ?? 0.8,
  });
}

const globe = (r: number) =>
  Array.from({ length: 11 }, (_, i) => [Math.sin((i / 10) * Math.PI) * r, -Math.cos((i / 10) * Math.PI) * r] as const);

function downlight(
  kit: Kit,
  p: Parameters,
  id: string,
  name: string,
  circuit: string,
  at: readonly [number, number, number],
  fluxLm: number,
  beamDeg: number,
): void {
  const state = p.luminaires[id];
  if (state?.removed) return;
  kit.add({ id, name, class: 'LightFixture', layer: 'Lighting', at: translation(...at) }, [
    [
      'frame',
      'downlight body',
      (b) =>
        b.revolve(
          [0, 0, 0],
          [
            [0.045, 0],
            [0.05, 0.01],
            [0.05, 0.14],
            [0, 0.14],
          ],
          16,
        ),
    ],
    [
      'lens',
      'downlight lens',
      (b) =>
        b.revolve(
          [0, 0, -0.006],
          [
            [0.04, 0],
            [0.04, 0.008],
          ],
          16,
        ),
    ],
  ]);
  kit.luminaires.push({
    id,
    name,
    circuit,
    element: id,
    position: [at[0], at[1], at[2] - 0.02],
    direction: [0, 0, -1],
    fluxLm,
    colourTemperatureK: 3000,
    beamDeg,
    photometry: beamDeg > 60 ? 'soffit' : 'narrow',
    dim: state?.dim ?? 1,
  });
}

function lighting(kit: Kit, p: Parameters): void {
  for (let i = 0; i < 8; i++) pendant(kit, p, `pendant-${String(i + 1)}`, 1.5 + i * 3, i % 2 ? 3.4 : 5.6, 2.9, 'Hall pendants');
  for (let i = 0; i < 4; i++) pendant(kit, p, `pendant-c${String(i + 1)}`, 18.8 + i * 1.2, 8.9, 2.1, 'Café');
  for (let i = 0; i < 3; i++)
    downlight(kit, p, `ticket-${String(i + 1)}`, `Ticket counter spot ${String(i + 1)}`, 'Counters', [2.2, 6.3 + i * 0.9, 3.2], 850, 50);
  kit.box(
    { id: 'ticket-rail', name: 'Light rail, ticket counter', class: 'Member', layer: 'Lighting' },
    'frame',
    [2.17, 6, 3.34],
    [0.06, 2.4, 0.05],
  );
  for (let i = 0; i < 5; i++)
    downlight(kit, p, `soffit-${String(i + 1)}`, `Soffit light ${String(i + 1)}`, 'Outside', [1.5 + i * 5.25, -0.9, 3.9], 700, 70);
  for (let i = 0; i < p.extraLuminaires; i++)
    downlight(kit, p, `extra-${String(i + 1)}`, `Added spot ${String(i + 1)}`, 'Counters', [4.5 + i * 1.2, 4.4, 3.6], 1200, 45);
}

export function buildInterior(kit: Kit, p: Parameters): void {
  for (let i = 0; i < 4; i++) {
    bench(kit, `bench-${String(i + 1)}`, 4.2 + i * 2.4, 4.5, 0, 'fitted');
    bench(kit, `bench-b${String(i + 1)}`, 4.2 + i * 2.4, 5.3, Math.PI, 'fitted');
  }
  counter(kit, 'ticket-counter', 'Ticket counter', 2.6, 9.2, 3.4, -Math.PI / 2, true);
  counter(kit, 'cafe-bar', 'Café bar', 18.2, 8.6, 4.8, 0, false);
  for (let i = 0; i < 5; i++) stool(kit, `stool-${String(i + 1)}`, 18.8 + i * 0.9, 8.15);
  for (const [i, [x, y]] of ([[17.6, 2.1], [20, 2.9], [22.3, 1.9], [21.6, 4.9], [18.6, 5.2]] as const).entries()) table(kit, `table-${String(i + 1)}`, x, y); // prettier-ignore
  fittings(kit);
  lighting(kit, p);
}
