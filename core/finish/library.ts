import { PLAIN_FINISH, type Finish } from './finish';

/** The finishes that ship. Sizes are those of one repeat of the maps. */
const define = (id: string, name: string, family: Finish['family'], rest: Partial<Finish>): Finish => ({
  ...PLAIN_FINISH,
  id,
  name,
  family,
  ...rest,
});

/** Wood from one board to the next; `boardM` is the width of those in the map, so that none is cut. */
const boards = (boardM: number): Partial<Finish> => ({
  vary: { ...PLAIN_FINISH.vary, offset: true, stepM: [boardM, 0], turn: 'half', hueDeg: 3, brightness: 0.12 },
});

export const FINISHES: readonly Finish[] = [
  define('larch-boards', 'Larch boards, silvering, 120 mm', 'wood', { maps: 'larch-boards', widthM: 0.96, heightM: 2.4, ...boards(0.12) }),
  define('oak', 'Oak boards, oiled', 'wood', { maps: 'oak-boards', widthM: 1.2, heightM: 2.4, clearCoat: 0.3, clearCoatRoughness: 0.35, ...boards(0.2) }),
  define('zinc', 'Zinc, standing seam 430', 'metal', { maps: 'seamed-zinc', metalness: 0.75, roughness: 0.55, widthM: 1.29, heightM: 1.29 }),
  define('steel', 'Steel, painted graphite', 'metal', { baseColour: [0.21, 0.225, 0.24], roughness: 0.42 }),
  define('aluminium', 'Aluminium, brushed', 'metal', { maps: 'brushed', baseColour: [0.88, 0.89, 0.9], metalness: 1, roughness: 0.38, widthM: 0.4, heightM: 0.8 }),
  define('mirror', 'Mirror, silvered', 'metal', { baseColour: [0.95, 0.96, 0.95], metalness: 1, roughness: 0.02 }),
  define('concrete', 'Concrete, board-marked', 'concrete', { maps: 'concrete', widthM: 2.4, heightM: 2.4 }),
  define('plaster', 'Lime plaster, trowelled', 'plaster', { maps: 'plaster', widthM: 1.5, heightM: 1.5 }),
  define('paint', 'Paint, warm white, matt', 'plaster', { baseColour: [0.93, 0.92, 0.89], roughness: 0.75 }),
  define('brick', 'Brick, red-brown, stretcher bond', 'brick', { maps: 'brick', widthM: 1, heightM: 1 }),
  define('tile', 'Tile, white glazed, 150 mm', 'tile', { maps: 'tile', roughness: 0.5, widthM: 0.6, heightM: 0.6 }),
  define('stone', 'Sandstone paving, 600 × 300', 'stone', { maps: 'stone', widthM: 1.2, heightM: 1.2 }),
  define('glass', 'Glass, clear', 'glass', { roughness: 0, transmission: 1, ior: 1.52, body: 'pane', baseColour: [0.99, 1, 0.995] }),
  define('lamp-glass', 'Opal lamp glass', 'glass', { baseColour: [0.98, 0.95, 0.9], roughness: 0.3, emissionCdM2: 4000 }),
  define('wool-felt', 'Wool felt, moss', 'textile', { maps: 'felt', baseColour: [0.38, 0.43, 0.28], roughness: 1, widthM: 0.3, heightM: 0.3 }),
  define('leather', 'Leather, saddle brown', 'textile', { maps: 'leather', baseColour: [0.45, 0.26, 0.15], roughness: 0.6, widthM: 0.25, heightM: 0.25 }),
  define('carpet', 'Carpet, tufted, slate', 'textile', { maps: 'carpet', baseColour: [0.35, 0.38, 0.42], roughness: 1, widthM: 0.4, heightM: 0.4 }),
  define('grass', 'Grass, tidal meadow', 'ground', { maps: 'grass', roughness: 1, widthM: 2.2, heightM: 2.2, normalScale: 0.7 }),
  define('soil', 'Soil, dark loam', 'ground', { maps: 'soil', roughness: 1, widthM: 2, heightM: 2 }),
  define('asphalt', 'Asphalt, worn', 'ground', { maps: 'asphalt', roughness: 1, widthM: 1, heightM: 1 }),
  define('water', 'Estuary water, light swell', 'water', {
    maps: 'ripples', baseColour: [0.86, 0.95, 0.93], roughness: 0.04, transmission: 1, ior: 1.333, body: 'pane', attenuationColour: [0.25, 0.55, 0.5],
    attenuationDistanceM: 0.8, widthM: 9, heightM: 9, normalScale: 0.8,
  }),
]; // prettier-ignore
