/**
 * Sheen of cloth, as KHR_materials_sheen: the "Charlie" distribution (Estevez & Kulla, "Production Friendly Microfacet Sheen
 * BRDF", 2017) with the visibility of Neubelt & Pettineo ("Crafting a Next-Gen Material Pipeline for The Order: 1886", 2013).
 */

/** Entries of the table of reflectances each way. */
export const SHEEN_STEPS = 16;

/** Density of fibres across the half vector, 1/sr; alpha is roughness squared. */
export function charlie(cosHalf: number, alpha: number): number {
  const sine = Math.sqrt(Math.max(0, 1 - cosHalf * cosHalf));
  return ((2 + 1 / alpha) * sine ** (1 / alpha)) / (2 * Math.PI);
}

export const neubelt = (cosLight: number, cosView: number): number => 1 / (4 * (cosLight + cosView - cosLight * cosView));

/** Share of light that white sheen sends back, seen under a cosine: the midpoint rule over the hemisphere. */
export function sheenReflectance(cosView: number, roughness: number, parts = 48): number {
  const alpha = roughness * roughness;
  const sine = Math.sqrt(1 - cosView * cosView);
  let sum = 0;
  for (let i = 0; i < parts; i++) {
    const z = (i + 0.5) / parts;
    const r = Math.sqrt(1 - z * z);
    const weight = neubelt(z, cosView) * z;
    for (let j = 0; j < parts; j++) {
      const phi = ((j + 0.5) / parts) * Math.PI;
      // Both are of unit length: the half vector's length is the root of 2 + 2 (view . light).
      const length = Math.sqrt(2 + 2 * (sine * r * Math.cos(phi) + cosView * z));
      sum += charlie((cosView + z) / length, alpha) * weight;
    }
  }
  return (sum * 2 * Math.PI) / (parts * parts);
}

let table: Float32Array | undefined;

/**
 * Reflectances by cosine (rows, 0.5/16 to 15.5/16) and roughness (columns, 1/16 to 1), then a row of their means over the hemisphere: what
 * lies under sheen gets the rest. Above 1 at a glance along smooth fibres; the kernel brings the sheen itself down to 1 there.
 */
export function sheenTable(): Float32Array {
  if (table) return table;
  table = new Float32Array((SHEEN_STEPS + 1) * SHEEN_STEPS);
  for (let row = 0; row < SHEEN_STEPS; row++)
    for (let column = 0; column < SHEEN_STEPS; column++) {
      const cosine = (row + 0.5) / SHEEN_STEPS;
      const share = sheenReflectance(cosine, (column + 1) / SHEEN_STEPS);
      table[row * SHEEN_STEPS + column] = share;
      table[SHEEN_STEPS * SHEEN_STEPS + column]! += (Math.min(1, share) * 2 * cosine) / SHEEN_STEPS;
    }
  return table;
}
