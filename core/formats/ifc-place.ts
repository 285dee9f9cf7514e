import * as WebIFC from 'web-ifc';
import type { BasePoint, Site } from '../model/schema';
import { IfcLines, numberOf, refOf, refsOf, textOf, type Handle, type Line } from './ifc-line';

const SI_PREFIX: Readonly<Record<string, number>> = { KILO: 1e3, DECI: 0.1, CENTI: 0.01, MILLI: 1e-3, MICRO: 1e-6 };

/** Where an IFC file's model stands on the earth and in its map, and the units that its numbers are in. */
export class IfcPlace extends IfcLines {
  site(): Site | undefined {
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
      trueNorthDeg: this.trueNorth(),
    };
  }

  /** IfcMapConversion (IFC4, ISO 16739-1): where the origin lies in the map and how x is turned against its east. */
  basePoint(): BasePoint | undefined {
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
  lengthUnitM(): number {
    return this.unitOf('LENGTHUNIT');
  }

  angleUnitDeg(): number {
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
  private trueNorth(): number {
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

/** Degrees from an IfcCompoundPlaneAngleMeasure: degrees, minutes, seconds, millionths of a second. */
function degreesOf(value: unknown): number | undefined {
  const list = Array.isArray(value) ? value : (value as Handle | null)?.value;
  if (!Array.isArray(list) || list.length < 3) return undefined;
  const [d, m, s, u = 0] = list.map((v) => Number((v as Handle | null)?.value ?? v)) as [number, number, number, number?];
  return d + m / 60 + (s + u / 1e6) / 3600;
}
