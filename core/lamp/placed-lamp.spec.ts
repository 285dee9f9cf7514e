import { describe, expect, it } from 'vitest';
import { lampColour } from '../image/colour-temperature';
import { cosinePower, webOfForm, writeIes } from './closed-forms';
import { fluxOfWeb } from './photometric-web';
import { axisCdPerLm, fluxOfPower, gridBetween, powerIn, rowBetween, spreadOf, type LampForm } from './placed-lamp';

const FORMS: [LampForm, number][] = [
  // Flux of one candela on the axis: 4 pi, pi, pi, pi squared.
  [{ kind: 'point', radiusM: 0.05 }, 4 * Math.PI],
  [{ kind: 'rectangle', lengthM: 1, widthM: 0.3 }, Math.PI],
  [{ kind: 'disc', radiusM: 0.2 }, Math.PI],
  [{ kind: 'line', lengthM: 2 }, Math.PI ** 2],
];

describe('the power of a lamp', () => {
  it('in candela is the flux of a closed form, for each form', () => {
    for (const [form, flux] of FORMS)
      expect(Math.abs(fluxOfPower({ unit: 'cd', value: 1 }, spreadOf(form)) / flux - 1), form.kind).toBeLessThan(0.005);
  });

  it('in lux at a distance is candela by its square, and in watt lumen by efficacy', () => {
    const point = spreadOf(FORMS[0]![0]);
    expect(fluxOfPower({ unit: 'lx', value: 100, atM: 2 }, point)).toBeCloseTo(400 * 4 * Math.PI, 6);
    expect(fluxOfPower({ unit: 'W', value: 10, lmPerW: 90 }, point)).toBe(900);
  });

  it('is the same after it was turned into each unit and back', () => {
    for (const [form] of [...FORMS, [{ kind: 'spot', radiusM: 0.03, beamDeg: 24, fieldDeg: 40 }] as const])
      for (const unit of ['lm', 'cd', 'lx', 'W'] as const) {
        const spread = spreadOf(form);
        expect(fluxOfPower(powerIn(unit, 830, spread, { unit: 'lm', value: 1 }), spread)).toBeCloseTo(830, 6);
      }
  });

  it('by a photometric file is told by its axis; without the file it shines all round', () => {
    const text = writeIes(webOfForm({ name: '', share: cosinePower(1), isRound: true, inputW: 0, fluxLm: 500, openingM: [0, 0, 0] }));
    const form: LampForm = { kind: 'measured', photometry: 'f' };
    expect(Math.abs(axisCdPerLm(spreadOf(form, text)) * Math.PI - 1)).toBeLessThan(0.005);
    expect(axisCdPerLm(spreadOf(form)) * 4 * Math.PI).toBeCloseTo(1, 9);
  });
});

describe('a spot', () => {
  it('has half its intensity at half the beam angle, a tenth at half the field angle, and the flux that it is given', () => {
    for (const [beamDeg, fieldDeg] of [[8, 15], [24, 40], [60, 100], [100, 170]] as const) {
      const spread = spreadOf({ kind: 'spot', radiusM: 0.03, beamDeg, fieldDeg });
      const { facts, web } = spread;
      for (const angle of facts.beamDeg) expect(Math.abs(angle - beamDeg)).toBeLessThan(0.3);
      for (const angle of facts.fieldDeg) expect(Math.abs(angle - fieldDeg)).toBeLessThan(0.3);
      expect(fluxOfWeb(web)).toBeCloseTo(facts.fluxLm, 9);
    } // prettier-ignore
  });
});

it('rows and grids are even, half a spacing from their ends', () => {
  expect(rowBetween([0, 0, 3], [8, 0, 3], 4)).toEqual([[1, 0, 3], [3, 0, 3], [5, 0, 3], [7, 0, 3]]); // prettier-ignore
  expect(gridBetween([0, 0, 0], [4, 0, 0], [4, 6, 0], 2, 3)).toEqual([[1, 1, 0], [3, 1, 0], [1, 3, 0], [3, 3, 0], [1, 5, 0], [3, 5, 0]]); // prettier-ignore
});

it('light is that of a black body below 4000 K and of daylight above', () => {
  // Daylight is greener than a black body: of D65's temperature, 6504 K, it is white on a screen of that white (IEC 61966-2-1).
  for (const c of lampColour(6504)) expect(Math.abs(c - 1)).toBeLessThan(0.01);
  expect(lampColour(2856)[0]).toBeGreaterThan(lampColour(4100)[0]);
});
