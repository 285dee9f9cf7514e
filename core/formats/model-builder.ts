import type { Mat4 } from '../geometry/mat4';
import { encodeMesh, meshArea, type Mesh } from '../geometry/mesh';
import { EMPTY_MODEL } from '../model/model';
import type { Luminaire, ModelElement, SavedCamera, SourceMaterial } from '../model/schema';
import { ModelFileError, type ModelFile } from './model-file';

const MAX_ID = 200;
const MAX_ELEMENTS = 1_000_000;
/** Size of a picture that no surface gives one to. */
const PLAIN_PICTURE_M = 1;

export type Part = ModelElement['parts'][number];

/** Gathers what a reader finds into a model, and refuses what cannot be. */
export class ModelBuilder {
  private readonly elements = new Map<string, ModelElement>();
  private readonly materials = new Map<string, SourceMaterial>();
  private readonly materialIds = new Map<unknown, string>();
  private readonly luminaires = new Map<string, Luminaire>();
  private readonly cameras = new Map<string, SavedCamera>();
  private readonly meshes = new Map<string, Uint8Array>();
  private readonly pictures = new Map<string, Uint8Array>();
  private readonly pictureKeys = new Map<Uint8Array, string>();

  constructor(private readonly fileName: string) {}

  /** Keeps a mesh; its key goes into parts. */
  mesh(mesh: Mesh): string {
    if (!mesh.positions.every(Number.isFinite)) throw new ModelFileError(`${this.fileName} has a mesh whose coordinates are not numbers.`);
    const vertices = mesh.positions.length / 3;
    if (mesh.indices.some((i) => i >= vertices))
      throw new ModelFileError(`${this.fileName} has a mesh that names vertices it does not have.`);
    const key = `mesh ${String(this.meshes.size)}`;
    this.meshes.set(key, encodeMesh(mesh));
    return key;
  }

  /** Id of the source material that the file's own `key` stands for; `make` says what it is, when it is first met. */
  material(key: unknown, make: () => Partial<Omit<SourceMaterial, 'id'>>): string {
    const known = this.materialIds.get(key);
    if (known !== undefined) return known;
    const made = make();
    const name = made.name || `Material ${this.contentMark(made)}`;
    let id = shortId(name);
    for (let n = 2; this.materials.has(id); n++) id = shortId(`${name} ${String(n)}`);
    const colour = (made.colour ?? [0.8, 0.8, 0.8]).map(unit) as [number, number, number];
    this.materials.set(id, { texture: null, ...made, id, name, colour, opacity: unit(made.opacity ?? 1) });
    this.materialIds.set(key, id);
    return id;
  }

  /**
   * Of a material without a name, which is known by what it is: a number by its place in the file would be another material's as soon
   * as one before it goes. The size of its pictures on the surface is no part of it.
   */
  private contentMark(made: Partial<SourceMaterial>): string {
    const told = JSON.stringify(made, (key, value: unknown) => {
      if (key === 'widthM' || key === 'heightM') return undefined;
      const picture = typeof value === 'string' ? this.pictures.get(value) : undefined;
      return picture ? hex(fnv1a(picture)) : value;
    });
    return hex(fnv1a(new TextEncoder().encode(told)));
  }

  /** Keeps a picture once, however many materials show it; its key goes into textures. */
  picture(bytes: Uint8Array): string {
    let key = this.pictureKeys.get(bytes);
    if (key === undefined) {
      key = `picture ${String(this.pictures.size)}`;
      this.pictureKeys.set(bytes, key);
      this.pictures.set(key, bytes);
    }
    return key;
  }

  element(
    path: string,
    element: Omit<ModelElement, 'id' | 'transform' | 'storey' | 'option' | 'phase'> & {
      transform: Mat4;
      storey?: string;
      option?: string | null;
    },
  ): void {
    if (!element.transform.every(Number.isFinite))
      throw new ModelFileError(`${this.fileName}: ${element.name.slice(0, 80)} is placed by what are not numbers.`);
    if (this.elements.size >= MAX_ELEMENTS) throw new ModelFileError(`${this.fileName} has more than a million elements.`);
    const id = shortId(path);
    this.elements.set(id, { storey: '', option: null, phase: null, ...element, id, transform: [...element.transform] });
  }

  luminaire(path: string, luminaire: Omit<Luminaire, 'id'>): void {
    const id = shortId(path);
    this.luminaires.set(id, { ...luminaire, id });
  }

  camera(path: string, camera: Omit<SavedCamera, 'id'>): void {
    const id = shortId(path);
    this.cameras.set(id, { ...camera, id });
  }

  /** `options`: to choose from, the first of them chosen. */
  build(format: string, options: readonly string[] = []): ModelFile {
    const { elements, materials, luminaires, cameras, meshes, pictures } = this;
    if (elements.size === 0) throw new ModelFileError(`${this.fileName} holds no surfaces.`);
    const presentation = { ...EMPTY_MODEL.presentation, options: options.map((name) => ({ id: name, name })), option: options[0] ?? null };
    return { format, model: { ...EMPTY_MODEL, elements, materials, luminaires, cameras, presentation }, meshes, pictures };
  }
}

/** Path of each node below its parent: its name, and its number among siblings of that name. */
export function siblingPaths(): (parent: string, name: string) => string {
  const seen = new Map<string, number>();
  return (parent, name) => {
    const number = (seen.get(name) ?? 0) + 1;
    seen.set(name, number);
    return `${parent}/${name}${number > 1 ? `#${String(number)}` : ''}`;
  };
}

/** Length on the surface that one repeat of a picture covers, from the areas of the surface and of its picture coordinates. */
export function pictureSideM(mesh: Mesh): number {
  const coordinates = mesh.pictureUvs;
  if (!coordinates) return PLAIN_PICTURE_M;
  const flat = new Float32Array(mesh.positions.length);
  for (let i = 0; i < flat.length / 3; i++) flat.set(coordinates.subarray(i * 2, i * 2 + 2), i * 3);
  const side = Math.sqrt(meshArea(mesh) / meshArea({ positions: flat, indices: mesh.indices }));
  return Number.isFinite(side) ? Math.min(1000, Math.max(0.001, side)) : PLAIN_PICTURE_M;
}

/** First bytes of PNG, JPEG and WebP, by their place. */
const SHOWABLE: readonly (readonly (readonly [at: number, bytes: readonly number[]])[])[] = [
  [[0, [0x89, 0x50, 0x4e, 0x47]]],
  [[0, [0xff, 0xd8, 0xff]]],
  [[0, [0x52, 0x49, 0x46, 0x46]], [8, [0x57, 0x45, 0x42, 0x50]]],
]; // prettier-ignore

/** Whether a picture is of a kind that is shown, by its first bytes. */
export const isShowable = (bytes: Uint8Array): boolean =>
  SHOWABLE.some((marks) => marks.every(([at, mark]) => mark.every((byte, i) => bytes[at + i] === byte)));

const unit = (x: number) => Math.min(1, Math.max(0, x));

/** Fowler, Noll and Vo's hash of 32 bits (FNV-1a). */
const fnv1a = (values: Iterable<number>): number => {
  let hash = 0x811c9dc5;
  for (const value of values) hash = Math.imul(hash ^ value, 0x01000193);
  return hash >>> 0;
};
const hex = (hash: number): string => hash.toString(16).padStart(8, '0');

/** Ids are short; a long path keeps its end and gets a number made of the whole of it. */
export function shortId(path: string): string {
  if (path.length <= MAX_ID) return path;
  const number = hex(fnv1a(Array.from({ length: path.length }, (_, i) => path.charCodeAt(i))));
  return `${number} …${path.slice(path.length - (MAX_ID - number.length - 2))}`;
}
