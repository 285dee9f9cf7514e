import * as THREE from 'three';
import { verticalFovRad } from '../../../core/camera/camera';
import type { DressedMesh } from '../../../core/geometry/dress';
import { exposureScale } from '../../../core/image/tone';
import type { Camera } from '../../../core/model/schema';
import type { Scene, SceneInstance } from '../../../core/scene/scene';
import type { Sky } from '../../../core/sky/sky-map';
import { Developer } from './developer';
import { FinishMaterials } from './finish-materials';
import type { MarkKind } from '../state/picture-state';
import { LampLights } from './lamp-lights';
import { markMaterial } from './mark-materials';
import { SkyLight } from './sky-light';
import { SurfaceBatch } from './surface-batch';

/** A surface under the pointer. */
export interface Picked {
  instance: SceneInstance;
  point: [number, number, number];
  /** A corner of the triangle that was met, if one lies next to the pointer. */
  corner?: [number, number, number] | undefined;
  distanceM: number;
}

/** Parts that share a source material, or that one element has to itself; drawn together. */
interface Group {
  batch: SurfaceBatch;
  /** Which parts it holds, of which meshes. */
  signature: string;
}

const SHADOW_SIZE = 2048;
const CORNER_REACH_PX = 14;

/** The working picture: the scene on the GPU, drawn when asked. Radiance is in units of what is shown white. */
export class Stage {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly root = new THREE.Scene();
  private readonly camera = new THREE.PerspectiveCamera(40, 16 / 9, 0.1, 900);
  private readonly sun = new THREE.DirectionalLight(0xffffff, 0);
  private readonly groups = new Map<string, Group>();
  private readonly marks: SurfaceBatch[] = [];
  private readonly lamps = new LampLights(this.root);
  private readonly developer: Developer;
  readonly materials: FinishMaterials;
  private readonly raycaster = new THREE.Raycaster();
  private readonly highlighted = new Set<string>();
  private readonly skyLight = new SkyLight();
  private sky: Sky | undefined;
  private ev100 = 12;
  /** Of the triangle that was met last. */
  private metCorners: THREE.Vector3[] = [];

  /** Throws when the browser has no WebGL2. */
  constructor(canvas: HTMLCanvasElement) {
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: false, powerPreference: 'high-performance' });
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    this.renderer.toneMapping = THREE.NoToneMapping;
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = THREE.PCFShadowMap;
    this.renderer.shadowMap.autoUpdate = false;
    const software = isSoftware(this.renderer);
    this.materials = new FinishMaterials(
      this.skyLight.uniforms,
      software ? 1 : Math.min(8, this.renderer.capabilities.getMaxAnisotropy()),
      software,
    );
    this.developer = new Developer(this.renderer, this.skyLight.uniforms, software);
    this.camera.up.set(0, 0, 1);
    this.sun.castShadow = true;
    this.sun.shadow.mapSize.set(SHADOW_SIZE, SHADOW_SIZE);
    this.sun.shadow.bias = -0.0004;
    this.sun.shadow.normalBias = 0.03;
    this.root.add(this.sun, this.sun.target, this.skyLight.probe);
  }

  /** Brings the drawn scene to another state; only what differs is touched. */
  setScene(scene: Scene, mesh: (hash: string) => DressedMesh | undefined): void {
    const wanted = new Map<string, SceneInstance[]>();
    for (const instance of scene.instances) {
      if (!mesh(instance.mesh)) continue;
      const key = groupKey(instance);
      const list = wanted.get(key);
      if (list) list.push(instance);
      else wanted.set(key, [instance]);
    }
    for (const [key, group] of this.groups) if (!wanted.has(key)) this.drop(key, group);
    for (const [key, instances] of wanted) this.setGroup(key, instances, mesh);
    this.lamps.set(scene.lamps, this.ev100);
    this.fitShadow();
    this.renderer.shadowMap.needsUpdate = true;
  }

  setSky(sky: Sky): void {
    this.sky = sky;
    this.skyLight.set(sky);
    const [x, y, z] = sky.sun.direction;
    this.sun.visible = sky.sun.normalLux.some((e) => e > 0);
    this.sun.userData['direction'] = new THREE.Vector3(x, y, z);
    this.fitShadow();
    this.renderer.shadowMap.needsUpdate = true;
    this.applyExposure();
  }

  setExposure(ev100: number): void {
    if (Math.abs(ev100 - this.ev100) < 1e-3) return;
    this.ev100 = ev100;
    this.applyExposure();
  }

  setSize(width: number, height: number): void {
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / height;
  }

  setCamera({ position, target, focalMm }: Camera): void {
    this.camera.position.set(...position);
    this.camera.lookAt(...target);
    this.camera.fov = (verticalFovRad(focalMm, this.camera.aspect) * 180) / Math.PI;
    this.camera.updateProjectionMatrix();
    this.camera.updateMatrixWorld();
  }

  /** Draws one frame; `moving` trades resolution for speed. */
  render(moving: boolean): void {
    this.developer.render(this.root, this.camera, moving);
  }

  /** The nearest surface at a place of the picture (0..1 from the left and top). */
  pick(x: number, y: number): Picked | undefined {
    this.raycaster.setFromCamera(new THREE.Vector2(x * 2 - 1, 1 - y * 2), this.camera);
    const picked = this.cast();
    if (picked) picked.corner = this.cornerNear(picked.point, picked.distanceM);
    return picked;
  }

  /** The nearest surface below a point. */
  below(point: readonly [number, number, number], reachM: number): Picked | undefined {
    this.raycaster.set(new THREE.Vector3(...point), new THREE.Vector3(0, 0, -1));
    this.raycaster.far = reachM;
    const found = this.cast();
    this.raycaster.far = Infinity;
    return found;
  }

  /** Tints the parts of a group (see groupKey) so that they stand out; an empty list ends it. */
  highlight(keys: readonly string[]): void {
    this.highlighted.clear();
    for (const key of keys) this.highlighted.add(key);
    for (const [key, group] of this.groups) this.dress(key, group);
  }

  /** Covers parts with what says why they stand out; an empty list uncovers all. */
  mark(parts: readonly { kind: MarkKind; instances: readonly SceneInstance[] }[], mesh: (hash: string) => DressedMesh | undefined): void {
    for (const batch of this.marks.splice(0)) {
      this.root.remove(batch.mesh);
      batch.mesh.material.dispose();
      batch.dispose();
    }
    for (const { kind, instances } of parts) {
      const there = instances.filter((i) => mesh(i.mesh));
      if (there.length === 0) continue;
      const batch = new SurfaceBatch(there, (hash) => mesh(hash)!);
      batch.mesh.material = markMaterial(kind);
      batch.mesh.renderOrder = 2;
      this.marks.push(batch);
      this.root.add(batch.mesh);
    }
  }

  /** Where a place is seen, as parts of the picture from the left and top; undefined: behind the camera. */
  seenAt(place: readonly [number, number, number]): { x: number; y: number } | undefined {
    const seen = new THREE.Vector3(...place).project(this.camera);
    return seen.z > 1 || Math.abs(seen.x) > 1 || Math.abs(seen.y) > 1 ? undefined : { x: (seen.x + 1) / 2, y: (1 - seen.y) / 2 };
  }

  dispose(): void {
    this.mark([], () => undefined);
    for (const [key, group] of this.groups) this.drop(key, group);
    this.renderer.dispose();
  }

  private cast(): Picked | undefined {
    let best: Picked | undefined;
    this.metCorners = [];
    for (const { batch } of this.groups.values()) {
      const hit = this.raycaster.intersectObject(batch.mesh, false)[0];
      if (hit?.faceIndex == null || (best && hit.distance >= best.distanceM)) continue;
      const { a, b, c } = hit.face!;
      this.metCorners = [a, b, c].map((i) => new THREE.Vector3().fromBufferAttribute(batch.mesh.geometry.getAttribute('position'), i));
      best = { instance: batch.instanceOf(hit.faceIndex), point: [hit.point.x, hit.point.y, hit.point.z], distanceM: hit.distance };
    }
    return best;
  }

  private cornerNear(point: readonly [number, number, number], distanceM: number): [number, number, number] | undefined {
    const metrePerPixel = (2 * distanceM * Math.tan((this.camera.fov * Math.PI) / 360)) / this.renderer.domElement.height;
    const place = new THREE.Vector3(...point);
    const [nearest] = [...this.metCorners].sort((a, b) => a.distanceToSquared(place) - b.distanceToSquared(place));
    return nearest && nearest.distanceTo(place) < CORNER_REACH_PX * metrePerPixel ? [nearest.x, nearest.y, nearest.z] : undefined;
  }

  private setGroup(key: string, instances: SceneInstance[], mesh: (hash: string) => DressedMesh | undefined): void {
    const signature = instances.map((i) => `${i.element}:${String(i.part)}:${i.mesh}`).join('|');
    let group = this.groups.get(key);
    if (group && group.signature !== signature) {
      this.drop(key, group);
      group = undefined;
    }
    if (group) group.batch.update(instances);
    else {
      group = { batch: new SurfaceBatch(instances, (hash) => mesh(hash)!), signature };
      this.groups.set(key, group);
      this.root.add(group.batch.mesh);
    }
    this.dress(key, group);
  }

  private dress(key: string, { batch: { mesh, instances } }: Group): void {
    const { finish, emissionScale } = instances[0]!;
    mesh.material = this.materials.get(finish, emissionScale, exposureScale(this.ev100), this.highlighted.has(key));
    const clear = finish.transmission > 0 || finish.opacity < 1;
    mesh.castShadow = !clear;
    mesh.receiveShadow = true;
    mesh.renderOrder = clear ? 1 : 0;
  }

  private drop(key: string, group: Group): void {
    this.root.remove(group.batch.mesh);
    group.batch.dispose();
    this.groups.delete(key);
  }

  private applyExposure(): void {
    const unit = exposureScale(this.ev100);
    this.skyLight.expose(unit);
    const lux = this.sun.visible && this.sky ? this.sky.sun.normalLux : [0, 0, 0];
    const peak = Math.max(...lux, 1e-9);
    this.sun.color.setRGB(lux[0]! / peak, lux[1]! / peak, lux[2]! / peak);
    this.sun.intensity = peak * unit;
    this.lamps.expose(this.ev100);
    for (const [key, group] of this.groups) this.dress(key, group);
  }

  /** Lays the shadow's frustum about everything but the far landscape. */
  private fitShadow(): void {
    const direction = this.sun.userData['direction'] as THREE.Vector3 | undefined;
    if (!direction) return;
    const box = new THREE.Box3();
    for (const { batch } of this.groups.values()) {
      const { boundingBox } = batch.mesh.geometry;
      const size = boundingBox!.getSize(new THREE.Vector3());
      if (Math.max(size.x, size.y) < 150) box.union(boundingBox!);
    }
    if (box.isEmpty()) box.set(new THREE.Vector3(-20, -20, -5), new THREE.Vector3(20, 20, 15));
    const sphere = box.getBoundingSphere(new THREE.Sphere());
    const r = Math.min(sphere.radius, 60);
    this.sun.target.position.copy(sphere.center);
    this.sun.position.copy(sphere.center).addScaledVector(direction, r * 2);
    this.sun.target.updateMatrixWorld();
    this.sun.updateMatrixWorld();
    const c = this.sun.shadow.camera;
    [c.left, c.right, c.top, c.bottom, c.near, c.far] = [-r, r, r, -r, r * 0.2, r * 4];
    c.updateProjectionMatrix();
  }
}

/** Whether WebGL is drawn by the processor; then every fragment counts. */
function isSoftware(renderer: THREE.WebGLRenderer): boolean {
  const gl = renderer.getContext();
  const info = gl.getExtension('WEBGL_debug_renderer_info');
  const name = String(gl.getParameter(info ? info.UNMASKED_RENDERER_WEBGL : gl.RENDERER));
  return /swiftshader|llvmpipe|software|basic render/i.test(name);
}

/** Parts are drawn together by source material; an element with a finish of its own stands alone. */
export function groupKey({ source, element, material, finish, emissionScale, lens }: SceneInstance): string {
  return lens ? `${source}/${material}/${element}/${emissionScale.toFixed(3)}` : `${source}/${material}/${finish.id}`;
}
