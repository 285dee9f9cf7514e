import type { ModelFile } from './model-file';

/** Metres of the units that files name. */
export const METRES_OF = {
  micron: 1e-6, millimeter: 0.001, centimeter: 0.01, inch: 0.0254, foot: 0.3048, yard: 0.9144, meter: 1, kilometer: 1000, mile: 1609.344,
} as const; // prettier-ignore
export type LengthUnit = keyof typeof METRES_OF;

/**
 * The unit of a file that names none, from how far it reaches: nobody draws a building of several kilometres, so large numbers are
 * millimetres. Common practice, no source; a wrong guess is mended by the scale of the source's placement.
 */
export function guessedUnit(reach: number, usual: 'meter' | 'millimeter'): LengthUnit {
  if (usual === 'millimeter') return reach > 50 ? 'millimeter' : 'meter';
  return reach > 3000 ? 'millimeter' : 'meter';
}

/** What is said of a guess, beside the name of the format. */
export const takenAs = (format: string, unit: LengthUnit): ModelFile['format'] =>
  `${format}, taken as ${unit === 'millimeter' ? 'millimetres' : 'metres'}`;
