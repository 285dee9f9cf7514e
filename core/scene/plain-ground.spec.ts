import { describe, expect, it } from 'vitest';
import type { Finish } from '../finish/finish';
import { IDENTITY } from '../geometry/mat4';
import { box, matt, quad } from '../kernel/testing';
import { groundMesh, plainGround } from './plain-ground';

const house = { mesh: 'house', transform: IDENTITY, finish: matt(0.5) };
const lawn = (family: Finish['family']) => ({ mesh: 'lawn', transform: IDENTITY, finish: matt(0.5, { family }) });
const meshes = new Map([
  ['house', box([-5, -4, 1.2], [5, 4, 7])],
  ['lawn', quad([-30, -30, 1.2], [30, -30, 1.2], [30, 30, 1.2], [-30, 30, 1.2])],
]);
const meshOf = (key: string) => meshes.get(key);

describe('a plain ground', () => {
  it('is laid at the lowest level of a model that brings none, out to the horizon', () => {
    const rings = plainGround([house], meshOf);
    expect(rings.length).toBeGreaterThan(3);
    expect(rings[0]!.transform[14]).toBeCloseTo(1.2, 1);
    expect(rings[0]!.transform[14]).toBeLessThan(1.2);
    let reach = 0;
    for (const { mesh } of rings) for (const v of groundMesh(mesh)!.positions) reach = Math.max(reach, v);
    expect(reach).toBeGreaterThan(3000);
  });

  it('fades into the haze behind it, ring by ring', () => {
    const opacities = plainGround([house], meshOf).map(({ finish }) => finish.opacity);
    expect(opacities[0]).toBe(1);
    for (let i = 1; i < opacities.length; i++) expect(opacities[i]!).toBeLessThanOrEqual(opacities[i - 1]!);
    expect(opacities.at(-1)).toBeLessThan(0.5);
  });

  it('is left out where the model brings its own, and laid or left out as is said', () => {
    expect(plainGround([house, lawn('ground')], meshOf)).toEqual([]);
    expect(plainGround([house, lawn('ground')], meshOf, 'always').length).toBeGreaterThan(0);
    expect(plainGround([house], meshOf, 'never')).toEqual([]);
    expect(plainGround([], meshOf)).toEqual([]);
  });

  it('leads a meadow on over fields and woods to the horizon, without gaps and no nearer than they would be', () => {
    const blades = { lengthM: 0.3, widthM: 0.004, perM2: 1800, colour: [0.4, 0.5, 0.3], irregularity: 0.8 } as const;
    const meadow = { ...lawn('ground'), finish: matt(0.5, { family: 'ground', blades: { ...blades, colour: [...blades.colour] } }) };
    const land = plainGround([house, meadow], meshOf);
    expect(new Set(land.map(({ finish }) => finish.baseColour.join())).size).toBe(3);
    expect(plainGround([house, meadow], meshOf, 'never')).toEqual([]);
    let area = 0;
    for (const { mesh } of land) {
      const { positions: p, indices } = groundMesh(mesh)!;
      for (let t = 0; t < indices.length; t += 3) {
        const [a, b, c] = [0, 1, 2].map((k) => [p[indices[t + k]! * 3]!, p[indices[t + k]! * 3 + 1]!] as const) as [readonly [number, number], readonly [number, number], readonly [number, number]]; // prettier-ignore
        const own = ((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])) / 2;
        expect(own).toBeGreaterThan(-1e-3);
        area += own;
        if (mesh.endsWith('/wood')) expect(Math.hypot(...a)).toBeGreaterThan(200);
      }
    }
    // The polygon of 72 corners that the last ring ends at.
    expect(area / (36 * 5000 ** 2 * Math.sin((2 * Math.PI) / 72))).toBeCloseTo(1, 6);
  });

  it('is not mistaken for a floor or a gravel roof that is smaller than the building', () => {
    const small = { mesh: 'roof', transform: IDENTITY, finish: matt(0.5, { family: 'ground' }) };
    const withRoof = (key: string) => (key === 'roof' ? quad([-3, -3, 7], [3, -3, 7], [3, 3, 7], [-3, 3, 7]) : meshOf(key));
    expect(plainGround([house, small], withRoof).length).toBeGreaterThan(0);
  });

  it('has faces that look up, and no mesh for other keys', () => {
    for (const { mesh } of plainGround([house], meshOf))
      for (let i = 2; i < 9; i += 3) expect(groundMesh(mesh)!.normals[i]).toBeGreaterThan(0.99);
    expect(groundMesh('house')).toBeUndefined();
  });
});
