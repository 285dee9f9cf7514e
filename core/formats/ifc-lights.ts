import * as WebIFC from 'web-ifc';
import { transformDirection, transformPoint, type Mat4 } from '../geometry/mat4';
import type { Luminaire } from '../model/schema';
import { IfcLines, numberOf, refOf, refsOf, type Line } from './ifc-line';
import type { IfcPlace } from './ifc-place';
import type { AllSaid, Said } from './ifc-said';

/** What a file says of the light of a fixture; what is absent it does not say. */
export type FixtureLight = Partial<Pick<Luminaire, 'position' | 'direction' | 'fluxLm' | 'colourTemperatureK' | 'beamDeg' | 'dim'>>;

const SOURCES: ReadonlySet<number> = new Set([
  WebIFC.IFCLIGHTSOURCEGONIOMETRIC,
  WebIFC.IFCLIGHTSOURCESPOT,
  WebIFC.IFCLIGHTSOURCEPOSITIONAL,
]);

/**
 * Light fixtures with the light that the file gives them: by light sources among their representation (IfcLightSourceGoniometric with
 * its flux, colour and distribution, IfcLightSourceSpot, IfcLightSourcePositional; ISO 16739-1), then by property sets of their own, of
 * their lamps and of their type.
 */
export class IfcLights extends IfcLines {
  /** Fixtures of the file, with or without a shape: by their class, or in IFC2x3 by that of their type. */
  readonly fixtures: ReadonlySet<number>;
  /** Of lamps and types, by fixture. */
  private readonly lent = new Map<number, Said>();

  constructor(
    api: WebIFC.IfcAPI,
    id: number,
    private readonly said: AllSaid,
    private readonly place: IfcPlace,
  ) {
    super(api, id);
    this.fixtures = new Set([...this.idsOf(WebIFC.IFCLIGHTFIXTURE), ...this.byType()]);
    if (this.fixtures.size === 0) return;
    const isLight = ({ fluxLm, temperatureK }: Said) => fluxLm !== undefined || temperatureK !== undefined;
    if (![...said.elements.values(), ...said.sets.values()].some(isLight)) return;
    const lend = (fixtures: readonly number[], light: Said | undefined) => {
      if (light && isLight(light)) for (const fixture of fixtures) this.lent.set(fixture, { ...light, ...this.lent.get(fixture) });
    };
    for (const type of [WebIFC.IFCRELAGGREGATES, WebIFC.IFCRELNESTS])
      for (const { RelatingObject, RelatedObjects } of this.linesOf(type))
        for (const part of refsOf(RelatedObjects)) lend([refOf(RelatingObject) ?? -1], said.elements.get(part));
    for (const { RelatingType, RelatedObjects } of this.linesOf(WebIFC.IFCRELDEFINESBYTYPE)) {
      const type = refOf(RelatingType);
      for (const set of type === undefined ? [] : refsOf(this.line(type)['HasPropertySets'])) lend(refsOf(RelatedObjects), said.sets.get(set)); // prettier-ignore
    }
  }

  private byType(): number[] {
    const types = new Set(this.idsOf(WebIFC.IFCLIGHTFIXTURETYPE));
    if (types.size === 0) return [];
    return this.linesOf(WebIFC.IFCRELDEFINESBYTYPE).flatMap((relation) => (types.has(refOf(relation['RelatingType']) ?? -1) ? refsOf(relation['RelatedObjects']) : [])); // prettier-ignore
  }

  of(fixture: number): FixtureLight {
    const own = { ...this.lent.get(fixture), ...this.said.elements.get(fixture) };
    const positive = (words: string | undefined) => (Number(words) > 0 ? Number(words) : undefined);
    const flux = positive(own.fluxLm);
    const temperature = positive(own.temperatureK);
    return clean({
      ...(flux !== undefined && { fluxLm: flux * (positive(own.sources) ?? 1) }),
      ...(temperature !== undefined && { colourTemperatureK: temperature }),
      ...this.bySources(fixture),
    });
  }

  private bySources(fixture: number): FixtureLight {
    const { ObjectPlacement, Representation } = this.line(fixture);
    const [placement, shape] = [refOf(ObjectPlacement), refOf(Representation)];
    const sources = shape === undefined ? [] : this.sourcesOf(shape);
    const [first] = sources;
    if (!first) return {};
    const lights = sources.map((source) => this.lightOf(source));
    const lengthM = this.place.lengthUnitM();
    const world = placement === undefined ? undefined : (this.api.GetWorldTransformMatrix(this.id, placement) as Mat4);
    const fluxes = lights.flatMap(({ fluxLm }) => fluxLm ?? []);
    const [{ position, direction, ...light }] = lights as [FixtureLight];
    return {
      ...light,
      ...(fluxes.length > 0 && { fluxLm: fluxes.reduce((sum, lm) => sum + lm, 0) }),
      ...(world && position && { position: scaled(transformPoint(world, position), lengthM) }),
      ...(world && direction && { direction: [...transformDirection(world, direction)] as [number, number, number] }),
    };
  }

  /** Light sources of a product's shape, also those that mapped items repeat. */
  private sourcesOf(shape: number): Line[] {
    const itemsOf = (representation: number, depth: number): Line[] =>
      refsOf(this.line(representation)['Items']).flatMap((item) => {
        const { type } = this.api.GetRawLineData(this.id, item);
        if (SOURCES.has(type)) return [this.line(item)];
        const map = type === WebIFC.IFCMAPPEDITEM && depth < 8 ? refOf(this.line(item)['MappingSource']) : undefined;
        const mapped = map === undefined ? undefined : refOf(this.line(map)['MappedRepresentation']);
        return mapped === undefined ? [] : itemsOf(mapped, depth + 1);
      });
    return refsOf(this.line(shape)['Representations']).flatMap((representation) => itemsOf(representation, 0));
  }

  /** In the fixture's own frame. */
  private lightOf(source: Line): FixtureLight {
    const intensity = source['Intensity'];
    const light: FixtureLight = { ...(intensity != null && { dim: Math.min(1, Math.max(0, numberOf(intensity))) }) };
    const angleDeg = this.place.angleUnitDeg();
    if (source['LuminousFlux'] === undefined) {
      light.position = this.triple(refOf(source['Position']), 'Coordinates');
      light.beamDeg = 360;
      const orientation = refOf(source['Orientation']);
      if (orientation === undefined) return light;
      light.direction = this.triple(orientation, 'DirectionRatios');
      // Both are measured from the axis: the light is whole up to the one, and gone at the other.
      const [whole, gone] = [numberOf(source['BeamWidthAngle']), numberOf(source['SpreadAngle'])];
      light.beamDeg = (Math.min(whole, gone) + gone) * angleDeg;
      return light;
    }
    const placing = refOf(source['Position']);
    const axes = placing === undefined ? undefined : this.line(placing);
    const up = axes && this.triple(refOf(axes['Axis']), 'DirectionRatios', [0, 0, 1]);
    const { beamDeg, upwards } = this.distribution(refOf(source['LightDistributionDataSource']), angleDeg);
    return {
      ...light,
      ...(axes && { position: this.triple(refOf(axes['Location']), 'Coordinates') }),
      // The angles of a luminaire are counted from the way down of its own frame (CIE 121).
      ...(up && { direction: upwards ? up : (up.map((v) => -v || 0) as [number, number, number]) }),
      ...(beamDeg !== undefined && { beamDeg }),
      fluxLm: numberOf(source['LuminousFlux']),
      colourTemperatureK: numberOf(source['ColourTemperature']),
    };
  }

  /** Full angle at half of the greatest intensity of an IfcLightIntensityDistribution by C-planes, the mean of its planes; and whether it goes up. */
  private distribution(expressId: number | undefined, angleDeg: number): { beamDeg?: number; upwards?: boolean } {
    if (expressId === undefined || this.api.GetRawLineData(this.id, expressId).type !== WebIFC.IFCLIGHTINTENSITYDISTRIBUTION) return {};
    const planes = refsOf(this.line(expressId)['DistributionData']).map((plane) => {
      const { SecondaryPlaneAngle, LuminousIntensity } = this.line(plane);
      const numbers = (values: unknown) => (Array.isArray(values) ? values.map(numberOf) : []);
      return { angles: numbers(SecondaryPlaneAngle).map((angle) => angle * angleDeg), intensities: numbers(LuminousIntensity) };
    });
    const at = (angle: number) => planes.reduce((sum, plane) => sum + between(plane.angles, plane.intensities, angle), 0) / planes.length;
    const curve = Array.from({ length: 361 }, (_, i) => at(i / 2));
    const greatest = Math.max(...curve);
    if (!(greatest > 0)) return {};
    const upwards = Math.max(...curve.slice(180)) > Math.max(...curve.slice(0, 181));
    const fromAxis = upwards ? curve.toReversed() : curve;
    const last = fromAxis.findLastIndex((intensity) => intensity >= (greatest / 2) * (1 - 1e-6));
    return { beamDeg: Math.min(360, last), upwards };
  }

  private triple(
    expressId: number | undefined,
    attribute: string,
    otherwise: [number, number, number] = [0, 0, 0],
  ): [number, number, number] {
    const values = expressId === undefined ? undefined : this.line(expressId)[attribute];
    return Array.isArray(values) && values.length === 3 ? (values.map(numberOf) as [number, number, number]) : otherwise;
  }
}

const scaled = (point: readonly number[], by: number) => point.map((v) => v * by) as [number, number, number];

/** A table's value between its entries; 0 beyond them. */
function between(places: readonly number[], values: readonly number[], at: number): number {
  const next = places.findIndex((place) => place >= at - 1e-9);
  if (next < 0 || values.length !== places.length) return 0;
  if (next === 0) return places[0]! - at > 1e-9 ? 0 : values[0]!;
  const share = (at - places[next - 1]!) / (places[next]! - places[next - 1]! || 1);
  return values[next - 1]! * (1 - share) + values[next]! * share;
}

/** Within the bounds of a luminaire; what makes no sense is left out. */
function clean(light: FixtureLight): FixtureLight {
  const within = (value: number | undefined, least: number, most: number) =>
    value !== undefined && Number.isFinite(value) && value > 0 ? Math.min(most, Math.max(least, value)) : undefined;
  const vector = (v: FixtureLight['position']) => (v?.every(Number.isFinite) ? v : undefined);
  const direction = vector(light.direction);
  return Object.fromEntries(
    Object.entries({
      position: vector(light.position),
      direction: direction && Math.hypot(...direction) > 0 ? direction : undefined,
      fluxLm: within(light.fluxLm, 0, 1e7),
      colourTemperatureK: within(light.colourTemperatureK, 1000, 20_000),
      beamDeg: within(light.beamDeg, 1, 360),
      dim: light.dim,
    }).filter(([, value]) => value !== undefined),
  );
}
