import { MeshBuilder } from '../../geometry/shapes';
import { add, cross, normalise, scale, subtract, type Vec3 } from '../../geometry/vec3';

/** Round and bent solids of which things are made. */

/** Bar along points whose half width and half depth change from point to point; `side` is where its width lies. */
export function limb(builder: MeshBuilder, points: readonly Vec3[], radii: readonly (number | readonly [number, number])[], sides = 10, side?: Vec3): MeshBuilder {
  const rings = points.map((p, i) => {
    const along = normalise(subtract(points[Math.min(i + 1, points.length - 1)]!, points[Math.max(i - 1, 0)]!));
    const seed: Vec3 = side ?? (Math.abs(along[2]) > 0.9 ? [1, 0, 0] : [0, 0, 1]);
    const b = normalise(cross(along, seed));
    const a = cross(b, along);
    const radius = radii[Math.min(i, radii.length - 1)]!;
    const [ra, rb] = typeof radius === 'number' ? [radius, radius] : radius;
    return Array.from({ length: sides }, (_, k) => {
      const t = (k / sides) * 2 * Math.PI;
      return builder.vertex(add(p, add(scale(a, Math.cos(t) * ra), scale(b, Math.sin(t) * rb))));
    });
  });
  for (let i = 1; i < rings.length; i++)
    for (let k = 0; k < sides; k++) {
      const n = (k + 1) % sides;
      builder.face(rings[i - 1]![k]!, rings[i]![k]!, rings[i]![n]!, rings[i - 1]![n]!);
    }
  for (const [ring, centre, isEnd] of [[rings[0]!, points[0]!, false], [rings.at(-1)!, points.at(-1)!, true]] as const) {
    const middle = builder.vertex(centre);
    for (let k = 0; k < sides; k++) {
      const n = (k + 1) % sides;
      if (isEnd) builder.triangleOf(middle, ring[n]!, ring[k]!);
      else builder.triangleOf(middle, ring[k]!, ring[n]!);
    }
  }
  return builder;
} // prettier-ignore

/** Ellipsoid about a centre. */
export function ball(builder: MeshBuilder, centre: Vec3, [rx, ry, rz]: Vec3, sides = 14): MeshBuilder {
  const rows = Math.max(6, Math.round(sides * 0.7));
  const ring = (i: number) =>
    Array.from({ length: sides }, (_, k) => {
      const [t, u] = [(i / rows - 0.5) * Math.PI, (k / sides) * 2 * Math.PI];
      return builder.vertex([centre[0] + rx * Math.cos(t) * Math.cos(u), centre[1] + ry * Math.cos(t) * Math.sin(u), centre[2] + rz * Math.sin(t)]);
    }); // prettier-ignore
  const bottom = builder.vertex([centre[0], centre[1], centre[2] - rz]);
  const top = builder.vertex([centre[0], centre[1], centre[2] + rz]);
  const rings = Array.from({ length: rows - 1 }, (_, i) => ring(i + 1));
  for (let k = 0; k < sides; k++) {
    const n = (k + 1) % sides;
    builder.triangleOf(bottom, rings[0]![n]!, rings[0]![k]!);
    builder.triangleOf(top, rings.at(-1)![k]!, rings.at(-1)![n]!);
    for (let i = 1; i < rings.length; i++) builder.face(rings[i - 1]![k]!, rings[i - 1]![n]!, rings[i]![n]!, rings[i]![k]!);
  }
  return builder;
}

/** Box by its middle above the floor: x, y of the middle, z of the underside. */
export const block = (builder: MeshBuilder, [x, y, z]: Vec3, [w, d, h]: Vec3): MeshBuilder =>
  builder.box([x - w / 2, y - d / 2, z], [x + w / 2, y + d / 2, z + h]);

/** Upright round bar. */
export const post = (builder: MeshBuilder, [x, y, z]: Vec3, radius: number, height: number, sides = 12): MeshBuilder =>
  builder.tube([[x, y, z], [x, y, z + height]], radius, sides); // prettier-ignore

/** A wheel that rolls along x. */
export function roller(builder: MeshBuilder, [x, y, z]: Vec3, radius: number, width: number, sides = 22): MeshBuilder {
  return limb(builder, [[x, y - width / 2, z], [x, y - width / 2 + width * 0.12, z], [x, y + width / 2 - width * 0.12, z], [x, y + width / 2, z]], [radius * 0.9, radius, radius, radius * 0.9], sides, [0, 0, 1]); // prettier-ignore
}

export const solid = (fill: (builder: MeshBuilder) => unknown) => {
  const builder = new MeshBuilder();
  fill(builder);
  return builder.build();
};
