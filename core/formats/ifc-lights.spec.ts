import type { IfcAPI } from 'web-ifc';
import { beforeAll, describe, expect, it } from 'vitest';
import { readIfc } from './ifc';
import { startIfc } from './ifc-parser';
import { bytes, ifcText, MILLIMETRE, near, type IfcOptions } from './ifc-text';

let api: IfcAPI;
beforeAll(async () => {
  api = await startIfc();
});

describe('light fixtures', () => {
  it('become luminaires in their middle, that shine down', () => {
    const text = ifcText({ size: [2, 2, 1] }).replace(/#51=IFCCOLUMN\((.*)\);/, '#51=IFCLIGHTFIXTURE($1);');
    const { model } = readIfc(api, bytes(text), 'test.ifc');
    const lamp = model.luminaires.get('0000000000000000000008')!;
    near(lamp.position, [1, 1, 0.5]);
    expect(lamp).toMatchObject({ name: 'Post', circuit: 'IFC', element: '0000000000000000000008', direction: [0, 0, -1], dim: 1 });
  });

  /** The box as a fixture, in a schema, with more lines and more items in its representation. */
  const fixture = (options: IfcOptions, items = '') =>
    ifcText(options)
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
    const { model } = readIfc(api, bytes(ifcText({ at: [4, 5, 6], more: source('600.') })), 'test.ifc');
    expect(model.luminaires.get('000000000000000000000W')).toMatchObject({
      element: null,
      position: [4, 5, 6],
      fluxLm: 600,
      colourTemperatureK: 3000,
    });
    const odd = readIfc(api, bytes(ifcText({ more: source('-1.') })), 'test.ifc').model.luminaires.get('000000000000000000000W');
    expect(odd).toMatchObject({ fluxLm: 800, colourTemperatureK: 3000 });
  });
});
