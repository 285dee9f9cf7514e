import * as THREE from 'three';
import { MeshoptDecoder } from 'three/examples/jsm/libs/meshopt_decoder.module.js';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { acceleratedRaycast, computeBoundsTree } from 'three-mesh-bvh';
import type { Cast, Met } from '../../core/camera/walker';
import { isShownIn, lightAttribute, type SurfaceExtras, type ViewerData, type ViewerLook } from '../../core/viewing/viewing';
import { lightSurface, setLookUniforms } from './surface-light';

THREE.BufferGeometry.prototype.computeBoundsTree = computeBoundsTree;
THREE.Mesh.prototype.raycast = acceleratedRaycast;

interface Surface {
  mesh: THREE.Mesh<THREE.BufferGeometry, THREE.MeshStandardMaterial>;
  extras: SurfaceExtras;
}

/** The model of the file: what is shown, lit and met in each look. */
export class Building {
  readonly group = new THREE.Group();
  /** About what is built. */
  readonly near = new THREE.Box3();
  private readonly surfaces: Surface[] = [];
  private readonly skies: THREE.Texture[] = [];
  private readonly ray = new THREE.Raycaster();
  private look = 0;
  /** Number of what the view shows. */
  private state = 0;

  static async load(bytes: ArrayBuffer, { looks, near }: Pick<ViewerData, 'looks' | 'near'>): Promise<Building> {
    const building = new Building();
    building.near.set(new THREE.Vector3(...near.min), new THREE.Vector3(...near.max));
    await MeshoptDecoder.ready;
    const { scene } = await new GLTFLoader().setMeshoptDecoder(MeshoptDecoder).parseAsync(bytes, '');
    building.group.add(scene);
    scene.updateMatrixWorld(true);
    scene.traverse((node) => {
      if (node instanceof THREE.Mesh) building.take(node as Surface['mesh'], looks.length);
    });
    for (const look of looks) building.skies.push(await skyTexture(look.sky));
    return building;
  }

  private take(mesh: Surface['mesh'], looks: number): void {
    const extras = extrasOf(mesh);
    const surface = { mesh, extras };
    mesh.material = mesh.material.clone();
    mesh.material.envMapIntensity = 0;
    const isPlanted = mesh instanceof THREE.InstancedMesh;
    lightSurface(mesh.material, isPlanted ? 'planting' : extras.clear ? 'clear' : extras.kind === 'water' ? 'water' : 'baked');
    if (extras.kind === 'water') {
      mesh.material.transparent = false;
      mesh.material.roughness = 0.04;
      mesh.material.depthWrite = true;
    }
    mesh.castShadow = !extras.clear && extras.kind !== 'water';
    mesh.receiveShadow = true;
    for (let i = 0; i < looks; i++) {
      // The loader writes names of its own in small letters.
      const name = lightAttribute(i);
      const light = mesh.geometry.getAttribute(name.toLowerCase()) ?? mesh.geometry.getAttribute(name);
      if (light) mesh.geometry.setAttribute(`light${String(i)}`, light);
    }
    if (!isPlanted) mesh.geometry.computeBoundsTree();
    mesh.geometry.computeBoundingSphere();
    this.surfaces.push(surface);
  }

  show(look: ViewerLook, number: number): void {
    this.look = number;
    setLookUniforms(look, this.skies[number]!);
    for (const { mesh, extras } of this.surfaces) {
      mesh.visible = isShownIn(extras, number, this.state);
      const light = mesh.geometry.getAttribute(`light${String(number)}`);
      if (light) mesh.geometry.setAttribute('baked', light);
      const { emission } = extras;
      if (emission) {
        const strength = (emission.scales[number] ?? 0) * look.unit;
        mesh.material.emissive.setRGB(...(emission.colour.map((c) => c * strength) as [number, number, number]));
      }
    }
  }

  /** Shows what a view shows, in the look that there is. */
  showState(state: number): void {
    this.state = state;
    for (const { mesh, extras } of this.surfaces) mesh.visible = isShownIn(extras, this.look, state);
  }

  /** Draws what is largest from a place, up to so many triangles; without a limit all of the look. */
  thin(eye: THREE.Vector3, most = Infinity): void {
    const shown = this.surfaces.filter(({ extras }) => isShownIn(extras, this.look, this.state));
    if (most === Infinity) {
      for (const { mesh } of shown) mesh.visible = true;
      return;
    }
    const sized = shown.map(({ mesh }) => {
      const { center, radius } = mesh.geometry.boundingSphere!;
      return { mesh, size: radius / Math.max(0.5, eye.distanceTo(center) - radius), triangles: (mesh.geometry.index?.count ?? 0) / 3 };
    });
    let left = most;
    for (const { mesh, triangles } of sized.sort((a, b) => b.size - a.size)) {
      mesh.visible = triangles <= left;
      if (mesh.visible) left -= triangles;
    }
  }

  /** What is met first on a way that is looked along or walked. */
  meet(from: readonly number[], way: readonly number[], reachM = Infinity): { place: THREE.Vector3; normal: THREE.Vector3; distance: number; kind: SurfaceExtras['kind'] } | undefined {
    this.ray.set(new THREE.Vector3(...from), new THREE.Vector3(...way).normalize());
    this.ray.far = reachM;
    this.ray.firstHitOnly = true;
    const shown = this.surfaces.filter(({ extras }) => isShownIn(extras, this.look, this.state) && extras.kind !== 'planting');
    const [hit] = this.ray.intersectObjects(shown.map(({ mesh }) => mesh), false);
    if (!hit) return undefined;
    const { extras } = shown.find(({ mesh }) => mesh === hit.object)!;
    return { place: hit.point, normal: hit.face?.normal ?? new THREE.Vector3(0, 0, 1), distance: hit.distance, kind: extras.kind };
  } // prettier-ignore

  /** For the walker: glass stops as walls do. */
  readonly cast: Cast = (from, way, reachM): Met | undefined => {
    const met = this.meet(from, way, reachM);
    if (!met || met.kind === 'planting') return undefined;
    return { distance: met.distance, normal: [met.normal.x, met.normal.y, met.normal.z], kind: met.kind };
  };

  get shownLook(): number {
    return this.look;
  }
}

function extrasOf(mesh: THREE.Object3D): SurfaceExtras {
  for (let node: THREE.Object3D | null = mesh; node; node = node.parent)
    if ('shown' in node.userData) return node.userData as unknown as SurfaceExtras;
  return { shown: [-1], kind: 'solid', clear: false };
}

async function skyTexture(address: string): Promise<THREE.Texture> {
  const image = new Image();
  image.src = address;
  await image.decode();
  const texture = new THREE.Texture(image);
  texture.flipY = false;
  texture.wrapS = THREE.RepeatWrapping;
  texture.generateMipmaps = true;
  texture.minFilter = THREE.LinearMipmapLinearFilter;
  texture.needsUpdate = true;
  return texture;
}
