import * as THREE from 'three';
import { GRADING_GLSL } from '../../core/image/grading';
import { CURVE_GLSL } from '../../core/image/tone';
import { MOST_LIGHT, type ViewerLook } from '../../core/viewing/viewing';

/** How surfaces are lit and developed: baked light and sky beside the sun, then the same curve as in every other picture. */

const LIGHT_GLSL = /* glsl */ `
uniform sampler2D skyMap;
uniform vec3 skyLight;
uniform mat3 balance;
uniform float exposure;
${GRADING_GLSL}${CURVE_GLSL}
vec3 skyTowards(vec3 direction, float level) {
  vec2 at = vec2(atan(direction.x, direction.y) / 6.2831853, acos(clamp(direction.z, -1.0, 1.0)) / 3.14159265);
  vec3 root = textureLod(skyMap, vec2(fract(at.x), at.y), level).rgb;
  return root * root * ${MOST_LIGHT.toFixed(1)};
}
vec3 developed(vec3 light) {
  vec3 rgb = graded(max(balance * light * exposure, vec3(0.0)), 0.0);
  return encodeSrgb(filmic ? filmicCurve(rgb) : toneCurve(rgb));
}
`;

/** One for all surfaces; a look sets them. */
export const lookUniforms = {
  skyMap: { value: new THREE.Texture() },
  skyLight: { value: new THREE.Vector3() },
  balance: { value: new THREE.Matrix3() },
  exposure: { value: 1 },
  tones: { value: new THREE.Vector3() },
  saturation: { value: 0 },
  vignette: { value: 0 },
  filmic: { value: false },
};

export function setLookUniforms(look: ViewerLook, sky: THREE.Texture): void {
  lookUniforms.skyMap.value = sky;
  lookUniforms.skyLight.value.fromArray(look.skyLight);
  lookUniforms.balance.value.set(...(look.balance as Parameters<THREE.Matrix3['set']>));
  const { contrast, highlights, shadows, saturation, filmic } = look.grading;
  lookUniforms.tones.value.set(contrast, highlights, shadows);
  lookUniforms.saturation.value = saturation;
  lookUniforms.filmic.value = filmic;
}

export type SurfaceKind = 'baked' | 'planting' | 'clear' | 'water';

/** Gives a material of three's that light; `clear` mirrors and lets through by the angle it is seen under. */
export function lightSurface(material: THREE.MeshStandardMaterial, kind: SurfaceKind): void {
  if (kind === 'clear') {
    material.transparent = true;
    material.depthWrite = false;
    material.premultipliedAlpha = true;
    material.roughness = 0.02;
    material.metalness = 0;
  }
  const isBaked = kind !== 'planting';
  material.customProgramCacheKey = () => kind;
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, lookUniforms);
    shader.vertexShader = shader.vertexShader
      .replace('#include <common>', `#include <common>\n${isBaked ? 'attribute vec4 baked; varying vec3 vBaked;' : ''} varying vec3 vPlace;`)
      .replace(
        '#include <worldpos_vertex>',
        `#include <worldpos_vertex>
        ${isBaked ? `vBaked = baked.rgb * baked.rgb * ${MOST_LIGHT.toFixed(1)};` : ''}
        vec4 atPlace = vec4(transformed, 1.0);
        #ifdef USE_INSTANCING
          atPlace = instanceMatrix * atPlace;
        #endif
        vPlace = (modelMatrix * atPlace).xyz;`,
      );
    shader.fragmentShader = shader.fragmentShader
      .replace('#include <common>', `#include <common>\n${LIGHT_GLSL}\n${isBaked ? 'varying vec3 vBaked;' : ''} varying vec3 vPlace;`)
      .replace('#include <normal_fragment_maps>', kind === 'water' ? `#include <normal_fragment_maps>\n${RIPPLED}` : '#include <normal_fragment_maps>')
      .replace('#include <lights_fragment_maps>', kind === 'planting' ? PLANT_LIGHT : BAKED_LIGHT)
      .replace('#include <opaque_fragment>', `${kind === 'clear' ? CLEAR : ''}\n#include <opaque_fragment>`)
      .replace('#include <tonemapping_fragment>', 'gl_FragColor.rgb = developed(gl_FragColor.rgb);')
      .replace('#include <colorspace_fragment>', '')
      .replace('#include <premultiplied_alpha_fragment>', '');
  };
} // prettier-ignore

/** Where little of the sky's light comes, little of the sky is mirrored. */
const BAKED_LIGHT = /* glsl */ `
  irradiance += vBaked * PI;
  vec3 mirrored = inverseTransformDirection(reflect(-geometryViewDir, geometryNormal), viewMatrix);
  float open = clamp(dot(vBaked, vec3(0.333)) / max(1e-4, dot(skyLight, vec3(0.333))), 0.0, 1.0);
  radiance += mix(vBaked, skyTowards(mirrored, material.roughness * 7.0), open);
`;
const PLANT_LIGHT = /* glsl */ `
  vec3 upward = inverseTransformDirection(geometryNormal, viewMatrix);
  vec3 about = skyLight * (0.55 + 0.35 * upward.z);
  irradiance += about * PI;
  radiance += about;
`;
const CLEAR = /* glsl */ `
  float cosine = clamp(abs(dot(normal, normalize(vViewPosition))), 0.0, 1.0);
  float bounced = 0.04 + 0.96 * pow(1.0 - cosine, 5.0);
  bounced = 2.0 * bounced / (1.0 + bounced);
  vec3 seen = inverseTransformDirection(reflect(-normalize(vViewPosition), normal), viewMatrix);
  outgoingLight = skyTowards(seen, 0.0) * bounced;
  diffuseColor.a = clamp(bounced + 0.06, 0.0, 1.0);
`;
const RIPPLED = /* glsl */ `
  vec2 wave = vec2(
    sin(vPlace.x * 2.1 + vPlace.y * 1.3) + sin(vPlace.x * 0.7 - vPlace.y * 1.9) + 0.5 * sin(vPlace.x * 5.3 + vPlace.y * 3.7),
    sin(vPlace.y * 2.3 - vPlace.x * 1.1) + sin(vPlace.y * 0.6 + vPlace.x * 1.7) + 0.5 * sin(vPlace.y * 4.9 - vPlace.x * 4.1)) * 0.012;
  normal = normalize(normal + (viewMatrix * vec4(wave, 0.0, 0.0)).xyz);
`;

/** The sky behind everything. */
export function skyDome(): THREE.Mesh {
  const material = new THREE.ShaderMaterial({
    side: THREE.BackSide,
    depthWrite: false,
    uniforms: lookUniforms,
    vertexShader: `varying vec3 way; void main() { way = position; vec4 p = projectionMatrix * mat4(mat3(viewMatrix)) * vec4(position, 1.0); gl_Position = p.xyww; }`,
    fragmentShader: `${LIGHT_GLSL} varying vec3 way; void main() { gl_FragColor = vec4(developed(skyTowards(normalize(way), 0.0)), 1.0); }`,
  });
  const dome = new THREE.Mesh(new THREE.SphereGeometry(10, 48, 24), material);
  dome.frustumCulled = false;
  dome.renderOrder = -1;
  return dome;
}
