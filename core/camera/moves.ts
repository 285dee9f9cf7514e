import { distance, type Vec3 } from '../geometry/vec3';
import type { Camera } from '../model/schema';
import type { KeptWalk } from './walk';

/** Moves of a camera that stand, as beginnings of walks whose stops and values are edited on. */
export const MOVES = {
  orbit: 'a quarter round what is looked at',
  turntable: 'once round what is looked at',
  push: 'half the way towards it',
  slide: 'sideways, by a third of the distance',
  rise: 'up, by a third of the distance',
} as const;
export type Move = keyof typeof MOVES;

type Place = [number, number, number];

/** Of a full turn, degrees. */
const TURNS: Partial<Record<Move, number>> = { orbit: 90, turntable: 360 };
/** A curve through stops so far apart is a circle to a hundredth. */
const STEP_DEG = 15;
/** An orbit takes so long for a degree, and other moves for a metre; common practice. */
const SECONDS_A_DEGREE = 0.08;
const SECONDS_A_METRE = 0.9;

/** A move from where a camera stands, about what it looks at. */
export function moveFrom(camera: Camera, move: Move): Omit<KeptWalk, 'name'> {
  const { position, target, focalMm } = camera;
  const stop = (name: string, at: Vec3, to: Vec3 = target) => ({ name, position: [...at] as Place, target: [...to] as Place, focalMm });
  const turnDeg = TURNS[move];
  if (turnDeg !== undefined) {
    const [dx, dy] = [position[0] - target[0], position[1] - target[1]];
    const steps = Math.round(turnDeg / STEP_DEG);
    const stops = Array.from({ length: steps + 1 }, (_, i) => {
      const turn = (i * STEP_DEG * Math.PI) / 180;
      const at: Vec3 = [target[0] + dx * Math.cos(turn) - dy * Math.sin(turn), target[1] + dx * Math.sin(turn) + dy * Math.cos(turn), position[2]];
      return stop(`${String(i * STEP_DEG)}°`, at);
    });
    return { stops, seconds: turnDeg * SECONDS_A_DEGREE, eased: turnDeg < 360, lookAt: [...target] };
  }
  const away = distance(position, target);
  const to = (by: Vec3): Vec3 => [position[0] + by[0], position[1] + by[1], position[2] + by[2]];
  const third = away / 3;
  const [fx, fy] = [target[0] - position[0], target[1] - position[1]];
  const level = Math.hypot(fx, fy) || 1;
  const ends: Record<'push' | 'slide' | 'rise', Vec3> = {
    push: [(target[0] - position[0]) / 2, (target[1] - position[1]) / 2, (target[2] - position[2]) / 2],
    slide: [(fy / level) * third, (-fx / level) * third, 0],
    rise: [0, 0, third],
  };
  const by = ends[move as keyof typeof ends];
  // What slides looks straight on; the others keep what they look at.
  const end = move === 'slide' ? stop('end', to(by), [target[0] + by[0], target[1] + by[1], target[2] + by[2]]) : stop('end', to(by));
  const seconds = Math.max(2, Math.round(Math.hypot(...by) * SECONDS_A_METRE));
  return { stops: [stop('start', position), end], seconds, eased: true };
} // prettier-ignore
