import * as THREE from 'three';
import type { Finish } from '../../../core/finish/finish';
import { decodeSrgb } from '../../../core/image/tone';

/** Colour that each face of a tinted pane or sheet takes from what is seen through it; undefined: it takes none, or by the way inside. */
export function tintOf({ transmission, opacity, baseColour, body, attenuationDistanceM }: Finish): [number, number, number] | undefined {
  if (transmission === 0 || opacity < 1 || (attenuationDistanceM !== null && body !== 'sheet')) return undefined;
  const tint = baseColour.map((c) => decodeSrgb(c) ** (body === 'sheet' ? 1 : 0.5)) as [number, number, number];
  return Math.min(...tint) > 0.97 ? undefined : tint;
}

/** Multiplies what has been drawn behind a tinted surface; of the sky, which is drawn last, only the lightness. */
export function filterMaterial(tint: readonly [number, number, number]): THREE.MeshBasicMaterial {
  return new THREE.MeshBasicMaterial({
    color: new THREE.Color(...tint),
    opacity: 1 - (0.2126 * tint[0] + 0.7152 * tint[1] + 0.0722 * tint[2]),
    transparent: true,
    side: THREE.DoubleSide,
    depthWrite: false,
    blending: THREE.CustomBlending,
    blendSrc: THREE.ZeroFactor,
    blendDst: THREE.SrcColorFactor,
    blendSrcAlpha: THREE.OneFactor,
    blendDstAlpha: THREE.OneMinusSrcAlphaFactor,
  });
}
