import * as THREE from 'three';
import { verticalFovRad } from '../../core/camera/camera';
import type { Vec3 } from '../../core/geometry/vec3';
import type { Camera } from '../../core/model/schema';
import type { ViewerData, ViewerLook } from '../../core/viewing/viewing';
import { Building } from './building';
import { Eye } from './eye';
import { Plan } from './plan';
import { skyDome } from './surface-light';

const SHADOW_PX = { software: 2048, gpu: 4096 };
/** A surface is lifted by so many texels of the shadow, or its own roughness there would show as stripes. */
const LIFTED = 1.6;
const MOST_SHADOW_M = 70;
/** Of a frame while something moves; and how few of the pixels it may have, each way. */
const FRAME_MS = 50;
const LEAST_SHARE = 0.2;
/** From here on nobody sees that some are missing. */
const ENOUGH = 0.95;
const REST_MS = 250;
/** Where frames take too long, only what is largest is drawn while something moves. */
const MOVING_TRIANGLES = 250_000;

/** Draws the building as the eye sees it, whenever something has changed. */
export class View {
  readonly canvas: HTMLCanvasElement;
  readonly eye: Eye;
  readonly camera = new THREE.PerspectiveCamera(50, 1, 0.05, 6000);
  readonly scene = new THREE.Scene();
  private readonly sun = new THREE.DirectionalLight();
  private readonly plan: Plan;
  private asked = false;
  private last = 0;
  /** Pixels a CSS pixel at rest, and the share of them that is drawn while something moves, as this computer can. */
  private readonly ratio: number;
  private share = 1;
  private resting: ReturnType<typeof setTimeout> | undefined;
  /** Called after each picture. */
  drawn: () => void = () => undefined;

  constructor(
    stage: HTMLElement,
    readonly renderer: THREE.WebGLRenderer,
    readonly building: Building,
    clicked: (x: number, y: number) => void,
  ) {
    this.canvas = renderer.domElement;
    this.canvas.tabIndex = 0;
    this.canvas.setAttribute('aria-label', 'The building. Drag to look, W A S D or arrow keys to walk, double click to go there.');
    stage.append(this.canvas);
    renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    renderer.toneMapping = THREE.NoToneMapping;
    renderer.shadowMap.enabled = true;
    renderer.shadowMap.type = THREE.PCFShadowMap;
    renderer.shadowMap.autoUpdate = false;
    const software = isSoftware(renderer);
    this.ratio = Math.min(software ? 1 : 2, devicePixelRatio);
    renderer.setPixelRatio(this.ratio);
    this.sun.castShadow = true;
    this.sun.shadow.mapSize.setScalar(SHADOW_PX[software ? 'software' : 'gpu']);
    this.camera.up.set(0, 0, 1);
    this.scene.add(building.group, skyDome(), this.sun, this.sun.target);
    this.eye = new Eye(this.canvas, building, () => { this.ask(); }, clicked); // prettier-ignore
    this.plan = new Plan(stage, building.near, (place) => { this.eye.standAt(place); }); // prettier-ignore
    this.canvas.addEventListener('dblclick', (event) => {
      const met = this.meetAt(event.clientX, event.clientY);
      if (met) this.eye.standAt([met.place.x, met.place.y, met.place.z]);
    });
    new ResizeObserver(() => {
      this.ask();
    }).observe(stage);
  }

  show(look: ViewerLook, number: number): void {
    this.building.show(look, number);
    const { sun } = this;
    sun.color.setRGB(...(look.sun.light as [number, number, number]));
    sun.intensity = 1;
    sun.visible = look.sun.light.some((light) => light > 1e-4);
    const [middle, size] = [this.building.near.getCenter(new THREE.Vector3()), this.building.near.getSize(new THREE.Vector3())];
    const reach = Math.min(MOST_SHADOW_M, size.length() / 2 + 6);
    sun.target.position.copy(middle);
    sun.position.copy(middle).addScaledVector(new THREE.Vector3(...look.sun.direction), 200);
    const { camera } = sun.shadow;
    [camera.left, camera.right, camera.top, camera.bottom, camera.near, camera.far] = [-reach, reach, reach, -reach, 10, 420];
    camera.updateProjectionMatrix();
    sun.shadow.normalBias = (2 * reach * LIFTED) / sun.shadow.mapSize.x;
    this.renderer.shadowMap.needsUpdate = true;
    this.ask();
  }

  /** What lies under a place of the page. */
  meetAt(x: number, y: number): ReturnType<Building['meet']> {
    const box = this.canvas.getBoundingClientRect();
    const far = new THREE.Vector3(((x - box.left) / box.width) * 2 - 1, 1 - ((y - box.top) / box.height) * 2, 0.5).unproject(this.camera);
    const way = far.sub(this.camera.position);
    return this.building.meet(this.eye.position, way.toArray());
  }

  /** Where a place is seen, CSS pixels; undefined: behind. */
  seenAt(place: readonly number[]): { x: number; y: number } | undefined {
    const seen = new THREE.Vector3(...place).project(this.camera);
    if (seen.z > 1) return undefined;
    return { x: ((seen.x + 1) / 2) * this.canvas.clientWidth, y: ((1 - seen.y) / 2) * this.canvas.clientHeight };
  }

  get asCamera(): Camera {
    const { position, way, focalMm } = this.eye;
    const target = position.map((v, k) => v + way[k]!) as unknown as Vec3;
    return { position: [...position], target: [...target], focalMm };
  }

  ask(): void {
    clearTimeout(this.resting);
    this.askFrame(true);
  }

  private askFrame(moving: boolean): void {
    // A headset draws by itself.
    if (this.asked || this.renderer.xr.isPresenting) return;
    this.asked = true;
    requestAnimationFrame((now) => {
      this.asked = false;
      this.draw(now, moving);
    });
  }

  /** Draws as many pixels as a frame has time for; all of them once nothing moves. */
  private fitPixels(moving: boolean, ms: number): void {
    if (moving) {
      this.share = Math.min(1, Math.max(LEAST_SHARE, this.share * Math.sqrt(FRAME_MS / Math.max(1, ms))));
      if (this.share < ENOUGH) {
        this.resting = setTimeout(() => { this.askFrame(false); }, REST_MS); // prettier-ignore
      }
    }
  }

  private draw(now: number, moving: boolean): void {
    const { eye, renderer, camera } = this;
    const began = performance.now();
    if (eye.isMoving) eye.advance(Math.min(0.1, this.last ? (now - this.last) / 1000 : 0.016));
    this.last = eye.isMoving ? now : 0;
    const { clientWidth: width, clientHeight: height } = this.canvas.parentElement!;
    const size = renderer.getSize(new THREE.Vector2());
    const ratio = this.ratio * (moving && this.share < ENOUGH ? this.share : 1);
    if (renderer.getPixelRatio() !== ratio) renderer.setPixelRatio(ratio);
    this.building.thin(camera.position, moving && this.share < ENOUGH ? MOVING_TRIANGLES : Infinity);
    if (size.x !== width || size.y !== height) renderer.setSize(width, height);
    camera.aspect = width / Math.max(1, height);
    // On an upright screen as much is seen across as on a square one.
    camera.fov = (verticalFovRad(eye.focalMm, Math.max(camera.aspect, 1)) * 180) / Math.PI;
    camera.position.set(...eye.position);
    camera.lookAt(eye.position[0] + eye.way[0], eye.position[1] + eye.way[1], eye.position[2] + eye.way[2]);
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    renderer.render(this.scene, camera);
    // Until the pixels are there, nobody knows how long they took.
    renderer.getContext().finish();
    this.fitPixels(moving, performance.now() - began);
    this.plan.draw(renderer, this.scene, eye.position, eye.heading);
    this.canvas.dataset['drawn'] = String(Number(this.canvas.dataset['drawn'] ?? 0) + 1);
    this.canvas.dataset['whole'] = String(!moving || this.share >= ENOUGH);
    this.canvas.dataset['eye'] = eye.position.map((v) => v.toFixed(2)).join(' ');
    this.drawn();
    if (eye.isMoving) this.ask();
  }
}

export function bytesOf(model: ViewerData['model']): ArrayBuffer {
  const text = atob(model);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  return bytes.buffer;
}

function isSoftware(renderer: THREE.WebGLRenderer): boolean {
  const gl = renderer.getContext();
  const told = gl.getExtension('WEBGL_debug_renderer_info');
  return told !== null && /swiftshader|llvmpipe|software/i.test(String(gl.getParameter(told.UNMASKED_RENDERER_WEBGL)));
}
