import { EMPTY_MODEL, type Model } from '../../core/model/model';
import type { SavedCamera, Site } from '../../core/model/schema';
import { buildEnvelope } from './envelope';
import { buildInterior } from './interior';
import { Kit, type AuthorElement } from './kit';
import { PHOTOMETRY } from './photometry';
import { sourceMaterials } from './materials';
import type { Parameters } from './parameters';
import { buildRoof } from './roof';
import { buildSite } from './site';

/** A made-up place on a northern estuary. */
export const SITE: Site = { name: 'Marram Sound', latitudeDeg: 57.2, longitudeDeg: -4.1, elevationM: 4, trueNorthDeg: -12 };

const CAMERAS: SavedCamera[] = [
  { id: 'from-the-bank', name: 'From the bank', position: [-7.5, -13.5, 1.65], target: [10, 3, 2.6], focalMm: 26 },
  { id: 'from-the-jetty', name: 'From the jetty', position: [11.2, -22.5, 1.45], target: [12.2, 2, 2.4], focalMm: 30 },
  { id: 'waiting-hall', name: 'Waiting hall', position: [1.2, 2.2, 1.6], target: [14, 6.4, 2.2], focalMm: 22 },
  { id: 'cafe', name: 'Café bar', position: [16.3, 2.6, 1.55], target: [21, 9.5, 1.7], focalMm: 24 },
  { id: 'ticket-counter', name: 'Ticket counter', position: [8.2, 3, 1.6], target: [2.2, 7.8, 1.6], focalMm: 28 },
  { id: 'terrace-east', name: 'Terrace, east', position: [30, -10, 1.7], target: [14, 1.2, 2.2], focalMm: 30 },
  { id: 'workshop-yard', name: 'Workshop yard', position: [-6.5, 13.2, 1.7], target: [9, 16.5, 2.2], focalMm: 26 },
  { id: 'over-the-water', name: 'Over the water', position: [-20, -40, 16], target: [12, 4, 1], focalMm: 40 },
];

export interface AuthorModel extends Model {
  elements: ReadonlyMap<string, AuthorElement>;
}

/** The whole building in the state that the parameters describe. */
export function buildMarramLanding(p: Parameters): AuthorModel {
  const kit = new Kit();
  buildEnvelope(kit, p);
  buildRoof(kit, p);
  buildInterior(kit, p);
  buildSite(kit, p);
  const byId = <T extends { id: string }>(items: readonly T[]) => new Map(items.map((item) => [item.id, item]));
  return {
    ...EMPTY_MODEL,
    elements: byId(kit.elements),
    materials: byId(sourceMaterials(p)),
    luminaires: byId(kit.luminaires),
    cameras: byId(CAMERAS),
    photometry: PHOTOMETRY,
    site: SITE,
    presentation: {
      hiddenLayers: p.hiddenLayers,
      options: [{ id: 'folded', name: 'Folded roof' }, { id: 'pitched', name: 'Pitched roof' }],
      option: p.roofForm,
      phases: [{ id: 'shell', name: 'Shell' }, { id: 'fitted', name: 'Fitted out' }],
      phase: p.phase,
    },
    camera: p.camera,
    time: p.time,
  }; // prettier-ignore
}
