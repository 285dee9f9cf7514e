import * as THREE from 'three';
import type { Sky } from '../../../core/sky/sky-map';

/**
 * The sky for the working picture, from the radiance map that the kernel samples: nine spherical harmonics for matt light
 * (Ramamoorthi & Hanrahan 2001) and the map itself, coarser with roughness, for what is mirrored and for the background.
 */
export class SkyLight {
  readonly probe = new THREE.LightProbe();
  /** Shared by every finish's shader. */
  readonly uniforms = { skyMap: { value: null as THREE.Texture | null }, skyUnit: { value: 0 } };

  /** The map is divided by this, so that it fits half floats. */
  private static readonly UNIT = 2000;

  set({ backdrop, ...sky }: Sky): void {
    this.project(sky.width, sky.height, sky.radiance);
    this.show(backdrop ?? sky);
  }

  private show({ width, height, radiance }: NonNullable<Sky['backdrop']>): void {
    this.uniforms.skyMap.value?.dispose();
    const data = new Uint16Array(width * height * 4);
    for (let i = 0; i < width * height; i++) {
      for (let c = 0; c < 3; c++) data[i * 4 + c] = THREE.DataUtils.toHalfFloat(Math.min(60000, radiance[i * 3 + c]! / SkyLight.UNIT));
      data[i * 4 + 3] = THREE.DataUtils.toHalfFloat(1);
    }
    const texture = new THREE.DataTexture(data, width, height, THREE.RGBAFormat, THREE.HalfFloatType);
    texture.wrapS = THREE.RepeatWrapping;
    texture.magFilter = THREE.LinearFilter;
    texture.minFilter = THREE.LinearMipmapLinearFilter;
    texture.generateMipmaps = true;
    texture.needsUpdate = true;
    this.uniforms.skyMap.value = texture;
  }

  /** `unit` brings cd/m2 to what is shown white. */
  expose(unit: number): void {
    this.uniforms.skyUnit.value = unit * SkyLight.UNIT;
    this.probe.intensity = unit;
  }

  private project(width: number, height: number, radiance: Float32Array): void {
    const sh = this.probe.sh.zero();
    const direction = new THREE.Vector3();
    const basis = new Array<number>(9).fill(0);
    for (let y = 0; y < height; y++) {
      const theta = ((y + 0.5) / height) * Math.PI;
      const solidAngle = ((2 * Math.PI) / width) * (Math.cos((y * Math.PI) / height) - Math.cos(((y + 1) * Math.PI) / height));
      for (let x = 0; x < width; x++) {
        const phi = ((x + 0.5) / width) * 2 * Math.PI;
        direction.set(Math.sin(theta) * Math.sin(phi), Math.sin(theta) * Math.cos(phi), Math.cos(theta));
        THREE.SphericalHarmonics3.getBasisAt(direction, basis);
        const o = (y * width + x) * 3;
        for (let k = 0; k < 9; k++) {
          const w = basis[k]! * solidAngle;
          const c = sh.coefficients[k]!;
          c.x += radiance[o]! * w;
          c.y += radiance[o + 1]! * w;
          c.z += radiance[o + 2]! * w;
        }
      }
    }
  }
}

/** Looks the sky map up towards a world direction, at a level of detail. */
export const SKY_GLSL = /* glsl */ `
uniform sampler2D skyMap;
uniform float skyUnit;
vec3 skyTowards(vec3 direction, float level) {
  float u = atan(direction.x, direction.y) / 6.2831853;
  float v = acos(clamp(direction.z, -1.0, 1.0)) / 3.14159265;
  return textureLod(skyMap, vec2(u, v), level).rgb * skyUnit;
}
`;
