import * as THREE from 'three';
import { cloudThrough } from '../../../core/sky/clouds';
import type { Sky } from '../../../core/sky/sky-map';
import type { SeenFrom } from './seen-sizes';

const SHADOW_SIZE = 2048;
/** What reaches further is landscape, and the shadow is not spread over it, metres. */
const LANDSCAPE_M = 150;
const WIDEST_M = 60;

/** The sun of the working picture, and the square about the building that its shadow map covers. */
export class SunLight {
  readonly light = new THREE.DirectionalLight(0xffffff, 0);
  /** What the sun sees of the square; undefined while there is no sun. */
  view: SeenFrom | undefined;
  private direction: THREE.Vector3 | undefined;
  private lux: readonly number[] = [0, 0, 0];

  constructor() {
    this.light.castShadow = true;
    this.light.shadow.mapSize.set(SHADOW_SIZE, SHADOW_SIZE);
    this.light.shadow.bias = -0.0004;
    this.light.shadow.normalBias = 0.03;
  }

  set({ sun, clouds }: Sky): void {
    // Clouds shade all of the working picture alike, as they do its middle.
    const through = clouds ? cloudThrough(clouds, [0, 0, 0], sun.direction) : 1;
    this.lux = sun.normalLux.map((e) => e * through);
    this.direction = new THREE.Vector3(...sun.direction);
  }

  /** Whether it throws shadows. Where it is set it is a light of no strength: with one light fewer, all shaders would be made anew. */
  get isUp(): boolean {
    return this.lux.some((e) => e > 0);
  }

  /** `unit` is the exposure scale that brings lux to picture units. */
  expose(unit: number): void {
    const peak = Math.max(...this.lux, 1e-9);
    this.light.color.setRGB(this.lux[0]! / peak, this.lux[1]! / peak, this.lux[2]! / peak);
    this.light.intensity = peak * unit;
  }

  /** Lays the shadow's frustum about everything but the far landscape; false: there is no sun yet. */
  fit(boxes: readonly THREE.Box3[]): boolean {
    const { direction, light } = this;
    if (!direction) return false;
    const box = new THREE.Box3();
    for (const part of boxes) {
      const size = part.getSize(new THREE.Vector3());
      if (Math.max(size.x, size.y) < LANDSCAPE_M) box.union(part);
    }
    if (box.isEmpty()) box.set(new THREE.Vector3(-20, -20, -5), new THREE.Vector3(20, 20, 15));
    const sphere = box.getBoundingSphere(new THREE.Sphere());
    const r = Math.min(sphere.radius, WIDEST_M);
    light.target.position.copy(sphere.center);
    light.position.copy(sphere.center).addScaledVector(direction, r * 2);
    light.target.updateMatrixWorld();
    light.updateMatrixWorld();
    const c = light.shadow.camera;
    [c.left, c.right, c.top, c.bottom, c.near, c.far] = [-r, r, r, -r, r * 0.2, r * 4];
    c.updateProjectionMatrix();
    this.view = sunView(direction, sphere.center, r);
    return true;
  }
}

/** What the sun sees of a square of 2 r about a place, r deep either way. */
function sunView(direction: THREE.Vector3, centre: THREE.Vector3, r: number): SeenFrom {
  const side = new THREE.Vector3(0, 0, 1).cross(direction);
  if (side.lengthSq() < 1e-6) side.set(1, 0, 0);
  const axes = [direction.clone().normalize(), side.normalize(), direction.clone().normalize().cross(side)];
  const planes = axes.flatMap((axis) => {
    const at = axis.dot(centre);
    return [...axis.toArray(), r * 1.5 - at, ...axis.clone().negate().toArray(), r * 1.5 + at];
  });
  return { planes: Float64Array.from(planes), eye: centre.toArray(), pixelsAtOneM: SHADOW_SIZE / (2 * r), parallel: true };
}
