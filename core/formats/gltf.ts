import { WebIO, type Accessor, type JSONDocument, type Material, type Node, type Primitive } from '@gltf-transform/core';
import { ALL_EXTENSIONS, type InstancedMesh, type Light } from '@gltf-transform/extensions';
import draco3d from 'draco3dgltf';
import { MeshoptDecoder } from 'meshoptimizer';
import { FRAME_WIDTH_MM } from '../camera/camera';
import { encodeMesh, meshArea, type Mesh } from '../geometry/mesh';
import { compose, multiply, transformDirection, transformPoint, Z_UP, type Mat4 } from '../geometry/mat4';
import { encodeSrgb } from '../image/tone';
import { nearestTemperatureK } from '../lamp/colour-temperature';
import { EMPTY_MODEL } from '../model/model';
import type { Luminaire, ModelElement, SavedCamera, SourceMaterial } from '../model/schema';
import { ModelFileError, type ModelFile } from './model-file';

const [TRIANGLES, TRIANGLE_STRIP, TRIANGLE_FAN] = [4, 5, 6];
const MAX_DEPTH = 500;
const MAX_ID = 200;
/** Size of a picture that no surface gives one to. */
const PLAIN_PICTURE_M = 1;

export type GltfReader = WebIO;

/** The parser, with everything it needs to unpack compressed meshes. */
export async function gltfReader(): Promise<GltfReader> {
  await MeshoptDecoder.ready;
  return new WebIO()
    .registerExtensions(ALL_EXTENSIONS)
    .registerDependencies({ 'draco3d.decoder': await draco3d.createDecoderModule(), 'meshopt.decoder': MeshoptDecoder });
}

/** Reads glTF 2.0: a GLB, or a .gltf that holds its buffers itself. Throws ModelFileError. */
export async function readGltf(io: GltfReader, bytes: Uint8Array, fileName: string): Promise<ModelFile> {
  try {
    const document = isBinary(bytes) ? await io.readBinary(bytes) : await io.readJSON(jsonOf(bytes, fileName));
    const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
    if (!scene) throw new ModelFileError(`${fileName} holds no scene.`);
    return new SceneReader(fileName).read(scene.listChildren());
  } catch (error) {
    if (error instanceof ModelFileError) throw error;
    const reason = error instanceof RangeError ? 'its nodes or buffers do not fit together' : error instanceof Error ? error.message : '';
    throw new ModelFileError(`${fileName} could not be read as glTF 2.0: ${reason.replace(/\.$/, '') || 'the parser gave up'}.`);
  }
}

function isBinary(bytes: Uint8Array): boolean {
  return bytes.length >= 4 && new TextDecoder('latin1').decode(bytes.subarray(0, 4)) === 'glTF';
}

function jsonOf(bytes: Uint8Array, fileName: string): JSONDocument {
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder('utf8', { fatal: true }).decode(bytes));
  } catch {
    throw new ModelFileError(`${fileName} is neither a GLB nor glTF in JSON.`);
  }
  const { asset, buffers = [], images = [], nodes = [] } = json as JSONDocument['json'];
  if (typeof json !== 'object' || !Array.isArray(buffers) || !Array.isArray(images) || !Array.isArray(nodes))
    throw new ModelFileError(`${fileName} is not glTF: its buffers, images and nodes are not lists.`);
  // A file of an untrusted source may lack what its schema asks for.
  const version = (asset as { version?: unknown } | undefined)?.version;
  if (version !== '2.0')
    throw new ModelFileError(`${fileName} is glTF ${typeof version === 'string' ? version : 'of no version'}; 2.0 is read.`);
  const outside = [...buffers, ...images].find(({ uri }) => uri !== undefined && !uri.startsWith('data:'));
  if (outside) throw new ModelFileError(`${fileName} keeps ${outside.uri!.slice(0, 200)} in a file of its own; export it as one GLB.`);
  return { json: json as JSONDocument['json'], resources: {} };
}

type Part = ModelElement['parts'][number];

/** Walks one scene. */
class SceneReader {
  private readonly elements = new Map<string, ModelElement>();
  private readonly materials = new Map<string, SourceMaterial>();
  private readonly luminaires = new Map<string, Luminaire>();
  private readonly cameras = new Map<string, SavedCamera>();
  private readonly meshes = new Map<string, Uint8Array>();
  private readonly pictures = new Map<string, Uint8Array>();
  private readonly materialIds = new Map<Material | null, string>();
  private readonly parts = new Map<Primitive, Part | undefined>();

  constructor(private readonly fileName: string) {}

  read(roots: readonly Node[]): ModelFile {
    this.walk(roots, '', '', Z_UP, 0);
    if (this.elements.size === 0) throw new ModelFileError(`${this.fileName} holds no surfaces.`);
    const { elements, materials, luminaires, cameras, meshes, pictures } = this;
    return {
      format: 'glTF 2.0',
      model: { ...EMPTY_MODEL, elements, materials, luminaires, cameras },
      meshes,
      pictures,
    };
  }

  /** A node is known again in a later export by its names from the root down, and its number among siblings of one name. */
  private walk(nodes: readonly Node[], path: string, layer: string, parent: Mat4, depth: number): void {
    if (depth > MAX_DEPTH)
      throw new ModelFileError(`${this.fileName} nests its nodes in a circle, or more than ${String(MAX_DEPTH)} deep.`);
    const seen = new Map<string, number>();
    for (const node of nodes) {
      const name = node.getName() || node.getMesh()?.getName() || 'Node';
      const number = (seen.get(name) ?? 0) + 1;
      seen.set(name, number);
      const own = `${path}/${name}${number > 1 ? `#${String(number)}` : ''}`;
      const world = multiply(parent, node.getMatrix());
      this.addMesh(node, own, name, layer || 'Model', world);
      this.addCamera(node, own, name, world);
      this.addLight(node, own, name, world);
      this.walk(node.listChildren(), own, layer || name, world, depth + 1);
    }
  }

  private addMesh(node: Node, path: string, name: string, layer: string, world: Mat4): void {
    const parts = (node.getMesh()?.listPrimitives() ?? []).map((primitive) => this.partOf(primitive)).filter((part) => part !== undefined);
    if (parts.length === 0) return;
    const placings = instancesOf(node) ?? [undefined];
    for (const [i, placing] of placings.entries()) {
      const id = shortId(placing ? `${path}@${String(i)}` : path);
      const transform = [...(placing ? multiply(world, placing) : world)];
      if (!transform.every(Number.isFinite))
        throw new ModelFileError(`${this.fileName}: ${name.slice(0, 80)} is placed by what are not numbers.`);
      this.elements.set(id, { id, name, class: 'Object', storey: '', layer, option: null, phase: null, transform, parts });
    }
  }

  /** A primitive as a part, read once however many nodes place it; undefined for what has no surface. */
  private partOf(primitive: Primitive): Part | undefined {
    if (this.parts.has(primitive)) return this.parts.get(primitive);
    const mesh = triangles(primitive);
    const part = mesh && mesh.indices.length > 0 ? { mesh: this.keep(mesh), material: this.materialOf(primitive, mesh) } : undefined;
    this.parts.set(primitive, part);
    return part;
  }

  private keep(mesh: Mesh): string {
    if (!mesh.positions.every(Number.isFinite)) throw new ModelFileError(`${this.fileName} has a mesh whose coordinates are not numbers.`);
    const vertices = mesh.positions.length / 3;
    if (mesh.indices.some((i) => i >= vertices))
      throw new ModelFileError(`${this.fileName} has a mesh that names vertices it does not have.`);
    const key = `mesh ${String(this.meshes.size)}`;
    this.meshes.set(key, encodeMesh(mesh));
    return key;
  }

  private materialOf(primitive: Primitive, mesh: Mesh): string {
    const material = primitive.getMaterial();
    const known = this.materialIds.get(material);
    if (known !== undefined) return known;
    const name = material ? material.getName() || `Material ${String(this.materials.size + 1)}` : 'No material';
    let id = shortId(name);
    for (let n = 2; this.materials.has(id); n++) id = shortId(`${name} ${String(n)}`);
    const [r, g, b, alpha] = material?.getBaseColorFactor() ?? [0.8, 0.8, 0.8, 1];
    const coded = (c: number) => encodeSrgb(Math.min(1, Math.max(0, c)));
    const opacity = material && material.getAlphaMode() !== 'OPAQUE' ? Math.min(1, Math.max(0, alpha)) : 1;
    this.materials.set(id, {
      id,
      name,
      colour: [coded(r), coded(g), coded(b)],
      opacity,
      texture: this.textureOf(material, primitive, mesh),
    });
    this.materialIds.set(material, id);
    return id;
  }

  private textureOf(material: Material | null, primitive: Primitive, mesh: Mesh): SourceMaterial['texture'] {
    const texture = material?.getBaseColorTexture();
    const image = texture?.getImage();
    if (!texture || !image || !['image/png', 'image/jpeg'].includes(texture.getMimeType())) return null;
    const key = `picture ${String(this.pictures.size)}`;
    this.pictures.set(key, image);
    const side = pictureSideM(mesh, primitive.getAttribute(`TEXCOORD_${String(material!.getBaseColorTextureInfo()!.getTexCoord())}`));
    return { image: key, widthM: side, heightM: side };
  }

  private addCamera(node: Node, path: string, name: string, world: Mat4): void {
    const camera = node.getCamera();
    if (camera?.getType() !== 'perspective') return;
    const width = Math.tan(camera.getYFov() / 2) * (camera.getAspectRatio() || 16 / 9);
    const focalMm = Math.min(500, Math.max(5, FRAME_WIDTH_MM / 2 / width));
    const position = transformPoint(world, [0, 0, 0]);
    const ahead = transformDirection(world, [0, 0, -1]);
    const length = Math.hypot(...ahead) || 1;
    const target = position.map((v, i) => v + (ahead[i]! / length) * 5) as [number, number, number];
    if (![...position, ...target, focalMm].every(Number.isFinite)) return;
    const id = shortId(path);
    this.cameras.set(id, { id, name, position: [...position], target, focalMm });
  }

  private addLight(node: Node, path: string, name: string, world: Mat4): void {
    const light = node.getExtension<Light>('KHR_lights_punctual');
    // The sun is set here, by place and time.
    if (!light || light.getType() === 'directional') return;
    const beamDeg = light.getType() === 'spot' ? ((light.getInnerConeAngle() + light.getOuterConeAngle()) * 180) / Math.PI : 360;
    const solidAngle = light.getType() === 'spot' ? 2 * Math.PI * (1 - Math.cos((beamDeg * Math.PI) / 360)) : 4 * Math.PI;
    const id = shortId(path);
    this.luminaires.set(id, {
      id,
      name,
      circuit: 'glTF',
      element: null,
      position: [...transformPoint(world, [0, 0, 0])],
      direction: [...transformDirection(world, [0, 0, -1])],
      fluxLm: Math.min(1e7, Math.max(0, light.getIntensity() * solidAngle)),
      colourTemperatureK: nearestTemperatureK(light.getColor()),
      beamDeg: Math.min(360, Math.max(1, beamDeg)),
      dim: 1,
    });
  }
}

/** Triangles of a primitive, with strips and fans taken apart; undefined for points and lines. */
function triangles(primitive: Primitive): Mesh | undefined {
  const accessor = primitive.getAttribute('POSITION');
  const mode: number = primitive.getMode();
  if (!accessor || ![TRIANGLES, TRIANGLE_STRIP, TRIANGLE_FAN].includes(mode)) return undefined;
  const positions = floats(accessor, 3);
  const order =
    (primitive.getIndices()?.getArray() as ArrayLike<number> | null | undefined) ??
    Uint32Array.from({ length: accessor.getCount() }, (_, i) => i);
  if (mode === TRIANGLES) return { positions, indices: Uint32Array.from(order).subarray(0, order.length - (order.length % 3)) };
  const indices = new Uint32Array(Math.max(0, order.length - 2) * 3);
  for (let t = 0; t + 2 < order.length; t++) {
    const corner = mode === TRIANGLE_FAN ? [0, t + 1, t + 2] : t % 2 ? [t + 1, t, t + 2] : [t, t + 1, t + 2];
    corner.forEach((c, k) => {
      indices[t * 3 + k] = order[c]!;
    });
  }
  return { positions, indices };
}

/** An accessor's numbers, whatever they are stored as. */
function floats(accessor: Accessor, width: number): Float32Array {
  const out = new Float32Array(accessor.getCount() * width);
  const element: number[] = [];
  for (let i = 0; i < accessor.getCount(); i++) {
    accessor.getElement(i, element);
    for (let k = 0; k < width; k++) out[i * width + k] = element[k]!;
  }
  return out;
}

/** Length on the surface that one repeat of a picture covers, from the areas of the surface and of its picture coordinates. */
function pictureSideM(mesh: Mesh, uv: Accessor | null): number {
  if (!uv) return PLAIN_PICTURE_M;
  const flat = new Float32Array(mesh.positions.length);
  const pairs = floats(uv, 2);
  for (let i = 0; i < flat.length / 3; i++) flat.set(pairs.subarray(i * 2, i * 2 + 2), i * 3);
  const side = Math.sqrt(meshArea(mesh) / meshArea({ positions: flat, indices: mesh.indices }));
  return Number.isFinite(side) ? Math.min(1000, Math.max(0.001, side)) : PLAIN_PICTURE_M;
}

/** Placings of a node's mesh by EXT_mesh_gpu_instancing. */
function instancesOf(node: Node): Mat4[] | undefined {
  const instanced = node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing');
  const attributes = instanced?.listAttributes() ?? [];
  if (!instanced || attributes.length === 0) return undefined;
  const read = (semantic: string, width: number) => {
    const accessor = instanced.getAttribute(semantic);
    return accessor && floats(accessor, width);
  };
  const [moved, turned, scaled] = [read('TRANSLATION', 3), read('ROTATION', 4), read('SCALE', 3)];
  return Array.from({ length: attributes[0]!.getCount() }, (_, i) => {
    const part = (values: Float32Array | null, width: number, fallback: number[]) =>
      values ? [...values.subarray(i * width, i * width + width)] : fallback;
    return compose(part(moved, 3, [0, 0, 0]), part(turned, 4, [0, 0, 0, 1]), part(scaled, 3, [1, 1, 1]));
  });
}

/** Ids are short; a long path keeps its end and gets a number made of the whole of it (FNV-1a). */
function shortId(path: string): string {
  if (path.length <= MAX_ID) return path;
  let hash = 0x811c9dc5;
  for (let i = 0; i < path.length; i++) hash = Math.imul(hash ^ path.charCodeAt(i), 0x01000193);
  const number = (hash >>> 0).toString(16).padStart(8, '0');
  return `${number} …${path.slice(path.length - (MAX_ID - number.length - 2))}`;
}
