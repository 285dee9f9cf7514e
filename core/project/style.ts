import * as v from 'valibot';
import { PLAIN_FINISH, type Finish } from '../finish/finish';
import type { Entries } from './project';

/** How a picture shows what surfaces are made of, and whether it is drawn in lines. */

export const STYLE_KINDS = ['photograph', 'white card', 'foam', 'key of finishes'] as const;
export type StyleKind = (typeof STYLE_KINDS)[number];

const share = v.pipe(v.number(), v.minValue(0), v.maxValue(1));
/** Over the picture: how strong lines are drawn, how far it fades to paper, how far lines are a hand's, and how far colours are washes. */
export const drawingSchema = v.strictObject({ lines: share, paper: share, sketch: v.optional(share), wash: v.optional(share) });
export type Drawing = v.InferOutput<typeof drawingSchema>;
export const styleSchema = v.strictObject({ kind: v.picklist(STYLE_KINDS), ...drawingSchema.entries });
export type Style = v.InferOutput<typeof styleSchema>;
export const NO_DRAWING: Drawing = { lines: 0, paper: 0 };
export const sameDrawing = (a: Drawing, b: Drawing): boolean =>
  a.lines === b.lines && a.paper === b.paper && (a.sketch ?? 0) === (b.sketch ?? 0) && (a.wash ?? 0) === (b.wash ?? 0);

/** What is decided, shown in a style. */
export const entriesIn = (entries: Entries, { kind, ...drawing }: Style): Entries =>
  new Map(entries).set('style', kind).set('drawing', drawing);

/** Styles that pictures are ordered in; the words are those of the trade. */
export const STYLES: Readonly<Record<string, Style>> = {
  photograph: { kind: 'photograph', lines: 0, paper: 0 },
  'white card': { kind: 'white card', lines: 0, paper: 0 },
  'white card with lines': { kind: 'white card', lines: 0.8, paper: 0 },
  'line drawing': { kind: 'white card', lines: 1, paper: 1 },
  'photograph with lines': { kind: 'photograph', lines: 0.6, paper: 0.25 },
  'pencil sketch': { kind: 'white card', lines: 1, paper: 0.85, sketch: 1 },
  'foam model': { kind: 'foam', lines: 0, paper: 0 },
  painted: { kind: 'photograph', lines: 0.4, paper: 0.12, sketch: 0.7, wash: 1 },
  'key of finishes': { kind: 'key of finishes', lines: 0.5, paper: 0 },
};

const CARD: Finish = {
  ...PLAIN_FINISH,
  id: 'white-card',
  name: 'White card',
  family: 'plain',
  // Card sends back about four fifths of the light (common practice, no source).
  baseColour: [0.91, 0.91, 0.9],
  roughness: 1,
};

/** Cut foam: pale blue and matt (common practice, no source). */
const FOAM: Finish = {
  ...PLAIN_FINISH,
  id: 'foam',
  name: 'Foam',
  family: 'plain',
  baseColour: [0.87, 0.9, 0.92],
  roughness: 0.9,
};

/** Glass and water stay, as does what shines. */
const stays = ({ transmission, family, emissionCdM2, opacity, cutOut }: Finish): boolean =>
  transmission > 0 || family === 'water' || emissionCdM2 > 0 || (opacity < 0.5 && !cutOut);

const memos: Record<Exclude<StyleKind, 'photograph'>, WeakMap<Finish, Finish>> = {
  'white card': new WeakMap(),
  foam: new WeakMap(),
  'key of finishes': new WeakMap(),
};

/** The finish as a style shows it: of one finish always the same object. */
export function styledFinish(finish: Finish, kind: StyleKind): Finish {
  if (kind === 'photograph' || stays(finish)) return finish;
  const memo = memos[kind];
  let styled = memo.get(finish);
  if (!styled) memo.set(finish, (styled = kind === 'key of finishes' ? asKey(finish) : asCard(finish, kind === 'foam' ? FOAM : CARD)));
  return styled;
}

/** Leaves keep the shape that their picture cuts out. */
const asCard = (finish: Finish, card: Finish): Finish =>
  finish.cutOut
    ? { ...finish, id: `${card.id}.${finish.id}`, saturation: 0, brightness: 1.6, contrast: 0.4, diffuseTransmission: 0 }
    : card;

function asKey(finish: Finish): Finish {
  const plain: Finish = { ...PLAIN_FINISH, id: `key.${finish.id}`, name: finish.name, family: finish.family, baseColour: keyColour(finish.id), roughness: 1 };
  return finish.cutOut ? { ...plain, maps: finish.maps, widthM: finish.widthM, heightM: finish.heightM, cutOut: true, saturation: 0 } : plain;
} // prettier-ignore

/** A finish's colour in the key, sRGB 0..1: the same in every picture. Hues go round by the golden angle, so that neighbours differ. */
export function keyColour(id: string): [number, number, number] {
  let hash = 2166136261;
  for (let i = 0; i < id.length; i++) hash = Math.imul(hash ^ id.charCodeAt(i), 16777619);
  const number = (hash >>> 0) % 997;
  const hue = (number * 137.508) % 360;
  const [saturation, lightness] = [0.28 + ((number * 7) % 5) * 0.06, 0.5 + ((number * 3) % 4) * 0.08];
  const channel = (n: number) => {
    const k = (n + hue / 30) % 12;
    return lightness - saturation * Math.min(lightness, 1 - lightness) * Math.max(-1, Math.min(k - 3, 9 - k, 1));
  };
  return [channel(0), channel(8), channel(4)];
}
