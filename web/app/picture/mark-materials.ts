import * as THREE from 'three';
import type { MarkKind } from '../state/picture-state';

/** Colour and pattern of each kind; the pattern tells them apart without colour. */
const LOOKS: Record<MarkKind, { colour: number; pattern: number }> = {
  pointed: { colour: 0xb8492a, pattern: 0 },
  added: { colour: 0x2f746c, pattern: 1 },
  changed: { colour: 0x9a6700, pattern: 2 },
  removed: { colour: 0xa3223a, pattern: 3 },
};

/** What marked elements are covered with: solid, rising stripes, dots, falling stripes. */
export function markMaterial(kind: MarkKind): THREE.ShaderMaterial {
  const { colour, pattern } = LOOKS[kind];
  return new THREE.ShaderMaterial({
    uniforms: { colour: { value: new THREE.Color(colour) } },
    defines: { PATTERN: pattern },
    vertexShader: 'void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }',
    fragmentShader: `
      uniform vec3 colour;
      void main() {
        vec2 p = gl_FragCoord.xy;
        #if PATTERN == 1
          float on = step(0.5, fract((p.x - p.y) / 8.0));
        #elif PATTERN == 2
          float on = step(length(fract(p / 6.0) - 0.5), 0.32);
        #elif PATTERN == 3
          float on = step(0.5, fract((p.x + p.y) / 8.0));
        #else
          float on = 0.7;
        #endif
        gl_FragColor = vec4(colour, 0.25 + 0.6 * on);
      }`,
    transparent: true,
    depthWrite: false,
    side: THREE.DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: -2,
    polygonOffsetUnits: -4,
  });
}
