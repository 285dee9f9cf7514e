import { add, cross, length, normalise, scale, subtract, type Vec3 } from '../../../core/geometry/vec3';
import type { Camera } from '../../../core/model/schema';

export type NavigationMode = 'orbit' | 'walk' | 'fly';

export const EYE_HEIGHT_M = 1.65;
const WALK_SPEED_MS = 2.2;
const FLY_SPEED_MS = 7;
const LOOK_RAD_PER_WIDTH = 1.6;
const HALF_PI = Math.PI / 2 - 0.02;
const PLACES_KEPT = 50;

/** Moves a camera by drags, wheel and keys. It knows nothing of drawing; `floorBelow` tells where one stands. */
export class Navigation {
  mode: NavigationMode = 'orbit';
  private readonly keys = new Set<string>();
  private readonly places: Camera[] = [];

  constructor(
    public camera: Camera,
    private readonly floorBelow: (point: Vec3) => number | undefined,
  ) {}

  get canGoBack(): boolean {
    return this.places.length > 0;
  }

  /** Keeps the present place, so that `back` returns to it. */
  keepPlace(): void {
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
    this.camera = this.places.pop() ?? this.camera;
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
    const { position, target } = this.camera;
    const towards = subtract(target, position);
    if (this.mode === 'orbit') {
      const distance = Math.max(0.6, length(towards) * Math.pow(0.9, steps));
      this.camera = { ...this.camera, position: vec(subtract(target, scale(normalise(towards), distance))) };
    } else this.moveBy(scale(normalise(this.mode === 'walk' ? [towards[0], towards[1], 0] : towards), steps * 0.5));
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

  keyDown(key: string): boolean {
    const known = ['w', 'a', 's', 'd', 'q', 'e', 'arrowup', 'arrowdown', 'arrowleft', 'arrowright'].includes(key);
    if (known) {
      if (this.keys.size === 0) this.keepPlace();
      this.keys.add(key);
    }
    return known;
  }

  keyUp(key: string): void {
    this.keys.delete(key);
  }

  releaseKeys(): void {
    this.keys.clear();
  }

  get isMoving(): boolean {
    return this.keys.size > 0;
  }

  /** Carries on what held keys ask for. */
  advance(seconds: number): void {
    const has = (...keys: string[]) => (keys.some((k) => this.keys.has(k)) ? 1 : 0);
    const ahead = has('w', 'arrowup') - has('s', 'arrowdown');
    const aside = has('d') - has('a');
    const turn = has('arrowleft') - has('arrowright');
    const rise = has('e') - has('q');
    if (this.mode === 'orbit') {
      this.orbit(
        (has('a', 'arrowleft') - has('d', 'arrowright')) * seconds * -0.8,
        (has('w', 'arrowup') - has('s', 'arrowdown')) * seconds * 0.5,
      );
      return;
    }
    if (turn) this.look(turn * seconds * -1.1, 0);
    const forward = normalise(subtract(this.camera.target, this.camera.position));
    const level = this.mode === 'walk' ? normalise([forward[0], forward[1], 0]) : forward;
    const side = normalise(cross(forward, [0, 0, 1]));
    const speed = (this.mode === 'walk' ? WALK_SPEED_MS : FLY_SPEED_MS) * seconds;
    this.moveBy(add(add(scale(level, ahead * speed), scale(side, aside * speed)), [0, 0, this.mode === 'fly' ? rise * speed : 0]));
    if (this.mode === 'walk' && (ahead || aside)) this.stand();
  }

  private stand(): void {
    const [x, y, z] = this.camera.position;
    const floor = this.floorBelow([x, y, z + 0.3]);
    if (floor !== undefined) this.moveBy([0, 0, floor + EYE_HEIGHT_M - z]);
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
