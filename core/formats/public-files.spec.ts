import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { transformPoint } from '../geometry/mat4';
import { decodeMesh } from '../geometry/mesh';
import { readDxf } from './dxf';
import type { ModelFile, SideFiles } from './model-file';
import { plainName } from './side-files';
import { readObj, readPly, readStl } from './plain-meshes';
import { read3mf, readCollada } from './xml-meshes';

/**
 * Files of Debian's assimp-testmodels and openscad-testing-data; skipped where the packages are not installed. Triangles and bounds
 * are what an independent reader says of them: `assimp info` of Debian's assimp-utils 5.2, in the file's own axes and units.
 */
const MODELS = '/usr/share/assimp/models';
const DRAWINGS = '/usr/share/openscad/testdata/dxf';

const besideOf =
  (file: string): SideFiles =>
  (name) => {
    const place = path.join(path.dirname(file), plainName(name));
    return existsSync(place) ? new Uint8Array(readFileSync(place)) : undefined;
  };

function read(file: string): ModelFile {
  const bytes = new Uint8Array(readFileSync(file));
  const name = path.basename(file);
  const readers = { obj: readObj, dae: readCollada, stl: readStl, ply: readPly, '3mf': read3mf, dxf: readDxf } as const;
  return readers[name.split('.').at(-1)!.toLowerCase() as keyof typeof readers](bytes, name, besideOf(file));
}

function measure({ model, meshes }: ModelFile) {
  let triangles = 0;
  const [low, high] = [[Infinity, Infinity, Infinity], [-Infinity, -Infinity, -Infinity]]; // prettier-ignore
  for (const element of model.elements.values())
    for (const part of element.parts) {
      const mesh = decodeMesh(meshes.get(part.mesh)!);
      if (typeof mesh === 'string') throw new Error(mesh);
      triangles += mesh.indices.length / 3;
      for (let i = 0; i < mesh.positions.length; i += 3)
        transformPoint(element.transform, [mesh.positions[i]!, mesh.positions[i + 1]!, mesh.positions[i + 2]!]).forEach((v, k) => {
          low[k] = Math.min(low[k]!, v);
          high[k] = Math.max(high[k]!, v);
        });
    }
  return { triangles, low, high };
}

interface Known {
  file: string;
  triangles: number;
  elements: number;
  /** Lowest and highest corner, z-up metres. */
  low: number[];
  high: number[];
}

// Of DXF, the other reader turns y and z round; here they are as in the file. Quads and polygons that the other reader counts as one face are counted as triangles here.
const KNOWN: Known[] = [
  { file: 'Collada/duck.dae', triangles: 4212, elements: 1, low: [-0.692985, -0.539252, 0.099294], high: [0.961799, 0.613282, 1.6397] },
  { file: 'Collada/COLLADA.dae', triangles: 6722, elements: 2, low: [-4, -2, 0], high: [4, 2, 1.08098] },
  { file: 'STL/Spider_binary.stl', triangles: 1368, elements: 1, low: [-3.114895, -4, -1.649329], high: [3.114895, 4, 1.649329] },
  { file: 'PLY/Wuson.ply', triangles: 3732, elements: 1, low: [-0.459976, -0.000566, -1.622242], high: [0.459976, 1.515251, 1.622242] },
  { file: '3MF/box.3mf', triangles: 12, elements: 1, low: [0, 0, 0], high: [0.01, 0.02, 0.03] },
  { file: 'DXF/wuson.dxf', triangles: 3732, elements: 1, low: [-0.459976, -0.000566, -1.622242], high: [0.459976, 1.515251, 1.622242] },
  { file: 'OBJ/regr01.obj', triangles: 2710, elements: 55, low: [-194.1995, -337.509, -204.51157], high: [1442.08557, 0, 967.6153] },
];

describe.skipIf(!existsSync(MODELS))('public files', () => {
  it.each(KNOWN)('$file has the triangles and bounds that another reader finds', ({ file, triangles, elements, low, high }) => {
    const model = read(path.join(MODELS, file));
    const measured = measure(model);
    expect(measured.triangles).toBe(triangles);
    expect(model.model.elements.size).toBe(elements);
    for (const [k, v] of low.entries()) expect(measured.low[k]! / 1).toBeCloseTo(v, 3);
    for (const [k, v] of high.entries()) expect(measured.high[k]! / 1).toBeCloseTo(v, 3);
  });

  it('bring cameras, lights, names in every script, materials and pictures', () => {
    const collada = read(path.join(MODELS, 'Collada/COLLADA.dae'));
    expect([collada.model.cameras.size, collada.model.luminaires.size, collada.model.materials.size]).toEqual([2, 2, 2]);
    expect([...read(path.join(MODELS, 'Collada/cube_UTF16LE.dae')).model.elements.keys()]).toEqual(['/日本語']);
    expect([...read(path.join(MODELS, 'Collada/cube_xmlspecialchars.dae')).model.elements.values()][0]!.name).toBe('"&<Box>&"');
    const spider = read(path.join(MODELS, 'OBJ/spider.obj'));
    expect(spider.model.materials.size).toBe(4);
    const textures = [...spider.model.materials.values()].map((m) => (m.texture ? 'picture' : (m.missing ?? 'plain')));
    expect(textures.filter((t) => t === 'picture').length).toBeGreaterThanOrEqual(3);
    // A picture that is there, but of a kind that is not shown.
    expect([...read(path.join(MODELS, 'Collada/duck.dae')).model.materials.values()][0]!.missing).toMatch(/duckCM\.tga$/);
  });

  it('that are broken are refused in a sentence', () => {
    const sentence = (file: string) => {
      try {
        read(path.join(MODELS, file));
      } catch (error) {
        return (error as Error).message;
      }
      return 'was read';
    };
    expect(sentence('Collada/cube_emptyTags.dae')).toBe('cube_emptyTags.dae could not be read as COLLADA: its parts do not fit together.');
    expect(sentence('invalid/empty.obj')).toBe('empty.obj is not an OBJ: it has no line of a vertex.');
    expect(sentence('invalid/malformed.obj')).toContain('not numbers');
    expect(sentence('PLY/points.ply')).toBe('points.ply holds points without surfaces.');
    expect(sentence('OBJ/point_cloud.obj')).toBe('point_cloud.obj holds no surfaces.');
  });
});

describe.skipIf(!existsSync(DRAWINGS))('public drawings', () => {
  it('place blocks with turn, scale and repetition', () => {
    const { model } = read(path.join(DRAWINGS, 'transform-insert.dxf'));
    const text = readFileSync(path.join(DRAWINGS, 'transform-insert.dxf'), 'latin1');
    const entities = text.slice(text.indexOf('ENTITIES'));
    const inserts = entities.match(/^\s*0\r?\nINSERT\r?$/gm) ?? [];
    expect([...model.elements.keys()].filter((id) => id.startsWith('block '))).toHaveLength(inserts.length);
    expect([...read(path.join(DRAWINGS, 'multiple-layers.dxf')).model.elements.values()].map((e) => e.layer)).toHaveLength(3);
  });
});
