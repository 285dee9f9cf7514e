import { describe, expect, it } from 'vitest';
import { random } from '../random';
import { blurred, luminanceOf, type LinearPicture } from './picture';
import { evenLight } from './even-light';
import { makeFinishMaps, type PhotoSettings } from './make-finish-maps';
import { OVERLAP, seamless } from './seamless';
import { squareToCorners, straightened, WHOLE_PICTURE, type Corners } from './straighten';

/** A picture of a function of place, grey. */
const pictureOf = (width: number, height: number, f: (x: number, y: number) => number): LinearPicture => ({
  width,
  height,
  data: Float32Array.from({ length: width * height * 3 }, (_, i) => f(Math.floor(i / 3) % width, Math.floor(i / 3 / width))),
});

/** Blotches that never repeat. */
function stones(width: number, height: number, seed: number): LinearPicture {
  const next = random(seed);
  const noise = Float32Array.from({ length: width * height }, () => next());
  const soft = blurred(noise, width, height, 3, 'stays');
  return pictureOf(width, height, (x, y) => Math.min(1, Math.max(0, 0.4 + (soft[y * width + x]! - 0.5) * 6)));
}

describe('straightening', () => {
  // A keystoned facade: Heckbert's map takes the corners of the unit square to the four corners, and lines to lines.
  const corners: Corners = [[0.2, 0.1], [0.9, 0.25], [0.8, 0.85], [0.1, 0.95]]; // prettier-ignore

  it('takes the square’s corners to the four corners, and its diagonals’ crossing to theirs', () => {
    const map = squareToCorners(corners)!;
    const places = [[0, 0], [1, 0], [1, 1], [0, 1]] as const; // prettier-ignore
    places.forEach(([u, v], i) => {
      const at = map(u, v);
      expect(at[0]).toBeCloseTo(corners[i]![0], 12);
      expect(at[1]).toBeCloseTo(corners[i]![1], 12);
    });
    const [[ax, ay], [bx, by], [cx, cy], [dx, dy]] = corners;
    const det = (cx - ax) * (dy - by) - (cy - ay) * (dx - bx);
    const t = ((bx - ax) * (dy - by) - (by - ay) * (dx - bx)) / det;
    const middle = map(0.5, 0.5);
    expect(middle[0]).toBeCloseTo(ax + t * (cx - ax), 12);
    expect(middle[1]).toBeCloseTo(ay + t * (cy - ay), 12);
  });

  it('refuses corners that cross or fold', () => {
    expect(squareToCorners([[0, 0], [1, 1], [1, 0], [0, 1]])).toBeUndefined(); // prettier-ignore
    expect(squareToCorners([[0, 0], [1, 0], [0.1, 0.1], [0, 1]])).toBeUndefined(); // prettier-ignore
    expect(squareToCorners([[0.5, 0.5], [0.5, 0.5], [0.5, 0.5], [0.5, 0.5]])).toBeUndefined(); // prettier-ignore
  });

  it('makes a slanting chessboard upright again', () => {
    const map = squareToCorners(corners)!;
    // Paint the board through the map, by looking for each pixel's place on it.
    const board = (u: number, v: number) => ((Math.floor(u * 4) + Math.floor(v * 4)) % 2 ? 0.9 : 0.1);
    const [w, h] = [240, 200];
    const photo = pictureOf(w, h, () => 0.5);
    for (let j = 0; j < 1200; j++)
      for (let i = 0; i < 1200; i++) {
        const [x, y] = map((i + 0.5) / 1200, (j + 0.5) / 1200);
        const o = (Math.floor(y * h) * w + Math.floor(x * w)) * 3;
        photo.data.fill(board((i + 0.5) / 1200, (j + 0.5) / 1200), o, o + 3);
      }
    const flat = straightened(photo, corners, 64, 64)!;
    for (let v = 0; v < 4; v++)
      for (let u = 0; u < 4; u++)
        expect(flat.data[((v * 16 + 8) * 64 + u * 16 + 8) * 3]).toBeCloseTo(board((u + 0.5) / 4, (v + 0.5) / 4), 2);
  });
});

describe('evening the light', () => {
  it('takes out a lighting gradient and leaves the detail and the mean', () => {
    const flat = stones(160, 120, 3);
    // Light falls off to a third across the picture.
    const lit = pictureOf(160, 120, (x, y) => flat.data[(y * 160 + x) * 3]! * (1 - (0.66 * x) / 160));
    const halves = (p: LinearPicture) => {
      const y = luminanceOf(p);
      const mean = (from: number, to: number) => {
        let sum = 0;
        for (let j = 0; j < 120; j++) for (let i = from; i < to; i++) sum += y[j * 160 + i]!;
        return sum / (120 * (to - from));
      };
      return mean(0, 40) / mean(120, 160);
    };
    expect(halves(lit)).toBeGreaterThan(1.8);
    expect(Math.abs(halves(evenLight(lit, 1)) - halves(flat))).toBeLessThan(0.15);
    expect(evenLight(lit, 0)).toBe(lit);
  });
});

describe('fitting the ends', () => {
  /** Mean difference of neighbours across the borders of the repeat, against inside. */
  function seam({ width, height, data }: LinearPicture): number {
    let [across, inside, n, m] = [0, 0, 0, 0];
    for (let y = 0; y < height; y++) {
      across += Math.abs(data[y * width * 3]! - data[(y * width + width - 1) * 3]!);
      n++;
      for (let x = 1; x < width; x++) {
        inside += Math.abs(data[(y * width + x) * 3]! - data[(y * width + x - 1) * 3]!);
        m++;
      }
    }
    for (let x = 0; x < width; x++) {
      across += Math.abs(data[x * 3]! - data[((height - 1) * width + x) * 3]!);
      n++;
    }
    return across / n / (inside / m);
  }

  it('leaves no step at the borders of the repeat', () => {
    const photo = stones(220, 180, 8);
    expect(seam(photo)).toBeGreaterThan(4);
    const fitted = seamless(photo);
    expect([fitted.width, fitted.height]).toEqual([220 - Math.floor(220 * OVERLAP), 180 - Math.floor(180 * OVERLAP)]);
    expect(seam(fitted)).toBeLessThan(1.25);
  });

  it('cuts where the ends differ least: a picture that repeats already stays as it is', () => {
    const [w, period] = [200, 156];
    const repeating = pictureOf(
      w,
      w,
      (x, y) => 0.5 + 0.2 * Math.sin((2 * Math.PI * 5 * x) / period) * Math.cos((2 * Math.PI * 3 * y) / period),
    );
    const fitted = seamless(repeating);
    expect(fitted.width).toBe(period);
    for (let i = 0; i < period; i += 7)
      for (let j = 0; j < period; j += 5) expect(fitted.data[(j * period + i) * 3]).toBeCloseTo(repeating.data[(j * w + i) * 3]!, 4);
  });
});

describe('a finish from a photograph', () => {
  const settings: PhotoSettings = {
    corners: WHOLE_PICTURE, acrossM: 1.2, upM: 0.9, evenLight: 1, seamless: true, reliefM: 0.006, raised: 1, roughness: 0.7, roughnessSpread: 0.2, occlusion: 0.3,
  }; // prettier-ignore

  it('has maps whose ends fit, at the true size of what is left of the photograph', () => {
    const steps: string[] = [];
    const { maps, widthM, heightM } = makeFinishMaps(stones(300, 225, 2), settings, 128, (step) => steps.push(step))!;
    expect(steps).toEqual(['straightening', 'evening the light', 'fitting the ends', 'deriving relief']);
    expect(widthM / 1.2).toBeCloseTo(1 - OVERLAP, 2);
    expect(heightM / 0.9).toBeCloseTo(1 - OVERLAP, 2);
    for (const channel of [0, 1, 2, 3]) {
      let [across, inside] = [0, 0];
      for (let y = 0; y < 128; y++) {
        const at = (x: number) => maps.surface[(y * 128 + x) * 4 + channel]!;
        across += Math.abs(at(0) - at(127));
        inside += Math.abs(at(64) - at(63));
      }
      expect(across).toBeLessThan(inside * 2 + 128);
    }
  });

  it('has what is light standing out, its slopes towards light in the normals, and the other way about', () => {
    // One light ridge across the picture: its left slope faces -u, so its normal's x is below level there.
    const ridge = pictureOf(128, 128, (x) => 0.2 + 0.6 * Math.exp(-(((x - 64) / 10) ** 2)));
    const of = (raised: 1 | -1) =>
      makeFinishMaps(ridge, { ...settings, upM: 1.2, evenLight: 0, seamless: false, raised }, 128)!.maps.surface;
    const at = (surface: Uint8Array, x: number, channel: number) => surface[(64 * 128 + x) * 4 + channel]!;
    const raised = of(1);
    expect(at(raised, 64, 3)).toBeGreaterThan(at(raised, 20, 3) + 60);
    expect(at(raised, 56, 0)).toBeLessThan(128);
    expect(at(raised, 72, 0)).toBeGreaterThan(128);
    expect(at(of(-1), 56, 0)).toBeGreaterThan(128);
    // What stands out is smoother.
    expect(at(raised, 64, 2)).toBeLessThan(at(raised, 20, 2));
  });

  it('stands upright: the top of the photograph is at the upper end of v', () => {
    const half = pictureOf(64, 64, (_, y) => (y < 32 ? 0.8 : 0.1));
    const { base } = makeFinishMaps(half, { ...settings, evenLight: 0, seamless: false, occlusion: 0 }, 64)!.maps;
    expect(base[(60 * 64 + 5) * 4]).toBeGreaterThan(base[(3 * 64 + 5) * 4]! + 60);
  });

  it('asks for corners that go round', () => {
    expect(makeFinishMaps(stones(64, 64, 1), { ...settings, corners: [[0, 0], [1, 1], [1, 0], [0, 1]] }, 64)).toBeUndefined(); // prettier-ignore
  });
});
