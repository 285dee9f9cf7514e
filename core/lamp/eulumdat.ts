import { allRound, PhotometricFileError, type PhotometricWeb } from './photometric-web';

/** EULUMDAT (Stockmar, 1990): one value a line, intensities in cd per 1000 lm of the lamps. */

const MOST_PLANES = 721;
const MOST_GAMMAS = 361;
/** Lines of the ratios for the utilisation factors, which are left. */
const RATIOS = 10;

/** Throws PhotometricFileError. */
export function readEulumdat(text: string): PhotometricWeb {
  const lines = text.split(/\r\n|\n|\r/);
  let at = 0;
  const wrong = (what: string) => new PhotometricFileError(`Line ${String(at)}: ${what}.`);
  const next = (what: string): string => {
    if (at >= lines.length) throw new PhotometricFileError(`The file ends at line ${String(lines.length)}, before its ${what}.`);
    return lines[at++]!.trim();
  };
  const number = (what: string): number => {
    const word = next(what);
    // A comma for the point is common.
    const value = Number(word.replace(',', '.'));
    if (word === '' || !Number.isFinite(value) || Math.abs(value) > 1e12) throw wrong(`“${word.slice(0, 40)}” is no ${what}`);
    return value;
  };
  const whole = (what: string, least: number, most: number): number => {
    const value = number(what);
    if (!Number.isInteger(value) || value < least || value > most)
      throw wrong(`the ${what} is ${String(value)}; from ${String(least)} to ${String(most)} are read`);
    return value;
  };
  const skip = (count: number, what: string) => {
    for (let i = 0; i < count; i++) next(what);
  };

  next('maker');
  whole('kind of luminaire', 0, 3);
  const symmetry = whole('kind of symmetry', 0, 4);
  const planes = whole('number of C planes', 1, MOST_PLANES);
  number('distance of C planes');
  const gammas = whole('number of intensities in a plane', 2, MOST_GAMMAS);
  number('distance of intensities');
  skip(1, 'report number');
  const name = next('luminaire’s name');
  skip(3, 'numbers and date');
  skip(3, 'measures of the luminaire');
  const [length, width] = [number('length of the luminous area'), number('width of the luminous area')];
  const heights = Array.from({ length: 4 }, () => number('height of the luminous area'));
  number('share of light downwards');
  number('light output ratio');
  const factor = number('conversion factor');
  number('tilt when measured');
  const sets = whole('number of lamp sets', 1, 20);
  let lampLm = 0;
  let inputW = 0;
  let isAbsolute = false;
  for (let set = 0; set < sets; set++) {
    // Minus: measured as a whole.
    const count = number('number of lamps');
    next('kind of lamps');
    const flux = number('flux of the lamps');
    skip(2, 'colour of the lamps');
    const watts = number('power of the lamps');
    if (set > 0) continue;
    lampLm = Math.abs(flux);
    inputW = Math.max(0, watts);
    isAbsolute = count < 0;
  }
  skip(RATIOS, 'direct ratios');
  const rising = (what: string, count: number, most: number) => {
    const values: number[] = [];
    for (let i = 0; i < count; i++) {
      const value = number(what);
      if (value < 0 || value > most) throw wrong(`the ${what} ${String(value)} is outside 0 to ${String(most)} degrees`);
      if (i > 0 && value <= values[i - 1]!) throw wrong(`the ${what} ${String(value)} comes after ${String(values[i - 1])}; they rise`);
      values.push(value);
    }
    return values;
  };
  const angles = rising('C angle', planes, 360);
  const gammaDeg = rising('gamma angle', gammas, 180);
  const given = givenPlanes(symmetry, angles);
  if (!given) throw wrong(`${String(planes)} C planes do not fit the kind of symmetry ${String(symmetry)}`);
  const scale = (lampLm / 1000) * (factor > 0 ? factor : 1);
  const values = given.map(() => Array.from({ length: gammas }, () => Math.max(0, number('intensity') * scale)));
  const round = symmetry === 0 && given.length > 1 ? closed(given, values) : allRound(given, values);
  return {
    name,
    gammaDeg,
    cDeg: round.cDeg,
    candela: Float64Array.from(round.planes.flat()),
    lampLm: isAbsolute ? null : lampLm,
    inputW,
    lengthM: length / 1000,
    widthM: (width || length) / 1000,
    heightM: Math.max(0, ...heights) / 1000,
  };
}

/** The C angles whose intensities the file gives; the others follow by symmetry. */
function givenPlanes(symmetry: number, angles: readonly number[]): number[] | undefined {
  const within = (from: number, to: number) => angles.filter((c) => c >= from && c <= to);
  switch (symmetry) {
    case 0:
      return [...angles];
    case 1:
      return [0];
    case 2: {
      const half = within(0, 180);
      return half[0] === 0 && half.at(-1) === 180 ? half : undefined;
    }
    case 3: {
      // From C270 over C0 to C90: the other side of the plane C90 to C270 mirrors it.
      const half = [
        ...within(270, 360)
          .filter((c) => c < 360)
          .map((c) => c - 360),
        ...within(0, 90),
      ];
      return half[0] === -90 && half.at(-1) === 90 ? half.map((c) => c + 360) : undefined;
    }
    default: {
      const quarter = within(0, 90);
      return quarter[0] === 0 && quarter.at(-1) === 90 ? quarter : undefined;
    }
  }
}

function closed(cDeg: readonly number[], planes: readonly (readonly number[])[]): { cDeg: number[]; planes: (readonly number[])[] } {
  if (cDeg.at(-1) === 360) return { cDeg: [...cDeg], planes: [...planes] };
  return { cDeg: [...cDeg, cDeg[0]! + 360], planes: [...planes, planes[0]!] };
}
