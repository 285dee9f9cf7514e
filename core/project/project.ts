import type { Metering } from '../image/exposure';
import type { Grading } from '../image/grading';
import type { WhiteSetting } from '../image/white-balance';
import type { KeptWalk } from '../camera/walk';
import { completeFinish, type Finish } from '../finish/finish';
import { FINISHES } from '../finish/library';
import type { UvOverride } from '../finish/uv-override';
import { recogniseName } from '../finish/recognise';
import type { Camera, Site, SourceMaterial } from '../model/schema';
import type { Remark } from './remark';
import { ruleFor, type Rule } from '../finish/rules';
import type { Drawing, Style, StyleKind } from './style';
import type { Weather } from '../sky/sky-map';
import type { SkyPictureChoice } from '../sky/sky-picture';
import type { Land } from '../setting/land';
import type { SetThing } from '../setting/set-thing';
import type { ThingKind } from '../setting/thing-kind';
import type { StandIn } from '../setting/stand-in';
import type { PlacedLamp } from '../lamp/placed-lamp';
import type { Condition } from './conditions';
import type { LampDecision, LightingKey, Switching } from './lighting';
import type { Placement } from './placement';
import type { Fills, Section } from './sections';
import type { Shown } from '../model/shown';
import type { Visibility } from '../model/visibility-decisions';

/** Whether a plain ground is laid under the model: where it brings none, always, or never. */
export type GroundChoice = 'auto' | 'always' | 'never';

/**
 * What the visualizer has decided, as a flat store of entries by key. Every command is a set of entry changes, so undoing,
 * sending and storing are one mechanism for all of them.
 */
export interface EntryTypes {
  /** `byHand`: where the sun is, whatever date and hour say. */
  sun: { date: string; minutes: number; byHand?: { altitudeDeg: number; azimuthDeg: number } };
  site: Site & { chosen: true };
  /** A general sky of the CIE by its number, or a picture; absent: the computed clear one. `lux`: its level illuminance, set by hand. */
  sky: { type: number; lux?: number } | { picture: SkyPictureChoice };
  weather: Weather;
  exposure: Exposure;
  grading: Grading;
  /** A table of colours that was brought in, as text in the .cube format. */
  [look: `look/${string}`]: { name: string; text: string };
  [condition: `condition/${string}`]: Condition;
  [lamp: `lamp/${string}`]: LampDecision;
  [type: `lamp-type/${string}`]: Switching;
  [circuit: `circuit/${string}`]: Switching;
  /** Something that was placed here, by an id of its own. */
  [thing: `thing/${string}`]: PlacedLamp;
  /** Planting and entourage that was set here: a thing, a row or an area. */
  [set: `set/${string}`]: SetThing;
  /** A thing of the library that is the project's own. */
  [kind: `kind/${string}`]: ThingKind;
  /** Ground that was shaped here: terrain, a path, a sheet of water. */
  [land: `land/${string}`]: Land;
  /** What stands for elements of models; the first that fits holds. */
  'stand-ins': StandIn[];
  /** A photometric file that was brought in here. */
  [file: `photometry/${string}`]: { name: string; text: string };
  /** Rows of the luminaire schedule that alone are lit. */
  solo: LightingKey[];
  follow: { camera: boolean; time: boolean };
  /** Whether a plain ground is laid under the model. */
  ground: GroundChoice;
  'source-order': string[];
  [placement: `placement/${string}`]: Placement;
  /** How far an element is moved against the model, metres. */
  [nudge: `nudge/${string}`]: [number, number, number];
  /** How the maps lie on an element, laid by hand. */
  [laid: `laid/${string}`]: UvOverride;
  /** The element's faces are turned round. */
  [turned: `turned/${string}`]: true;
  /** A finding that somebody has looked at and found to be right as it is. */
  [excused: `excused/${string}`]: true;
  /** What the check of the model asks for. */
  hygiene: { widestGapM: number };
  visibility: Visibility;
  /** A kept set of what is shown. */
  [kept: `shown/${string}`]: Visibility & { name: string };
  /** Design option and phase chosen here rather than by the author. */
  [variant: `variant/${string}`]: { option: string | null; phase: string | null };
  [assignment: `assign/${string}`]: { finish: string; at: string };
  /** What a person writes beside a row of the schedule. */
  [note: `note/${string}`]: { code: string; note: string };
  /** Finishes by patterns of names; the first that fits holds. */
  rules: Rule[];
  [override: `element/${string}`]: { finish: string; at: string };
  [finish: `finish/${string}`]: Finish;
  /** `frame`: pixels of its picture; `condition`: the one that it is seen under. */
  [view: `view/${string}`]: {
    name: string;
    frame?: { width: number; height: number } | undefined;
    folder?: string | undefined;
    condition?: string | undefined;
    /** Those that it is seen with. */
    sections?: string[] | undefined;
    style?: Style | undefined;
    /** Layers, classes, options and phases. */
    shown?: Shown | undefined;
  } & Camera;
  /** What surfaces are shown to be made of; and lines and paper over the picture. */
  style: StyleKind;
  drawing: Drawing;
  /** A plane or box that cuts the model open where it is asked for. */
  [section: `section/${string}`]: Section;
  'section-fills': Fills;
  /** Ids of views in the order that they are listed in; others follow. */
  'view-order': string[];
  /** What a view of that name is exposed with, whatever the project is. */
  [view: `view-exposure/${string}`]: { ev100: number; white: WhiteSetting };
  /** Where an element stood last that is gone, while things stand on it; by source and element. */
  [left: `left/${string}`]: number[];
  [walk: `walk/${string}`]: KeptWalk;
  /** What somebody has to say of a place or a view. */
  [remark: `remark/${string}`]: Remark;
}

export interface Exposure {
  mode: 'auto' | 'fixed';
  ev100: number;
  /** Without a white the picture finds its own. */
  white?: WhiteSetting | undefined;
  /** What an automatic exposure is taken from; without: all of the picture. */
  metering?: Metering | undefined;
  /** Of the camera that a fixed exposure is told by; its shutter follows. */
  camera?: { fNumber: number; iso: number } | undefined;
}

export type EntryKey = Extract<keyof EntryTypes, string>;
export type Entries = ReadonlyMap<string, unknown>;

export interface EntryChange {
  key: string;
  /** undefined: the entry is absent. */
  before: unknown;
  after: unknown;
}

export const DEFAULT_SUN: EntryTypes['sun'] = { date: '2026-10-16', minutes: 14 * 60 + 40 };
export const DEFAULT_EXPOSURE: Exposure = { mode: 'auto', ev100: 14 };
export const DEFAULT_FOLLOW: EntryTypes['follow'] = { camera: false, time: false };

/** The entry of a key. The store only ever holds values that a command's schema has checked. */
export function entry<K extends EntryKey>(entries: Entries, key: K): EntryTypes[K] | undefined {
  return entries.get(key) as EntryTypes[K] | undefined;
}

export const assignmentKey = (source: string, material: string) => `assign/${source}/${material}` as const;
export const noteKey = (source: string, material: string) => `note/${source}/${material}` as const;
export const overrideKey = (source: string, element: string) => `element/${source}/${element}` as const;

function ownFinish(entries: Entries, id: string): Finish | undefined {
  const kept = entry(entries, `finish/${id}`);
  return kept && completeFinish(kept);
}

/** A finish of the project, which stands before a shipped one of the same id. */
export function findFinish(entries: Entries, id: string): Finish | undefined {
  return ownFinish(entries, id) ?? FINISHES.find((f) => f.id === id);
}

/** All finishes, shipped ones as edited in this project, then the project's own. */
export function allFinishes(entries: Entries): Finish[] {
  const shipped = FINISHES.map((f) => ownFinish(entries, f.id) ?? f);
  const own = [...entries.keys()]
    .filter((key) => key.startsWith('finish/') && !FINISHES.some((f) => `finish/${f.id}` === key))
    .map((key) => ownFinish(entries, key.slice('finish/'.length))!);
  return [...shipped, ...own];
}

export interface FinishChoice {
  /** Undefined: nobody has chosen and the name says nothing; the source's own colour is shown. */
  finish: Finish | undefined;
  origin: 'by hand' | 'by rule' | 'by name' | 'none';
  reason: string;
}

/** Which finish a source material gets, and why. */
export function chooseFinish(
  entries: Entries,
  source: string,
  material: Pick<SourceMaterial, 'id' | 'name'> & Partial<Pick<SourceMaterial, 'texture'>>,
): FinishChoice {
  const assigned = entry(entries, assignmentKey(source, material.id));
  if (assigned) {
    const finish = findFinish(entries, assigned.finish);
    if (finish) return { finish, origin: 'by hand', reason: `Set by hand, ${assigned.at.slice(0, 10)}` };
  }
  const rule = ruleFor(entry(entries, 'rules') ?? [], material.name);
  const ruled = rule && findFinish(entries, rule.finish);
  if (rule && ruled) return { finish: ruled, origin: 'by rule', reason: `By the rule “${rule.pattern}”` };
  if (material.texture) return { finish: undefined, origin: 'none', reason: 'Shown with the pictures that came with it' };
  const guess = recogniseName(material.name);
  const finish = guess && findFinish(entries, guess.finish);
  if (guess && finish) return { finish, origin: 'by name', reason: `“${guess.word}” reads as ${guess.meaning}` };
  return { finish: undefined, origin: 'none', reason: 'No known word in the name; shown in the model’s own colour' };
}

/** Entries after a set of changes. */
export function applyChanges(entries: Entries, changes: readonly EntryChange[]): Entries {
  const after = new Map(entries);
  for (const { key, after: value } of changes) {
    if (value === undefined) after.delete(key);
    else after.set(key, value);
  }
  return after;
}

export function invertChanges(changes: readonly EntryChange[]): EntryChange[] {
  return changes.map(({ key, before, after }) => ({ key, before: after, after: before })).reverse();
}
