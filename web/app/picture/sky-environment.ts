import * as THREE from 'three';
import type { Sky } from '../../../core/sky/sky-map';

const WIDTH = 128;
const HEIGHT = 64;

/** The sky as image-based light: the same radiance map that the kernel samples, resampled to three's layout and prefiltered. */
export function skyEnvironment(renderer: THREE.WebGLRenderer, sky: Sky, unit: number): THREE.WebGLRenderTarget {
  const data = new Float32Array(WIDTH * HEIGHT * 4);
  for (let j = 0; j < HEIGHT; j++)
    for (let i = 0; i < WIDTH; i++) {
      // three: u = atan(z, x) / 2 pi + 1/2, v = asin(y) / pi + 1/2, over the components as they come.
      const phi = ((i + 0.5) / WIDTH - 0.5) * 2 * Math.PI;
      const theta = ((j + 0.5) / HEIGHT - 0.5) * Math.PI;
      const x = Math.cos(theta) * Math.cos(phi);
      const y = Math.sin(theta);
      const z = Math.cos(theta) * Math.sin(phi);
      const column = Math.floor((((Math.atan2(x, y) / (2 * Math.PI) + 1) % 1) * sky.width));
      const row = Math.min(sky.height - 1, Math.floor((Math.acos(Math.max(-1, Math.min(1, z))) / Math.PI) * sky.height));
      for (let c = 0; c < 3; c++) data[(j * WIDTH + i) * 4 + c] = sky.radiance[(row * sky.width + column) * 3 + c]! / unit;
      data[(j * WIDTH + i) * 4 + 3] = 1;
    }
  const texture = new THREE.DataTexture(data, WIDTH, HEIGHT, THREE.RGBAFormat, THREE.FloatType, THREE.EquirectangularReflectionMapping);
  texture.magFilter = THREE.LinearFilter;
  texture.minFilter = THREE.LinearFilter;
  texture.wrapS = THREE.RepeatWrapping;
  texture.needsUpdate = true;
  const generator = new THREE.PMREMGenerator(renderer);
  const target = generator.fromEquirectangular(texture);
  generator.dispose();
  texture.dispose();
  return target;
}
