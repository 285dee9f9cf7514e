import * as WebIFC from 'web-ifc';
import { emptyBounds, encodeMesh, meshBlob, meshBounds, weld, type Bounds, type Mesh } from '../geometry/mesh';
import { invert, meanScale, multiply, transformPoint, Z_UP, type Mat4 } from '../geometry/mat4';
import { EMPTY_MODEL, type Model } from '../model/model';
import type { Luminaire, ModelElement, SourceMaterial } from '../model/schema';
import { IfcLayers } from './ifc-layers';
import { IfcLines, refOf, refsOf, textOf } from './ifc-line';
import { IfcLights } from './ifc-lights';
import { IfcPlace } from './ifc-place';
import { readSaid, type AllSaid } from './ifc-said';
import { presentationOf, variantOf } from './ifc-variants';
import { IfcTextures, type IfcTexture } from './ifc-textures';
import { pictureSideM } from './model-builder';
import { ModelFileError, NO_SIDE_FILES, type ModelFile, type SideFiles, type TakeBlob } from './model-file';

/** Flux of a light fixture that says nothing of its light. */
const FIXTURE_LM = 800;
const DEFAULT_COLOUR: [number, number, number] = [0.8, 0.8, 0.78];

/** Complains about what can be seen in the text before the parser is started, which forgives too much. */
export function checkStepText(bytes: Uint8Array, fileName: string): void {
  const decoder = new TextDecoder('latin1');
  const head = decoder.decode(bytes.subarray(0, 4096));
  if (!head.trimStart().startsWith('ISO-10303-21'))
    throw new ModelFileError(`${fileName} is not an IFC file: it does not begin with ISO-10303-21.`);
  const tail = decoder.decode(bytes.subarray(Math.max(0, bytes.byteLength - 2048)));
  if (!/END-ISO-10303-21\s*;/.test(tail)) throw new ModelFileError(`${fileName} is cut off: its end mark END-ISO-10303-21 is missing.`);
  const schema = /FILE_SCHEMA\s*\(\s*\(\s*'([^']*)'/i.exec(decoder.decode(bytes.subarray(0, 65536)))?.[1];
  if (!schema || !/^IFC(2X3|4)/i.test(schema))
    throw new ModelFileError(`${fileName} uses the schema ${schema ?? '(none)'}; IFC2x3, IFC4 and IFC4x3 are read.`);
}

/**
 * Reads a file with a web-ifc instance that has been initialised. Meshes go to `take` while others are still being read; without
 * it they are kept in the answer. Throws ModelFileError.
 */
export function readIfc(
  api: WebIFC.IfcAPI,
  bytes: Uint8Array,
  fileName: string,
  take?: TakeBlob,
  beside: SideFiles = NO_SIDE_FILES,
): ModelFile {
  checkStepText(bytes, fileName);
  let id: number | undefined;
  try {
    id = api.OpenModel(bytes, { COORDINATE_TO_ORIGIN: false });
    const schema = api.GetModelSchema(id);
    const meshes = new Map<string, Uint8Array>();
    const reader = new IfcReader(api, id, bytes, take ?? ((key, mesh) => meshes.set(key, mesh)), beside);
    return { format: schema, model: reader.read(fileName), meshes, pictures: reader.pictures };
  } catch (error) {
    if (error instanceof ModelFileError) throw error;
    // The parser's own stumbling over a line says nothing to people.
    const reason =
      error instanceof TypeError ? 'its lines do not fit together' : error instanceof Error ? error.message : 'the parser gave up';
    throw new ModelFileError(`${fileName} could not be read: ${reason}.`);
  } finally {
    if (id !== undefined) api.CloseModel(id);
  }
}

/** The parser's own memory, in units of four bytes; it may move whenever the parser works. */
interface ParserMemory {
  HEAPF32: Float32Array;
  HEAPU32: Uint32Array;
}

type MeshBlob = ReturnType<typeof meshBlob>;

/** A mesh that was given away under its key, and what lies on it. */
interface Shape {
  key: string;
  covered?: { texture: IfcTexture; sideM: number };
}

class IfcReader extends IfcLines {
  private readonly storeyOf = new Map<number, string>();
  private readonly materialNameOf = new Map<number, string>();
  private readonly materials = new Map<string, SourceMaterial>();
  private readonly shapes = new Map<string, Shape>();
  private readonly luminaires = new Map<string, Luminaire>();
  private readonly elements = new Map<string, ModelElement>();
  /** By the keys that textures name them with. */
  readonly pictures = new Map<string, Uint8Array>();
  private readonly layers: IfcLayers;
  private readonly textures: IfcTextures;
  private readonly said: AllSaid;
  private readonly lights: IfcLights;
  private readonly place: IfcPlace;

  constructor(
    api: WebIFC.IfcAPI,
    id: number,
    bytes: Uint8Array,
    private readonly take: TakeBlob,
    beside: SideFiles,
  ) {
    super(api, id);
    this.textures = new IfcTextures(api, id, beside);
    this.layers = new IfcLayers(api, id);
    this.said = readSaid(api, id, bytes);
    this.place = new IfcPlace(api, id);
    this.lights = new IfcLights(api, id, this.said, this.place);
  }

  read(fileName: string): Model {
    this.readStoreys();
    this.readMaterialNames();
    this.api.StreamAllMeshes(this.id, (flat) => {
      this.addElement(flat);
    });
    // Some shine and have no shape.
    for (const fixture of this.lights.fixtures) {
      const root = this.rootOf(fixture);
      if (!this.luminaires.has(root.globalId || `#${String(fixture)}`)) this.addLuminaire(fixture, root);
    }
    if (this.elements.size === 0) throw new ModelFileError(`${fileName} holds no building elements with a shape.`);
    return {
      ...EMPTY_MODEL,
      elements: this.elements,
      materials: this.materials,
      luminaires: this.luminaires,
      site: this.place.site(),
      basePoint: this.place.basePoint(),
      presentation: { hiddenLayers: this.layers.hidden, ...presentationOf([...this.said.elements.values()].map(variantOf)) },
    };
  }

  /**
   * What every element has, straight from its line: IfcProduct begins with GlobalId, OwnerHistory, Name and has its Representation
   * in the seventh place (ISO 16739-1). A tenth of the time that a whole line takes.
   */
  private rootOf(expressId: number): { type: number; globalId: string; name: string; shape: number | undefined } {
    const { type, arguments: values } = this.api.GetRawLineData(this.id, expressId);
    return { type, globalId: textOf(values[0]), name: textOf(values[2]), shape: refOf(values[6]) };
  }

  /** What the relations of a type relate, in the order of their attributes, which come after the four of IfcRoot (ISO 16739-1). */
  private relationsOf(type: number): unknown[][] {
    return this.idsOf(type).map((id) => (this.api.GetRawLineData(this.id, id).arguments as unknown[]).slice(4));
  }

  private readStoreys(): void {
    for (const [elements, place] of this.relationsOf(WebIFC.IFCRELCONTAINEDINSPATIALSTRUCTURE)) {
      const structure = refOf(place);
      if (structure === undefined) continue;
      const name = textOf(this.line(structure)['Name']);
      for (const element of refsOf(elements)) this.storeyOf.set(element, name);
    }
    for (const [whole, parts] of this.relationsOf(WebIFC.IFCRELAGGREGATES)) {
      const storey = this.storeyOf.get(refOf(whole) ?? -1);
      if (storey !== undefined) for (const part of refsOf(parts)) if (!this.storeyOf.has(part)) this.storeyOf.set(part, storey);
    }
  }

  private readMaterialNames(): void {
    const names = new Map<number, string>();
    for (const [elements, relating] of this.relationsOf(WebIFC.IFCRELASSOCIATESMATERIAL)) {
      const material = refOf(relating);
      if (material === undefined) continue;
      const name = names.get(material) ?? this.nameOfMaterial(material, 0);
      names.set(material, name);
      if (name) for (const element of refsOf(elements)) this.materialNameOf.set(element, name);
    }
  }

  /** Name of a material, or of the first layer or part of a set. */
  private nameOfMaterial(expressId: number, depth: number): string {
    if (depth > 4) return '';
    const line = this.line(expressId);
    const name = textOf(line['Name']);
    if ('Materials' in line || 'MaterialLayers' in line || 'ForLayerSet' in line || 'Material' in line || 'MaterialConstituents' in line) {
      const next =
        refsOf(line['Materials'])[0] ??
        refsOf(line['MaterialLayers'])[0] ??
        refOf(line['ForLayerSet']) ??
        refOf(line['Material']) ??
        refsOf(line['MaterialConstituents'])[0];
      if (next !== undefined) return this.nameOfMaterial(next, depth + 1) || name;
    }
    return name;
  }

  private addElement(flat: WebIFC.FlatMesh): void {
    const root = this.rootOf(flat.expressID);
    const globalId = root.globalId || `#${String(flat.expressID)}`;
    const upper = this.api.GetNameFromTypeCode(root.type);
    const isFixture = this.lights.fixtures.has(flat.expressID);
    const className = isFixture ? 'LightFixture' : upper.replace(/^Ifc/i, '');
    const storey = this.storeyOf.get(flat.expressID) ?? '';
    const parts: ModelElement['parts'] = [];
    const lit = emptyBounds();
    let transform: Mat4 | undefined;
    const count = flat.geometries.size();
    for (let i = 0; i < count; i++) {
      const placed = flat.geometries.get(i);
      // All parts of an element share its first placement when it is the same; otherwise the mesh takes up the difference.
      const world = multiply(Z_UP, placed.flatTransformation);
      transform ??= world;
      const own = world.every((v, k) => Math.abs(v - transform![k]!) < 1e-9) ? undefined : world;
      const within = own && relative(transform, own);
      const shape = this.shapeOf(placed.geometryExpressID, within, transform);
      if (!shape) continue;
      if (isFixture) growBy(lit, meshBounds(this.geometryOf(placed.geometryExpressID, within).positions));
      parts.push({ mesh: shape.key, material: this.materialOf(flat.expressID, className, placed.color, shape.covered) });
    }
    if (parts.length === 0 || !transform) return;
    if (isFixture) this.addLuminaire(flat.expressID, root, middleOf(lit, transform));
    const said = this.said.elements.get(flat.expressID);
    const variant = said && variantOf(said);
    this.elements.set(globalId, {
      id: globalId,
      name: root.name,
      class: className,
      storey,
      layer: this.layers.layerOf(root.shape)?.slice(0, 200) ?? className,
      option: variant?.option?.slice(0, 200) ?? null,
      phase: variant?.phase?.slice(0, 200) ?? null,
      ...(variant?.until !== undefined && { until: variant.until.slice(0, 200) }),
      transform: [...transform],
      parts,
    });
  }

  /** A light fixture shines as its file says; where that says nothing, down from its middle with the flux of a common lamp. */
  private addLuminaire(expressId: number, { globalId, name }: { globalId: string; name: string }, middle?: Luminaire['position']): void {
    const id = globalId || `#${String(expressId)}`;
    const light = this.lights.of(expressId);
    const position = light.position ?? middle;
    if (!position) return;
    this.luminaires.set(id, {
      id, name: name || 'Light fixture', circuit: 'IFC', element: middle ? id : null, direction: [0, 0, -1],
      fluxLm: FIXTURE_LM, colourTemperatureK: 3000, beamDeg: 120, dim: 1, ...light, position,
    }); // prettier-ignore
  }

  /** A geometry where it lies within its element; undefined where it has no faces. Its mesh is given away the first time. */
  private shapeOf(geometryId: number, within: Mat4 | undefined, transform: Mat4): Shape | undefined {
    const key = within ? `${String(geometryId)}:${within.map((v) => Math.round(v * 1e6)).join()}` : String(geometryId);
    const known = this.shapes.get(key);
    if (known) return known;
    const { blob, positions, indices } = this.geometryOf(geometryId, within);
    if (indices.length === 0) return undefined;
    const texture = this.textures.on(geometryId, indices.length / 3);
    const mesh = texture && weld(positions, indices, [atVertices(texture.uvs, indices, positions.length / 3)]);
    const shape: Shape = { key, ...(texture && mesh && { covered: { texture, sideM: pictureSideM(sized(mesh, meanScale(transform))) } }) };
    this.shapes.set(key, shape);
    this.take(key, mesh ? encodeMesh(mesh) : blob);
    return shape;
  }

  /** A geometry as a mesh's blob, straight from the parser's memory. */
  private geometryOf(geometryId: number, within: Mat4 | undefined): MeshBlob {
    const geometry = this.api.GetGeometry(this.id, geometryId);
    const { HEAPF32, HEAPU32 } = this.api.wasmModule as ParserMemory;
    const part = <T extends Float32Array | Uint32Array>(heap: T, at: number, length: number) => heap.subarray(at / 4, at / 4 + length) as T;
    const vertices = part(HEAPF32, geometry.GetVertexData(), geometry.GetVertexDataSize());
    const indices = part(HEAPU32, geometry.GetIndexData(), geometry.GetIndexDataSize());
    const mesh = meshBlob(vertices.length / 6, indices.length / 3);
    const finite = placePositions(vertices, within, mesh.positions);
    mesh.indices.set(indices);
    geometry.delete();
    if (!finite) throw new ModelFileError(`element geometry #${String(geometryId)} has coordinates that are not numbers`);
    return mesh;
  }

  private materialOf(element: number, className: string, colour: WebIFC.Color, covered: Shape['covered']): string {
    const named = this.materialNameOf.get(element) ?? className;
    const assigned = [colour.x, colour.y, colour.z, colour.w].map((c) => Math.round(c * 255)).join('-');
    const key = `${covered ? `${covered.texture.key} ` : ''}${named} ${assigned}`.slice(0, 200);
    if (!this.materials.has(key)) {
      const clamp = (c: number) => Math.min(1, Math.max(0, c));
      const rgb: [number, number, number] = Number.isFinite(colour.x)
        ? [clamp(colour.x), clamp(colour.y), clamp(colour.z)]
        : DEFAULT_COLOUR;
      this.materials.set(key, {
        id: key,
        name: named,
        colour: rgb,
        opacity: clamp(colour.w),
        texture: null,
        ...(covered && this.texturing(covered)),
      });
    }
    return key;
  }

  private texturing({ texture: { pictures, missing, key }, sideM }: NonNullable<Shape['covered']>): Partial<SourceMaterial> {
    const named = pictures.map(({ part, bytes }) => {
      const name = `picture ${key} ${part}`;
      this.pictures.set(name, bytes);
      return [part, name] as const;
    });
    return {
      // A picture is the colour, as in the standard's mode of texturing.
      ...(pictures.some(({ part }) => part === 'image') && { colour: [1, 1, 1] as [number, number, number] }),
      ...(named.length > 0 && { texture: { image: null, ...Object.fromEntries(named), asLaid: true, widthM: sideM, heightM: sideM } }),
      ...(missing && { missing: missing.slice(0, 1000) }),
    };
  }
}

/** Coordinates of corners, of which the parser's vertices are each one. */
function atVertices(corners: Float32Array, indices: Uint32Array, vertices: number): Float32Array {
  const out = new Float32Array(vertices * 2);
  for (const [corner, vertex] of indices.entries()) out.set(corners.subarray(corner * 2, corner * 2 + 2), vertex * 2);
  return out;
}

const sized = (mesh: Mesh, scale: number): Mesh => ({ ...mesh, positions: mesh.positions.map((v) => v * scale) });

const middleOf = ({ min, max }: Bounds, transform: Mat4) =>
  [...transformPoint(transform, min.map((v, k) => (v + max[k]!) / 2) as [number, number, number])] as [number, number, number];

/** Writes the places of vertices that come as place and normal, six numbers each, transformed if need be; false where one is not a number. */
function placePositions(vertices: Float32Array, m: Mat4 | undefined, out: Float32Array): boolean {
  // What is not a number makes the sum none.
  let sum = 0;
  if (!m) {
    for (let i = 0, o = 0; i < vertices.length; i += 6, o += 3) {
      const x = vertices[i]!;
      const y = vertices[i + 1]!;
      const z = vertices[i + 2]!;
      out[o] = x;
      out[o + 1] = y;
      out[o + 2] = z;
      sum += x + y + z;
    }
    return Number.isFinite(sum);
  }
  const [xx = 1, xy = 0, xz = 0, , yx = 0, yy = 1, yz = 0, , zx = 0, zy = 0, zz = 1, , tx = 0, ty = 0, tz = 0] = m;
  for (let i = 0, o = 0; i < vertices.length; i += 6, o += 3) {
    const x = vertices[i]!;
    const y = vertices[i + 1]!;
    const z = vertices[i + 2]!;
    out[o] = xx * x + yx * y + zx * z + tx;
    out[o + 1] = xy * x + yy * y + zy * z + ty;
    out[o + 2] = xz * x + yz * y + zz * z + tz;
    sum += out[o]! + out[o + 1]! + out[o + 2]!;
  }
  return Number.isFinite(sum);
}

function growBy(bounds: Bounds, { min, max }: Bounds): void {
  for (let k = 0; k < 3; k++) {
    bounds.min[k] = Math.min(bounds.min[k]!, min[k]!);
    bounds.max[k] = Math.max(bounds.max[k]!, max[k]!);
  }
}

/** Transform that takes points placed by `own` into the frame of `base`. */
function relative(base: Mat4, own: Mat4): Mat4 {
  const inverse = invert(base);
  if (!inverse) throw new ModelFileError('an element’s placement flattens space');
  return multiply(inverse, own);
}
