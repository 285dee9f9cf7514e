import * as THREE from 'three';
import { ADJUST_GLSL, adjustmentMatrix, isAdjusted } from '../../../core/finish/adjust';
import type { Finish } from '../../../core/finish/finish';
import { HEX_TILING_GLSL } from '../../../core/finish/hex-tiling';
import { RELIEF_MOST_STEPS, RELIEF_STEP, reliefGlsl } from '../../../core/finish/relief';
import { WAVE_COUNT, WAVES_GLSL, wavesOf, type Waves } from '../../../core/finish/waves';
import { decodeSrgb } from '../../../core/image/tone';
import { LAYING_GLSL, over, overShader } from './map-layings';
import { BESIDE_GLSL, mapsOf, type FinishMaterial } from './material-maps';
import { SKY_GLSL } from './sky-light';

/** What is changed in three.js' shaders so that they show a finish as the kernel does. */

/** Share of even light that a matt face sends back itself, seen at 45 degrees: a line through what the kernel's scattering function gives between roughness 0.4 and 1. */
const faceShareOf = ({ ior, roughness, specular }: Finish): number => specular * ((ior - 1) / (ior + 1)) ** 2 * (1.6 - 1.2 * roughness);

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
  Object.assign(shader.uniforms, mapsOf(material).means);
  shader.uniforms['reliefPerWidth'] = { value: finish.reliefM / finish.widthM };
  const [step, most] = software ? [1 / 96, 14] : [RELIEF_STEP, RELIEF_MOST_STEPS];
  shader.fragmentShader = shader.fragmentShader
    .replace('#include <map_fragment>', `findPlace();\n${THREE.ShaderChunk.map_fragment}`)
    .replace('#include <roughnessmap_fragment>', THREE.ShaderChunk.roughnessmap_fragment)
    .replace('texture2D( map, vMapUv )', 'lookUp( map, mapMean )')
    .replace('texture2D( normalMap, vNormalMapUv )', 'lookUp( normalMap, surfaceMean )')
    .replace('texture2D( roughnessMap, vRoughnessMapUv )', 'lookUp( roughnessMap, surfaceMean )')
    .replace('texture2D( metalnessMap, vMetalnessMapUv )', 'lookUp( metalnessMap, packedFactorsMean )')
    .replace(/texture2D\( (filmAndCoat|sheen|coatNormal|specular|diffuseTransmission)Map, vMapUv \)/g, 'lookUp( $1Map, $1Mean )')
    .replace(
      'void main() {',
      /* glsl */ `
uniform vec4 mapMean;
uniform vec4 surfaceMean;
uniform vec4 packedFactorsMean;
uniform vec4 filmAndCoatMean;
uniform vec4 sheenMean;
uniform vec4 coatNormalMean;
uniform vec4 specularMean;
uniform vec4 diffuseTransmissionMean;
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
          vec3 slopes = waveSlopes(wavePlace.xy, dFdx(wavePlace.xy), dFdy(wavePlace.xy));
          level.xy -= slopes.xy * sign(level.z);
          // The variance of a microfacet distribution is the fourth power of three.js' roughness.
          roughnessFactor = max(roughnessFactor, sqrt(sqrt(slopes.z)));
          normal = normalize((viewMatrix * vec4(normalize(level), 0.0)).xyz);
        }
      }
      #include <clearcoat_normal_fragment_begin>`,
    );
}

/**
 * What a clear surface mirrors is added whole, and what is seen through it, or comes from inside, is less by as much (Schlick
 * 1994); its opacity holds for its own colour alone.
 */
export function mirrorWhole(shader: THREE.WebGLProgramParametersWithUniforms, { ior }: Finish): void {
  shader.uniforms['mirroredAhead'] = { value: ((ior - 1) / (ior + 1)) ** 2 };
  shader.fragmentShader = shader.fragmentShader.replace('#include <common>', '#include <common>\nuniform float mirroredAhead;').replace(
    '#include <premultiplied_alpha_fragment>',
    /* glsl */ `{
        float mirrors = mix(mirroredAhead, 1.0, pow(1.0 - clamp(dot(normal, geometryViewDir), 0.0, 1.0), 5.0));
        gl_FragColor = vec4(outgoingLight - totalDiffuse * (1.0 - gl_FragColor.a * (1.0 - mirrors)), 1.0 - (1.0 - gl_FragColor.a) * (1.0 - mirrors));
      }`,
  );
}

/** The normal's third component follows from the other two. */
export const NORMAL_FROM_TWO = THREE.ShaderChunk.normal_fragment_maps.replaceAll(
  'mapN.xy *= normalScale;',
  'mapN.xy *= normalScale; mapN.z = sqrt(max(0.01, 1.0 - dot(mapN.xy, mapN.xy)));',
);

/**
 * Light of lamps and sun that facets mirror more than once leaves widely spread, as in the kernel (Kulla & Conty 2017), and not the way of
 * what they mirror once.
 */
const BETWEEN_FACETS = THREE.ShaderChunk.lights_physical_pars_fragment.replace(
  'reflectedLight.directSpecular += irradiance * specularBRDF * material.multiScatteringCompensation;',
  /* glsl */ `
  vec2 ofLight = texture2D( dfgLUT, vec2( material.roughness, dotNL ) ).rg;
  // The mean over the hemisphere is near that of this direction.
  vec2 ofAll = texture2D( dfgLUT, vec2( material.roughness, 0.6 ) ).rg;
  float kept = ofAll.x + ofAll.y;
  vec3 each = mix( material.specularColorBlended, vec3( 1.0 ), 1.0 / 21.0 );
  vec3 again = each * each * kept / ( 1.0 - each * ( 1.0 - kept ) );
  float lost = ( 1.0 - material.dfg.x - material.dfg.y ) * ( 1.0 - ofLight.x - ofLight.y ) / max( 0.001, 1.0 - kept );
  reflectedLight.directSpecular += irradiance * ( specularBRDF + again * lost * RECIPROCAL_PI );`,
);

/**
 * Our surface map holds normal x and y in red and green, roughness in blue; three expects them elsewhere. What is mirrored
 * comes from the sky map.
 */
export function adaptShader(
  shader: THREE.WebGLProgramParametersWithUniforms,
  material: THREE.MeshStandardMaterial,
  { clearCoatNormal }: Finish,
): void {
  Object.assign(shader.uniforms, mapsOf(material).beside);
  shader.uniforms['coatFollows'] = { value: clearCoatNormal };
  shader.fragmentShader = shader.fragmentShader
    .replace('#include <common>', `#include <common>\n${SKY_GLSL}\nuniform float coatFollows;`)
    .replace(
      '#include <lights_fragment_maps>',
      /* glsl */ `#include <lights_fragment_maps>
      vec3 mirrored = inverseTransformDirection(reflect(-geometryViewDir, geometryNormal), viewMatrix);
      radiance += skyTowards(mirrored, material.roughness * 6.0);
      #ifdef USE_CLEARCOAT
        vec3 onCoat = inverseTransformDirection(reflect(-geometryViewDir, geometryClearcoatNormal), viewMatrix);
        clearcoatRadiance += skyTowards(onCoat, material.clearcoatRoughness * 6.0);
      #endif`,
    )
    .replace(
      '#include <roughnessmap_fragment>',
      `${THREE.ShaderChunk.roughnessmap_fragment.replace('texelRoughness.g', 'texelRoughness.b')}\n${over(material, 'surface', (texel) => `roughnessFactor *= ${texel}.b;`)}`,
    )
    .replace('#include <metalnessmap_fragment>', sharedFactors(material))
    .replace('#include <lights_physical_pars_fragment>', BETWEEN_FACETS)
    .replace(
      '#include <lights_physical_fragment>',
      THREE.ShaderChunk.lights_physical_fragment
        .replace('material.clearcoat = clearcoat;', 'material.clearcoat = clearcoat * factorsTold.g;')
        .replace('material.sheenColor = sheenColor;', 'material.sheenColor = sheenColor * sheenTold.rgb;')
        .replace(
          'material.clearcoatRoughness = clearcoatRoughness;',
          'material.clearcoatRoughness = clearcoatRoughness * filmAndCoatTold.g;',
        )
        .replace('material.iridescence = iridescence;', 'material.iridescence = iridescence * filmAndCoatTold.b;')
        .replace(
          'material.iridescenceThickness = iridescenceThicknessMaximum;',
          `
          #ifdef FILM_AND_COAT_MAP
            material.iridescenceThickness = mix(iridescenceThicknessMinimum, iridescenceThicknessMaximum, filmAndCoatTold.r);
          #else
            material.iridescenceThickness = iridescenceThicknessMaximum;
          #endif`,
        )
        .replace('clamp( sheenRoughness, 0.0001, 1.0 )', 'clamp( sheenRoughness * sheenTold.a, 0.1, 1.0 )')
        .replace(
          'vec2 anisotropyV = anisotropyVector;',
          'vec2 anisotropyV = mat2(anisotropyVector, -anisotropyVector.y, anisotropyVector.x) * grain;',
        )
        .replace('= specularIntensity;', '= specularIntensity * specularTold.a;')
        .replace('= specularColor;', '= specularColor * specularTold.rgb;'),
    )
    .replace('#include <clearcoat_normal_fragment_maps>', coatNormal(material))
    .replace('void main() {', `#ifdef USE_CLEARCOAT\n${LAYING_GLSL}\n#endif\nvoid main() {`)
    .replace('#include <normal_fragment_maps>', NORMAL_FROM_TWO);
}

/** How much a clear surface keeps of its own colour where all of it is clear. */
export const KEPT_COLOUR = 0.3;

/** What maps tell beside colour, light and relief; see MapSet. */
const sharedFactors = (material: FinishMaterial): string => /* glsl */ `
float metalnessFactor = metalness;
vec4 factorsTold = vec4(1.0);
#ifdef USE_METALNESSMAP
  factorsTold = texture2D( metalnessMap, vMetalnessMapUv );
#endif
${over(material, 'packedFactors', (texel) => `factorsTold *= ${texel};`)}
metalnessFactor *= factorsTold.r;
#ifdef CLEAR
  diffuseColor.rgb /= mix(1.0, ${String(KEPT_COLOUR)}, 1.0 - factorsTold.b);
  diffuseColor.a = 1.0 - (1.0 - diffuseColor.a) * factorsTold.b;
#endif
vec4 filmAndCoatTold = vec4(1.0);
vec4 sheenTold = vec4(1.0);
vec4 coatNormalTold = vec4(1.0);
vec2 grain = vec2(1.0, 0.0);
vec4 specularTold = vec4(1.0);
#ifdef FILM_AND_COAT_MAP
  filmAndCoatTold = texture2D( filmAndCoatMap, vMapUv );
#endif
#ifdef SHEEN_MAP
  sheenTold = texture2D( sheenMap, vMapUv );
#endif
#ifdef COAT_NORMAL_MAP
  coatNormalTold = texture2D( coatNormalMap, vMapUv );
  ${grainBy('vMapUv')}
#endif
#ifdef SPECULAR_MAP
  specularTold = texture2D( specularMap, vMapUv );
#endif
${over(material, 'filmAndCoat', (texel) => `filmAndCoatTold *= ${texel};`)}
${over(material, 'sheen', (texel) => `sheenTold *= ${texel};`)}
${over(material, 'specular', (texel) => `specularTold *= ${texel};`)}
${over(material, 'coatNormal', (texel, place) => `coatNormalTold = ${texel};\n${grainBy(place)}`)}
`;

/** Of bearings, two channels that are whole together are no direction: the map does not tell. */
const grainBy = (place: string): string => /* glsl */ `{
  vec2 way = coatNormalTold.zw * 2.0 - 1.003922;
  ${place === 'vMapUv' ? '' : `way = reframed(way, ${place}, vMapUv);`}
  if (coatNormalTold.z + coatNormalTold.w < 1.9) grain = way;
}`;

/** The coat lies by its own map of normals, or follows what is under it. */
const coatNormal = (material: FinishMaterial): string => /* glsl */ `
#ifdef USE_CLEARCOAT
  bool coatOwn = false;
  #ifdef COAT_NORMAL_MAP
    ${coatTilt('texture2D( coatNormalMap, vMapUv )', 'vMapUv')}
  #endif
  ${over(material, 'coatNormal', coatTilt)}
  if (!coatOwn) clearcoatNormal = normalize(mix(clearcoatNormal, normal, coatFollows));
#endif
`;

const coatTilt = (texel: string, place: string): string => /* glsl */ `{
  vec4 told = ${texel};
  vec3 tilted = tiltedBy(clearcoatNormal, (told.xy * 2.0 - 1.003922) * coatFollows, ${place}, faceDirection);
  if (told.x + told.y < 1.9) {
    coatOwn = true;
    clearcoatNormal = tilted;
  }
}`;

/** Whether elements have the finish in different colours; then each vertex says how (see SurfaceBatch). */
export const variesColour = ({ vary }: Finish): boolean => vary.hueDeg > 0 || vary.brightness > 0;

/** Says in the material's defines what its shader has to do beside the usual, so that those alike share one. */
export function vary(material: FinishMaterial, finish: Finish): void {
  material.defines = {
    ...material.defines,
    ...(isAdjusted(finish) && { ADJUSTED: '' }),
    ...(variesColour(finish) && { VARIED: '' }),
    ...(finish.breakRepeat && { PATCHED: '' }),
    ...(finish.waves && { WAVES: '' }),
    ...(finish.transmission > 0 && { CLEAR: '' }),
    ...(finish.reliefM > 0 && { RELIEF: '' }),
    ...(finish.diffuseTransmission > 0 && { SCATTERS_THROUGH: '' }),
    ...(finish.diffuseTransmissionColour && { THROUGH_OWN: '' }),
  };
}

/** Colour adjustment, the element's own colour, and light from behind a surface that lets some through. */
export function adjustShader(
  shader: THREE.WebGLProgramParametersWithUniforms,
  material: FinishMaterial,
  finish: Finish,
  matt = false,
): void {
  overShader(shader, material);
  Object.assign(shader.uniforms, mapsOf(material).beside);
  const behind = (finish.diffuseTransmissionColour ?? finish.baseColour).map(decodeSrgb);
  shader.uniforms['throughColour'] = { value: new THREE.Vector3(...behind) };
  shader.uniforms['adjustment'] = { value: new THREE.Matrix3().set(...adjustmentMatrix(finish)) };
  shader.uniforms['contrast'] = { value: finish.contrast };
  shader.uniforms['diffuseTransmission'] = { value: finish.diffuseTransmission };
  shader.uniforms['faceShare'] = { value: matt ? faceShareOf(finish) : 0 };
  shader.vertexShader = shader.vertexShader
    .replace('#include <common>', '#include <common>\n#ifdef VARIED\nattribute vec3 variation;\nvarying vec3 varied;\n#endif')
    .replace('#include <begin_vertex>', '#include <begin_vertex>\n#ifdef VARIED\nvaried = variation;\n#endif');
  shader.fragmentShader = shader.fragmentShader
    .replace(
      '#include <common>',
      /* glsl */ `#include <common>
      #ifdef VARIED
        varying vec3 varied;
      #endif
      uniform mat3 adjustment;
      uniform float contrast;
      uniform float diffuseTransmission;
      uniform vec3 throughColour;
      uniform float faceShare;
      ${BESIDE_GLSL}
      ${ADJUST_GLSL}`,
    )
    .replace(
      '#include <map_fragment>',
      /* glsl */ `#include <map_fragment>
      #ifdef VARIED
        diffuseColor.rgb = min(turnHue(diffuseColor.rgb, varied.xy) * varied.z, vec3(1.0));
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
        vec4 scatteredTold = vec4(diffuseColor.rgb, diffuseTransmission);
        #ifdef THROUGH_OWN
          scatteredTold.rgb = throughColour;
        #endif
        #ifdef DIFFUSE_TRANSMISSION_MAP
          scatteredTold *= texture2D( diffuseTransmissionMap, vMapUv );
        #endif
        ${over(material, 'diffuseTransmission', (texel) => `scatteredTold *= ${texel};`)}
        reflectedLight.directDiffuse *= 1.0 - scatteredTold.a;
        #if NUM_DIR_LIGHTS > 0
          reflectedLight.directDiffuse += scatteredTold.a * scatteredTold.rgb * RECIPROCAL_PI
            * directionalLights[0].color * max(0.0, -dot(normal, directionalLights[0].direction));
        #endif
      #endif`,
    );
}
