import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { combineLatest } from 'rxjs';
import * as THREE from 'three';
import { TransformControls } from 'three/examples/jsm/controls/TransformControls.js';
import type { Mat4 } from '../../../core/geometry/mat4';
import { HANDLE_MODES, type Held, type Handling, type HandleMode } from '../state/handling';
import { Handlings } from '../state/handlings';
import { PictureState } from '../state/picture-state';
import { poseCamera } from './pose-camera';

const CHOSEN = 0xb8492a;
const OTHERS = 0xfffdf8;
/** Of the handles along each axis, and of the one that is taken. */
const AXES = { x: 0xb8492a, y: 0x2f746c, z: 0x22303a, active: 0x9a6700 };
const WORDS: Record<HandleMode, string> = { translate: 'Move', rotate: 'Turn', scale: 'Size' };

type Lines = THREE.Group & { children: THREE.LineSegments<THREE.BufferGeometry, THREE.LineBasicMaterial>[] };

/** What is chosen, drawn in lines over whichever picture is shown, and the handles that move, turn and size it. */
@Component({
  selector: 'dp-handles',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <canvas #canvas data-testid="gizmo" [attr.data-chosen]="held()?.key?.split(' ')?.length ?? 0"></canvas>
    @if (held(); as held) {
      <div class="tools" role="group" aria-label="What is chosen" (pointerdown)="$event.stopPropagation()">
        @for (one of modesOf(held); track one) {
          <button type="button" [attr.aria-pressed]="mode() === one" (click)="wanted.set(one)">{{ words[one] }}</button>
        }
        <span class="text-truncate">{{ held.words }}</span>
      </div>
    }
  `,
  styles: `
    canvas {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
      pointer-events: none;
    }
    .tools {
      position: absolute;
      left: 10px;
      top: 10px;
      display: flex;
      align-items: center;
      gap: 4px;
      max-width: 60%;
      padding: 4px 8px 4px 4px;
      background: var(--paper-raised);
      font-size: 0.8125rem;
    }
    button {
      border: 1px solid var(--rule);
      background: none;
      padding: 2px 8px;
    }
    button[aria-pressed='true'] {
      border-color: var(--ink);
      font-weight: 600;
    }
  `,
})
export class Handles {
  private readonly picture = inject(PictureState);
  private readonly handling = inject(Handlings).handling;
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  protected readonly words = WORDS;
  protected readonly wanted = signal<HandleMode>('translate');
  protected readonly held = computed(() => this.handling().held);
  protected readonly mode = computed((): HandleMode => (this.held()?.modes[this.wanted()] ? this.wanted() : 'translate'));
  private renderer: THREE.WebGLRenderer | undefined;
  private controls: TransformControls | undefined;
  private readonly root = new THREE.Scene();
  private readonly camera = new THREE.PerspectiveCamera(40, 16 / 9, 0.05, 2000);
  private readonly pivot = new THREE.Object3D();
  private readonly resting = new THREE.Group() as Lines;
  private readonly moving = new THREE.Group() as Lines;
  /** While it is dragged: what is, and back from where it was. */
  private dragged: { held: Held; from: THREE.Matrix4 } | undefined;
  private asked = false;

  constructor() {
    this.camera.up.set(0, 0, 1);
    this.moving.matrixAutoUpdate = false;
    this.root.add(this.pivot, this.resting, this.moving);
    afterNextRender(() => {
      this.open();
    });
    effect(() => {
      const [handling, mode] = [this.handling(), this.mode()];
      untracked(() => {
        if (!this.dragged) this.show(handling, mode);
      });
    });
    const watching = combineLatest([this.picture.camera$, this.picture.size$]).subscribe(() => {
      this.ask();
    });
    inject(DestroyRef).onDestroy(() => {
      watching.unsubscribe();
      this.picture.gizmoHolds = () => false;
      this.controls?.dispose();
      clear(this.resting);
      clear(this.moving);
      this.renderer?.dispose();
    });
  }

  protected modesOf({ modes }: Held): HandleMode[] {
    return HANDLE_MODES.filter((mode) => modes[mode]);
  }

  private open(): void {
    try {
      this.renderer = new THREE.WebGLRenderer({ canvas: this.canvas().nativeElement, alpha: true, antialias: true });
    } catch {
      // Without WebGL things are moved by clicks and by numbers.
      return;
    }
    const controls = new TransformControls(this.camera, this.host.nativeElement.parentElement);
    this.controls = controls;
    controls.setSize(0.8);
    controls.setColors(AXES.x, AXES.y, AXES.z, AXES.active);
    this.root.add(controls.getHelper());
    controls.addEventListener('change', () => {
      this.ask();
    });
    controls.addEventListener('mouseDown', () => {
      const held = this.held();
      if (held) this.dragged = { held, from: new THREE.Matrix4().fromArray([...held.frame]).invert() };
    });
    controls.addEventListener('objectChange', () => {
      if (!this.dragged) return;
      const by = this.movement();
      this.moving.matrix.fromArray([...by]);
      this.dragged.held.preview(by);
    });
    controls.addEventListener('mouseUp', () => {
      const dragged = this.dragged;
      if (!dragged) return;
      const by = this.movement();
      this.dragged = undefined;
      dragged.held.put(by, this.mode());
    });
    this.picture.gizmoHolds = () => controls.axis != null;
    this.show(this.handling(), this.mode());
  }

  /** From where it was held to where it is now; sized alike in all directions unless its own axes are. */
  private movement(): Mat4 {
    const { held, from } = this.dragged!;
    if (this.mode() === 'scale' && !held.modes.scale!.own) {
      const most = this.pivot.scale.toArray().reduce((a, b) => (Math.abs(Math.log(Math.abs(b))) > Math.abs(Math.log(Math.abs(a))) ? b : a));
      this.pivot.scale.setScalar(Math.max(0.05, Math.abs(most)));
    }
    this.pivot.updateMatrixWorld();
    return this.pivot.matrixWorld.clone().multiply(from).toArray();
  }

  private show({ outlines, held }: Handling, mode: HandleMode): void {
    clear(this.resting);
    clear(this.moving);
    this.moving.matrix.identity();
    for (const { segments, isChosen } of outlines) {
      const points = segments.flatMap((segment) => segment.map((p) => new THREE.Vector3(...p)));
      const material = new THREE.LineBasicMaterial({ color: isChosen ? CHOSEN : OTHERS, depthTest: false });
      (isChosen ? this.moving : this.resting).add(new THREE.LineSegments(new THREE.BufferGeometry().setFromPoints(points), material));
    }
    const { controls } = this;
    if (controls && held) {
      new THREE.Matrix4().fromArray([...held.frame]).decompose(this.pivot.position, this.pivot.quaternion, this.pivot.scale);
      this.pivot.updateMatrixWorld();
      const { axes, own } = held.modes[mode]!;
      controls.setMode(mode);
      controls.setSpace(own ? 'local' : 'world');
      controls.showX = controls.showY = axes === 'xyz';
      controls.attach(this.pivot);
    } else controls?.detach();
    this.ask();
  }

  private ask(): void {
    if (this.asked) return;
    this.asked = true;
    requestAnimationFrame(() => {
      this.asked = false;
      this.render();
    });
  }

  private render(): void {
    const { width, height } = this.picture.size$.value;
    this.camera.aspect = width / height;
    poseCamera(this.camera, this.picture.camera$.value);
    this.canvas().nativeElement.dataset['handle'] = this.controls?.axis ?? '';
    this.renderer?.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer?.setSize(width, height, false);
    this.renderer?.render(this.root, this.camera);
  }
}

function clear(group: Lines): void {
  for (const { geometry, material } of group.children) {
    geometry.dispose();
    material.dispose();
  }
  group.clear();
}
