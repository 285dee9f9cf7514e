import { describe, expect, it } from 'vitest';
import { ModelBuilder } from './model-builder';

const RED = { colour: [0.8, 0.1, 0.1] as [number, number, number] };
const GREEN = { colour: [0.1, 0.8, 0.1] as [number, number, number] };
const picture = (...bytes: number[]) => Uint8Array.of(0x89, 0x50, 0x4e, 0x47, ...bytes);
const shows = (image: string, widthM = 1) => ({ ...RED, texture: { image, widthM, heightM: 1 } });

describe('a material without a name', () => {
  it('is known by what it is, whichever others the file has', () => {
    const all = new ModelBuilder('a.glb');
    const ids = [RED, GREEN, { ...GREEN, roughness: 0.2 }].map((what, i) => all.material(i, () => what));
    expect(new Set(ids).size).toBe(3);
    const fewer = new ModelBuilder('a.glb');
    expect([{ ...GREEN, roughness: 0.2 }, GREEN].map((what, i) => fewer.material(i, () => what))).toEqual([ids[2], ids[1]]);
  });

  it('by the bytes of its pictures too, and not by how large they lie', () => {
    const one = new ModelBuilder('a.glb');
    const [tile, wood] = [one.picture(picture(1)), one.picture(picture(2))];
    const ids = [tile, wood].map((image) => one.material(image, () => shows(image)));
    const other = new ModelBuilder('a.glb');
    const alone = other.picture(picture(2));
    expect(other.material(alone, () => shows(alone, 2.5))).toBe(ids[1]);
    expect(ids[0]).not.toBe(ids[1]);
  });

  it('stays apart from another one that is the same, and names stay as they are', () => {
    const builder = new ModelBuilder('a.glb');
    const [a, b] = [builder.material('a', () => RED), builder.material('b', () => RED)];
    expect(a).not.toBe(b);
    expect(builder.material('c', () => ({ name: 'Oak', ...RED }))).toBe('Oak');
  });
});
