import { DOMParser } from 'linkedom';
import * as THREE from 'three';
import { FRAME_WIDTH_MM } from '../camera/camera';
import { multiply, transformDirection, transformPoint, type Mat4 } from '../geometry/mat4';
import { weld, type Mesh } from '../geometry/mesh';
import { encodeSrgb } from '../image/tone';
import { nearestTemperatureK } from '../image/colour-temperature';
import { isShowable, ModelBuilder, pictureSideM, siblingPaths, type Part } from './model-builder';
import { ModelFileError, type ModelFile, type SideFiles } from './model-file';
import { opticsOfThree, texturesOfThree, uvSetsOf, type RawMaterial } from './three-materials';

const MAX_DEPTH = 500;
/** Formats without photometry say only how strong a light is against others; 1 is taken as this many lumens. */
const LUMENS_OF_ONE = 1000;

/** Gives three's file parsers, which were made for pages, the little of a page that they ask for. */
export function preparePage(): void {
  const page = globalThis as { DOMParser?: unknown; document?: unknown };
  page.DOMParser ??= DOMParser;
  // Pictures are never decoded here, so an image that never loads is enough. No script of a page is running: other libraries ask.
  page.document ??= {
    currentScript: null,
    createElementNS: () => ({ addEventListener: () => undefined, removeEventListener: () => undefined }),
  };
}

/** Loads nothing: a texture only keeps the name of its picture. */
export function pictureNames(): THREE.Loader<THREE.Texture> {
  const loader = new THREE.Loader<THREE.Texture>();
  loader.load = (url: string): THREE.Texture => {
    const texture = new THREE.Texture();
    texture.name = url;
    return texture;
  };
  return loader;
}

export function namesOfPictures(): THREE.LoadingManager {
  return new THREE.LoadingManager().addHandler(/.*/, pictureNames());
}

/**
 * Runs a parser that unpacks pictures itself and hands them to the page as blobs. They are kept under the names that stand
 * for them, and nothing is decoded.
 */
export function keepingPictures<T>(parse: () => T): { result: T; pictures: SideFiles } {
  const kept = new Map<string, Uint8Array<ArrayBuffer>>();
  const page = globalThis as { Blob: unknown };
  const { Blob } = page;
  const urls = URL as { createObjectURL: (blob: unknown) => string };
  const { createObjectURL } = urls;
  const textures = THREE.TextureLoader.prototype as { load: unknown };
  const { load } = textures;
  page.Blob = class {
    constructor(readonly parts: readonly ArrayBuffer[]) {}
  };
  urls.createObjectURL = (blob) => {
    const [bytes] = (blob as { parts: readonly ArrayBuffer[] }).parts;
    const name = `picture ${String(kept.size)}`;
    if (bytes) kept.set(name, new Uint8Array(bytes));
    return name;
  };
  textures.load = (pictureNames() as { load: unknown }).load;
  try {
    return { result: parse(), pictures: (name) => kept.get(name) };
  } finally {
    Object.assign(page, { Blob });
    Object.assign(urls, { createObjectURL });
    Object.assign(textures, { load });
  }
}

/** A scene of three's parsers as a model; `turn` brings its coordinates to z-up metres, `raw` is what the file itself says of a material. */
export function modelOfThree(
  root: THREE.Object3D,
  fileName: string,
  format: string,
  turn: Mat4,
  beside: SideFiles,
  raw: (material: string) => RawMaterial | undefined = () => undefined,
): ModelFile {
  return new ThreeReader(fileName, beside, raw).read(root, turn, format);
}

class ThreeReader {
  private readonly builder: ModelBuilder;
  private readonly parts = new Map<string, Part[]>();

  constructor(
    private readonly fileName: string,
    private readonly beside: SideFiles,
    private readonly raw: (material: string) => RawMaterial | undefined,
  ) {
    this.builder = new ModelBuilder(fileName);
  }

  read(root: THREE.Object3D, turn: Mat4, format: string): ModelFile {
    this.walk([root], '', '', turn, 0);
    return this.builder.build(format);
  }

  private walk(nodes: readonly THREE.Object3D[], path: string, layer: string, parent: Mat4, depth: number): void {
    if (depth > MAX_DEPTH) throw new ModelFileError(`${this.fileName} nests its nodes more than ${String(MAX_DEPTH)} deep.`);
    const pathOf = siblingPaths();
    for (const node of nodes) {
      node.updateMatrix();
      const world = multiply(parent, node.matrix.elements);
      // The root is the file itself and has no name worth keeping.
      const named = depth > 0 || node.children.length === 0;
      const name = node.name || 'Node';
      const own = named ? pathOf(path, name) : path;
      if (node instanceof THREE.Mesh) this.addMesh(node as THREE.Mesh, own, name, layer || 'Model', world);
      else if (node instanceof THREE.PerspectiveCamera) this.addCamera(node, own, name, world);
      else if (node instanceof THREE.PointLight || node instanceof THREE.SpotLight) this.addLight(node, own, name, world);
      this.walk(node.children, own, layer || (named && node.children.length > 0 ? name : ''), world, depth + 1);
    }
  }

  private addMesh(node: THREE.Mesh, path: string, name: string, layer: string, transform: Mat4): void {
    const materials = Array.isArray(node.material) ? node.material : [node.material];
    const key = [node.geometry.uuid, ...materials.map((m) => m.uuid)].join(' ');
    let parts = this.parts.get(key);
    if (!parts) this.parts.set(key, (parts = this.partsOf(node.geometry, materials)));
    if (parts.length > 0) this.builder.element(path, { name, class: 'Object', layer, transform, parts });
  }

  private partsOf(geometry: THREE.BufferGeometry, materials: readonly THREE.Material[]): Part[] {
    const place = geometry.getAttribute('position') as THREE.BufferAttribute | undefined;
    if (!place) return [];
    const order = geometry.getIndex()?.array ?? Uint32Array.from({ length: place.count }, (_, i) => i);
    const groups = geometry.groups.length > 0 ? geometry.groups : [{ start: 0, count: order.length, materialIndex: 0 }];
    const byMaterial = new Map<THREE.Material, number[]>();
    for (const { start, count, materialIndex } of groups) {
      const material = materials[materialIndex ?? 0] ?? materials[0]!;
      const list = byMaterial.get(material) ?? [];
      byMaterial.set(material, list);
      for (let i = start; i < Math.min(start + count, order.length); i++) list.push(order[i]!);
    }
    return [...byMaterial].flatMap(([material, corners]) => {
      if (corners.some((c) => c >= place.count))
        throw new ModelFileError(`${this.fileName} has a mesh that names vertices it does not have.`);
      const pictures = this.picturesOf(material);
      const { sets, numbers } = uvSetsOf(pictures.map(({ texture }) => texture), geometry); // prettier-ignore
      const mesh = weld(pointsOf(place), corners, sets);
      if (mesh.indices.length === 0) return [];
      return { mesh: this.builder.mesh(mesh), material: this.materialOf(material, geometry, mesh, pictures, numbers) };
    });
  }

  /** Pictures of a material that are there and can be shown. */
  private picturesOf(material: THREE.Material) {
    return texturesOfThree(material, this.raw(material.name)).flatMap(({ part, texture }) => {
      const picture = this.beside(texture.name);
      return picture && isShowable(picture) ? [{ part, texture, picture }] : [];
    });
  }

  private materialOf(
    material: THREE.Material,
    geometry: THREE.BufferGeometry,
    mesh: Mesh,
    pictures: ReturnType<ThreeReader['picturesOf']>,
    numbers: readonly number[],
  ): string {
    return this.builder.material(material.name || material.uuid, () => {
      const { color } = material as Partial<THREE.MeshPhongMaterial>;
      const tint = meanColour(geometry) ?? color;
      const raw = this.raw(material.name);
      const side = pictureSideM(mesh);
      const missing = texturesOfThree(material, raw).find(({ texture }) => !pictures.some((found) => found.texture === texture));
      const keys = pictures.map(({ part, picture }) => [part, this.builder.picture(picture)]);
      const sets = pictures.flatMap(({ part }, i) => (numbers[i]! > 0 ? [[part, numbers[i]!]] : []));
      return {
        name: material.name,
        ...(tint ? { colour: [encodeSrgb(tint.r), encodeSrgb(tint.g), encodeSrgb(tint.b)] as [number, number, number] } : {}),
        opacity: material.transparent ? material.opacity : 1,
        ...opticsOfThree(material, raw),
        texture:
          pictures.length > 0
            ? {
                image: null,
                ...(Object.fromEntries(keys) as Partial<Record<'image' | 'normal', string>>),
                ...(mesh.pictureUvs && { asLaid: true }),
                ...(sets.length > 0 && { sets: Object.fromEntries(sets) as Partial<Record<'image' | 'normal', number>> }),
                widthM: side,
                heightM: side,
              }
            : null,
        ...(missing?.texture.name && { missing: missing.texture.name.slice(0, 1000) }),
      };
    });
  }

  private addCamera(node: THREE.PerspectiveCamera, path: string, name: string, world: Mat4): void {
    const width = Math.tan((node.fov * Math.PI) / 360) * (node.aspect || 16 / 9);
    const focalMm = Math.min(500, Math.max(5, FRAME_WIDTH_MM / 2 / width));
    const position = transformPoint(world, [0, 0, 0]);
    const ahead = new THREE.Vector3(...transformDirection(world, [0, 0, -1])).normalize().multiplyScalar(5);
    const target = ahead.add(new THREE.Vector3(...position)).toArray();
    if ([...target, focalMm].every(Number.isFinite)) this.builder.camera(path, { name, position: [...position], target, focalMm });
  }

  private addLight(node: THREE.PointLight | THREE.SpotLight, path: string, name: string, world: Mat4): void {
    const beamDeg = node instanceof THREE.SpotLight ? (node.angle * 360) / Math.PI : 360;
    this.builder.luminaire(path, {
      name, circuit: 'Lights', element: null, position: [...transformPoint(world, [0, 0, 0])],
      direction: [...transformDirection(world, [0, 0, -1])], fluxLm: Math.min(1e7, Math.max(0, node.intensity * LUMENS_OF_ONE)),
      colourTemperatureK: nearestTemperatureK([node.color.r, node.color.g, node.color.b]), beamDeg: Math.min(360, Math.max(1, beamDeg)), dim: 1,
    }); // prettier-ignore
  }
}

function pointsOf(place: THREE.BufferAttribute): Float32Array {
  const out = new Float32Array(place.count * 3);
  for (let i = 0; i < place.count; i++) out.set([place.getX(i), place.getY(i), place.getZ(i)], i * 3);
  return out;
}

/** Colour of a mesh that is coloured point by point. */
function meanColour(geometry: THREE.BufferGeometry): THREE.Color | undefined {
  const colours = geometry.getAttribute('color') as THREE.BufferAttribute | undefined;
  if (!colours || colours.count === 0) return undefined;
  const sum = [0, 0, 0];
  for (let i = 0; i < colours.count; i++) for (let k = 0; k < 3; k++) sum[k]! += colours.getComponent(i, k);
  return new THREE.Color().fromArray(sum.map((v) => v / colours.count));
}

/** How far a scene reaches from one end to the other, in its own units. */
export function reachOf(root: THREE.Object3D): number {
  return new THREE.Box3().setFromObject(root).getSize(new THREE.Vector3()).length();
}
