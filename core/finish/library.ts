import { PLAIN_FINISH, type Finish } from './finish';

/** A finish of a person's own library, as much of it as is needed to choose it. */
export interface LibraryItem {
  id: string;
  name: string;
  family: Finish['family'];
  tags: string[];
}

/** Map sets without a pattern, whose repeat can be broken. */
const WITHOUT_PATTERN: ReadonlySet<string> = new Set([
  'asphalt', 'carpet', 'clay-plaster', 'exposed-aggregate', 'felt', 'granite', 'grass', 'gravel', 'leather', 'patina', 'plaster',
  'rough-render', 'sand', 'screed', 'snow', 'soil', 'terrazzo', 'weathering-steel',
]); // prettier-ignore

/** Metres from the lowest to the highest place of map sets that have more than shading to show. */
export const RELIEF_M: Readonly<Record<string, number>> = {
  battens: 0.0121, 'bevelled-tile': 0.0044, brick: 0.006, 'flemish-brick': 0.006, 'long-brick': 0.006, 'stacked-brick': 0.006, 'cast-concrete': 0.0062, corrugated: 0.0178,
  gravel: 0.0159, 'larch-boards': 0.0047, pantiles: 0.0471, patina: 0.0121, rubble: 0.0256, 'seamed-zinc': 0.0138, setts: 0.0131, shingles: 0.0245, 'slate-paving': 0.0058,
  slates: 0.0153,
}; // prettier-ignore

/** Edges that are broken or cast round, as they usually are (common practice). */
const EDGE_RADIUS_M: Partial<Record<Finish['family'], number>> = { wood: 0.0015, concrete: 0.004, stone: 0.002, plaster: 0.003 };

/** The finishes that ship. Sizes are those of one repeat of the maps. */
const define = (id: string, name: string, family: Finish['family'], tags: string, rest: Partial<Finish>): Finish => ({
  ...PLAIN_FINISH,
  id,
  name,
  family,
  tags: tags.split(' ').filter(Boolean),
  breakRepeat: WITHOUT_PATTERN.has(rest.maps ?? ''),
  reliefM: RELIEF_M[rest.maps ?? ''] ?? 0,
  edgeRadiusM: EDGE_RADIUS_M[family] ?? 0,
  ...rest,
});

/** Wood from one piece to the next; `boardM` is the width of those in the map, so that none is cut. */
const boards = (boardM: number): Partial<Finish> => ({
  vary: { ...PLAIN_FINISH.vary, offset: true, stepM: [boardM, 0], turn: 'half', hueDeg: 3, brightness: 0.12 },
});
/** Light goes some way into it: scattering of 2.19, 2.62 and 3.00 per mm (Jensen et al. 2001, "A Practical Model for Subsurface Light Transport", table; from memory). */
const MARBLE: Partial<Finish> = { subsurfaceM: 0.00046, subsurfaceColour: [1, 0.84, 0.73] };
/** Slabs that were cut from anywhere. */
const slabs: Partial<Finish> = { vary: { ...PLAIN_FINISH.vary, offset: true, turn: 'quarter', brightness: 0.04 } };
const leaves: Partial<Finish> = { vary: { ...PLAIN_FINISH.vary, offset: true, turn: 'half', hueDeg: 2, brightness: 0.07 } };

/** How a species differs from the one that the maps are painted in. */
type Look = Pick<Partial<Finish>, 'hueDeg' | 'saturation' | 'brightness' | 'contrast'>;
const SPECIES: Readonly<Record<string, [name: string, tags: string, look: Look]>> = {
  ash: ['Ash', 'light', { saturation: 0.62, brightness: 1.35 }],
  beech: ['Beech', 'light warm', { hueDeg: -6, saturation: 0.95, brightness: 1.2, contrast: 0.85 }],
  birch: ['Birch', 'light', { saturation: 0.7, brightness: 1.5, contrast: 0.75 }],
  cherry: ['Cherry', 'warm', { hueDeg: -10, saturation: 1.35, brightness: 0.85 }],
  oak: ['Oak', '', { brightness: 1 }],
  pine: ['Pine', 'light warm', { hueDeg: 2, saturation: 0.85, brightness: 1.45, contrast: 0.9 }],
  walnut: ['Walnut', 'dark warm', { hueDeg: -4, saturation: 1, brightness: 0.4, contrast: 1.1 }],
  smoked: ['Smoked oak', 'dark', { saturation: 0.75, brightness: 0.32, contrast: 1.1 }],
};
const ofSpecies = (ids: readonly string[], make: (id: string, name: string, tags: string, look: Look) => Finish): Finish[] =>
  ids.map((id) => make(id, ...SPECIES[id]!));

// prettier-ignore
const WOOD: readonly Finish[] = [
  define('larch-boards', 'Larch boards, silvering, 120 mm', 'wood', 'outdoors matt', { maps: 'larch-boards', widthM: 0.96, heightM: 2.4, ...boards(0.12) }),
  define('larch-fresh', 'Larch boards, fresh, 120 mm', 'wood', 'outdoors matt warm', { maps: 'larch-boards', hueDeg: -3, saturation: 1.7, brightness: 1.05, widthM: 0.96, heightM: 2.4, ...boards(0.12) }),
  define('boards-charred', 'Charred boards, 120 mm', 'wood', 'outdoors matt dark', { maps: 'larch-boards', saturation: 0.15, brightness: 0.09, contrast: 1.3, roughness: 0.8, widthM: 0.96, heightM: 2.4, ...boards(0.12) }),
  define('boards-white', 'Boards, white glazed, 120 mm', 'wood', 'light matt', { maps: 'larch-boards', saturation: 0.2, brightness: 2.8, contrast: 0.8, widthM: 0.96, heightM: 2.4, ...boards(0.12) }),
  define('oak', 'Oak boards, oiled', 'wood', 'indoors floor', { maps: 'oak-boards', clearCoat: 0.3, clearCoatRoughness: 0.35, widthM: 1.2, heightM: 2.4, ...boards(0.2) }),
  ...ofSpecies(['ash', 'pine', 'walnut', 'smoked'], (id, name, tags, look) => define(`${id}-boards`, `${name} boards, oiled, 200 mm`, 'wood', `indoors floor ${tags}`, { maps: 'oak-boards', ...look, clearCoat: 0.3, clearCoatRoughness: 0.35, widthM: 1.2, heightM: 2.4, ...boards(0.2) })),
  ...ofSpecies(['oak', 'smoked', 'ash'], (id, name, tags, look) => define(`${id}-herringbone`, `${name} herringbone, 280 × 70`, 'wood', `indoors floor parquet ${tags}`, { maps: 'herringbone', ...look, clearCoat: 0.35, clearCoatRoughness: 0.3, widthM: 1.12, heightM: 1.12 })),
  ...ofSpecies(['oak', 'beech', 'walnut'], (id, name, tags, look) => define(`${id}-strips`, `${name} strip floor, 65 mm`, 'wood', `indoors floor parquet ${tags}`, { maps: 'strips', ...look, clearCoat: 0.4, clearCoatRoughness: 0.25, widthM: 1.04, heightM: 1.8 })),
  ...ofSpecies(['ash', 'birch', 'cherry', 'oak', 'walnut'], (id, name, tags, look) => define(`${id}-veneer`, `${name} veneer, lacquered`, 'wood', `indoors furniture ${tags}`, { maps: 'veneer', ...look, clearCoat: 0.6, clearCoatRoughness: 0.2, widthM: 1.2, heightM: 2.4, ...leaves })),
  ...ofSpecies(['oak', 'pine', 'smoked'], (id, name, tags, look) => define(`${id}-battens`, `${name} battens, 50 mm, open`, 'wood', `indoors outdoors wall ${tags}`, { maps: 'battens', ...look, widthM: 0.7, heightM: 2.4, ...boards(0.07) })),
];

// prettier-ignore
const BRICK: readonly Finish[] = [
  define('brick', 'Brick, red-brown, stretcher bond', 'brick', 'outdoors warm', { maps: 'brick', widthM: 1, heightM: 1 }),
  define('brick-yellow', 'Brick, straw yellow, stretcher bond', 'brick', 'outdoors light warm', { maps: 'brick', hueDeg: 16, saturation: 0.4, brightness: 2, widthM: 1, heightM: 1 }),
  define('brick-grey', 'Brick, grey, stretcher bond', 'brick', 'outdoors', { maps: 'brick', saturation: 0.15, brightness: 1.2, widthM: 1, heightM: 1 }),
  define('brick-dark', 'Brick, dark clinker, stretcher bond', 'brick', 'outdoors dark', { maps: 'brick', hueDeg: -8, saturation: 0.6, brightness: 0.4, widthM: 1, heightM: 1 }),
  define('brick-white', 'Brick, white painted', 'brick', 'outdoors indoors light', { maps: 'brick', saturation: 0.08, brightness: 4, contrast: 0.75, widthM: 1, heightM: 1 }),
  define('brick-flemish', 'Brick, red, Flemish bond', 'brick', 'outdoors warm', { maps: 'flemish-brick', widthM: 1.14, heightM: 1 }),
  define('brick-flemish-buff', 'Brick, buff, Flemish bond', 'brick', 'outdoors light warm', { maps: 'flemish-brick', hueDeg: 14, saturation: 0.4, brightness: 1.9, widthM: 1.14, heightM: 1 }),
  define('brick-long', 'Brick, long and thin, third bond', 'brick', 'outdoors', { maps: 'long-brick', saturation: 0.8, widthM: 1, heightM: 1 }),
  define('brick-long-black', 'Brick, long and thin, black', 'brick', 'outdoors dark', { maps: 'long-brick', saturation: 0.25, brightness: 0.28, widthM: 1, heightM: 1 }),
  define('brick-stacked', 'Brick, red, stacked', 'brick', 'outdoors indoors warm', { maps: 'stacked-brick', widthM: 1, heightM: 1 }),
];

// prettier-ignore
const STONE: readonly Finish[] = [
  define('stone', 'Sandstone paving, 600 × 300', 'stone', 'outdoors floor warm', { maps: 'stone', widthM: 1.2, heightM: 1.2 }),
  define('limestone', 'Limestone, honed, 600 × 300', 'stone', 'indoors floor light', { maps: 'stone', saturation: 0.6, brightness: 1.5, contrast: 0.9, roughness: 0.6, widthM: 1.2, heightM: 1.2 }),
  define('marble-white', 'Marble, white, polished', 'stone', 'indoors polished light', { ...MARBLE, maps: 'marble', widthM: 2.4, heightM: 2.4, ...slabs }),
  define('marble-green', 'Marble, green, polished', 'stone', 'indoors polished dark', { ...MARBLE, maps: 'marble', baseColour: [0.36, 0.5, 0.42], brightness: 0.55, contrast: 1.3, widthM: 2.4, heightM: 2.4, ...slabs }),
  define('granite-grey', 'Granite, grey, polished', 'stone', 'indoors outdoors polished', { maps: 'granite', widthM: 0.6, heightM: 0.6, ...slabs }),
  define('granite-red', 'Granite, red, polished', 'stone', 'indoors outdoors polished warm', { maps: 'granite', baseColour: [0.92, 0.6, 0.5], widthM: 0.6, heightM: 0.6, ...slabs }),
  define('granite-flamed', 'Granite, grey, flamed', 'stone', 'outdoors floor matt', { maps: 'granite', roughness: 1, clearCoat: 0, brightness: 1.05, widthM: 0.6, heightM: 0.6, ...slabs }),
  define('travertine', 'Travertine, honed', 'stone', 'indoors outdoors warm light', { maps: 'travertine', widthM: 1.2, heightM: 1.2, ...slabs }),
  define('terrazzo-light', 'Terrazzo, light', 'stone', 'indoors floor polished light', { maps: 'terrazzo', widthM: 0.8, heightM: 0.8 }),
  define('terrazzo-dark', 'Terrazzo, dark', 'stone', 'indoors floor polished dark', { maps: 'terrazzo', brightness: 0.28, contrast: 1.15, widthM: 0.8, heightM: 0.8 }),
  define('rubble', 'Rubble masonry', 'stone', 'outdoors rough', { maps: 'rubble', widthM: 2, heightM: 2 }),
  define('slate-slabs', 'Slate slabs, split, 600 × 300', 'stone', 'outdoors floor dark', { maps: 'slate-paving', widthM: 1.2, heightM: 1.2 }),
];

// prettier-ignore
const TILE: readonly Finish[] = [
  define('tile', 'Tile, white glazed, 150 mm', 'tile', 'indoors light', { maps: 'tile', roughness: 0.5, widthM: 0.6, heightM: 0.6 }),
  define('tile-sea', 'Tile, sea green glazed, 150 mm', 'tile', 'indoors', { maps: 'tile', baseColour: [0.45, 0.72, 0.68], roughness: 0.5, widthM: 0.6, heightM: 0.6 }),
  define('tile-bevelled', 'Tile, white, bevelled, 150 × 75', 'tile', 'indoors light', { maps: 'bevelled-tile', roughness: 0.45, widthM: 0.6, heightM: 0.6 }),
  define('tile-bevelled-black', 'Tile, black, bevelled, 150 × 75', 'tile', 'indoors dark', { maps: 'bevelled-tile', baseColour: [0.16, 0.165, 0.17], roughness: 0.45, widthM: 0.6, heightM: 0.6 }),
  define('stoneware-grey', 'Stoneware, grey, 600 mm', 'tile', 'indoors outdoors floor matt', { maps: 'large-tile', widthM: 1.2, heightM: 1.2 }),
  define('stoneware-sand', 'Stoneware, sand, 600 mm', 'tile', 'indoors outdoors floor matt warm', { maps: 'large-tile', baseColour: [1, 0.92, 0.8], widthM: 1.2, heightM: 1.2 }),
  define('stoneware-anthracite', 'Stoneware, anthracite, 600 mm', 'tile', 'indoors outdoors floor matt dark', { maps: 'large-tile', baseColour: [0.4, 0.41, 0.43], widthM: 1.2, heightM: 1.2 }),
  define('hexagon-white', 'Hexagon tile, white, 100 mm', 'tile', 'indoors floor light', { maps: 'hex-tile', roughness: 0.7, widthM: 0.6, heightM: 0.6928 }),
  define('hexagon-terracotta', 'Hexagon tile, terracotta, 100 mm', 'tile', 'indoors floor warm', { maps: 'hex-tile', baseColour: [0.78, 0.44, 0.3], roughness: 1, widthM: 0.6, heightM: 0.6928 }),
];

// prettier-ignore
const CONCRETE: readonly Finish[] = [
  define('concrete', 'Concrete, board-marked', 'concrete', 'outdoors indoors', { maps: 'concrete', widthM: 2.4, heightM: 2.4 }),
  define('concrete-cast', 'Concrete, cast smooth, 1200 panels', 'concrete', 'outdoors indoors', { maps: 'cast-concrete', widthM: 2.4, heightM: 2.4 }),
  define('concrete-white', 'Concrete, white, cast smooth', 'concrete', 'outdoors indoors light', { maps: 'cast-concrete', brightness: 1.9, contrast: 0.95, saturation: 0.7, widthM: 2.4, heightM: 2.4 }),
  define('concrete-black', 'Concrete, black pigment', 'concrete', 'outdoors indoors dark', { maps: 'cast-concrete', brightness: 0.3, widthM: 2.4, heightM: 2.4 }),
  define('concrete-red', 'Concrete, red pigment, board-marked', 'concrete', 'outdoors warm', { maps: 'concrete', baseColour: [0.92, 0.62, 0.52], widthM: 2.4, heightM: 2.4 }),
  define('concrete-exposed', 'Concrete, exposed aggregate', 'concrete', 'outdoors rough', { maps: 'exposed-aggregate', widthM: 0.6, heightM: 0.6, ...slabs }),
  define('screed', 'Screed, ground and sealed', 'concrete', 'indoors floor', { maps: 'screed', clearCoat: 0.5, clearCoatRoughness: 0.25, widthM: 3, heightM: 3 }),
  define('screed-dark', 'Screed, dark, ground and sealed', 'concrete', 'indoors floor dark', { maps: 'screed', brightness: 0.4, clearCoat: 0.5, clearCoatRoughness: 0.25, widthM: 3, heightM: 3 }),
];

// prettier-ignore
const PLASTER: readonly Finish[] = [
  define('plaster', 'Lime plaster, trowelled', 'plaster', 'indoors light matt', { maps: 'plaster', widthM: 1.5, heightM: 1.5 }),
  define('plaster-grey', 'Lime plaster, warm grey', 'plaster', 'indoors matt', { maps: 'plaster', baseColour: [0.74, 0.71, 0.67], widthM: 1.5, heightM: 1.5 }),
  define('plaster-pink', 'Lime plaster, old rose', 'plaster', 'indoors matt warm', { maps: 'plaster', baseColour: [0.86, 0.68, 0.61], widthM: 1.5, heightM: 1.5 }),
  define('render', 'Render, white, rough', 'plaster', 'outdoors light matt', { maps: 'rough-render', widthM: 1, heightM: 1 }),
  define('render-ochre', 'Render, ochre, rough', 'plaster', 'outdoors matt warm', { maps: 'rough-render', baseColour: [0.88, 0.7, 0.43], widthM: 1, heightM: 1 }),
  define('render-grey', 'Render, grey, rough', 'plaster', 'outdoors matt', { maps: 'rough-render', baseColour: [0.62, 0.62, 0.6], widthM: 1, heightM: 1 }),
  define('clay-plaster', 'Clay plaster with straw', 'plaster', 'indoors matt warm', { maps: 'clay-plaster', widthM: 1.2, heightM: 1.2 }),
];

const paint = (id: string, name: string, tags: string, baseColour: Finish['baseColour'], roughness: number): Finish =>
  define(id, `Paint, ${name}`, 'paint', `indoors ${tags}`, { baseColour, roughness });
// prettier-ignore
const PAINT: readonly Finish[] = [
  paint('paint', 'warm white, matt', 'light matt', [0.93, 0.92, 0.89], 0.75),
  paint('paint-white', 'pure white, matt', 'light matt', [0.95, 0.95, 0.95], 0.8),
  paint('paint-grey', 'pale grey, matt', 'light matt', [0.76, 0.76, 0.75], 0.75),
  paint('paint-sand', 'sand, matt', 'matt warm', [0.82, 0.74, 0.62], 0.75),
  paint('paint-sage', 'sage, matt', 'matt', [0.6, 0.65, 0.55], 0.75),
  paint('paint-sky', 'washed blue, matt', 'matt cool', [0.6, 0.7, 0.77], 0.75),
  paint('paint-navy', 'deep blue, satin', 'dark cool', [0.13, 0.18, 0.28], 0.4),
  paint('paint-brick', 'brick red, satin', 'warm', [0.6, 0.24, 0.18], 0.4),
  paint('paint-black', 'black, satin', 'dark', [0.09, 0.09, 0.095], 0.4),
  define('lacquer-white', 'Lacquer, white, high gloss', 'paint', 'indoors furniture light polished', { baseColour: [0.94, 0.94, 0.93], roughness: 0.5, clearCoat: 1, clearCoatRoughness: 0.03 }),
  define('lacquer-red', 'Lacquer, red, high gloss', 'paint', 'indoors furniture warm polished', { baseColour: [0.65, 0.08, 0.07], roughness: 0.5, clearCoat: 1, clearCoatRoughness: 0.03 }),
];

const metal = (
  id: string,
  name: string,
  tags: string,
  baseColour: Finish['baseColour'],
  roughness: number,
  maps: string | null = null,
  anisotropy = 0,
): Finish => define(id, name, 'metal', tags, { baseColour, metalness: 1, roughness, anisotropy, maps, ...(maps && { widthM: 0.4, heightM: 0.8 }) }); // prettier-ignore
// prettier-ignore
const METAL: readonly Finish[] = [
  define('zinc', 'Zinc, standing seam 430', 'metal', 'outdoors roof facade', { maps: 'seamed-zinc', metalness: 0.75, roughness: 0.55, widthM: 1.29, heightM: 1.29 }),
  define('zinc-dark', 'Zinc, pre-weathered dark, standing seam 430', 'metal', 'outdoors roof facade dark', { maps: 'seamed-zinc', metalness: 0.7, roughness: 0.6, brightness: 0.35, widthM: 1.29, heightM: 1.29 }),
  define('copper-patina', 'Copper, green patina, standing seam 500', 'metal', 'outdoors roof facade', { maps: 'patina', widthM: 1, heightM: 2 }),
  define('steel', 'Steel, painted graphite', 'metal', 'indoors outdoors dark', { baseColour: [0.21, 0.225, 0.24], roughness: 0.42 }),
  define('steel-white', 'Steel, powder-coated white', 'metal', 'indoors outdoors light', { baseColour: [0.9, 0.9, 0.89], roughness: 0.5 }),
  define('weathering-steel', 'Weathering steel', 'metal', 'outdoors facade warm', { maps: 'weathering-steel', widthM: 2, heightM: 2, ...slabs }),
  metal('stainless', 'Stainless steel, brushed', 'indoors outdoors', [0.72, 0.71, 0.69], 0.32, 'brushed', 0.75),
  metal('stainless-polished', 'Stainless steel, polished', 'indoors outdoors polished', [0.72, 0.71, 0.69], 0.08),
  define('aluminium', 'Aluminium, brushed', 'metal', 'indoors outdoors light', { maps: 'brushed', anisotropy: 0.75, baseColour: [0.88, 0.89, 0.9], metalness: 1, roughness: 0.3, widthM: 0.4, heightM: 0.8 }),
  metal('aluminium-anodised', 'Aluminium, anodised', 'outdoors facade', [0.8, 0.81, 0.82], 0.42),
  metal('bronze', 'Bronze, brushed', 'indoors outdoors warm', [0.62, 0.45, 0.28], 0.35, 'brushed', 0.7),
  metal('bronze-dark', 'Bronze, burnished dark', 'indoors outdoors warm dark', [0.3, 0.22, 0.16], 0.4),
  metal('brass', 'Brass, brushed', 'indoors warm', [0.9, 0.74, 0.43], 0.3, 'brushed', 0.7),
  metal('copper', 'Copper, new', 'outdoors warm', [0.94, 0.66, 0.54], 0.25),
  metal('chrome', 'Chrome', 'indoors polished', [0.56, 0.57, 0.58], 0.04),
  define('mirror', 'Mirror, silvered', 'metal', 'indoors polished', { baseColour: [0.95, 0.96, 0.95], metalness: 1, roughness: 0.02 }),
  define('corrugated', 'Corrugated aluminium, 76 mm', 'metal', 'outdoors facade', { maps: 'corrugated', baseColour: [0.86, 0.87, 0.88], metalness: 0.9, roughness: 0.45, widthM: 0.76, heightM: 2 }),
  define('corrugated-red', 'Corrugated steel, rust red', 'metal', 'outdoors facade warm', { maps: 'corrugated', baseColour: [0.5, 0.16, 0.12], roughness: 0.6, widthM: 0.76, heightM: 2 }),
  define('perforated', 'Perforated aluminium, 6 mm holes', 'metal', 'indoors outdoors facade', { maps: 'perforated', baseColour: [0.86, 0.87, 0.88], metalness: 1, roughness: 0.45, cutOut: true, widthM: 0.2, heightM: 0.2 }),
  define('perforated-white', 'Perforated steel, white, 6 mm holes', 'metal', 'indoors ceiling light', { maps: 'perforated', baseColour: [0.92, 0.92, 0.91], roughness: 0.6, cutOut: true, widthM: 0.2, heightM: 0.2 }),
];

// prettier-ignore
const GLASS: readonly Finish[] = [
  define('glass', 'Glass, clear', 'glass', 'window', { roughness: 0, transmission: 1, ior: 1.52, body: 'pane', baseColour: [0.99, 1, 0.995] }),
  define('glass-low-iron', 'Glass, low-iron', 'glass', 'window', { roughness: 0, transmission: 1, ior: 1.52, body: 'pane' }),
  define('glass-grey', 'Glass, grey tinted', 'glass', 'window facade dark', { roughness: 0, transmission: 1, ior: 1.52, body: 'pane', baseColour: [0.62, 0.63, 0.64] }),
  define('glass-green', 'Glass, green tinted', 'glass', 'window facade', { roughness: 0, transmission: 1, ior: 1.52, body: 'pane', baseColour: [0.74, 0.88, 0.8] }),
  define('glass-bronze', 'Glass, bronze tinted', 'glass', 'window facade warm', { roughness: 0, transmission: 1, ior: 1.52, body: 'pane', baseColour: [0.74, 0.62, 0.5] }),
  define('glass-frosted', 'Glass, frosted', 'glass', 'indoors door', { roughness: 0.45, transmission: 1, ior: 1.52, body: 'pane', baseColour: [0.96, 0.98, 0.97] }),
  define('glass-opal', 'Glass, opal white', 'glass', 'indoors light', { baseColour: [0.95, 0.95, 0.94], roughness: 0.1, diffuseTransmission: 0.5 }),
  define('lamp-glass', 'Opal lamp glass', 'glass', 'lamp', { baseColour: [0.98, 0.95, 0.9], roughness: 0.3, emissionCdM2: 4000 }),
];

const cloth = (
  id: string,
  name: string,
  tags: string,
  maps: string,
  sideM: number,
  baseColour: Finish['baseColour'],
  rest: Partial<Finish> = {},
): Finish =>
  define(id, name, 'textile', `indoors matt ${tags}`, {
    maps,
    baseColour,
    roughness: 1,
    // Fibres are lighter than the cloth, and of its colour.
    sheen: maps === 'felt' ? 0.45 : 0.25,
    sheenColour: baseColour.map((c) => c + (1 - c) * 0.5) as Finish['baseColour'],
    sheenRoughness: maps === 'felt' ? 0.7 : 0.5,
    widthM: sideM,
    heightM: sideM,
    ...rest,
  });
// prettier-ignore
const TEXTILE: readonly Finish[] = [
  cloth('wool-felt', 'Wool felt, moss', '', 'felt', 0.3, [0.38, 0.43, 0.28]),
  cloth('felt-grey', 'Wool felt, grey', '', 'felt', 0.3, [0.5, 0.5, 0.5]),
  cloth('linen-natural', 'Linen, natural', 'light warm', 'linen', 0.12, [0.82, 0.76, 0.65]),
  cloth('linen-blue', 'Linen, indigo', 'dark cool', 'linen', 0.12, [0.2, 0.26, 0.38]),
  cloth('curtain-sheer', 'Curtain, white, light comes through', 'light curtain', 'linen', 0.12, [0.95, 0.94, 0.92], { diffuseTransmission: 0.45 }),
  cloth('shade-cream', 'Roller blind, cream', 'light curtain', 'linen', 0.12, [0.93, 0.88, 0.78], { diffuseTransmission: 0.25 }),
  cloth('twill-charcoal', 'Twill, charcoal', 'dark', 'twill', 0.12, [0.2, 0.2, 0.215]),
  cloth('twill-rust', 'Twill, rust', 'warm', 'twill', 0.12, [0.6, 0.3, 0.18]),
  define('leather', 'Leather, saddle brown', 'textile', 'indoors furniture warm', { maps: 'leather', baseColour: [0.45, 0.26, 0.15], roughness: 0.6, widthM: 0.25, heightM: 0.25 }),
  define('leather-black', 'Leather, black', 'textile', 'indoors furniture dark', { maps: 'leather', baseColour: [0.1, 0.1, 0.1], roughness: 0.6, widthM: 0.25, heightM: 0.25 }),
  cloth('carpet', 'Carpet, tufted, slate', 'floor', 'carpet', 0.4, [0.35, 0.38, 0.42]),
  cloth('carpet-beige', 'Carpet, tufted, beige', 'floor light warm', 'carpet', 0.4, [0.78, 0.71, 0.6]),
  cloth('mat-anthracite', 'Entrance mat, ribbed', 'floor dark', 'ribbed-mat', 0.3, [0.24, 0.245, 0.25]),
];

// prettier-ignore
const ROOFING: readonly Finish[] = [
  define('pantiles', 'Clay pantiles, red', 'roofing', 'outdoors warm', { maps: 'pantiles', widthM: 0.86, heightM: 1.02 }),
  define('pantiles-dark', 'Clay pantiles, anthracite', 'roofing', 'outdoors dark', { maps: 'pantiles', saturation: 0.2, brightness: 0.4, widthM: 0.86, heightM: 1.02 }),
  define('slates', 'Slate roof, half bond', 'roofing', 'outdoors dark', { maps: 'slates', widthM: 1, heightM: 1.6 }),
  define('shingles', 'Cedar shingles, weathered', 'roofing', 'outdoors', { maps: 'shingles', widthM: 1, heightM: 0.9 }),
  define('shingles-new', 'Cedar shingles, new', 'roofing', 'outdoors warm', { maps: 'shingles', hueDeg: -6, saturation: 2.2, brightness: 1.1, widthM: 1, heightM: 0.9 }),
  define('membrane', 'Roof membrane, grey', 'roofing', 'outdoors', { maps: 'asphalt', brightness: 2.2, contrast: 0.6, roughness: 0.9, widthM: 1, heightM: 1 }),
];

// prettier-ignore
const PAVING: readonly Finish[] = [
  define('setts', 'Granite setts, 100 mm', 'paving', 'outdoors', { maps: 'setts', widthM: 1, heightM: 1 }),
  define('setts-dark', 'Basalt setts, 100 mm', 'paving', 'outdoors dark', { maps: 'setts', saturation: 0.8, brightness: 0.4, widthM: 1, heightM: 1 }),
  define('paving-brick', 'Clay pavers, stretcher bond', 'paving', 'outdoors warm', { maps: 'brick', hueDeg: -4, brightness: 0.8, normalScale: 0.6, widthM: 0.84, heightM: 0.84 }),
  define('paving-slabs', 'Concrete slabs, 600 mm', 'paving', 'outdoors', { maps: 'large-tile', saturation: 0.6, brightness: 0.75, roughness: 1, widthM: 1.2, heightM: 1.2 }),
  define('asphalt', 'Asphalt, assigned', 'paving', 'outdoors dark', { maps: 'asphalt', roughness: 1, widthM: 1, heightM: 1 }),
  define('asphalt-new', 'Asphalt, new', 'paving', 'outdoors dark', { maps: 'asphalt', brightness: 0.4, roughness: 0.9, widthM: 1, heightM: 1 }),
];

// prettier-ignore
const GROUND: readonly Finish[] = [
  define('grass', 'Grass, tidal meadow', 'ground', 'outdoors planting', { maps: 'grass', roughness: 1, widthM: 2.2, heightM: 2.2, normalScale: 0.7, blades: { lengthM: 0.32, widthM: 0.004, perM2: 1800, colour: [0.46, 0.5, 0.27], irregularity: 0.85 } }),
  define('lawn', 'Lawn, mown', 'ground', 'outdoors planting', { maps: 'grass', hueDeg: 8, saturation: 1.25, brightness: 0.9, contrast: 0.8, roughness: 1, widthM: 1.4, heightM: 1.4, normalScale: 0.4, blades: { lengthM: 0.05, widthM: 0.003, perM2: 5000, colour: [0.36, 0.5, 0.18], irregularity: 0.4 } }),
  define('grass-dry', 'Grass, dry', 'ground', 'outdoors planting warm', { maps: 'grass', hueDeg: -28, saturation: 0.9, brightness: 1.4, roughness: 1, widthM: 2.2, heightM: 2.2, normalScale: 0.7, blades: { lengthM: 0.3, widthM: 0.003, perM2: 1500, colour: [0.66, 0.58, 0.36], irregularity: 0.9 } }),
  define('grass-tall', 'Grass, tall, in seed', 'ground', 'outdoors planting warm', { maps: 'grass', hueDeg: -12, saturation: 0.95, brightness: 1.2, roughness: 1, widthM: 2.6, heightM: 2.6, normalScale: 0.8, blades: { lengthM: 0.55, widthM: 0.0035, perM2: 1300, colour: [0.56, 0.54, 0.32], irregularity: 0.95 } }),
  define('clover', 'Clover in short grass', 'ground', 'outdoors planting', { maps: 'grass', hueDeg: 7, saturation: 0.9, brightness: 0.85, contrast: 0.9, roughness: 1, widthM: 1.6, heightM: 1.6, normalScale: 0.6, blades: { lengthM: 0.09, widthM: 0.009, perM2: 2600, colour: [0.36, 0.46, 0.24], irregularity: 0.8 } }),
  define('soil', 'Soil, dark loam', 'ground', 'outdoors dark', { maps: 'soil', roughness: 1, widthM: 2, heightM: 2 }),
  define('gravel', 'Gravel, grey, 16 to 32 mm', 'ground', 'outdoors rough', { maps: 'gravel', widthM: 0.9, heightM: 0.9 }),
  define('gravel-warm', 'Gravel, buff, 8 to 16 mm', 'ground', 'outdoors rough warm', { maps: 'gravel', baseColour: [1, 0.86, 0.66], widthM: 0.5, heightM: 0.5 }),
  define('sand', 'Sand, rippled', 'ground', 'outdoors light warm', { maps: 'sand', widthM: 1.2, heightM: 1.2 }),
  define('snow', 'Snow', 'ground', 'outdoors light', { maps: 'snow', widthM: 2.5, heightM: 2.5 }),
];

/**
 * Estuary water. Light that leaves it: just below its face some 2 to 5 per cent of what comes down go up again, most at 550 to 580 nm
 * (coastal waters of case 2: Morel & Prieur 1977, "Analysis of variations in ocean color"; figures from memory), and 0.54 of that get out
 * (Austin 1974, as in Mobley 1994, "Light and Water"). Attenuation: 1.7 over a Secchi depth of 1.5 m (Poole & Atkins 1929), more in
 * red and blue.
 */
const LEAVES = 0.54;
const ESTUARY: Pick<Finish, 'scatteredBack' | 'attenuationColour' | 'attenuationDistanceM'> = {
  scatteredBack: [0.024 * LEAVES, 0.045 * LEAVES, 0.03 * LEAVES],
  attenuationColour: [0.58, 0.67, 0.57],
  attenuationDistanceM: 0.8,
};

// prettier-ignore
const WATER: readonly Finish[] = [
  define('water', 'Estuary water, light swell', 'water', 'outdoors', { waves: { heightM: 0.07, lengthM: 2.4, towardsDeg: 25, windMs: 3 }, ...ESTUARY, baseColour: [0.97, 0.98, 0.97], roughness: 0.02, transmission: 1, ior: 1.333, body: 'pane' }),
  define('water-still', 'Still pond', 'water', 'outdoors dark', { waves: { heightM: 0.008, lengthM: 0.9, towardsDeg: 40, windMs: 0.5 }, baseColour: [0.86, 0.93, 0.88], roughness: 0.02, transmission: 1, ior: 1.333, body: 'pane', attenuationColour: [0.2, 0.36, 0.26], attenuationDistanceM: 0.6, scatteredBack: [0.004, 0.008, 0.004] }),
  define('water-pool', 'Swimming pool', 'water', 'outdoors light', { waves: { heightM: 0.03, lengthM: 0.8, towardsDeg: 70, windMs: 0 }, baseColour: [0.95, 1, 1], roughness: 0.02, transmission: 1, ior: 1.333, body: 'pane', attenuationColour: [0.45, 0.85, 0.92], attenuationDistanceM: 1.5 }),
];

export const FINISHES: readonly Finish[] = [
  ...WOOD, ...BRICK, ...STONE, ...TILE, ...CONCRETE, ...PLASTER, ...PAINT, ...METAL, ...GLASS, ...TEXTILE, ...ROOFING, ...PAVING, ...GROUND, ...WATER,
]; // prettier-ignore
