import type { Luminaire } from '../model/schema';

/** Intensity distribution of a luminaire as the pictures use it: even inside a cone whose edge fades over cosines. */
export interface Beam {
  /** On the axis, cd. */
  intensityCd: number;
  cosInner: number;
  /** -1: shines all round. */
  cosOuter: number;
}

/**
 * The beam whose flux is `fluxLm` x `dim`: half intensity at half the beam angle, a smooth edge around it that is symmetric
 * in the cosine, so that the solid angle is that of the cone, 2 pi (1 - cos).
 */
export function beamOf({ fluxLm, beamDeg, dim }: Pick<Luminaire, 'fluxLm' | 'beamDeg' | 'dim'>): Beam {
  const flux = fluxLm * dim;
  if (beamDeg >= 359) return { intensityCd: flux / (4 * Math.PI), cosInner: 1, cosOuter: -1 };
  const middle = Math.cos((beamDeg / 2) * (Math.PI / 180));
  const half = Math.min(1 - middle, 1 + middle) * 0.6;
  return { intensityCd: flux / (2 * Math.PI * (1 - middle)), cosInner: middle + half, cosOuter: Math.max(-0.9999, middle - half) };
}

/** Flux of a beam in all, lm: its smooth edge is symmetric in the cosine. */
export const fluxOf = ({ intensityCd, cosInner, cosOuter }: Beam): number =>
  intensityCd * 2 * Math.PI * (cosOuter <= -1 ? 2 : 1 - (cosInner + cosOuter) / 2);
