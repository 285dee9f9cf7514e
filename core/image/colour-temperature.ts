/** Chromaticity of a black body, CIE 1931: the cubic fits of Kim et al. 2002 (US patent 7024034; from memory), 1667 to 25000 K. */
export function planckianXy(kelvin: number): [number, number] {
  const t = Math.min(25000, Math.max(1667, kelvin));
  const x =
    t <= 4000
      ? -0.2661239e9 / t ** 3 - 0.2343589e6 / t ** 2 + 0.8776956e3 / t + 0.17991
      : -3.0258469e9 / t ** 3 + 2.1070379e6 / t ** 2 + 0.2226347e3 / t + 0.24039;
  const y =
    t <= 2222
      ? -1.1063814 * x ** 3 - 1.3481102 * x ** 2 + 2.18555832 * x - 0.20219683
      : t <= 4000
        ? -0.9549476 * x ** 3 - 1.37418593 * x ** 2 + 2.09137015 * x - 0.16748867
        : 3.081758 * x ** 3 - 5.8733867 * x ** 2 + 3.75112997 * x - 0.37001483;
  return [x, y];
}

/** Chromaticity of a phase of daylight, CIE 1931: the CIE's method (CIE 015, 4000 to 25000 K). */
export function daylightXy(kelvin: number): [number, number] {
  const t = Math.min(25000, Math.max(4000, kelvin));
  const x =
    t <= 7000
      ? 0.244063 + 0.09911e3 / t + 2.9678e6 / t ** 2 - 4.607e9 / t ** 3
      : 0.23704 + 0.24748e3 / t + 1.9018e6 / t ** 2 - 2.0064e9 / t ** 3;
  return [x, -3 * x * x + 2.87 * x - 0.275];
}

/** Between these, kelvin, what glows passes over into daylight. */
const GLOWS_UP_TO = 4000;
const DAYLIGHT_FROM = 5000;

/** Chromaticity that is meant by a temperature, of lamps and of whites: of a glowing body up to 4000 K, of daylight from 5000 K on. */
export function locusXy(kelvin: number): [number, number] {
  const share = Math.min(1, Math.max(0, (kelvin - GLOWS_UP_TO) / (DAYLIGHT_FROM - GLOWS_UP_TO)));
  const [glowing, day] = [planckianXy(kelvin), daylightXy(kelvin)];
  return [glowing[0] + (day[0] - glowing[0]) * share, glowing[1] + (day[1] - glowing[1]) * share];
}

/** Linear Rec.709 colour of unit luminance for a colour temperature; negative channels are cut. */
export function lampColour(kelvin: number): [number, number, number] {
  const [x, y] = locusXy(kelvin);
  const X = x / y;
  const Z = (1 - x - y) / y;
  const rgb = [
    3.2404542 * X - 1.5371385 - 0.4985314 * Z,
    -0.969266 * X + 1.8760108 + 0.041556 * Z,
    0.0556434 * X - 0.2040259 + 1.0572252 * Z,
  ].map((c) => Math.max(0, c));
  const luminance = 0.2126 * rgb[0]! + 0.7152 * rgb[1]! + 0.0722 * rgb[2]!;
  return rgb.map((c) => c / luminance) as [number, number, number];
}

/** The colour temperature whose light looks most like a linear Rec.709 colour, to 50 K between 1700 and 12000 K. */
export function nearestTemperatureK(rgb: readonly number[]): number {
  const luminance = 0.2126 * rgb[0]! + 0.7152 * rgb[1]! + 0.0722 * rgb[2]!;
  if (!(luminance > 0)) return 4000;
  let best = 4000;
  let least = Infinity;
  for (let kelvin = 1700; kelvin <= 12000; kelvin += 50) {
    const off = lampColour(kelvin).reduce((sum, c, i) => sum + (c - rgb[i]! / luminance) ** 2, 0);
    if (off < least) [best, least] = [kelvin, off];
  }
  return best;
}
