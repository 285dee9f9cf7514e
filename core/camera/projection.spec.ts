import { describe, expect, it } from 'vitest';
import * as L from '../kernel/assembly/layout';
import { box, darkSky, matt, testScene } from '../kernel/testing';
import type { SceneMemory } from '../kernel/scene-memory';
import type { Camera } from '../model/schema';
import { dot, normalise, subtract, type Vec3 } from '../geometry/vec3';
import { platesOf, type Plate, type Projection } from './projection';

/** Projections, by where in a room the kernel's rays through pixels arrive. */

const room = testScene([{ mesh: box([-5, -5, -5], [5, 5, 5], true), finish: matt(0.5) }], darkSky());
const camera: Camera = { position: [1, -0.5, 0.5], target: [1, 3, 0.5], focalMm: 24 };

interface Seen {
  distance: number;
  place: Vec3;
}

/** What the pixels of a plate see, row after row, or those of a window of it. */
function seen({ scene, memory, kernel }: SceneMemory, plate: Plate, window = { left: 0, top: 0, width: plate.width, height: plate.height }): Seen[] {
  room.camera(plate.frame);
  room.setFilm(window.width, window.height);
  room.setWindow(window.left, window.top, plate.width, plate.height);
  const out = memory.allocate(window.width * window.height * L.CHANNELS_SIZE);
  kernel.renderChannels(scene, 0, 0, window.width, window.height, out);
  const floats = memory.floats(out, (window.width * window.height * L.CHANNELS_SIZE) / 4).slice();
  memory.release(out);
  return Array.from({ length: window.width * window.height }, (_, i) => {
    const [distance = 0, x = 0, y = 0, z = 0] = floats.subarray(i * 12, i * 12 + 4);
    return { distance, place: [x, y, z] };
  });
} // prettier-ignore

const plates = (projection: Projection, width: number, height: number) => platesOf(camera, projection, width, height);
const towards = ({ place }: Seen, from: Vec3 = camera.position): Vec3 => normalise(subtract(place, from));

describe('a projection', () => {
  it('all round gives every pixel its degree east and up', () => {
    const [plate] = plates({ kind: 'equirectangular' }, 72, 36);
    seen(room, plate!).forEach((pixel, i) => {
      // The camera looks north, which is the middle; east is to the right.
      const [east, rise] = [(((i % 72) + 0.5) / 72 - 0.5) * 2 * Math.PI, (0.5 - (Math.floor(i / 72) + 0.5) / 36) * Math.PI];
      const law: Vec3 = [Math.sin(east) * Math.cos(rise), Math.cos(east) * Math.cos(rise), Math.sin(rise)];
      expect(dot(towards(pixel), law)).toBeGreaterThan(1 - 1e-5);
      expect(pixel.distance).toBeCloseTo(Math.hypot(...subtract(pixel.place, camera.position)), 3);
    });
  });

  it('all round goes on beyond its sides as it began', () => {
    const [plate] = plates({ kind: 'equirectangular' }, 64, 32);
    const whole = seen(room, plate!);
    const beyond = seen(room, plate!, { left: -4, top: 0, width: 72, height: 32 });
    for (let y = 0; y < 32; y++) for (let x = -4; x < 68; x++) expect(beyond[y * 72 + x + 4]).toEqual(whole[y * 64 + ((x + 64) % 64)]);
  });

  it('for a pair of eyes shows a place as far apart as two eyes so far apart see it', () => {
    const EYES = 0.2;
    const pair = plates({ kind: 'equirectangular', eyesM: EYES }, 720, 720);
    expect(pair.map(({ top, height }) => [top, height])).toEqual([[0, 360], [360, 360]]); // prettier-ignore
    const eastOf = (plate: Plate) =>
      seen(room, plate, { left: 0, top: 180, width: 720, height: 1 }).map(({ place }) => Math.atan2(place[0] - 1, place[1] + 0.5));
    const [left, right] = pair.map(eastOf) as [number[], number[]];
    // The wall ahead is d away; a ray that touches a circle of radius r leaves it asin(r / d) beside the way to where it arrives.
    for (const [eye, side] of [[left, -1], [right, 1]] as const)
      for (let x = 330; x < 390; x++) {
        const round = ((x + 0.5) / 720 - 0.5) * 2 * Math.PI;
        const away = 5.5 / Math.cos(eye[x]!);
        expect(eye[x]! - round).toBeCloseTo(side * Math.asin(EYES / 2 / away), 3);
      } // prettier-ignore
  });

  it('in parallel is as large far away as nearby', () => {
    const [plate] = plates({ kind: 'orthographic', widthM: 4 }, 40, 20);
    seen(room, plate!).forEach(({ place }, i) => {
      expect(place[0]).toBeCloseTo(1 + (((i % 40) + 0.5) / 40 - 0.5) * 4, 3);
      expect(place[1]).toBeCloseTo(5, 3);
      expect(place[2]).toBeCloseTo(0.5 + (0.5 - (Math.floor(i / 40) + 0.5) / 20) * 2, 3);
    });
  });

  it('onto a cube meets its neighbours at the edges, and sees each direction once', () => {
    const faces = plates({ kind: 'cube' }, 6 * 32, 32);
    const directions = faces.map((face) => seen(room, face).map((pixel) => towards(pixel)));
    const middle = directions.map((face) => normalise(face.reduce<Vec3>((sum, d) => [sum[0] + d[0], sum[1] + d[1], sum[2] + d[2]], [0, 0, 0])));
    expect(middle.map((d) => d.map((v) => Math.round(v) + 0))).toEqual([[0, 1, 0], [1, 0, 0], [0, -1, 0], [-1, 0, 0], [0, 0, 1], [0, 0, -1]]);
    // Right edge of one face, left edge of the next: a pixel apart, 2 / 32 of the unit cube's face.
    for (const [a, b] of [[0, 1], [1, 2], [2, 3], [3, 0]] as const)
      for (let y = 0; y < 32; y++) expect(Math.acos(dot(directions[a]![y * 32 + 31]!, directions[b]![y * 32]!))).toBeLessThan(0.065);
    // Above the front face lies the lower edge of the upper one.
    for (let x = 0; x < 32; x++) expect(Math.acos(dot(directions[0]![x]!, directions[4]![31 * 32 + x]!))).toBeLessThan(0.065);
    for (let x = 0; x < 32; x++) expect(Math.acos(dot(directions[0]![31 * 32 + x]!, directions[5]![x]!))).toBeLessThan(0.065);
  }); // prettier-ignore
});
