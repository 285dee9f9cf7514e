import { IfcAPI, LogLevel } from 'web-ifc';
import { beforeAll, describe, expect, it } from 'vitest';
import { checkStepText, readIfc } from '../../core/formats/ifc';
import { readIfcProperties } from '../../core/formats/ifc-properties';
import { nearOrigin } from '../../core/formats/local-origin';
import { ModelFileError } from '../../core/formats/model-file';
import { transformPoint } from '../../core/geometry/mat4';
import { decodeMesh, emptyBounds, meshBounds, meshVolume, type Bounds } from '../../core/geometry/mesh';
import { isShown } from '../../core/model/model';

/** Small IFC files written here line by line, so that what must come out is known: units, placements, repeats, site. */

let api: IfcAPI;
beforeAll(async () => {
  api = new IfcAPI();
  await api.Init();
  api.SetLogLevel(LogLevel.LOG_LEVEL_OFF);
});

interface Options {
  schema?: string;
  /** Lines #10 and following that end in the length unit #10. */
  unit?: string;
  /** Sides of the box and place of its element, in file units. */
  size?: [number, number, number];
  at?: [number, number, number];
  /** Direction of the element's own x. */
  turn?: [number, number, number];
  trueNorth?: string;
  latitude?: string;
  longitude?: string;
  more?: string;
}

const METRE = '#10=IFCSIUNIT(*,.LENGTHUNIT.,$,.METRE.);';
const MILLIMETRE = '#10=IFCSIUNIT(*,.LENGTHUNIT.,.MILLI.,.METRE.);';
const FOOT = `#11=IFCSIUNIT(*,.LENGTHUNIT.,$,.METRE.);
#12=IFCMEASUREWITHUNIT(IFCLENGTHMEASURE(0.3048),#11);
#13=IFCDIMENSIONALEXPONENTS(1,0,0,0,0,0,0);
#10=IFCCONVERSIONBASEDUNIT(#13,.LENGTHUNIT.,'FOOT',#12);`;

const real = (n: number) => (Number.isInteger(n) ? `${String(n)}.` : String(n));
const triple = (v: readonly number[]) => `(${v.map(real).join(',')})`;

/** One proxy element that is an extruded box in a storey of a building on a site. */
function file(options: Options = {}): string {
  const { schema = 'IFC4', unit = METRE, size = [2, 3, 4], at = [0, 0, 0], turn = [1, 0, 0], more = '' } = options;
  const { trueNorth = '$', latitude = '(57,12,0,0)', longitude = '(-4,-6,0,0)' } = options;
  return `ISO-10303-21;
HEADER;
FILE_DESCRIPTION((''),'2;1');
FILE_NAME('','',(''),(''),'','','');
FILE_SCHEMA(('${schema}'));
ENDSEC;
DATA;
${unit}
#20=IFCUNITASSIGNMENT((#10));
#21=IFCCARTESIANPOINT((0.,0.,0.));
#22=IFCAXIS2PLACEMENT3D(#21,$,$);
${trueNorth === '$' ? '' : `#23=IFCDIRECTION(${trueNorth});`}
#24=IFCGEOMETRICREPRESENTATIONCONTEXT($,'Model',3,1.E-5,#22,${trueNorth === '$' ? '$' : '#23'});
#25=IFCPROJECT('0000000000000000000001',$,'P',$,$,$,$,(#24),#20);
#30=IFCLOCALPLACEMENT($,#22);
#31=IFCSITE('0000000000000000000002',$,'Quay',$,$,#30,$,$,.ELEMENT.,${latitude},${longitude},7.5,$,$);
#32=IFCBUILDING('0000000000000000000003',$,'B',$,$,#30,$,$,.ELEMENT.,$,$,$);
#33=IFCBUILDINGSTOREY('0000000000000000000004',$,'Upper floor',$,$,#30,$,$,.ELEMENT.,0.);
#34=IFCRELAGGREGATES('0000000000000000000005',$,$,$,#25,(#31));
#35=IFCRELAGGREGATES('0000000000000000000006',$,$,$,#31,(#32));
#36=IFCRELAGGREGATES('0000000000000000000007',$,$,$,#32,(#33));
#40=IFCCARTESIANPOINT(${triple(at)});
#41=IFCDIRECTION((0.,0.,1.));
#42=IFCDIRECTION(${triple(turn)});
#43=IFCAXIS2PLACEMENT3D(#40,#41,#42);
#44=IFCLOCALPLACEMENT(#30,#43);
#45=IFCCARTESIANPOINT((${real(size[0] / 2)},${real(size[1] / 2)}));
#46=IFCAXIS2PLACEMENT2D(#45,$);
#47=IFCRECTANGLEPROFILEDEF(.AREA.,$,#46,${real(size[0])},${real(size[1])});
#48=IFCEXTRUDEDAREASOLID(#47,#22,#41,${real(size[2])});
#49=IFCSHAPEREPRESENTATION(#24,'Body','SweptSolid',(#48));
#50=IFCPRODUCTDEFINITIONSHAPE($,$,(#49));
#51=IFCCOLUMN('0000000000000000000008',$,'Post',$,$,#44,#50,$${schema !== 'IFC2X3' ? ',$' : ''});
#52=IFCRELCONTAINEDINSPATIALSTRUCTURE('0000000000000000000009',$,$,$,(#51),#33);
#53=IFCMATERIAL('Eiche massiv'${schema !== 'IFC2X3' ? ',$,$' : ''});
#54=IFCRELASSOCIATESMATERIAL('000000000000000000000A',$,$,$,(#51),#53);
${more}
ENDSEC;
END-ISO-10303-21;
`;
}

const bytes = (text: string) => new TextEncoder().encode(text);
const read = (options?: Options) => readIfc(api, bytes(file(options)), 'test.ifc');

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
const near = (a: readonly number[], b: readonly number[]) => {
  a.forEach((value, i) => {
    expect(value).toBeCloseTo(b[i]!, 4);
  });
};

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
    expect(readIfcProperties(api, bytes(file({ more: SETS })))).toEqual({
      '0000000000000000000008': {
        groups: [
          { name: 'Pset_ColumnCommon', rows: [['FireRating', 'REI 60'], ['LoadBearing', 'yes']] },
          { name: 'Qto_ColumnBaseQuantities', rows: [['Length', '4']] },
          { name: 'Pset_Type (type)', rows: [['Status', 'NEW']] },
        ],
        classifications: [{ system: 'Trade list', code: 'C-12', name: 'Columns' }],
      },
    });
    expect(readIfcProperties(api, bytes(file()))).toEqual({});
  }); // prettier-ignore
});

describe('light fixtures', () => {
  it('become luminaires in their middle, that shine down', () => {
    const text = file({ size: [2, 2, 1] }).replace(/#51=IFCCOLUMN\((.*)\);/, '#51=IFCLIGHTFIXTURE($1);');
    const { model } = readIfc(api, bytes(text), 'test.ifc');
    const lamp = model.luminaires.get('0000000000000000000008')!;
    near(lamp.position, [1, 1, 0.5]);
    expect(lamp).toMatchObject({ name: 'Post', circuit: 'IFC', element: '0000000000000000000008', direction: [0, 0, -1], dim: 1 });
  });

  /** The box as a fixture, in a schema, with more lines and more items in its representation. */
  const fixture = (options: Options, items = '') =>
    file(options)
      .replace(/#51=IFCCOLUMN\((.*)\);/, options.schema === 'IFC2X3' ? '#51=IFCFLOWTERMINAL($1);' : '#51=IFCLIGHTFIXTURE($1);')
      .replace(
        '(#49));',
        `(#49${items ? ',#300' : ''}));${items && `\n#300=IFCSHAPEREPRESENTATION(#24,'Light','LightSource',(${items}));`}`,
      );
  const lampOf = (text: string) => readIfc(api, bytes(text), 'test.ifc').model.luminaires.get('0000000000000000000008')!;

  it('shine as their light source says: flux, colour, distribution, where and which way, in the file’s units', () => {
    const more = `#310=IFCCOLOURRGB($,1.,1.,1.);
#311=IFCCARTESIANPOINT((0.,0.,-500.));
#312=IFCDIRECTION((1.,0.,0.));
#313=IFCDIRECTION((0.,1.,0.));
#314=IFCAXIS2PLACEMENT3D(#311,#312,#313);
#315=IFCLIGHTDISTRIBUTIONDATA(0.,(0.,30.,60.,90.),(100.,90.,10.,0.));
#316=IFCLIGHTDISTRIBUTIONDATA(180.,(0.,30.,60.,90.),(100.,70.,10.,0.));
#317=IFCLIGHTINTENSITYDISTRIBUTION(.TYPE_C.,(#315,#316));
#318=IFCLIGHTSOURCEGONIOMETRIC('Lamp',#310,$,0.5,#314,$,4000.,1200.,.LIGHTEMITTINGDIODE.,#317);
#319=IFCSIUNIT(*,.PLANEANGLEUNIT.,$,.RADIAN.);
#320=IFCMEASUREWITHUNIT(IFCPLANEANGLEMEASURE(0.0174532925199433),#319);
#321=IFCDIMENSIONALEXPONENTS(0,0,0,0,0,0,0);
#322=IFCCONVERSIONBASEDUNIT(#321,.PLANEANGLEUNIT.,'DEGREE',#320);`;
    // Turned by a quarter: the fixture's x, along which its frame stands, is the world's y.
    const lamp = lampOf(fixture({ unit: MILLIMETRE, size: [200, 200, 100], at: [1000, 2000, 3000], turn: [0, 1, 0], more }, '#318').replace('((#10))', '((#10,#322))'));
    near(lamp.position, [1, 2, 2.5]);
    // Down in its own frame is against that.
    near(lamp.direction, [0, -1, 0]);
    expect(lamp).toMatchObject({ fluxLm: 1200, colourTemperatureK: 4000, dim: 0.5, element: '0000000000000000000008' });
    // The mean of both planes is 80 at 30 degrees and 10 at 60: half of 100 lies 30 x 30 / 70 beyond 30.
    expect(lamp.beamDeg).toBeCloseTo(2 * (30 + 900 / 70), -0.5);
  }); // prettier-ignore

  it('shine as spots, also through a mapped shape and from IFC2x3, where a fixture is known by its type', () => {
    const spot = `#310=IFCCOLOURRGB($,1.,1.,1.);
#311=IFCCARTESIANPOINT((0.,0.,1.));
#312=IFCDIRECTION((0.,0.6,-0.8));
#313=IFCLIGHTSOURCESPOT($,#310,$,$,#311,10.,1.,0.,0.,#312,$,0.6,0.4);
#314=IFCREPRESENTATIONMAP(#22,#315);
#315=IFCSHAPEREPRESENTATION(#24,'Light','LightSource',(#313));
#316=IFCCARTESIANTRANSFORMATIONOPERATOR3D($,$,#21,$,$);
#317=IFCMAPPEDITEM(#314,#316);`;
    const type = (
      schema: string,
    ) => `#330=IFCLIGHTFIXTURETYPE('000000000000000000000T',$,'Spot type',$,$,$,$,$,$,${schema === 'IFC2X3' ? '.POINTSOURCE.' : '.POINTSOURCE.'});
#331=IFCRELDEFINESBYTYPE('000000000000000000000U',$,$,$,(#51),#330);`;
    for (const schema of ['IFC4', 'IFC4X3', 'IFC2X3'] as const) {
      const text = fixture({ schema, more: spot + (schema === 'IFC2X3' ? `\n${type(schema)}` : '') }, '#317');
      const lamp = lampOf(text);
      near(lamp.position, [0, 0, 1]);
      near(lamp.direction, [0, 0.6, -0.8]);
      // In radians, whole up to 0.4 from the axis and gone at 0.6.
      expect(lamp.beamDeg).toBeCloseTo((1 * 180) / Math.PI, 4);
      expect(readIfc(api, bytes(text), 'test.ifc').model.elements.get('0000000000000000000008')!.class).toBe('LightFixture');
    }
  });

  it('shine as property sets say: of their own, of their lamps, of their type', () => {
    const sets = `#310=IFCPROPERTYSINGLEVALUE('ContributedLuminousFlux',$,IFCLUMINOUSFLUXMEASURE(450.),$);
#311=IFCPROPERTYSINGLEVALUE('ColorTemperature',$,IFCTHERMODYNAMICTEMPERATUREMEASURE(2700.),$);
#312=IFCPROPERTYSET('000000000000000000000S',$,'Pset_LampTypeCommon',$,(#310,#311));
#313=IFCPROPERTYSINGLEVALUE('NumberOfSources',$,IFCINTEGER(2),$);
#314=IFCPROPERTYSET('000000000000000000000R',$,'Pset_LightFixtureTypeCommon',$,(#313));
#315=IFCRELDEFINESBYPROPERTIES('000000000000000000000Q',$,$,$,(#51),#314);`;
    const own = `${sets}\n#316=IFCRELDEFINESBYPROPERTIES('000000000000000000000P',$,$,$,(#51),#312);`;
    const type = `${sets}\n#316=IFCLAMPTYPE('000000000000000000000T',$,'L',$,$,(#312),$,$,$,.LED.);\n#317=IFCRELDEFINESBYTYPE('000000000000000000000U',$,$,$,(#51),#316);`;
    const lamp = `${sets}\n#316=IFCLAMP('000000000000000000000L',$,'Bulb',$,$,$,$,$,.LED.);\n#317=IFCRELAGGREGATES('000000000000000000000V',$,$,$,#51,(#316));
#318=IFCRELDEFINESBYPROPERTIES('000000000000000000000P',$,$,$,(#316),#312);`;
    for (const more of [own, type, lamp])
      expect(lampOf(fixture({ more }))).toMatchObject({ fluxLm: 900, colourTemperatureK: 2700, beamDeg: 120 });
    expect(lampOf(fixture({ more: sets }))).toMatchObject({ fluxLm: 800, colourTemperatureK: 3000 });
  });

  it('shine without a shape, and say nothing that makes no sense', () => {
    const source = (flux: string) => `#310=IFCCOLOURRGB($,1.,1.,1.);
#318=IFCLIGHTSOURCEGONIOMETRIC($,#310,$,$,#22,$,-5.,${flux},.NOTDEFINED.,$);
#319=IFCSHAPEREPRESENTATION(#24,'Light','LightSource',(#318));
#320=IFCPRODUCTDEFINITIONSHAPE($,$,(#319));
#321=IFCLIGHTFIXTURE('000000000000000000000W',$,'Bare bulb',$,$,#44,#320,$,$);`;
    const { model } = readIfc(api, bytes(file({ at: [4, 5, 6], more: source('600.') })), 'test.ifc');
    expect(model.luminaires.get('000000000000000000000W')).toMatchObject({
      element: null,
      position: [4, 5, 6],
      fluxLm: 600,
      colourTemperatureK: 3000,
    });
    const odd = readIfc(api, bytes(file({ more: source('-1.') })), 'test.ifc').model.luminaires.get('000000000000000000000W');
    expect(odd).toMatchObject({ fluxLm: 800, colourTemperatureK: 3000 });
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
    expect(complaint(file())).toBeUndefined();
    expect(complaint(`\n  ${file()}`)).toBeUndefined();
    expect(complaint('PK\u0003\u0004')).toContain('does not begin with ISO-10303-21');
    expect(complaint(file().slice(0, -30))).toContain('is cut off');
    expect(complaint(file({ schema: 'IFC5' }))).toContain('the schema IFC5; IFC2x3, IFC4 and IFC4x3 are read');
    expect(complaint(file().replace(/FILE_SCHEMA.*/, ''))).toContain('the schema (none)');
  });
});
