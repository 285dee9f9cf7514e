import type { PreparedMesh } from '../geometry/prepare-mesh';
import { PLAIN_FINISH, type Finish } from '../finish/finish';
import { random } from '../random';

/** Grass: tufts of a few shapes, each of many blades, that stand on a grid over the faces it grows on. */
export type Blades = NonNullable<Finish['blades']>;

/** How grass is thinned by distance: fewer and wider blades in larger tufts, up to so many metres from the eye. */
export interface BladeLevel {
  tuftM: number;
  /** Of the blades, that stand here. */
  share: number;
  wider: number;
  toM: number;
}
export const BLADE_LEVELS: readonly BladeLevel[] = [
  { tuftM: 0.1, share: 1, wider: 1, toM: 7 },
  { tuftM: 0.2, share: 0.4, wider: 2.2, toM: 20 },
  { tuftM: 0.4, share: 0.125, wider: 5.5, toM: 70 },
];
/** Shapes of tufts, so that none is seen beside itself. */
export const TUFT_SHAPES = 4;
/** Where a blade bends and how wide it is there, as shares. */
const BEND = { at: 0.55, wide: 0.8 };
const FLOATS = 5;

const KEY = /^blades\/(\d)\/(\d)\/(.*)$/;
const keyOfBlades = ({ colour: _, ...shape }: Blades): string => JSON.stringify(shape);

/** Key that a scene names a tuft's mesh by. */
export const tuftKey = (blades: Blades, level: number, shape: number): string => `blades/${String(level)}/${String(shape)}/${keyOfBlades(blades)}`; // prettier-ignore

export const isTuftKey = (key: string): boolean => KEY.test(key);

/** The mesh of a tuft's key; undefined: it is not one. */
export function tuftOfKey(key: string): PreparedMesh | undefined {
  const [, level, shape, blades] = KEY.exec(key) ?? [];
  if (blades === undefined) return undefined;
  return tuftMesh(JSON.parse(blades) as Blades, BLADE_LEVELS[Number(level)]!, Number(shape));
}

/** Level of a tuft by its key; 0 is nearest. */
export const levelOfKey = (key: string): number => Number(KEY.exec(key)?.[1] ?? 0);

/** Blades of one tuft about its root, z upwards; three triangles each, leaning and bent by the irregularity. */
export function tuftMesh(
  { lengthM, widthM, perM2, irregularity }: Omit<Blades, 'colour'>,
  { tuftM, share, wider }: BladeLevel,
  shape: number,
): PreparedMesh {
  // prettier-ignore
  const count = Math.max(1, Math.round(perM2 * share * tuftM * tuftM));
  const next = random(0x6a55 + shape);
  const positions = new Float32Array(count * FLOATS * 3);
  const normals = new Float32Array(count * FLOATS * 3);
  const indices = new Uint32Array(count * 9);
  for (let b = 0; b < count; b++) {
    const [x, y] = [(next() - 0.5) * tuftM, (next() - 0.5) * tuftM];
    const turn = 2 * Math.PI * next();
    const [fx, fy] = [Math.cos(turn), Math.sin(turn)];
    const long = lengthM * (1 - irregularity * 0.6 * next());
    const half = (widthM * wider * (0.8 + 0.4 * next())) / 2;
    // Even the most regular grass leans a little; the tip leans more than the foot.
    const lean = (0.15 + irregularity * 0.55) * next();
    const droop = lean + (0.3 + irregularity * 0.9) * next();
    const mid = [x + fx * Math.sin(lean) * long * BEND.at, y + fy * Math.sin(lean) * long * BEND.at, Math.cos(lean) * long * BEND.at];
    const rest = long * (1 - BEND.at);
    const tip = [mid[0]! + fx * Math.sin(droop) * rest, mid[1]! + fy * Math.sin(droop) * rest, mid[2]! + Math.cos(droop) * rest];
    const [sx, sy] = [-fy * half, fx * half];
    const at = b * FLOATS;
    positions.set([x - sx, y - sy, 0, x + sx, y + sy, 0], at * 3);
    positions.set([mid[0]! - sx * BEND.wide, mid[1]! - sy * BEND.wide, mid[2]!, mid[0]! + sx * BEND.wide, mid[1]! + sy * BEND.wide, mid[2]!], at * 3 + 6); // prettier-ignore
    positions.set(tip, at * 3 + 12);
    const face = (angle: number) => [-fx * Math.cos(angle), -fy * Math.cos(angle), Math.sin(angle)];
    normals.set([...face(lean), ...face(lean), ...face((lean + droop) / 2), ...face((lean + droop) / 2), ...face(droop)], at * 3);
    indices.set([at, at + 2, at + 1, at + 1, at + 2, at + 3, at + 2, at + 4, at + 3], b * 9);
  }
  return { positions, normals, uvs: new Float32Array(count * FLOATS * 2), indices };
}

const finishes = new WeakMap<Finish, Finish>();

/** What the blades of a finish look like: thin leaves that let some light through. */
export function finishOfBlades(finish: Finish): Finish {
  let made = finishes.get(finish);
  if (!made) {
    made = {
      ...PLAIN_FINISH,
      id: `${finish.id}.blades`,
      name: `${finish.name}, blades`,
      family: 'ground',
      baseColour: finish.blades!.colour,
      roughness: 0.5,
      diffuseTransmission: 0.35,
    };
    finishes.set(finish, made);
  }
  return made;
}
