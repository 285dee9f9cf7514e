import * as WebIFC from 'web-ifc';
import { refOf, refsOf, textOf, type Handle, type Line } from './ifc-line';

/** Place of IfcProductDefinitionShape's Representations and IfcShapeRepresentation's Items (ISO 16739-1). */
const REPRESENTATIONS = 2;
const ITEMS = 3;

/** Presentation layers: they name representations or single items, not elements. */
export class IfcLayers {
  private readonly nameOf = new Map<number, string>();
  /** Layers that their author has switched off or frozen. */
  readonly hidden: string[] = [];

  constructor(
    private readonly api: WebIFC.IfcAPI,
    private readonly id: number,
  ) {
    for (const type of [WebIFC.IFCPRESENTATIONLAYERASSIGNMENT, WebIFC.IFCPRESENTATIONLAYERWITHSTYLE]) {
      const ids = api.GetLineIDsWithType(id, type);
      for (let i = 0; i < ids.size(); i++) this.take(api.GetLine(id, ids.get(i), false) as Line);
    }
  }

  private take(line: Line): void {
    const name = textOf(line['Name']).trim();
    if (name === '') return;
    for (const item of refsOf(line['AssignedItems'])) this.nameOf.set(item, name);
    if (isSaid(line['LayerOn'], false) || isSaid(line['LayerFrozen'], true)) this.hidden.push(name);
  }

  /** Layer of an element’s shape: that of the first of its representations, or of their items, that has one. */
  layerOf(shape: number | undefined): string | undefined {
    if (this.nameOf.size === 0 || shape === undefined) return undefined;
    const representations = refsOf(this.argument(shape, REPRESENTATIONS));
    for (const representation of representations) {
      const own = this.nameOf.get(representation);
      if (own !== undefined) return own;
    }
    for (const representation of representations)
      for (const item of refsOf(this.argument(representation, ITEMS))) {
        const name = this.nameOf.get(item) ?? this.nameOfMapped(item);
        if (name !== undefined) return name;
      }
    return undefined;
  }

  /** IfcMappedItem names an IfcRepresentationMap, that a representation; its layer holds where the item has none of its own. */
  private nameOfMapped(item: number): string | undefined {
    if (this.api.GetLineType(this.id, item) !== WebIFC.IFCMAPPEDITEM) return undefined;
    const map = refOf(this.argument(item, 0));
    const mapped = map === undefined ? undefined : refOf(this.argument(map, 1));
    return mapped === undefined ? undefined : this.nameOf.get(mapped);
  }

  private argument(line: number, place: number): unknown {
    return (this.api.GetRawLineData(this.id, line).arguments as unknown[])[place];
  }
}

function isSaid(value: unknown, wanted: boolean): boolean {
  const said = (value as Handle | null)?.value;
  return said === wanted || said === (wanted ? 'T' : 'F');
}
