import type { Vec3 } from '../geometry/vec3';
import type { Member } from './setting-model';
import type { SetThing } from './set-thing';

/** Segments that show what is set: a ring about each foot with its height, and the line or the outline they stand along. */

const STEPS = 24;
/** Of a meadow not each is ringed. */
const MOST_RINGS = 200;

export function thingOutline({ pattern, size }: Pick<SetThing, 'pattern' | 'size'>, members: readonly Member[]): [Vec3, Vec3][] {
  const segments: [Vec3, Vec3][] = [];
  const every = Math.ceil(members.length / MOST_RINGS);
  for (let i = 0; i < members.length; i += every) {
    const { form, position, transform } = members[i]!;
    const scale = Math.hypot(transform[8]!, transform[9]!, transform[10]!);
    const [radius, [x, y, z]] = [(form.acrossM / 2) * scale, position];
    const round = (k: number): Vec3 => [x + radius * Math.cos((k / STEPS) * 2 * Math.PI), y + radius * Math.sin((k / STEPS) * 2 * Math.PI), z];
    for (let k = 0; k < STEPS; k++) segments.push([round(k), round(k + 1)]);
    segments.push([position, [x, y, z + form.heightM * scale]]);
    // Where it looks, which is along its -y.
    segments.push([position, [x - transform[4]! * (radius / scale), y - transform[5]! * (radius / scale), z]]);
  }
  const z = members.length > 0 ? members.reduce((sum, { position }) => sum + position[2], 0) / members.length : 0;
  const line = pattern.kind === 'row' ? pattern.points : pattern.kind === 'area' ? [...pattern.outline, ...pattern.outline.slice(0, 1)] : [];
  for (let k = 0; k + 1 < line.length; k++) segments.push([[...line[k]!, z + size * 0.05], [...line[k + 1]!, z + size * 0.05]]);
  return segments;
} // prettier-ignore
