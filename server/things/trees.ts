import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import type { BufferGeometry } from 'three';
import type { Mesh } from '../../core/geometry/mesh';

/** Trees and shrubs, grown by @dgreenheck/ez-tree (MIT); its pictures of bark and leaves come with it. For the build alone. */

export interface TreeRecipe {
  id: string;
  name: string;
  group: 'trees' | 'shrubs';
  tags: string[];
  bark: 'birch' | 'oak' | 'pine' | 'willow';
  leaf: 'ash' | 'aspen' | 'oak' | 'pine';
  /** sRGB, multiplied with the picture of the leaves; null: none are left. */
  tints: Record<string, [number, number, number] | null>;
  barkTint?: [number, number, number];
  forms: { id: string; name: string; preset: string; heightM: number; seed: number; alter?: (options: TreeOptions) => void }[];
}

/** Of the package's options, what recipes change. */
interface TreeOptions {
  seed: number;
  branch: { force: { direction: { x: number; y: number; z: number }; strength: number }; angle: Record<string, number>; start: Record<string, number>; children: Record<string, number> };
  leaves: { count: number; size: number };
} // prettier-ignore

const GREEN: [number, number, number] = [1, 1, 1];
/** What most broadleaves have for blossom: pale, between yellow and green. */
const CATKINS: [number, number, number] = [1.3, 1.26, 0.84];
const recipe = (of: Omit<TreeRecipe, 'tints'> & { green?: [number, number, number]; blossom?: [number, number, number]; autumn: [number, number, number] }): TreeRecipe => {
  const { green = GREEN, blossom = CATKINS, autumn, ...rest } = of;
  return { ...rest, tints: { leaf: green, blossom, autumn, bare: null } };
}; // prettier-ignore
const evergreen = (of: Omit<TreeRecipe, 'tints'>, green: [number, number, number]): TreeRecipe => ({ ...of, tints: { leaf: green } });
const ages = (kind: string, [young, grown, old]: readonly [number, number, number], seed: number, alter?: (options: TreeOptions) => void): TreeRecipe['forms'] =>
  ([['young', 'Small', young], ['grown', 'Medium', grown], ['old', 'Large', old]] as const).map(([id, size, heightM], i) => ({ id, name: `${id}, ${String(heightM)} m`, preset: `${kind} ${size}`, heightM, seed: seed + i, ...(alter && { alter }) })); // prettier-ignore
const shrub = (preset: string, heightM: number, seed: number): TreeRecipe['forms'] =>
  [1, 2].map((n) => ({
    id: `form-${String(n)}`,
    name: `${String(heightM * (n === 1 ? 1 : 0.75))} m`,
    preset,
    heightM: heightM * (n === 1 ? 1 : 0.75),
    seed: seed + n,
  }));
const weeping = (options: TreeOptions) => {
  options.branch.force = { direction: { x: 0, y: -1, z: 0 }, strength: 0.018 };
  options.leaves.count = Math.round(options.leaves.count * 1.6);
};
const slender = (options: TreeOptions) => {
  options.branch.angle['1'] = 24;
  options.branch.force = { direction: { x: 0, y: 1, z: 0 }, strength: 0.03 };
};

export const TREES: readonly TreeRecipe[] = [
  recipe({ id: 'birch', name: 'Birch', group: 'trees', tags: ['broadleaf', 'light'], bark: 'birch', leaf: 'aspen', green: [0.72, 0.92, 0.5], autumn: [1, 0.97, 0.55], forms: ages('Aspen', [5, 9, 14], 401) }),
  recipe({ id: 'aspen', name: 'Aspen', group: 'trees', tags: ['broadleaf', 'light'], bark: 'birch', barkTint: [0.82, 0.84, 0.74], leaf: 'aspen', green: [0.62, 0.85, 0.5], autumn: [1, 0.9, 0.42], forms: ages('Aspen', [4.5, 9, 15], 77) }),
  recipe({ id: 'oak', name: 'Oak', group: 'trees', tags: ['broadleaf', 'broad'], bark: 'oak', leaf: 'oak', autumn: [0.95, 0.62, 0.35], forms: ages('Oak', [5, 10, 16], 23) }),
  recipe({ id: 'ash', name: 'Ash', group: 'trees', tags: ['broadleaf'], bark: 'oak', leaf: 'ash', autumn: [1, 0.85, 0.4], forms: ages('Ash', [5, 10, 16], 51) }),
  recipe({ id: 'alder', name: 'Alder', group: 'trees', tags: ['broadleaf', 'wet'], bark: 'oak', barkTint: [0.62, 0.6, 0.56], leaf: 'ash', green: [0.72, 0.85, 0.66], autumn: [0.72, 0.68, 0.42], forms: ages('Ash', [4, 8, 13], 90) }),
  recipe({ id: 'willow', name: 'Weeping willow', group: 'trees', tags: ['broadleaf', 'wet'], bark: 'willow', leaf: 'ash', green: [0.85, 1, 0.62], autumn: [1, 0.9, 0.45], forms: ages('Ash', [4, 8, 12], 140, weeping) }),
  recipe({ id: 'poplar', name: 'Columnar poplar', group: 'trees', tags: ['broadleaf', 'slender', 'avenue'], bark: 'willow', leaf: 'aspen', green: [0.62, 0.85, 0.5], autumn: [1, 0.95, 0.5], forms: ages('Aspen', [6, 12, 20], 260, slender) }),
  recipe({ id: 'cherry', name: 'Cherry', group: 'trees', tags: ['broadleaf', 'blossom', 'avenue'], bark: 'birch', barkTint: [0.5, 0.36, 0.32], leaf: 'ash', blossom: [1.6, 1.25, 1.35], autumn: [0.95, 0.42, 0.22], forms: ages('Oak', [3, 5, 7], 318) }),
  recipe({ id: 'apple', name: 'Apple', group: 'trees', tags: ['broadleaf', 'blossom', 'fruit'], bark: 'oak', leaf: 'oak', blossom: [1.7, 1.55, 1.6], autumn: [0.9, 0.75, 0.35], forms: ages('Oak', [2.5, 4, 5.5], 604) }),
  evergreen({ id: 'pine', name: 'Pine', group: 'trees', tags: ['conifer', 'evergreen'], bark: 'pine', leaf: 'pine', forms: ages('Pine', [4, 11, 18], 12) }, [0.86, 0.95, 0.8]),
  evergreen({ id: 'spruce', name: 'Spruce', group: 'trees', tags: ['conifer', 'evergreen'], bark: 'pine', barkTint: [0.7, 0.62, 0.56], leaf: 'pine', forms: ages('Pine', [3, 9, 20], 812) }, [0.6, 0.78, 0.72]),
  recipe({ id: 'hawthorn', name: 'Hawthorn', group: 'shrubs', tags: ['shrub', 'blossom'], bark: 'oak', leaf: 'oak', blossom: [1.8, 1.7, 1.55], autumn: [0.85, 0.5, 0.25], forms: shrub('Bush 1', 2.4, 40) }),
  recipe({ id: 'hazel', name: 'Hazel', group: 'shrubs', tags: ['shrub'], bark: 'willow', leaf: 'ash', green: [0.8, 0.95, 0.6], autumn: [1, 0.84, 0.4], forms: shrub('Bush 2', 2.8, 71) }),
  recipe({ id: 'dogwood', name: 'Dogwood', group: 'shrubs', tags: ['shrub', 'wet'], bark: 'birch', barkTint: [0.6, 0.24, 0.2], leaf: 'ash', autumn: [0.85, 0.3, 0.24], forms: shrub('Bush 3', 1.8, 99) }),
]; // prettier-ignore

// The package loads its pictures as it starts; shapes need none of them. No script of a page is running: other libraries ask.
const element = () => ({ addEventListener: () => undefined, removeEventListener: () => undefined, style: {} });
Object.assign(globalThis, {
  document: { currentScript: null, createElementNS: element },
  self: globalThis,
  Image: class {
    src = '';
  },
});
const { Tree } = (await import('@dgreenheck/ez-tree')) as unknown as {
  Tree: new () => { loadPreset(name: string): void; generate(): void; options: TreeOptions; branchesMesh: { geometry: BufferGeometry }; leavesMesh: { geometry: BufferGeometry } };
}; // prettier-ignore

const assets = path.join(path.dirname(createRequire(import.meta.url).resolve('@dgreenheck/ez-tree')), '..', 'src', 'lib', 'assets');
export const treePicture = (file: string): Buffer => readFileSync(path.join(assets, file));

/** Wood and leaves, z up, brought to the height; the same for the same seed. */
export function growTree({ preset, heightM, seed, alter }: TreeRecipe['forms'][number]): { wood: Mesh; leaves: Mesh } {
  const tree = new Tree();
  tree.loadPreset(preset);
  tree.options.seed = seed;
  alter?.(tree.options);
  tree.generate();
  const [wood, leaves] = [tree.branchesMesh.geometry, tree.leavesMesh.geometry];
  let top = 0;
  for (const { attributes } of [wood, leaves]) for (let i = 1; i < attributes['position']!.array.length; i += 3) top = Math.max(top, attributes['position']!.array[i]!); // prettier-ignore
  const size = heightM / top;
  return { wood: uprightMesh(wood, size), leaves: uprightMesh(leaves, size) };
}

/** To a quarter of a millimetre, so that computers whose last bits differ grow the same. */
const STEP = 4096;
const rounded = (value: number) => Math.round(value * STEP) / STEP;

function uprightMesh({ attributes, index }: BufferGeometry, size: number): Mesh {
  const from = attributes['position']!.array;
  const positions = new Float32Array(from.length);
  for (let i = 0; i < from.length; i += 3) {
    positions[i] = rounded(from[i]! * size);
    positions[i + 1] = rounded(-from[i + 2]! * size);
    positions[i + 2] = rounded(from[i + 1]! * size);
  }
  return { positions, indices: Uint32Array.from(index!.array), pictureUvs: Float32Array.from(attributes['uv']!.array, rounded) };
}
