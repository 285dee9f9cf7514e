import { describe, expect, it } from 'vitest';
import { prepareKey, prepareMesh, type PreparedMesh } from '../geometry/prepare-mesh';
import { planeOf, samePlane } from '../geometry/face-lay';
import { type Plane, blobOf, faceOverrideKey, faceLaysOf, fromFacesKey, turnedKey } from '../geometry/mesh';
import { nearestFaceEdge } from '../geometry/face-edge';
import { MeshBuilder } from '../geometry/shapes';
import { faceOverrideAlong, faceLayOf, overrideAlong, turnedFurther, withFace, withoutWhole } from './uv-override';
import { variationOf } from './variation';
import { PLAIN_VARIATION } from './finish';
import { FINISHES } from './library';

/** What a place on the face has in the maps' coordinates, in metres, once they are laid. */
function mapped([u, w]: readonly [number, number], { turnDeg, offsetM }: ReturnType<typeof overrideAlong>, scale = 1) {
  const [c, s] = [Math.cos((turnDeg * Math.PI) / 180) * scale, Math.sin((turnDeg * Math.PI) / 180) * scale];
  return [c * u + s * w + offsetM[0], c * w - s * u + offsetM[1]];
}

describe('maps laid along an edge', () => {
  // A slab whose top is a parallelogram, so that an edge is askew.
  const mesh = prepareMesh(new MeshBuilder().prism([[0, 0], [4, 0], [5, 2], [1, 2]], [], ([x, y], t) => [x, y, t]).build()); // prettier-ignore
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
      const laid = overrideAlong(edge, scale);
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

describe('maps laid on single faces', () => {
  const block = new MeshBuilder().box([0.5, 0.2, 0.1], [3, 2.2, 1.1]).build();
  const TOP: Plane = [0, 0, 1, 1.1];
  /** u v by the place of each corner of the faces in a plane. */
  const coordinates = (mesh: PreparedMesh, plane: Plane) => {
    const out = new Map<string, readonly [number, number]>();
    for (let t = 0; t < mesh.indices.length; t += 3) {
      if (!samePlane(planeOf(mesh, t)!, plane)) continue;
      for (const v of mesh.indices.subarray(t, t + 3))
        out.set([...mesh.positions.subarray(v * 3, v * 3 + 3)].map((x) => x.toFixed(3)).join(), [mesh.uvs[v * 2]!, mesh.uvs[v * 2 + 1]!]);
    }
    return out;
  };
  const SIDES: Plane[] = [[1, 0, 0, 3], [-1, 0, 0, -0.5], [0, 1, 0, 2.2], [0, -1, 0, -0.2], [0, 0, -1, -0.1]]; // prettier-ignore

  it('begin at a corner of each flat face when the finish says so', () => {
    const mesh = prepareKey(fromFacesKey('b'), block);
    for (const plane of [TOP, ...SIDES]) {
      const all = [...coordinates(mesh, plane).values()];
      for (const k of [0, 1]) expect(Math.min(...all.map((uv) => uv[k]!))).toBeCloseTo(0, 6);
    }
    // The size stays true: the top is 2.5 by 2 m.
    const top = [...coordinates(mesh, TOP).values()];
    expect(Math.max(...top.map(([u]) => u))).toBeCloseTo(2.5, 6);
    expect(Math.max(...top.map(([, v]) => v))).toBeCloseTo(2, 6);
  });

  it('turn and move there and nowhere else; the key says all, whatever else it says', () => {
    const lay = { plane: TOP, turnDeg: 90, offsetM: [0.25, -0.5] as const };
    const key = faceOverrideKey(turnedKey('a'.repeat(64)), [lay]);
    expect(blobOf(key)).toBe('a'.repeat(64));
    expect(faceLaysOf(key)).toEqual([lay]);
    expect(faceLaysOf('a'.repeat(64))).toEqual([]);
    const [before, after] = [prepareMesh(block), prepareKey(faceOverrideKey('b', [lay]), block)];
    for (const plane of SIDES) expect(coordinates(after, plane)).toEqual(coordinates(before, plane));
    for (const [place, [u, v]] of coordinates(before, TOP)) {
      const [x, y] = coordinates(after, TOP).get(place)!;
      expect([x, y].map((c) => Number(c.toFixed(5)))).toEqual([v + 0.25, -u - 0.5].map((c) => Number(c.toFixed(5))));
    }
  });

  it('run along an edge of their face together with what the element has, and again after they were laid before', () => {
    const assigned = { ...PLAIN_VARIATION, uM: 0.7, vM: -0.3, turnRad: 1.1, size: 1.25 };
    const scale = 2;
    const asAssigned = ([u, v]: readonly [number, number]) => {
      const [c, s] = [(Math.cos(assigned.turnRad) * scale) / assigned.size, (Math.sin(assigned.turnRad) * scale) / assigned.size];
      return [c * u + s * v + assigned.uM, c * v - s * u + assigned.vM];
    };
    let lay = faceLayOf(undefined, TOP);
    for (const point of [[1, 0.25, 1.1], [2.95, 1, 1.1]] as const) {
      const mesh = prepareKey(lay ? faceOverrideKey('b', [lay]) : 'b', block);
      const top = Array.from({ length: mesh.indices.length / 3 }, (_, t) => t * 3).find((t) => samePlane(planeOf(mesh, t)!, TOP))!;
      lay = { plane: TOP, ...faceOverrideAlong(nearestFaceEdge(mesh, top, point)!, lay, assigned, scale) };
      const again = prepareKey(faceOverrideKey('b', [lay]), block);
      const edge = nearestFaceEdge(again, top, point)!;
      expect(asAssigned(edge.near)[0]).toBeCloseTo(0, 4);
      expect(asAssigned(edge.near)[1]).toBeCloseTo(0, 4);
      expect(asAssigned(edge.far)[0]).toBeCloseTo(0, 4);
      expect(asAssigned(edge.far)[1]).toBeGreaterThan(1);
    } // prettier-ignore
  });

  it('leave the element as a whole to chance, or to what was laid on it', () => {
    const boards = FINISHES.find((f) => f.vary.offset)!;
    const faces = withFace(undefined, TOP, { turnDeg: 90, offsetM: [0, 0] })!;
    expect(variationOf(boards, 'e', faces)).toEqual(variationOf(boards, 'e'));
    const both = withFace({ turnDeg: 45, offsetM: [1, 2] }, TOP, { turnDeg: 90, offsetM: [0, 0] })!;
    expect(variationOf(boards, 'e', both)!.uM).toBe(1);
    expect(withoutWhole(both)).toEqual(faces);
    expect(withFace(both, TOP, undefined)).toEqual({ turnDeg: 45, offsetM: [1, 2] });
    expect(withFace(faces, TOP, undefined)).toBeNull();
    expect(withoutWhole({ turnDeg: 45, offsetM: [1, 2] })).toBeNull();
  });
});
