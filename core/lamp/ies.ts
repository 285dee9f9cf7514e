import { allRound, between, PhotometricFileError, type PhotometricWeb } from './photometric-web';

/** ANSI/IES LM-63 of 1986 to 2019: keywords, TILT, then numbers parted by blanks, commas or line ends. */

const FOOT_M = 0.3048;
const MOST_ANGLES = 1500;
const TYPE_C = 1;
const TYPE_B = 2;
const TYPE_A = 3;

/** Throws PhotometricFileError. Where the text begins otherwise than the standard's later editions say, it is read as of 1986. */
export function readIes(text: string): PhotometricWeb {
  const lines = text.split(/\r\n|\n|\r/);
  const tiltAt = lines.findIndex((line) => /^\s*TILT\s*=/i.test(line));
  if (tiltAt < 0) throw new PhotometricFileError('There is no line “TILT=”, which every IES file has before its numbers.');
  const numbers = new Numbers(lines, tiltAt + 1);
  const tilt = readTilt(lines[tiltAt]!, tiltAt + 1, numbers);
  const lamps = numbers.next('number of lamps');
  const lampLm = numbers.next('lumens per lamp');
  const multiplier = numbers.next('multiplier');
  const gammas = numbers.count('number of vertical angles', MOST_ANGLES);
  const planes = numbers.count('number of horizontal angles', MOST_ANGLES);
  const type = numbers.oneOf('photometric type', [TYPE_C, TYPE_B, TYPE_A]);
  const unit = numbers.oneOf('unit of lengths', [1, 2]) === 1 ? FOOT_M : 1;
  const [width, length, height] = ['width', 'length', 'height'].map((what) => numbers.next(what)) as [number, number, number];
  const ballast = numbers.next('ballast factor');
  const ballastLamp = numbers.next('ballast-lamp factor, or the number for future use');
  const inputW = numbers.next('input watts');
  const vertical = numbers.rising('vertical angle', gammas, type === TYPE_C ? [0, 180] : [-90, 90]);
  const horizontal = numbers.rising('horizontal angle', planes, type === TYPE_C ? [0, 360] : [-90, 90]);
  const factor = multiplier * ballast * (ballastLamp > 0 ? ballastLamp : 1);
  const candela = Array.from({ length: planes }, () =>
    Array.from({ length: gammas }, () => Math.max(0, numbers.next('candela value') * factor)),
  );
  const measured = type === TYPE_C ? asTypeC(vertical, horizontal, candela, numbers) : fromAimed(type, vertical, horizontal, candela);
  return {
    name: keyword(lines, 'LUMINAIRE') ?? keyword(lines, 'LUMCAT') ?? '',
    ...measured,
    lampLm: lampLm < 0 ? null : lampLm * Math.max(1, lamps),
    inputW: Math.max(0, inputW),
    // Round openings are negative.
    widthM: Math.abs(width) * unit,
    lengthM: Math.abs(length) * unit,
    heightM: Math.abs(height) * unit,
    ...(tilt && { tilt }),
  };
}

function keyword(lines: readonly string[], name: string): string | undefined {
  const line = lines.find((l) => l.toUpperCase().startsWith(`[${name}]`));
  return line?.slice(name.length + 2).trim() || undefined;
}

function readTilt(line: string, at: number, numbers: Numbers): PhotometricWeb['tilt'] {
  const said = line.slice(line.indexOf('=') + 1).trim();
  if (/^NONE$/i.test(said)) return undefined;
  if (!/^INCLUDE$/i.test(said))
    throw new PhotometricFileError(
      `Line ${String(at)}: the tilt is in another file, “${said.slice(0, 60)}”; write it in by TILT=INCLUDE, or leave it by TILT=NONE.`,
    );
  const geometry = numbers.next('lamp-to-luminaire geometry');
  if (![1, 2, 3].includes(geometry)) throw numbers.wrong(`the lamp-to-luminaire geometry is 1, 2 or 3, not ${String(geometry)}`);
  const count = numbers.count('number of tilt angles', MOST_ANGLES);
  const degrees = numbers.rising('tilt angle', count, [0, 180]);
  const factors = Array.from({ length: count }, () => Math.max(0, numbers.next('tilt factor')));
  return { degrees, factors };
}

function asTypeC(
  gammaDeg: number[],
  horizontal: number[],
  candela: number[][],
  numbers: Numbers,
): Pick<PhotometricWeb, 'cDeg' | 'gammaDeg' | 'candela'> {
  const [first, last] = [horizontal[0]!, horizontal.at(-1)!];
  const whole =
    horizontal.length === 1 || (first === 0 && [90, 180].includes(last)) || (first === 90 && last === 270) || last - first >= 270;
  if (!whole)
    throw numbers.wrong(
      `the horizontal angles run from ${String(first)} to ${String(last)}; they begin at 0 and end at 0, 90, 180 or 360, or run from 90 to 270`,
    );
  const { cDeg, planes } = allRound(horizontal, candela);
  return { gammaDeg, cDeg, candela: Float64Array.from(planes.flat()) };
}

/**
 * Types A and B are measured about an axis across the beam; here they are read anew about the beam, in planes each 5 degrees, at the
 * angles that the file has, and in steps of 2.5 degrees where it has none.
 */
function fromAimed(
  type: number,
  vertical: number[],
  horizontal: number[],
  candela: number[][],
): Pick<PhotometricWeb, 'cDeg' | 'gammaDeg' | 'candela'> {
  const deg = 180 / Math.PI;
  const halves = (angles: number[], at: number) => (angles[0] === 0 ? Math.abs(at) : at);
  const value = (v: number, h: number) => bilinear(vertical, horizontal, candela, halves(vertical, v), halves(horizontal, h));
  const even = Array.from({ length: 37 }, (_, i) => i * 2.5);
  const own = [...vertical, ...horizontal].map((angle) => Math.round(Math.abs(angle) * 1000) / 1000);
  const gammaDeg = [...new Set([...even, ...own])].sort((a, b) => a - b);
  const cDeg = Array.from({ length: 73 }, (_, i) => i * 5);
  const values = cDeg.flatMap((c) =>
    gammaDeg.map((gamma) => {
      const [s, z] = [Math.sin(gamma / deg), Math.cos(gamma / deg)];
      const [x, y] = [s * Math.cos(c / deg), s * Math.sin(c / deg)];
      return type === TYPE_B ? value(Math.atan2(y, z) * deg, Math.asin(x) * deg) : value(Math.asin(y) * deg, Math.atan2(x, z) * deg);
    }),
  );
  return { gammaDeg, cDeg, candela: Float64Array.from(values) };
}

function bilinear(vertical: number[], horizontal: number[], candela: number[][], v: number, h: number): number {
  const isOutside = (angles: number[], at: number) => at < angles[0]! - 1e-9 || at > angles.at(-1)! + 1e-9;
  if (isOutside(vertical, v) || isOutside(horizontal, h)) return 0;
  const [[i, down], [plane, across]] = [between(vertical, v), between(horizontal, h)];
  const inPlane = (p: number) => candela[p]![i]! * (1 - down) + (candela[p]![i + 1] ?? 0) * down;
  return inPlane(plane) * (1 - across) + (across > 0 ? inPlane(plane + 1) * across : 0);
}

/** The numbers of a file one after the other, each with its line. */
class Numbers {
  private line: number;
  private words: string[] = [];
  /** The next of them: a file may have all its numbers on one line. */
  private at = 0;

  constructor(
    private readonly lines: readonly string[],
    from: number,
  ) {
    this.line = from - 1;
  }

  wrong(what: string): PhotometricFileError {
    return new PhotometricFileError(`Line ${String(this.line + 1)}: ${what}.`);
  }

  next(what: string): number {
    while (this.at >= this.words.length) {
      this.line++;
      if (this.line >= this.lines.length) throw new PhotometricFileError(`The file ends before its ${what}.`);
      this.words = this.lines[this.line]!.split(/[\s,]+/).filter((word) => word !== '');
      this.at = 0;
    }
    const word = this.words[this.at++]!;
    const value = Number(word);
    if (!Number.isFinite(value) || Math.abs(value) > 1e12) throw this.wrong(`“${word.slice(0, 40)}” is no ${what}`);
    return value;
  }

  count(what: string, most: number): number {
    const value = this.next(what);
    if (!Number.isInteger(value) || value < 1 || value > most)
      throw this.wrong(`the ${what} is ${String(value)}; from 1 to ${String(most)} are read`);
    return value;
  }

  oneOf(what: string, values: readonly number[]): number {
    const value = this.next(what);
    if (!values.includes(value)) throw this.wrong(`the ${what} is ${String(value)}; it is ${values.join(' or ')}`);
    return value;
  }

  rising(what: string, count: number, [least, most]: readonly [number, number]): number[] {
    const values: number[] = [];
    for (let i = 0; i < count; i++) {
      const value = this.next(what);
      if (value < least || value > most)
        throw this.wrong(`the ${what} ${String(value)} is outside ${String(least)} to ${String(most)} degrees`);
      if (i > 0 && value <= values[i - 1]!)
        throw this.wrong(`the ${what} ${String(value)} comes after ${String(values[i - 1])}; they rise`);
      values.push(value);
    }
    return values;
  }
}
