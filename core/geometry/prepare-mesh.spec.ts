import { describe, expect, it } from 'vitest';
import { prepareKey, prepareMesh, uvSet, type PreparedMesh } from './prepare-mesh';
import { authoredUvsKey, decodeMesh, encodeMesh, meshArea, meshVolume, turnedKey, type Mesh } from './mesh';
import { MeshBuilder } from './shapes';

const sloped = (degrees: number) => {
  const rise = Math.tan((degrees * Math.PI) / 180) * 4;
  return { positions: new Float32Array([0, 0, 0, 5, 0, 0, 5, 4, rise, 0, 4, rise]), indices: new Uint32Array([0, 1, 2, 0, 2, 3]) };
};

describe('texture coordinates', () => {
  it('measure metres along the face on any slope, v running up it', () => {
    for (const degrees of [0, 18, 45, 80]) {
      const { uvs } = prepareMesh(sloped(degrees));
      const range = (k: number) => {
        const values = [...uvs].filter((_, i) => i % 2 === k);
        return Math.max(...values) - Math.min(...values);
      };
      expect(range(0)).toBeCloseTo(5, 4);
      expect(range(1)).toBeCloseTo(4 / Math.cos((degrees * Math.PI) / 180), 4);
    }
  });

  /** Area of each triangle in its coordinates, against its true area. */
  const stretches = (mesh: PreparedMesh): number[] =>
    Array.from({ length: mesh.indices.length / 3 }, (_, t) => {
      const [a, b, c] = [0, 1, 2].map((k) => mesh.indices[t * 3 + k]! * 2) as [number, number, number];
      const u = mesh.uvs;
      const area = Math.abs((u[b]! - u[a]!) * (u[c + 1]! - u[a + 1]!) - (u[c]! - u[a]!) * (u[b + 1]! - u[a + 1]!)) / 2;
      return area / meshArea({ positions: mesh.positions, indices: mesh.indices.subarray(t * 3, t * 3 + 3) });
    });

  it('keep the scale of one to one in every triangle of a solid with flat faces', () => {
    const mesh = prepareMesh(new MeshBuilder().tube([[0, 0, 0], [0.3, 0.2, 1.4]], 0.2, 7).box([3, 3, 0], [4, 5, 6]).build()); // prettier-ignore
    for (const stretch of stretches(mesh)) expect(stretch).toBeCloseTo(1, 3);
  });

  it('run on over curved surfaces instead of showing one strip again and again; the stretch is that of a box about them', () => {
    const ball = new MeshBuilder().revolve([0, 0, 0], Array.from({ length: 33 }, (_, i) => {
      const a = (Math.PI * (i - 16)) / 32;
      return [i % 32 === 0 ? 0 : Math.cos(a), Math.sin(a)] as const;
    }), 64).build(); // prettier-ignore
    const column = new MeshBuilder().tube([[0, 0, 0], [0, 0, 2]], 1, 48).build(); // prettier-ignore
    for (const mesh of [ball, column].map(prepareMesh)) {
      // A face seen from the nearest side of a box is foreshortened to no less than 1 / sqrt(3).
      for (const stretch of stretches(mesh)) expect(stretch).toBeGreaterThan(0.57);
      const us = [...mesh.uvs].filter((_, i) => i % 2 === 0);
      expect(Math.max(...us) - Math.min(...us)).toBeGreaterThan(1.3);
    }
    // A roof of few folds stays a roof: each of its faces is measured up its own slope.
    const folds = new MeshBuilder().prism([[0, 0], [3, 1], [6, 0], [6, 0.2], [3, 1.2], [0, 0.2]], [], ([x, z], t) => [x, t ? 0 : 8, z]).build(); // prettier-ignore
    for (const stretch of stretches(prepareMesh(folds))) expect(stretch).toBeCloseTo(1, 3);
  });

  it('meet without a step where two walls stand in one plane', () => {
    const left = prepareMesh(new MeshBuilder().box([0, 0, 0], [2, 0.3, 3]).build());
    const right = prepareMesh(new MeshBuilder().box([2, 0, 0], [4, 0.3, 3]).build());
    const vAt = (mesh: typeof left, x: number, z: number) => {
      for (let i = 0; i < mesh.positions.length / 3; i++)
        if (mesh.normals[i * 3 + 1]! < -0.9 && mesh.positions[i * 3] === x && mesh.positions[i * 3 + 2] === z)
          return [mesh.uvs[i * 2], mesh.uvs[i * 2 + 1]];
      return undefined;
    };
    expect(vAt(left, 2, 3)).toBeDefined();
    expect(vAt(left, 2, 3)).toEqual(vAt(right, 2, 3));
  });
});

describe('coordinates of the author', () => {
  /** A quarter of a pipe of radius 1, 2 m long, in steps of 5 degrees; `u` of its pictures by the angle, v 1 a metre. */
  const bend = (u: (angle: number) => number): Mesh => {
    const steps = 18;
    const rim = Array.from({ length: steps + 1 }, (_, i) => (i * Math.PI) / 2 / steps);
    const positions = Float32Array.from(rim.flatMap((a) => [0, 2].flatMap((z) => [Math.cos(a), Math.sin(a), z])));
    const indices = Uint32Array.from(rim.slice(1).flatMap((_, i) => [2 * i, 2 * i + 2, 2 * i + 1, 2 * i + 1, 2 * i + 2, 2 * i + 3]));
    return { positions, indices, pictureUvs: Float32Array.from(rim.flatMap((a) => [u(a), 0, u(a), 2])) };
  };
  const range = ({ uvs }: PreparedMesh, k: number) => {
    const values = [...uvs].filter((_, i) => i % 2 === k);
    return Math.max(...values) - Math.min(...values);
  };

  it('travel with the mesh, byte for byte', () => {
    const mesh = bend((a) => a);
    expect(decodeMesh(encodeMesh(mesh))).toEqual(mesh);
    expect(decodeMesh(encodeMesh(mesh).slice(0, -4))).toBe('cut-off');
    const bad = encodeMesh(mesh);
    new DataView(bad.buffer).setFloat32(bad.length - 4, NaN, true);
    expect(decodeMesh(bad)).toBe('bad-number');
  });

  it('are kept in repeats where its own pictures are shown, also turned', () => {
    const atlas = bend((a) => 0.2 + a * a * 0.1);
    for (const key of [authoredUvsKey('h'), authoredUvsKey(turnedKey('h'))]) {
      const prepared = prepareKey(key, atlas);
      expect(range(prepared, 0)).toBeCloseTo((Math.PI / 2) ** 2 * 0.1, 5);
      expect(range(prepared, 1)).toBeCloseTo(2, 5);
    }
    // Nothing is laid: the same as without.
    const bare = { positions: atlas.positions, indices: atlas.indices };
    expect(prepareKey(authoredUvsKey('h'), bare)).toEqual(prepareMesh(bare));
  });

  it('are a set for each way in which pictures lie; corners are shared where all of them agree', () => {
    const quad = sloped(0);
    const pictureUvs = new Float32Array([0, 0, 1, 0, 1, 1, 0, 1]);
    const even = { ...quad, pictureUvs, furtherUvs: [pictureUvs.map((c) => c * 30), pictureUvs.map((c) => 0.25 + c / 2)] };
    expect(decodeMesh(encodeMesh(even))).toEqual(even);
    expect(decodeMesh(encodeMesh(even).slice(0, -4))).toBe('cut-off');
    const prepared = prepareKey(authoredUvsKey('h'), even);
    expect(prepared.positions.length / 3).toBe(4);
    const setOf = (of: PreparedMesh, set: number) => [...of.indices].map((i) => [...uvSet(of, set).subarray(i * 2, i * 2 + 2)]);
    const corners = [...even.indices].map((i) => [...pictureUvs.subarray(i * 2, i * 2 + 2)]);
    expect(setOf(prepared, 0)).toEqual(corners);
    expect(setOf(prepared, 1)).toEqual(corners.map((c) => c.map((x) => x * 30)));
    expect(setOf(prepared, 2)).toEqual(corners.map((c) => c.map((x) => 0.25 + x / 2)));
    expect(setOf(prepared, 3)).toEqual(corners);
    // The two triangles are apart in the second set alone.
    const split = {
      positions: Float32Array.from([0, 1, 2, 0, 2, 3].flatMap((i) => [...quad.positions.subarray(i * 3, i * 3 + 3)])),
      indices: new Uint32Array([0, 1, 2, 3, 4, 5]),
      pictureUvs: Float32Array.from([0, 1, 2, 0, 2, 3].flatMap((i) => [...pictureUvs.subarray(i * 2, i * 2 + 2)])),
    };
    expect(prepareKey(authoredUvsKey('h'), split).positions.length / 3).toBe(4);
    const apart = { ...split, furtherUvs: [split.pictureUvs.map((c, i) => (i < 6 ? c : c + 2))] };
    expect(prepareKey(authoredUvsKey('h'), apart).positions.length / 3).toBe(6);
    // A finish from the library knows nothing of them.
    expect(prepareMesh(even).furtherUvs).toBeUndefined();
  });

  it('lay other pictures over a curve without a seam where they are even, at true size', () => {
    // Half a unit a metre both ways: the arc of pi / 2 metres is laid out whole.
    const even = bend((a) => a);
    const half = { ...even, pictureUvs: even.pictureUvs!.map((c) => c / 2) };
    for (const mesh of [even, half]) {
      expect(range(prepareMesh(mesh), 0)).toBeCloseTo(Math.PI / 2, 2);
      expect(range(prepareMesh(mesh), 1)).toBeCloseTo(2, 2);
      expect(prepareMesh(mesh).positions.length / 3).toBe(38);
    }
    // Stretched ones do not: the six sides of a box foreshorten the arc.
    expect(range(prepareMesh(bend((a) => a * a * a)), 0)).toBeLessThan(1.5);
  });
});

describe('preparing', () => {
  it('changes no shape: area, volume and triangles stay', () => {
    const mesh = new MeshBuilder().tube([[0, 0, 0], [0, 0, 2]], 0.4, 24).build(); // prettier-ignore
    const prepared = prepareMesh(mesh);
    expect(prepared.indices).toHaveLength(mesh.indices.length);
    expect(meshVolume(prepared)).toBeCloseTo(meshVolume(mesh), 6);
    expect(meshArea(prepared)).toBeCloseTo(meshArea(mesh), 6);
  });

  it('gives unit normals on the outer side, also to slivers without area', () => {
    const mesh = { positions: new Float32Array([0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 1, 0]), indices: new Uint32Array([0, 1, 2, 0, 1, 3]) };
    const { normals } = prepareMesh(mesh);
    for (let i = 0; i < normals.length; i += 3) expect(Math.hypot(normals[i]!, normals[i + 1]!, normals[i + 2]!)).toBeCloseTo(1, 5);
  });

  it('smooths below 35 degrees between faces and keeps an edge above', () => {
    const fold = (degrees: number) => {
      const a = (degrees * Math.PI) / 180;
      return {
        positions: new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 1 + Math.cos(a), 0, Math.sin(a), 1 + Math.cos(a), 1, Math.sin(a)]),
        indices: new Uint32Array([0, 1, 2, 0, 2, 3, 1, 4, 5, 1, 5, 2]),
      };
    };
    const atFold = (degrees: number) => {
      const { positions, normals } = prepareMesh(fold(degrees));
      const tilts = new Set<number>();
      for (let i = 0; i < positions.length; i += 3)
        if (Math.abs(positions[i]! - 1) < 1e-6) tilts.add(Math.round((Math.acos(Math.min(1, normals[i + 2]!)) * 180) / Math.PI));
      return [...tilts].sort((a, b) => a - b);
    };
    expect(atFold(30)).toEqual([15]);
    expect(atFold(40)).toEqual([0, 40]);
  });
});
