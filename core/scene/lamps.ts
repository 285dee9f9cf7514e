import { numbersFrom } from '../finish/variation';
import { lampColour } from '../image/colour-temperature';
import { lampFrame } from '../lamp/frame';
import { beamOf } from '../lamp/intensity';
import { tiltFactor } from '../lamp/photometric-web';
import { colourOf, spreadOf, type PlacedLamp } from '../lamp/placed-lamp';
import { webOf, type LampWeb } from '../lamp/web-grid';
import type { Model } from '../model/model';
import type { Luminaire } from '../model/schema';
import { asLuminaire, litLevel, PLACED, textOf } from '../project/lighting';
import type { Entries } from '../project/project';
import { placedLamps, settled } from '../project/things';
import type { SceneLamp } from './scene';

/** Luminaires of models, and lamps that were placed, as lamps of the scene. */

const LAMP_RADIUS_M = 0.04;
/** A large opening shines from a ball of this size at most, or it would shine from within the ceiling. */
const MOST_RADIUS_M = 0.15;
/** A web that reaches further than this to both sides is near to all round, degrees. */
const WIDE_DEG = 175;

/** What lenses that are an element's parts, and the lamps behind them, have alone: 1 to 2^31 - 1, from the element's identity. */
export const lensNumber = (source: string, element: string): number =>
  1 + Math.floor(numbersFrom(`${source}/${element}`, 0)() * 0x7ffffffe);

/** `level`: how far it is lit, over all. `text`: of its photometric file. */
export function lampOf(source: string, luminaire: Luminaire, level: number, text?: string): SceneLamp {
  const { id, position, direction, fluxLm, colourTemperatureK, turnDeg = 0 } = luminaire;
  const measured = text === undefined ? undefined : webOf(text);
  const frame = lampFrame(direction, turnDeg);
  const lens = luminaire.element === null ? {} : { lens: lensNumber(source, luminaire.element) };
  const lamp = { source, id, position, ...frame, colour: lampColour(colourTemperatureK), radiusM: LAMP_RADIUS_M, ...lens };
  if (!measured || typeof measured === 'string') return { ...lamp, beam: beamOf({ ...luminaire, dim: level }) };
  return { ...lamp, ...shining(measured, fluxLm * level, frame.axis), radiusM: openingOf(measured) };
}

/** `fluxLm`: as far as it is lit. */
export function placedLampOf(source: string, id: string, lamp: PlacedLamp, fluxLm: number, text?: string): SceneLamp {
  const { form, position } = lamp;
  const frame = lampFrame(lamp.direction, lamp.turnDeg);
  const web = spreadOf(form, text);
  const isFlat = form.kind === 'rectangle' || form.kind === 'disc' || form.kind === 'line';
  return {
    source,
    id,
    position,
    ...frame,
    colour: colourOf(lamp),
    ...shining(web, fluxLm, frame.axis),
    radiusM: 'radiusM' in form ? form.radiusM : openingOf(web),
    ...(isFlat && { extent: form }),
  };
}

/** The lamps that were placed, as far as they are lit; what is hidden takes those that stand on it with it. */
export function litPlacedLamps(
  sources: readonly { id: string; model: Model }[],
  entries: Entries,
  isHidden: (source: string, element: string) => boolean,
): SceneLamp[] {
  return placedLamps(entries, sources).flatMap((placed) => {
    const { stands } = placed.thing;
    if (stands && isHidden(stands.source, stands.element)) return [];
    const lamp = settled(placed);
    const luminaire = asLuminaire(entries, placed.id, lamp);
    const level = litLevel(entries, PLACED, luminaire);
    return level > 0 ? [placedLampOf(PLACED, placed.id, lamp, luminaire.fluxLm * level, textOf(entries, lamp.form))] : [];
  });
}

/** Lamps as text, to tell whether they are alike. */
export const lampsAsText = (lamps: readonly SceneLamp[]): string =>
  JSON.stringify(lamps, (key, value: unknown) => (key === 'grid' ? undefined : value));

/** By a web, with a cone that is near to it. */
function shining({ web, facts, key, grid }: LampWeb, lit: number, axis: readonly number[]): Pick<SceneLamp, 'beam' | 'web'> {
  const fluxLm = lit * tiltFactor(web, Math.acos(Math.min(1, Math.max(-1, -axis[2]!))) * (180 / Math.PI));
  const beamDeg = Math.max(...facts.fieldDeg) > WIDE_DEG ? 360 : (facts.beamDeg[0] + facts.beamDeg[1]) / 2;
  return { beam: beamOf({ fluxLm, dim: 1, beamDeg }), web: { key, grid, fluxLm } };
}

const openingOf = ({ web: { lengthM, widthM } }: LampWeb): number =>
  Math.min(MOST_RADIUS_M, Math.max(LAMP_RADIUS_M, Math.max(lengthM, widthM) / 2));
