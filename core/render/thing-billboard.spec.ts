import { expect, it } from 'vitest';
import { matt, kernelModule } from '../kernel/testing';
import { KernelPool } from '../kernel/pool';
import { SceneMemory } from '../kernel/scene-memory';
import { IDENTITY } from '../geometry/mat4';
import { MeshBuilder } from '../geometry/shapes';
import { prepareMesh } from '../geometry/prepare-mesh';
import { uniformSky } from '../sky/sky-map';
import { decodeSrgb } from '../image/tone';
import { BILLBOARD_PX, BILLBOARD_SKY_CDM2, billboardCameras, billboardPixels, billboardSize } from './thing-billboard';

it('shows a box as wide and high as it is, in the colour that it sends back, and nothing beside it', async () => {
  // Three metres high, one wide, half a metre deep; it sends back two fifths of the light that reaches it.
  const form = { heightM: 3, acrossM: Math.hypot(1, 0.5) };
  const mesh = prepareMesh(new MeshBuilder().box([-0.5, -0.25, 0], [0.5, 0.25, 3]).build());
  const scene = new SceneMemory(kernelModule());
  scene.settings({ seed: 1, maxDepth: 4 });
  scene.setSky(uniformSky(BILLBOARD_SKY_CDM2));
  const instance = { mesh: 'box', transform: IDENTITY, finish: matt(0.4), variation: undefined, class: 'x', emissionScale: 1, lens: false };
  scene.setScene({ instances: [instance], lamps: [] }, { mesh: () => mesh, maps: () => undefined });
  const pool = new KernelPool(scene, () => { throw new Error('none'); }, 0); // prettier-ignore
  const { width, height } = BILLBOARD_PX;
  const { widthM, heightM } = billboardSize(form);
  for (const [side, wide] of [1, 0.5].entries()) {
    scene.camera(billboardCameras(form)[side]!);
    scene.setFilm(width, height);
    await pool.run({ kind: 'render', width, height, tile: 32, first: 0, count: 32 });
    const rgba = billboardPixels(scene.filmData(), form);
    let cover = 0;
    for (let p = 3; p < rgba.length; p += 4) cover += rgba[p]! / 255;
    // In metres: pixels are squares of the picture's width over their number.
    expect(cover * (widthM / width) * (heightM / height)).toBeCloseTo(3 * wide, 1);
    const middle = rgba.subarray((64 * width + 48) * 4, (64 * width + 48) * 4 + 4);
    expect(middle[3]).toBe(255);
    for (let c = 0; c < 3; c++) expect(Math.abs(decodeSrgb(middle[c]! / 255) / 0.4 - 1)).toBeLessThan(0.12);
    expect([rgba[3], rgba[(64 * width + 2) * 4 + 3]]).toEqual([0, 0]);
  }
});
