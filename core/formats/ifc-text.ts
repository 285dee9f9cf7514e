import { expect } from 'vitest';

/** Small IFC files for tests, written line by line, so that what must come out is known. */

export interface IfcOptions {
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

export const METRE = '#10=IFCSIUNIT(*,.LENGTHUNIT.,$,.METRE.);';
export const MILLIMETRE = '#10=IFCSIUNIT(*,.LENGTHUNIT.,.MILLI.,.METRE.);';
export const FOOT = `#11=IFCSIUNIT(*,.LENGTHUNIT.,$,.METRE.);
#12=IFCMEASUREWITHUNIT(IFCLENGTHMEASURE(0.3048),#11);
#13=IFCDIMENSIONALEXPONENTS(1,0,0,0,0,0,0);
#10=IFCCONVERSIONBASEDUNIT(#13,.LENGTHUNIT.,'FOOT',#12);`;

const real = (n: number) => (Number.isInteger(n) ? `${String(n)}.` : String(n));
export const triple = (v: readonly number[]) => `(${v.map(real).join(',')})`;

/** One proxy element that is an extruded box in a storey of a building on a site. */
export function ifcText(options: IfcOptions = {}): string {
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

export const bytes = (text: string) => new TextEncoder().encode(text);

export const near = (a: readonly number[], b: readonly number[]) => {
  a.forEach((value, i) => {
    expect(value).toBeCloseTo(b[i]!, 4);
  });
};
