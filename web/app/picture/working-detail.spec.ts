import { beforeAll, describe, expect, it } from 'vitest';
import { FINISHES } from '../../../core/finish/library';
import { prepareMesh } from '../../../core/geometry/prepare-mesh';
import { translation } from '../../../core/geometry/mat4';
import { MeshBuilder } from '../../../core/geometry/shapes';
import { simplifier, simplifyMesh } from '../../../core/geometry/simplify';
import type { SceneInstance } from '../../../core/scene/scene';
import { detailWords, mapWords } from '../stations/working-detail-card';
import { seenSizes, SizeCount, type SeenFrom } from './seen-sizes';
import { SurfaceBatch } from './surface-batch';
import { WorkingDetail } from './working-detail';

const post = prepareMesh(new MeshBuilder().tube([[0, 0, 0], [0, 0, 2]], 0.08, 24).build()); // prettier-ignore
const part = (element: string, x: number): SceneInstance => ({
  source: 's', element, part: 0, material: 'm', mesh: 'post', transform: translation(x, 0, 0), finish: FINISHES[0]!, emissionScale: 1, lens: false,
}); // prettier-ignore
const parts = Array.from({ length: 10 }, (_, i) => part(`post ${String(i)}`, i));
const triangles = post.indices.length / 3;

/** Looks north from the south, far enough to see it all; nothing is out of sight. */
const from = (y: number): SeenFrom => ({ planes: new Float64Array(24).fill(0), eye: [0, y, 1], pixelsAtOneM: 500, parallel: false });

describe('working detail', () => {
  beforeAll(simplifier);

  function detail(moving: number, resting: number): WorkingDetail {
    const d = new WorkingDetail({ moving, resting });
    d.add([['post', post]]);
    d.count(parts);
    return d;
  }
  const simple = () => {
    const { mesh, lossM } = simplifyMesh(post)!;
    return { mesh: prepareMesh(mesh), lossM };
  };

  it('is full while all triangles are within what the computer can draw', () => {
    const d = detail(triangles * 10, triangles * 20);
    expect(d.settle('automatic')).toMatchObject({ report: { way: 'nowhere', restingTriangles: triangles * 10 }, wanted: [] });
    expect(detailWords(d.settle('automatic').report)).toBe(`All ${String(triangles * 10)} triangles are drawn.`);
  });

  it('is less while moving, then always, as the model grows, and says how much is lost', () => {
    const d = detail(triangles * 5, triangles * 10);
    expect(d.settle('automatic')).toMatchObject({ report: { way: 'moving' }, wanted: ['post'] });
    expect(d.of('post')).toEqual({ resting: post, moving: post });
    const less = simple();
    d.addSimple([['post', less]]);
    const { report, wanted } = d.settle('automatic');
    expect(wanted).toEqual([]);
    expect(report).toMatchObject({ restingTriangles: triangles * 10, movingTriangles: (less.mesh.indices.length / 3) * 10, lossM: less.lossM }); // prettier-ignore
    expect(d.of('post')).toEqual({ resting: post, moving: less.mesh });
    const large = detail(5, 10);
    large.addSimple([['post', less]]);
    expect(large.settle('automatic').report.way).toBe('always');
    expect(large.of('post')).toEqual({ resting: less.mesh, moving: less.mesh });
    expect(detailWords(large.settle('automatic').report)).toMatch(/^At most \d+ of \d+ triangles are drawn: .* off by up to \d+ mm/);
    // A length that says nothing is not told.
    expect(detailWords({ ...large.settle('automatic').report, lossM: 16.03 })).toContain(
      'round and small things are coarser than they are',
    );
  });

  it('counts what an edit changes', () => {
    const d = detail(triangles * 100, triangles * 100);
    d.count({ from: 1, removed: parts.slice(0, 2), added: [part('new', 20)] });
    expect(d.settle('automatic').report.fullTriangles).toBe(triangles * 9);
  });

  it('follows the choice of the person', () => {
    const d = detail(1, 1);
    expect(d.settle('nowhere').report.way).toBe('nowhere');
    expect(d.of('post')!.moving).toBe(post);
  });
});

describe('what is drawn of a batch', () => {
  const batch = () => new SurfaceBatch(parts, () => ({ resting: post, moving: post }));
  const drawnCorners = (b: SurfaceBatch) => {
    b.mesh.onBeforeRender(...([] as never as Parameters<typeof b.mesh.onBeforeRender>));
    return b.mesh.geometry.drawRange.count;
  };

  it('is all of it, or the largest in view up to a budget', () => {
    const b = batch();
    b.showAll();
    expect(drawnCorners(b)).toBe(triangles * 10 * 3);
    const sizesPx = seenSizes(b.spheres, from(-3));
    expect(sizesPx[0]!).toBeGreaterThan(sizesPx[9]!);
    const count = new SizeCount();
    for (const size of sizesPx) count.add(size, triangles);
    b.show({ sizesPx, leastPx: count.leastPx(triangles * 4), moving: false });
    const corners = drawnCorners(b);
    expect(corners).toBeLessThanOrEqual(triangles * 4 * 3);
    expect(corners).toBeGreaterThan(0);
    // The nearest post, the first, is among them: its vertices come first.
    expect(Math.min(...b.mesh.geometry.index!.array.subarray(0, corners))).toBe(0);
  });

  it('leaves out what lies behind a plane', () => {
    const b = batch();
    const planes = new Float64Array(24);
    planes.set([1, 0, 0, -4.5]);
    const sizes = seenSizes(b.spheres, { ...from(-3), planes });
    expect([...sizes].map((size) => size > 0)).toEqual(parts.map((_, x) => x - 4.5 > -Math.hypot(0.08, 0.08, 1)));
  });

  it('keeps what is in place when parts are hidden', () => {
    const before = batch();
    const after = new SurfaceBatch(parts.slice(3), () => ({ resting: post, moving: post }), [before]);
    const fresh = new SurfaceBatch(parts.slice(3), () => ({ resting: post, moving: post }));
    for (const name of ['position', 'normal', 'uv'])
      expect(after.mesh.geometry.getAttribute(name).array).toEqual(fresh.mesh.geometry.getAttribute(name).array);
    expect(after.spheres).toEqual(fresh.spheres);
    expect(after.mesh.geometry.boundingBox).toEqual(fresh.mesh.geometry.boundingBox);
  });

  it('says what maps take of their budget, and nothing before there are any', () => {
    expect([mapWords(undefined), mapWords({ used: 0, most: 1e9 })]).toEqual(['', '']);
    expect(mapWords({ used: 223.6e6, most: 320e6 })).toBe(
      'The finishes’ maps take 224 of at most 320 MB; beyond that, far ones get coarser.',
    );
  });
});
