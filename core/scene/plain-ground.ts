import { PLAIN_FINISH, type Finish } from '../finish/finish';
import { prepareMesh, type PreparedMesh } from '../geometry/prepare-mesh';
import { translation } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import type { RenderedInstance } from './rendered-scene';
import type { GroundChoice } from '../project/project';
import { hash01 } from '../finish/maps/noise';
import { planeNoise } from '../setting/terrain';
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
/** Grass that covers so much is a meadow, which does not end where the model does. */
const MEADOW_M2 = 2500;
const KEY = 'plain-ground/';

/** Dry, light soil and stone: a quarter of the light comes back (common practice, no source). */
const SOIL: Finish['baseColour'] = [0.545, 0.535, 0.52];
/** Of grass as it is seen from afar, dry grass, and woods: chosen by eye beside the meadow that grows nearby. */
const LAND = { grass: [0.31, 0.36, 0.18], dry: [0.42, 0.4, 0.23], wood: [0.2, 0.26, 0.14] } satisfies Record<string, Finish['baseColour']>;
type Cover = keyof typeof LAND;
const COVERS = Object.keys(LAND) as Cover[];

const flat = (baseColour: Finish['baseColour'], opacity: number): Finish => ({
  ...PLAIN_FINISH,
  id: `plain-ground-${String(opacity)}-${baseColour.join('-')}`,
  name: 'Plain ground',
  family: 'ground',
  baseColour,
  roughness: 1,
  opacity,
});
const SOILS = RINGS.map(({ opacity }) => flat(SOIL, opacity));
const LANDS = RINGS.map(({ opacity }) => Object.fromEntries(COVERS.map((cover) => [cover, flat(LAND[cover], opacity)])) as Record<Cover, Finish>); // prettier-ignore

/** They are asked for with every scene. */
const made = new Map<string, PreparedMesh>();

/** The mesh of a ring, or of what covers a part of it, by its key; undefined: the key is another mesh's. */
export function groundMesh(key: string): PreparedMesh | undefined {
  if (!key.startsWith(KEY)) return undefined;
  let mesh = made.get(key);
  if (!mesh) {
    const [index, cover] = key.slice(KEY.length).split('/');
    made.set(key, (mesh = prepareMesh(cover ? landRing(Number(index), cover as Cover) : ring(Number(index)))));
  }
  return mesh;
}

type Standing = Pick<RenderedInstance, 'mesh' | 'transform' | 'finish'>;
type MeshOf = (key: string) => Pick<Mesh, 'positions'> | undefined;

/**
 * A ground at the lowest level of what stands there, out to the horizon, where it fades into haze: neutral where a model brings none,
 * and where grass grows the meadows, fields and woods that it leads over to. Empty: none is wanted.
 */
export function plainGround(instances: readonly Standing[], meshOf: MeshOf, choice: GroundChoice = 'auto'): RenderedInstance[] {
  if (choice === 'never') return [];
  const grounds = instances.filter(({ finish }) => finish.family === 'ground' || finish.family === 'water' || finish.blades);
  const box = sceneBounds(instances, meshOf);
  if (!box) return [];
  const area = ({ min, max }: typeof box) => (max[0] - min[0]) * (max[1] - min[1]);
  // Ground may be as wide as a landscape.
  const own = sceneBounds(grounds, meshOf, Infinity);
  const isWide = own !== undefined && area(own) >= AS_WIDE * area(box);
  const grass = sceneBounds(
    grounds.filter(({ finish }) => finish.blades),
    meshOf,
    Infinity,
  );
  const isMeadow = grass !== undefined && area(grass) >= Math.min(MEADOW_M2, AS_WIDE * area(box));
  if (choice === 'auto' && isWide && !isMeadow) return [];
  const lowest = isMeadow ? grass.min[2] : box.min[2];
  const at = translation((box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, lowest - BELOW_M);
  const laid = (mesh: string, finish: Finish): RenderedInstance => ({ mesh: `${KEY}${mesh}`, transform: at, finish, variation: undefined, class: 'Ground', emissionScale: 1, lens: false }); // prettier-ignore
  return isMeadow
    ? LANDS.flatMap((finishes, i) => COVERS.map((cover) => laid(`${String(i)}/${cover}`, finishes[cover])))
    : SOILS.map((finish, i) => laid(String(i), finish));
}

/** Of the land, a field is so many metres wide near the middle, and so much of its distance further out. */
const FIELD_M = 14;
const FIELD_SHARE = 0.16;
/** Woods stand no nearer than this. */
const WOODS_M = 380;

/** The fields of a ring that have one cover: its corners lie askew, the same for all of its covers. */
function landRing(index: number, cover: Cover): Mesh {
  const [inner, outer] = [RINGS[index - 1]?.toM ?? 0, RINGS[index]!.toM];
  const radii = [inner];
  while (radii.at(-1)! < outer) radii.push(Math.min(outer, radii.at(-1)! + FIELD_M + FIELD_SHARE * radii.at(-1)!));
  const positions: number[] = [];
  const indices: number[] = [];
  const last = radii.length - 1;
  const corner = (k: number, i: number): [number, number, number] => {
    const wrapped = i % SEGMENTS;
    // On the borders to other rings it does not stray outwards.
    const isBorder = k === 0 || k === last;
    const room = isBorder ? 0 : (radii[k + 1]! - radii[k]!) * 0.22;
    const [r, a] = [
      radii[k]! + (hash01(wrapped, k, index) * 2 - 1) * room,
      ((wrapped + (hash01(wrapped, k, index + 90) - 0.5) * (isBorder ? 0 : 0.4)) / SEGMENTS) * 2 * Math.PI,
    ];
    return [r * Math.cos(a), r * Math.sin(a), 0];
  };
  for (let k = 0; k < last; k++)
    for (let i = 0; i < SEGMENTS; i++) {
      const corners = [corner(k, i), corner(k + 1, i), corner(k + 1, i + 1), corner(k, i + 1)];
      const [x, y] = [0, 1].map((axis) => corners.reduce((sum, c) => sum + c[axis]! / 4, 0)) as [number, number];
      if (coverAt(x, y) !== cover) continue;
      const first = positions.length / 3;
      positions.push(...corners.flat());
      indices.push(first, first + 1, first + 2, first, first + 2, first + 3);
    }
  return { positions: new Float32Array(positions), indices: new Uint32Array(indices) };
}

function coverAt(x: number, y: number): Cover {
  const away = Math.hypot(x, y);
  const noise = planeNoise(x, y, 60 + away * 0.4, 61);
  if (away > WOODS_M && planeNoise(x, y, 120 + away * 0.3, 62) > 0.32) return 'wood';
  return noise > 0.22 ? 'dry' : 'grass';
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
