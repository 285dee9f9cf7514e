import { signal } from '@angular/core';
import type { Model } from '../../../core/model/model';
import { findFinish } from '../../../core/project/project';
import type { Live } from '../state/live';
import type { PictureState, Pointed } from '../state/picture-state';
import type { SceneState } from '../state/scene-state';
import type { Drag, Scheme } from '../state/controls';
import type { Navigation } from './navigation';
import type { Picked, Stage } from './stage';

const HOVER_MS = 80;
const CLICK_SLACK_PX = 4;

interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** What pointing needs of the picture that it is over. */
export interface PointedPicture {
  /** How the mouse works. */
  scheme(): Scheme;
  stage(): Stage | undefined;
  navigation(): Navigation;
  frame(): HTMLElement;
  size(): { width: number; height: number };
  models(): ReadonlyMap<string, Model>;
  readonly state: PictureState;
  readonly sceneState: SceneState;
  readonly live: Live;
  /** The camera has moved; `held`: and goes on moving under the pointer. */
  moved(held: boolean): void;
}

/** The pointer over the picture: looking about, pointing at surfaces, picking them, and finishes dragged onto them. */
export class Pointing {
  /** The surface under the resting pointer. */
  readonly pointed = signal<Pointed | undefined>(undefined);
  /** The box that is being drawn, parts of the picture. */
  readonly box = signal<Box | undefined>(undefined);
  private hoverTimer: ReturnType<typeof setTimeout> | undefined;
  private press: { x: number; y: number; lastX: number; lastY: number; drag: Drag; moved: boolean } | undefined;

  constructor(private readonly picture: PointedPicture) {}

  /** Whether the pointer drags the camera. */
  get isDragging(): boolean {
    return (this.press?.moved && this.press.drag !== 'choose') ?? false;
  }

  down(event: PointerEvent): void {
    this.picture.frame().focus({ preventScroll: true });
    if (this.picture.state.gizmoHolds()) return;
    this.picture.frame().setPointerCapture(event.pointerId);
    this.press = {
      x: event.clientX,
      y: event.clientY,
      lastX: event.clientX,
      lastY: event.clientY,
      drag: this.picture.scheme().drag(event),
      moved: false,
    };
  }

  move(event: PointerEvent): void {
    const { press } = this;
    if (!press) {
      this.hover(event);
      return;
    }
    if (!press.moved && Math.hypot(event.clientX - press.x, event.clientY - press.y) < CLICK_SLACK_PX) return;
    if (!press.moved && press.drag !== 'choose') this.picture.navigation().keepPlace();
    press.moved = true;
    if (press.drag === 'choose') {
      this.box.set(this.boxTo(press, event));
      return;
    }
    const { width } = this.picture.size();
    this.picture.navigation().drag((event.clientX - press.lastX) / width, (event.clientY - press.lastY) / width, press.drag === 'slide');
    [press.lastX, press.lastY] = [event.clientX, event.clientY];
    this.picture.moved(true);
  }

  up(event: PointerEvent): void {
    const { press } = this;
    this.press = undefined;
    if (press?.drag === 'choose' && press.moved) {
      this.picture.state.boxed$.next(this.boxTo(press, event));
      this.box.set(undefined);
      return;
    }
    if (!press || press.moved || event.button !== 0) return;
    const pointed = this.describe(this.pickAt(event), event);
    if (!pointed) return;
    const taker = this.picture.state.pointTaker$.value;
    if (taker) taker(pointed);
    else this.picture.state.picked$.next(pointed);
  }

  doubleClick(event: MouseEvent): void {
    const picked = this.pickAt(event);
    if (!picked) return;
    this.picture.navigation().jumpTo(picked.point);
    this.picture.moved(false);
  }

  wheel(event: WheelEvent): void {
    event.preventDefault();
    // A pinch over a trackpad comes as a wheel with Ctrl.
    if (this.picture.scheme().wheelTurns && !event.ctrlKey && !event.metaKey) {
      const { width } = this.picture.size();
      this.picture.navigation().drag(-event.deltaX / width, -event.deltaY / width, false);
    } else this.picture.navigation().approach(-Math.sign(event.deltaY) * Math.min(3, Math.abs(event.deltaY) / 60));
    this.picture.moved(true);
  }

  leave(): void {
    clearTimeout(this.hoverTimer);
    this.pointed.set(undefined);
    this.picture.state.pointed$.next(undefined);
  }

  private boxTo({ x, y }: { x: number; y: number }, event: PointerEvent): Box {
    const frame = this.picture.frame().getBoundingClientRect();
    const [ax, bx] = [x, event.clientX].map((at) => (at - frame.left) / frame.width).sort((a, b) => a - b) as [number, number];
    const [ay, by] = [y, event.clientY].map((at) => (at - frame.top) / frame.height).sort((a, b) => a - b) as [number, number];
    return { left: ax, top: ay, right: bx, bottom: by };
  }

  private hover(event: PointerEvent): void {
    clearTimeout(this.hoverTimer);
    this.hoverTimer = setTimeout(() => {
      const pointed = this.describe(this.pickAt(event), event);
      this.pointed.set(pointed);
      this.picture.state.pointed$.next(pointed);
    }, HOVER_MS);
  }

  private pickAt(event: MouseEvent): Picked | undefined {
    const box = this.picture.frame().getBoundingClientRect();
    this.picture.stage()?.setCamera(this.picture.navigation().camera);
    return this.picture.stage()?.pick((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
  }

  private describe(picked: Picked | undefined, event: MouseEvent): Pointed | undefined {
    if (!picked) return undefined;
    const { source, element, material, finish } = picked.instance;
    const model = this.picture.models().get(source);
    return {
      source,
      element,
      material,
      elementName: model?.elements.get(element)?.name ?? element,
      materialName: model?.materials.get(material)?.name ?? material,
      finishName: finish.name,
      point: picked.corner ?? picked.point,
      edge: picked.edge,
      plane: picked.plane,
      normal: picked.normal,
      x: event.clientX,
      y: event.clientY,
    };
  }

  dragOver(event: DragEvent): void {
    if (this.picture.state.condition$.value !== undefined) event.preventDefault();
    const finish = this.picture.state.dragged$.value;
    if (finish === undefined) return;
    event.preventDefault();
    const picked = this.pickAt(event);
    const now = this.picture.sceneState.preview$.value;
    if (!picked) {
      if (now) this.picture.sceneState.preview$.next(undefined);
    } else {
      const { source, material } = picked.instance;
      const [on] = now?.on ?? [];
      if (on?.material !== material || on.source !== source || now?.finish !== finish)
        this.picture.sceneState.preview$.next({ on: [{ source, material }], finish });
    }
  }

  dragLeave(): void {
    this.picture.sceneState.preview$.next(undefined);
  }

  /** What lies under the pointer as it is let go has the finish, whether or not the page came to show it before. */
  drop(event: DragEvent): void {
    event.preventDefault();
    const condition = this.picture.state.condition$.value;
    if (condition !== undefined) {
      this.picture.live.run({ type: 'recall-condition', id: condition });
      return;
    }
    const finish = this.picture.state.dragged$.value;
    const picked = this.pickAt(event);
    if (picked && finish !== undefined && findFinish(this.picture.live.entries$.value, finish)) {
      const { source, material } = picked.instance;
      this.picture.live.run({ type: 'assign-finish', source, material, finish });
    }
    this.picture.sceneState.preview$.next(undefined);
    this.picture.state.dragged$.next(undefined);
  }
}
