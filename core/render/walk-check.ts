import { WalkWay, type Walk } from '../camera/walk';
import { distance, scale, subtract } from '../geometry/vec3';
import { MASK_CLEAR, MASK_OPAQUE } from '../kernel/assembly/layout';
import type { KernelExports } from '../kernel/kernel';

/** Where a walk goes through something, or the head of who walks would bump. */
export interface WalkFault {
  at: number;
  kind: 'wall' | 'head';
}

const STEP_M = 0.1;
const MOST_STEPS = 4000;
/** From the eye to over the crown; common practice. */
const CROWN_M = 0.15;
/** Faults of a kind nearer to each other than this are one, seconds. */
const TOGETHER_S = 0.7;

/** Looks along a walk in the scene that is in the kernel's memory. Cuts are no ways. */
export function checkWalk(kernel: Pick<KernelExports, 'traceAny'>, walk: Walk): WalkFault[] {
  const way = new WalkWay(walk);
  const steps = Math.min(MOST_STEPS, Math.max(2, Math.ceil(way.lengthM / STEP_M)));
  const faults: WalkFault[] = [];
  const tell = (at: number, kind: WalkFault['kind']) => {
    const last = faults.findLast((fault) => fault.kind === kind);
    if (!last || at - last.at > TOGETHER_S) faults.push({ at, kind });
  };
  for (let i = 0; i < steps; i++) {
    const [from, to] = [(i / steps) * way.seconds, ((i + 1) / steps) * way.seconds];
    if (way.cuts.some(({ at }) => at > from && at <= to)) continue;
    const [a, b] = [way.cameraAt(from).position, way.cameraAt(to).position];
    const length = distance(a, b);
    if (length < 1e-6) continue;
    const d = scale(subtract(b, a), 1 / length);
    if (kernel.traceAny(...a, ...d, length, MASK_OPAQUE | MASK_CLEAR)) tell(from, 'wall');
    else if (kernel.traceAny(...b, 0, 0, 1, CROWN_M, MASK_OPAQUE | MASK_CLEAR)) tell(to, 'head');
  }
  return faults;
}
