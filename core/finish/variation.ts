import { random } from '../random';
import { PLAIN_VARIATION, type Finish, type Variation } from './finish';
import type { UvOverride } from './uv-override';

const TURNS = { none: 0, half: 2, quarter: 4 } as const;

/**
 * Repeatable for one element's name and the finish's seed; undefined: it has the finish as it is. Where maps are laid by
 * hand, chance has no say in where they lie.
 */
export function variationOf(finish: Finish, element: string, laid?: UvOverride): Variation | undefined {
  const drawn = drawnVariation(finish, element);
  if (!laid || laid.onlyFaces) return drawn;
  return { ...(drawn ?? PLAIN_VARIATION), uM: laid.offsetM[0], vM: laid.offsetM[1], turnRad: (laid.turnDeg * Math.PI) / 180 };
}

function drawnVariation({ vary, widthM, heightM }: Finish, element: string): Variation | undefined {
  if (!vary.offset && vary.turn === 'none' && vary.size === 0 && vary.hueDeg === 0 && vary.brightness === 0) return undefined;
  const next = numbersFrom(element, vary.seed);
  const about = (spread: number) => (2 * next() - 1) * spread;
  const [u, v, turn] = [next(), next(), next()];
  return {
    uM: vary.offset ? stepped(u, widthM, vary.stepM[0]) : 0,
    vM: vary.offset ? stepped(v, heightM, vary.stepM[1]) : 0,
    turnRad:
      2 * Math.PI * (vary.turn === 'free' ? turn : vary.turn === 'none' ? 0 : Math.floor(turn * TURNS[vary.turn]) / TURNS[vary.turn]),
    size: 1 + about(vary.size),
    hueRad: (about(vary.hueDeg) * Math.PI) / 180,
    brightness: 1 + about(vary.brightness),
  };
}

/** A share of a repeat, in whole steps if there are any. */
function stepped(share: number, repeatM: number, stepM: number): number {
  const steps = stepM > 0 ? Math.max(1, Math.round(repeatM / stepM)) : 0;
  return steps > 0 ? Math.floor(share * steps) * stepM : share * repeatM;
}

/** Numbers in [0, 1) from a text and a seed: its FNV-1a hash starts them. */
export function numbersFrom(text: string, seed: number): () => number {
  let hash = 0x811c9dc5 ^ seed;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return random(hash);
}
