import type { Mesh } from './mesh';

/** Of a body's volume, how far its three measures may differ. */
const ROUNDING = 0.01;

/**
 * Whether a mesh bounds a body whose faces look outward. By the divergence theorem the integrals of x, y and z over the
 * projected faces are each the volume, and the mixed ones are 0; faces that are missing show in one of them. Corners need
 * not be shared, so that bodies which were cut and joined count too.
 */
export function isClosed({ positions, indices }: Pick<Mesh, 'positions' | 'indices'>): boolean {
  if (indices.length < 12) return false;
  const [ox, oy, oz] = [positions[indices[0]! * 3]!, positions[indices[0]! * 3 + 1]!, positions[indices[0]! * 3 + 2]!];
  const moments = new Float64Array(9);
  const area = new Float64Array(3);
  let whole = 0;
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [indices[t]! * 3, indices[t + 1]! * 3, indices[t + 2]! * 3];
    const [ax, ay, az] = [positions[a]! - ox, positions[a + 1]! - oy, positions[a + 2]! - oz];
    const [bx, by, bz] = [positions[b]! - ox, positions[b + 1]! - oy, positions[b + 2]! - oz];
    const [cx, cy, cz] = [positions[c]! - ox, positions[c + 1]! - oy, positions[c + 2]! - oz];
    const n = [
      ((by - ay) * (cz - az) - (bz - az) * (cy - ay)) / 2,
      ((bz - az) * (cx - ax) - (bx - ax) * (cz - az)) / 2,
      ((bx - ax) * (cy - ay) - (by - ay) * (cx - ax)) / 2,
    ] as const;
    const middle = [(ax + bx + cx) / 3, (ay + by + cy) / 3, (az + bz + cz) / 3] as const;
    for (let i = 0; i < 3; i++) {
      area[i] = area[i]! + n[i]!;
      for (let k = 0; k < 3; k++) moments[i * 3 + k] = moments[i * 3 + k]! + middle[i]! * n[k]!;
    }
    whole += Math.hypot(...n);
  }
  const volume = (moments[0]! + moments[4]! + moments[8]!) / 3;
  if (!(volume > 1e-9) || Math.hypot(...area) > ROUNDING * whole) return false;
  return moments.every((moment, i) => Math.abs(moment - (i % 4 === 0 ? volume : 0)) <= ROUNDING * volume + 1e-9);
}
