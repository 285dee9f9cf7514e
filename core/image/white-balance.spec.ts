import { describe, expect, it } from 'vitest';
import { daylightXy, lampColour } from './colour-temperature';
import { adaptationDegree, balanceMatrix, chromaticity, SCREEN_WHITE, settingOf, whiteOf, type Rgb } from './white-balance';

const balanced = (m: readonly number[], [r, g, b]: Rgb) =>
  [0, 3, 6].map((i) => m[i]! * r + m[i + 1]! * g + m[i + 2]! * b) as [number, number, number];

/** Linear Rec.709 of unit luminance, by the published inverse matrix (IEC 61966-2-1). */
function lightOf(x: number, y: number): [number, number, number] {
  const [X, Z] = [x / y, (1 - x - y) / y];
  return [3.2404542 * X - 1.5371385 - 0.4985314 * Z, -0.969266 * X + 1.8760108 + 0.041556 * Z, 0.0556434 * X - 0.2040259 + 1.0572252 * Z];
} // prettier-ignore

describe('white balance', () => {
  it('changes nothing under the screen’s own white', () => {
    for (const degree of [0, 1])
      balanceMatrix({ ...SCREEN_WHITE, degree }).forEach((m, i) => {
        expect(m).toBeCloseTo(i % 4 === 0 ? 1 : 0, 3);
      });
  });

  it('brings the light that is held for white to the screen’s white, at its luminance', () => {
    for (const [x, y] of [[0.44757, 0.40745], [0.3457, 0.3585], [0.28, 0.29]] as const) {
      const white = balanced(balanceMatrix({ x, y, degree: 1 }), lightOf(x, y));
      for (const c of white) expect(c).toBeCloseTo(1, 3);
    }
  }); // prettier-ignore

  it('has Bradford’s matrix from illuminant A to D65 (Lindbloom, Chromatic Adaptation; from memory)', () => {
    const published = [0.8446965, -0.1179225, 0.3948108, -0.1366303, 1.1041226, 0.1291718, 0.0798489, -0.1348999, 3.1924009];
    const toXyz = [0.4124564, 0.3575761, 0.1804375, 0.2126729, 0.7151522, 0.072175, 0.0193339, 0.119192, 0.9503041];
    const matrix = balanceMatrix({ x: 0.44757, y: 0.40745, degree: 1 });
    for (const colour of [[1, 0, 0], [0, 1, 0], [0, 0, 1], [0.4, 0.3, 0.2]] as const) {
      const ours = balanced(toXyz, balanced(matrix, colour));
      const theirs = balanced(published, balanced(toXyz, colour));
      ours.forEach((v, i) => { expect(v).toBeCloseTo(theirs[i]!, 2); });
    }
  }); // prettier-ignore

  it('makes a lamp white that has the temperature that is held for white, and knows no jump between them', () => {
    for (let kelvin = 2000; kelvin <= 9000; kelvin += 125) {
      const [r, g, b] = balanced(balanceMatrix(whiteOf({ kelvin, tint: 0 })), lampColour(kelvin));
      for (const c of [r, b]) expect(Math.abs(c / g - 1), String(kelvin)).toBeLessThan(0.002);
      lampColour(kelvin + 1).forEach((c, i) => { expect(Math.abs(c - lampColour(kelvin)[i]!), String(kelvin)).toBeLessThan(0.002); });
    }
  }); // prettier-ignore

  it('takes temperatures back: daylight and lamplight, with their tint', () => {
    for (const kelvin of [2500, 3000, 4500, 5600, 6500, 9000])
      for (const tint of [-12, 0, 9]) {
        const { x, y } = whiteOf({ kelvin, tint });
        const back = settingOf(x, y);
        expect(Math.abs(back.kelvin / kelvin - 1)).toBeLessThan(0.01);
        expect(Math.abs(back.tint - tint)).toBeLessThan(0.6);
      }
  });

  it('knows D65 as daylight of 6504 K (CIE 015)', () => {
    const [x, y] = daylightXy(6504);
    expect(x).toBeCloseTo(0.3127, 3);
    expect(y).toBeCloseTo(0.329, 3);
    expect(chromaticity([1, 1, 1])[0]).toBeCloseTo(0.3127, 3);
  });

  it('adapts the less the darker it is (CIECAM02: D = F (1 - exp(-(La + 42) / 92) / 3.6))', () => {
    expect(adaptationDegree(0)).toBeCloseTo(1 - Math.exp(-42 / 92) / 3.6, 9);
    expect(adaptationDegree(50)).toBeCloseTo(0.898, 2);
    expect(adaptationDegree(1000)).toBeGreaterThan(0.99);
  });
});
