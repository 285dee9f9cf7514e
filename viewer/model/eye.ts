import { Walker } from '../../core/camera/walker';
import type { Vec3 } from '../../core/geometry/vec3';
import type { Camera } from '../../core/model/schema';
import type { Building } from './building';

const [LOOK_RAD_A_PX, TURN_RAD_S] = [0.0032, 1.6];
const WALK_M_S = 1.4;
const RUN = 2.6;
const STEEPEST = 1.45;
const KEYS: Readonly<Record<string, [number, number]>> = {
  w: [0, 1], arrowup: [0, 1], s: [0, -1], arrowdown: [0, -1], a: [-1, 0], d: [1, 0],
}; // prettier-ignore

/** The eye of who looks about: by mouse, touch and keys; on foot, held by floors and walls, or free. */
export class Eye {
  position: Vec3 = [0, 0, 1.65];
  heading = 0;
  tilt = 0;
  focalMm = 26;
  onFoot = true;
  private readonly held = new Set<string>();
  private readonly walker: Walker;
  private dragged: { x: number; y: number } | undefined;
  private touches = 0;

  constructor(
    canvas: HTMLElement,
    building: Building,
    private readonly moved: () => void,
    private readonly clicked: (x: number, y: number) => void,
  ) {
    this.walker = new Walker(building.cast);
    let down: { x: number; y: number } | undefined;
    canvas.addEventListener('pointerdown', (event) => {
      canvas.setPointerCapture(event.pointerId);
      this.touches++;
      down = this.dragged = { x: event.clientX, y: event.clientY };
    });
    canvas.addEventListener('pointermove', (event) => {
      if (!this.dragged || this.touches === 0) return;
      const [dx, dy] = [event.clientX - this.dragged.x, event.clientY - this.dragged.y];
      this.dragged = { x: event.clientX, y: event.clientY };
      // One finger looks, two walk.
      if (this.touches > 1) this.go(0, -dy * 0.012);
      else this.turn(-dx * LOOK_RAD_A_PX, dy * LOOK_RAD_A_PX);
    });
    const up = (event: PointerEvent) => {
      if (down && Math.hypot(event.clientX - down.x, event.clientY - down.y) < 4 && event.type === 'pointerup') this.clicked(event.clientX, event.clientY);
      this.touches = Math.max(0, this.touches - 1);
      down = this.dragged = undefined;
    };
    canvas.addEventListener('pointerup', up);
    canvas.addEventListener('pointercancel', up);
    canvas.addEventListener('wheel', (event) => {
      event.preventDefault();
      this.go(0, -Math.sign(event.deltaY) * 0.6);
    }, { passive: false });
    canvas.addEventListener('keydown', (event) => {
      const key = event.key.toLowerCase();
      if (!(key in KEYS) && !['q', 'e', 'arrowleft', 'arrowright', 'shift'].includes(key)) return;
      event.preventDefault();
      this.held.add(key);
      this.moved();
    });
    canvas.addEventListener('keyup', (event) => this.held.delete(event.key.toLowerCase()));
    canvas.addEventListener('blur', () => {
      this.held.clear();
    });
  } // prettier-ignore

  get isMoving(): boolean {
    return this.held.size > 0;
  }

  /** Goes on by the keys that are held. */
  advance(seconds: number): void {
    let [aside, ahead] = [0, 0];
    for (const key of this.held) {
      aside += KEYS[key]?.[0] ?? 0;
      ahead += KEYS[key]?.[1] ?? 0;
    }
    const way = WALK_M_S * seconds * (this.held.has('shift') ? RUN : 1);
    if (aside || ahead) this.go(aside * way, ahead * way);
    const turn = (this.held.has('q') || this.held.has('arrowleft') ? 1 : 0) - (this.held.has('e') || this.held.has('arrowright') ? 1 : 0);
    if (turn) this.turn(turn * TURN_RAD_S * seconds, 0);
  }

  private turn(by: number, up: number): void {
    this.heading += by;
    this.tilt = Math.max(-STEEPEST, Math.min(STEEPEST, this.tilt + up));
    this.moved();
  }

  private go(aside: number, ahead: number): void {
    const [s, c] = [Math.sin(this.heading), Math.cos(this.heading)];
    const [dx, dy] = [-s * ahead + c * aside, c * ahead + s * aside];
    if (this.onFoot) this.position = this.walker.step(this.position, dx, dy);
    else this.position = [this.position[0] + dx, this.position[1] + dy, this.position[2] + Math.sin(this.tilt) * ahead];
    this.moved();
  }

  /** Takes the place of a camera; whose eye is as high as somebody's stands there. */
  take({ position, target, focalMm }: Camera): void {
    const [x, y, z] = [target[0] - position[0], target[1] - position[1], target[2] - position[2]];
    this.position = [...position];
    this.heading = Math.atan2(-x, y);
    this.tilt = Math.atan2(z, Math.hypot(x, y));
    this.focalMm = focalMm;
    const standing = this.walker.stand(this.position);
    this.onFoot = standing !== undefined && Math.abs(standing[2] - position[2]) < 0.6;
    this.moved();
  }

  /** Stands at a place that was pointed to. */
  standAt(place: Vec3): void {
    const standing = this.walker.stand([place[0], place[1], place[2] + 1.65]);
    if (!standing) return;
    this.position = standing;
    this.onFoot = true;
    this.moved();
  }

  get way(): Vec3 {
    const level = Math.cos(this.tilt);
    return [-Math.sin(this.heading) * level, Math.cos(this.heading) * level, Math.sin(this.tilt)];
  }
}
