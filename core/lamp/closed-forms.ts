import { fluxOfWeb, type PhotometricWeb } from './photometric-web';

/** Distributions that are known by a formula, for demonstration files and for tests; and how they are written down. */

const RAD = Math.PI / 180;

export interface ClosedForm {
  name: string;
  /** Share of the largest intensity towards a direction, degrees. */
  share: (gamma: number, c: number) => number;
  /** The same all round the axis. */
  isRound: boolean;
  inputW: number;
  fluxLm: number;
  openingM: readonly [length: number, width: number, height: number];
}

/** Cosine to a power: flux 2 pi I / (n + 1); n = 1 is a Lambertian face, flux pi I. */
export const cosinePower = (n: number) => (gamma: number) => (gamma >= 90 ? 0 : Math.cos(gamma * RAD) ** n);
/** All round alike: flux 4 pi I. */
export const allAround = () => 1;
/** Wide to both sides of a path and narrow along it: cosine to powers that differ between the planes. */
export const along = (wide: number, narrow: number) => (gamma: number, c: number) =>
  gamma >= 90 ? 0 : Math.cos(gamma * RAD) ** (wide * Math.cos(c * RAD) ** 2 + narrow * Math.sin(c * RAD) ** 2);
/** Downwards and, by a share, upwards, as of a pendant that is open above. */
export const upAndDown = (up: number) => (gamma: number) => (gamma < 90 ? Math.cos(gamma * RAD) : -up * Math.cos(gamma * RAD));

/** By steps of 2.5 and 15 degrees, scaled to its flux as it is integrated between them. */
export function webOfForm({ name, share, isRound, inputW, fluxLm, openingM }: ClosedForm): PhotometricWeb {
  const gammaDeg = Array.from({ length: 73 }, (_, i) => i * 2.5);
  const cDeg = isRound ? [0] : Array.from({ length: 25 }, (_, i) => i * 15);
  const candela = Float64Array.from(cDeg.flatMap((c) => gammaDeg.map((gamma) => share(gamma, c))));
  const [lengthM, widthM, heightM] = openingM;
  const web: PhotometricWeb = { name, gammaDeg, cDeg, candela, lampLm: fluxLm, inputW, lengthM, widthM, heightM };
  const scale = fluxLm / fluxOfWeb(web);
  return { ...web, candela: candela.map((v) => v * scale) };
}

const plain = (value: number): string => String(Math.round(value * 1000) / 1000);
const inLines = (values: readonly number[]): string =>
  Array.from({ length: Math.ceil(values.length / 10) }, (_, i) =>
    values
      .slice(i * 10, i * 10 + 10)
      .map(plain)
      .join(' '),
  ).join('\n');

/** As ANSI/IES LM-63-2019, measured as a whole. */
export function writeIes({ name, gammaDeg, cDeg, candela, inputW, lengthM, widthM, heightM }: PhotometricWeb): string {
  const planes = cDeg.map((_, i) => [...candela.subarray(i * gammaDeg.length, (i + 1) * gammaDeg.length)]);
  return [
    'IES:LM-63-2019', '[TEST] computed from a closed form', '[TESTLAB] none', '[ISSUEDATE] 28-NOV-2026', '[MANUFAC] none', `[LUMINAIRE] ${name}`, 'TILT=NONE',
    `1 -1 1 ${String(gammaDeg.length)} ${String(cDeg.length)} 1 2 ${plain(widthM)} ${plain(lengthM)} ${plain(heightM)}`,
    `1 1 ${plain(inputW)}`,
    inLines(gammaDeg), inLines(cDeg), ...planes.map(inLines), '',
  ].join('\n'); // prettier-ignore
}

/** As EULUMDAT, without symmetry or, of one plane, round about the axis. */
export function writeEulumdat({ name, gammaDeg, cDeg, candela, lampLm, inputW, lengthM, widthM, heightM }: PhotometricWeb): string {
  const isRound = cDeg.length === 1;
  const planes = isRound ? cDeg : cDeg.slice(0, -1);
  const lumens = lampLm ?? 1000;
  const mm = (metres: number) => plain(metres * 1000);
  const values = planes.flatMap((_, i) =>
    [...candela.subarray(i * gammaDeg.length, (i + 1) * gammaDeg.length)].map((v) => plain((v / lumens) * 1000)),
  );
  return [
    'computed from a closed form', isRound ? 1 : 3, isRound ? 1 : 0, planes.length, isRound ? 0 : planes[1]! - planes[0]!, gammaDeg.length, gammaDeg[1]! - gammaDeg[0]!,
    'none', name, '', '', '', mm(lengthM), mm(widthM), mm(heightM), mm(lengthM), mm(widthM), ...Array.from({ length: 4 }, () => mm(heightM)),
    100, 100, 1, 0, 1, 1, 'LED', plain(lumens), '', '', plain(inputW), ...Array.from({ length: 10 }, () => 0),
    ...planes.map(plain), ...gammaDeg.map(plain), ...values, '',
  ].join('\r\n'); // prettier-ignore
}
