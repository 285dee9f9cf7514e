import { PLAIN_FINISH, type Finish } from '../finish/finish';
import { prepareMesh, type PreparedMesh } from '../geometry/prepare-mesh';
import { translation } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import type { RenderedInstance } from './rendered-scene';
import type { GroundChoice } from '../project/project';
import { sceneBounds } from './scene-bounds';

/** Radii of its rings, metres, and how much of the haze behind it each lets through. */
const RINGS = [
  { toM: 40, opacity: 1 },
  { toM: 250, opacity: 1 },
  { toM: 900, opacity: 1 },
  { toM: 1600, opacity: 0.8 },
  { toM: 2800, opacity: 0.55 },
  { toM: 5000, opacity: 0.3 },
] as const;
const SEGMENTS = 72;
/** Below the lowest level, so that it does not flicker in a floor that lies there, metres. */
const BELOW_M = 0.005;
/** A ground of the model's own is at least as wide as this share of the building. */
const AS_WIDE = 0.8;
const KEY = 'plain-ground/';

/** Dry, light soil and stone: a quarter of the light comes back (common practice, no source). */
const plain = (opacity: number): Finish => ({
  ...PLAIN_FINISH,
  id: `plain-ground-${String(opacity)}`,
  name: 'Plain ground',
  family: 'ground',
  baseColour: [0.545, 0.535, 0.52],
  roughness: 1,
  opacity,
});
const FINISHES = RINGS.map(({ opacity }) => plain(opacity));

/** The mesh of a ring by its key; undefined: the key is another mesh's. */
export function groundMesh(key: string): PreparedMesh | undefined {
  return key.startsWith(KEY) ? prepareMesh(ring(Number(key.slice(KEY.length)))) : undefined;
}

type Standing = Pick<RenderedInstance, 'mesh' | 'transform' | 'finish'>;
type MeshOf = (key: string) => Pick<Mesh, 'positions'> | undefined;

/** A neutral ground at the lowest level of what stands there, out to the horizon, where it fades into haze; empty: none is wanted. */
export function plainGround(instances: readonly Standing[], meshOf: MeshOf, choice: GroundChoice = 'auto'): RenderedInstance[] {
  if (choice === 'never') return [];
  const grounds = instances.filter(({ finish }) => finish.family === 'ground' || finish.family === 'water' || finish.blades);
  const box = sceneBounds(instances, meshOf);
  if (!box) return [];
  const area = ({ min, max }: typeof box) => (max[0] - min[0]) * (max[1] - min[1]);
  if (choice === 'auto') {
    const own = sceneBounds(grounds, meshOf);
    if (own && area(own) >= AS_WIDE * area(box)) return [];
  }
  const at = translation((box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, box.min[2] - BELOW_M);
  return RINGS.map((_, i) => ({
    mesh: `${KEY}${String(i)}`,
    transform: at,
    finish: FINISHES[i]!,
    variation: undefined,
    emissionScale: 1,
    lens: false,
  }));
}

/** A ring about the origin, facing up. */
function ring(index: number): Mesh {
  const [inner, outer] = [RINGS[index - 1]?.toM ?? 0, RINGS[index]!.toM];
  const positions: number[] = [];
  const indices: number[] = [];
  for (let i = 0; i < SEGMENTS; i++) {
    const a = (i / SEGMENTS) * 2 * Math.PI;
    positions.push(inner * Math.cos(a), inner * Math.sin(a), 0, outer * Math.cos(a), outer * Math.sin(a), 0);
    const [p, q] = [2 * i, 2 * ((i + 1) % SEGMENTS)];
    if (inner > 0) indices.push(p, p + 1, q + 1, p, q + 1, q);
    else indices.push(p, p + 1, q + 1);
  }
  return { positions: new Float32Array(positions), indices: new Uint32Array(indices) };
}
