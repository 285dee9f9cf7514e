import { multiply, rotationZ, transformDirection, transformPoint, translation, type Mat4 } from '../geometry/mat4';
import { add, cross, dot, normalise, scale, type Vec3 } from '../geometry/vec3';
import { planeThrough, type Section } from './sections';

/** A section as something to be taken hold of: where it is, how it is drawn, and what becomes of it when it is moved. */

type Cut = Section['cut'];

/** A plane has no end; of it this square is drawn, and so long an arrow towards what is cut away. */
const HALF_M = 3;
const ARROW_M = 1;

/** Its middle and axes: of a plane at the place next to another, its third axis the normal; of a box its own. */
export function sectionFrame(cut: Cut, near: Vec3): Mat4 {
  if (cut.kind === 'box') return multiply(translation(...cut.middle), rotationZ((cut.turnDeg * Math.PI) / 180));
  const normal = normalise(cut.normal);
  const at = add(near, scale(normal, cut.offsetM / Math.hypot(...cut.normal) - dot(normal, near)));
  const x: Vec3 = Math.abs(normal[2]) > 0.9999 ? [1, 0, 0] : normalise(cross(normal, [0, 0, 1]));
  return [...x, 0, ...cross(normal, x), 0, ...normal, 0, ...at, 1];
}

export function sectionOutline(cut: Cut, frame: Mat4): [Vec3, Vec3][] {
  const at = (x: number, y: number, z: number): Vec3 => transformPoint(frame, [x, y, z]);
  const ring = (x: number, y: number, z: number): [Vec3, Vec3][] => {
    const corners = [at(-x, -y, z), at(x, -y, z), at(x, y, z), at(-x, y, z)];
    return corners.map((corner, k) => [corner, corners[(k + 1) % 4]!]);
  };
  if (cut.kind === 'plane') return [...ring(HALF_M, HALF_M, 0), [at(0, 0, 0), at(0, 0, ARROW_M)]];
  const [x, y, z] = cut.sizeM.map((m) => m / 2) as [number, number, number];
  const edges = [[-x, -y], [x, -y], [x, y], [-x, y]].map(([a, b]): [Vec3, Vec3] => [at(a!, b!, -z), at(a!, b!, z)]); // prettier-ignore
  return [...ring(x, y, -z), ...ring(x, y, z), ...edges];
}

/** The cut after a movement of its frame; a box stays upright. */
export function carriedSection(cut: Cut, frame: Mat4, by: Mat4): Cut {
  const after = multiply(by, frame);
  const middle: Vec3 = [after[12]!, after[13]!, after[14]!];
  if (cut.kind === 'plane') return planeThrough(normalise(transformDirection(after, [0, 0, 1])), middle);
  const axes = [0, 4, 8].map((k) => Math.hypot(after[k]!, after[k + 1]!, after[k + 2]!));
  const sizeM = cut.sizeM.map((size, k) => Math.max(0.1, size * axes[k]!)) as [number, number, number];
  return { kind: 'box', middle, sizeM, turnDeg: (Math.atan2(after[1]!, after[0]!) * 180) / Math.PI };
}
