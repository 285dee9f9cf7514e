import * as THREE from 'three';
import { lookUniforms } from './surface-light';
import type { Vec3 } from '../../core/geometry/vec3';

const [WIDTH, HEIGHT] = [300, 200];
/** Above the floor that one stands on; common practice. */
const CUT_M = 1.1;
const MARGIN = 1.15;
/** Rooms are darker than what lies about them. */
const BRIGHTER = 2.5;

/** A plan of the storey that one stands on, cut from the model; a click goes there. */
export class Plan {
  private readonly canvas = document.createElement('canvas');
  private readonly picture = document.createElement('canvas');
  private readonly middle = new THREE.Vector3();
  private widthM = 1;
  private floor = NaN;

  constructor(
    stage: HTMLElement,
    near: THREE.Box3,
    private readonly go: (place: Vec3) => void,
  ) {
    for (const one of [this.canvas, this.picture]) [one.width, one.height] = [WIDTH, HEIGHT];
    this.canvas.className = 'plan';
    this.canvas.setAttribute('role', 'img');
    this.canvas.setAttribute('aria-label', 'Plan; a click goes there');
    stage.append(this.canvas);
    near.getCenter(this.middle);
    const size = near.getSize(new THREE.Vector3());
    this.widthM = Math.max(size.x, (size.y * WIDTH) / HEIGHT, 4) * MARGIN;
    this.canvas.addEventListener('click', (event) => {
      const box = this.canvas.getBoundingClientRect();
      const x = this.middle.x + ((event.clientX - box.left) / box.width - 0.5) * this.widthM;
      const y = this.middle.y - (((event.clientY - box.top) / box.height - 0.5) * this.widthM * HEIGHT) / WIDTH;
      this.go([x, y, this.floor]);
    });
  }

  /** Draws the storey anew where another one is stood on, and who stands there. */
  draw(renderer: THREE.WebGLRenderer, scene: THREE.Scene, eye: Vec3, heading: number): void {
    const floor = Math.round((eye[2] - 1.65) * 2) / 2;
    if (floor !== this.floor) {
      this.floor = floor;
      this.cut(renderer, scene, floor + CUT_M);
    }
    const context = this.canvas.getContext('2d')!;
    context.drawImage(this.picture, 0, 0);
    const scale = WIDTH / this.widthM;
    context.save();
    context.translate(WIDTH / 2 + (eye[0] - this.middle.x) * scale, HEIGHT / 2 - (eye[1] - this.middle.y) * scale);
    context.rotate(-heading);
    context.fillStyle = '#2f746c66';
    context.beginPath();
    context.moveTo(0, 0);
    context.lineTo(-16, -26);
    context.lineTo(16, -26);
    context.fill();
    context.fillStyle = '#2f746c';
    context.beginPath();
    context.arc(0, 0, 4.5, 0, 7);
    context.fill();
    context.restore();
  }

  /** Looks straight down at what lies below a height. */
  private cut(renderer: THREE.WebGLRenderer, scene: THREE.Scene, z: number): void {
    const target = new THREE.WebGLRenderTarget(WIDTH * 2, HEIGHT * 2);
    const half = this.widthM / 2;
    const camera = new THREE.OrthographicCamera(-half, half, (half * HEIGHT) / WIDTH, (-half * HEIGHT) / WIDTH, 0, 200);
    camera.position.set(this.middle.x, this.middle.y, z + 50);
    camera.up.set(0, 1, 0);
    camera.lookAt(this.middle.x, this.middle.y, z - 50);
    const before = renderer.clippingPlanes;
    renderer.clippingPlanes = [new THREE.Plane(new THREE.Vector3(0, 0, -1), z)];
    const exposure = lookUniforms.exposure.value;
    lookUniforms.exposure.value = exposure * BRIGHTER;
    renderer.setRenderTarget(target);
    renderer.render(scene, camera);
    lookUniforms.exposure.value = exposure;
    const pixels = new Uint8Array(WIDTH * HEIGHT * 16);
    renderer.readRenderTargetPixels(target, 0, 0, WIDTH * 2, HEIGHT * 2, pixels);
    renderer.setRenderTarget(null);
    renderer.clippingPlanes = before;
    target.dispose();
    const large = document.createElement('canvas');
    [large.width, large.height] = [WIDTH * 2, HEIGHT * 2];
    const rows = new ImageData(WIDTH * 2, HEIGHT * 2);
    const line = WIDTH * 8;
    for (let y = 0; y < HEIGHT * 2; y++) rows.data.set(pixels.subarray((HEIGHT * 2 - 1 - y) * line, (HEIGHT * 2 - y) * line), y * line);
    for (let i = 3; i < rows.data.length; i += 4) rows.data[i] = 255;
    large.getContext('2d')!.putImageData(rows, 0, 0);
    this.picture.getContext('2d')!.drawImage(large, 0, 0, WIDTH, HEIGHT);
  }
}
