/**
 * Light's way inside a scattering body, from where it goes in to where it comes out: a random walk with a free path of its own
 * for each colour. One colour, by chance, says how far it goes, and the light of all three is weighed by how likely each of
 * them would have gone that way (hero wavelength sampling, Wilkie et al. 2014). How much is lost at each meeting follows
 * from the colour that a thick block shows, by the inversion of van de Hulst's albedo of a half-space in Kulla & Conty 2017,
 * "Revisiting Physically Based Shading at Imageworks". Scattering is even to all sides; the face has no index of its own.
 */
import * as b from './bsdf';
import * as m from './maths';
import { nextPair, second } from './sampler';
import { clearance } from './shadow';
import * as s from './surface';
import { hitDistance, traceClosest } from './trace';

const MOST_MEETINGS: i32 = 1 << 16;
/** Below this share of its light a walk may be ended by chance. */
const DIM: f32 = 0.3;

/** Share of the light that is left at the end of the walk. */
export let leftR: f32 = 1;
export let leftG: f32 = 1;
export let leftB: f32 = 1;

/** Share of light that one meeting leaves, for the colour that a block of it shows in even light. */
function meetingAlbedo(shown: f32): f32 {
  const a = min<f32>(<f32>0.999, shown);
  const k: f32 = <f32>4.09712 + <f32>4.20863 * a - sqrt<f32>(<f32>9.59217 + <f32>41.6808 * a + <f32>17.7126 * a * a);
  return 1 - k * k;
}

/**
 * From a place on the face of an instance, whose material bsdf.ts has read, with the normal that light comes in by, to where it leaves; that
 * is resolved then, from within. False: it has got lost.
 */
export function randomWalk(scene: usize, home: i32, x: f32, y: f32, z: f32, gx: f32, gy: f32, gz: f32): bool {
  const eR: f32 = 1 / b.freeR,
    eG: f32 = 1 / b.freeG,
    eB: f32 = 1 / b.freeB;
  const aR = meetingAlbedo(b.bodyR),
    aG = meetingAlbedo(b.bodyG),
    aB = meetingAlbedo(b.bodyB);
  m.setFrame(-gx, -gy, -gz);
  const u = nextPair();
  const r = sqrt<f32>(u);
  m.turn(second);
  m.toWorld(r * m.cosine, r * m.sine, sqrt<f32>(max<f32>(<f32>1e-7, 1 - u)));
  let dx = m.rx,
    dy = m.ry,
    dz = m.rz;
  let gap = clearance(x, y, z);
  let ox = x - gx * gap,
    oy = y - gy * gap,
    oz = z - gz * gap;
  const hero = <i32>(nextPair() * 3);
  const e: f32 = hero == 0 ? eR : hero == 1 ? eG : eB;
  keptR = keptG = keptB = wayR = wayG = wayB = 1;
  for (let k = 0; k < MOST_MEETINGS; k++) {
    const way: f32 = -Mathf.log(1 - nextPair()) / e;
    if (traceClosest(ox, oy, oz, dx, dy, dz, way, -1)) {
      const met = hitDistance;
      wayR *= Mathf.exp((e - eR) * met);
      wayG *= Mathf.exp((e - eG) * met);
      wayB *= Mathf.exp((e - eB) * met);
      s.resolveHit(scene, ox, oy, oz, dx, dy, dz);
      if (s.backSide && s.instance == home) {
        weigh();
        return true;
      }
      // Something that is stuck in it.
      gap = clearance(s.px, s.py, s.pz);
      ox = s.px + dx * gap;
      oy = s.py + dy * gap;
      oz = s.pz + dz * gap;
      continue;
    }
    wayR *= (Mathf.exp((e - eR) * way) * eR) / e;
    wayG *= (Mathf.exp((e - eG) * way) * eG) / e;
    wayB *= (Mathf.exp((e - eB) * way) * eB) / e;
    keptR *= aR;
    keptG *= aG;
    keptB *= aB;
    ox += dx * way;
    oy += dy * way;
    oz += dz * way;
    dz = 1 - 2 * nextPair();
    m.turn(second);
    const across = sqrt<f32>(max<f32>(0, 1 - dz * dz));
    dx = across * m.cosine;
    dy = across * m.sine;
    weigh();
    const most = max(leftR, max(leftG, leftB));
    if (most < DIM) {
      const survive: f32 = most / DIM;
      if (nextPair() >= survive) return false;
      keptR /= survive;
      keptG /= survive;
      keptB /= survive;
    }
  }
  return false;
}

/** What the meetings have left of each colour, and how likely each would have gone this way, against the one that led. */
let keptR: f32 = 1;
let keptG: f32 = 1;
let keptB: f32 = 1;
let wayR: f32 = 1;
let wayG: f32 = 1;
let wayB: f32 = 1;

function weigh(): void {
  const mean: f32 = 3 / (wayR + wayG + wayB);
  leftR = keptR * wayR * mean;
  leftG = keptG * wayG * mean;
  leftB = keptB * wayB * mean;
}
