import { describe, expect, it } from 'vitest';
import { decodeMesh, meshArea, meshBounds, type Mesh } from '../geometry/mesh';
import { readDxf } from './dxf';

/** Drawings written here pair by pair, so that what must come out is known. */

type Pair = readonly [number, string | number];
const pairs = (list: readonly Pair[]) => list.map(([code, value]) => `${String(code)}\n${String(value)}\n`).join('');
const section = (name: string, list: readonly Pair[]): Pair[] => [[0, 'SECTION'], [2, name], ...list, [0, 'ENDSEC']]; // prettier-ignore

function drawing(
  entities: readonly Pair[],
  options: { units?: number; blocks?: readonly Pair[]; layers?: readonly Pair[] } = {},
): Uint8Array {
  const { units, blocks = [], layers } = options;
  const header: Pair[] = units === undefined ? [] : [[9, '$INSUNITS'], [70, units]]; // prettier-ignore
  const table: Pair[] = layers ? [[0, 'TABLE'], [2, 'LAYER'], [70, 9], ...layers, [0, 'ENDTAB']] : []; // prettier-ignore
  return new TextEncoder().encode(
    pairs([
      ...section('HEADER', header),
      ...section('TABLES', table),
      ...section('BLOCKS', blocks),
      ...section('ENTITIES', entities),
      [0, 'EOF'],
    ]),
  );
}

const face = (layer: string, handle: string, corners: readonly (readonly number[])[]): Pair[] => [
  [0, '3DFACE'], [5, handle], [8, layer],
  ...corners.flatMap(([x, y, z], i): Pair[] => [[10 + i, x!], [20 + i, y!], [30 + i, z!]]),
]; // prettier-ignore
const square = [[0, 0, 0], [2000, 0, 0], [2000, 1000, 0], [0, 1000, 0]]; // prettier-ignore
const line = (layer: string, ...[ax, ay, bx, by]: [number, number, number, number]): Pair[] => [[0, 'LINE'], [5, 'L'], [8, layer], [10, ax], [20, ay], [30, 0], [11, bx], [21, by], [31, 0]]; // prettier-ignore
const insert = (name: string, handle: string, extra: readonly Pair[]): Pair[] => [
  [0, 'INSERT'],
  [5, handle],
  [8, 'Furniture'],
  [2, name],
  ...extra,
];
const block = (name: string, content: readonly Pair[]): Pair[] => [[0, 'BLOCK'], [8, '0'], [2, name], [70, 0], [10, 0], [20, 0], [30, 0], [3, name], ...content, [0, 'ENDBLK'], [8, '0']]; // prettier-ignore

function read(bytes: Uint8Array) {
  const file = readDxf(bytes, 'plan.dxf');
  const meshes = new Map<string, Mesh>();
  for (const [id, element] of file.model.elements)
    for (const part of element.parts) meshes.set(`${id} ${part.material}`, decodeMesh(file.meshes.get(part.mesh)!) as Mesh);
  return { ...file, drawn: meshes };
}
const extent = (mesh: Mesh) => {
  const { min, max } = meshBounds(mesh.positions);
  return [...min, ...max].map((v) => Number(v.toFixed(4)) + 0);
};
function sentence(bytes: Uint8Array): string {
  try {
    readDxf(bytes, 'plan.dxf');
  } catch (error) {
    return (error as Error).message;
  }
  return 'was read';
}

describe('DXF', () => {
  it('has its faces by layer, in metres by $INSUNITS', () => {
    const { drawn, model, format } = read(drawing([...face('Roof', 'A1', square), ...face('Wall', 'A2', square)], { units: 4 }));
    expect(format).toBe('DXF');
    expect(meshArea(drawn.get('layer Roof Roof')!)).toBeCloseTo(2, 6);
    expect([...model.elements.values()].map((e) => e.layer)).toEqual(['Roof', 'Wall']);
    expect(meshArea(read(drawing(face('Roof', 'A1', square), { units: 5 })).drawn.get('layer Roof Roof')!)).toBeCloseTo(200, 3);
    expect(read(drawing(face('R', 'A1', square))).format).toBe('DXF, taken as metres');
  });

  it('lays lines on the ground as bands of four centimetres', () => {
    const { drawn } = read(drawing(line('Kerb', 0, 0, 3, 4), { units: 6 }));
    expect(meshArea(drawn.get('layer Kerb Kerb')!)).toBeCloseTo(5 * 0.04, 6);
  });

  it('bends polylines by their bulge: a half circle for 1', () => {
    const polyline: Pair[] = [[0, 'LWPOLYLINE'], [5, 'P'], [8, 'Path'], [90, 2], [70, 0], [10, 0], [20, 0], [42, 1], [10, 2], [20, 0]]; // prettier-ignore
    const [x0, y0, , x1, y1] = extent(read(drawing(polyline, { units: 6 })).drawn.get('layer Path Path')!);
    // From (0, 0) to (2, 0) anticlockwise: below the chord, radius 1; half the band's width beyond.
    expect([x0, x1].map((v) => Math.abs(v! - (v! > 1 ? 2 : 0)) < 0.021)).toEqual([true, true]);
    expect(y0).toBeCloseTo(-1.02, 2);
    expect(y1).toBeLessThan(0.021);
  });

  it('places blocks by move, turn, scale, rows and columns, nested ones too, each an element by its handle', () => {
    const blocks = [...block('CHAIR', face('0', 'C', [[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]])), ...block('SET', insert('CHAIR', 'I', [[10, 10], [20, 0], [30, 0]]))]; // prettier-ignore
    const entities = [
      ...insert('CHAIR', '1A', [[10, 5], [20, 5], [30, 1], [50, 90], [41, 2], [42, 1], [43, 1]]),
      ...insert('CHAIR', '1B', [[10, 0], [20, 0], [30, 0], [70, 2], [71, 2], [44, 3], [45, 4]]),
      ...insert('SET', '1C', [[10, 100], [20, 0], [30, 0]]),
    ]; // prettier-ignore
    const { drawn, model } = read(drawing(entities, { units: 6, blocks }));
    expect([...model.elements.keys()]).toEqual(['block 1A', 'block 1B', 'block 1B@1', 'block 1B@2', 'block 1B@3', 'block 1C']);
    expect(model.elements.get('block 1A')).toMatchObject({ name: 'CHAIR', layer: 'Furniture' });
    expect(extent(drawn.get('block 1A Furniture')!)).toEqual([4, 5, 1, 5, 7, 1]);
    expect(extent(drawn.get('block 1B@3 Furniture')!)).toEqual([3, 4, 0, 4, 5, 0]);
    expect(extent(drawn.get('block 1C Furniture')!)).toEqual([110, 0, 0, 111, 1, 0]);
  });

  it('reads polyface meshes by their vertices', () => {
    const vertex = (x: number, y: number, z: number): Pair[] => [[0, 'VERTEX'], [8, 'M'], [10, x], [20, y], [30, z], [70, 192]]; // prettier-ignore
    const entities: Pair[] = [[0, 'POLYLINE'], [5, 'M'], [8, 'M'], [66, 1], [70, 64], ...vertex(0, 0, 0), ...vertex(1, 0, 0), ...vertex(1, 1, 0), ...vertex(0, 1, 0), [0, 'VERTEX'], [8, 'M'], [10, 0], [20, 0], [30, 0], [70, 128], [71, 1], [72, 2], [73, 3], [74, 4], [0, 'SEQEND'], [8, 'M']]; // prettier-ignore
    expect(meshArea(read(drawing(entities, { units: 6 })).drawn.get('layer M M')!)).toBeCloseTo(1, 6);
  });

  it('knows layers that are off, their colours, and what lies far out', () => {
    const layers: Pair[] = [[0, 'LAYER'], [2, 'Off'], [70, 0], [62, -1], [0, 'LAYER'], [2, 'On'], [70, 0], [62, 3]]; // prettier-ignore
    const { model } = read(drawing([...line('Off', 0, 0, 1, 0), ...line('On', 0, 0, 1, 0)], { units: 6, layers }));
    expect(model.presentation.hiddenLayers).toEqual(['Off']);
    expect(model.materials.get('On')!.colour).toEqual([0, 1, 0]);
    const far = read(drawing(line('Site', 412_345.678, 5_310_000, 412_346.678, 5_310_000), { units: 6 }));
    expect(far.model.basePoint).toEqual({ eastM: 412_000, northM: 5_310_000, heightM: 0, turnDeg: 0 });
    expect(extent([...far.drawn.values()][0]!)).toEqual([345.678, -0.02, 0, 346.678, 0.02, 0]);
  });

  it('that is no drawing, cut off, in a circle or beyond counting is refused in a sentence', () => {
    const whole = drawing(face('R', 'A', square));
    expect(sentence(whole.slice(0, whole.length - 20))).toBe('plan.dxf is cut off: its end mark EOF is missing.');
    expect(sentence(new TextEncoder().encode('hello'))).toBe('plan.dxf is not a DXF: it has no section.');
    expect(sentence(new Uint8Array([48, 10, 0, 1, 2, 83, 69, 67, 84, 0]))).toBe('plan.dxf is a binary DXF; save it as text.');
    expect(sentence(drawing([]))).toBe('plan.dxf holds no surfaces.');
    expect(sentence(drawing(face('R', 'A', [[NaN, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]])))).toContain('not numbers'); // prettier-ignore
    const at: Pair[] = [[10, 0], [20, 0], [30, 0]]; // prettier-ignore
    const circle = [...block('A', insert('B', 'I', at)), ...block('B', insert('A', 'J', at))];
    expect(sentence(drawing(insert('A', 'K', at), { blocks: circle }))).toContain('nests its blocks in a circle');
    expect(sentence(drawing(insert('A', 'K', [...at, [70, 32_000], [71, 32_000]]), { blocks: circle }))).toContain('more than 200000 times');
  }); // prettier-ignore
});
