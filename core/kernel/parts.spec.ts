import { expect, it } from 'vitest';
import * as L from './assembly/layout';
import { box, darkSky, matt, quad, testScene } from './testing';

it('what shines, what is lit directly and what is lit by the rest are told apart, and a window of a picture is a piece of it', () => {
  const lamp = {
    source: 's', id: 'l', position: [0, 0, 2], axis: [0, 0, -1], right: [1, 0, 0], radiusM: 0, colour: [1, 1, 1],
    beam: { intensityCd: 1000, cosInner: 1, cosOuter: -1 },
  } as const; // prettier-ignore
  const scene = testScene(
    [
      { mesh: box([-3, -3, 0], [3, 3, 3], true), finish: matt(0.5) },
      { mesh: quad([2, -1, 0.01], [3, -1, 0.01], [3, 1, 0.01], [2, 1, 0.01]), finish: matt(0.5, { emissionCdM2: 80 }) },
    ],
    darkSky(),
    [{ ...lamp, position: [...lamp.position], axis: [...lamp.axis], right: [...lamp.right], colour: [...lamp.colour] }],
  );
  const SIZE = 24;
  // Straight down on the floor, 6 m wide.
  scene.camera({ origin: [0, 0, 2.9], forward: [0, 0, -1], right: [3, 0, 0], up: [0, 3, 0], projection: 'orthographic' });
  scene.setFilm(SIZE, SIZE);
  const parts = scene.memory.allocate(SIZE * SIZE * L.PARTS_SIZE);
  scene.setParts(parts);
  const SAMPLES = 64;
  scene.kernel.renderTile(scene.scene, 0, 0, SIZE, SIZE, 0, SAMPLES);
  const told = scene.memory.floats(parts, (SIZE * SIZE * L.PARTS_SIZE) / 4).slice();
  const film = scene.filmData().slice();
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) {
      const i = y * SIZE + x;
      const [px, py] = [((x + 0.5) / SIZE - 0.5) * 6, (0.5 - (y + 0.5) / SIZE) * 6];
      const [shining, direct, all] = [told[i * 8]!, told[i * 8 + 4]!, film[i * 12]!].map((sum) => sum / SAMPLES) as [number, number, number];
      const plate = px > 2 && Math.abs(py) < 1;
      expect(shining).toBeCloseTo(plate ? 80 * 0.5 : 0, 4);
      // The lamp by the inverse square and the cosine; the plate's own light comes on top, beside it.
      const d = Math.hypot(px, py, 2);
      const law = (1000 * 2) / d ** 3 * 0.5 / Math.PI;
      if (px < 0) expect(Math.abs(direct / law - 1)).toBeLessThan(0.06);
      expect(all).toBeGreaterThanOrEqual((shining + direct) * 0.9999);
      if (!plate) expect(all).toBeGreaterThan(direct * 1.05);
    } // prettier-ignore
  scene.setFilm(6, 5);
  scene.setWindow(10, 3, SIZE, SIZE);
  scene.kernel.renderTile(scene.scene, 0, 0, 6, 5, 0, SAMPLES);
  const window = scene.filmData();
  for (let y = 0; y < 5; y++) for (let x = 0; x < 6; x++) expect(window[(y * 6 + x) * 12]).toBe(film[((y + 3) * SIZE + x + 10) * 12]);
});
