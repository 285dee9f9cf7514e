import { describe, expect, it } from 'vitest';
import { prepareMesh } from '../geometry/prepare-mesh';
import { compose, IDENTITY, transformPoint, type Mat4 } from '../geometry/mat4';
import { meshArea, type Mesh } from '../geometry/mesh';
import { matt, testScene, uniformSky } from '../kernel/testing';
import { PLAIN_FINISH, type Finish } from '../finish/finish';
import { BLADE_LEVELS, finishOfBlades, isTuftKey, levelOfKey, tuftKey, tuftMesh, tuftOfKey, type Blades } from './blades';
import { tuftsOn, type GrassView, type Tuft } from './grow';
import { growsAlike, withBlades } from './with-blades';

const blades: Blades = { lengthM: 0.1, widthM: 0.004, perM2: 2000, colour: [0.3, 0.5, 0.2], irregularity: 0.5 };
const everywhere = (x: number, y: number, z: number): GrassView => ({ eye: [x, y, z], sees: () => true });
const square = (side: number, z = 0): Mesh => ({
  positions: new Float32Array([0, 0, z, side, 0, z, side, side, z, 0, side, z]),
  indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
});
const tufts = (mesh: Mesh, view: GrassView, transform: Mat4 = IDENTITY): Tuft[] => tuftsOn(prepareMesh(mesh), transform, 0.5, view);
const rootOf = ({ transform }: Tuft) => transform.slice(12, 15) as [number, number, number];

describe('a tuft', () => {
  it('has the blades of its area, of the length and width asked for', () => {
    for (const [level, { tuftM, share, wider }] of BLADE_LEVELS.entries()) {
      const mesh = tuftMesh({ ...blades, irregularity: 0 }, BLADE_LEVELS[level]!, 1);
      const count = Math.round(2000 * share * tuftM * tuftM);
      expect(mesh.indices.length).toBe(count * 9);
      // A blade: its full width up to where it bends, 0.8 of it there, none at the tip.
      const leaf = blades.lengthM * blades.widthM * wider * (0.55 * 0.9 + 0.45 * 0.4);
      expect(meshArea(mesh) / count / leaf).toBeGreaterThan(0.93);
      expect(meshArea(mesh) / count / leaf).toBeLessThan(1.07);
      const heights = [...mesh.positions].filter((_, i) => i % 3 === 2);
      expect(Math.min(...heights)).toBe(0);
      expect(Math.max(...heights)).toBeLessThanOrEqual(blades.lengthM);
    }
  });

  it('has normals across its leaves, and comes back from its key', () => {
    const mesh = tuftMesh(blades, BLADE_LEVELS[0]!, 2);
    for (let t = 0; t < mesh.indices.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => [...mesh.positions.subarray(mesh.indices[t + k]! * 3, mesh.indices[t + k]! * 3 + 3)]) as [number[], number[], number[]];
      const [u, v] = [b, c].map((p) => p.map((x, k) => x - a[k]!)) as [number[], number[]];
      const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
      const given = mesh.normals.subarray(mesh.indices[t]! * 3, mesh.indices[t]! * 3 + 3);
      expect(n.reduce((sum, x, k) => sum + x * given[k]!, 0) / Math.hypot(...n)).toBeGreaterThan(0.5);
    }
    const key = tuftKey(blades, 0, 2);
    expect(tuftOfKey(key)).toEqual(mesh);
    expect(levelOfKey(tuftKey(blades, 2, 0))).toBe(2);
    expect(tuftOfKey('something else')).toBeUndefined();
    expect([isTuftKey(key), isTuftKey('something else')]).toEqual([true, false]);
  }); // prettier-ignore
});

describe('grass', () => {
  it('covers a face evenly, to its edge and not beyond', () => {
    const near = tufts(square(3), everywhere(1.5, 1.5, 1));
    // One tuft to each cell of 0.1 m whose middle lies on the square.
    expect(near).toHaveLength(900);
    expect(new Set(near.map((t) => rootOf(t).map((v) => v.toFixed(3)).join())).size).toBe(900);
    for (const t of near) for (const v of rootOf(t).slice(0, 2)) expect(v > 0 && v < 3).toBe(true);
    expect(new Set(near.map((t) => t.shape)).size).toBe(4);
  }); // prettier-ignore

  it('is thinned by distance, grows the same wherever the eye goes, and ends where nobody would see it', () => {
    const of = (x: number) => tufts(square(60), everywhere(x, 30, 1.6));
    const all = of(30);
    const perM2 = (from: number, to: number) => {
      const there = all.filter((t) => { const d = Math.hypot(rootOf(t)[0] - 30, rootOf(t)[1] - 30, 1.6); return d >= from && d < to; }); // prettier-ignore
      const area = Math.PI * (Math.min(to, 29) ** 2 - Math.max(1.6, from) ** 2);
      return there.reduce((sum, t) => sum + 2000 * BLADE_LEVELS[t.level]!.share * BLADE_LEVELS[t.level]!.tuftM ** 2, 0) / area;
    };
    expect(perM2(2, 6)).toBeGreaterThan(1850);
    expect(perM2(8, 19) / 2000).toBeCloseTo(0.4, 1);
    expect(perM2(21, 29) / 2000).toBeCloseTo(0.125, 1);
    // Where the level is the same, so is every tuft.
    const keyOf = (t: Tuft) => JSON.stringify([t.level, t.shape, t.transform]);
    const moved = new Set(of(30.5).filter((t) => t.level === 0).map(keyOf)); // prettier-ignore
    const both = all.filter((t) => t.level === 0 && Math.hypot(rootOf(t)[0] - 30.5, rootOf(t)[1] - 30) < 6);
    expect(both.length).toBeGreaterThan(5000);
    for (const t of both) expect(moved.has(keyOf(t))).toBe(true);
    expect(tufts(square(3), everywhere(100, 0, 1))).toEqual([]);
  });

  it('stands upright on slopes with its roots in the face, and not on walls or undersides', () => {
    const slope = compose([0, 0, 0], [Math.sin(Math.PI / 12), 0, 0, Math.cos(Math.PI / 12)], [1, 1, 1]);
    const on = tufts(square(3), everywhere(1, 1, 1), slope);
    expect(on.length).toBeGreaterThan(700);
    for (const t of on.slice(0, 50)) {
      const [x, y, z] = rootOf(t);
      expect(z).toBeCloseTo(y * Math.tan(Math.PI / 6), 5);
      const tip = transformPoint(t.transform, [0, 0, 0.1]);
      expect([tip[0] - x, tip[1] - y].map((v) => Math.abs(v))).toEqual([0, 0]);
      const beside = transformPoint(t.transform, [0.05, 0, 0]);
      expect(beside[2]).toBeCloseTo(beside[1] * Math.tan(Math.PI / 6), 5);
    }
    const upright = compose([0, 0, 0], [Math.SQRT1_2, 0, 0, Math.SQRT1_2], [1, 1, 1]);
    expect(tufts(square(3), everywhere(1, 0, 1), upright)).toEqual([]);
    expect(tufts({ ...square(3), indices: new Uint32Array([0, 2, 1, 0, 3, 2]) }, everywhere(1, 1, 1))).toEqual([]);
  });

  it('does not grow through what lies on it', () => {
    const grassy: Finish = { ...PLAIN_FINISH, id: 'g', name: 'Grass', family: 'ground', blades };
    const pond: Finish = { ...matt(0), family: 'water', transmission: 1, body: 'pane' };
    const parts = [
      { mesh: square(3), finish: grassy },
      // A slab 50 mm over one half of it, and one high over the other.
      {
        mesh: { ...square(3, 0.05), positions: new Float32Array([0, 0, 0.05, 1.5, 0, 0.05, 1.5, 3, 0.05, 0, 3, 0.05]) },
        finish: matt(0.5),
      },
      { mesh: { ...square(3, 2), positions: new Float32Array([1.5, 0, 2, 3, 0, 2, 3, 3, 2, 1.5, 3, 2]) }, finish: matt(0.5) },
      // And water half a metre deep over a strip of what is left.
      { mesh: { ...square(3, 0.5), positions: new Float32Array([2.5, 0, 0.5, 3, 0, 0.5, 3, 3, 0.5, 2.5, 3, 0.5]) }, finish: pond },
    ];
    const memory = testScene(parts, uniformSky(100));
    const meshes = new Map(parts.map((part, i) => [String(i), prepareMesh(part.mesh)]));
    const instances = parts.map(({ finish }, i) => ({ mesh: String(i), transform: IDENTITY, finish, emissionScale: 1, lens: false }));
    const assets = { mesh: (key: string) => meshes.get(key), maps: () => undefined };
    const { blades: grown, assets: more, scene } = withBlades(memory, { instances, lamps: [] }, assets, everywhere(1.5, 1.5, 1));
    expect(grown).toHaveLength(300);
    for (const { transform } of grown) expect(transform[12]! > 1.5 && transform[12]! < 2.5).toBe(true);
    expect(scene.instances).toHaveLength(304);
    expect(more.mesh(grown[0]!.mesh)!.indices.length).toBeGreaterThan(0);
    expect(grown[0]!.finish).toBe(finishOfBlades(grassy));
    // And it is seen: who looks at the lawn at a slant meets blades before the ground.
    memory.setScene(scene, more);
    let met = 0;
    for (let i = 0; i < 200; i++) if (memory.kernel.traceAny(1.6 + i * 0.003, 0.3 + i * 0.01, 0.12, 0.94, 0, -0.34, 0.34, -1)) met++;
    expect(met).toBeGreaterThan(60);
    // Seen from elsewhere it grows anew, and is not in its own way.
    expect(withBlades(memory, { instances, lamps: [] }, assets, everywhere(1.5, 1.5, 1)).blades).toEqual(grown);
  });

  it('stays as it has grown where only light and colours change, and grows anew where it or water is laid elsewhere', () => {
    const grassy: Finish = { ...PLAIN_FINISH, id: 'g', name: 'Grass', family: 'ground', blades };
    const instance = (finish: Finish, more: object = {}) => ({
      mesh: 'm',
      transform: IDENTITY,
      finish,
      emissionScale: 1,
      lens: false,
      ...more,
    });
    const lawn = { instances: [instance(grassy), instance(matt(0.5))], lamps: [] };
    const alike = (...instances: ReturnType<typeof instance>[]) => growsAlike(lawn, { instances, lamps: [] });
    expect(alike(instance(grassy), instance(matt(0.2), { emissionScale: 0.3 }))).toBe(true);
    expect(alike(instance({ ...grassy, blades: { ...blades, lengthM: 0.3 } }), instance(matt(0.5)))).toBe(false);
    expect(alike(instance(grassy), instance({ ...matt(0.5), family: 'water' }))).toBe(false);
    expect(alike(instance(grassy), instance(matt(0.5), { transform: compose([1, 0, 0], [0, 0, 0, 1], [1, 1, 1]) }))).toBe(false);
    expect(alike(instance(grassy))).toBe(false);
  });
});
