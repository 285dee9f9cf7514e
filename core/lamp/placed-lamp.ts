import * as v from 'valibot';
import { lampColour } from '../image/colour-temperature';
import { vec3Schema } from '../model/schema';
import { allAround, cosinePower, webOfForm } from './closed-forms';
import { intensityAt } from './photometric-web';
import { lampWebOf, webOf, type LampWeb } from './web-grid';

/** A lamp that was placed in the project: what it shines from, how strong, and in which colour. */

const finite = v.pipe(v.number(), v.finite());
const metres = v.pipe(finite, v.minValue(0.001), v.maxValue(50));
const angle = v.pipe(finite, v.minValue(1), v.maxValue(178));
const amount = v.pipe(finite, v.minValue(0), v.maxValue(1e7));
const name = v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(200));
const share = v.pipe(finite, v.minValue(0), v.maxValue(1));

export const lampFormSchema = v.variant('kind', [
  /** A ball that shines all round. */
  v.strictObject({ kind: v.literal('point'), radiusM: metres }),
  /** Full angles at a half and at a tenth of the intensity on the axis. */
  v.pipe(
    v.strictObject({ kind: v.literal('spot'), radiusM: metres, beamDeg: angle, fieldDeg: angle }),
    v.check(({ beamDeg, fieldDeg }) => fieldDeg > beamDeg, 'The field angle of a spot is wider than its beam angle.'),
  ),
  v.strictObject({ kind: v.literal('rectangle'), lengthM: metres, widthM: metres }),
  v.strictObject({ kind: v.literal('disc'), radiusM: metres }),
  v.strictObject({ kind: v.literal('line'), lengthM: metres }),
  /** By a photometric file of the project. */
  v.strictObject({ kind: v.literal('measured'), photometry: name }),
]);
export type LampForm = v.InferOutput<typeof lampFormSchema>;

export const lampPowerSchema = v.variant('unit', [
  v.strictObject({ unit: v.literal('lm'), value: amount }),
  /** On the axis. */
  v.strictObject({ unit: v.literal('cd'), value: amount }),
  /** On the axis, facing the lamp. */
  v.strictObject({ unit: v.literal('lx'), value: amount, atM: metres }),
  v.strictObject({ unit: v.literal('W'), value: amount, lmPerW: v.pipe(finite, v.minValue(0.1), v.maxValue(300)) }),
]);
export type LampPower = v.InferOutput<typeof lampPowerSchema>;

export const placedLampSchema = v.strictObject({
  kind: v.literal('lamp'),
  name,
  circuit: name,
  type: name,
  position: vec3Schema,
  /** Of the axis, not 0. */
  direction: v.pipe(vec3Schema, v.check((d) => Math.hypot(...d) > 1e-6, 'A lamp shines somewhere.')),
  turnDeg: v.pipe(finite, v.minValue(-360), v.maxValue(360)),
  form: lampFormSchema,
  power: lampPowerSchema,
  colour: v.union([
    v.strictObject({ kelvin: v.pipe(finite, v.minValue(1000), v.maxValue(20000)) }),
    v.strictObject({ rgb: v.strictTuple([share, share, share]) }),
  ]),
  /** What it stands on or hangs from, and how that lay when it was placed: the lamp goes with it. */
  stands: v.optional(v.strictObject({ source: name, element: name, transform: v.pipe(v.array(finite), v.length(16)) })),
}); // prettier-ignore
export type PlacedLamp = v.InferOutput<typeof placedLampSchema>;

/** Made when it is first asked for: a program that shows no lamp need not wait for it. */
function spreading(share: (gamma: number, c: number) => number, isRound: boolean): () => LampWeb {
  let made: LampWeb | undefined;
  return () => (made ??= lampWebOf(webOfForm({ name: '', share, isRound, inputW: 0, fluxLm: 1, openingM: [0, 0, 0] })));
}
const allRound = spreading(allAround, true);
/** A matt face: intensity by the cosine. */
const matt = spreading(cosinePower(1), true);
/** A matt tube along C90 to C270: intensity by the sine of the angle to it. */
const tube = spreading((gamma, c) => Math.sqrt(1 - (Math.sin((gamma * Math.PI) / 180) * Math.sin((c * Math.PI) / 180)) ** 2), false);

const spots = new Map<string, LampWeb>();
const MOST_SPOTS = 1000;

/** Falls off as a power of the angle in the exponent: a half at half the beam angle, a tenth at half the field angle. */
function spotWeb(beamDeg: number, fieldDeg: number): LampWeb {
  const key = `${String(beamDeg)} ${String(fieldDeg)}`;
  let web = spots.get(key);
  if (!web) {
    const power = Math.log(Math.log2(10)) / Math.log(fieldDeg / beamDeg);
    const gammaDeg = Array.from({ length: 721 }, (_, i) => i / 4);
    const candela = Float64Array.from(gammaDeg, (gamma) => (gamma > 90 ? 0 : 0.5 ** ((gamma / (beamDeg / 2)) ** power)));
    web = lampWebOf({ name: '', gammaDeg, cDeg: [0], candela, lampLm: null, inputW: 0, lengthM: 0, widthM: 0, heightM: 0 });
    if (spots.size >= MOST_SPOTS) spots.clear();
    spots.set(key, web);
  }
  return web;
}

/** How a form spreads its light. `text`: of its photometric file; without it the lamp shines all round. */
export function spreadOf(form: LampForm, text?: string): LampWeb {
  switch (form.kind) {
    case 'point':
      return allRound();
    case 'spot':
      return spotWeb(form.beamDeg, form.fieldDeg);
    case 'rectangle':
    case 'disc':
      return matt();
    case 'line':
      return tube();
    case 'measured': {
      const web = text === undefined ? undefined : webOf(text);
      return web === undefined || typeof web === 'string' ? allRound() : web;
    }
  }
}

/** cd on the axis for each lm. */
export const axisCdPerLm = ({ web, facts }: LampWeb): number => intensityAt(web, 0, 0) / facts.fluxLm;

/** Flux in lm, whatever it was given in; 0 where a lamp gives nothing along its axis that could be told in cd or lx. */
export function fluxOfPower(power: LampPower, spread: LampWeb): number {
  const perLm = axisCdPerLm(spread);
  const byIntensity = (cd: number) => (perLm > 0 ? cd / perLm : 0);
  switch (power.unit) {
    case 'lm':
      return power.value;
    case 'W':
      return power.value * power.lmPerW;
    case 'cd':
      return byIntensity(power.value);
    case 'lx':
      return byIntensity(power.value * power.atM ** 2);
  }
}

/** The same flux in another unit; distance and efficacy as they were, or usual ones. */
export function powerIn(unit: LampPower['unit'], fluxLm: number, spread: LampWeb, before: LampPower): LampPower {
  const cd = fluxLm * axisCdPerLm(spread);
  const atM = before.unit === 'lx' ? before.atM : 2;
  const lmPerW = before.unit === 'W' ? before.lmPerW : 100;
  switch (unit) {
    case 'lm':
      return { unit, value: fluxLm };
    case 'cd':
      return { unit, value: cd };
    case 'lx':
      return { unit, value: cd / atM ** 2, atM };
    case 'W':
      return { unit, value: fluxLm / lmPerW, lmPerW };
  }
}

/** Linear Rec.709 of unit luminance. A colour is as it is on a screen (sRGB, IEC 61966-2-1). */
export function colourOf({ colour }: PlacedLamp): [number, number, number] {
  if ('kelvin' in colour) return lampColour(colour.kelvin);
  const linear = colour.rgb.map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
  const luminance = 0.2126 * linear[0]! + 0.7152 * linear[1]! + 0.0722 * linear[2]!;
  return luminance > 0 ? (linear.map((c) => c / luminance) as [number, number, number]) : [1, 1, 1];
}

/** Places in a row or a grid between clicked points: evenly, half a spacing from its ends. */
export function rowBetween(a: readonly number[], b: readonly number[], count: number): [number, number, number][] {
  return Array.from(
    { length: count },
    (_, i) => [0, 1, 2].map((k) => a[k]! + ((b[k]! - a[k]!) * (i + 0.5)) / count) as [number, number, number],
  );
}
export function gridBetween(
  a: readonly number[],
  b: readonly number[],
  c: readonly number[],
  columns: number,
  rows: number,
): [number, number, number][] {
  const across = [0, 1, 2].map((k) => c[k]! - b[k]!);
  return Array.from({ length: rows }, (_, j) => {
    const shift = (point: readonly number[]) => point.map((v, k) => v + (across[k]! * (j + 0.5)) / rows);
    return rowBetween(shift(a), shift(b), columns);
  }).flat();
}
