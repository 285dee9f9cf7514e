import type { SourceMaterial } from '../../core/model/schema';
import type { Parameters } from './parameters';

/** Source materials as an office would have named them over the years, in several languages. */
const MATERIALS: readonly [id: string, name: string, colour: [number, number, number], opacity?: number][] = [
  ['cladding', 'Lärche Schalung 120', [0.6, 0.48, 0.36]],
  ['roof', 'Roof – standing seam', [0.55, 0.58, 0.6]],
  ['glazing', 'Glazing type A', [0.75, 0.87, 0.88], 0.25],
  ['jetty', 'Beton jetty', [0.6, 0.6, 0.58]],
  ['plinth', 'Slab edge concrete', [0.58, 0.58, 0.56]],
  ['plaster', 'Walls – lime plaster', [0.9, 0.88, 0.84]],
  ['floor', 'Floor – oak boards', [0.62, 0.48, 0.34]],
  ['frame', 'Fensterrahmen Stahl', [0.2, 0.22, 0.24]],
  ['glulam', 'Glulam spruce', [0.78, 0.63, 0.44]],
  ['soffit', 'Soffit timber', [0.74, 0.6, 0.43]],
  ['steel', 'Railing RAL graphite', [0.23, 0.25, 0.27]],
  ['alu', 'Alu handle', [0.8, 0.81, 0.82]],
  ['felt', 'Bench fabric', [0.36, 0.42, 0.27]],
  ['leather', 'Cuir tabouret', [0.45, 0.27, 0.16]],
  ['stone', 'Paving 600 x 300', [0.62, 0.58, 0.52]],
  ['counter', 'Eiche Theke', [0.6, 0.45, 0.31]],
  ['worktop', 'Pierre plan de travail', [0.55, 0.54, 0.5]],
  ['tile', 'Azulejo 150', [0.9, 0.9, 0.88]],
  ['carpet', 'Tapijt entree', [0.33, 0.36, 0.4]],
  ['paint', 'Anstrich weiss', [0.93, 0.92, 0.9]],
  ['brick', 'Baksteen werkplaats', [0.55, 0.3, 0.22]],
  ['road', 'Asfalto strada', [0.25, 0.25, 0.26]],
  ['water', 'Water', [0.25, 0.38, 0.4], 0.5],
  ['bed', 'Soil, estuary bed', [0.36, 0.31, 0.24]],
  ['bank', 'Ground – bank grass', [0.34, 0.4, 0.2]],
  ['mirror', 'Specchio', [0.9, 0.9, 0.9]],
  ['lens', 'Opal lens', [1, 0.96, 0.9]],
  ['bark', 'Generic 01 bark', [0.72, 0.7, 0.66]],
  ['pinebark', 'Generic 02 bark', [0.36, 0.27, 0.21]],
  ['leaves', 'Generic 03', [0.42, 0.47, 0.16]],
  ['needles', 'Generic 04', [0.16, 0.24, 0.13]],
  ['hull', 'Hull lacquer white', [0.9, 0.9, 0.88]],
  ['hullred', 'Generic 05 hull', [0.55, 0.16, 0.12]],
  ['rubber', 'Generic 06 rubber', [0.09, 0.09, 0.1]],
  ['grid', 'Grid line', [0.8, 0.2, 0.2]],
];

export function sourceMaterials(p: Parameters): SourceMaterial[] {
  return MATERIALS.map(([id, name, colour, opacity = 1]) => ({
    id,
    name: p.materials[id]?.name ?? name,
    colour: p.materials[id]?.colour ?? colour,
    opacity,
    texture: null,
  }));
}
