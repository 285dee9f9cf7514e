/**
 * Directional albedo of GGX facets that mirror all they meet once: what is missing to 1 was mirrored between facets, and is given back by a
 * second lobe (Kulla & Conty 2017, "Revisiting Physically Based Shading at Imageworks").
 * Visible normals by Heitz 2018, masking and shadowing by Smith with correlated heights, as the kernel samples and evaluates them.
 */
import { SHEEN_STEPS } from './sheen';

/** Entries of the table each way, as that of sheen. */
const STEPS = SHEEN_STEPS;

export interface FacetAlbedo {
  /** Share of the light that comes back after one meeting. */
  whole: number;
  /** The same, weighed by the fifth power in Schlick's approximation: with reflectances f0 and f90 (whole - edge) f0 + edge f90 comes back. */
  edge: number;
}

const smith = (z: number, alpha: number): number => (Math.sqrt(1 + (alpha * alpha * (1 - z * z)) / (z * z)) - 1) / 2;

/** Van der Corput's sequence, from the bits of a number turned. */
function radicalInverse(i: number): number {
  let bits = 0;
  for (let k = 0, rest = i; k < 32; k++, rest >>>= 1) bits = bits * 2 + (rest & 1);
  return bits / 2 ** 32;
}

/** Hammersley's points on the disc: pairs of x and y. */
function discPoints(count: number): Float64Array {
  const points = new Float64Array(count * 2);
  for (let i = 0; i < count; i++) {
    const r = Math.sqrt((i + 0.5) / count);
    const phi = radicalInverse(i) * 2 * Math.PI;
    points[2 * i] = r * Math.cos(phi);
    points[2 * i + 1] = r * Math.sin(phi);
  }
  return points;
}

let kept: Float64Array = new Float64Array();

/** Seen under a cosine, by the visible normals of Hammersley's points. */
export function facetAlbedo(cosine: number, roughness: number, points = 1024): FacetAlbedo {
  if (kept.length !== points * 2) kept = discPoints(points);
  const alpha = Math.max(0.0016, roughness * roughness);
  const sine = Math.sqrt(1 - cosine * cosine);
  const length = Math.hypot(alpha * sine, cosine);
  const [vx, vz] = [(alpha * sine) / length, cosine / length];
  const masked = smith(cosine, alpha);
  let [whole, edge] = [0, 0];
  for (let i = 0; i < points; i++) {
    // The frame about the stretched view: its first axis level, its second upwards.
    const p1 = kept[2 * i]!;
    const blend = (1 + vz) / 2;
    const p2 = (1 - blend) * Math.sqrt(1 - p1 * p1) + blend * kept[2 * i + 1]!;
    const p3 = Math.sqrt(Math.max(0, 1 - p1 * p1 - p2 * p2));
    const nx = alpha * (-vz * p2 + vx * p3);
    const nz = Math.max(1e-6, vx * p2 + vz * p3);
    const size = Math.sqrt(nx * nx + (alpha * p1) ** 2 + nz * nz);
    const [hx, hz] = [nx / size, nz / size];
    const half = sine * hx + cosine * hz;
    const out = 2 * half * hz - cosine;
    if (out <= 0) continue;
    const share = (1 + masked) / (1 + masked + smith(out, alpha));
    whole += share;
    edge += share * (1 - Math.min(1, half)) ** 5;
  }
  return { whole: whole / points, edge: edge / points };
}

let table: Float32Array | undefined;

/**
 * Pairs (whole, edge) by cosine (rows, 0.5/16 to 15.5/16) and roughness (columns, 0 to 1), then a row of their means over the
 * hemisphere.
 */
export function facetTable(): Float32Array {
  if (table) return table;
  table = new Float32Array((STEPS + 1) * STEPS * 2);
  for (let row = 0; row < STEPS; row++) {
    const cosine = (row + 0.5) / STEPS;
    for (let column = 0; column < STEPS; column++) {
      const { whole, edge } = facetAlbedo(cosine, column / (STEPS - 1));
      for (const [k, value] of [whole, edge].entries()) {
        table[(row * STEPS + column) * 2 + k] = value;
        table[(STEPS * STEPS + column) * 2 + k]! += (value * 2 * cosine) / STEPS;
      }
    }
  }
  return table;
}
