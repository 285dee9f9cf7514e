import {
  type I3DfaceEntity, type IArcEntity, type ICircleEntity, type IDxf, type IEllipseEntity, type IEntity, type IInsertEntity, type ILineEntity,
  type ILwpolylineEntity, type IPoint, type IPolylineEntity, type ISolidEntity, type ISplineEntity,
} from 'dxf-parser'; // prettier-ignore
import { compose, IDENTITY, multiply, rotationZ, transformPoint, translation, type Mat4 } from '../geometry/mat4';
import { weld } from '../geometry/mesh';
import type { Vec3 } from '../geometry/vec3';
import { dxfParser } from './dxf-entities';
import { guessedUnit, METRES_OF, takenAs, type LengthUnit } from './length-unit';
import { ModelBuilder } from './model-builder';
import { ModelFileError, type ModelFile } from './model-file';
import { parsed } from './parsed';
import { textOf } from './text';

/** $INSUNITS of the DXF reference. */
const INSUNITS: Readonly<Record<number, LengthUnit>> = {
  1: 'inch', 2: 'foot', 3: 'mile', 4: 'millimeter', 5: 'centimeter', 6: 'meter', 7: 'kilometer', 10: 'yard', 13: 'micron',
}; // prettier-ignore
/** Drawn lines lie on the ground as bands of this width, metres. */
const LINE_M = 0.04;
/** A whole circle as so many straight pieces. */
const ROUND = 48;
const MAX_NESTING = 24;
const MAX_PLACED = 200_000;
/** Beyond this the numbers of single precision are coarser than a millimetre. */
const FAR_M = 10_000;

/** Faces and lines of one layer, in the drawing's units, as loose triangles and as lines of points. */
interface LayerContent {
  triangles: number[];
  lines: Vec3[][];
}

/**
 * DXF: faces, polyface meshes and solids as surfaces; lines, polylines, arcs, ellipses and splines as narrow bands; blocks placed,
 * each an element of its own by its handle. Words and dimensions are left out. z-up. Throws ModelFileError.
 */
export function readDxf(bytes: Uint8Array, fileName: string): ModelFile {
  const text = textOf(bytes, fileName);
  if (text.includes('\0')) throw new ModelFileError(`${fileName} is a binary DXF; save it as text.`);
  if (!/^\s*0\s*\r?\n\s*SECTION/m.test(text)) throw new ModelFileError(`${fileName} is not a DXF: it has no section.`);
  if (!/\n\s*0\s*\r?\n\s*EOF\s*$/.test(text)) throw new ModelFileError(`${fileName} is cut off: its end mark EOF is missing.`);
  return parsed(fileName, 'DXF', () => {
    const drawing = dxfParser().parseSync(text);
    if (!drawing) throw new Error('the parser gave up');
    return new DxfReader(fileName, drawing).read();
  });
}

class DxfReader {
  private readonly builder: ModelBuilder;
  private placed = 0;

  constructor(
    private readonly fileName: string,
    private readonly drawing: IDxf,
  ) {
    this.builder = new ModelBuilder(fileName);
  }

  read(): ModelFile {
    const top = new Map<string, LayerContent>();
    const inserts: IInsertEntity[] = [];
    for (const entity of this.drawing.entities) {
      if (entity.inPaperSpace) continue;
      if (entity.type === 'INSERT') inserts.push(entity as IInsertEntity);
      else this.gather(entity, IDENTITY, this.layerOf(entity), top);
    }
    const blocks = inserts.flatMap((insert) =>
      this.placings(insert).map((placing, i) => {
        const content = new Map<string, LayerContent>();
        this.gatherBlock(insert, placing, this.layerOf(insert), content, 0);
        return { insert, content, id: `${String(insert.handle)}${i > 0 ? `@${String(i)}` : ''}` };
      }),
    );
    const everything = [...top.values(), ...blocks.flatMap((b) => [...b.content.values()])];
    const { unit, said } = this.unit(everything);
    const metres = METRES_OF[unit];
    const origin = farOrigin(everything, metres);
    for (const [layer, content] of top) this.addContent(content, `layer ${layer}`, layer, layer, metres, origin);
    for (const { insert, content, id } of blocks) {
      const parts = [...content].flatMap(([layer, c]) => this.partsOf(c, layer, metres, origin));
      if (parts.length > 0)
        this.builder.element(`block ${id}`, {
          name: insert.name,
          class: 'Object',
          layer: this.layerOf(insert),
          transform: IDENTITY,
          parts,
        });
    }
    const file = this.builder.build(said);
    const hiddenLayers = Object.values(this.layers()).filter((l) => !l.visible || l.frozen).map((l) => l.name); // prettier-ignore
    const [eastM, northM, heightM] = origin;
    const basePoint = origin.some((v) => v !== 0) ? { eastM, northM, heightM, turnDeg: 0 } : undefined;
    return {
      ...file,
      broughtNear: basePoint !== undefined,
      model: { ...file.model, basePoint, presentation: { ...file.model.presentation, hiddenLayers } },
    };
  }

  /** The drawing's unit, and how that is said. */
  private unit(contents: readonly LayerContent[]): { unit: LengthUnit; said: string } {
    const known = INSUNITS[Number(this.drawing.header?.['$INSUNITS'] ?? 0)];
    if (known) return { unit: known, said: 'DXF' };
    const [low, high] = reach(contents);
    const unit = guessedUnit(Math.hypot(...high.map((v, k) => v - low[k]!)), 'meter');
    return { unit, said: takenAs('DXF', unit) };
  }

  private layers() {
    return (this.drawing.tables as Partial<IDxf['tables']> | undefined)?.layer?.layers ?? {};
  }

  private layerOf(entity: IEntity): string {
    return entity.layer || '0';
  }

  private addContent(content: LayerContent, path: string, name: string, layer: string, metres: number, origin: Vec3): void {
    const parts = this.partsOf(content, layer, metres, origin);
    if (parts.length > 0) this.builder.element(path, { name, class: 'Object', layer, transform: IDENTITY, parts });
  }

  private partsOf({ triangles, lines }: LayerContent, layer: string, metres: number, origin: Vec3) {
    const corners = [...triangles.map((v, i) => v * metres - origin[i % 3]!), ...bands(lines.map((line) => line.map((p) => p.map((v, k) => v * metres - origin[k]!) as unknown as Vec3)))]; // prettier-ignore
    const mesh = weld(corners);
    return mesh.indices.length === 0 ? [] : [{ mesh: this.builder.mesh(mesh), material: this.material(layer) }];
  }

  private material(layer: string): string {
    return this.builder.material(layer, () => {
      const colour = this.layers()[layer]?.color ?? 0xbbbbbb;
      return { name: layer, colour: [((colour >> 16) & 255) / 255, ((colour >> 8) & 255) / 255, (colour & 255) / 255] };
    });
  }

  /** Where an insert stands, once for each row and column of it. */
  private placings(insert: IInsertEntity): Mat4[] {
    const { x, y, z } = insert.position;
    const [columns, rows] = [Math.max(1, insert.columnCount || 1), Math.max(1, insert.rowCount || 1)];
    if (columns * rows > MAX_PLACED)
      throw new ModelFileError(`${this.fileName} places ${insert.name} more than ${String(MAX_PLACED)} times.`);
    const turned = multiply(
      extrusion(insert.extrusionDirection),
      multiply(translation(x, y, z || 0), rotationZ(((insert.rotation || 0) * Math.PI) / 180)),
    );
    const size = compose([0, 0, 0], [], [insert.xScale || 1, insert.yScale || 1, insert.zScale || 1]);
    return Array.from({ length: columns * rows }, (_, i) =>
      multiply(
        multiply(turned, translation((i % columns) * (insert.columnSpacing || 0), Math.floor(i / columns) * (insert.rowSpacing || 0), 0)),
        size,
      ),
    );
  }

  private gatherBlock(insert: IInsertEntity, placing: Mat4, layer: string, into: Map<string, LayerContent>, depth: number): void {
    if (depth > MAX_NESTING)
      throw new ModelFileError(`${this.fileName} nests its blocks in a circle, or more than ${String(MAX_NESTING)} deep: ${insert.name}.`);
    if (++this.placed > MAX_PLACED) throw new ModelFileError(`${this.fileName} places more than ${String(MAX_PLACED)} blocks.`);
    const block = this.drawing.blocks?.[insert.name];
    if (!block) return;
    const base = block.position ?? { x: 0, y: 0, z: 0 };
    const inside = multiply(placing, translation(-base.x, -base.y, -(base.z || 0)));
    for (const entity of block.entities ?? []) {
      // What is on layer 0 takes the layer of what places it.
      const own = this.layerOf(entity) === '0' ? layer : this.layerOf(entity);
      if (entity.type !== 'INSERT') this.gather(entity, inside, own, into);
      else
        for (const inner of this.placings(entity as IInsertEntity))
          this.gatherBlock(entity as IInsertEntity, multiply(inside, inner), own, into, depth + 1);
    }
  }

  private gather(entity: IEntity, placing: Mat4, layer: string, into: Map<string, LayerContent>): void {
    const { triangles, lines } = contentOf(entity);
    if (triangles.length === 0 && lines.length === 0) return;
    let content = into.get(layer);
    if (!content) into.set(layer, (content = { triangles: [], lines: [] }));
    for (const point of triangles) content.triangles.push(...transformPoint(placing, point));
    for (const line of lines) content.lines.push(line.map((point) => transformPoint(placing, point)));
    if (!triangles.concat(...lines).every((p) => p.every(Number.isFinite)))
      throw new ModelFileError(`${this.fileName} has coordinates on layer ${layer} that are not numbers.`);
  }
}

const at = ({ x, y, z }: IPoint): Vec3 => [x, y, z || 0];

/** Triangles, as corners, and lines of one entity. */
function contentOf(entity: IEntity): { triangles: Vec3[]; lines: Vec3[][] } {
  switch (entity.type) {
    case '3DFACE':
      return { triangles: faceTriangles((entity as I3DfaceEntity).vertices.map(at)), lines: [] };
    case 'SOLID': {
      // The third and fourth corner of a SOLID are crossed over.
      const { points, extrusionDirection } = entity as ISolidEntity;
      const [a, b, c, d] = points.map(at);
      return { triangles: raised(faceTriangles([a, b, d ?? c, c].filter((p) => p !== undefined)), extrusionDirection), lines: [] };
    }
    case 'POLYLINE':
      return polylineContent(entity as IPolylineEntity);
    case 'LINE':
      return { triangles: [], lines: [(entity as ILineEntity).vertices.map(at)] };
    case 'LWPOLYLINE': {
      const {
        vertices,
        shape,
        elevation,
        extrusionDirectionX: x,
        extrusionDirectionY: y,
        extrusionDirectionZ: z,
      } = entity as ILwpolylineEntity;
      const points = vertices.map((v) => ({ point: [v.x, v.y, elevation || 0] as Vec3, bulge: v.bulge || 0 }));
      return { triangles: [], lines: [raised(bulged(points, shape), x === undefined ? undefined : { x, y, z })] };
    }
    case 'CIRCLE': {
      const { center, radius } = entity as ICircleEntity;
      return { triangles: [], lines: [arc(at(center), [radius, 0], 1, 0, 2 * Math.PI)] };
    }
    case 'ARC': {
      const {
        center,
        radius,
        startAngle,
        endAngle,
        extrusionDirectionX: x,
        extrusionDirectionY: y,
        extrusionDirectionZ: z,
      } = entity as IArcEntity;
      const line = arc(at(center), [radius, 0], 1, startAngle, endAngle <= startAngle ? endAngle + 2 * Math.PI : endAngle);
      return { triangles: [], lines: [raised(line, x === undefined ? undefined : { x, y, z })] };
    }
    case 'ELLIPSE': {
      const { center, majorAxisEndPoint: major, axisRatio, startAngle, endAngle } = entity as IEllipseEntity;
      return {
        triangles: [],
        lines: [arc(at(center), [major.x, major.y], axisRatio, startAngle, endAngle <= startAngle ? endAngle + 2 * Math.PI : endAngle)],
      };
    }
    case 'SPLINE':
      return { triangles: [], lines: [splinePoints(entity as ISplineEntity)] };
    default:
      return { triangles: [], lines: [] };
  }
}

/** Corners of a face's triangles, without those that have no area. */
function faceTriangles(face: readonly Vec3[]): Vec3[] {
  const out: Vec3[] = [];
  for (let i = 1; i + 1 < face.length; i++) {
    const triangle = [face[0]!, face[i]!, face[i + 1]!];
    if (new Set(triangle.map(String)).size === 3) out.push(...triangle);
  }
  return out;
}

function polylineContent(entity: IPolylineEntity): { triangles: Vec3[]; lines: Vec3[][] } {
  const { vertices } = entity;
  if (entity.isPolyfaceMesh) {
    const corners = vertices.filter((v) => !v.faceA).map(at);
    const faces = vertices.filter((v) => v.faceA).map((v) => [v.faceA, v.faceB, v.faceC, v.faceD].filter((n) => n).map((n) => corners[Math.abs(n) - 1])); // prettier-ignore
    return { triangles: faces.flatMap((face) => faceTriangles(face.filter((p) => p !== undefined))), lines: [] };
  }
  if (entity.is3dPolygonMesh) return { triangles: [], lines: [] };
  const points = vertices.filter((v) => !v.splineControlPoint).map((v) => ({ point: at(v), bulge: v.bulge || 0 }));
  return { triangles: [], lines: [raised(bulged(points, entity.shape), entity.extrusionDirection)] };
}

/** A polyline whose pieces may be arcs: the bulge is the tangent of a quarter of the arc's angle (DXF reference). */
function bulged(points: readonly { point: Vec3; bulge: number }[], closed: boolean): Vec3[] {
  const out: Vec3[] = [];
  const count = closed ? points.length : points.length - 1;
  for (let i = 0; i < count; i++) {
    const { point: a, bulge } = points[i]!;
    const { point: b } = points[(i + 1) % points.length]!;
    out.push(a);
    if (Math.abs(bulge) < 1e-9) continue;
    const angle = 4 * Math.atan(bulge);
    const [cx, cy] = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
    // From the chord's middle to the arc's centre, along the chord's left normal.
    const away = (1 - bulge * bulge) / (4 * bulge);
    const [mx, my] = [cx - away * (b[1] - a[1]), cy + away * (b[0] - a[0])];
    const pieces = Math.max(2, Math.ceil((Math.abs(angle) / (2 * Math.PI)) * ROUND));
    for (let k = 1; k < pieces; k++) {
      const turn = (angle * k) / pieces;
      const [dx, dy] = [a[0] - mx, a[1] - my];
      out.push([mx + dx * Math.cos(turn) - dy * Math.sin(turn), my + dx * Math.sin(turn) + dy * Math.cos(turn), a[2]]);
    }
  }
  const last = closed ? points[0] : points.at(-1);
  if (last) out.push(last.point);
  return out;
}

function arc([x, y, z]: Vec3, [ax, ay]: readonly [number, number], ratio: number, from: number, until: number): Vec3[] {
  const to = Math.min(until, from + 2 * Math.PI);
  const pieces = Math.max(3, Math.ceil((Math.abs(to - from) / (2 * Math.PI)) * ROUND));
  return Array.from({ length: pieces + 1 }, (_, i) => {
    const angle = from + ((to - from) * i) / pieces;
    const [c, s] = [Math.cos(angle), Math.sin(angle) * ratio];
    return [x + ax * c - ay * s, y + ay * c + ax * s, z] as const;
  });
}

/** A B-spline's points by de Boor's recurrence (C. de Boor, A Practical Guide to Splines, 1978); fit points where there are no others. */
function splinePoints({ controlPoints = [], fitPoints = [], knotValues: knots, degreeOfSplineCurve: degree }: ISplineEntity): Vec3[] {
  const points = controlPoints.map(at);
  if (points.length <= degree || !knots || knots.length < points.length + degree + 1) return points.length ? points : fitPoints.map(at);
  const [from, to] = [knots[degree]!, knots[points.length]!];
  const pieces = Math.min(400, Math.max(8, (points.length - degree) * 8));
  return Array.from({ length: pieces + 1 }, (_, i) => {
    const t = from + ((to - from) * i) / pieces;
    let span = degree;
    while (span < points.length - 1 && knots[span + 1]! <= t) span++;
    const d = points.slice(span - degree, span + 1).map((p) => [...p]);
    for (let r = 1; r <= degree; r++)
      for (let j = degree; j >= r; j--) {
        const k = span - degree + j;
        const width = knots[k + degree - r + 1]! - knots[k]!;
        const a = width > 0 ? (t - knots[k]!) / width : 0;
        for (let axis = 0; axis < 3; axis++) d[j]![axis] = (1 - a) * d[j - 1]![axis]! + a * d[j]![axis]!;
      }
    return d[degree] as unknown as Vec3;
  });
}

/** From the coordinates of an entity to the drawing's, by the arbitrary axis rule of the DXF reference. */
function extrusion(direction: IPoint | undefined): Mat4 {
  if (
    !direction ||
    (direction.x === 0 && direction.y === 0 && direction.z > 0) ||
    ![direction.x, direction.y, direction.z].every(Number.isFinite)
  )
    return IDENTITY;
  const length = Math.hypot(direction.x, direction.y, direction.z);
  if (length < 1e-12) return IDENTITY;
  const [nx, ny, nz] = [direction.x / length, direction.y / length, direction.z / length];
  const near = Math.abs(nx) < 1 / 64 && Math.abs(ny) < 1 / 64;
  const raw = near ? [nz, 0, -nx] : [-ny, nx, 0];
  const size = Math.hypot(...raw);
  const [ax, ay, az] = raw.map((v) => v / size) as [number, number, number];
  return [ax, ay, az, 0, ny * az - nz * ay, nz * ax - nx * az, nx * ay - ny * ax, 0, nx, ny, nz, 0, 0, 0, 0, 1];
}

function raised(points: readonly Vec3[], direction: IPoint | undefined): Vec3[] {
  const turn = extrusion(direction);
  return turn === IDENTITY ? [...points] : points.map((p) => transformPoint(turn, p));
}

/** Lines as level bands, in metres: loose triangles. */
function bands(lines: readonly (readonly Vec3[])[]): number[] {
  const out: number[] = [];
  for (const line of lines)
    for (let i = 0; i + 1 < line.length; i++) {
      const [a, b] = [line[i]!, line[i + 1]!];
      const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
      if (length < 1e-6) continue;
      const [x, y] = [(-(b[1] - a[1]) / length) * (LINE_M / 2), ((b[0] - a[0]) / length) * (LINE_M / 2)];
      const [p, q, r, s] = [[a[0] - x, a[1] - y, a[2]], [b[0] - x, b[1] - y, b[2]], [b[0] + x, b[1] + y, b[2]], [a[0] + x, a[1] + y, a[2]]] as const; // prettier-ignore
      out.push(...p, ...q, ...r, ...p, ...r, ...s);
    }
  return out;
}

function reach(contents: readonly LayerContent[]): [number[], number[]] {
  const [low, high] = [[Infinity, Infinity, Infinity], [-Infinity, -Infinity, -Infinity]]; // prettier-ignore
  const see = (v: number, k: number) => {
    low[k] = Math.min(low[k]!, v);
    high[k] = Math.max(high[k]!, v);
  };
  for (const { triangles, lines } of contents) {
    triangles.forEach((v, i) => {
      see(v, i % 3);
    });
    for (const line of lines) for (const point of line) point.forEach(see);
  }
  return [low, high];
}

/** A round place near what lies far out, metres; the origin itself otherwise. */
function farOrigin(contents: readonly LayerContent[], metres: number): Vec3 {
  const [low, high] = reach(contents);
  const middle = low.map((v, k) => ((v + high[k]!) / 2) * metres);
  if (!middle.some((v) => Math.abs(v) > FAR_M)) return [0, 0, 0];
  return middle.map((v) => (Math.abs(v) > FAR_M ? Math.round(v / 1000) * 1000 : 0)) as unknown as Vec3;
}
