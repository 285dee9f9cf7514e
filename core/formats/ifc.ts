import * as WebIFC from 'web-ifc';
import { emptyBounds, meshBlob, meshBounds, type Bounds } from '../geometry/mesh';
import { invert, multiply, transformPoint, Z_UP, type Mat4 } from '../geometry/mat4';
import { EMPTY_MODEL, type Model } from '../model/model';
import type { BasePoint, Luminaire, ModelElement, Site, SourceMaterial } from '../model/schema';
import { IfcLayers } from './ifc-layers';
import { numberOf, refOf, refsOf, textOf, type Handle, type Line } from './ifc-line';
import { IfcLights } from './ifc-lights';
import { readSaid, type AllSaid } from './ifc-said';
import { presentationOf, variantOf } from './ifc-variants';
import { ModelFileError, type ModelFile, type TakeBlob } from './model-file';

/** Flux of a light fixture that says nothing of its light. */
const FIXTURE_LM = 800;
const DEFAULT_COLOUR: [number, number, number] = [0.8, 0.8, 0.78];

const SI_PREFIX: Readonly<Record<string, number>> = { KILO: 1e3, DECI: 0.1, CENTI: 0.01, MILLI: 1e-3, MICRO: 1e-6 };

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
export function readIfc(api: WebIFC.IfcAPI, bytes: Uint8Array, fileName: string, take?: TakeBlob): ModelFile {
  checkStepText(bytes, fileName);
  let id: number | undefined;
  try {
    id = api.OpenModel(bytes, { COORDINATE_TO_ORIGIN: false });
    const schema = api.GetModelSchema(id);
    const meshes = new Map<string, Uint8Array>();
    const reader = new IfcReader(api, id, bytes, take ?? ((key, mesh) => meshes.set(key, mesh)));
    return { format: schema, model: reader.read(fileName), meshes, pictures: new Map() };
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

class IfcReader {
  private readonly storeyOf = new Map<number, string>();
  private readonly materialNameOf = new Map<number, string>();
  private readonly materials = new Map<string, SourceMaterial>();
  private readonly meshes = new Set<string>();
  private readonly luminaires = new Map<string, Luminaire>();
  private readonly elements = new Map<string, ModelElement>();
  private readonly layers: IfcLayers;
  private readonly said: AllSaid;
  private readonly lights: IfcLights;

  constructor(
    private readonly api: WebIFC.IfcAPI,
    private readonly id: number,
    bytes: Uint8Array,
    private readonly take: TakeBlob,
  ) {
    this.layers = new IfcLayers(api, id);
    this.said = readSaid(api, id, bytes);
    this.lights = new IfcLights(api, id, this.said, () => ({ lengthM: this.lengthUnitM(), angleDeg: this.angleUnitDeg() }));
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
      site: this.readSite(),
      basePoint: this.readBasePoint(),
      presentation: { hiddenLayers: this.layers.hidden, ...presentationOf([...this.said.elements.values()].map(variantOf)) },
    };
  }

  private line(expressId: number): Line {
    return this.api.GetLine(this.id, expressId, false) as Line;
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
    const ids = this.api.GetLineIDsWithType(this.id, type);
    return Array.from({ length: ids.size() }, (_, i) => (this.api.GetRawLineData(this.id, ids.get(i)).arguments as unknown[]).slice(4));
  }

  private linesOf(type: number): Line[] {
    const ids = this.api.GetLineIDsWithType(this.id, type);
    return Array.from({ length: ids.size() }, (_, i) => this.line(ids.get(i)));
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
      const mesh = this.meshOf(placed.geometryExpressID, within);
      if (!mesh) continue;
      if (isFixture) growBy(lit, meshBounds(this.geometryOf(placed.geometryExpressID, within).positions));
      parts.push({ mesh, material: this.materialOf(flat.expressID, className, placed.color) });
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

  /** Key of a geometry where it lies within its element; undefined where it has no faces. Its mesh is given away the first time. */
  private meshOf(geometryId: number, within: Mat4 | undefined): string | undefined {
    const key = within ? `${String(geometryId)}:${within.map((v) => Math.round(v * 1e6)).join()}` : String(geometryId);
    if (this.meshes.has(key)) return key;
    const { blob, indices } = this.geometryOf(geometryId, within);
    if (indices.length === 0) return undefined;
    this.meshes.add(key);
    this.take(key, blob);
    return key;
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

  private materialOf(element: number, className: string, colour: WebIFC.Color): string {
    const named = this.materialNameOf.get(element) ?? className;
    const key = `${named} ${[colour.x, colour.y, colour.z, colour.w].map((c) => Math.round(c * 255)).join('-')}`.slice(0, 200);
    if (!this.materials.has(key)) {
      const clamp = (c: number) => Math.min(1, Math.max(0, c));
      const rgb: [number, number, number] = Number.isFinite(colour.x)
        ? [clamp(colour.x), clamp(colour.y), clamp(colour.z)]
        : DEFAULT_COLOUR;
      this.materials.set(key, { id: key, name: named, colour: rgb, opacity: clamp(colour.w), texture: null });
    }
    return key;
  }

  private readSite(): Site | undefined {
    const site = this.linesOf(WebIFC.IFCSITE)[0];
    if (!site) return undefined;
    const latitudeDeg = degreesOf(site['RefLatitude']);
    const longitudeDeg = degreesOf(site['RefLongitude']);
    if (latitudeDeg === undefined || longitudeDeg === undefined || Math.abs(latitudeDeg) > 90 || Math.abs(longitudeDeg) > 180)
      return undefined;
    const elevationM = numberOf(site['RefElevation']) * this.lengthUnitM();
    return {
      name: textOf(site['Name']) || 'Site',
      latitudeDeg,
      longitudeDeg,
      elevationM: elevationM > -500 && elevationM < 9000 ? elevationM : 0,
      trueNorthDeg: this.readTrueNorth(),
    };
  }

  /** IfcMapConversion (IFC4, ISO 16739-1): where the origin lies in the map and how x is turned against its east. */
  private readBasePoint(): BasePoint | undefined {
    const conversion = this.linesOf(WebIFC.IFCMAPCONVERSION)[0];
    if (!conversion) return undefined;
    const target = refOf(conversion['TargetCRS']);
    const mapUnit = target === undefined ? undefined : refOf(this.line(target)['MapUnit']);
    const metres = mapUnit === undefined ? this.lengthUnitM() : this.metresOf(this.line(mapUnit));
    const [eastM, northM, heightM] = ['Eastings', 'Northings', 'OrthogonalHeight'].map((name) => numberOf(conversion[name]) * metres) as [
      number,
      number,
      number,
    ];
    const [x, y] = [numberOf(conversion['XAxisAbscissa']), numberOf(conversion['XAxisOrdinate'])];
    const turnDeg = x === 0 && y === 0 ? 0 : (Math.atan2(y, x) * 180) / Math.PI;
    return [eastM, northM, heightM, turnDeg].every(Number.isFinite) ? { eastM, northM, heightM, turnDeg } : undefined;
  }

  /** Metres of the file's unit of length. Geometry comes in metres already; plain attributes do not. */
  private lengthUnitM(): number {
    return this.unitOf('LENGTHUNIT');
  }

  private angleUnitDeg(): number {
    return (this.unitOf('PLANEANGLEUNIT') * 180) / Math.PI;
  }

  private unitOf(kind: 'LENGTHUNIT' | 'PLANEANGLEUNIT'): number {
    const units = this.linesOf(WebIFC.IFCUNITASSIGNMENT).flatMap((line) => refsOf(line['Units']));
    const unit = units.map((id) => this.line(id)).find(({ UnitType }) => textOf(UnitType) === kind);
    return unit ? this.metresOf(unit) : 1;
  }

  /** How many metres, or radians, a unit of length or angle is. */
  private metresOf(unit: Line): number {
    const conversion = refOf(unit['ConversionFactor']);
    if (conversion === undefined) return SI_PREFIX[textOf(unit['Prefix'])] ?? 1;
    const measure = this.line(conversion);
    const base = refOf(measure['UnitComponent']);
    return numberOf(measure['ValueComponent']) * (base === undefined ? 1 : this.metresOf(this.line(base)));
  }

  /** Clockwise from the model's y to true north. */
  private readTrueNorth(): number {
    for (const context of this.linesOf(WebIFC.IFCGEOMETRICREPRESENTATIONCONTEXT)) {
      const direction = refOf(context['TrueNorth']);
      if (direction === undefined) continue;
      const ratios = this.line(direction)['DirectionRatios'];
      const [x, y] = (Array.isArray(ratios) ? ratios : []).map((r) => Number((r as Handle | null)?.value ?? r));
      if (x !== undefined && y !== undefined && Number.isFinite(x) && Number.isFinite(y)) return (Math.atan2(x, y) * 180) / Math.PI || 0;
    }
    return 0;
  }
}

const middleOf = ({ min, max }: Bounds, transform: Mat4) =>
  [...transformPoint(transform, min.map((v, k) => (v + max[k]!) / 2) as [number, number, number])] as [number, number, number];

/** Degrees from an IfcCompoundPlaneAngleMeasure: degrees, minutes, seconds, millionths of a second. */
function degreesOf(value: unknown): number | undefined {
  const list = Array.isArray(value) ? value : (value as Handle | null)?.value;
  if (!Array.isArray(list) || list.length < 3) return undefined;
  const [d, m, s, u = 0] = list.map((v) => Number((v as Handle | null)?.value ?? v)) as [number, number, number, number?];
  return d + m / 60 + (s + u / 1e6) / 3600;
}

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
