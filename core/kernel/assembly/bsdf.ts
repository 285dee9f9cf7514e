/**
 * The finish as a scattering function: a clear coat over GGX reflection, a diffuse base under it that scatters to both sides,
 * and rough thin transmission.
 * Directions are local to the shading frame (z = normal), pointing away from the surface.
 * Microfacets: Walter et al. 2007; visible normals: Heitz 2018, wider along x where the surface is brushed along y (Burley 2012,
 * "Physically Based Shading at Disney"); parameters as in the glTF 2.0 specification, appendix B, KHR_materials_anisotropy and KHR_materials_specular.
 * The diffuse base is coupled to the specular coat as in Kelemen & Szirmay-Kalos 2001, so that energy is never gained
 * and the exchange of light and eye changes nothing; what facets mirror more than once comes back as in Kulla & Conty 2017. What coat
 * and sheen send back on the way in and on the way out is taken from all that lies under them; what they send down again of the light
 * from there is a geometric series.
 * A body that lets light wander in it (subsurface.ts) takes the place of the diffuse base by two halves of the same formula:
 * one where light goes in, one where it comes out.
 */
import * as albedo from './albedo';
import * as film from './thin-film';
import * as m from './maths';
import * as s from './surface';

const PI: f32 = 3.14159265;
/** Below this roughness a clear body is treated as optically smooth. */
export const SMOOTH_ROUGHNESS: f32 = 0.08;

/** Roughness across the grain (local x) and along it. */
let alpha: f32 = 1;
let alphaAlong: f32 = 1;
let f0R: f32 = 0;
let f0G: f32 = 0;
let f0B: f32 = 0;
let diffuseR: f32 = 0;
let diffuseG: f32 = 0;
let diffuseB: f32 = 0;
let throughR: f32 = 0;
let throughG: f32 = 0;
let throughB: f32 = 0;
let specularShare: f32 = 0;
let throughShare: f32 = 0;
/** Of the face between air and a dielectric: what it mirrors straight ahead, of the colour it mirrors most, and at a glance. */
let interface0: f32 = 0;
let interfaceEdge: f32 = 1;
/** What all facets mirror at a glance, metal or not. */
let edge: f32 = 1;
let backR: f32 = 0;
let backG: f32 = 0;
let backB: f32 = 0;
let backShare: f32 = 0;
/** Of the light that is scattered, the share that goes in, and how likely it is followed. */
let inward: f32 = 0;
let inwardShare: f32 = 0;
let exits: bool = false;
/** The direction just sampled leads into the body. */
export let enters: bool = false;
/** Cosine to the half vector of the pair of directions that is evaluated. */
let halfCosine: f32 = 1;
/** Of the face between air and a dielectric, and of facets: what is read once for all directions of light. Nothing else may write it. */
let roughness: f32 = 1;
let hasFacets: bool = false;
let escaped: f32 = 1;
let inverseMean: f32 = 1;
let inverseMeanBase: f32 = 1;
let faceOut: f32 = 1;
let between: f32 = 0;
let betweenR: f32 = 0;
let betweenG: f32 = 0;
let betweenB: f32 = 0;
let throughBetween: f32 = 0;
/** What lies over it: coat, sheen and a film, and what of the light from under them they send on, once it has gone up and down. */
let coat: f32 = 0;
let coatRoughness: f32 = 0;
let sheen: f32 = 0;
let sheenR: f32 = 0;
let sheenG: f32 = 0;
let sheenB: f32 = 0;
let sheenRoughness: f32 = 1;
let sheenOut: f32 = 0;
let filmShare: f32 = 0;
let filmIor: f32 = 1;
let filmNm: f32 = 0;
let againR: f32 = 1;
let againG: f32 = 1;
let againB: f32 = 1;
/** Of the body under it: mean free paths (m) and colour, for light that wanders in it. */
export let freeR: f32 = 0;
export let freeG: f32 = 0;
export let freeB: f32 = 0;
export let bodyR: f32 = 0;
export let bodyG: f32 = 0;
export let bodyB: f32 = 0;
let coatShare: f32 = 0;
let coatAlpha: f32 = 0;
/** The coat's normal. */
let coatX: f32 = 0;
let coatY: f32 = 0;
let coatZ: f32 = 1;
/** Reflectance of the coat's face (index 1.5) at normal incidence. */
const COAT_0: f32 = 0.04;

/** Value times cosine, and density, of the last evaluation. */
export let fR: f32 = 0;
export let fG: f32 = 0;
export let fB: f32 = 0;
export let pdf: f32 = 0;
export let wiX: f32 = 0;
export let wiY: f32 = 0;
export let wiZ: f32 = 0;

// @ts-ignore: decorator
@inline
function schlick(f0: f32, w: f32): f32 {
  return f0 + (1 - f0) * w;
}

// @ts-ignore: decorator
@inline
function fifth(cosine: f32): f32 {
  const a = max<f32>(0, 1 - cosine);
  const b = a * a;
  return b * b * a;
}

/** Unpolarised Fresnel reflectance of a dielectric; `eta` is the index beyond the surface over the index before it. */
export function fresnel(cosine: f32, eta: f32): f32 {
  const t2: f32 = 1 - (1 - cosine * cosine) / (eta * eta);
  if (t2 <= 0) return 1;
  const t = sqrt<f32>(t2);
  const a = (cosine - eta * t) / (cosine + eta * t),
    b = (eta * cosine - t) / (eta * cosine + t);
  return (a * a + b * b) * 0.5;
}

/** Says how the coat lies in the frame of what is under it. */
export function layCoat(x: f32, y: f32, z: f32): void {
  coatX = x;
  coatY = y;
  coatZ = z;
}

/**
 * Reads the material that surface.ts has resolved, seen under the cosine `cosOut`. From then on surface.ts may be written by other rays:
 * what is evaluated and sampled depends on what was read here alone.
 */
export function prepare(cosOut: f32): void {
  alpha = max<f32>(<f32>0.0016, s.roughness * s.roughness);
  alphaAlong = alpha;
  if (s.anisotropy > 0) alpha += (1 - alpha) * s.anisotropy * s.anisotropy;
  const r = (s.ior - 1) / (s.ior + 1);
  const ahead = r * r * s.specular,
    metal = s.metalness,
    face = ahead * (1 - metal);
  f0R = face * s.specularR + s.baseR * metal;
  f0G = face * s.specularG + s.baseG * metal;
  f0B = face * s.specularB + s.baseB * metal;
  interface0 = ahead * max<f32>(s.specularR, max<f32>(s.specularG, s.specularB));
  interfaceEdge = s.specular;
  edge = interfaceEdge * (1 - metal) + metal;
  const under: f32 = 1 - metal,
    solid: f32 = under * (1 - s.transmission),
    through: f32 = under * s.transmission;
  const beyond = solid * s.diffuseThrough,
    scattered: f32 = solid - beyond;
  exits = enters = false;
  freeR = s.freeR;
  freeG = s.freeG;
  freeB = s.freeB;
  bodyR = s.baseR;
  bodyG = s.baseG;
  bodyB = s.baseB;
  inward = freeR > 0 ? scattered : 0;
  const near: f32 = scattered - inward;
  diffuseR = s.baseR * near;
  diffuseG = s.baseG * near;
  diffuseB = s.baseB * near;
  backR = s.behindR * beyond;
  backG = s.behindG * beyond;
  backB = s.behindB * beyond;
  throughR = s.baseR * through;
  throughG = s.baseG * through;
  throughB = s.baseB * through;
  roughness = s.anisotropy > 0 ? sqrt<f32>(sqrt<f32>(alpha * alphaAlong)) : s.roughness;
  readFacets(cosOut);
  readLayers(cosOut, through);
  const w = fifth(cosOut);
  const coated: f32 = face > 0 || metal > 0 ? 1 : 0;
  const wSpecular = m.luminance(mirrored(f0R, w, edge), mirrored(f0G, w, edge), mirrored(f0B, w, edge)) * coated,
    wBetween = escaped * m.luminance(betweenR, betweenG, betweenB),
    // Sheen is spread widely: it is sampled with the diffuse base.
    wDiffuse = m.luminance(diffuseR, diffuseG, diffuseB) + sheen * <f32>0.3 + wBetween,
    wThrough = m.luminance(throughR, throughG, throughB),
    wBack = m.luminance(backR, backG, backB) + wThrough * escaped * throughBetween,
    wInward = inward * m.luminance(bodyR, bodyG, bodyB);
  const total = wSpecular + wDiffuse + wThrough + wBack + wInward;
  coatShare = 0;
  if (coat > 0) {
    coatAlpha = max<f32>(<f32>0.0016, coatRoughness * coatRoughness);
    coatShare = total > 0 ? max<f32>(<f32>0.1, min<f32>(<f32>0.9, coat * schlick(COAT_0, w))) : 1;
  }
  throughShare = backShare = inwardShare = 0;
  if (total <= 0) {
    specularShare = 1;
    return;
  }
  specularShare = wSpecular / total;
  const rest = wDiffuse + wThrough + wBack + wInward;
  if (rest > wBetween && coated > 0) specularShare = max<f32>(<f32>0.1, min<f32>(<f32>0.9, specularShare));
  if (rest <= 0) return;
  throughShare = ((1 - specularShare) * wThrough) / rest;
  backShare = ((1 - specularShare) * wBack) / rest;
  inwardShare = ((1 - specularShare) * wInward) / rest;
}

/** Light that facets mirror more than once, where it is worth while: `escaped` is what one meeting has left of it, seen from the eye. */
function readFacets(cosOut: f32): void {
  escaped = 0;
  betweenR = betweenG = betweenB = between = throughBetween = 0;
  inverseMeanBase = faceOut = 1;
  hasFacets = interface0 > 0 || s.metalness > 0;
  if (!hasFacets) return;
  albedo.facetsOverAll(roughness);
  const mean = albedo.whole,
    meanMirrored = albedo.mirrored(interface0, interfaceEdge);
  albedo.facets(cosOut, roughness);
  if (mean < <f32>0.998) {
    escaped = 1 - albedo.whole;
    inverseMean = 1 / (PI * (1 - mean));
    between = mirroredAgain(interface0, interfaceEdge, mean);
    const metal = s.metalness,
      rest: f32 = interface0 > 0 ? (between * (1 - metal)) / max<f32>(s.specularR, max<f32>(s.specularG, s.specularB)) : 0;
    betweenR = metal * mirroredAgain(s.baseR, 1, mean) + rest * s.specularR;
    betweenG = metal * mirroredAgain(s.baseG, 1, mean) + rest * s.specularG;
    betweenB = metal * mirroredAgain(s.baseB, 1, mean) + rest * s.specularB;
    throughBetween = throughR + throughG + throughB > 0 ? 1 - between : 0;
  }
  faceOut = crossedFace();
  if (interface0 > 0) inverseMeanBase = 1 / (1 - meanMirrored - between * (1 - mean));
}

/** Of the light that facets do not send back at once, the share that they do at last, where each mirrors between f0 and f90. */
function mirroredAgain(f0: f32, f90: f32, mean: f32): f32 {
  if (f0 <= 0) return 0;
  const each: f32 = f0 + (f90 - f0) / 21;
  return (each * each * mean) / (1 - each * (1 - mean));
}

/** Coat, sheen and film, and what comes up again of the light that they send down. */
function readLayers(cosOut: f32, through: f32): void {
  coat = s.coat;
  coatRoughness = s.coatRoughness;
  sheenR = s.sheenR;
  sheenG = s.sheenG;
  sheenB = s.sheenB;
  sheenRoughness = s.sheenRoughness;
  filmShare = s.film;
  filmIor = s.filmIor;
  filmNm = s.filmNm;
  sheen = max<f32>(sheenR, max<f32>(sheenG, sheenB));
  againR = againG = againB = 1;
  if (coat <= 0 && sheen <= 0) return;
  let down: f32 = 1;
  if (coat > 0) {
    albedo.facetsOverAll(coatRoughness);
    down -= coat * albedo.mirrored(COAT_0, 1);
  }
  const fibres: f32 = sheen > 0 ? albedo.sheenOverAll(sheenRoughness) : 0;
  if (sheen > 0) sheenOut = albedo.sheen(cosOut, sheenRoughness);
  againR = 1 / (1 - (1 - down * (1 - sheenR * fibres)) * bodyR * (1 - through));
  againG = 1 / (1 - (1 - down * (1 - sheenG * fibres)) * bodyG * (1 - through));
  againB = 1 / (1 - (1 - down * (1 - sheenB * fibres)) * bodyB * (1 - through));
}

/** What a white coat sends back under a cosine to its normal. */
function coatReflectance(cosine: f32): f32 {
  albedo.facets(cosine, coatRoughness);
  return albedo.mirrored(COAT_0, 1);
}

/** Share of the light on what lies over a clear body that these layers send back themselves, of the material that surface.ts has resolved. */
export function layersReflectance(cosine: f32, cosineToCoat: f32): f32 {
  let left: f32 = 1;
  if (s.coat > 0) {
    albedo.facets(abs(cosineToCoat), s.coatRoughness);
    left -= s.coat * albedo.mirrored(COAT_0, 1);
  }
  const most = max<f32>(s.sheenR, max<f32>(s.sheenG, s.sheenB));
  if (most > 0) left *= 1 - most * min<f32>(1, albedo.sheen(abs(cosine), s.sheenRoughness));
  return 1 - left;
}

/** Reads the material where light comes out of its body: it leaves evenly, less what the face holds back. */
export function prepareExit(): void {
  prepare(1);
  exits = true;
}

/** Smith's masking term, G1 times 1/(2 cos): returns Lambda. */
// @ts-ignore: decorator
@inline
function lambda(z: f32, rough: f32): f32 {
  const z2 = z * z;
  return (sqrt<f32>(1 + (rough * rough * (1 - z2)) / max<f32>(<f32>1e-9, z2)) - 1) * 0.5;
}

/** The same with the roughness that the base has in a direction. */
// @ts-ignore: decorator
@inline
function lambdaOf(x: f32, y: f32, z: f32): f32 {
  const across = alpha * x,
    along = alphaAlong * y;
  return (sqrt<f32>(1 + (across * across + along * along) / max<f32>(<f32>1e-9, z * z)) - 1) * 0.5;
}

// @ts-ignore: decorator
@inline
function distributionOf(x: f32, y: f32, z: f32): f32 {
  const across = x / alpha,
    along = y / alphaAlong,
    d = across * across + along * along + z * z;
  return 1 / (PI * alpha * alphaAlong * d * d);
}

// @ts-ignore: decorator
@inline
function distribution(hz: f32, rough: f32): f32 {
  const a2 = rough * rough,
    d = hz * hz * (a2 - 1) + 1;
  return a2 / (PI * d * d);
}

/** Value times cosine and density for light arriving from (ix, iy, iz), seen from (ox, oy, oz). */
export function evaluate(ox: f32, oy: f32, oz: f32, ix: f32, iy: f32, iz: f32): void {
  fR = fG = fB = pdf = 0;
  if (exits) {
    if (iz <= 0) return;
    const leaves: f32 = (crossed(iz) * inverseMeanBase * iz) / PI;
    fR = leaves * againR;
    fG = leaves * againG;
    fB = leaves * againB;
    pdf = iz / PI;
    return;
  }
  if (oz <= <f32>1e-4 || iz == 0) return;
  const jz = abs(iz);
  m.normalise(ox + ix, oy + iy, oz + jz);
  const hx = m.rx,
    hy = m.ry,
    hz = m.rz,
    cosine = m.dot(ox, oy, oz, m.rx, m.ry, m.rz),
    w = fifth(cosine),
    wo = fifth(oz),
    wi = fifth(jz);
  const lo = lambdaOf(ox, oy, oz),
    facets = distributionOf(hx, hy, hz) / (4 * oz);
  halfCosine = cosine;
  evaluateUnder(oz, jz, iz < 0, facets / (1 + lo + lambdaOf(ix, iy, jz)), facets / (1 + lo), w, wo, wi);
  if (coat <= 0 && sheen <= 0) return;
  fR *= againR;
  fG *= againG;
  fB *= againB;
  if (sheen > 0) addSheen(oz, jz, iz < 0, hz);
  if (coat <= 0) return;
  const co = coatX * ox + coatY * oy + coatZ * oz,
    ci = coatX * ix + coatY * iy + coatZ * jz;
  const under: f32 = (1 - coat * coatReflectance(co)) * (1 - coat * coatReflectance(ci));
  fR *= under;
  fG *= under;
  fB *= under;
  pdf *= 1 - coatShare;
  if (iz < 0 || co <= <f32>1e-4) return;
  const coatLo = lambda(co, coatAlpha),
    d = distribution(coatX * hx + coatY * hy + coatZ * hz, coatAlpha) / (4 * co);
  pdf += (coatShare * d) / (1 + coatLo);
  if (ci <= 0) return;
  const shine = (coat * schlick(COAT_0, w) * d) / (1 + coatLo + lambda(ci, coatAlpha));
  fR += shine;
  fG += shine;
  fB += shine;
}

/** Share of the light under a cosine that gets through all that lies on the base. */
function crossed(cosine: f32): f32 {
  if (hasFacets) albedo.facets(cosine, roughness);
  let left = crossedFace();
  if (filmShare > 0) left *= beyondFilm(cosine, fifth(cosine));
  if (sheen > 0) left *= 1 - sheen * min<f32>(1, albedo.sheen(cosine, sheenRoughness));
  return coat > 0 ? left * (1 - coat * coatReflectance(cosine)) : left;
}

/** The same through the face between air and what is under it alone, for the direction that facets were looked up for. */
function crossedFace(): f32 {
  if (interface0 <= 0) return 1;
  return 1 - albedo.mirrored(interface0, interfaceEdge) - between * (1 - albedo.whole);
}

/** What sheen takes from all under it, on the way in and out, and what it sends back itself. */
function addSheen(oz: f32, jz: f32, behind: bool, hz: f32): void {
  const out = sheenOut,
    in_ = albedo.sheen(jz, sheenRoughness);
  const under: f32 = (1 - sheen * min<f32>(1, out)) * (1 - sheen * min<f32>(1, in_));
  fR *= under;
  fG *= under;
  fB *= under;
  if (behind) return;
  const power: f32 = 1 / max<f32>(<f32>0.01, sheenRoughness * sheenRoughness);
  const fibres: f32 = ((2 + power) * Mathf.pow(max<f32>(0, 1 - hz * hz), power * <f32>0.5)) / (2 * PI);
  // At a glance the formula would send back more than comes in.
  const value: f32 = (fibres * jz) / (4 * (jz + oz - jz * oz) * max<f32>(1, out) * max<f32>(1, in_));
  fR += sheenR * value;
  fG += sheenG * value;
  fB += sheenB * value;
}

/** All that lies under the coat: value and density of its facets, and `w`, the fifth powers of Schlick's approximation at half vector, eye and light. */
function evaluateUnder(oz: f32, jz: f32, behind: bool, facet: f32, facetPdf: f32, w: f32, wo: f32, wi: f32): void {
  if (hasFacets) albedo.facets(jz, roughness);
  const again: f32 = escaped > 0 ? escaped * (1 - albedo.whole) * inverseMean * jz : 0;
  let base: f32 = (crossedFace() * faceOut * inverseMeanBase * jz) / PI;
  if (filmShare > 0) base *= beyondFilm(jz, wi) * beyondFilm(oz, wo);
  if (behind) {
    let pass: f32 = throughShare > 0 ? (1 - mirrored(interface0, w, interfaceEdge)) * facet : 0;
    pass += throughBetween * again;
    fR = throughR * pass + backR * base;
    fG = throughG * pass + backG * base;
    fB = throughB * pass + backB * base;
    pdf = throughShare * facetPdf + (backShare * jz) / PI;
    return;
  }
  if (specularShare > 0) {
    fR = mirrored(f0R, w, edge) * facet;
    fG = mirrored(f0G, w, edge) * facet;
    fB = mirrored(f0B, w, edge) * facet;
    if (filmShare > 0) {
      film.mirrorFilm(halfCosine, filmIor, filmNm, f0R, f0G, f0B);
      fR += filmShare * (film.filmR * facet - fR);
      fG += filmShare * (film.filmG * facet - fG);
      fB += filmShare * (film.filmB * facet - fB);
    }
  }
  fR += diffuseR * base + betweenR * again;
  fG += diffuseG * base + betweenG * again;
  fB += diffuseB * base + betweenB * again;
  pdf = specularShare * facetPdf + ((1 - specularShare - throughShare - backShare - inwardShare) * jz) / PI;
}

/** Share of what crosses the face without a film that crosses it with one, of the colour of which the film mirrors most. */
function beyondFilm(cosine: f32, w: f32): f32 {
  film.mirrorFilm(cosine, filmIor, filmNm, interface0, interface0, interface0);
  const plain = mirrored(interface0, w, interfaceEdge);
  const most = max(film.filmR, max(film.filmG, film.filmB));
  return most <= plain || plain >= 1 ? 1 : 1 - (filmShare * (most - plain)) / (1 - plain);
}

/** Schlick's approximation between what is mirrored straight ahead and at a glance. An index of 1 (no interface) mirrors nothing, not even at a glance. */
// @ts-ignore: decorator
@inline
function mirrored(f0: f32, w: f32, f90: f32): f32 {
  return f0 > 0 ? f0 + (f90 - f0) * w : 0;
}

/** Visible microfacet normal for a view direction (Heitz 2018), left in maths.r*. */
function visibleNormal(ox: f32, oy: f32, oz: f32, u1: f32, u2: f32, across: f32, along: f32): void {
  m.normalise(across * ox, along * oy, oz);
  const vx = m.rx,
    vy = m.ry,
    vz = m.rz;
  const length = vx * vx + vy * vy;
  let tx: f32 = 1,
    ty: f32 = 0;
  if (length > 1e-12) {
    const inv: f32 = 1 / sqrt<f32>(length);
    tx = -vy * inv;
    ty = vx * inv;
  }
  const bx = -vz * ty,
    by = vz * tx,
    bz = vx * ty - vy * tx;
  const r = sqrt<f32>(u1);
  m.turn(u2);
  const p1 = r * m.cosine,
    blend: f32 = (1 + vz) * <f32>0.5;
  const p2: f32 = (1 - blend) * sqrt<f32>(max<f32>(0, 1 - p1 * p1)) + blend * r * m.sine;
  const p3 = sqrt<f32>(max<f32>(0, 1 - p1 * p1 - p2 * p2));
  m.normalise(across * (p1 * tx + p2 * bx + p3 * vx), along * (p1 * ty + p2 * by + p3 * vy), max<f32>(<f32>1e-6, p2 * bz + p3 * vz));
}

/** Picks an incoming direction (wi*) and evaluates it. False when the path ends here. */
export function sample(ox: f32, oy: f32, oz: f32, choice: f32, u1: f32, u2: f32): bool {
  if (oz <= <f32>1e-4) return false;
  enters = false;
  const onCoat = !exits && choice < coatShare;
  const under: f32 = (choice - coatShare) / (1 - coatShare);
  if (!exits && (onCoat || under < specularShare + throughShare)) {
    if (onCoat) {
      // In the coat's own frame and back.
      m.setFrame(coatX, coatY, coatZ);
      m.toLocal(ox, oy, oz);
      if (m.rz <= <f32>1e-4) return false;
      visibleNormal(m.rx, m.ry, m.rz, u1, u2, coatAlpha, coatAlpha);
      m.toWorld(m.rx, m.ry, m.rz);
    } else visibleNormal(ox, oy, oz, u1, u2, alpha, alphaAlong);
    const d: f32 = 2 * m.dot(ox, oy, oz, m.rx, m.ry, m.rz);
    wiX = d * m.rx - ox;
    wiY = d * m.ry - oy;
    wiZ = d * m.rz - oz;
    if (wiZ <= <f32>1e-5) return false;
    if (!onCoat && under >= specularShare) wiZ = -wiZ;
  } else {
    const r = sqrt<f32>(u1);
    m.turn(u2);
    wiX = r * m.cosine;
    wiY = r * m.sine;
    wiZ = sqrt<f32>(max<f32>(<f32>1e-7, 1 - u1));
    if (!exits) {
      const beyond = specularShare + throughShare + backShare;
      if (under < beyond) wiZ = -wiZ;
      else if (under < beyond + inwardShare) {
        enters = true;
        fR = fG = fB = inward * crossed(oz);
        pdf = (1 - coatShare) * inwardShare;
        return pdf > 0;
      }
    }
  }
  evaluate(ox, oy, oz, wiX, wiY, wiZ);
  return pdf > 0;
}
