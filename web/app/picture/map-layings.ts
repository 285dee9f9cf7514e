import * as THREE from 'three';
import { MAP_KINDS, type MapSet } from '../../../core/finish/maps/texture-image';
import { mapsOf, type FinishMaterial, type PlacedMaps } from './material-maps';

/** Maps that lie by further sets of coordinates than the first, and how maps lie in the working picture's shaders. */

/** What WebGL 2 promises is 16 pictures; the sky, the shadow and what tints it need some. */
const MOST_MAPS = 12;

/** Gives a material the maps that lie by further sets of coordinates, in their order from set 1 on; those that have come. */
export function putMapsOver(material: FinishMaterial, sets: readonly (PlacedMaps | undefined)[], normalScale: number): void {
  const { over, beside } = mapsOf(material);
  over.normalScale.value = normalScale;
  const standard = material instanceof THREE.MeshStandardMaterial ? [material.roughnessMap, material.metalnessMap] : [];
  const first = [material.map, material.normalMap, material.emissiveMap, ...standard, ...Object.values(beside).map(({ value }) => value)];
  const room = MOST_MAPS - first.filter(Boolean).length;
  for (const [i, maps] of sets.entries())
    for (const kind of MAP_KINDS) {
      const map = maps?.[kind];
      const name = `${kind}Over${String(i + 1)}`;
      const known = over.maps.get(name);
      if (known && map) known.texture.value = map.texture;
      // A map that is one texel is the white that stands for none.
      else if (map && over.maps.size < room && map.texture.image.width * map.texture.image.height > 1) {
        over.maps.set(name, { set: i + 1, kind, texture: { value: map.texture } });
        material.defines = { ...material.defines, [name.toUpperCase()]: '' };
      }
    }
}

/** GLSL for each map of a kind that lies over the first ones, from what is looked up and where. */
export function over(material: FinishMaterial, kind: keyof MapSet, use: (texel: string, place: string) => string): string {
  return [...mapsOf(material).over.maps]
    .filter(([, map]) => map.kind === kind)
    .map(([name, { set }]) => `${use(`texture2D(${name}, vOver${String(set)})`, `vOver${String(set)}`)}\n`)
    .join('');
}

/** Declares the maps that lie over the first ones, and where they lie, and looks up those that both kinds of material know. */
export function overShader(shader: THREE.WebGLProgramParametersWithUniforms, material: FinishMaterial): void {
  const { maps, normalScale } = mapsOf(material).over;
  if (maps.size === 0) return;
  const sets = [...new Set([...maps.values()].map(({ set }) => String(set)))];
  for (const [name, { texture }] of maps) shader.uniforms[name] = texture;
  shader.uniforms['overNormalScale'] = normalScale;
  const varyings = sets.map((set) => `varying vec2 vOver${set};\n`).join('');
  shader.vertexShader = shader.vertexShader
    .replace('#include <common>', `#include <common>\n${varyings}${sets.map((set) => `attribute vec2 over${set};\n`).join('')}`)
    .replace('#include <begin_vertex>', `#include <begin_vertex>\n${sets.map((set) => `vOver${set} = (mapTransform * vec3(over${set}, 1.0)).xy;\n`).join('')}`);
  shader.fragmentShader = shader.fragmentShader
    .replace('#include <common>', `#include <common>\nuniform float overNormalScale;\n${varyings}${[...maps.keys()].map((name) => `uniform sampler2D ${name};\n`).join('')}`)
    .replace('#include <map_fragment>', `#include <map_fragment>\n${over(material, 'base', (texel) => `diffuseColor *= ${texel};`)}`)
    .replace('#include <emissivemap_fragment>', `#include <emissivemap_fragment>\n${over(material, 'emission', (texel) => `totalEmissiveRadiance *= ${texel}.rgb;`)}`)
    .replace(
      /#include <(clearcoat_normal_fragment_begin|emissivemap_fragment)>/,
      `${over(material, 'surface', (texel, place) => `normal = tiltedBy(normal, (${texel}.xy * 2.0 - 1.003922) * overNormalScale, ${place}, faceDirection);`)}#include <$1>`,
    )
    .replace('void main() {', `${LAYING_GLSL}\nvoid main() {`);
} // prettier-ignore

/**
 * In the frame that maps lie in here, by given coordinates: which way these grow on a face, a normal tilted by a map of normals, and
 * a direction of one map in the frame of another.
 */
export const LAYING_GLSL = /* glsl */ `
#ifndef LAYING
#define LAYING
mat2x3 growthOf(vec3 face, vec2 laid) {
  vec3 acrossY = cross(dFdy(-vViewPosition), face);
  vec3 acrossX = cross(face, dFdx(-vViewPosition));
  vec2 laidX = dFdx(laid);
  vec2 laidY = dFdy(laid);
  return mat2x3(acrossY * laidX.x + acrossX * laidY.x, acrossY * laidX.y + acrossX * laidY.y);
}
vec3 tiltedBy(vec3 from, vec2 tilt, vec2 laid, float side) {
  mat2x3 along = growthOf(from, laid);
  vec2 by = tilt * side / sqrt(max(1e-20, max(dot(along[0], along[0]), dot(along[1], along[1]))));
  return normalize(along * by + from * sqrt(max(0.01, 1.0 - dot(tilt, tilt))));
}
vec2 reframed(vec2 way, vec2 laid, vec2 to) {
  vec3 face = normalize(cross(dFdx(-vViewPosition), dFdy(-vViewPosition)));
  mat2x3 own = growthOf(face, laid);
  mat2x3 other = growthOf(face, to);
  vec3 along = normalize(own[0]) * way.x + normalize(own[1]) * way.y;
  return vec2(dot(along, normalize(other[0])), dot(along, normalize(other[1])));
}
#endif`;
