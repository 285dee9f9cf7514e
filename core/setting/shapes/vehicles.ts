import { MeshBuilder, type Point2 } from '../../geometry/shapes';
import type { Vec3 } from '../../geometry/vec3';
import { bicycle } from './figure';
import { block, limb, solid } from './solid';
import { stuff, type Shape, type ShapePart } from './shape';

/** Vehicles in real sizes; their front is towards -y. */

interface Body {
  widthM: number;
  /** Outline from the side: along the length from the front (0), and above the road. */
  lower: readonly Point2[];
  /** Windows and roof; narrower towards the top. */
  cabin: readonly Point2[];
  roof: readonly Point2[];
  lengthM: number;
  wheels: readonly number[];
  wheelM: number;
  paint: string;
}

const side =
  (outline: readonly Point2[], widthM: number, lengthM: number, top = 1) =>
  (builder: MeshBuilder) => {
    const heights = outline.map(([, z]) => z);
    const [low, high] = [Math.min(...heights), Math.max(...heights)];
    const half = (z: number) => (widthM / 2) * (1 - (1 - top) * ((z - low) / (high - low)));
    builder.prism(outline, [], ([along, z], end): Vec3 => [(end ? 1 : -1) * half(z), along - lengthM / 2, z]);
  };

function vehicle({ widthM, lower, cabin, roof, lengthM, wheels, wheelM, paint }: Body): ShapePart[] {
  const wheel = (b: MeshBuilder, radius: number, width: number) => {
    for (const y of wheels)
      for (const x of [-1, 1]) {
        const at = x * (widthM / 2 - 0.12);
        limb(b, [[at - width / 2, y - lengthM / 2, wheelM], [at - width / 2 + 0.02, y - lengthM / 2, wheelM], [at + width / 2 - 0.02, y - lengthM / 2, wheelM], [at + width / 2, y - lengthM / 2, wheelM]], [radius * 0.92, radius, radius, radius * 0.92], 22, [0, 0, 1]); // prettier-ignore
      }
  };
  const front = (z: number, w: number, h: number, y: number) => (b: MeshBuilder) => {
    for (const x of [-1, 1]) block(b, [x * (widthM / 2 - w / 2 - 0.06), y, z], [w, 0.05, h]);
  };
  const nose = Math.max(...lower.filter(([y]) => y < 0.3).map(([, z]) => z));
  return [
    { mesh: solid(side(lower, widthM, lengthM, 0.97)), stuff: stuff('car body', paint, { roughness: 0.35, clearCoat: 1, clearCoatRoughness: 0.05 }) },
    { mesh: solid(side(roof, widthM * 0.8, lengthM, 0.92)), stuff: stuff('car body', paint, { roughness: 0.35, clearCoat: 1, clearCoatRoughness: 0.05 }) },
    { mesh: solid(side(cabin, widthM * 0.95, lengthM, 0.84)), stuff: stuff('dark screens', '#14191c', { roughness: 0.06, clearCoat: 1, clearCoatRoughness: 0.02 }) },
    { mesh: solid((b) => { wheel(b, wheelM, 0.2); block(b, [0, 0, 0.2], [widthM * 0.9, lengthM * 0.9, 0.14]); }), stuff: stuff('rubber', '#1d1f22', { roughness: 0.85 }) },
    { mesh: solid((b) => { wheel(b, wheelM * 0.62, 0.215); }), stuff: stuff('rims', '#a9adb1', { roughness: 0.3, metalness: 1 }) },
    { mesh: solid(front(nose - 0.22, 0.32, 0.13, -lengthM / 2 + 0.03)), stuff: stuff('lights', '#dfe6ea', { roughness: 0.08, clearCoat: 1 }) },
    { mesh: solid(front(nose - 0.2, 0.22, 0.16, lengthM / 2 - 0.02)), stuff: stuff('rear lights', '#7a1512', { roughness: 0.15, clearCoat: 1 }) },
  ];
} // prettier-ignore

const CAR: Body = {
  widthM: 1.78, lengthM: 4.2, wheelM: 0.32, wheels: [0.82, 3.38], paint: '#5e6b73',
  lower: [[0.02, 0.3], [4.18, 0.3], [4.2, 0.62], [4.12, 0.95], [3.3, 0.98], [1.2, 0.95], [0.35, 0.84], [0.04, 0.68]],
  cabin: [[1.05, 0.92], [3.95, 0.94], [3.55, 1.44], [3.2, 1.47], [1.95, 1.46]],
  roof: [[1.9, 1.44], [3.5, 1.43], [3.2, 1.5], [2.1, 1.5]],
}; // prettier-ignore
const ESTATE: Body = { ...CAR, lengthM: 4.6, wheels: [0.85, 3.6], paint: '#7c2f26', lower: [[0.02, 0.3], [4.58, 0.3], [4.6, 0.62], [4.54, 1.0], [1.25, 0.97], [0.35, 0.84], [0.04, 0.68]], cabin: [[1.1, 0.94], [4.52, 0.98], [4.3, 1.45], [2.0, 1.46]], roof: [[1.95, 1.44], [4.3, 1.43], [4.15, 1.5], [2.1, 1.5]] }; // prettier-ignore
const VAN: Body = {
  widthM: 2.0, lengthM: 5.3, wheelM: 0.35, wheels: [0.95, 4.2], paint: '#dcdad2',
  lower: [[0.02, 0.32], [5.28, 0.32], [5.3, 2.3], [1.75, 2.36], [1.5, 2.3], [0.75, 1.22], [0.15, 1.05], [0.02, 0.75]],
  cabin: [[0.72, 1.26], [1.9, 1.3], [1.9, 1.95], [1.38, 2.0]],
  roof: [[1.6, 2.33], [5.2, 2.28], [5.1, 2.4], [1.8, 2.42]],
}; // prettier-ignore
const BUS: Body = {
  widthM: 2.5, lengthM: 11.8, wheelM: 0.48, wheels: [2.7, 8.9], paint: '#2f5d57',
  lower: [[0.03, 0.3], [11.78, 0.3], [11.8, 3.0], [0.3, 3.05], [0.05, 2.6]],
  cabin: [[0.0, 1.15], [11.6, 1.2], [11.6, 2.55], [0.02, 2.6]],
  roof: [[0.35, 3.0], [11.7, 2.98], [11.5, 3.1], [0.6, 3.12]],
}; // prettier-ignore
/** Its windows stand out of its sides by a little. */
const bus = (): ShapePart[] => vehicle(BUS).map((part, i) => (i === 2 ? { ...part, mesh: solid(side(BUS.cabin, 2.52, BUS.lengthM, 1)) } : part)); // prettier-ignore
const van = (): ShapePart[] => vehicle(VAN).map((part, i) => (i === 2 ? { ...part, mesh: solid(side(VAN.cabin, 2.02, VAN.lengthM, 0.99)) } : part)); // prettier-ignore

/** An open rowing boat; it floats 0.18 m deep. */
function boat(): ShapePart[] {
  const [length, beam] = [4.6, 1.6];
  const section = (t: number, inset: number): Vec3[] => {
    const y = (t - 0.5) * length;
    const half = (beam / 2) * Math.min(1, 1.9 * Math.sin(Math.PI * (0.08 + 0.8 * t)) ** 0.8) - inset;
    const [keel, rim] = [-0.18 + 0.28 * (1 - 2 * t) ** 4 + inset, 0.42 + 0.2 * (1 - 2 * t) ** 2];
    return Array.from({ length: 13 }, (_, i): Vec3 => {
      const a = (i / 12 - 0.5) * Math.PI;
      return [Math.sin(a) * Math.max(0.03, half), y, rim - (rim - keel) * Math.cos(a) ** 0.7];
    });
  };
  const hull = (inset: number, inwards: boolean) => (b: MeshBuilder) => {
    const rows = Array.from({ length: 25 }, (_, i) => section(i / 24, inset).map((p) => b.vertex(p)));
    for (let i = 1; i < rows.length; i++)
      for (let k = 1; k < 13; k++) {
        const [p, q, r, s] = [rows[i - 1]![k - 1]!, rows[i - 1]![k]!, rows[i]![k]!, rows[i]![k - 1]!];
        if (inwards) b.face(p, q, r, s);
        else b.face(p, s, r, q);
      }
    if (inwards) return;
    for (const end of [0, 1]) {
      const ring = section(end, inset);
      const outline = end ? ring : [...ring].reverse();
      for (let k = 2; k < outline.length; k++) b.triangle(outline[0]!, outline[k - 1]!, outline[k]!);
    }
  };
  const rim = (b: MeshBuilder) => {
    for (const end of [0, 12]) b.tube(Array.from({ length: 25 }, (_, i) => section(i / 24, 0.015)[end]!), 0.03, 8);
    for (const y of [-0.9, 0.5, 1.5]) block(b, [0, y, 0.22], [1.28, 0.28, 0.035]);
    for (const x of [-0.45, 0.45]) b.tube([[x, -1.6, 0.5], [x * 0.6, 1.7, 0.56]], 0.024, 8);
  }; // prettier-ignore
  return [
    { mesh: solid(hull(0, false)), stuff: stuff('painted hull', '#2c4a5a', { roughness: 0.4, clearCoat: 0.5 }) },
    { mesh: solid(hull(0.04, true)), stuff: stuff('boards inside', '#9c8463', { roughness: 0.7 }) },
    { mesh: solid(rim), stuff: stuff('oak', '#8a6a42') },
  ];
}

export const vehicles: readonly Shape[] = [
  { id: 'car', name: 'Car', make: () => vehicle(CAR) },
  { id: 'estate', name: 'Estate car', make: () => vehicle(ESTATE) },
  { id: 'van', name: 'Van', make: van },
  { id: 'bus', name: 'Bus', make: bus },
  { id: 'bicycle', name: 'Bicycle', make: bicycle },
  { id: 'boat', name: 'Rowing boat', make: boat },
];
