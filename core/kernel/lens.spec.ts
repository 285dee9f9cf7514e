import { expect, it } from 'vitest';
import { cameraFrame, placeIn, type CameraFrame } from '../camera/camera';
import { subtract, type Vec3 } from '../geometry/vec3';
import type { Camera } from '../model/schema';
import { darkSky, matt, quad, testScene } from './testing';

const SIZE = 128;

/** Where a small shining card at a place is seen, in pixels: its middle, and the mean square distance from it. */
function spotOf(frame: CameraFrame, [x, y, z]: Vec3, half: number): { x: number; y: number; spread: number } {
  const card = { mesh: quad([x - half, y, z - half], [x + half, y, z - half], [x + half, y, z + half], [x - half, y, z + half]), finish: matt(1, { emissionCdM2: 1e6 }) }; // prettier-ignore
  const scene = testScene([card], darkSky());
  scene.camera(frame);
  scene.settings({ seed: 3, maxDepth: 1 });
  scene.setFilm(SIZE, SIZE);
  scene.kernel.renderTile(scene.scene, 0, 0, SIZE, SIZE, 0, 64);
  const film = scene.filmData();
  const floats = film.length / SIZE / SIZE;
  let [sum, sx, sy, squares] = [0, 0, 0, 0];
  const each = (take: (light: number, px: number, py: number) => void) => {
    for (let i = 0; i < SIZE * SIZE; i++) take(film[i * floats + 1]!, (i % SIZE) + 0.5, Math.floor(i / SIZE) + 0.5);
  };
  each((light, px, py) => {
    sum += light;
    sx += light * px;
    sy += light * py;
  });
  each((light, px, py) => (squares += light * ((px - sx / sum) ** 2 + (py - sy / sum) ** 2)));
  return { x: sx / sum, y: sy / sum, spread: squares / sum };
}

it('blurs what is not in focus as a thin lens does: a disc of R |d - F| / F about each place', () => {
  const camera: Camera = { position: [0, 0, 0], target: [0, 1, 0], focalMm: 180 };
  const [radiusM, focusM] = [0.1, 5];
  const frame = { ...cameraFrame(camera, 1), lens: { radiusM, focusM } };
  for (const away of [3.5, 5, 10, 20]) {
    const metres = (0.2 * away) / SIZE;
    const { spread } = spotOf(frame, [0, away, 0], 0.004);
    const disc = (radiusM * Math.abs(away - focusM)) / focusM / metres;
    // Mean square distance in a disc is half of its radius squared; a pixel and the card, squares, have a sixth of their side squared.
    const own = (1 + (0.008 / metres) ** 2) / 6;
    expect(Math.abs(Math.sqrt(2 * Math.max(0, spread - own)) - disc)).toBeLessThan(0.06 * disc + 0.75);
  }
});

it('sees places where the shifted lens has them', () => {
  const camera: Camera = { position: [0, -10, 1.6], target: [0, 0, 4.6], focalMm: 30, upright: true };
  const frame = cameraFrame(camera, 1);
  for (const place of [[-2, 0, 1], [-2, 0, 7], [3, 2, 6]] as Vec3[]) {
    const [x, y] = placeIn(frame, subtract(place, camera.position))!;
    const spot = spotOf(frame, place, 0.06);
    expect(Math.abs(spot.x - ((x + 1) / 2) * SIZE)).toBeLessThan(0.3);
    expect(Math.abs(spot.y - ((1 - y) / 2) * SIZE)).toBeLessThan(0.3);
  } // prettier-ignore
});

it('leaves out what is nearer along the view, to a plane across it, and keeps its light and shadows', () => {
  const wall = (y: number) => quad([-50, y, -50], [50, y, -50], [50, y, 50], [-50, y, 50]);
  const scene = testScene([{ mesh: wall(2), finish: matt(1, { emissionCdM2: 10 }) }, { mesh: wall(6), finish: matt(1, { emissionCdM2: 700 }) }], darkSky()); // prettier-ignore
  const seen = (camera: Camera) => {
    scene.camera(cameraFrame(camera, 1));
    scene.settings({ seed: 1, maxDepth: 1 });
    scene.setFilm(16, 16);
    scene.kernel.renderTile(scene.scene, 0, 0, 16, 16, 0, 1);
    const film = scene.filmData();
    // A little is thrown from wall to wall.
    return new Set(Array.from({ length: 256 }, (_, i) => (film[(i * film.length) / 256]! > 600 ? 'far' : 'near')));
  };
  const camera: Camera = { position: [0, 0, 0], target: [0, 1, 0], focalMm: 20 };
  expect(seen(camera)).toEqual(new Set(['near']));
  // In the corners of a wide lens a plane is further than in the middle: all of the first wall goes at once.
  expect(seen({ ...camera, nearM: 1.98 })).toEqual(new Set(['near']));
  expect(seen({ ...camera, nearM: 2.02 })).toEqual(new Set(['far']));
  expect(seen({ ...camera, target: [0, 1, 0.4], upright: true, nearM: 2.02 })).toEqual(new Set(['far']));
  expect(seen({ ...camera, parallelM: 4, nearM: 2.02 })).toEqual(new Set(['far']));
});
