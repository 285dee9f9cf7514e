import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { finishSchema } from './finish';
import { FINISHES } from './library';
import { decodeMaps, encodeMaps, generateMaps, MAP_NAMES } from './maps/generate';
import type { FinishMaps } from './maps/paint';
import { recogniseName } from './recognise';

describe('recognising names', () => {
  const meaningOf = (name: string) => recogniseName(name)?.meaning;

  it.each([
    ['glass', ['Glass 6 mm', 'Glas klar', 'Verre trempé', 'Vidrio', 'Vetro', 'Beglazing', 'Glazing type A', 'Fensterglas']],
    ['water', ['Water', 'Wasser', 'Eau', 'Agua', 'Acqua']],
    ['grass', ['Grass bank', 'Rasen', 'Gazon', 'Césped', 'Prato', 'gras']],
    ['timber', ['Timber', 'Holz Fichte', 'Bois', 'Madera', 'Legno', 'Hout']],
    ['stone', ['Stone', 'Naturstein', 'Pierre', 'Piedra', 'Pietra', 'Natuursteen']],
    ['concrete', ['Concrete C30', 'Beton', 'Béton', 'Hormigón', 'Calcestruzzo', 'Sichtbeton']],
    ['plaster', ['Plaster', 'Putz', 'Plâtre', 'Yeso', 'Intonaco', 'Pleister', 'Gipsputz']],
    ['brick', ['Brick', 'Ziegel', 'Brique', 'Ladrillo', 'Mattone', 'Baksteen']],
    ['tile', ['Tile', 'Fliesen', 'Carrelage', 'Azulejo', 'Piastrella', 'Tegels']],
    ['steel', ['Steel', 'Stahl', 'Acier', 'Acero', 'Acciaio', 'Staal']],
    ['aluminium', ['Aluminium', 'Alu', 'Alluminio' /* Italian doubles the l */]],
    ['zinc', ['Zinc', 'Zink', 'Zinco', 'Roof – standing seam']],
    ['fabric', ['Fabric', 'Stoff', 'Tissu', 'Tejido', 'Tessuto', 'Textiel']],
    ['leather', ['Leather', 'Leder', 'Cuir', 'Cuero', 'Cuoio', 'Leer']],
    ['carpet', ['Carpet', 'Teppich', 'Moquette', 'Alfombra', 'Tappeto', 'Tapijt']],
    ['mirror', ['Mirror', 'Spiegel', 'Miroir', 'Espejo', 'Specchio']],
    ['paint', ['Paint', 'Anstrich', 'Peinture', 'Pintura', 'Vernice', 'Verf']],
    ['asphalt', ['Asphalt', 'Asfalto', 'Bitume', 'Asfalt']],
    ['gravel', ['Gravel 16/32', 'Kies', 'Gravier', 'Grava', 'Ghiaia', 'Grind']],
    ['soil', ['Soil', 'Erde', 'Terre', 'Tierra', 'Terra', 'Aarde']],
  ])('%s, in six languages', (meaning, names) => {
    for (const name of names) expect(`${name}: ${String(meaningOf(name))}`).toBe(`${name}: ${meaning}`);
  });

  it('says nothing rather than guess', () => {
    for (const name of ['Generic 03', '', 'Default', 'A-17', '<b>x</b>', '日本', 'علامة']) expect(recogniseName(name)).toBeUndefined();
  });

  it('tells the word that it read, and bears very long names', () => {
    expect(recogniseName('  Lärche Schalung 120')).toMatchObject({ finish: 'larch-boards', meaning: 'timber boards' });
    expect(recogniseName('x'.repeat(10_000))).toBeUndefined();
  });

  it('only names finishes that ship', () => {
    for (const name of ['Glass', 'Water', 'Wood', 'Opal lens', 'Soil', 'Mirror', 'Zinc', 'Paint'])
      expect(FINISHES.some((f) => f.id === recogniseName(name)!.finish)).toBe(true);
  });
});

describe('shipped finishes', () => {
  it('are 120 or more in fourteen families, sound, of different names, and have the maps they name', () => {
    expect(FINISHES.length).toBeGreaterThanOrEqual(120);
    expect(new Set(FINISHES.map((f) => f.family)).size).toBe(14);
    for (const field of ['id', 'name'] as const) expect(new Set(FINISHES.map((f) => f[field])).size).toBe(FINISHES.length);
    for (const finish of FINISHES) {
      expect(v.safeParse(finishSchema, finish).success).toBe(true);
      if (finish.maps !== null) expect(MAP_NAMES).toContain(finish.maps);
    }
  });

  it.each(MAP_NAMES)('%s maps are deterministic and seamless', (name) => {
    const size = 64;
    const maps = generateMaps(name, size)!;
    // As bytes: number by number takes most of the time.
    const bytes = (of: FinishMaps) => Buffer.concat([of.base, of.surface, of.packedFactors ?? new Uint8Array()]);
    for (const same of [generateMaps(name, size)!, decodeMaps(encodeMaps(maps))])
      expect([same.size, bytes(same).equals(bytes(maps))]).toEqual([size, true]);
    // Across the seam neighbours differ no more than anywhere else, either way: at most twice the largest mean step inside.
    for (const [column, row] of [[1, size], [size, 1]] as const) {
      const step = (a: number, b: number) => {
        let sum = 0;
        for (let i = 0; i < size; i++) sum += Math.abs(maps.base[(i * row + a * column) * 4]! - maps.base[(i * row + b * column) * 4]!);
        return sum / size;
      };
      const inside = Array.from({ length: size - 1 }, (_, x) => step(x, x + 1));
      expect(step(size - 1, 0)).toBeLessThanOrEqual(2 * Math.max(...inside) + 1);
    } // prettier-ignore
  });
});
