import * as THREE from 'three';
import { ADJUST_GLSL, adjustmentMatrix, isAdjusted } from '../../../core/finish/adjust';
import type { Finish } from '../../../core/finish/finish';
import { HEX_TILING_GLSL } from '../../../core/finish/hex-tiling';
import { RELIEF_MOST_STEPS, RELIEF_STEP, reliefGlsl } from '../../../core/finish/relief';
import { WAVE_COUNT, WAVES_GLSL, wavesOf, type Waves } from '../../../core/finish/waves';
import { SKY_GLSL } from './sky-light';

/** What is changed in three.js' shaders so that they show a finish as the kernel does. */

export type FinishMaterial = THREE.MeshStandardMaterial | THREE.MeshLambertMaterial;

/** Share of even light that a matt face sends back itself, seen at 45 degrees: a line through what the kernel's scattering function gives between roughness 0.4 and 1. */
const faceShareOf = ({ ior, roughness }: Finish): number => ((ior - 1) / (ior + 1)) ** 2 * (1.6 - 1.2 * roughness);

/** The maps' means, as the material's shader will read them. */
export function meansOf(material: FinishMaterial): { mapMean: THREE.IUniform; surfaceMean: THREE.IUniform; sharesMean: THREE.IUniform } {
  const data = material.userData as { means?: ReturnType<typeof meansOf> };
  return (data.means ??= {
    mapMean: { value: new THREE.Vector4() },
    surfaceMean: { value: new THREE.Vector4() },
    sharesMean: { value: new THREE.Vector4() },
  });
}

/**
 * Looks maps up in moved patches, and where a face with relief shows another place than the one on it. What other chunks
 * have been put in by name is put in by text first.
 */
export function lookupShader(
  shader: THREE.WebGLProgramParametersWithUniforms,
  material: FinishMaterial,
  finish: Finish,
  software: boolean,
): void {
  Object.assign(shader.uniforms, meansOf(material));
  shader.uniforms['reliefPerWidth'] = { value: finish.reliefM / finish.widthM };
  const [step, most] = software ? [1 / 96, 14] : [RELIEF_STEP, RELIEF_MOST_STEPS];
  shader.fragmentShader = shader.fragmentShader
    .replace('#include <map_fragment>', `findPlace();\n${THREE.ShaderChunk.map_fragment}`)
    .replace('#include <roughnessmap_fragment>', THREE.ShaderChunk.roughnessmap_fragment)
    .replace('texture2D( map, vMapUv )', 'lookUp( map, mapMean )')
    .replace('texture2D( normalMap, vNormalMapUv )', 'lookUp( normalMap, surfaceMean )')
    .replace('texture2D( roughnessMap, vRoughnessMapUv )', 'lookUp( roughnessMap, surfaceMean )')
    .replace('texture2D( metalnessMap, vMetalnessMapUv )', 'lookUp( metalnessMap, sharesMean )')
    .replace(
      'void main() {',
      /* glsl */ `
uniform vec4 mapMean;
uniform vec4 surfaceMean;
uniform vec4 sharesMean;
uniform float reliefPerWidth;
${HEX_TILING_GLSL}
vec2 place;
vec2 placeDx;
vec2 placeDy;
vec4 lookUpAt(sampler2D map, vec2 st, vec4 mean) {
  #ifdef PATCHED
    return tiledTexture(map, st, mean, placeDx, placeDy);
  #else
    return textureGrad(map, st, placeDx, placeDy);
  #endif
}
vec4 lookUp(sampler2D map, vec4 mean) { return lookUpAt(map, place, mean); }
#if defined(RELIEF) && defined(USE_NORMALMAP)
  float heightOf(vec2 st) { return lookUpAt(normalMap, st, surfaceMean).a; }
  ${reliefGlsl(step, most)}
#endif
void findPlace() {
  #ifdef USE_MAP
    place = vMapUv;
    placeDx = dFdx(place);
    placeDy = dFdy(place);
    #if defined(RELIEF) && defined(USE_NORMALMAP)
      vec3 seen = -vViewPosition;
      vec3 right = dFdx(seen);
      vec3 up = dFdy(seen);
      float det = placeDx.x * placeDy.y - placeDx.y * placeDy.x;
      if (abs(det) < 1e-20) return;
      vec3 alongS = (right * placeDy.y - up * placeDx.y) / det;
      vec3 alongT = (up * placeDx.x - right * placeDy.x) / det;
      vec3 face = normalize(cross(right, up));
      vec3 ray = normalize(seen);
      float down = max(1e-3, abs(dot(ray, face)));
      vec2 toGround = vec2(dot(ray, alongS) / dot(alongS, alongS), dot(ray, alongT) / dot(alongT, alongT)) * reliefPerWidth * length(alongS) / down;
      // What moves by less than a pixel is left where it is.
      vec2 pixel = max(abs(placeDx), abs(placeDy));
      if (max(abs(toGround.x) / pixel.x, abs(toGround.y) / pixel.y) > 1.0) place = reliefAt(place, toGround);
    #endif
  #endif
}
void main() {`,
    );
}

/** Bends the normals of level faces by the waves at their place in the world. */
export function waveShader(shader: THREE.WebGLProgramParametersWithUniforms, waves: Waves, time: THREE.IUniform<number>): void {
  const table = wavesOf(waves);
  shader.uniforms['waves'] = { value: Array.from({ length: WAVE_COUNT * 2 }, (_, i) => new THREE.Vector4().fromArray(table, i * 4)) };
  shader.uniforms['waveTime'] = time;
  shader.vertexShader = shader.vertexShader
    .replace('#include <common>', '#include <common>\nvarying vec3 wavePlace;')
    .replace('#include <begin_vertex>', '#include <begin_vertex>\nwavePlace = (modelMatrix * vec4(position, 1.0)).xyz;');
  shader.fragmentShader = shader.fragmentShader
    .replace('#include <common>', `#include <common>\nvarying vec3 wavePlace;\n${WAVES_GLSL}`)
    .replace(
      '#include <clearcoat_normal_fragment_begin>',
      /* glsl */ `{
        vec3 level = inverseTransformDirection(normal, viewMatrix);
        if (abs(level.z) > 0.8) {
          vec2 slopes = waveSlopes(wavePlace.xy, max(length(dFdx(wavePlace.xy)), length(dFdy(wavePlace.xy))));
          level.xy -= slopes * sign(level.z);
          normal = normalize((viewMatrix * vec4(normalize(level), 0.0)).xyz);
        }
      }
      #include <clearcoat_normal_fragment_begin>`,
    );
}

/**
 * What a clear surface mirrors is added whole, and what is seen through it is less by as much (Schlick 1994); its opacity
 * holds for its own colour alone.
 */
export function mirrorWhole(shader: THREE.WebGLProgramParametersWithUniforms, { ior }: Finish): void {
  shader.uniforms['mirroredAhead'] = { value: ((ior - 1) / (ior + 1)) ** 2 };
  shader.fragmentShader = shader.fragmentShader.replace('#include <common>', '#include <common>\nuniform float mirroredAhead;').replace(
    '#include <premultiplied_alpha_fragment>',
    /* glsl */ `{
        float mirrors = mix(mirroredAhead, 1.0, pow(1.0 - clamp(dot(normal, geometryViewDir), 0.0, 1.0), 5.0));
        gl_FragColor = vec4(outgoingLight - totalDiffuse * (1.0 - gl_FragColor.a), 1.0 - (1.0 - gl_FragColor.a) * (1.0 - mirrors));
      }`,
  );
}

/** The normal's third component follows from the other two. */
export const NORMAL_FROM_TWO = THREE.ShaderChunk.normal_fragment_maps.replaceAll(
  'mapN.xy *= normalScale;',
  'mapN.xy *= normalScale; mapN.z = sqrt(max(0.01, 1.0 - dot(mapN.xy, mapN.xy)));',
);

/**
 * Our surface map holds normal x and y in red and green, roughness in blue; three expects them elsewhere. What is mirrored
 * comes from the sky map.
 */
export function adaptShader(shader: THREE.WebGLProgramParametersWithUniforms): void {
  shader.fragmentShader = shader.fragmentShader
    .replace('#include <common>', `#include <common>\n${SKY_GLSL}`)
    .replace(
      '#include <lights_fragment_maps>',
      /* glsl */ `#include <lights_fragment_maps>
      vec3 mirrored = inverseTransformDirection(reflect(-geometryViewDir, geometryNormal), viewMatrix);
      radiance += skyTowards(mirrored, material.roughness * 6.0);
      #ifdef USE_CLEARCOAT
        clearcoatRadiance += skyTowards(mirrored, material.clearcoatRoughness * 6.0);
      #endif`,
    )
    .replace('#include <roughnessmap_fragment>', THREE.ShaderChunk.roughnessmap_fragment.replace('texelRoughness.g', 'texelRoughness.b'))
    .replace('#include <metalnessmap_fragment>', SHARED_FACTORS)
    .replace(
      '#include <lights_physical_fragment>',
      THREE.ShaderChunk.lights_physical_fragment
        .replace('material.clearcoat = clearcoat;', 'material.clearcoat = clearcoat * factorShares.g;')
        .replace('material.sheenColor = sheenColor;', 'material.sheenColor = sheenColor * factorShares.a;'),
    )
    .replace('#include <normal_fragment_maps>', NORMAL_FROM_TWO);
}

/** How much a clear surface keeps of its own colour where all of it is clear. */
export const KEPT_COLOUR = 0.3;

/** Metalness, clear coat, transmission and sheen by one map; see MapSet. */
const SHARED_FACTORS = /* glsl */ `
float metalnessFactor = metalness;
vec4 factorShares = vec4(1.0);
#ifdef USE_METALNESSMAP
  factorShares = texture2D( metalnessMap, vMetalnessMapUv );
  metalnessFactor *= factorShares.r;
  #ifdef CLEAR
    diffuseColor.rgb /= mix(1.0, ${String(KEPT_COLOUR)}, 1.0 - factorShares.b);
    diffuseColor.a = 1.0 - (1.0 - diffuseColor.a) * factorShares.b;
  #endif
#endif
`;

/** Whether elements wear the finish in different colours; then each vertex says how (see SurfaceBatch). */
export const variesColour = ({ vary }: Finish): boolean => vary.hueDeg > 0 || vary.brightness > 0;

/** Says in the material's defines what its shader has to do beside the usual, so that those alike share one. */
export function wear(material: FinishMaterial, finish: Finish): void {
  material.defines = {
    ...material.defines,
    ...(isAdjusted(finish) && { ADJUSTED: '' }),
    ...(variesColour(finish) && { VARIED: '' }),
    ...(finish.breakRepeat && { PATCHED: '' }),
    ...(finish.waves && { WAVES: '' }),
    ...(finish.transmission > 0 && { CLEAR: '' }),
    ...(finish.reliefM > 0 && { RELIEF: '' }),
    ...(finish.diffuseTransmission > 0 && { SCATTERS_THROUGH: '' }),
  };
}

/** Colour adjustment, the element's own colour, and light from behind a surface that lets some through. */
export function adjustShader(shader: THREE.WebGLProgramParametersWithUniforms, finish: Finish, matt = false): void {
  shader.uniforms['adjustment'] = { value: new THREE.Matrix3().set(...adjustmentMatrix(finish)) };
  shader.uniforms['contrast'] = { value: finish.contrast };
  shader.uniforms['through'] = { value: finish.diffuseTransmission };
  shader.uniforms['faceShare'] = { value: matt ? faceShareOf(finish) : 0 };
  shader.vertexShader = shader.vertexShader
    .replace('#include <common>', '#include <common>\n#ifdef VARIED\nattribute vec3 variation;\nvarying vec3 worn;\n#endif')
    .replace('#include <begin_vertex>', '#include <begin_vertex>\n#ifdef VARIED\nworn = variation;\n#endif');
  shader.fragmentShader = shader.fragmentShader
    .replace(
      '#include <common>',
      /* glsl */ `#include <common>
      #ifdef VARIED
        varying vec3 worn;
      #endif
      uniform mat3 adjustment;
      uniform float contrast;
      uniform float through;
      uniform float faceShare;
      ${ADJUST_GLSL}`,
    )
    .replace(
      '#include <map_fragment>',
      /* glsl */ `#include <map_fragment>
      #ifdef VARIED
        diffuseColor.rgb = min(turnHue(diffuseColor.rgb, worn.xy) * worn.z, vec3(1.0));
      #endif
      #ifdef ADJUSTED
        diffuseColor.rgb = adjustColour(diffuseColor.rgb, adjustment, contrast);
      #endif
      // What its face sends back of all that comes, where its shine is left out: dark surfaces show little else.
      diffuseColor.rgb += faceShare * (1.0 - diffuseColor.rgb);`,
    )
    .replace(
      '#include <lights_fragment_end>',
      /* glsl */ `#include <lights_fragment_end>
      #ifdef SCATTERS_THROUGH
        // The sun on the other side, as if nothing stood before it there.
        reflectedLight.directDiffuse *= 1.0 - through;
        #if NUM_DIR_LIGHTS > 0
          reflectedLight.directDiffuse += through * diffuseColor.rgb * RECIPROCAL_PI
            * directionalLights[0].color * max(0.0, -dot(normal, directionalLights[0].direction));
        #endif
      #endif`,
    );
}
