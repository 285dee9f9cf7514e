import { describe, expect, it } from 'vitest';
import { withBloom } from './bloom';
import { filmicCurve, GREY, PLAIN_GRADING, toneFactor, type Grading } from './grading';
import { histogramOf } from './histogram';
import { develop, encodeSrgb } from './tone';
import { SCREEN_WHITE } from './white-balance';

const graded = (change: Partial<Grading>): Grading => ({ ...PLAIN_GRADING, ...change });
const EV = Math.log2(0.18 / 0.125 / 0.18) + 0;
/** One colour of linear light, exposed so that 1 is white, as it is coded. */
const coded = (rgb: readonly number[], grading: Grading): number[] => {
  const out = new Uint8Array(4);
  develop(Float32Array.from([...rgb, 1]), 1, { ev100: EV, white: SCREEN_WHITE, grading }, out);
  return [...out.subarray(0, 3)];
};
/** What 1 has to be multiplied with to be shown as that share of white. */
const light = (share: number) => (share * 0.125 * 2 ** EV) / 0.18;

describe('tones', () => {
  it('leave middle grey where it is, whatever is set', () => {
    for (const contrast of [-1, -0.3, 0.4, 1])
      for (const highlights of [-1, 1])
        expect(GREY * toneFactor(GREY, graded({ contrast, highlights, shadows: -highlights }))).toBeCloseTo(GREY, 9);
  });

  it('never turn dark and bright round', () => {
    for (const contrast of [-1, 0, 1])
      for (const highlights of [-1, 0, 1])
        for (const shadows of [-1, 0, 1]) {
          const grading = graded({ contrast, highlights, shadows });
          let last = 0;
          for (let y = 1e-6; y < 200; y *= 1.17) {
            const shown = y * toneFactor(y, grading);
            expect(shown).toBeGreaterThan(last);
            last = shown;
          }
        }
  });

  it('move what lies four stops from grey by two', () => {
    expect(toneFactor(GREY * 16, graded({ highlights: -1 }))).toBeCloseTo(0.25, 6);
    expect(toneFactor(GREY / 16, graded({ shadows: 1 }))).toBeCloseTo(4, 6);
    expect(toneFactor(GREY / 16, graded({ highlights: 1 }))).toBeCloseTo(1, 6);
  });
});

describe('curves', () => {
  it('code middle grey 118, as ISO 12232 asks, by both', () => {
    for (const curve of ['neutral', 'filmic'] as const)
      for (const channel of coded([light(GREY), light(GREY), light(GREY)], graded({ curve })))
        expect(Math.abs(channel - 118)).toBeLessThanOrEqual(1);
  });

  it('follow the published filmic curve', () => {
    // Narkowicz 2015: x (2.51 x + 0.03) / (x (2.43 x + 0.59) + 0.14); the scale of what it is given cancels in a comparison of two places.
    const published = (x: number) => (x * (2.51 * x + 0.03)) / (x * (2.43 * x + 0.59) + 0.14);
    const scale = [0.01, 1].map((y) => {
      let [low, high] = [0, 4];
      for (let i = 0; i < 60; i++) {
        const middle = (low + high) / 2;
        if (published(middle) < filmicCurve(y)) low = middle;
        else high = middle;
      }
      return low / y;
    });
    expect(scale[0]! / scale[1]!).toBeCloseTo(1, 6);
    expect(filmicCurve(100)).toBe(1);
  });
});

describe('colours and places', () => {
  it('are grey without saturation, and keep their luminance', () => {
    const [r, g, b] = coded([light(0.4), light(0.1), light(0.05)], graded({ saturation: -1 }));
    expect([r, b]).toEqual([g, g]);
    const luminance = 0.2126 * 0.4 + 0.7152 * 0.1 + 0.0722 * 0.05;
    expect(Math.abs(g! - 255 * encodeSrgb(luminance))).toBeLessThan(1);
  });

  it('lose two stops in the corners by a whole vignette, and nothing in the middle', () => {
    const side = 65;
    const radiance = Float32Array.from({ length: side * side * 4 }, () => light(0.5));
    const out = new Uint8Array(side * side * 4);
    develop(radiance, side, { ev100: EV, white: SCREEN_WHITE, grading: graded({ vignette: 1 }) }, out);
    expect(Math.abs(out[(32 * side + 32) * 4]! - 255 * encodeSrgb(0.5))).toBeLessThan(1.5);
    expect(Math.abs(out[0]! - 255 * encodeSrgb(0.125 * (1 + 2 / side)))).toBeLessThan(3);
  });
});

describe('bloom all round', () => {
  const lit = (width: number, height: number, x: number, y: number) => {
    const picture = new Float32Array(width * height * 4).fill(1);
    for (let c = 0; c < 3; c++) picture[(y * width + x) * 4 + c] = 1e6;
    return picture;
  };
  const bloomed = (picture: Float32Array, width: number, stacked: number) => {
    const out = new Float32Array(picture.length);
    withBloom(picture, width, 1, out, { wraps: true, stacked });
    return out;
  };

  it('goes on beyond the join as on the other side', () => {
    const [joined, middle] = [0, 64].map((x) => bloomed(lit(128, 64, x, 32), 128, 1)) as [Float32Array, Float32Array];
    for (let x = 0; x < 128; x++) expect(joined[(32 * 128 + x) * 4]).toBeCloseTo(middle[(32 * 128 + ((x + 64) % 128)) * 4]!, 1);
  });

  it('does not pass from one eye’s picture into the other’s', () => {
    const out = bloomed(lit(128, 128, 64, 62), 128, 2);
    expect(out[(66 * 128 + 64) * 4]).toBe(1);
    expect(out[(58 * 128 + 64) * 4]).toBeGreaterThan(2);
  });
});

describe('bloom', () => {
  it('spreads a lamp’s light about it and takes none away', () => {
    const [width, height] = [96, 64];
    const radiance = new Float32Array(width * height * 4);
    for (let i = 3; i < radiance.length; i += 4) radiance[i] = 1;
    radiance.fill(1000, (32 * width + 48) * 4, (32 * width + 48) * 4 + 3);
    const out = new Float32Array(radiance.length);
    withBloom(radiance, width, 1, out);
    const at = (x: number, y: number) => out[(y * width + x) * 4]!;
    expect(at(48, 32)).toBeLessThan(1000);
    expect(at(52, 32)).toBeGreaterThan(at(58, 32));
    expect(at(58, 32)).toBeGreaterThan(at(80, 32));
    let sum = 0;
    for (let i = 0; i < out.length; i += 4) sum += out[i]!;
    expect(sum).toBeGreaterThan(995);
    expect(sum).toBeLessThan(1001);
  });

  it('looks alike at any size of the picture', () => {
    const glow = (height: number) => {
      const width = (height * 3) / 2;
      const radiance = new Float32Array(width * height * 4);
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++)
          if (Math.hypot(x + 0.5 - width / 2, y + 0.5 - height / 2) < height / 8)
            radiance.fill(100, (y * width + x) * 4, (y * width + x) * 4 + 3);
      const out = new Float32Array(radiance.length);
      withBloom(radiance, width, 1, out);
      // On the border of two pixels, so that it is the same place at either size.
      const at = (x: number) => out[(Math.floor(height / 2) * width + x) * 4]!;
      return [0.15625, 0.1875, 0.25].map((r) => (at(width / 2 + r * height - 1) + at(width / 2 + r * height)) / 2);
    };
    const [small, large] = [glow(128), glow(320)];
    small.forEach((value, i) => {
      expect(Math.abs(value / large[i]! - 1)).toBeLessThan(0.08);
    });
  });
});

describe('sharpening', () => {
  it('steepens an edge and leaves an even surface alone', () => {
    const side = 16;
    const radiance = Float32Array.from({ length: side * side * 4 }, (_, i) => light((i / 4) % side < 8 ? 0.1 : 0.3));
    const shown = (sharpening: number) => {
      const out = new Uint8Array(side * side * 4);
      develop(radiance, side, { ev100: EV, white: SCREEN_WHITE, grading: graded({ sharpening }) }, out);
      return [2, 7, 8, 13].map((x) => out[(8 * side + x) * 4]!);
    };
    const [plain, sharp] = [shown(0), shown(1)];
    expect(Math.abs(sharp[0]! - plain[0]!)).toBeLessThanOrEqual(1);
    expect(Math.abs(sharp[3]! - plain[3]!)).toBeLessThanOrEqual(1);
    expect(sharp[2]! - sharp[1]!).toBeGreaterThan(1.5 * (plain[2]! - plain[1]!));
  });
});

describe('histogram', () => {
  it('counts each pixel once, and tells what is burnt out and black', () => {
    const rgba = Uint8Array.from({ length: 400 }, (_, i) => (i % 4 === 3 ? 255 : i < 40 ? 0 : i < 120 ? 255 : 128));
    const { red, luma, black, white } = histogramOf(rgba);
    expect(red.reduce((a, b) => a + b)).toBeCloseTo(1, 5);
    expect([luma[0], luma[32], luma[63]].map((x) => Number(x!.toFixed(3)))).toEqual([0.1, 0.7, 0.2]);
    expect([black, white].map((x) => Number(x.toFixed(3)))).toEqual([0.1, 0.2]);
  });
});
