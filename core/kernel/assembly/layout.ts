/**
 * Byte layout of everything the host writes and the kernel reads; both import it from here. LAYOUT_VERSION lets the host
 * refuse a kernel that was compiled from another layout.
 */
export const LAYOUT_VERSION: i32 = 30;

/**
 * BVH4 node: six f32x4 planes (minX maxX minY maxY minZ maxZ), then i32x4 children: >= 0 the byte offset of a node; < 0, with
 * its bits turned, the byte offset of a packet, or in the tree over instances the number of one. Then the frame of the planes:
 * u xyz and its main axis, 1 to 3, in which they are sheared (see slant.ts); 0: they are upright. Lanes without a child are NaN.
 */
export const NODE_SIZE: usize = 128;
export const NODE_SHEAR: usize = 112;
/** Four triangles: vertex0 xyz, edge1 xyz, edge2 xyz as f32x4 each, then i32x4 triangle ids (-1 unused). */
export const PACKET_SIZE: usize = 160;
/** Primitive bounds: min xyz + pad, max xyz + pad. */
export const BOUNDS_SIZE: usize = 32;

/** Mesh record: nodes, packets, normals, uvs (set after set), indices (pointers). */
export const MESH_NODES: usize = 0;
export const MESH_PACKETS: usize = 4;
export const MESH_NORMALS: usize = 8;
export const MESH_UVS: usize = 12;
export const MESH_INDICES: usize = 16;
/** Normals beyond the sharp edges of each triangle, f32x9 (see core/geometry/edge-normals.ts); 0: not known. */
export const MESH_EDGES: usize = 20;
/** Bytes of one set of uvs, and how many there are. */
export const MESH_UV_BYTES: usize = 24;
export const MESH_UV_SETS: usize = 28;
export const MESH_SIZE: usize = 32;

/**
 * Instance: world->object rows (3x4 f32), object->world rows (3x4 f32), mesh pointer, material, mask, light, glow, scale,
 * offset and turn of texture coordinates, turn of hue, brightness.
 */
export const INSTANCE_SIZE: usize = 160;
export const INSTANCE_INVERSE: usize = 0;
export const INSTANCE_FORWARD: usize = 48;
export const INSTANCE_MESH: usize = 96;
export const INSTANCE_MATERIAL: usize = 100;
export const INSTANCE_MASK: usize = 104;
export const INSTANCE_LIGHT: usize = 108;
export const INSTANCE_EMISSION_SCALE: usize = 112;
export const INSTANCE_UV_SCALE: usize = 116;
/** Metres. */
export const INSTANCE_UV_OFFSET: usize = 120;
/** Cosine and sine. */
export const INSTANCE_UV_TURN: usize = 128;
export const INSTANCE_HUE: usize = 136;
export const INSTANCE_BRIGHTNESS: usize = 144;
/** Bit by bit, which of the scene's planes cut it; and what its cut face is filled with, sRGB with red first, and 1 << 24; 0: it is no closed body. */
export const INSTANCE_CUT: usize = 148;
export const INSTANCE_FILL: usize = 152;
/** Number of the luminaire whose lens it is, 0: of none. */
export const INSTANCE_LENS: usize = 156;

export const MASK_OPAQUE: i32 = 1;
export const MASK_CLEAR: i32 = 2;
/** Lenses of lamps: seen, but in nobody's way, because the lamp behind them is a light of its own. */
export const MASK_LENS: i32 = 4;
/** Ground, which is filled below where planes cut it. */
export const MASK_EARTH: i32 = 8;
/** Everything but grass, which does not grow where this lies over its root. */
export const MASK_STANDS: i32 = 16;

/** What a hit has for its lane if it is on a cut face: this and the number of the plane. */
export const CUT_FACE: usize = 4;
/** Cutting plane, f32: unit normal towards what is cut away, and its distance from the origin along it. */
export const PLANE_SIZE: usize = 16;

/** Material, linear Rec.709, emission in cd/m2, absorption in 1/m. */
export const MATERIAL_SIZE: usize = 320;
export const MAT_BASE: usize = 0;
export const MAT_METALNESS: usize = 12;
export const MAT_ROUGHNESS: usize = 16;
export const MAT_IOR: usize = 20;
export const MAT_TRANSMISSION: usize = 24;
export const MAT_OPACITY: usize = 28;
export const MAT_EMISSION: usize = 32;
export const MAT_BODY: usize = 44;
export const MAT_ABSORPTION: usize = 48;
export const MAT_UV_SCALE: usize = 60;
export const MAT_UV_ROTATION: usize = 68;
export const MAT_UV_OFFSET: usize = 76;
export const MAT_NORMAL_SCALE: usize = 84;
export const MAT_SPECULAR: usize = 88;
export const MAT_SPECULAR_COLOUR: usize = 92;
export const MAT_DIFFUSE_THROUGH: usize = 104;
/** 1 if what is scattered through has a colour of its own, and that. */
export const MAT_THROUGH_OWN: usize = 108;
export const MAT_THROUGH_COLOUR: usize = 112;
export const MAT_COAT: usize = 124;
export const MAT_COAT_ROUGHNESS: usize = 128;
/** How much the coat follows its normals, or those under it. */
export const MAT_COAT_NORMAL: usize = 132;
/** 1 if the colour is adjusted: by a matrix of three rows, then by contrast. */
export const MAT_ADJUSTED: usize = 136;
export const MAT_CONTRAST: usize = 140;
export const MAT_ADJUSTMENT: usize = 144;
/** 1 if the maps are laid in moved patches, see core/finish/hex-tiling.ts. */
export const MAT_PATCHED: usize = 180;
/** Sheen of cloth: its colour, then its roughness. */
export const MAT_SHEEN: usize = 184;
export const MAT_SHEEN_ROUGHNESS: usize = 196;
/** Metres from the face down to where the height map is 0; 0: it is flat. */
export const MAT_RELIEF: usize = 200;
/** Table of waves (see core/finish/waves.ts) and their number; 0: none. */
export const MAT_WAVES: usize = 204;
export const MAT_WAVE_COUNT: usize = 208;
/** How much rougher it is one way, and cosine and sine of that way in the maps' plane. */
export const MAT_ANISOTROPY: usize = 212;
export const MAT_ANISOTROPY_TURN: usize = 216;
/** 1 if the maps begin at the world's origin. */
export const MAT_FROM_WORLD: usize = 224;
/** Metres by which sharp edges are rounded. */
export const MAT_EDGE_RADIUS: usize = 228;
/** Mean free path of light inside it, metres for red, green and blue; 0: its light comes back where it came in. */
export const MAT_FREE_PATH: usize = 232;
/** Thin film: its share, index, and thickness in nm, the least of it where a map tells. */
export const MAT_FILM: usize = 244;
export const MAT_FILM_IOR: usize = 248;
export const MAT_FILM_NM: usize = 252;
export const MAT_FILM_LEAST_NM: usize = 256;
/** Between the index for green and that for red or blue. */
export const MAT_INDEX_SPREAD: usize = 260;
/** Share of the light on it that what floats in it scatters back out, red, green and blue. */
export const MAT_SCATTERED_BACK: usize = 308;
/** Its maps by the first set of uvs: see MAPS_SIZE. */
export const MAT_MAPS: usize = 264;

/** Maps by one set of uvs (see MapSet): their numbers, -1 for none; the set's number; pointer to those by another set, or 0. */
export const MAPS_SIZE: usize = 44;
export const MAPS_BASE: usize = 0;
export const MAPS_SURFACE: usize = 4;
export const MAPS_FACTORS: usize = 8;
export const MAPS_EMISSION: usize = 12;
export const MAPS_FILM_COAT: usize = 16;
export const MAPS_SHEEN: usize = 20;
export const MAPS_COAT_NORMAL: usize = 24;
export const MAPS_SPECULAR: usize = 28;
export const MAPS_DIFFUSE_TRANSMISSION: usize = 32;
export const MAPS_SET: usize = 36;
export const MAPS_NEXT: usize = 40;

/** Steps of the tables of albedos each way, and a row of means. */
export const TABLE_STEPS: usize = 16;
/** Of the table of sheen's albedos, behind that of sRGB (512 values), and of that of facets (pairs). */
export const SHEEN_TABLE: usize = 2048;
export const FACET_TABLE: usize = 3136;

export const BODY_SHEET: i32 = 0;
export const BODY_PANE: i32 = 1;
export const BODY_SOLID: i32 = 2;

/** What an instance has instead of the number of its first light: it sheds no light, or only what paths find. */
export const NO_LIGHT: i32 = -1;
export const LIGHT_OF_PATHS: i32 = -2;

/** Texture: pointer to RGBA8 texels, width, height, 1 if sRGB-coded; its linear mean (rgba). */
export const TEXTURE_SIZE: usize = 32;
export const TEXTURE_MEAN: usize = 16;

/**
 * Light: kind; then a lamp (position, radius, axis, cosInner, cosOuter) or a triangle (vertex, edge 1, edge 2);
 * then intensity in cd or radiance in cd/m2, probability of being picked, area in m2.
 */
export const LIGHT_SIZE: usize = 88;
export const LIGHT_KIND: usize = 0;
export const LIGHT_POSITION: usize = 4;
export const LIGHT_RADIUS: usize = 16;
export const LIGHT_AXIS: usize = 20;
export const LIGHT_COS_INNER: usize = 32;
export const LIGHT_COS_OUTER: usize = 36;
export const LIGHT_EDGE_1: usize = 16;
export const LIGHT_EDGE_2: usize = 28;
export const LIGHT_POWER: usize = 40;
export const LIGHT_PROBABILITY: usize = 52;
export const LIGHT_AREA: usize = 56;
/** Of a lamp that was measured: its grid (see core/lamp/web-grid.ts), and the direction of its plane C0. */
export const LIGHT_WEB: usize = 60;
export const LIGHT_RIGHT: usize = 64;
/** Of a flat lamp: half its length across C0, and half its width along it; a disc has a length below 0. */
export const LIGHT_HALF_LENGTH: usize = 76;
export const LIGHT_HALF_WIDTH: usize = 80;
/** Number of the luminaire that a lamp belongs to, as its lens has it. */
export const LIGHT_LENS: usize = 84;
export const LIGHT_IS_LAMP: i32 = 0;

/** Film pixel, f32: radiance sum rgb, sample count; albedo sum rgb, feature count; normal sum xyz, depth sum. */
export const PIXEL_SIZE: usize = 48;
export const PIXEL_COUNT: usize = 12;
export const PIXEL_ALBEDO: usize = 16;
export const PIXEL_FEATURES: usize = 28;
export const PIXEL_NORMAL: usize = 32;
export const PIXEL_DEPTH: usize = 44;

/**
 * Moving picture, see moving.ts: films of what is seen and of light (pointers), the light without noise (f32x4), what was kept of the
 * picture before or 0, what is kept of this one, the picture (f32x4); width and height of what is seen, of light, of what was kept; the
 * camera of then (as SCENE_CAMERA).
 */
export const MOVING_SIZE: usize = 128;
/** Room to put the light together in, LIT_SIZE a pixel. */
export const MOVING_LIT: usize = 96;
export const LIT_SIZE: usize = 48;
export const MOVING_SEEN: usize = 0;
export const MOVING_LIGHT: usize = 4;
export const MOVING_CLEAN: usize = 8;
export const MOVING_BEFORE: usize = 12;
export const MOVING_KEPT: usize = 16;
export const MOVING_OUT: usize = 20;
export const MOVING_WIDTH: usize = 24;
export const MOVING_HEIGHT: usize = 28;
export const MOVING_LIGHT_WIDTH: usize = 32;
export const MOVING_LIGHT_HEIGHT: usize = 36;
export const MOVING_BEFORE_WIDTH: usize = 40;
export const MOVING_BEFORE_HEIGHT: usize = 44;
export const MOVING_CAMERA: usize = 48;
/** Of each pixel is kept: light over colour and how many pictures it is of; normal and distance. */
export const KEPT_SIZE: usize = 32;

/** Working memory of a thread's ray traversal, bytes. */
export const TRACE_SCRATCH: usize = 8192;

/** Of the denoising network, see unet.ts: tiles that are taken at once, the most channels that a layer reads, and a thread's working memory. */
export const NETWORK_TILES: i32 = 16;
export const NETWORK_CHANNELS: usize = 160;
export const NETWORK_SCRATCH: usize = 180224;
/** A pixel of what the network is given: light, albedo and normal as it was taught to read them, and three zeros; f32. */
export const NETWORK_INPUTS: i32 = 12;
/** Channels of what it gives back, of which the first three are light; f32. */
export const NETWORK_OUTPUTS: i32 = 8;

/**
 * Layer: pointer to a picture of half the size or 0, its channels; pointer to one of the full size, its channels; pointer to what
 * comes out, its channels, 1 if that is halved; weights [block of 8 output channels][place of 16][input channel][8] and biases
 * (pointers); width and height of what is read.
 */
export const LAYER_SIZE: usize = 64;
export const LAYER_LOW: usize = 0;
export const LAYER_LOW_CHANNELS: usize = 4;
export const LAYER_SOURCE: usize = 8;
export const LAYER_SOURCE_CHANNELS: usize = 12;
export const LAYER_TARGET: usize = 16;
export const LAYER_CHANNELS: usize = 20;
export const LAYER_HALVED: usize = 24;
export const LAYER_WEIGHTS: usize = 28;
export const LAYER_BIAS: usize = 32;
export const LAYER_WIDTH: usize = 36;
export const LAYER_HEIGHT: usize = 40;

export const SCENE_TLAS_NODES: usize = 0;
export const SCENE_INSTANCES: usize = 8;
export const SCENE_INSTANCE_COUNT: usize = 12;
export const SCENE_MATERIALS: usize = 16;
export const SCENE_TEXTURES: usize = 20;
export const SCENE_SKY: usize = 24;
export const SCENE_SKY_WIDTH: usize = 28;
export const SCENE_SKY_HEIGHT: usize = 32;
export const SCENE_SKY_ROWS: usize = 36;
export const SCENE_SKY_COLUMNS: usize = 40;
export const SCENE_SKY_NORMALISER: usize = 44;
export const SCENE_SUN_DIRECTION: usize = 48;
/** 1 less the cosine of the disc's radius: of the cosine itself single precision leaves too little. */
export const SCENE_SUN_VERSINE: usize = 60;
export const SCENE_SUN_RADIANCE: usize = 64;
export const SCENE_SUN_ON: usize = 76;
export const SCENE_LIGHTS: usize = 80;
export const SCENE_LIGHT_COUNT: usize = 84;
export const SCENE_LIGHT_CDF: usize = 88;
export const SCENE_MAX_DEPTH: usize = 96;
export const SCENE_SEED: usize = 100;
export const SCENE_SRGB: usize = 104;
export const SCENE_HAS_CLEAR: usize = 108;
export const SCENE_CAMERA: usize = 112;
export const SCENE_FILM: usize = 172;
export const SCENE_WIDTH: usize = 176;
export const SCENE_HEIGHT: usize = 180;
/** 1: paths leave out what shines by itself where it is seen, or mirrored smoothly. */
export const SCENE_LIT_ONLY: usize = 92;
/** Seconds, for what moves. */
export const SCENE_TIME: usize = 184;
/** Fog: extinction at its base, 1/m, 0: none; by how much it thins a metre up, 1/m; what it scatters of each colour; its glow by all but the sun, cd/m2. */
export const SCENE_FOG: usize = 188;
export const SCENE_FOG_FALLOFF: usize = 192;
export const SCENE_FOG_ALBEDO: usize = 196;
export const SCENE_FOG_GLOW: usize = 208;
/** Clouds: texels of what they let through (f32, square) or 0; their side; metres over which they repeat; height; where they have drifted to. */
export const SCENE_CLOUDS: usize = 220;
export const SCENE_CLOUDS_SIZE: usize = 224;
export const SCENE_CLOUDS_REPEAT: usize = 228;
export const SCENE_CLOUDS_HEIGHT: usize = 232;
export const SCENE_CLOUDS_DRIFT: usize = 236;
/** The disc is the moon: unit vector to the sun that lights it; zeros: it is the sun. */
export const SCENE_MOON_LIT: usize = 244;
/** 1: stars are seen. */
export const SCENE_STARS: usize = 256;
/** What is seen in place of the sky, laid out as it: texels or 0, width, height. */
export const SCENE_BACKDROP: usize = 260;
export const SCENE_BACKDROP_WIDTH: usize = 264;
export const SCENE_BACKDROP_HEIGHT: usize = 268;
/** How places of the picture become directions: one of PROJECTION_*. */
export const SCENE_PROJECTION: usize = 272;
/** Metres by which an eye of a pair stands to the right of the middle, all round. */
export const SCENE_EYE: usize = 276;
/** The film is a window of a picture: its left upper corner and the picture's size, pixels. */
export const SCENE_LEFT: usize = 280;
export const SCENE_TOP: usize = 284;
export const SCENE_FULL_WIDTH: usize = 288;
export const SCENE_FULL_HEIGHT: usize = 292;
/** What light of a picture's samples is of, PARTS_SIZE a pixel of the film; 0: that is not asked. */
export const SCENE_PARTS: usize = 296;
/** Thin lens: radius of its opening, 0: a pinhole; how far ahead of it what is sharp lies; metres. */
export const SCENE_LENS_RADIUS: usize = 304;
export const SCENE_FOCUS: usize = 308;
/** Planes that cut, PLANE_SIZE each; which of them cut the ground, bit by bit, where it is filled. */
export const SCENE_PLANES: usize = 312;
export const SCENE_EARTH: usize = 316;
/** What is nearer than this, along the view, is not seen; metres. */
export const SCENE_NEAR: usize = 320;
/** Height at which fog is as thick as SCENE_FOG says, metres. */
export const SCENE_FOG_BASE: usize = 324;
export const SCENE_SIZE: usize = 336;

export const PROJECTION_PERSPECTIVE: i32 = 0;
export const PROJECTION_ORTHOGRAPHIC: i32 = 1;
export const PROJECTION_EQUIRECTANGULAR: i32 = 2;

/** Sums over samples, f32: rgb that shines by itself where it is seen, one left out, rgb that lights what is seen directly. */
export const PARTS_SIZE: usize = 32;

/**
 * Channels of a pixel, f32: distance in metres, place xyz, normal xyz, base colour rgb; number of the instance (i32), -1: the sky.
 */
export const CHANNELS_SIZE: usize = 48;
export const CHANNELS_INSTANCE: usize = 40;
