import { describe, expect, it } from 'vitest';
import { cameraFrame } from '../camera/camera';
import { featureEdges } from '../geometry/feature-edges';
import { IDENTITY } from '../geometry/mat4';
import type { Mesh } from '../geometry/mesh';
import { box, darkSky, matt, testScene } from '../kernel/testing';
import { DEFAULT_FILLS, type Cuts } from '../project/sections';
import type { Camera } from '../model/schema';
import { drawingSvg, sheetOf } from './drawing-sheet';
import { lineDrawing, type LineDrawing } from './line-drawing';

const SIZE = { width: 400, height: 400 };

function drawn(meshes: Mesh[], camera: Camera, cuts?: Cuts): LineDrawing {
  const scene = testScene(meshes.map((mesh) => ({ mesh, finish: matt(0.5) })), darkSky()); // prettier-ignore
  scene.setCuts(cuts);
  const instances = meshes.map((_, i) => ({ mesh: String(i), transform: IDENTITY, finish: matt(0.5) }));
  return lineDrawing(scene, instances, (key) => meshes[Number(key)], cameraFrame(camera, 1), SIZE, cuts);
}

/** Length of all lines of a weight, pixels. */
function lengthOf(ends: readonly number[]): number {
  let sum = 0;
  for (let i = 0; i < ends.length; i += 4) sum += Math.hypot(ends[i + 2]! - ends[i]!, ends[i + 3]! - ends[i + 1]!);
  return sum;
}

/** Eight metres across: 50 pixels a metre. */
const isometric: Camera = { position: [-20, -20, 20], target: [0, 0, 0], focalMm: 35, parallelM: 8 };
const front: Camera = { position: [0, -20, 1], target: [0, 0, 1], focalMm: 35, parallelM: 8 };

describe('a line drawing', () => {
  it('has of a box the six edges of its outline and the three that meet before them, as long as they are drawn', () => {
    const { outline, bend, cut } = drawn([box([-1, -1, -1], [1, 1, 1])], isometric);
    // Isometric: an edge is shortened to the root of two thirds (ISO 5456-3).
    const edge = 2 * 50 * Math.sqrt(2 / 3);
    expect(lengthOf(outline)).toBeCloseTo(6 * edge, -0.5);
    expect(lengthOf(bend)).toBeCloseTo(3 * edge, -0.5);
    expect(cut).toEqual([]);
    expect(featureEdges(box([0, 0, 0], [1, 1, 1]))).toHaveLength(12);
  });

  it('leaves out what is hidden, and takes up again behind it', () => {
    const [back, before] = [box([-2, 1, 0], [2, 2, 2]), box([-0.5, -1, 0], [0.5, 0, 3])];
    const alone = lengthOf(drawn([back], front).outline);
    const { outline } = drawn([back, before], front);
    // The two level edges of the one behind are hidden for the metre that the other is wide, whose outline comes in addition.
    expect(lengthOf(outline)).toBeCloseTo(alone - 2 * 50 + (2 * 1 + 2 * 3) * 50, -1);
  });

  it('draws what a section cuts heavily, and nothing of what it cuts away', () => {
    const plan: Camera = { position: [0, -0.002, 20], target: [0, 0, 0], focalMm: 35, parallelM: 8 };
    const cuts: Cuts = { planes: [{ normal: [0, 0, 1], offsetM: 1.1 }], fills: DEFAULT_FILLS };
    const { cut, outline } = drawn([box([-1, -1.5, 0], [1, 1.5, 3])], plan, cuts);
    expect(lengthOf(cut)).toBeCloseTo(10 * 50, -1);
    // The box's upper rim is gone; its sides stand straight under the cut.
    expect(lengthOf(outline)).toBeLessThan(10 * 50 + 5);
  });

  it('comes on paper to a usual scale, as SVG in millimetres', () => {
    expect(sheetOf(2, 40)).toEqual({ widthMm: 800, heightMm: 400, scale: 50 });
    expect(sheetOf(2, 60).scale).toBe(100);
    expect(sheetOf(1.6, undefined)).toEqual({ widthMm: 400, heightMm: 250 });
    const drawing = drawn([box([-1, -1, -1], [1, 1, 1])], isometric);
    const svg = drawingSvg(drawing, SIZE.width, sheetOf(1, 8), 'Hall & bank');
    expect(svg).toContain('<title>Hall &amp; bank, 1:20</title>');
    expect(svg).toContain('width="400.00mm"');
    expect(svg.match(/M[\d.]+ [\d.]+L/g)!.length).toBeGreaterThanOrEqual(9);
  });
});
