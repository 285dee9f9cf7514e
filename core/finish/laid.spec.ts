import { describe, expect, it } from 'vitest';
import { dressMesh } from '../geometry/dress';
import { nearestFaceEdge } from '../geometry/face-edge';
import { MeshBuilder } from '../geometry/shapes';
import { laidAlong, turnedFurther } from './laid';

/** What a place on the face has in the maps' coordinates, in metres, once they are laid. */
function mapped([u, w]: readonly [number, number], { turnDeg, offsetM }: ReturnType<typeof laidAlong>, scale = 1) {
  const [c, s] = [Math.cos((turnDeg * Math.PI) / 180) * scale, Math.sin((turnDeg * Math.PI) / 180) * scale];
  return [c * u + s * w + offsetM[0], c * w - s * u + offsetM[1]];
}

describe('maps laid along an edge', () => {
  // A slab whose top is a parallelogram, so that an edge is askew.
  const mesh = dressMesh(new MeshBuilder().prism([[0, 0], [4, 0], [5, 2], [1, 2]], [], ([x, y], t) => [x, y, t]).build()); // prettier-ignore
  const top = Array.from({ length: mesh.indices.length / 3 }, (_, t) => t * 3).find((t) =>
    [0, 1, 2].every((k) => mesh.positions[mesh.indices[t + k]! * 3 + 2] === 1),
  )!;

  it('are found by the outline of the whole flat face, not by its triangles', () => {
    // The middle of the face lies on the diagonal between its triangles; the left edge is next to a point at its left.
    const edge = nearestFaceEdge(mesh, top, [0.4, 0.6, 1])!;
    // On level ground u is x and v is y.
    expect(edge.near).toEqual([0, 0]);
    expect(edge.far).toEqual([1, 2]);
    expect(nearestFaceEdge(mesh, top, [3.8, 0.05, 1])).toEqual({ near: [4, 0], far: [0, 0] });
  });

  it('begin at its near end and run along it, at any scale', () => {
    const edge = nearestFaceEdge(mesh, top, [0.4, 0.6, 1])!;
    for (const scale of [1, 0.001, 2.5]) {
      const laid = laidAlong(edge, scale);
      expect(mapped(edge.near, laid, scale).map((x) => Number(x.toFixed(9)) + 0)).toEqual([0, 0]);
      const far = mapped(edge.far, laid, scale);
      expect(far[0]).toBeCloseTo(0, 9);
      expect(far[1]).toBeCloseTo(Math.hypot(1, 2) * scale, 9);
    }
  });

  it('are turned by quarters about where they begin', () => {
    expect(turnedFurther(undefined, 90)).toEqual({ turnDeg: 90, offsetM: [0, 0] });
    expect(turnedFurther({ turnDeg: 300, offsetM: [1, 2] }, 90)).toEqual({ turnDeg: 30, offsetM: [1, 2] });
  });
});
