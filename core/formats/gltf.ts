import { WebIO, type Accessor, type Document, type Material, type Node, type Primitive } from '@gltf-transform/core';
import { ALL_EXTENSIONS, KHRMaterialsVariants, type InstancedMesh, type Light, type MappingList } from '@gltf-transform/extensions';
import draco3d from 'draco3dgltf';
import { MeshoptDecoder } from 'meshoptimizer';
import { FRAME_WIDTH_MM } from '../camera/camera';
import type { Mesh } from '../geometry/mesh';
import { compose, multiply, transformDirection, transformPoint, Z_UP, type Mat4 } from '../geometry/mat4';
import { encodeSrgb } from '../image/tone';
import { nearestTemperatureK } from '../image/colour-temperature';
import type { SourceMaterial } from '../model/schema';
import { gltfDocument } from './gltf-document';
import { laid, authoredPictures, type AuthoredPictures, type Laying, type PicturePart } from './gltf-pictures';
import { opticsOf } from './gltf-optics';
import { isShowable, ModelBuilder, pictureSideM, shortId, siblingPaths, type Part } from './model-builder';
import { ModelFileError, NO_SIDE_FILES, type ModelFile, type SideFiles } from './model-file';

const [TRIANGLES, TRIANGLE_STRIP, TRIANGLE_FAN] = [4, 5, 6];
const MAX_DEPTH = 500;

export type GltfReader = WebIO;

/** The parser, with everything it needs to unpack compressed meshes. */
export async function gltfReader(): Promise<GltfReader> {
  await MeshoptDecoder.ready;
  return new WebIO()
    .registerExtensions(ALL_EXTENSIONS)
    .registerDependencies({ 'draco3d.decoder': await draco3d.createDecoderModule(), 'meshopt.decoder': MeshoptDecoder });
}

/** Reads glTF 2.0: a GLB, or a .gltf with its buffers and pictures in it or beside it. Throws ModelFileError. */
export async function readGltf(io: GltfReader, bytes: Uint8Array, fileName: string, beside: SideFiles = NO_SIDE_FILES): Promise<ModelFile> {
  try {
    const document = await io.readJSON(gltfDocument(bytes, fileName, beside));
    const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
    if (!scene) throw new ModelFileError(`${fileName} holds no scene.`);
    return new SceneReader(fileName, variantsOf(document)).read(scene.listChildren());
  } catch (error) {
    if (error instanceof ModelFileError) throw error;
    const reason = error instanceof RangeError ? 'its nodes or buffers do not fit together' : error instanceof Error ? error.message : '';
    throw new ModelFileError(`${fileName} could not be read as glTF 2.0: ${reason.replace(/\.$/, '') || 'the parser gave up'}.`);
  }
}

/** The option that has what each part names by itself. */
const AS_IT_COMES = 'As it comes';

function variantsOf(document: Document): string[] {
  const used = document.getRoot().listExtensionsUsed().find((extension) => extension instanceof KHRMaterialsVariants); // prettier-ignore
  const names = used?.listVariants().map((variant) => shortId(variant.getName() || 'Variant')) ?? [];
  return [...new Set(names)].filter((name) => name !== AS_IT_COMES);
}

/** What a part has in a variant, where that says so. */
function variantMaterial(primitive: Primitive, variant: string): Material | null | undefined {
  const mappings = primitive.getExtension<MappingList>('KHR_materials_variants')?.listMappings() ?? [];
  return mappings.find((mapping) => mapping.listVariants().some((v) => shortId(v.getName() || 'Variant') === variant))?.getMaterial();
}

/** A primitive's mesh, kept under its key. */
interface Shape {
  key: string;
  mesh: Mesh;
}

/** Walks one scene. */
class SceneReader {
  private readonly builder: ModelBuilder;
  /** Of each primitive, by how the pictures of what it has lie. */
  private readonly shapes = new Map<Primitive, Map<string, Shape | undefined>>();
  private readonly laid = new Map<Material, AuthoredPictures>();

  constructor(
    private readonly fileName: string,
    /** Names of KHR_materials_variants. */
    private readonly variants: readonly string[],
  ) {
    this.builder = new ModelBuilder(fileName);
  }

  read(roots: readonly Node[]): ModelFile {
    this.walk(roots, '', '', Z_UP, 0);
    return this.builder.build('glTF 2.0', this.variants.length > 0 ? [AS_IT_COMES, ...this.variants] : []);
  }

  /** A node is known again in a later export by its names from the root down, and its number among siblings of one name. */
  private walk(nodes: readonly Node[], path: string, layer: string, parent: Mat4, depth: number): void {
    if (depth > MAX_DEPTH)
      throw new ModelFileError(`${this.fileName} nests its nodes in a circle, or more than ${String(MAX_DEPTH)} deep.`);
    const pathOf = siblingPaths();
    for (const node of nodes) {
      const name = node.getName() || node.getMesh()?.getName() || 'Node';
      const own = pathOf(path, name);
      const world = multiply(parent, node.getMatrix());
      this.addMesh(node, own, name, layer || 'Model', world);
      this.addCamera(node, own, name, world);
      this.addLight(node, own, name, world);
      this.walk(node.listChildren(), own, layer || name, world, depth + 1);
    }
  }

  /** Once, or once for each variant where these put it in other materials; those are options to choose from. */
  private addMesh(node: Node, path: string, name: string, layer: string, world: Mat4): void {
    const primitives = node.getMesh()?.listPrimitives() ?? [];
    const addElement = (id: string, option: string | null, materialOf: (primitive: Primitive) => Material | null) => {
      const parts = primitives.map((primitive) => this.partOf(primitive, materialOf(primitive))).filter((part) => part !== undefined);
      if (parts.length === 0) return;
      const placings = instancesOf(node) ?? [undefined];
      for (const [i, placing] of placings.entries()) {
        const transform = placing ? multiply(world, placing) : world;
        this.builder.element(placing ? `${id}@${String(i)}` : id, { name, class: 'Object', layer, transform, parts, option });
      }
    };
    const varies = primitives.some((primitive) => this.variants.some((variant) => variantMaterial(primitive, variant)));
    addElement(path, varies ? AS_IT_COMES : null, (primitive) => primitive.getMaterial());
    if (varies)
      for (const variant of this.variants)
        addElement(`${path}~${variant}`, variant, (primitive) => variantMaterial(primitive, variant) ?? primitive.getMaterial());
  }

  /** A primitive as a part; undefined for what has no surface. */
  private partOf(primitive: Primitive, material: Material | null): Part | undefined {
    const shape = this.shapeOf(primitive, material ? this.picturesOf(material) : NO_PICTURES);
    return shape && { mesh: shape.key, material: this.materialOf(material, shape.mesh) };
  }

  /** Read once however many nodes place it. */
  private shapeOf(primitive: Primitive, { layings, key }: Pick<AuthoredPictures, 'layings' | 'key'>): Shape | undefined {
    const shapes = this.shapes.get(primitive) ?? new Map<string, Shape | undefined>();
    this.shapes.set(primitive, shapes);
    if (shapes.has(key)) return shapes.get(key);
    const mesh = triangles(primitive);
    const whole = mesh && { ...mesh, ...uvSets(primitive, layings) };
    const shape = whole && whole.indices.length > 0 ? { key: this.builder.mesh(whole), mesh: whole } : undefined;
    shapes.set(key, shape);
    return shape;
  }

  private picturesOf(material: Material): AuthoredPictures {
    let pictures = this.laid.get(material);
    if (!pictures) this.laid.set(material, (pictures = authoredPictures(material, (texture) => isShowable(texture.getImage() ?? NOTHING))));
    return pictures;
  }

  private materialOf(material: Material | null, mesh: Mesh): string {
    return this.builder.material(material, () => {
      const [r, g, b, alpha] = material?.getBaseColorFactor() ?? [0.8, 0.8, 0.8, 1];
      const coded = (c: number) => encodeSrgb(unit(c));
      const lacking = material ? this.picturesOf(material).lacking : undefined;
      return {
        name: material ? material.getName() : 'No material',
        colour: [coded(r), coded(g), coded(b)],
        opacity: material && material.getAlphaMode() !== 'OPAQUE' ? alpha : 1,
        ...(material && opticsOf(material)),
        texture: this.textureOf(material, mesh),
        missing: lacking && (lacking.getURI() || lacking.getName() || lacking.getMimeType()).slice(0, 1000),
      };
    });
  }

  private textureOf(material: Material | null, mesh: Mesh): SourceMaterial['texture'] {
    if (!material) return null;
    const { pictures, sets } = this.picturesOf(material);
    // Hollows alone are no pattern.
    if (pictures.every(({ part }) => part === 'occlusion')) return null;
    const side = pictureSideM(mesh);
    const keys = pictures.map(({ part, texture }) => [part, this.builder.picture(texture.getImage()!)]);
    return {
      image: null,
      ...(Object.fromEntries(keys) as Partial<Record<PicturePart, string>>),
      ...(mesh.pictureUvs && { asLaid: true }),
      ...(mesh.furtherUvs && { sets }),
      widthM: side,
      heightM: side,
    };
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
    this.builder.camera(path, { name, position: [...position], target, focalMm });
  }

  private addLight(node: Node, path: string, name: string, world: Mat4): void {
    const light = node.getExtension<Light>('KHR_lights_punctual');
    // The sun is set here, by place and time.
    if (!light || light.getType() === 'directional') return;
    const beamDeg = light.getType() === 'spot' ? ((light.getInnerConeAngle() + light.getOuterConeAngle()) * 180) / Math.PI : 360;
    const solidAngle = light.getType() === 'spot' ? 2 * Math.PI * (1 - Math.cos((beamDeg * Math.PI) / 360)) : 4 * Math.PI;
    // Its colour multiplies its intensity.
    const [red, green, blue] = light.getColor();
    const luminance = 0.2126 * red + 0.7152 * green + 0.0722 * blue;
    this.builder.luminaire(path, {
      name,
      circuit: 'glTF',
      element: null,
      position: [...transformPoint(world, [0, 0, 0])],
      direction: [...transformDirection(world, [0, 0, -1])],
      fluxLm: Math.min(1e7, Math.max(0, light.getIntensity() * luminance * solidAngle)),
      colourTemperatureK: nearestTemperatureK(light.getColor()),
      beamDeg: Math.min(360, Math.max(1, beamDeg)),
      dim: 1,
    });
  }
}

const NOTHING = new Uint8Array();
const NO_PICTURES = { layings: [], key: '' };

/** Where pictures lie on a primitive; nothing where the first of them lies nowhere, and as the first where another does. */
function uvSets(primitive: Primitive, layings: readonly Laying[]): Pick<Mesh, 'pictureUvs' | 'furtherUvs'> {
  const [pictureUvs, ...others] = layings.map((laying) => {
    const accessor = primitive.getAttribute(`TEXCOORD_${String(laying.texCoord)}`);
    const uvs = accessor && laid(floats(accessor, 2), laying);
    return uvs?.every(Number.isFinite) ? uvs : undefined;
  });
  if (!pictureUvs) return {};
  return { pictureUvs, ...(others.length > 0 && { furtherUvs: others.map((uvs) => uvs ?? pictureUvs) }) };
}

const unit = (c: number) => Math.min(1, Math.max(0, c));

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
