import type { MeshBuilder } from '../../geometry/shapes';
import type { Vec3 } from '../../geometry/vec3';
import { random } from '../../random';
import { block, post, solid } from './solid';
import { stuff, type Shape, type ShapePart } from './shape';

/** Furniture for rooms and for streets, in real sizes. */

const OAK = stuff('oak', '#a9865c');
const STEEL = stuff('steel', '#80858a', { roughness: 0.35, metalness: 1 });
const DARK = stuff('dark steel', '#34383b', { roughness: 0.5, metalness: 0.6 });
const CLOTH = stuff('wool fabric', '#6f7d78', { roughness: 0.95, sheen: 0.4 });
const LINEN = stuff('linen', '#e9e4d8', { roughness: 0.95, sheen: 0.3 });
const WHITE = stuff('white lacquer', '#efeee9', { roughness: 0.3, clearCoat: 0.4 });
const CONCRETE = stuff('concrete', '#b5b2ab', { roughness: 0.85 });
const part = (material: typeof OAK, fill: (b: MeshBuilder) => unknown): ShapePart => ({ mesh: solid(fill), stuff: material });
const legs = (b: MeshBuilder, w: number, d: number, h: number, size: number) => {
  for (const x of [-1, 1]) for (const y of [-1, 1]) block(b, [x * (w / 2 - size / 2), y * (d / 2 - size / 2), 0], [size, size, h]);
};

const table = (w: number, d: number, h = 0.74) => (): ShapePart[] => [part(OAK, (b) => { block(b, [0, 0, h - 0.032], [w, d, 0.032]); legs(b, w - 0.1, d - 0.1, h - 0.032, 0.055); block(b, [0, 0, h - 0.11], [w - 0.2, d - 0.16, 0.07]); })]; // prettier-ignore
const roundTable = (): ShapePart[] => [
  part(OAK, (b) => b.revolve([0, 0, 0], [[0, 0.71], [0.45, 0.71], [0.46, 0.722], [0.45, 0.74], [0, 0.74]], 40)),
  part(DARK, (b) => b.revolve([0, 0, 0], [[0, 0], [0.26, 0], [0.26, 0.012], [0.04, 0.03], [0.03, 0.06], [0.03, 0.71], [0, 0.71]], 24)),
]; // prettier-ignore
const chair = (): ShapePart[] => [
  part(OAK, (b) => {
    block(b, [0, 0, 0.43], [0.43, 0.42, 0.025]);
    legs(b, 0.42, 0.42, 0.43, 0.032);
    for (const x of [-0.19, 0.19]) b.tube([[x, 0.19, 0.43], [x, 0.25, 0.82]], 0.016, 8);
    block(b, [0, 0.235, 0.66], [0.42, 0.022, 0.15]);
  }),
]; // prettier-ignore
const bench = (back: boolean) => (): ShapePart[] => [
  part(stuff('larch boards', '#a98a63'), (b) => {
    for (let i = 0; i < 4; i++) block(b, [0, -0.17 + i * 0.113, 0.42], [1.8, 0.1, 0.04]);
    if (back) for (let i = 0; i < 3; i++) block(b, [0, 0.26 + i * 0.02, 0.54 + i * 0.12], [1.8, 0.03, 0.1]);
  }),
  part(DARK, (b) => {
    for (const x of [-0.75, 0.75]) {
      block(b, [x, 0, 0], [0.05, 0.44, 0.42]);
      if (back) b.tube([[x, 0.22, 0.42], [x, 0.32, 0.86]], 0.024, 8);
    }
  }),
]; // prettier-ignore
const cushion = (b: MeshBuilder, [x, y, z]: Vec3, [w, d, h]: Vec3) => {
  block(b, [x, y, z + h * 0.12], [w, d, h * 0.76]);
  block(b, [x, y, z], [w - h * 0.3, d - h * 0.3, h]);
};
const sofa = (w: number) => (): ShapePart[] => [
  part(CLOTH, (b) => {
    block(b, [0, 0, 0.14], [w, 0.88, 0.2]);
    const seats = Math.max(1, Math.round((w - 0.36) / 0.75));
    for (let i = 0; i < seats; i++) {
      const x = ((i + 0.5) / seats - 0.5) * (w - 0.36);
      cushion(b, [x, -0.06, 0.33], [(w - 0.36) / seats - 0.02, 0.74, 0.14]);
      cushion(b, [x, 0.27, 0.44], [(w - 0.36) / seats - 0.03, 0.2, 0.38]);
    }
    for (const s of [-1, 1]) cushion(b, [s * (w / 2 - 0.09), 0, 0.14], [0.18, 0.88, 0.48]);
    cushion(b, [0, 0.38, 0.14], [w, 0.14, 0.66]);
  }),
  part(OAK, (b) => { legs(b, w - 0.1, 0.76, 0.14, 0.045); }),
]; // prettier-ignore
const bed = (w: number) => (): ShapePart[] => [
  part(OAK, (b) => { block(b, [0, 0, 0.12], [w + 0.06, 2.06, 0.16]); block(b, [0, 1.05, 0], [w + 0.06, 0.05, 0.95]); legs(b, w, 2.0, 0.12, 0.07); }),
  part(LINEN, (b) => { cushion(b, [0, 0, 0.28], [w, 2.0, 0.2]); cushion(b, [0, -0.28, 0.45], [w + 0.08, 1.5, 0.1]); for (const x of w > 1.2 ? [-0.25, 0.25] : [0]) cushion(b, [x * w, 0.76, 0.47], [0.68, 0.42, 0.14]); }),
]; // prettier-ignore
const kitchen = (): ShapePart[] => [
  part(WHITE, (b) => { for (let i = 0; i < 4; i++) { block(b, [-0.9 + i * 0.6, 0, 0.1], [0.594, 0.58, 0.77]); block(b, [-0.9 + i * 0.6, 0.12, 1.42], [0.594, 0.34, 0.7]); } }),
  part(OAK, (b) => block(b, [0, -0.01, 0.87], [2.42, 0.62, 0.038])),
  part(DARK, (b) => { block(b, [0, 0.04, 0], [2.38, 0.5, 0.1]); block(b, [-0.3, -0.02, 0.908], [0.56, 0.5, 0.006]); for (let i = 0; i < 4; i++) block(b, [-0.9 + i * 0.6, -0.3, 0.8], [0.3, 0.02, 0.012]); }),
  part(STEEL, (b) => { block(b, [0.6, -0.02, 0.907], [0.5, 0.42, 0.006]); b.tube([[0.6, 0.2, 0.9], [0.6, 0.2, 1.18], [0.6, 0.1, 1.26], [0.6, 0.02, 1.2]], 0.014, 10); }),
]; // prettier-ignore
const BOOKS = ['#7b3a2e', '#33505e', '#c7b68f', '#4d5a3c', '#8e8a80', '#2d2b2a'] as const;
const shelf = (): ShapePart[] => {
  const next = random(5);
  const spines = BOOKS.map((colour) => ({ colour, boxes: [] as [Vec3, Vec3][] }));
  for (let row = 0; row < 5; row++)
    for (let x = -0.56; x < 0.5;) {
      const [w, h] = [0.018 + next() * 0.03, 0.2 + next() * 0.1];
      if (next() > 0.12) spines[Math.floor(next() * BOOKS.length)]!.boxes.push([[x + w / 2, 0.02, 0.07 + row * 0.4], [w * 0.94, 0.17 + next() * 0.05, h]]);
      x += w;
    }
  return [
    part(OAK, (b) => { for (let i = 0; i <= 5; i++) block(b, [0, 0, 0.04 + i * 0.4], [1.2, 0.3, 0.025]); for (const x of [-0.6, 0.6]) block(b, [x, 0, 0], [0.03, 0.3, 2.09]); block(b, [0, 0.145, 0.04], [1.2, 0.012, 2]); }),
    ...spines.map(({ colour, boxes }) => part(stuff(`books ${colour}`, colour, { roughness: 0.8 }), (b) => { for (const [at, size] of boxes) block(b, at, size); })),
  ];
}; // prettier-ignore
const floorLamp = (): ShapePart[] => [
  part(DARK, (b) => { b.revolve([0, 0, 0], [[0, 0], [0.16, 0], [0.16, 0.02], [0.012, 0.03], [0.012, 1.3], [0, 1.3]], 28); }),
  part(stuff('lamp shade of linen', '#efe3c8', { roughness: 0.9, diffuseTransmission: 0.5 }), (b) => b.revolve([0, 0, 1.25], [[0.22, 0], [0.14, 0.32]], 32)),
]; // prettier-ignore
const streetLamp = (): ShapePart[] => [
  part(DARK, (b) => { b.revolve([0, 0, 0], [[0, 0], [0.09, 0], [0.09, 0.5], [0.055, 0.56], [0.045, 4.2], [0, 4.2]], 20); b.revolve([0, 0, 4.2], [[0.05, 0], [0.26, 0.08], [0.24, 0.16], [0.04, 0.26], [0, 0.27]], 28); }),
  part(stuff('opal glass of the lamp', '#f4f1e6', { roughness: 0.3 }), (b) => b.revolve([0, 0, 4.13], [[0, 0], [0.2, 0.05], [0.24, 0.14]], 28)),
]; // prettier-ignore
const bollard = (): ShapePart[] => [part(DARK, (b) => b.revolve([0, 0, 0], [[0, 0], [0.07, 0], [0.07, 0.86], [0.055, 0.92], [0, 0.94]], 24)), part(STEEL, (b) => b.revolve([0, 0, 0.74], [[0.0715, 0], [0.0715, 0.05]], 24))]; // prettier-ignore
const bin = (): ShapePart[] => [part(stuff('larch boards', '#a98a63'), (b) => { for (let k = 0; k < 14; k++) { const t = (k / 14) * 2 * Math.PI; block(b, [Math.cos(t) * 0.24, Math.sin(t) * 0.24, 0.06], [0.07, 0.07, 0.76]); } }), part(DARK, (b) => b.revolve([0, 0, 0], [[0, 0], [0.22, 0], [0.22, 0.84], [0.29, 0.85], [0.29, 0.9], [0.15, 0.92], [0.15, 0.86], [0, 0.84]], 28))]; // prettier-ignore
const sign = (): ShapePart[] => [part(STEEL, (b) => { for (const x of [-0.32, 0.32]) post(b, [x, 0, 0], 0.03, 2.2); }), part(stuff('enamel of the sign', '#2a5468', { roughness: 0.25, clearCoat: 0.6 }), (b) => block(b, [0, -0.04, 1.3], [0.8, 0.03, 0.85])), part(WHITE, (b) => { block(b, [0, -0.06, 1.92], [0.62, 0.012, 0.1]); for (let i = 0; i < 4; i++) block(b, [-0.06, -0.06, 1.42 + i * 0.11], [0.5, 0.012, 0.035]); })]; // prettier-ignore
const railing = (): ShapePart[] => [part(DARK, (b) => { for (const x of [-1, 0, 1]) post(b, [x, 0, 0], 0.025, 1.06); b.tube([[-1, 0, 1.06], [1, 0, 1.06]], 0.03, 12); for (let i = 1; i < 20; i++) if (i !== 10) post(b, [-1 + i * 0.1, 0, 0.08], 0.008, 0.96, 8); b.tube([[-1, 0, 0.08], [1, 0, 0.08]], 0.014, 8); })]; // prettier-ignore
const trough = (): ShapePart[] => [part(CONCRETE, (b) => { block(b, [0, 0, 0], [1.6, 0.6, 0.55]); }), part(stuff('soil', '#4a3b2c', { roughness: 1 }), (b) => block(b, [0, 0, 0.53], [1.46, 0.46, 0.025]))]; // prettier-ignore
const pot = (): ShapePart[] => {
  const next = random(11);
  return [
    part(stuff('terracotta', '#a9613f', { roughness: 0.85 }), (b) => b.revolve([0, 0, 0], [[0, 0], [0.13, 0], [0.19, 0.33], [0.2, 0.36], [0.17, 0.36], [0.16, 0.31], [0, 0.31]], 28)),
    part(stuff('leaves of the pot plant', '#4f6b38', { roughness: 0.5, diffuseTransmission: 0.25 }), (b) => {
      for (let k = 0; k < 26; k++) {
        const [turn, lean, reach] = [k * 2.4, 0.25 + next() * 0.85, 0.35 + next() * 0.45];
        const at = (t: number, across: number): Vec3 => {
          const [r, z] = [Math.sin(lean * t) * reach * t, 0.3 + Math.cos(lean * t * 0.9) * reach * t * 1.2];
          return [Math.cos(turn) * r - Math.sin(turn) * across, Math.sin(turn) * r + Math.cos(turn) * across, z];
        };
        const width = (t: number) => 0.055 * Math.sin(Math.PI * Math.min(1, 0.08 + t * 0.92));
        for (let i = 0; i < 5; i++) b.quad(at(i / 5, -width(i / 5)), at(i / 5, width(i / 5)), at((i + 1) / 5, width((i + 1) / 5)), at((i + 1) / 5, -width((i + 1) / 5)));
      }
    }),
  ];
}; // prettier-ignore

export const furniture: readonly (Shape & { group: 'street' | 'furniture' })[] = [
  { group: 'street', id: 'bench', name: 'Bench', make: bench(false) },
  { group: 'street', id: 'bench-back', name: 'Bench with a back', make: bench(true) },
  { group: 'street', id: 'bollard', name: 'Bollard', make: bollard },
  { group: 'street', id: 'bin', name: 'Litter bin', make: bin },
  { group: 'street', id: 'sign', name: 'Sign', make: sign },
  { group: 'street', id: 'railing', name: 'Railing, 2 m', make: railing },
  { group: 'street', id: 'street-lamp', name: 'Street lamp', make: streetLamp },
  { group: 'street', id: 'trough', name: 'Planting trough', make: trough },
  { group: 'furniture', id: 'table', name: 'Table, 1.8 m', make: table(1.8, 0.9) },
  { group: 'furniture', id: 'table-round', name: 'Round table', make: roundTable },
  { group: 'furniture', id: 'table-low', name: 'Low table', make: table(1.1, 0.6, 0.42) },
  { group: 'furniture', id: 'chair', name: 'Chair', make: chair },
  { group: 'furniture', id: 'armchair', name: 'Armchair', make: sofa(0.95) },
  { group: 'furniture', id: 'sofa', name: 'Sofa', make: sofa(2.1) },
  { group: 'furniture', id: 'bed', name: 'Double bed', make: bed(1.6) },
  { group: 'furniture', id: 'bed-single', name: 'Single bed', make: bed(0.9) },
  { group: 'furniture', id: 'kitchen', name: 'Kitchen, 2.4 m', make: kitchen },
  { group: 'furniture', id: 'shelf', name: 'Shelf with books', make: shelf },
  { group: 'furniture', id: 'floor-lamp', name: 'Floor lamp', make: floorLamp },
  { group: 'furniture', id: 'pot', name: 'Plant in a pot', make: pot },
];
