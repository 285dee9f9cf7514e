import { FAMILIES } from '../finish/finish';
import { blobOf } from '../geometry/mesh';
import { MASK_CLEAR, MASK_OPAQUE } from '../kernel/assembly/layout';
import type { SceneMemory } from '../kernel/scene-memory';
import { isTuftKey } from '../living/blades';

/** What lies under places, looked at from above. */
export interface Survey {
  /** Height of what is met, metres; not a number where nothing is. */
  z: Float64Array<ArrayBuffer>;
  /** Place of its finish's family in FAMILIES; 255: nothing is met. */
  family: Uint8Array<ArrayBuffer>;
  /** Number of the instance that is met, to tell one from its neighbour; -1: none. */
  surface: Int32Array<ArrayBuffer>;
  /** 1: the place itself lies within something solid, which a plan at its height cuts; only where that was asked. */
  cut?: Uint8Array<ArrayBuffer>;
}

/** Nobody stands on them. */
const NO_FLOORS: ReadonlySet<number> = new Set((['water', 'roofing', 'metal', 'glass'] as const).map((family) => FAMILIES.indexOf(family)));
const FAR_M = 5000;
const STEP_M = 0.002;
/** Of things that lie over each other. */
const MOST_THINGS = 64;

/**
 * Looks straight down at the scene in the kernel's memory, whole, whatever sections are shown. `places`: x, y and the height that is looked from, one after the other;
 * `ignored`: hashes of meshes that are looked through, as all grass is. With `headroomM`, what is told is the topmost
 * floor with so much free height above it, roofs and water left out: where somebody would stand. With `cuts`, what is cut at the height
 * that is looked from: where the same thing ends below and above.
 */
export function survey(memory: SceneMemory, places: Float64Array, ignored: ReadonlySet<string>, headroomM?: number, cuts = false): Survey {
  memory.kernel.setUncut(1);
  try {
    return lookDown(memory, places, ignored, headroomM, cuts);
  } finally {
    memory.kernel.setUncut(0);
  }
}

function lookDown(
  memory: SceneMemory,
  places: Float64Array,
  ignored: ReadonlySet<string>,
  headroomM: number | undefined,
  cuts: boolean,
): Survey {
  const { kernel } = memory;
  const count = places.length / 3;
  const out: Survey = { z: new Float64Array(count).fill(NaN), family: new Uint8Array(count).fill(255), surface: new Int32Array(count).fill(-1) }; // prettier-ignore
  const known = new Map<number, { looksThrough: boolean; family: number }>();
  const about = (instance: number) => {
    let told = known.get(instance);
    if (!told) {
      const shown = memory.instanceAt(instance);
      const mesh = shown?.mesh ?? '';
      told = { looksThrough: ignored.has(blobOf(mesh)) || isTuftKey(mesh), family: shown ? FAMILIES.indexOf(shown.finish.family) : 255 }; // prettier-ignore
      known.set(instance, told);
    }
    return told;
  };
  for (let i = 0; i < count; i++) {
    const [x, y, top] = [places[i * 3]!, places[i * 3 + 1]!, places[i * 3 + 2]!];
    let from = top;
    let above = Infinity;
    for (let k = 0; k < MOST_THINGS && kernel.traceClosest(x, y, from, 0, 0, -1, FAR_M, MASK_OPAQUE | MASK_CLEAR); k++) {
      const z = from - kernel.hitDistance.value;
      const instance = kernel.hitInstance.value;
      const { looksThrough, family } = about(instance);
      if (looksThrough) {
        from = z - STEP_M;
        continue;
      }
      const isFloor = headroomM === undefined || (above - z >= headroomM && !NO_FLOORS.has(family));
      if (isFloor) {
        out.z[i] = z;
        out.family[i] = family;
        out.surface[i] = instance;
      }
      if (isFloor) break;
      above = z;
      from = z - STEP_M;
    }
  }
  if (cuts) {
    out.cut = new Uint8Array(count);
    for (let i = 0; i < count; i++) {
      const [x, y, z] = [places[i * 3]!, places[i * 3 + 1]!, places[i * 3 + 2]!];
      const above = kernel.traceClosest(x, y, z, 0, 0, 1, FAR_M, MASK_OPAQUE) ? kernel.hitInstance.value : -1;
      if (above >= 0 && kernel.traceClosest(x, y, z, 0, 0, -1, FAR_M, MASK_OPAQUE) && kernel.hitInstance.value === above) out.cut[i] = 1;
    }
  }
  return out;
}
