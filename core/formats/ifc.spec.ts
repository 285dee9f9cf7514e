import type { IfcAPI } from 'web-ifc';
import { beforeAll, describe, expect, it } from 'vitest';
import { checkStepText, readIfc } from './ifc';
import { startIfc } from './ifc-parser';
import { readIfcProperties } from './ifc-properties';
import { nearOrigin } from './local-origin';
import { ModelFileError } from './model-file';
import { transformPoint } from '../geometry/mat4';
import { decodeMesh, emptyBounds, meshBounds, meshVolume, type Bounds } from '../geometry/mesh';
import { bytes, FOOT, ifcText, METRE, MILLIMETRE, near, triple, type IfcOptions } from './ifc-text';
import { isShown } from '../model/model';

/** Small IFC files written here line by line, so that what must come out is known: units, placements, repeats, site. */

let api: IfcAPI;
beforeAll(async () => {
  api = await startIfc();
});

const read = (options?: IfcOptions) => readIfc(api, bytes(ifcText(options)), 'test.ifc');

/** World bounds and volume of one element. */
function bodyOf(imported: ReturnType<typeof read>, id = '0000000000000000000008'): Bounds & { volume: number } {
  const element = imported.model.elements.get(id)!;
  const out = { ...emptyBounds(), volume: 0 };
  for (const part of element.parts) {
    const mesh = decodeMesh(imported.meshes.get(part.mesh)!);
    if (typeof mesh === 'string') throw new Error(mesh);
    out.volume += Math.abs(meshVolume(mesh));
    for (let i = 0; i < mesh.positions.length; i += 3)
      transformPoint(element.transform, [mesh.positions[i]!, mesh.positions[i + 1]!, mesh.positions[i + 2]!]).forEach((v, axis) => {
        out.min[axis] = Math.min(out.min[axis]!, v);
        out.max[axis] = Math.max(out.max[axis]!, v);
      });
    expect(meshBounds(mesh.positions).min.every(Number.isFinite)).toBe(true);
  }
  return out;
}
describe('units', () => {
  it('are brought to metres from metres, millimetres and feet', () => {
    near(bodyOf(read({ unit: METRE, size: [2, 3, 4] })).max, [2, 3, 4]);
    near(bodyOf(read({ unit: MILLIMETRE, size: [2000, 3000, 4000] })).max, [2, 3, 4]);
    near(bodyOf(read({ unit: FOOT, size: [10, 20, 5] })).max, [3.048, 6.096, 1.524]);
  });

  it('apply to places as to sizes', () => {
    const body = bodyOf(read({ unit: MILLIMETRE, size: [1000, 1000, 1000], at: [5000, -2500, 300] }));
    near(body.min, [5, -2.5, 0.3]);
    near(body.max, [6, -1.5, 1.3]);
  });
});

const CONVERSION = `#60=IFCPROJECTEDCRS('EPSG:27700',$,$,$,$,$,$);
#61=IFCMAPCONVERSION(#24,#60,412000.25,5310000.5,4.,0.8660254,0.5,$);`;

describe('presentation layers', () => {
  it('are the layers of elements, by representation, by item and by mapped item; without one the class is', () => {
    const layerOf = (more: string) => read({ more }).model.elements.get('0000000000000000000008')!.layer;
    expect(layerOf('')).toBe('Column');
    expect(layerOf("#70=IFCPRESENTATIONLAYERASSIGNMENT('A-STRUCTURE',$,(#49),$);")).toBe('A-STRUCTURE');
    expect(layerOf("#70=IFCPRESENTATIONLAYERASSIGNMENT('St\\S\\|tzen',$,(#48),$);")).toBe('Stützen');
    const { model } = read({
      more: `#70=IFCREPRESENTATIONMAP(#22,#49);
#71=IFCMAPPEDITEM(#70,#72);
#72=IFCCARTESIANTRANSFORMATIONOPERATOR3D($,$,#21,$,$);
#73=IFCSHAPEREPRESENTATION(#24,'Body','MappedRepresentation',(#71));
#74=IFCPRODUCTDEFINITIONSHAPE($,$,(#73));
#75=IFCLOCALPLACEMENT(#30,#22);
#76=IFCFURNITURE('0000000000000000000M01',$,'Stool',$,$,#75,#74,$,$);
#77=IFCPRESENTATIONLAYERWITHSTYLE('Loose things',$,(#49),$,.F.,.F.,.F.,());`,
    });
    expect(model.elements.get('0000000000000000000M01')!.layer).toBe('Loose things');
    expect(model.presentation.hiddenLayers).toEqual(['Loose things']);
  });
});

describe('options and phases in property sets', () => {
  const post = (n: number, name: string, more: string) => `#${String(n)}0=IFCLOCALPLACEMENT(#30,#22);
#${String(n)}1=IFCCOLUMN('00000000000000000000${String(n)}',$,'${name}',$,$,#${String(n)}0,#50,$,$);
${more
  .split(';')
  .filter(Boolean)
  .map((line, k) => `#${String(n)}${String(k + 2)}=${line.replaceAll('%', `#${String(n)}`)};`)
  .join('\n')}`;
  let last = 100;
  const guid = () => `0000000000000000000${String(++last)}`;
  const set = (property: string) =>
    `${property};IFCPROPERTYSET('${guid()}',$,'Set',$,(%2));IFCRELDEFINESBYPROPERTIES('${guid()}',$,$,$,(%1),%3)`;
  const shownIn = (model: ReturnType<typeof read>['model'], phase: string | null, option: string | null = null) =>
    [...model.elements.values()]
      .filter((e) => isShown(e, { ...model.presentation, phase, option }, new Set()))
      .map((e) => e.name)
      .sort();

  it('are read from the standard’s Status: what is new comes, what is demolished goes', () => {
    const status = (value: string) => set(`IFCPROPERTYENUMERATEDVALUE('Status',$,(IFCLABEL('${value}')),$)`);
    const { model } = read({
      more: [post(80, 'old', status('EXISTING')), post(81, 'going', status('DEMOLISH')), post(82, 'coming', status('NEW'))].join('\n'),
    });
    expect(model.presentation).toMatchObject({ phases: [{ id: 'EXISTING' }, { id: 'NEW' }], phase: 'NEW', options: [] });
    expect(shownIn(model, 'EXISTING')).toEqual(['Post', 'going', 'old']);
    expect(shownIn(model, 'NEW')).toEqual(['Post', 'coming', 'old']);
  });

  it('are read from tools’ own words, in order of time; the first option is active', () => {
    const single = (name: string, value: string) => set(`IFCPROPERTYSINGLEVALUE('${name}',$,IFCLABEL('${value}'),$)`);
    const { model } = read({
      more: [
        post(80, 'a', single('Bauphase', 'Bauabschnitt 10')), post(81, 'b', single('Bauphase', 'Bauabschnitt 2')), post(82, 'c', single('Bauphase', 'Bestand')),
        post(83, 'd', single('Design Option', 'Flat roof')), post(84, 'e', single('Design Option', 'Folded roof')), post(85, 'f', single('Design Option', 'Main Model')),
      ].join('\n'),
    }); // prettier-ignore
    expect(model.presentation.phases.map((p) => p.name)).toEqual(['Bestand', 'Bauabschnitt 2', 'Bauabschnitt 10']);
    expect(model.presentation.option).toBe('Flat roof');
    expect(shownIn(model, 'Bauabschnitt 2', 'Flat roof')).toEqual(['Post', 'b', 'c', 'd', 'f']);
  });

  it('are found however the lines are written, and where their words stand in a text too', () => {
    const odd = (name: string, value: string) => set(`IFCPROPERTYSINGLEVALUE ( '${name}' ,$,IFCLABEL('${value}'),$)`);
    const phases = (...more: string[]) => read({ more: more.join('\n') }).model.presentation.phases.map(({ name }) => name);
    expect(phases(post(80, 'a', odd('Phase', 'One')), post(81, 'b', odd('PHASE', 'Two')))).toEqual(['One', 'Two']);
    // A letter beyond ASCII, as the exchange format writes it (ISO 10303-21).
    const french = 'Phase de cr\\X2\\00E9\\X0\\ation';
    expect(phases(post(80, 'a', odd(french, 'One')), post(81, 'b', odd(french, 'Two')))).toEqual(['One', 'Two']);
    // A name that looks like the beginning of a line.
    expect(phases(post(80, 'IFCPROPERTYSINGLEVALUE(', odd('Phase', 'One')), post(81, 'b', odd('Phase', 'Two')))).toEqual(['One', 'Two']);
  });

  it('are nothing to choose from where all elements say the same', () => {
    const { model } = read({ more: post(80, 'x', set("IFCPROPERTYSINGLEVALUE('Status',$,IFCLABEL('NEW'),$)")) });
    expect(model.presentation).toMatchObject({ phases: [], phase: null });
  });
});

describe('IFC4x3', () => {
  it('is read like IFC4: shape, storey, material, map', () => {
    for (const schema of ['IFC4X3', 'IFC4X3_ADD2']) {
      const file4x3 = read({ schema, size: [2, 3, 4], more: CONVERSION });
      near(bodyOf(file4x3).max, [2, 3, 4]);
      expect([...file4x3.model.elements.values()][0]).toMatchObject({ class: 'Column', storey: 'Upper floor' });
      expect([...file4x3.model.materials.values()][0]!.name).toBe('Eiche massiv');
      expect(file4x3.model.basePoint!.eastM).toBe(412_000.25);
    }
  });
});

describe('a map', () => {
  it('says where the origin lies and how the axes are turned', () => {
    const { model } = read({ more: CONVERSION });
    expect(model.basePoint).toMatchObject({ eastM: 412_000.25, northM: 5_310_000.5, heightM: 4 });
    expect(model.basePoint!.turnDeg).toBeCloseTo(30, 5);
    expect(read({ unit: MILLIMETRE, more: CONVERSION.replace('412000.25', '412000250.') }).model.basePoint!.eastM).toBeCloseTo(
      412_000.25,
      6,
    );
    expect(read().model.basePoint).toBeUndefined();
  });

  it('that is put into coordinates themselves is taken out again, to a tenth of a millimetre', () => {
    const far = read({ size: [2, 3, 4], at: [412_345.678, 5_310_123.456, 7.5] });
    const model = nearOrigin(far.model, undefined);
    expect(model.basePoint).toEqual({ eastM: 412_000, northM: 5_310_000, heightM: 0, turnDeg: 0 });
    const body = bodyOf({ ...far, model });
    [345.678, 123.456, 7.5].forEach((v, k) => { expect(Math.abs(body.min[k]! - v)).toBeLessThan(1e-4); }); // prettier-ignore
    // A later export that has grown elsewhere comes to the same place.
    const later = read({ size: [2, 3, 4], at: [413_900, 5_310_123.456, 7.5] });
    expect(nearOrigin(later.model, model.basePoint).basePoint).toEqual(model.basePoint);
  });
});

describe('properties', () => {
  const SETS = `#70=IFCPROPERTYSINGLEVALUE('FireRating',$,IFCLABEL('REI 60'),$);
#71=IFCPROPERTYSINGLEVALUE('LoadBearing',$,IFCBOOLEAN(.T.),$);
#72=IFCPROPERTYSET('00000000000000000000P1',$,'Pset_ColumnCommon',$,(#70,#71));
#73=IFCRELDEFINESBYPROPERTIES('00000000000000000000P2',$,$,$,(#51),#72);
#74=IFCQUANTITYLENGTH('Length',$,$,4.,$);
#75=IFCELEMENTQUANTITY('00000000000000000000P3',$,'Qto_ColumnBaseQuantities',$,$,(#74));
#76=IFCRELDEFINESBYPROPERTIES('00000000000000000000P4',$,$,$,(#51),#75);
#77=IFCCLASSIFICATION($,$,$,'Trade list',$,$,$);
#78=IFCCLASSIFICATIONREFERENCE($,'C-12','Columns',#77,$,$);
#79=IFCRELASSOCIATESCLASSIFICATION('00000000000000000000P5',$,$,$,(#51),#78);
#80=IFCPROPERTYENUMERATEDVALUE('Status',$,(IFCLABEL('NEW')),$);
#81=IFCPROPERTYSET('00000000000000000000P6',$,'Pset_Type',$,(#80));
#82=IFCCOLUMNTYPE('00000000000000000000P7',$,'Post 120',$,$,(#81),$,$,$,.COLUMN.);
#83=IFCRELDEFINESBYTYPE('00000000000000000000P8',$,$,$,(#51),#82);`;

  it('of an element, of its type, its quantities and classifications', () => {
    expect(readIfcProperties(api, bytes(ifcText({ more: SETS })))).toEqual({
      '0000000000000000000008': {
        groups: [
          { name: 'Pset_ColumnCommon', rows: [['FireRating', 'REI 60'], ['LoadBearing', 'yes']] },
          { name: 'Qto_ColumnBaseQuantities', rows: [['Length', '4']] },
          { name: 'Pset_Type (type)', rows: [['Status', 'NEW']] },
        ],
        classifications: [{ system: 'Trade list', code: 'C-12', name: 'Columns' }],
      },
    });
    expect(readIfcProperties(api, bytes(ifcText()))).toEqual({});
  }); // prettier-ignore

  it('of a whole are those of its parts too, and of an element without a GlobalId are found by the id that it has here', () => {
    const more = `${SETS}
#90=IFCCOLUMN('0000000000000000000A01',$,'Base plate',$,$,#30,#50,$,$);
#91=IFCRELAGGREGATES('0000000000000000000A02',$,$,$,#51,(#90));
#92=IFCCOLUMN('',$,'Nameless',$,$,#30,#50,$,$);
#93=IFCRELDEFINESBYPROPERTIES('0000000000000000000A03',$,$,$,(#92),#72);`;
    const found = readIfcProperties(api, bytes(ifcText({ more })));
    const { model } = read({ more });
    const byName = new Map([...model.elements.values()].map(({ name, id }) => [name, found[id]]));
    expect(byName.get('Base plate')!.groups.map(({ name }) => name)).toEqual(['Pset_ColumnCommon (of Post)', 'Qto_ColumnBaseQuantities (of Post)', 'Pset_Type (type)']); // prettier-ignore
    expect(byName.get('Base plate')!.classifications).toHaveLength(1);
    expect(byName.get('Nameless')!.groups).toMatchObject([{ name: 'Pset_ColumnCommon' }]);
  });
});

describe('placement', () => {
  it('stays upright: z of the file is z of the model', () => {
    const body = bodyOf(read({ size: [1, 2, 9] }));
    expect(body.max[2] - body.min[2]).toBeCloseTo(9, 5);
  });

  it('turns as the file says', () => {
    // Own x along the file's y: two by three becomes three by two, on the other side of the y axis.
    const body = bodyOf(read({ size: [2, 3, 1], turn: [0, 1, 0] }));
    near(body.min, [-3, 0, 0]);
    near(body.max, [0, 2, 1]);
  });

  it('keeps the volume of the solid, by the divergence theorem', () => {
    expect(bodyOf(read({ size: [2, 3, 4] })).volume).toBeCloseTo(24, 4);
  });

  it('shares one mesh among repeats of a mapped shape', () => {
    const post = (n: number, x: number) => `
#${String(n)}=IFCCARTESIANPOINT(${triple([x, 0, 0])});
#${String(n + 1)}=IFCAXIS2PLACEMENT3D(#${String(n)},$,$);
#${String(n + 2)}=IFCLOCALPLACEMENT(#30,#${String(n + 1)});
#${String(n + 3)}=IFCMAPPEDITEM(#61,#62);
#${String(n + 4)}=IFCSHAPEREPRESENTATION(#24,'Body','MappedRepresentation',(#${String(n + 3)}));
#${String(n + 5)}=IFCPRODUCTDEFINITIONSHAPE($,$,(#${String(n + 4)}));
#${String(n + 6)}=IFCCOLUMN('00000000000000000000${String(n)}',$,'Repeat ${String(n)}',$,$,#${String(n + 2)},#${String(n + 5)},$,$);`;
    const more = `#60=IFCAXIS2PLACEMENT3D(#21,$,$);
#61=IFCREPRESENTATIONMAP(#60,#49);
#62=IFCCARTESIANTRANSFORMATIONOPERATOR3D($,$,#21,$,$);${post(70, 10)}${post(80, 20)}
#99=IFCRELCONTAINEDINSPATIALSTRUCTURE('00000000000000000000B1',$,$,$,(#76,#86),#33);`;
    const imported = read({ more });
    const [a, b] = ['0000000000000000000070', '0000000000000000000080'].map((id) => imported.model.elements.get(id)!);
    expect(a!.parts[0]!.mesh).toBe(b!.parts[0]!.mesh);
    near(bodyOf(imported, b!.id).min, [20, 0, 0]);
  });
});

describe('what comes along', () => {
  it('is the GlobalId, name, class, storey and material', () => {
    const { model } = read();
    const post = model.elements.get('0000000000000000000008')!;
    expect(post).toMatchObject({ name: 'Post', class: 'Column', storey: 'Upper floor', layer: 'Column' });
    expect(model.materials.get(post.parts[0]!.material)!.name).toBe('Eiche massiv');
  });

  it('is the site: degrees, minutes and seconds, south and west included, and true north clockwise', () => {
    expect(read().model.site).toMatchObject({ name: 'Quay', latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 7.5, trueNorthDeg: 0 });
    const south = read({ latitude: '(-33,-52,-12,-500000)', longitude: '(151,12,36,0)', trueNorth: '(0.5,0.8660254)' }).model.site!;
    expect(south.latitudeDeg).toBeCloseTo(-(33 + 52 / 60 + 12.5 / 3600), 6);
    expect(south.longitudeDeg).toBeCloseTo(151.21, 6);
    expect(south.trueNorthDeg).toBeCloseTo(30, 4);
  });

  it('brings the site’s height to metres, too', () => {
    expect(read().model.site!.elevationM).toBeCloseTo(7.5, 6);
    expect(read({ unit: MILLIMETRE, size: [1000, 1000, 1000] }).model.site!.elevationM).toBeCloseTo(0.0075, 6);
    expect(read({ unit: FOOT }).model.site!.elevationM).toBeCloseTo(7.5 * 0.3048, 6);
  });

  it('is no site where the file gives none, or an impossible one', () => {
    expect(read({ latitude: '$', longitude: '$' }).model.site).toBeUndefined();
    expect(read({ latitude: '(120,0,0)' }).model.site).toBeUndefined();
  });

  it('is the same from IFC2x3', () => {
    const imported = read({ schema: 'IFC2X3' });
    expect(imported.format).toBe('IFC2X3');
    near(bodyOf(imported).max, [2, 3, 4]);
  });
});

describe('text that is no whole IFC file', () => {
  const complaint = (text: string) => {
    try {
      checkStepText(bytes(text), 'f.ifc');
      return undefined;
    } catch (error) {
      expect(error).toBeInstanceOf(ModelFileError);
      return (error as ModelFileError).message;
    }
  };

  it('is told from a sound one before the parser sees it', () => {
    expect(complaint(ifcText())).toBeUndefined();
    expect(complaint(`\n  ${ifcText()}`)).toBeUndefined();
    expect(complaint('PK\u0003\u0004')).toContain('does not begin with ISO-10303-21');
    expect(complaint(ifcText().slice(0, -30))).toContain('is cut off');
    expect(complaint(ifcText({ schema: 'IFC5' }))).toContain('the schema IFC5; IFC2x3, IFC4 and IFC4x3 are read');
    expect(complaint(ifcText().replace(/FILE_SCHEMA.*/, ''))).toContain('the schema (none)');
  });
});
