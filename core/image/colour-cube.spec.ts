import { describe, expect, it } from 'vitest';
import { random } from '../random';
import { parseCube, smallerCube, throughCube, writeCube, type ColourCube } from './colour-cube';

/** A cube whose entries a rule gives. */
function cubeText(size: number, rule: (r: number, g: number, b: number) => number[]): string {
  const lines: string[] = [];
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++)
        lines.push(
          rule(r / (size - 1), g / (size - 1), b / (size - 1))
            .map((x) => x.toFixed(6))
            .join(' '),
        );
  return `# made up\nTITLE "Haar and dusk"\nLUT_3D_SIZE ${String(size)}\n${lines.join('\n')}\n`;
}
const read = (text: string): ColourCube => {
  const cube = parseCube(text);
  if (typeof cube === 'string') throw new Error(cube);
  return cube;
};
const through = (cube: ColourCube, rgb: number[]) => {
  const out = [0, 0, 0];
  throughCube(cube, rgb, out);
  return out;
};

it('refuses numbers beyond all colours by their line', () => {
  expect(parseCube('LUT_1D_SIZE 2\n0 0 0\n1e999 1 1\n')).toContain('line 3');
});

describe('tables of colours', () => {
  it('leave colours as they are where they say nothing else, also between entries', () => {
    const cube = read(cubeText(5, (r, g, b) => [r, g, b]));
    expect(cube.title).toBe('Haar and dusk');
    const next = random(7);
    for (let i = 0; i < 200; i++) {
      const rgb = [next(), next(), next()];
      through(cube, rgb).forEach((c, k) => {
        expect(c).toBeCloseTo(rgb[k]!, 5);
      });
    }
  });

  it('are gone through by tetrahedra: greys stay grey between entries where the diagonal is grey', () => {
    // Off the diagonal the table is anything; straight between eight corners would let it in.
    const cube = read(cubeText(3, (r, g, b) => (r === g && g === b ? [r ** 2, g ** 2, b ** 2] : [1, 0, 0.5])));
    for (const grey of [0.1, 0.25, 0.4, 0.8]) {
      const [r, g, b] = through(cube, [grey, grey, grey]);
      expect([g, b]).toEqual([r, r]);
    }
    expect(through(cube, [0.25, 0.25, 0.25])[0]).toBeCloseTo(0.125, 6);
  });

  it('may be curves, with a domain of their own; colours beyond it count as its ends', () => {
    const cube = read('LUT_1D_SIZE 3\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 2 2 2\n0 0 0\n0.5 0.25 1\n1 1 1\n');
    expect(through(cube, [1, 1, 1])).toEqual([0.5, 0.25, 1]);
    expect(through(cube, [0.5, 0.5, 5])).toEqual([0.25, 0.125, 1]);
  });

  it('come back as they were written, and smaller where they are large', () => {
    const rule = (r: number, g: number, b: number) => [r ** 0.8, (g + r) / 2, 1 - b];
    const large = read(cubeText(40, rule));
    const kept = read(writeCube(smallerCube(large)));
    expect(kept.size).toBe(33);
    for (const rgb of [
      [0.2, 0.4, 0.9],
      [0.71, 0.13, 0.5],
    ])
      // prettier-ignore
      through(kept, rgb).forEach((c, k) => {
        expect(Math.abs(c - rule(rgb[0]!, rgb[1]!, rgb[2]!)[k]!)).toBeLessThan(0.003);
      });
  });

  it.each([
    ['', /No size/],
    ['LUT_3D_SIZE 1\n', /line 1: the size is between 2 and 256/],
    ['LUT_3D_SIZE 2\n0 0 0\n1 1\n', /line 3: a colour has three numbers/],
    ['LUT_3D_SIZE 2\n0 0 0\n', /ends after 1 of its 8 colours/],
    ['0 0 0\nLUT_3D_SIZE 2\n', /line 1: colours come before the size/],
    [`LUT_1D_SIZE 2\n${'0 0 0\n'.repeat(3)}`, /line 4: there are more than the 2 colours/],
    ['LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 0 0 0\n0 0 0\n1 1 1', /not below the largest/],
    ['<html>', /line 1: “<html>” is not known/],
  ])('are refused with the line where they break: %j', (text, sentence) => {
    expect(parseCube(text)).toMatch(sentence);
  });

  it('never stop on what is broken', () => {
    const next = random(11);
    const whole = cubeText(3, (r, g, b) => [r, g, b]);
    for (let i = 0; i < 1000; i++) {
      const at = Math.floor(next() * whole.length);
      const broken = whole.slice(0, at) + String.fromCharCode(Math.floor(next() * 128)) + whole.slice(at + Math.floor(next() * 9));
      const cube = parseCube(broken);
      if (typeof cube === 'string') expect(cube.length).toBeGreaterThan(10);
      else expect(through(cube, [next(), next(), next()]).every((c) => !Number.isNaN(c))).toBe(true);
    }
  });
});
