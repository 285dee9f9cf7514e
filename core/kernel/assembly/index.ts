/** What the host may call. Every thread has its own instance of this module over the one shared memory. */
import { LAYOUT_VERSION, TRACE_SCRATCH } from './layout';
import { attachAlbedo } from './albedo';
import * as b from './bsdf';
import * as m from './maths';
import * as s from './surface';
import { attachTrace } from './trace';
import { filmB, filmG, filmR, mirrorFilm } from './thin-film';
import { attachNetwork } from './unet';

export { referenceCapacity } from './presplit';
export { bvhScratchSize, buildMesh, buildInstances, builtLeafCount } from './bvh';
export { traceBatch, traceClosest, traceAny, setUncut, hitDistance, hitInstance } from './trace';
export { renderTile, renderFeatures, renderSeen, renderChannels, bakeLight, measureIlluminance, measureRadiance } from './film';
export { joinMoving, prepareMoving } from './moving';
export { meanRadiance, networkInput, networkOutput } from './network-picture';
export { convolve } from './unet';
export { fresnel } from './bsdf';

export function layoutVersion(): i32 {
  return LAYOUT_VERSION;
}

/** Binds this thread to a scene; `scratch` is zeroed working memory of its own, TRACE_SCRATCH and NETWORK_SCRATCH bytes, 16-byte aligned. */
export function attach(scene: usize, scratch: usize): void {
  attachTrace(scene, scratch);
  attachAlbedo(scene);
  attachNetwork(scratch + TRACE_SCRATCH);
}

/** For tests: sets a bare material, then evaluates or samples it. Results by the getters below. */
export function setTestMaterial(base: f32, metalness: f32, roughness: f32, ior: f32, transmission: f32): void {
  s.setTest(base, metalness, roughness, ior, transmission);
}

export function setTestLayers(coat: f32, coatRoughness: f32, diffuseThrough: f32): void {
  s.setTestLayers(coat, coatRoughness, diffuseThrough);
  b.layCoat(0, 0, 1);
}

/** How the coat lies on what is under it. */
export function setTestCoatNormal(x: f32, y: f32, z: f32): void {
  b.layCoat(x, y, z);
}

export function setTestSpecular(share: f32, red: f32, green: f32, blue: f32): void {
  s.setTestSpecular(share, red, green, blue);
}

export function setTestAnisotropy(strength: f32): void {
  s.setTestAnisotropy(strength);
}

export function setTestSheen(colour: f32, roughness: f32): void {
  s.setTestSheen(colour, roughness);
}

export function setTestFilm(share: f32, index: f32, nm: f32): void {
  s.setTestFilm(share, index, nm);
}

/** Reflectance of a thin film in one channel; see thin-film.ts. */
export function filmReflectance(cosine: f32, index: f32, nm: f32, f0: f32, channel: i32): f32 {
  mirrorFilm(cosine, index, nm, f0, f0, f0);
  return channel == 0 ? filmR : channel == 1 ? filmG : filmB;
}

export function evaluateBsdf(ox: f32, oy: f32, oz: f32, ix: f32, iy: f32, iz: f32): f32 {
  b.prepare(oz);
  b.evaluate(ox, oy, oz, ix, iy, iz);
  return m.luminance(b.fR, b.fG, b.fB);
}

export function sampleBsdf(ox: f32, oy: f32, oz: f32, choice: f32, u1: f32, u2: f32): bool {
  b.prepare(oz);
  return b.sample(ox, oy, oz, choice, u1, u2);
}

export function bsdfPdf(): f32 {
  return b.pdf;
}
export function bsdfValue(): f32 {
  return m.luminance(b.fR, b.fG, b.fB);
}
export function bsdfX(): f32 {
  return b.wiX;
}
export function bsdfY(): f32 {
  return b.wiY;
}
export function bsdfZ(): f32 {
  return b.wiZ;
}
