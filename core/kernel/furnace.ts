import { FINISHES } from '../finish/library';
import type { Finish } from '../finish/finish';
import { box, matt, quad, testScene, uniformSky } from './testing';

/** The white furnace: of light that comes evenly from all sides, a body that absorbs nothing sends back as much from every side. */

const SKY_CD_M2 = 1000;
const EYE_M = 0.5;

/** A finish with a white base, without anything that absorbs: no pictures, no tint, no light of its own. */
export function whitened(finish: Finish): Finish {
  return {
    ...finish,
    baseColour: [1, 1, 1],
    maps: null,
    hueDeg: 0,
    saturation: 1,
    brightness: 1,
    contrast: 1,
    specularColour: [1, 1, 1],
    diffuseTransmissionColour: null,
    sheenColour: [1, 1, 1],
    attenuationDistanceM: null,
    scatteredBack: [0, 0, 0],
    emissionCdM2: 0,
    anisotropy: 0,
    opacity: 1,
    blades: null,
    waves: null,
    reliefM: 0,
  };
}

/** Light that comes back from a white slab that has a finish, seen at an angle, over what comes in; also from behind a pane. */
export function furnace(finish: Finish, deg: number, behindPane: boolean, count: number): number {
  const half = 30;
  const square = (z: number) => quad([-half, -half, z], [half, -half, z], [half, half, z], [-half, half, z]);
  // What light wanders in or is bent by is closed all round.
  const closed = finish.subsurfaceM > 0 || (finish.transmission > 0 && finish.body !== 'sheet');
  const slab = closed ? box([-half, -half, -0.5], [half, half, 0]) : square(0);
  const pane = { mesh: square(EYE_M * 0.5), finish: matt(1, { transmission: 1, roughness: 0, ior: 1.5 }) };
  const scene = testScene([{ mesh: slab, finish }, ...(behindPane ? [pane] : [])], uniformSky(SKY_CD_M2));
  scene.settings({ seed: 1, maxDepth: 40 });
  const angle = (deg * Math.PI) / 180;
  return scene.kernel.measureRadiance(scene.scene, 0, 0, EYE_M, Math.sin(angle), 0, -Math.cos(angle), count, 5) / SKY_CD_M2;
}

export const ANGLES_DEG: readonly number[] = [0, 40, 65, 80];

const BEHIND_PANE_DEG = 40;

/** Of every shipped finish, what comes back at each of ANGLES_DEG in the open, then at BEHIND_PANE_DEG behind a pane. */
export function furnaceTable(count: number): { name: string; shares: number[] }[] {
  return FINISHES.map((finish) => {
    const white = whitened(finish);
    const shares = ANGLES_DEG.map((deg) => furnace(white, deg, false, count));
    return { name: finish.id, shares: [...shares, furnace(white, BEHIND_PANE_DEG, true, count)] };
  });
}
