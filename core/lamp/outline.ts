import { cross, type Vec3 } from '../geometry/vec3';
import { lampFrame } from './frame';
import type { PlacedLamp } from './placed-lamp';

/** Segments that show a lamp in its true size, in the project's metres: what it shines from, and where its axis points. */

const STEPS = 32;
/** Of the line along the axis, and of a spot's cone; of what has no size of its own. */
const AXIS_M = 0.4;
const CONE_M = 0.8;
const SMALL_M = 0.06;

export function lampOutline({
  position,
  direction,
  turnDeg,
  form,
}: Pick<PlacedLamp, 'position' | 'direction' | 'turnDeg' | 'form'>): [Vec3, Vec3][] {
  const { axis, right } = lampFrame(direction, turnDeg);
  const across = cross(axis, right);
  const at = (x: number, y: number, z: number): Vec3 =>
    [0, 1, 2].map((k) => position[k]! + right[k]! * x + across[k]! * y + axis[k]! * z) as unknown as Vec3;
  const line = (...points: Vec3[]): [Vec3, Vec3][] => points.slice(1).map((p, i) => [points[i]!, p]);
  const round = (place: (c: number, s: number) => Vec3) =>
    line(...Array.from({ length: STEPS + 1 }, (_, i) => place(Math.cos((i / STEPS) * 2 * Math.PI), Math.sin((i / STEPS) * 2 * Math.PI))));
  const disc = (r: number, z = 0) => round((c, s) => at(r * c, r * s, z));
  const ray = line(at(0, 0, 0), at(0, 0, AXIS_M));
  switch (form.kind) {
    case 'point':
      return [...disc(form.radiusM), ...round((c, s) => at(form.radiusM * c, 0, form.radiusM * s)), ...round((c, s) => at(0, form.radiusM * c, form.radiusM * s))]; // prettier-ignore
    case 'spot': {
      const wide = form.radiusM + CONE_M * Math.tan((form.beamDeg / 2) * (Math.PI / 180));
      const sides = [[1, 0], [0, 1], [-1, 0], [0, -1]].flatMap(([c, s]) => line(at(form.radiusM * c!, form.radiusM * s!, 0), at(wide * c!, wide * s!, CONE_M))); // prettier-ignore
      return [...disc(form.radiusM), ...disc(wide, CONE_M), ...sides];
    }
    case 'rectangle': {
      // Lengths are across the plane C0, widths along it.
      const [x, y] = [form.widthM / 2, form.lengthM / 2];
      return [...line(at(x, y, 0), at(-x, y, 0), at(-x, -y, 0), at(x, -y, 0), at(x, y, 0)), ...ray];
    }
    case 'disc':
      return [...disc(form.radiusM), ...ray];
    case 'line':
      return [...line(at(0, -form.lengthM / 2, 0), at(0, form.lengthM / 2, 0)), ...ray];
    case 'measured':
      return [...disc(SMALL_M), ...ray];
  }
}
