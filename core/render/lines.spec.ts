import { describe, expect, it } from 'vitest';
import { cameraFrame, placeIn } from '../camera/camera';
import { subtract, type Vec3 } from '../geometry/vec3';
import { box, matt, testScene, uniformSky } from '../kernel/testing';
import { drawLines, lineMask } from './lines';
import { legendRows, legendSvg } from './legend';
import { PLAIN_FINISH, type Finish } from '../finish/finish';
import { FINISHES } from '../finish/library';
import { styledFinish } from '../project/style';

const SIZE = 120;

describe('lines of a picture', () => {
  it('are drawn where bodies end and bend, and nowhere on their faces', () => {
    const scene = testScene([{ mesh: box([-1, -1, 0], [1, 1, 2]), finish: matt(0.5) }, { mesh: box([-20, -20, -1], [20, 20, 0]), finish: matt(0.5) }], uniformSky(100)); // prettier-ignore
    const frame = cameraFrame({ position: [4, -5, 4], target: [0, 0, 0.8], focalMm: 40 }, 1);
    scene.camera(frame);
    scene.setFilm(SIZE, SIZE);
    scene.kernel.renderTile(scene.scene, 0, 0, SIZE, SIZE, 0, 8);
    const mask = lineMask(scene.filmData(), SIZE, SIZE);
    const lines = [...mask].filter((m) => m > 0.3).length;
    // Nine edges of the box are seen, each about a third of the picture long, drawn one or two pixels wide.
    expect(lines).toBeGreaterThan(9 * 25);
    expect(lines).toBeLessThan(9 * 25 * 4);
    // The middle of each face is clean: what a plane explains is no edge, however aslant it is seen.
    const clean = (place: Vec3) => {
      const [x, y] = placeIn(frame, subtract(place, frame.origin))!;
      const p = Math.round(((1 - y) / 2) * SIZE) * SIZE + Math.round(((x + 1) / 2) * SIZE);
      return [-2, -SIZE, 0, SIZE, 2].every((d) => mask[p + d]! < 0.05);
    };
    expect([clean([0, 0, 2]), clean([0, -1, 1]), clean([1, 0, 1]), clean([2.2, -1, 0])]).toEqual([true, true, true, true]);
  });

  it('lie over a picture that fades to paper, in 8 and in 16 bits', () => {
    const rgba = new Uint8ClampedArray([100, 100, 100, 255, 100, 100, 100, 255]);
    drawLines(rgba, new Float32Array([0, 1]), { lines: 1, paper: 0.5 });
    expect([...rgba]).toEqual([175, 174, 172, 255, 38, 36, 33, 255]);
    const fine = new Uint16Array([25700, 25700, 25700, 65535]);
    drawLines(fine, new Float32Array([0]), { lines: 1, paper: 0.5 });
    expect([...fine]).toEqual([44975, 44718, 44075, 65535].map((v, i) => (i < 3 ? expect.closeTo(v, -1.5) as number : v))); // prettier-ignore
  });
});

describe('styles', () => {
  const glass: Finish = { ...PLAIN_FINISH, id: 'g', name: 'g', family: 'glass', transmission: 1 };
  const oak = FINISHES.find(({ family }) => family === 'wood')!;

  it('make card of everything but glass, water and what shines', () => {
    expect(styledFinish(oak, 'photograph')).toBe(oak);
    expect(styledFinish(oak, 'white card')).toMatchObject({ maps: null, metalness: 0, transmission: 0 });
    expect(styledFinish(glass, 'white card')).toBe(glass);
    const water = FINISHES.find(({ family }) => family === 'water')!;
    expect(styledFinish(water, 'white card')).toBe(water);
    expect(styledFinish(oak, 'white card')).toBe(styledFinish(oak, 'white card'));
  });

  it('have a key in which each finish is told by its colour, with a legend', () => {
    const shown = FINISHES.slice(0, 40).map((finish) => ({ finish: styledFinish(finish, 'key of finishes') }));
    const rows = legendRows(shown);
    const keyed = shown.filter(({ finish }) => finish.id.startsWith('key.'));
    expect(rows.length).toBe(keyed.length);
    expect(legendSvg(rows).match(/<rect/g)).toHaveLength(rows.length);
    expect(new Set(rows.map(({ colour }) => colour.map((c) => Math.round(c * 40)).join())).size).toBeGreaterThan(rows.length * 0.8);
    expect(legendSvg([{ id: 'a', name: 'Brick <red> & lime', colour: [1, 0, 0] }])).toContain('Brick &lt;red&gt; &amp; lime');
  });
});
