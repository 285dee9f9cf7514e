import { describe, expect, it } from 'vitest';
import { lampColour, planckianXy } from '../image/colour-temperature';
import { beamOf } from './intensity';

describe('lamps', () => {
  it('have the chromaticity of CIE illuminant A at 2856 K: 0.4476, 0.4074', () => {
    const [x, y] = planckianXy(2856);
    expect(Math.abs(x - 0.4476)).toBeLessThan(0.001);
    expect(Math.abs(y - 0.4074)).toBeLessThan(0.001);
  });

  it('are warm below and cool above daylight, at the same luminance', () => {
    const [r, g, b] = lampColour(2700);
    expect(r > g && g > b).toBe(true);
    expect(lampColour(10_000)[2]).toBeGreaterThan(lampColour(10_000)[0]);
    for (const k of [2700, 4000, 6500]) {
      const c = lampColour(k);
      expect(0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]).toBeCloseTo(1, 9);
    }
  });

  it('give out their whole flux: the intensity integrated over the sphere', () => {
    for (const beamDeg of [20, 50, 90, 120, 360]) {
      const { intensityCd, cosInner, cosOuter } = beamOf({ fluxLm: 1000, beamDeg, dim: 0.5 });
      let flux = 0;
      const n = 20_000;
      for (let i = 0; i < n; i++) {
        const c = -1 + (2 * (i + 0.5)) / n;
        const t = cosOuter === -1 ? 1 : Math.min(1, Math.max(0, (c - cosOuter) / (cosInner - cosOuter)));
        flux += ((intensityCd * t * t * (3 - 2 * t) * 2) / n) * 2 * Math.PI;
      }
      expect(Math.abs(flux / 500 - 1)).toBeLessThan(0.01);
    }
  });
});
