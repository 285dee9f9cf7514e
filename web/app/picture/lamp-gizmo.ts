import {
  ChangeDetectionStrategy,
  Component,
  ElementRef,
  inject,
  signal,
  viewChild,
  type AfterViewInit,
  type OnDestroy,
} from '@angular/core';
import { combineLatest, type Subscription } from 'rxjs';
import * as THREE from 'three';
import { TransformControls } from 'three/examples/jsm/controls/TransformControls.js';
import { verticalFovRad } from '../../../core/camera/camera';
import { lampFrame, movedFrame } from '../../../core/lamp/frame';
import { lampOutline } from '../../../core/lamp/outline';
import type { PlacedLamp } from '../../../core/lamp/placed-lamp';
import { thingKey } from '../../../core/project/things';
import { LampPlacing } from '../state/lamp-placing';
import { LampSelection, type SelectableLamp } from '../state/lamp-selection';
import { PictureState } from '../state/picture-state';
import { SceneState } from '../state/scene-state';

const CHOSEN = 0xb8492a;
const OTHERS = 0xfffdf8;
type Mode = 'translate' | 'rotate';

/** Lamps that were placed here, in their true size over whichever picture is shown; those that are chosen are moved and turned by hand. */
@Component({
  selector: 'dp-lamp-gizmo',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <canvas #canvas data-testid="gizmo" [attr.data-chosen]="chosen()"></canvas>
    @if (chosen() > 0) {
      <div class="tools" role="group" aria-label="Chosen lamps">
        <button type="button" [attr.aria-pressed]="mode() === 'translate'" (click)="setMode('translate')">Move</button>
        <button type="button" [attr.aria-pressed]="mode() === 'rotate'" (click)="setMode('rotate')">Turn</button>
        <span>{{ chosen() === 1 ? 'one lamp' : chosen() + ' lamps' }}</span>
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
export class LampGizmo implements AfterViewInit, OnDestroy {
  private readonly picture = inject(PictureState);
  private readonly sceneState = inject(SceneState);
  private readonly selection = inject(LampSelection);
  private readonly placing = inject(LampPlacing);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  protected readonly mode = signal<Mode>('translate');
  protected readonly chosen = signal(0);
  private renderer: THREE.WebGLRenderer | undefined;
  private controls: TransformControls | undefined;
  private readonly root = new THREE.Scene();
  private readonly camera = new THREE.PerspectiveCamera(40, 16 / 9, 0.05, 2000);
  private readonly pivot = new THREE.Object3D();
  private readonly outlines = new THREE.Group();
  private drawn: THREE.LineSegments<THREE.BufferGeometry, THREE.LineBasicMaterial>[] = [];
  private lamps: readonly SelectableLamp[] = [];
  private dragged: { lamps: readonly SelectableLamp[]; from: THREE.Matrix4 } | undefined;
  private asked = false;
  private watching: Subscription | undefined;

  ngAfterViewInit(): void {
    try {
      this.renderer = new THREE.WebGLRenderer({ canvas: this.canvas().nativeElement, alpha: true, antialias: true });
    } catch {
      // Without WebGL lamps are marked by pins, moved by clicks and by numbers.
      return;
    }
    this.camera.up.set(0, 0, 1);
    const frame = this.host.nativeElement.parentElement!;
    this.controls = new TransformControls(this.camera, frame);
    this.controls.setSize(0.7);
    this.root.add(this.pivot, this.outlines, this.controls.getHelper());
    this.controls.addEventListener('change', this.ask);
    this.controls.addEventListener('objectChange', this.preview);
    this.controls.addEventListener('mouseDown', this.begin);
    this.controls.addEventListener('mouseUp', this.end);
    this.picture.gizmoHolds = () => this.controls?.axis != null;
    this.watching = combineLatest([this.selection.shown$, this.selection.chosen$]).subscribe(([lamps, chosen]) => {
      if (!this.dragged) this.show(lamps, chosen);
    });
    this.watching.add(combineLatest([this.picture.camera$, this.picture.size$]).subscribe(this.ask));
  }

  ngOnDestroy(): void {
    this.watching?.unsubscribe();
    this.picture.gizmoHolds = () => false;
    this.sceneState.lightingPreview$.next(undefined);
    this.controls?.dispose();
    this.clear();
    this.renderer?.dispose();
  }

  protected setMode(mode: Mode): void {
    this.mode.set(mode);
    this.controls?.setMode(mode);
    // One lamp turns about itself, several about the world's axes through their middle.
    this.controls?.setSpace(mode === 'rotate' && this.chosen() === 1 ? 'local' : 'world');
    this.ask();
  }

  private show(lamps: readonly SelectableLamp[], chosen: ReadonlySet<string>): void {
    this.lamps = lamps.filter(({ id }) => chosen.has(id));
    this.chosen.set(this.lamps.length);
    this.draw(lamps, chosen);
    if (this.lamps.length === 0) this.controls?.detach();
    else {
      this.pivot.position.copy(middleOf(this.lamps));
      this.pivot.quaternion.identity();
      const [only] = this.lamps;
      if (this.lamps.length === 1) this.pivot.quaternion.setFromRotationMatrix(frameMatrix(only!.lamp));
      this.pivot.updateMatrixWorld();
      this.controls?.attach(this.pivot);
      this.setMode(this.mode());
    }
    this.ask();
  }

  private draw(lamps: readonly SelectableLamp[], chosen: ReadonlySet<string>): void {
    this.clear();
    for (const { id, lamp } of lamps) {
      const points = lampOutline(lamp).flatMap((segment) => segment.map((p) => new THREE.Vector3(...p)));
      const material = new THREE.LineBasicMaterial({ color: chosen.has(id) ? CHOSEN : OTHERS, depthTest: false });
      this.drawn.push(new THREE.LineSegments(new THREE.BufferGeometry().setFromPoints(points), material));
    }
    if (this.drawn.length > 0) this.outlines.add(...this.drawn);
  }

  private clear(): void {
    for (const { geometry, material } of this.drawn.splice(0)) {
      geometry.dispose();
      material.dispose();
    }
    this.outlines.clear();
  }

  private readonly begin = () => {
    this.pivot.updateMatrixWorld();
    this.dragged = { lamps: this.lamps, from: this.pivot.matrixWorld.clone().invert() };
  };

  /** While it is dragged it is only seen; once let go it is a step. */
  private readonly preview = () => {
    if (!this.dragged) return;
    const moved = this.moved();
    this.draw(moved, new Set(moved.map(({ id }) => id)));
    this.sceneState.lightingPreview$.next(new Map(moved.map(({ id, lamp }) => [thingKey(id), lamp])));
    this.ask();
  };

  private readonly end = () => {
    const moved = this.dragged && this.moved();
    this.dragged = undefined;
    if (!moved || moved.length === 0) return;
    const what = moved.length === 1 ? moved[0]!.lamp.name : `${String(moved.length)} lamps`;
    this.placing.put([...moved], `${what} ${this.mode() === 'translate' ? 'moved' : 'turned'}`);
    this.sceneState.lightingPreview$.next(undefined);
  };

  private moved(): readonly SelectableLamp[] {
    const { lamps, from } = this.dragged!;
    this.pivot.updateMatrixWorld();
    const by = this.pivot.matrixWorld.clone().multiply(from);
    return lamps.map(({ id, lamp }) => ({ id, lamp: movedLamp(lamp, by) }));
  }

  private readonly ask = () => {
    if (this.asked) return;
    this.asked = true;
    requestAnimationFrame(() => {
      this.asked = false;
      this.render();
    });
  };

  private render(): void {
    const { position, target, focalMm } = this.picture.camera$.value;
    const { width, height } = this.picture.size$.value;
    this.camera.position.set(...position);
    this.camera.lookAt(...target);
    this.camera.aspect = width / height;
    this.camera.fov = (verticalFovRad(focalMm, width / height) * 180) / Math.PI;
    this.camera.updateProjectionMatrix();
    this.camera.updateMatrixWorld();
    this.canvas().nativeElement.dataset['handle'] = this.controls?.axis ?? '';
    this.renderer?.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer?.setSize(width, height, false);
    this.renderer?.render(this.root, this.camera);
  }
}

function middleOf(lamps: readonly SelectableLamp[]): THREE.Vector3 {
  const middle = new THREE.Vector3();
  for (const { lamp } of lamps) middle.add(new THREE.Vector3(...lamp.position));
  return middle.divideScalar(lamps.length);
}

/** Columns: plane C0, across it, against the axis. */
function frameMatrix({ direction, turnDeg }: PlacedLamp): THREE.Matrix4 {
  const { axis, right } = lampFrame(direction, turnDeg);
  const [x, z] = [new THREE.Vector3(...right), new THREE.Vector3(...axis).negate()];
  return new THREE.Matrix4().makeBasis(x, z.clone().cross(x), z);
}

/** A lamp after a movement of what holds it; lengths stay. */
function movedLamp(lamp: PlacedLamp, by: THREE.Matrix4): PlacedLamp {
  const position = new THREE.Vector3(...lamp.position).applyMatrix4(by);
  const { direction, turnDeg } = movedFrame(by.toArray(), lamp.direction, lamp.turnDeg);
  return { ...lamp, position: position.toArray(), direction: [...direction], turnDeg };
}
