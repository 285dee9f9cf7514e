import * as THREE from 'three';
import { meanIntensity, type WebGrid } from '../../../core/lamp/web-grid';

/**
 * Photometric webs in the working picture: a lamp's intensity by the angle from its axis, the mean of all planes, as a row of a
 * texture. A spot light whose cone is wider than a half turn, which no cone is, names its row by that angle.
 */
export const WEB_ROWS = 16;

/** From the axis on, by a degree. */
export const WEB_GAMMAS = 181;

const texture = new THREE.DataTexture(new Float32Array(WEB_GAMMAS * WEB_ROWS), WEB_GAMMAS, WEB_ROWS, THREE.RedFormat, THREE.FloatType);
texture.needsUpdate = true;
/** For every material that lamps light. */
export const WEB_UNIFORMS = { lampWebs: { value: texture } };

/** The cone that names a row. */
export const coneOfRow = (row: number): number => Math.acos(-(row + 0.5) / WEB_ROWS);

/** Intensity by whole degrees from the axis, the mean of all planes; cd per lm. */
export const meanOfPlanes = (grid: WebGrid): Float32Array =>
  Float32Array.from({ length: WEB_GAMMAS }, (_, gamma) => meanIntensity(grid, gamma));

/** Puts a web into a row, against its brightest direction, which is returned in cd per lm. */
export function putWeb(row: number, grid: WebGrid): number {
  const mean = meanOfPlanes(grid);
  const most = Math.max(...mean);
  const data = texture.image.data as Float32Array;
  mean.forEach((value, gamma) => (data[row * WEB_GAMMAS + gamma] = most > 0 ? value / most : 0));
  texture.needsUpdate = true;
  return most;
}

const CONE = 'return smoothstep( coneCosine, penumbraCosine, angleCosine );';
/** By the nearest degree on either side: float textures are not filtered everywhere. */
const WEB = /* glsl */ `if (coneCosine < 0.0) {
    float degrees = acos(clamp(angleCosine, -1.0, 1.0)) * 57.29578;
    int row = int(-coneCosine * ${WEB_ROWS.toFixed(1)});
    int low = int(degrees);
    return mix(texelFetch(lampWebs, ivec2(low, row), 0).r, texelFetch(lampWebs, ivec2(min(low + 1, ${String(WEB_GAMMAS - 1)}), row), 0).r, degrees - float(low));
  }
  ${CONE}`;

/** Lets a material's spot lights shine by their rows. */
export function lightByWebs(shader: { fragmentShader: string; uniforms: Record<string, THREE.IUniform> }): void {
  Object.assign(shader.uniforms, WEB_UNIFORMS);
  const chunk = THREE.ShaderChunk.lights_pars_begin.replace(CONE, WEB);
  shader.fragmentShader = shader.fragmentShader.replace('#include <lights_pars_begin>', `uniform sampler2D lampWebs;\n${chunk}`);
}
