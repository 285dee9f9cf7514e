/** What a ray has hit: world position, normals, texture coordinates and the material with its maps looked up. */
import {
  BODY_SHEET,
  CUT_FACE,
  INSTANCE_EMISSION_SCALE,
  INSTANCE_FILL,
  INSTANCE_LIGHT,
  INSTANCE_MATERIAL,
  INSTANCE_MESH,
  INSTANCE_SIZE,
  MATERIAL_SIZE,
  MAT_ABSORPTION,
  MAT_ANISOTROPY,
  MAT_ANISOTROPY_TURN,
  MAT_BASE,
  MAT_BODY,
  MAT_COAT,
  MAT_COAT_NORMAL,
  MAT_COAT_ROUGHNESS,
  MAT_DIFFUSE_THROUGH,
  MAT_EDGE_RADIUS,
  MAT_EMISSION,
  MAT_FILM,
  MAT_FILM_IOR,
  MAT_FILM_LEAST_NM,
  MAT_FILM_NM,
  MAT_FREE_PATH,
  MAT_INDEX_SPREAD,
  MAT_IOR,
  MAPS_BASE,
  MAPS_COAT_NORMAL,
  MAPS_SHEEN,
  MAPS_EMISSION,
  MAPS_FILM_COAT,
  MAPS_SPECULAR,
  MAPS_NEXT,
  MAPS_SET,
  MAPS_FACTORS,
  MAPS_SURFACE,
  MAPS_DIFFUSE_TRANSMISSION,
  MAT_MAPS,
  MAT_METALNESS,
  MAT_NORMAL_SCALE,
  MAT_OPACITY,
  MAT_PATCHED,
  MAT_RELIEF,
  MAT_ROUGHNESS,
  MAT_SHEEN,
  MAT_SHEEN_ROUGHNESS,
  MAT_SPECULAR,
  MAT_SPECULAR_COLOUR,
  MAT_THROUGH_COLOUR,
  MAT_THROUGH_OWN,
  MAT_TRANSMISSION,
  MAT_SCATTERED_BACK,
  MAT_WAVES,
  MAT_WAVE_COUNT,
  MESH_EDGES,
  MESH_INDICES,
  MESH_NORMALS,
  NO_LIGHT,
  PLANE_SIZE,
  SCENE_INSTANCES,
  SCENE_MATERIALS,
  SCENE_PLANES,
  SCENE_SRGB,
  SCENE_CAMERA,
  SCENE_TIME,
  SCENE_WIDTH,
} from './layout';
import * as colour from './adjust';
import { roundEdges } from './edges';
import { lane, normalToWorld, pointToWorld } from './face';
import * as lay from './lay';
import * as m from './maths';
import * as relief from './relief';
import { alongX, alongY, unseen, waveSlopes } from './waves';
import { texelA, texelB, texelG, texelR, sampleMap } from './texture';
import { hitDistance, hitInstance, hitLane, hitPacket, hitU, hitV, putHit } from './trace';

/** No direction has both its channels so high together: the map does not tell (see core/scene/material-pictures.ts). */
const UNTOLD: f32 = 1.9;

/** Waves run on what lies at least so level, by its normal's height. */
const LEVEL: f32 = 0.8;

export let px: f32 = 0;
export let py: f32 = 0;
export let pz: f32 = 0;
/** Geometric normal, on the side the ray came from. */
export let gx: f32 = 0;
export let gy: f32 = 0;
export let gz: f32 = 1;
/** Shading normal, on the same side. */
export let nx: f32 = 0;
export let ny: f32 = 0;
export let nz: f32 = 1;
export let backSide: bool = false;
export let triangle: i32 = 0;
export let instance: i32 = 0;
export let light: i32 = -1;

export let baseR: f32 = 0;
export let baseG: f32 = 0;
export let baseB: f32 = 0;
export let metalness: f32 = 0;
export let roughness: f32 = 1;
export let ior: f32 = 1.5;
/** Share of what the index mirrors that is mirrored, and in which colour. */
export let specular: f32 = 1;
export let specularR: f32 = 1;
export let specularG: f32 = 1;
export let specularB: f32 = 1;
export let transmission: f32 = 0;
export let diffuseThrough: f32 = 0;
/** Colour of what is scattered through. */
export let behindR: f32 = 0;
export let behindG: f32 = 0;
export let behindB: f32 = 0;
/** How much rougher one way, and which way in the world. */
export let anisotropy: f32 = 0;
export let acrossX: f32 = 0;
export let acrossY: f32 = 0;
export let acrossZ: f32 = 0;
/** Thin film: share, index, nm. */
export let film: f32 = 0;
export let filmIor: f32 = 1;
export let filmNm: f32 = 0;
export let indexSpread: f32 = 0;
export let coat: f32 = 0;
export let coatRoughness: f32 = 0;
/** Normal of the coat in the world, on the side the ray came from. */
export let coatX: f32 = 0;
export let coatY: f32 = 0;
export let coatZ: f32 = 1;
export let sheenR: f32 = 0;
export let sheenG: f32 = 0;
export let sheenB: f32 = 0;
export let sheenRoughness: f32 = 1;
/** Mean free path inside, metres; 0 in red: none. */
export let freeR: f32 = 0;
export let freeG: f32 = 0;
export let freeB: f32 = 0;
/** Share of the light on a clear body that is scattered back out of it. */
export let scatteredR: f32 = 0;
export let scatteredG: f32 = 0;
export let scatteredB: f32 = 0;
/** Variance of the slopes of waves that are too fine to be seen, both ways together. */
export let unseenSlopes: f32 = 0;
export let opacity: f32 = 1;
export let emissionR: f32 = 0;
export let emissionG: f32 = 0;
export let emissionB: f32 = 0;
export let body: i32 = 0;
export let absorptionR: f32 = 0;
export let absorptionG: f32 = 0;
export let absorptionB: f32 = 0;

/** The place on a face's relief that a path stands on, to come back to. */
let keptInstance: i32 = 0;
let keptPacket: usize = 0;
let keptLane: usize = 0;
let keptU: f32 = 0;
let keptV: f32 = 0;
/** The ray has met the relief beside the triangle through which it came in. */
export let leavesTriangle: bool = false;
/** A ray has stayed in the relief, and its map coordinates are known. */
let pinned: bool = false;

/** Shows the surface no sharper than a roughness. */
export function soften(least: f32): void {
  roughness = max(roughness, least);
  coatRoughness = max(coatRoughness, least);
}

export function holdRelief(): void {
  relief.hold();
  keptInstance = hitInstance;
  keptPacket = hitPacket;
  keptLane = hitLane;
  keptU = hitU;
  keptV = hitV;
}

/** The held face again, where a ray from its relief has met it. */
export function resolveInRelief(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): void {
  putHit(relief.length, keptInstance, keptPacket, keptLane, keptU, keptV);
  pinned = true;
  resolveHit(scene, ox, oy, oz, dx, dy, dz);
  pinned = false;
}

export function resolveHit(scene: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): void {
  relief.none();
  leavesTriangle = false;
  instance = hitInstance;
  const p = <usize>load<u32>(scene, SCENE_INSTANCES) + <usize>instance * INSTANCE_SIZE;
  if (hitLane >= CUT_FACE) {
    px = ox + dx * hitDistance;
    py = oy + dy * hitDistance;
    pz = oz + dz * hitDistance;
    resolveCutFace(scene, p);
    return;
  }
  const mesh = <usize>load<u32>(p, INSTANCE_MESH);
  triangle = load<i32>(hitPacket + hitLane * 4, 144);
  light = load<i32>(p, INSTANCE_LIGHT);
  if (light >= 0) light += triangle;

  const e1x = lane(48),
    e1y = lane(64),
    e1z = lane(80),
    e2x = lane(96),
    e2y = lane(112),
    e2z = lane(128);
  // Within the triangle, however far the eye is: along the ray the place would be as uncertain as its distance.
  pointToWorld(p, lane(0) + e1x * hitU + e2x * hitV, lane(16) + e1y * hitU + e2y * hitV, lane(32) + e1z * hitU + e2z * hitV);
  // A place in a relief lies under the face.
  px = pinned ? ox + dx * hitDistance : m.rx;
  py = pinned ? oy + dy * hitDistance : m.ry;
  pz = pinned ? oz + dz * hitDistance : m.rz;
  normalToWorld(p, e1y * e2z - e1z * e2y, e1z * e2x - e1x * e2z, e1x * e2y - e1y * e2x);
  // What has met the relief from within is on the side that it came in by.
  backSide = !pinned && m.dot(m.rx, m.ry, m.rz, dx, dy, dz) > 0;
  const side: f32 = backSide ? -1 : 1;
  gx = m.rx * side;
  gy = m.ry * side;
  gz = m.rz * side;

  const i = <usize>load<u32>(mesh, MESH_INDICES) + <usize>triangle * 12;
  const a = <usize>load<u32>(i),
    b = <usize>load<u32>(i, 4),
    c = <usize>load<u32>(i, 8);
  const w: f32 = 1 - hitU - hitV;
  const normals = <usize>load<u32>(mesh, MESH_NORMALS);
  const na = normals + a * 12,
    nb = normals + b * 12,
    nc = normals + c * 12;
  normalToWorld(
    p,
    load<f32>(na) * w + load<f32>(nb) * hitU + load<f32>(nc) * hitV,
    load<f32>(na, 4) * w + load<f32>(nb, 4) * hitU + load<f32>(nc, 4) * hitV,
    load<f32>(na, 8) * w + load<f32>(nb, 8) * hitU + load<f32>(nc, 8) * hitV,
  );
  nx = m.rx * side;
  ny = m.ry * side;
  nz = m.rz * side;
  if (m.dot(nx, ny, nz, gx, gy, gz) < <f32>0.1) {
    nx = gx;
    ny = gy;
    nz = gz;
  }
  const edges = <usize>load<u32>(mesh, MESH_EDGES);
  if (edges) {
    const radius = load<f32>(materialOf(scene, p), MAT_EDGE_RADIUS);
    if (radius > 0) {
      roundEdges(p, edges + <usize>triangle * 36, radius, w, side, nx, ny, nz);
      bend(<f32>0.1);
    }
  }
  readMaterial(scene, p, mesh, a, b, c, side, dx, dy, dz);
}

/** A cut face is matt and of the colour that its body is filled with. */
function resolveCutFace(scene: usize, p: usize): void {
  const plane = <usize>load<u32>(scene, SCENE_PLANES) + (hitLane - CUT_FACE) * PLANE_SIZE;
  gx = nx = load<f32>(plane);
  gy = ny = load<f32>(plane, 4);
  gz = nz = load<f32>(plane, 8);
  backSide = false;
  triangle = 0;
  light = NO_LIGHT;
  setWhite();
  unseenSlopes = 0;
  scatteredR = scatteredG = scatteredB = 0;
  emissionR = emissionG = emissionB = 0;
  absorptionR = absorptionG = absorptionB = 0;
  opacity = 1;
  body = BODY_SHEET;
  const fill = load<u32>(p, INSTANCE_FILL),
    srgb = <usize>load<u32>(scene, SCENE_SRGB) + 1024;
  baseR = load<f32>(srgb + <usize>((fill >> 16) & 255) * 4);
  baseG = load<f32>(srgb + <usize>((fill >> 8) & 255) * 4);
  baseB = load<f32>(srgb + <usize>(fill & 255) * 4);
}

// @ts-ignore: decorator
@inline
function materialOf(scene: usize, p: usize): usize {
  return <usize>load<u32>(scene, SCENE_MATERIALS) + <usize>load<i32>(p, INSTANCE_MATERIAL) * MATERIAL_SIZE;
}

function readMaterial(scene: usize, p: usize, mesh: usize, a: usize, b: usize, c: usize, side: f32, dx: f32, dy: f32, dz: f32): void {
  const q = materialOf(scene, p);
  baseR = load<f32>(q, MAT_BASE);
  baseG = load<f32>(q, MAT_BASE + 4);
  baseB = load<f32>(q, MAT_BASE + 8);
  metalness = load<f32>(q, MAT_METALNESS);
  roughness = load<f32>(q, MAT_ROUGHNESS);
  ior = load<f32>(q, MAT_IOR);
  specular = load<f32>(q, MAT_SPECULAR);
  specularR = load<f32>(q, MAT_SPECULAR_COLOUR);
  specularG = load<f32>(q, MAT_SPECULAR_COLOUR + 4);
  specularB = load<f32>(q, MAT_SPECULAR_COLOUR + 8);
  transmission = load<f32>(q, MAT_TRANSMISSION);
  diffuseThrough = load<f32>(q, MAT_DIFFUSE_THROUGH);
  film = load<f32>(q, MAT_FILM);
  filmIor = load<f32>(q, MAT_FILM_IOR);
  filmNm = load<f32>(q, MAT_FILM_NM);
  indexSpread = load<f32>(q, MAT_INDEX_SPREAD);
  coat = load<f32>(q, MAT_COAT);
  coatRoughness = load<f32>(q, MAT_COAT_ROUGHNESS);
  coatX = nx;
  coatY = ny;
  coatZ = nz;
  behindR = load<f32>(q, MAT_THROUGH_COLOUR);
  behindG = load<f32>(q, MAT_THROUGH_COLOUR + 4);
  behindB = load<f32>(q, MAT_THROUGH_COLOUR + 8);
  sheenR = load<f32>(q, MAT_SHEEN);
  sheenG = load<f32>(q, MAT_SHEEN + 4);
  sheenB = load<f32>(q, MAT_SHEEN + 8);
  sheenRoughness = load<f32>(q, MAT_SHEEN_ROUGHNESS);
  freeR = load<f32>(q, MAT_FREE_PATH);
  freeG = load<f32>(q, MAT_FREE_PATH + 4);
  freeB = load<f32>(q, MAT_FREE_PATH + 8);
  opacity = load<f32>(q, MAT_OPACITY);
  const glow = load<f32>(p, INSTANCE_EMISSION_SCALE);
  emissionR = load<f32>(q, MAT_EMISSION) * glow;
  emissionG = load<f32>(q, MAT_EMISSION + 4) * glow;
  emissionB = load<f32>(q, MAT_EMISSION + 8) * glow;
  body = load<i32>(q, MAT_BODY);
  absorptionR = load<f32>(q, MAT_ABSORPTION);
  absorptionG = load<f32>(q, MAT_ABSORPTION + 4);
  absorptionB = load<f32>(q, MAT_ABSORPTION + 8);
  anisotropy = load<f32>(q, MAT_ANISOTROPY);
  scatteredR = load<f32>(q, MAT_SCATTERED_BACK);
  scatteredG = load<f32>(q, MAT_SCATTERED_BACK + 4);
  scatteredB = load<f32>(q, MAT_SCATTERED_BACK + 8);
  unseenSlopes = 0;
  if (load<i32>(q, MAT_MAPS + MAPS_BASE) >= 0 || anisotropy > 0) readMaps(scene, p, q, mesh, a, b, c, side, dx, dy, dz);
  const waves = <usize>load<u32>(q, MAT_WAVES);
  if (waves && abs(gz) >= LEVEL) {
    waveSlopes(waves, load<i32>(q, MAT_WAVE_COUNT), px, py, load<f32>(scene, SCENE_TIME), dx, dy, dz, hitDistance * pixelWidth(scene));
    unseenSlopes = unseen;
    const up: f32 = gz > 0 ? 1 : -1;
    m.normalise(nx - alongX * up, ny - alongY * up, nz);
    bend(<f32>0.05);
  }
  colour.adjust(p, q, baseR, baseG, baseB);
  baseR = colour.baseR;
  baseG = colour.baseG;
  baseB = colour.baseB;
  if (diffuseThrough > 0 && !load<i32>(q, MAT_THROUGH_OWN)) {
    behindR = baseR;
    behindG = baseG;
    behindB = baseB;
  }
}

/** Metres that a pixel in the middle of the picture is wide, a metre away. */
// @ts-ignore: decorator
@inline
function pixelWidth(scene: usize): f32 {
  const c = scene + SCENE_CAMERA;
  const half = m.dot(load<f32>(c, 24), load<f32>(c, 28), load<f32>(c, 32), load<f32>(c, 24), load<f32>(c, 28), load<f32>(c, 32));
  return (2 * sqrt<f32>(half)) / <f32>max(1, load<i32>(scene, SCENE_WIDTH));
}

/** Takes the normal in maths.r*, unless it turns further from the face than to the least cosine. */
// @ts-ignore: decorator
@inline
function bend(least: f32): void {
  if (m.dot(m.rx, m.ry, m.rz, gx, gy, gz) < least) return;
  nx = m.rx;
  ny = m.ry;
  nz = m.rz;
}


/** The coat has normals of its own. */
let coatOwn: bool = false;

function readMaps(
  scene: usize, p: usize, q: usize, mesh: usize, a: usize, b: usize, c: usize, side: f32,
  dx: f32, dy: f32, dz: f32,
): void {
  let maps = q + MAT_MAPS;
  lay.place(p, q, mesh, 0, a, b, c);
  if (!lay.laid) anisotropy = 0;
  if (anisotropy > 0) layGrain(load<f32>(q, MAT_ANISOTROPY_TURN), load<f32>(q, MAT_ANISOTROPY_TURN + 4));
  const patched = load<i32>(q, MAT_PATCHED) != 0;
  const deep = load<f32>(q, MAT_RELIEF),
    surfaceMap = load<i32>(maps, MAPS_SURFACE);
  if (deep > 0 && surfaceMap >= 0 && !backSide && lay.laid) {
    lay.layRelief(surfaceMap, patched, deep, gx, gy, gz);
    if (pinned) relief.pin(relief.s, relief.t);
    else {
      relief.descend(scene, lay.s, lay.t, dx, dy, dz);
      leavesTriangle = lay.leaves(relief.s, relief.t);
      px += dx * relief.length;
      py += dy * relief.length;
      pz += dz * relief.length;
    }
    lay.moveTo(relief.s, relief.t);
  }
  coatOwn = false;
  takeMaps(scene, q, maps, patched, side);
  // Only what is told by the first set can be a pattern that is laid in patches.
  for (maps = <usize>load<u32>(maps, MAPS_NEXT); maps; maps = <usize>load<u32>(maps, MAPS_NEXT)) {
    lay.place(p, q, mesh, load<i32>(maps, MAPS_SET), a, b, c);
    takeMaps(scene, q, maps, false, side);
  }
  if (coat > 0 && !coatOwn) {
    // A coat without normals of its own follows what is under it.
    const follows = load<f32>(q, MAT_COAT_NORMAL);
    m.normalise(coatX + (nx - coatX) * follows, coatY + (ny - coatY) * follows, coatZ + (nz - coatZ) * follows);
    bendCoat();
  }
}

/** Takes what maps by one set of coordinates tell at the place that is shown. */
function takeMaps(scene: usize, q: usize, maps: usize, patched: bool, side: f32): void {
  const s = lay.s,
    t = lay.t;
  const baseMap = load<i32>(maps, MAPS_BASE);
  if (baseMap >= 0) {
    sampleMap(scene, baseMap, patched, s, t);
    baseR *= texelR;
    baseG *= texelG;
    baseB *= texelB;
    opacity *= texelA;
  }
  const packedFactorsMap = load<i32>(maps, MAPS_FACTORS);
  if (packedFactorsMap >= 0) {
    sampleMap(scene, packedFactorsMap, patched, s, t);
    metalness *= texelR;
    coat *= texelG;
    transmission *= texelB;
  }
  const emissionMap = load<i32>(maps, MAPS_EMISSION);
  if (emissionMap >= 0) {
    sampleMap(scene, emissionMap, patched, s, t);
    emissionR *= texelR;
    emissionG *= texelG;
    emissionB *= texelB;
  }
  const filmAndCoatMap = load<i32>(maps, MAPS_FILM_COAT);
  if (filmAndCoatMap >= 0) {
    sampleMap(scene, filmAndCoatMap, patched, s, t);
    const least = load<f32>(q, MAT_FILM_LEAST_NM);
    filmNm = least + (filmNm - least) * texelR;
    coatRoughness *= texelG;
    film *= texelB;
  }
  const sheenMap = load<i32>(maps, MAPS_SHEEN);
  if (sheenMap >= 0) {
    sampleMap(scene, sheenMap, patched, s, t);
    sheenR *= texelR;
    sheenG *= texelG;
    sheenB *= texelB;
    sheenRoughness = max<f32>(<f32>0.1, sheenRoughness * texelA);
  }
  const specularMap = load<i32>(maps, MAPS_SPECULAR);
  if (specularMap >= 0) {
    sampleMap(scene, specularMap, patched, s, t);
    specularR *= texelR;
    specularG *= texelG;
    specularB *= texelB;
    specular *= texelA;
  }
  const diffuseTransmissionMap = load<i32>(maps, MAPS_DIFFUSE_TRANSMISSION);
  if (diffuseTransmissionMap >= 0) {
    sampleMap(scene, diffuseTransmissionMap, patched, s, t);
    behindR *= texelR;
    behindG *= texelG;
    behindB *= texelB;
    diffuseThrough *= texelA;
  }
  const surfaceMap = load<i32>(maps, MAPS_SURFACE);
  if (surfaceMap >= 0) {
    sampleMap(scene, surfaceMap, patched, s, t);
    roughness *= texelB;
    if (tilted(nx, ny, nz, load<f32>(q, MAT_NORMAL_SCALE), side)) bend(<f32>0.05);
  }
  const coatNormalMap = load<i32>(maps, MAPS_COAT_NORMAL);
  if (coatNormalMap < 0 || (coat <= 0 && anisotropy <= 0)) return;
  sampleMap(scene, coatNormalMap, patched, s, t);
  const x = texelB * 2 - <f32>1.003922,
    y = texelA * 2 - <f32>1.003922;
  if (texelR + texelG < UNTOLD) {
    coatOwn = true;
    if (tilted(coatX, coatY, coatZ, load<f32>(q, MAT_COAT_NORMAL), side)) bendCoat();
  }
  if (anisotropy <= 0 || !lay.laid || texelB + texelA > UNTOLD) return;
  anisotropy *= min<f32>(1, sqrt<f32>(x * x + y * y));
  const across = load<f32>(q, MAT_ANISOTROPY_TURN),
    along = load<f32>(q, MAT_ANISOTROPY_TURN + 4);
  layGrain(across * x - along * y, along * x + across * y);
}

function layGrain(across: f32, along: f32): void {
  lay.layAcross(across, along);
  acrossX = m.rx;
  acrossY = m.ry;
  acrossZ = m.rz;
}

/** Takes the coat's normal in maths.r*, unless it turns away from the face. */
// @ts-ignore: decorator
@inline
function bendCoat(): void {
  if (m.dot(m.rx, m.ry, m.rz, gx, gy, gz) < <f32>0.05) return;
  coatX = m.rx;
  coatY = m.ry;
  coatZ = m.rz;
}

/** Leaves a normal, tilted by red and green of the map just looked up, in maths.r*; false where it is not tilted. */
function tilted(x: f32, y: f32, z: f32, scale: f32, side: f32): bool {
  const mx = (texelR * 2 - <f32>1.003922) * scale,
    my = (texelG * 2 - <f32>1.003922) * scale;
  if (!lay.laid || (mx == 0 && my == 0)) return false;
  lay.tilt(x, y, z, mx, my, side);
  return true;
}

/** Bends one of three colours only: 0 red, 1 green, 2 blue. */
export function bendOnly(colour: i32): void {
  ior += <f32>(colour - 1) * indexSpread;
}

/** What is clear of a surface: all that is not metal may be. */
// @ts-ignore: decorator
@inline
export function clearShare(): f32 {
  return transmission * (1 - metalness);
}

/** The light that meets what is not clear of it meets an opaque surface. */
export function dropTransmission(): void {
  metalness = min<f32>(1, metalness / max<f32>(<f32>1e-6, 1 - clearShare()));
  transmission = 0;
}

/** Leaves of a surface what lies over its body: varnish and fibres. */
export function dropBody(): void {
  baseR = baseG = baseB = 0;
  metalness = transmission = diffuseThrough = specular = film = freeR = 0;
}

/** Another normal at the same place. */
export function tilt(x: f32, y: f32, z: f32): void {
  nx = x;
  ny = y;
  nz = z;
}

/** A matt white surface without an interface, for measuring. */
export function setWhite(): void {
  baseR = baseG = baseB = 1;
  metalness = 0;
  roughness = 1;
  ior = 1;
  specular = 0;
  specularR = specularG = specularB = 1;
  behindR = behindG = behindB = 1;
  transmission = 0;
  diffuseThrough = 0;
  anisotropy = 0;
  film = 0;
  coat = 0;
  sheenR = sheenG = sheenB = 0;
  freeR = freeG = freeB = 0;
}

export function setTest(base: f32, metal: f32, rough: f32, index: f32, through: f32): void {
  setWhite();
  baseR = baseG = baseB = base;
  metalness = metal;
  roughness = rough;
  ior = index;
  specular = 1;
  transmission = through;
}

/** A test material that is brushed along local y. */
export function setTestAnisotropy(strength: f32): void {
  anisotropy = strength;
}

/** Further parts of a test material. */
export function setTestLayers(clearCoat: f32, rough: f32, through: f32): void {
  coat = clearCoat;
  coatRoughness = rough;
  diffuseThrough = through;
  behindR = baseR;
  behindG = baseG;
  behindB = baseB;
}

export function setTestSpecular(share: f32, red: f32, green: f32, blue: f32): void {
  specular = share;
  specularR = red;
  specularG = green;
  specularB = blue;
}

export function setTestFilm(share: f32, index: f32, nm: f32): void {
  film = share;
  filmIor = index;
  filmNm = nm;
}

export function setTestSheen(colour: f32, rough: f32): void {
  sheenR = sheenG = sheenB = colour;
  sheenRoughness = rough;
}
