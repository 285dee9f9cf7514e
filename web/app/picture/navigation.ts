import { add, cross, length, normalise, scale, subtract, type Vec3 } from '../../../core/geometry/vec3';
import { EYE_HEIGHT_M, Walker, type Cast } from '../../../core/camera/walker';
import type { Camera } from '../../../core/model/schema';

export type NavigationMode = 'orbit' | 'walk' | 'fly';
export const MOTIONS = ['ahead', 'back', 'left', 'right', 'rise', 'sink', 'turnLeft', 'turnRight'] as const;
/** What a held key keeps doing. */
export type Motion = (typeof MOTIONS)[number];

/** How far sticks are pushed, -1 to 1: ahead, to the right, turned to the right, looked up, risen. */
export interface Steering {
  ahead: number;
  aside: number;
  turn: number;
  look: number;
  rise: number;
}
const AT_REST: Steering = { ahead: 0, aside: 0, turn: 0, look: 0, rise: 0 };

const WALK_SPEED_MS = 2.2;
const FLY_SPEED_MS = 7;
const LOOK_RAD_PER_WIDTH = 1.6;
const HALF_PI = Math.PI / 2 - 0.02;
const PLACES_KEPT = 50;

/** Moves a camera by drags, wheel and held keys. It knows nothing of drawing; `cast` tells what is met on a way. */
export class Navigation {
  mode: NavigationMode = 'orbit';
  private readonly held = new Set<Motion>();
  private steering = AT_REST;
  private readonly places: Camera[] = [];
  /** Places that were gone back from, the next one last. */
  private ahead: Camera[] = [];

  private readonly walker: Walker;
  /** Times the pace of walking and flying; the wheel changes it while keys are held. */
  private pace = 1;

  constructor(
    public camera: Camera,
    cast: Cast,
  ) {
    this.walker = new Walker(cast);
  }

  get canGoBack(): boolean {
    return this.places.length > 0;
  }

  /** Keeps the present place, so that `back` returns to it. */
  keepPlace(): void {
    this.ahead = [];
    const last = this.places.at(-1);
    if (last && JSON.stringify(last) === JSON.stringify(this.camera)) return;
    this.places.push(this.camera);
    if (this.places.length > PLACES_KEPT) this.places.shift();
  }

  goTo(camera: Camera): void {
    this.keepPlace();
    this.camera = camera;
  }

  back(): void {
    const place = this.places.pop();
    if (!place) return;
    this.ahead.push(this.camera);
    this.camera = place;
  }

  /** To where one went back from. */
  next(): void {
    const place = this.ahead.pop();
    if (!place) return;
    this.places.push(this.camera);
    this.camera = place;
  }

  setMode(mode: NavigationMode): void {
    this.mode = mode;
    if (mode === 'walk') this.stand();
  }

  /** A drag over the picture, in parts of its width; `slide` moves sideways instead of turning. */
  drag(dx: number, dy: number, slide: boolean): void {
    if (slide) this.slide(dx, dy);
    else if (this.mode === 'orbit') this.orbit(-dx * Math.PI, dy * Math.PI * 0.6);
    else this.look(dx * LOOK_RAD_PER_WIDTH, dy * LOOK_RAD_PER_WIDTH);
  }

  /** Nearer (positive) or farther, in steps of the wheel. */
  approach(steps: number): void {
    // On the way the wheel is for the pace.
    if (this.isMoving && this.mode !== 'orbit') {
      this.pace = Math.min(8, Math.max(0.125, this.pace * 1.25 ** steps));
      return;
    }
    const { position, target, parallelM } = this.camera;
    const towards = subtract(target, position);
    // In parallel nothing becomes larger by being nearer.
    if (parallelM !== undefined) this.camera = { ...this.camera, parallelM: Math.max(0.1, parallelM * 0.9 ** steps) };
    else if (this.mode === 'orbit') {
      const distance = Math.max(0.6, length(towards) * Math.pow(0.9, steps));
      this.camera = { ...this.camera, position: vec(subtract(target, scale(normalise(towards), distance))) };
    } else if (this.mode === 'walk') {
      const ahead = scale(normalise([towards[0], towards[1], 0]), steps * 0.5);
      this.walk(ahead[0], ahead[1]);
    } else this.moveBy(scale(normalise(towards), steps * 0.5));
  }

  /** Goes to where a point can be looked at: stands before it when walking, turns about it in orbit. */
  jumpTo(point: Vec3): void {
    this.keepPlace();
    if (this.mode === 'orbit') {
      const offset = scale(subtract(this.camera.position, this.camera.target), 0.5);
      this.camera = { ...this.camera, target: vec(point), position: vec(add(point, offset)) };
      return;
    }
    const away = subtract(this.camera.position, point);
    const distance = length(away);
    const stop = this.mode === 'walk' ? Math.min(0.4, distance) : Math.min(2, distance);
    const to = add(point, scale(normalise(away), stop));
    const forward = subtract(this.camera.target, this.camera.position);
    this.camera = { ...this.camera, position: vec(to), target: vec(add(to, forward)) };
    if (this.mode === 'walk') {
      const z = point[2] + EYE_HEIGHT_M;
      this.camera = { ...this.camera, position: [to[0], to[1], z], target: [to[0] + forward[0], to[1] + forward[1], z + forward[2]] };
    }
  }

  begin(motion: Motion): void {
    if (this.held.size === 0) this.keepPlace();
    this.held.add(motion);
  }

  end(motion: Motion): void {
    this.held.delete(motion);
  }

  stop(): void {
    this.held.clear();
  }

  /** By sticks, until they are let go. */
  steer(steering: Steering): void {
    const wasMoving = this.isMoving;
    this.steering = Object.values(steering).some((pushed) => pushed !== 0) ? steering : AT_REST;
    if (this.isMoving && !wasMoving) this.keepPlace();
  }

  get isMoving(): boolean {
    return this.held.size > 0 || this.steering !== AT_REST;
  }

  /** Carries on what held keys and sticks ask for. */
  advance(seconds: number): void {
    const has = (...motions: Motion[]) => (motions.some((motion) => this.held.has(motion)) ? 1 : 0);
    const { steering } = this;
    const ahead = has('ahead') - has('back') + steering.ahead;
    const aside = has('right') - has('left') + steering.aside;
    const turn = has('turnRight') - has('turnLeft') + steering.turn;
    const rise = has('rise') - has('sink') + steering.rise;
    if (this.mode === 'orbit') {
      const about = has('right', 'turnRight') - has('left', 'turnLeft') + steering.aside + steering.turn;
      this.orbit(about * seconds * 0.8, (ahead + steering.look) * seconds * 0.5);
      return;
    }
    if (turn || steering.look) this.look(turn * seconds * 1.1, steering.look * seconds * 0.8);
    const forward = normalise(subtract(this.camera.target, this.camera.position));
    const level = this.mode === 'walk' ? normalise([forward[0], forward[1], 0]) : forward;
    const side = normalise(cross(forward, [0, 0, 1]));
    const speed = (this.mode === 'walk' ? WALK_SPEED_MS : FLY_SPEED_MS) * this.pace * seconds;
    const step = add(scale(level, ahead * speed), scale(side, aside * speed));
    if (this.mode === 'walk') this.walk(step[0], step[1]);
    else this.moveBy(add(step, [0, 0, rise * speed]));
  }

  private stand(): void {
    const eye = this.walker.stand(this.camera.position);
    if (eye) this.moveBy([0, 0, eye[2] - this.camera.position[2]]);
  }

  /** Goes on foot, as far as there is a way. */
  private walk(dx: number, dy: number): void {
    if (dx !== 0 || dy !== 0) this.moveBy(subtract(this.walker.step(this.camera.position, dx, dy), this.camera.position));
  }

  private moveBy(step: Vec3): void {
    this.camera = { ...this.camera, position: vec(add(this.camera.position, step)), target: vec(add(this.camera.target, step)) };
  }

  private slide(dx: number, dy: number): void {
    const towards = subtract(this.camera.target, this.camera.position);
    const distance = Math.max(1, length(towards));
    const side = normalise(cross(towards, [0, 0, 1]));
    const up = normalise(cross(side, towards));
    this.moveBy(add(scale(side, -dx * distance), scale(up, dy * distance)));
  }

  private orbit(turnRad: number, liftRad: number): void {
    const offset = subtract(this.camera.position, this.camera.target);
    this.camera = { ...this.camera, position: vec(add(this.camera.target, turned(offset, turnRad, liftRad))) };
  }

  private look(turnRad: number, liftRad: number): void {
    const forward = subtract(this.camera.target, this.camera.position);
    this.camera = { ...this.camera, target: vec(add(this.camera.position, turned(forward, turnRad, liftRad))) };
  }
}

const vec = (v: Vec3): [number, number, number] => [v[0], v[1], v[2]];

/** A vector turned about the vertical (clockwise from above) and lifted, kept off the poles. */
function turned(v: Vec3, turnRad: number, liftRad: number): Vec3 {
  const r = length(v);
  const azimuth = Math.atan2(v[1], v[0]) - turnRad;
  const altitude = Math.max(-HALF_PI, Math.min(HALF_PI, Math.asin(Math.max(-1, Math.min(1, v[2] / r))) + liftRad));
  return [r * Math.cos(altitude) * Math.cos(azimuth), r * Math.cos(altitude) * Math.sin(azimuth), r * Math.sin(altitude)];
}
