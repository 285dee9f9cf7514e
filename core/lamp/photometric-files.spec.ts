import { describe, expect, it } from 'vitest';
import { randomInteger } from '../random';
import { allAround, along, cosinePower, upAndDown, webOfForm, writeEulumdat, writeIes } from './closed-forms';
import { readEulumdat } from './eulumdat';
import { readIes } from './ies';
import { factsOf, fluxOfWeb, intensityAt, PhotometricFileError, tiltFactor } from './photometric-web';

const form = (share: (gamma: number, c: number) => number, isRound = true) =>
  webOfForm({ name: 'Form', share, isRound, inputW: 20, fluxLm: 2000, openingM: [0.6, 0.2, 0.05] });

/** An IES file of type C with these angles and values. */
const ies = (head: string, vertical: number[], horizontal: number[], candela: number[][], sizes = '0 0 0') =>
  `${head}\nTILT=NONE\n1 -1 1 ${String(vertical.length)} ${String(horizontal.length)} 1 2 ${sizes}\n1 1 10\n${vertical.join(' ')}\n${horizontal.join(' ')}\n${candela.map((p) => p.join(' ')).join('\n')}\n`;

describe('photometric files', () => {
  it('of closed forms have the flux that the formula has, within one in a thousand', () => {
    // Intensity on the axis against flux: pi I, 2 pi I / (n + 1), 4 pi I.
    for (const [share, perCandela] of [[cosinePower(1), Math.PI], [cosinePower(4), (2 * Math.PI) / 5], [allAround, 4 * Math.PI]] as const) {
      for (const web of [readIes(writeIes(form(share))), readEulumdat(writeEulumdat(form(share)))]) {
        expect(Math.abs(fluxOfWeb(web) / 2000 - 1)).toBeLessThan(0.001);
        expect(Math.abs((intensityAt(web, 0, 0) * perCandela) / 2000 - 1)).toBeLessThan(0.003);
      }
    } // prettier-ignore
  });

  it.each([500, 2000])('of types A and B keep the flux of a beam as narrow as cos^%i (closed form: 2 pi I / (n + 1))', (n) => {
    const angles = Array.from({ length: 121 }, (_, i) => -30 + i / 2);
    const deg = Math.PI / 180;
    for (const type of [2, 3]) {
      // Both angles turn the beam's axis by two right angled turns: the cosine to it is the product of theirs.
      const candela = angles.map((h) => angles.map((v) => (1000 * (Math.cos(h * deg) * Math.cos(v * deg)) ** n).toFixed(6)));
      const text = `IES:LM-63-2002\nTILT=NONE\n1 -1 1 121 121 ${String(type)} 2 0 0 0\n1 1 10\n${angles.join(' ')}\n${angles.join(' ')}\n${candela.map((p) => p.join(' ')).join('\n')}\n`;
      expect(Math.abs(fluxOfWeb(readIes(text)) / ((2 * Math.PI * 1000) / (n + 1)) - 1)).toBeLessThan(n === 500 ? 0.01 : 0.03);
    }
  });

  it('of 1500 x 160 angles on one line are read at once', () => {
    const [vertical, horizontal] = [
      Array.from({ length: 1500 }, (_, i) => (i * 180) / 1499),
      Array.from({ length: 160 }, (_, i) => (i * 360) / 159),
    ];
    const text = `IES:LM-63-2002\nTILT=NONE\n1 -1 1 1500 160 1 2 0 0 0 1 1 10 ${vertical.join(' ')} ${horizontal.join(' ')} ${'7 '.repeat(1500 * 160)}`;
    const began = performance.now();
    expect(fluxOfWeb(readIes(text)) / (4 * Math.PI * 7)).toBeCloseTo(1, 3);
    expect(performance.now() - began).toBeLessThan(2000);
  });

  it('say the same in both formats, whatever their symmetry', () => {
    for (const web of [form(along(0.6, 6), false), form(upAndDown(0.4)), form((g, c) => Math.max(0, Math.cos(((g - 40 * Math.cos((c * Math.PI) / 180)) * Math.PI) / 180)) ** 4, false)])
      for (const read of [readIes(writeIes(web)), readEulumdat(writeEulumdat(web))])
        for (const [c, gamma] of [[0, 0], [10, 33], [95, 61], [185, 20], [271, 89], [359, 130]] as const)
          expect(Math.abs(intensityAt(read, c, gamma) - intensityAt(web, c, gamma))).toBeLessThan(1);
  }); // prettier-ignore

  it('are mirrored from a quarter, a half and the half between C90 and C270', () => {
    const gamma = [0, 45, 90];
    const quarter = readIes(ies('IESNA:LM-63-2002', gamma, [0, 90], [[100, 50, 0], [100, 10, 0]])); // prettier-ignore
    for (const c of [0, 180]) expect(intensityAt(quarter, c, 45)).toBe(50);
    for (const c of [90, 270]) expect(intensityAt(quarter, c, 45)).toBe(10);
    const half = readIes(ies('IESNA91', gamma, [0, 90, 180], [[100, 50, 0], [100, 10, 0], [100, 70, 0]])); // prettier-ignore
    expect([0, 90, 180, 270].map((c) => intensityAt(half, c, 45))).toEqual([50, 10, 70, 10]);
    const across = readIes(ies('IESNA:LM-63-1995', gamma, [90, 180, 270], [[100, 50, 0], [100, 10, 0], [100, 70, 0]])); // prettier-ignore
    expect([0, 90, 180, 270].map((c) => intensityAt(across, c, 45))).toEqual([10, 50, 10, 70]);
  });

  it('of EULUMDAT are mirrored by each of its kinds of symmetry', () => {
    // C planes each 90 degrees, gamma 0, 45 and 90, 1000 lm.
    const ldt = (symmetry: number, values: number[][]) =>
      ['maker', 3, symmetry, 4, 90, 3, 45, '', 'L', '', '', '', 600, 200, 50, 600, 200, 0, 0, 0, 0, 100, 100, 1, 0, 1, 1, 'LED', 1000, '', '', 10, ...Array.from({ length: 10 }, () => 0), 0, 90, 180, 270, 0, 45, 90, ...values.flat()].join('\n'); // prettier-ignore
    const at = (text: string) => [0, 90, 180, 270].map((c) => intensityAt(readEulumdat(text), c, 45));
    expect(at(ldt(0, [[9, 1, 0], [9, 2, 0], [9, 3, 0], [9, 4, 0]]))).toEqual([1, 2, 3, 4]); // prettier-ignore
    expect(at(ldt(1, [[9, 5, 0]]))).toEqual([5, 5, 5, 5]);
    expect(at(ldt(2, [[9, 1, 0], [9, 2, 0], [9, 3, 0]]))).toEqual([1, 2, 3, 2]); // prettier-ignore
    // From C270 over C0 to C90.
    expect(at(ldt(3, [[9, 4, 0], [9, 1, 0], [9, 2, 0]]))).toEqual([1, 2, 1, 4]); // prettier-ignore
    expect(at(ldt(4, [[9, 1, 0], [9, 2, 0]]))).toEqual([1, 2, 1, 2]); // prettier-ignore
  });

  it('of 1986 without a first line, in feet, with ballast factors and a tilt of their own are read', () => {
    const old =
      'Some luminaire\nof the year 1986\nTILT=INCLUDE\n1\n3\n0 45 90\n1 0.9 0.8\n2 1500 2 3 1 1 1 2 4 0\n0.5 0.95 80\n0 45 90\n0\n100 50 0\n';
    const web = readIes(old);
    expect(intensityAt(web, 123, 0)).toBeCloseTo(100 * 2 * 0.5 * 0.95, 9);
    expect(web).toMatchObject({ lampLm: 3000, inputW: 80 });
    expect(web.lengthM).toBeCloseTo(4 * 0.3048, 9);
    expect([0, 22.5, 90, 120].map((d) => tiltFactor(web, d))).toEqual([1, 0.95, 0.8, 0.8]);
  });

  it('of types A and B are turned into the beam’s own angles', () => {
    for (const type of [2, 3]) {
      const text = ies('IESNA:LM-63-2002', [-90, 0, 90], [-90, 0, 90], [[0, 0, 0], [0, 100, 0], [0, 0, 0]]).replace('3 3 1 2', `3 3 ${String(type)} 2`); // prettier-ignore
      const web = readIes(text);
      expect(intensityAt(web, 0, 0)).toBe(100);
      // Halfway in one of the two angles, none in the other.
      for (const c of [0, 90, 180, 270]) expect(Math.abs(intensityAt(web, c, 45) - 50)).toBeLessThan(0.5);
    }
  });

  it('tell beam and field angles, the largest intensity and where, and the efficacy', () => {
    const facts = factsOf(form(cosinePower(4)));
    // cos^4 is a half at 32.77 degrees, a tenth at 55.78.
    for (const beam of facts.beamDeg) expect(Math.abs(beam - 65.5)).toBeLessThan(0.5);
    for (const field of facts.fieldDeg) expect(Math.abs(field - 111.6)).toBeLessThan(0.5);
    expect(facts.efficacy).toBeCloseTo(100, 3);
    expect(facts.maximumAt).toEqual({ c: 0, gamma: 0 });
  });

  it('that are broken are explained by their line', () => {
    const sound = ies('IESNA:LM-63-2002', [0, 45, 90], [0], [[100, 50, 0]]);
    const said = (text: string, read: (text: string) => unknown = readIes) => {
      try {
        read(text);
        return 'nothing';
      } catch (error) {
        expect(error).toBeInstanceOf(PhotometricFileError);
        return (error as Error).message;
      }
    };
    expect(said('hello')).toBe('There is no line “TILT=”, which every IES file has before its numbers.');
    expect(said(sound.replace('NONE', 'LAMP.TLT'))).toContain('Line 2: the tilt is in another file, “LAMP.TLT”');
    expect(said(sound.replace('50', 'fifty'))).toBe('Line 7: “fifty” is no candela value.');
    expect(said(sound.replace('0 45 90', '0 90 45'))).toBe('Line 5: the vertical angle 45 comes after 90; they rise.');
    expect(said(sound.replace('100 50 0', '100'))).toBe('The file ends before its candela value.');
    const ldt = writeEulumdat(form(cosinePower(1)));
    expect(said(ldt.split('\r\n').slice(0, 60).join('\n'), readEulumdat)).toBe('The file ends at line 60, before its gamma angle.');
    expect(said(ldt.replace(/^1\r\n1\r\n/m, '1\r\nround\r\n'), readEulumdat)).toBe('Line 3: “round” is no kind of symmetry.');
  });

  it('with bytes changed at random are read or refused in a sentence', () => {
    const random = randomInteger(7);
    for (const [sound, read] of [[writeIes(form(along(1, 4), false)), readIes], [writeEulumdat(form(along(1, 4), false)), readEulumdat]] as const)
      for (let i = 0; i < 1500; i++) {
        const at = random(sound.length);
        const put = ['', '9', '-', '\n', 'x', '1e9', ' 0 ', sound.slice(0, 40)][random(8)]!;
        try {
          expect(Number.isFinite(fluxOfWeb(read(sound.slice(0, at) + put + sound.slice(at + random(30)))))).toBe(true);
        } catch (error) {
          if (!(error instanceof PhotometricFileError)) throw error;
          expect(error.message).toMatch(/^(Line \d+: .*|The file ends .*|There is no line .*)\.$/);
        }
      } // prettier-ignore
  });
});
