import { createHash } from 'node:crypto';
import type { Point2 } from '../core/geometry/shapes';
import { invert, transformDirection, transformPoint, translation, type Mat4 } from '../core/geometry/mat4';
import { isShown } from '../core/model/model';
import type { Luminaire } from '../core/model/schema';
import { storedMesh, type AuthorElement, type WallSolid } from './model/kit';
import type { AuthorModel } from './model/build';

/** Writes the author's model as IFC4 (ISO 10303-21 text): what it contains, no more. Walls keep their openings as voids. */

const ENTITY: Readonly<Record<string, string>> = {
  Wall: 'IFCWALL', Slab: 'IFCSLAB', Roof: 'IFCROOF', Column: 'IFCCOLUMN', Beam: 'IFCBEAM', Member: 'IFCMEMBER', Door: 'IFCDOOR', Window: 'IFCWINDOW',
  Covering: 'IFCCOVERING', Furniture: 'IFCFURNITURE', LightFixture: 'IFCLIGHTFIXTURE', PipeSegment: 'IFCPIPESEGMENT', Railing: 'IFCRAILING',
  StairFlight: 'IFCSTAIRFLIGHT', Pile: 'IFCPILE', GeographicElement: 'IFCGEOGRAPHICELEMENT', Site: 'IFCGEOGRAPHICELEMENT',
}; // prettier-ignore
/** Attributes after Tag, by entity, that must be written though they say nothing. */
const TAIL: Readonly<Record<string, string>> = {
  IFCWALL: ',.NOTDEFINED.', IFCSLAB: ',.NOTDEFINED.', IFCROOF: ',.NOTDEFINED.', IFCCOLUMN: ',.NOTDEFINED.', IFCBEAM: ',.NOTDEFINED.', IFCMEMBER: ',.NOTDEFINED.',
  IFCDOOR: ',$,$,.NOTDEFINED.,.NOTDEFINED.,$', IFCWINDOW: ',$,$,.NOTDEFINED.,.NOTDEFINED.,$', IFCCOVERING: ',.NOTDEFINED.', IFCFURNITURE: ',.NOTDEFINED.',
  IFCLIGHTFIXTURE: ',.NOTDEFINED.', IFCPIPESEGMENT: ',.NOTDEFINED.', IFCRAILING: ',.NOTDEFINED.', IFCSTAIRFLIGHT: ',$,$,$,$,.NOTDEFINED.', IFCPILE: ',.NOTDEFINED.,$',
  IFCGEOGRAPHICELEMENT: ',.NOTDEFINED.',
}; // prettier-ignore

const ALPHABET = '0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz_$';

/** A GlobalId that stays the same for the same element: 128 bits of a hash in the standard's base 64. */
export function globalIdOf(text: string): string {
  let n = BigInt(`0x${createHash('md5').update(text).digest('hex')}`);
  let out = '';
  for (let i = 0; i < 22; i++) {
    out = ALPHABET[Number(n & 63n)]! + out;
    n >>= 6n;
  }
  return out;
}

/** Text as ISO 10303-21 writes it: quotes doubled, everything beyond ASCII as \X2\ hexadecimal. */
function text(value: string): string {
  const coded = value.replace(/\\/g, '\\\\').replace(/'/g, "''").replace(/[^\x20-\x7e]+/g, (run) => `\\X2\\${[...Array(run.length).keys()].map((i) => run.charCodeAt(i).toString(16).toUpperCase().padStart(4, '0')).join('')}\\X0\\`); // prettier-ignore
  return `'${coded}'`;
}

const real = (n: number): string => {
  const s = (Math.abs(n) < 1e-9 ? 0 : Number(n.toFixed(6))).toString();
  return s.includes('.') || s.includes('e') ? s.replace('e', 'E') : `${s}.`;
};

class StepWriter {
  private readonly lines: string[] = [];
  private readonly known = new Map<string, string>();

  add(line: string): string {
    this.lines.push(`#${String(this.lines.length + 1)}=${line};`);
    return `#${String(this.lines.length)}`;
  }

  /** The same line is written once. */
  once(line: string): string {
    let id = this.known.get(line);
    if (!id) this.known.set(line, (id = this.add(line)));
    return id;
  }

  point(...c: number[]): string {
    return this.once(`IFCCARTESIANPOINT((${c.map(real).join(',')}))`);
  }

  direction(...c: number[]): string {
    return this.once(`IFCDIRECTION((${c.map(real).join(',')}))`);
  }

  toString(): string {
    return this.lines.join('\n');
  }
}

export function writeIfc(model: AuthorModel, now = '2026-01-01T00:00:00'): string {
  const w = new StepWriter();
  const { site } = model;
  if (!site) throw new Error('the model has no site');
  const owner = '$';
  const units = ['LENGTHUNIT.,$,.METRE', 'AREAUNIT.,$,.SQUARE_METRE', 'VOLUMEUNIT.,$,.CUBIC_METRE', 'PLANEANGLEUNIT.,$,.RADIAN'].map((u) =>
    w.add(`IFCSIUNIT(*,.${u}.)`),
  );
  const unitAssignment = w.add(`IFCUNITASSIGNMENT((${units.join(',')}))`);
  const origin = w.point(0, 0, 0);
  const world = w.add(`IFCAXIS2PLACEMENT3D(${origin},$,$)`);
  const north = (site.trueNorthDeg * Math.PI) / 180;
  const context = w.add(`IFCGEOMETRICREPRESENTATIONCONTEXT($,'Model',3,1.E-05,${world},${w.direction(Math.sin(north), Math.cos(north))})`);
  const body = w.add(`IFCGEOMETRICREPRESENTATIONSUBCONTEXT('Body','Model',*,*,*,*,${context},$,.MODEL_VIEW.,$)`);
  const project = w.add(`IFCPROJECT('${globalIdOf('project')}',${owner},'Marram Landing',$,$,$,$,(${context}),${unitAssignment})`);
  const place = (relativeTo: string, axis: string) => w.add(`IFCLOCALPLACEMENT(${relativeTo},${axis})`);
  const sitePlacement = place('$', world);
  const angle = (deg: number) => {
    const total = Math.round(Math.abs(deg) * 3600e6);
    const s = deg < 0 ? -1 : 1;
    return `(${[Math.floor(total / 3600e6), Math.floor(total / 60e6) % 60, Math.floor(total / 1e6) % 60, total % 1e6].map((n) => n * s).join(',')})`;
  };
  const siteId = w.add(
    `IFCSITE('${globalIdOf('site')}',${owner},${text(site.name)},$,$,${sitePlacement},$,$,.ELEMENT.,${angle(site.latitudeDeg)},${angle(site.longitudeDeg)},${real(site.elevationM)},$,$)`,
  );
  const buildingPlacement = place(sitePlacement, world);
  const building = w.add(`IFCBUILDING('${globalIdOf('building')}',${owner},'Ferry terminal',$,$,${buildingPlacement},$,$,.ELEMENT.,$,$,$)`);
  const storeyNames = [...new Set([...model.elements.values()].map((e) => e.storey))];
  const storeyPlacement = place(buildingPlacement, world);
  const storeys = new Map(
    storeyNames.map((name) => [
      name,
      w.add(
        `IFCBUILDINGSTOREY('${globalIdOf(`storey ${name}`)}',${owner},${text(name)},$,$,${storeyPlacement},$,$,.ELEMENT.,${real(name === 'Roof' ? 4.2 : 0)})`,
      ),
    ]),
  );
  aggregate(project, [siteId]);
  aggregate(siteId, [building]);
  aggregate(building, [...storeys.values()]);

  function aggregate(whole: string, parts: readonly string[]): void {
    w.add(`IFCRELAGGREGATES('${globalIdOf(`aggregate ${whole} ${parts.join()}`)}',${owner},$,$,${whole},(${parts.join(',')}))`);
  }

  const materials = new Map([...model.materials.values()].map((m) => [m.id, w.add(`IFCMATERIAL(${text(m.name)},$,$)`)]));
  const style = (material: string): string => {
    const m = model.materials.get(material)!;
    const rgb = w.once(`IFCCOLOURRGB($,${m.colour.map(real).join(',')})`);
    const rendering = w.once(`IFCSURFACESTYLERENDERING(${rgb},${real(1 - m.opacity)},$,$,$,$,$,$,.NOTDEFINED.)`);
    return w.once(`IFCSURFACESTYLE(${text(m.name)},.BOTH.,(${rendering}))`);
  };
  /** A mesh in a colour is written once, however often it is placed. */
  const faceSets = new Map<string, string>();
  const faceSet = (mesh: string, material: string): string => {
    const key = `${mesh} ${material}`;
    let id = faceSets.get(key);
    if (!id) {
      const { positions, indices } = storedMesh(mesh)!.mesh;
      const points: string[] = [];
      for (let i = 0; i < positions.length; i += 3)
        points.push(`(${real(positions[i]!)},${real(positions[i + 1]!)},${real(positions[i + 2]!)})`);
      const faces: string[] = [];
      for (let i = 0; i < indices.length; i += 3)
        faces.push(`(${String(indices[i]! + 1)},${String(indices[i + 1]! + 1)},${String(indices[i + 2]! + 1)})`);
      id = w.add(`IFCTRIANGULATEDFACESET(${w.add(`IFCCARTESIANPOINTLIST3D((${points.join(',')}))`)},$,$,(${faces.join(',')}),$)`);
      w.add(`IFCSTYLEDITEM(${id},(${style(material)}),$)`);
      faceSets.set(key, id);
    }
    return id;
  };
  const extrusion = (outline: readonly Point2[], start: number, depth: number): string => {
    const points = [...outline, outline[0]!].map(([x, z]) => w.point(x, z));
    const profile = w.add(`IFCARBITRARYCLOSEDPROFILEDEF(.AREA.,$,${w.add(`IFCPOLYLINE((${points.join(',')}))`)})`);
    // The outline lies in the x-z plane of the wall and is drawn out along +y, which is the profile's -z.
    const position = w.add(`IFCAXIS2PLACEMENT3D(${w.point(0, start, 0)},${w.direction(0, -1, 0)},${w.direction(1, 0, 0)})`);
    return w.add(`IFCEXTRUDEDAREASOLID(${profile},${position},${w.direction(0, 0, -1)},${real(depth)})`);
  };
  const represent = (items: readonly string[], name: string, kind: string) =>
    w.add(`IFCSHAPEREPRESENTATION(${body},'${name}','${kind}',(${items.join(',')}))`);
  const shape = (items: readonly string[], kind: string, light?: string) =>
    w.add(
      `IFCPRODUCTDEFINITIONSHAPE($,$,(${[...(items.length > 0 ? [represent(items, 'Body', kind)] : []), ...(light ? [represent([light], 'Light', 'LightSource')] : [])].join(',')}))`,
    );
  const lamps = new Map([...model.luminaires.values()].flatMap((lamp) => (lamp.element === null ? [] : [[lamp.element, lamp]])));

  const contained = new Map<string, string[]>();
  const uses = new Map<string, string[]>();
  const hidden = new Set(model.presentation.hiddenLayers);
  for (const element of model.elements.values()) {
    const entity = ENTITY[element.class];
    if (!entity || !isShown(element, model.presentation, hidden)) continue;
    const placement = place(storeyPlacement, axisOf(w, element.transform));
    const id = element.wall
      ? wall(element, element.wall, placement)
      : product(
          entity,
          element,
          placement,
          shape(
            element.parts.map((p) => faceSet(p.mesh, p.material)),
            'Tessellation',
            lamps.has(element.id) ? lightSource(w, lamps.get(element.id)!, element.transform) : undefined,
          ),
        );
    push(contained, element.storey, id);
    push(uses, element.parts[0]!.material, id);
  }

  for (const lamp of model.luminaires.values()) {
    if (lamp.element !== null) continue;
    const light = lightSource(w, lamp, translation(0, 0, 0));
    push(contained, 'Site', product('IFCLIGHTFIXTURE', lamp, storeyPlacement, shape([], '', light)));
  }

  function product(entity: string, element: Pick<AuthorElement, 'id' | 'name'>, placement: string, representation: string): string {
    return w.add(
      `${entity}('${globalIdOf(element.id)}',${owner},${text(element.name)},$,$,${placement},${representation},${text(element.id)}${TAIL[entity]!})`,
    );
  }

  function wall(element: AuthorElement, solid: WallSolid, placement: string): string {
    const item = extrusion(solid.outline, 0, solid.depthM);
    w.add(`IFCSTYLEDITEM(${item},(${style(element.parts[0]!.material)}),$)`);
    const id = product('IFCWALL', element, placement, shape([item], 'SweptSolid'));
    for (const [k, hole] of solid.holes.entries()) {
      const key = `${element.id} opening ${String(k)}`;
      const void_ = shape([extrusion(hole, -0.05, solid.depthM + 0.1)], 'SweptSolid');
      const opening = w.add(
        `IFCOPENINGELEMENT('${globalIdOf(key)}',${owner},${text(`Opening in ${element.name}`)},$,$,${place(placement, world)},${void_},$,.OPENING.)`,
      );
      w.add(`IFCRELVOIDSELEMENT('${globalIdOf(`${key} void`)}',${owner},$,$,${id},${opening})`);
    }
    return id;
  }

  for (const [storey, ids] of contained)
    w.add(`IFCRELCONTAINEDINSPATIALSTRUCTURE('${globalIdOf(`in ${storey}`)}',${owner},$,$,(${ids.join(',')}),${storeys.get(storey)!})`);
  for (const [material, ids] of uses)
    w.add(`IFCRELASSOCIATESMATERIAL('${globalIdOf(`of ${material}`)}',${owner},$,$,(${ids.join(',')}),${materials.get(material)!})`);
  space(w, body, storeys.get('Ground floor')!, storeyPlacement, 'Waiting hall', [0.2, 0.2, 16, 10.8]);
  space(w, body, storeys.get('Ground floor')!, storeyPlacement, 'Café', [16, 0.2, 23.8, 10.8]);

  return `ISO-10303-21;
HEADER;
FILE_DESCRIPTION(('ViewDefinition [ReferenceView]'),'2;1');
FILE_NAME('marram-landing.ifc','${now}',('Simulated author'),(''),'Diaphane simulated author','Diaphane simulated author','');
FILE_SCHEMA(('IFC4'));
ENDSEC;
DATA;
${w.toString()}
ENDSEC;
END-ISO-10303-21;
`;
}

function space(
  w: StepWriter,
  body: string,
  storey: string,
  placement: string,
  name: string,
  [x0, y0, x1, y1]: readonly [number, number, number, number],
): void {
  const points = [[x0, y0], [x1, y0], [x1, y1], [x0, y1], [x0, y0]].map(([x, y]) => w.point(x!, y!)); // prettier-ignore
  const profile = w.add(`IFCARBITRARYCLOSEDPROFILEDEF(.AREA.,$,${w.add(`IFCPOLYLINE((${points.join(',')}))`)})`);
  const solid = w.add(
    `IFCEXTRUDEDAREASOLID(${profile},${w.add(`IFCAXIS2PLACEMENT3D(${w.point(0, 0, 0)},$,$)`)},${w.direction(0, 0, 1)},3.9)`,
  );
  const representation = w.add(
    `IFCPRODUCTDEFINITIONSHAPE($,$,(${w.add(`IFCSHAPEREPRESENTATION(${body},'Body','SweptSolid',(${solid}))`)}))`,
  );
  const id = w.add(
    `IFCSPACE('${globalIdOf(`space ${name}`)}',$,${text(name)},$,$,${w.add(`IFCLOCALPLACEMENT(${placement},${w.add(`IFCAXIS2PLACEMENT3D(${w.point(0, 0, 0)},$,$)`)})`)},${representation},${text(name)},.ELEMENT.,.INTERNAL.,$)`,
  );
  w.add(`IFCRELAGGREGATES('${globalIdOf(`aggregate space ${name}`)}',$,$,$,${storey},(${id}))`);
}

/** A luminaire in the frame of what carries it: its flux, colour and a distribution whose intensity is half at half the beam's angle. */
function lightSource(w: StepWriter, lamp: Luminaire, carrier: Mat4): string {
  const into = invert(carrier)!;
  const [x, y, z] = transformDirection(into, lamp.direction);
  const length = Math.hypot(x, y, z);
  // Angles are counted from the frame's own way down.
  const up = [-x / length, -y / length, -z / length] as const;
  const side = Math.abs(up[0]) < 0.9 ? ([1, 0, 0] as const) : ([0, 1, 0] as const);
  const place = transformPoint(into, lamp.position);
  const axes = w.add(`IFCAXIS2PLACEMENT3D(${w.point(...place)},${w.direction(...up)},${w.direction(...side)})`);
  const half = (lamp.beamDeg * Math.PI) / 360;
  const around = lamp.beamDeg >= 360;
  const perLm = 1 / (2 * Math.PI * (1 - Math.cos(half)));
  const [angles, intensities] = around ? [[0, Math.PI], [perLm, perLm]] : [[0, half, Math.min(Math.PI, 2 * half)], [perLm, perLm / 2, 0]]; // prettier-ignore
  const list = (values: readonly number[]) => `(${values.map(real).join(',')})`;
  const data = w.once(`IFCLIGHTDISTRIBUTIONDATA(0.,${list(angles)},${list(intensities)})`);
  const distribution = w.once(`IFCLIGHTINTENSITYDISTRIBUTION(.TYPE_C.,(${data}))`);
  const white = w.once('IFCCOLOURRGB($,1.,1.,1.)');
  return w.add(
    `IFCLIGHTSOURCEGONIOMETRIC(${text(lamp.name)},${white},$,${real(lamp.dim)},${axes},$,${real(lamp.colourTemperatureK)},${real(lamp.fluxLm)},.LIGHTEMITTINGDIODE.,${distribution})`,
  );
}

/** Placement axes of a rigid transform; a uniform scale is not carried by IFC placements and is left out. */
function axisOf(w: StepWriter, m: readonly number[]): string {
  const s = Math.hypot(m[0]!, m[1]!, m[2]!) || 1;
  return w.add(
    `IFCAXIS2PLACEMENT3D(${w.point(m[12]!, m[13]!, m[14]!)},${w.direction(m[8]! / s, m[9]! / s, m[10]! / s)},${w.direction(m[0]! / s, m[1]! / s, m[2]! / s)})`,
  );
}

function push<K>(map: Map<K, string[]>, key: K, value: string): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}
