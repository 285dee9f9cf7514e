import { multiply, rotationZ, translation, type Mat4 } from '../../core/geometry/mat4';
import { hash01 } from '../../core/finish/maps/noise';
import { add, cross, normalise, scale, type Vec3 } from '../../core/geometry/vec3';
import type { MeshBuilder } from '../../core/geometry/shapes';
import type { Kit } from './kit';

/** Birch and pine, grown once each from fixed numbers and placed many times. */

type Kind = 'birch' | 'pine';

export function tree(kit: Kit, id: string, kind: Kind, at: Vec3, size: number, turnRad: number): void {
  const scaled: Mat4 = [size, 0, 0, 0, 0, size, 0, 0, 0, 0, size, 0, 0, 0, 0, 1];
  const transform = multiply(translation(...at), multiply(rotationZ(turnRad), scaled));
  const [bark, leaves] = kind === 'birch' ? ['bark', 'leaves'] : ['pinebark', 'needles'];
  kit.add({ id, name: `${kind === 'birch' ? 'Birch' : 'Pine'} ${id}`, class: 'GeographicElement', storey: 'Site', layer: 'Planting', at: transform }, [
    [bark, `${kind} wood`, (b) => { wood(b, kind); }],
    [leaves, `${kind} leaves`, (b) => { foliage(b, kind); }],
  ]); // prettier-ignore
}

interface Branch {
  from: Vec3;
  to: Vec3;
  radius: number;
}

function trunkAt(kind: Kind, t: number): Vec3 {
  const height = kind === 'birch' ? 8.5 : 10.5;
  return [Math.sin(t * 3) * 0.16 * t, Math.cos(t * 2.3) * 0.18 * t - 0.18 * t, t * height];
}

function branches(kind: Kind): Branch[] {
  const count = kind === 'birch' ? 34 : 40;
  return Array.from({ length: count }, (_, i) => {
    const r = (k: number) => hash01(i, k, kind === 'birch' ? 3 : 11);
    const t = kind === 'birch' ? 0.28 + 0.7 * ((i + r(1)) / count) : 0.3 + 0.69 * ((i + r(1)) / count);
    const from = trunkAt(kind, t);
    const angle = i * 2.399 + r(2) * 0.7;
    const reach =
      kind === 'birch'
        ? (0.5 + 1.7 * Math.sin(Math.min(1, (1 - t) * 1.9 + 0.12) * Math.PI * 0.62)) * (0.75 + r(3) * 0.5)
        : (0.35 + 2.3 * (1 - t)) * (0.75 + r(3) * 0.4);
    const rise = kind === 'birch' ? 0.55 + r(4) * 0.4 : 0.05 + r(4) * 0.25;
    const to = add(from, [Math.cos(angle) * reach, Math.sin(angle) * reach, reach * rise]);
    return { from, to, radius: (kind === 'birch' ? 0.028 : 0.035) * (1.15 - t) + 0.006 };
  });
}

function wood(b: MeshBuilder, kind: Kind): void {
  const rings = 7;
  for (let i = 0; i < rings; i++) {
    const [t0, t1] = [i / rings, (i + 1) / rings];
    b.tube([trunkAt(kind, t0), trunkAt(kind, t1)], (kind === 'birch' ? 0.13 : 0.19) * (1.04 - t0) + 0.015, 8);
  }
  for (const { from, to, radius } of branches(kind))
    b.tube([from, add(scale(from, 0.5), add(scale(to, 0.5), [0, 0, -0.06])), to], radius, 4);
}

/** Leaves are single small quads, needles are crossed strips; both stand about the branches. */
function foliage(b: MeshBuilder, kind: Kind): void {
  const list = branches(kind);
  const each = kind === 'birch' ? 52 : 34;
  for (const [i, { from, to }] of list.entries())
    for (let k = 0; k < each; k++) {
      const r = (n: number) => hash01(i * 97 + k, n, kind === 'birch' ? 5 : 17);
      const along = kind === 'birch' ? 0.25 + 0.85 * Math.sqrt(r(1)) : 0.18 + 0.9 * r(1);
      const spreadM = kind === 'birch' ? 0.62 : 0.3;
      const centre = add(add(scale(from, 1 - along), scale(to, along)), [
        (r(2) - 0.5) * spreadM,
        (r(3) - 0.5) * spreadM,
        (r(4) - (kind === 'birch' ? 0.62 : 0.4)) * spreadM,
      ]);
      const direction = normalise([r(5) - 0.5, r(6) - 0.5, r(7) - (kind === 'birch' ? 0.75 : 0.25)]);
      const side = normalise(cross(direction, [r(8) - 0.5, r(9) - 0.5, 0.6]));
      const [length, width] = kind === 'birch' ? [0.085 + r(10) * 0.05, 0.04] : [0.3 + r(10) * 0.15, 0.035];
      const [a, c] = [add(centre, scale(direction, -length)), add(centre, scale(direction, length))];
      b.quad(a, add(centre, scale(side, width)), c, add(centre, scale(side, -width)));
    }
}
