import { groupedBy } from '../grouping';
import { nearestTemperatureK } from '../image/colour-temperature';
import { colourOf, fluxOfPower, spreadOf, type LampForm, type PlacedLamp } from '../lamp/placed-lamp';
import { EMPTY_MODEL, type Model } from '../model/model';
import type { Luminaire } from '../model/schema';
import { entry, type Entries } from './project';
import { placedLamps, settled } from './things';

/** Which lamps are lit and how far: by lamp, by type and by circuit, each for itself; levels multiply. */

/** Of a circuit or a type. Without a level: the whole. */
export interface Switching {
  off?: true;
  level?: number;
  /** Of a type: the project's photometric file that its lamps have. */
  photometry?: string;
  /** Of a circuit: how it is called here. */
  name?: string;
}

/** Of one lamp. What is absent is as the model has it. */
export interface LampDecision extends Pick<Switching, 'off' | 'level' | 'photometry'> {
  circuit?: string;
  /** What the model had for a level when this one was set, so that a later change can be told. */
  modelLevel?: number;
}

export const lampKey = (source: string, lamp: string) => `lamp/${source}/${lamp}` as const;
export const lampTypeKey = (type: string) => `lamp-type/${type}` as const;
export const circuitKey = (circuit: string) => `circuit/${circuit}` as const;
/** What a row of the luminaire schedule stands for. */
export type LightingKey = ReturnType<typeof lampKey> | ReturnType<typeof lampTypeKey> | ReturnType<typeof circuitKey>;

/** Decisions that only lamps depend on. */
export const LIGHTING_KEYS = '^solo$|^(lamp|lamp-type|circuit|photometry|thing)/';

const NO_CIRCUIT = 'No circuit';
/** Stands for a source where a lamp was placed in the project. */
export const PLACED = '+placed';

/** Lamps of one kind: as the model says, or by their names without the number that tells one from the next. */
export function typeOf({ type, name }: Luminaire): string {
  if (type) return type;
  const plain = name.replace(/[\s_.:#-]*[a-z]{0,2}\d+[a-z]?$/i, '').trim();
  return plain || name || 'Luminaire';
}

export const circuitOf = (entries: Entries, source: string, lamp: Luminaire): string =>
  entry(entries, lampKey(source, lamp.id))?.circuit ?? (lamp.circuit || NO_CIRCUIT);

/** The rows that a lamp depends on: its own, its type's and its circuit's. */
const keysOf = (entries: Entries, source: string, lamp: Luminaire): LightingKey[] => [
  lampKey(source, lamp.id),
  lampTypeKey(typeOf(lamp)),
  circuitKey(circuitOf(entries, source, lamp)),
];

/** How far a lamp is lit, 0 to 1, over all: 0 where it, its type or its circuit is off, or others are lit alone. */
export function litLevel(entries: Entries, source: string, lamp: Luminaire): number {
  const keys = keysOf(entries, source, lamp);
  const alone = entry(entries, 'solo');
  if (alone && alone.length > 0 && !keys.some((key) => alone.includes(key))) return 0;
  let level = 1;
  for (const key of keys) {
    const decided = entry(entries, key);
    if (decided?.off) return 0;
    level *= decided?.level ?? (key.startsWith('lamp/') ? lamp.dim : 1);
  }
  return level;
}

/** The photometric file that a lamp has: its own by hand, its type's by hand, that of the model. */
export function photometryOf(entries: Entries, source: string, model: Model, lamp: Luminaire): { name: string; text: string } | undefined {
  const chosen = entry(entries, lampKey(source, lamp.id))?.photometry ?? entry(entries, lampTypeKey(typeOf(lamp)))?.photometry;
  const file = chosen === undefined ? undefined : entry(entries, `photometry/${chosen}`);
  return file ?? (lamp.photometry ? model.photometry?.find(({ id }) => id === lamp.photometry) : undefined);
}

/** A placed lamp as the schedule and the switches know lamps. */
export function asLuminaire(entries: Entries, id: string, lamp: PlacedLamp): Luminaire {
  const { name, circuit, type, position, direction, form, power, colour } = lamp;
  const fluxLm = fluxOfPower(power, spreadOf(form, textOf(entries, form)));
  const colourTemperatureK = 'kelvin' in colour ? colour.kelvin : nearestTemperatureK(colourOf(lamp));
  const beamDeg = form.kind === 'spot' ? form.beamDeg : form.kind === 'point' ? 360 : 120;
  return {
    id,
    name,
    circuit,
    type,
    element: null,
    position: [...position],
    direction: [...direction],
    fluxLm,
    colourTemperatureK,
    beamDeg,
    dim: 1,
  };
}

/** Of the photometric file that a placed lamp shines by. */
export const textOf = (entries: Entries, form: LampForm): string | undefined =>
  form.kind === 'measured' ? entry(entries, `photometry/${form.photometry}`)?.text : undefined;

/** The project's photometric files by name. */
export const photometricFiles = (entries: Entries): { id: string; name: string; text: string }[] =>
  [...entries.keys()]
    .filter((key) => key.startsWith('photometry/'))
    .map((key) => ({ id: key.slice('photometry/'.length), ...entry(entries, key as `photometry/${string}`)! }))
    .sort((a, b) => a.name.localeCompare(b.name));

interface Row {
  key: LightingKey;
  name: string;
  off: boolean;
  level: number;
  alone: boolean;
  /** Flux of all that is in it, as it is lit now, and with everything in it lit wholly; lm. */
  litLm: number;
  fullLm: number;
}

/** A placed lamp where it is; left: what it stood on is gone. */
export interface PlacedLampNow {
  id: string;
  lamp: PlacedLamp;
  isLeft: boolean;
}

export interface LampRow extends Row {
  source: string;
  lamp: Luminaire;
  circuit: string;
  photometry?: { name: string; text: string };
  /** Placed in the project: as it lies now. */
  placed?: PlacedLampNow;
  /** The level is set here. */
  isSet: boolean;
  /** What the model has now, where that has changed since the level was set here. */
  modelLevel?: number;
}

export interface TypeRow extends Row {
  lamps: LampRow[];
  /** Lamps of this type on other circuits, which go with them. */
  elsewhere: number;
}

export interface CircuitRow extends Row {
  circuit: string;
  types: TypeRow[];
  count: number;
}

/** The luminaire schedule: circuits by name, in them types, in these lamps. */
export function luminaireSchedule(sources: readonly { id: string; model: Model }[], entries: Entries): CircuitRow[] {
  const lamps = [
    ...sources.flatMap(({ id, model }) => [...model.luminaires.values()].map((lamp) => lampRow(entries, id, model, lamp))),
    ...placedLamps(entries, sources).map((placed) => {
      const [{ id, isLeft }, lamp] = [placed, settled(placed)];
      return { ...lampRow(entries, PLACED, EMPTY_MODEL, asLuminaire(entries, id, lamp)), placed: { id, lamp, isLeft } };
    }),
  ];
  const ofType = groupedBy(lamps, ({ lamp }) => typeOf(lamp));
  const circuits = [...groupedBy(lamps, ({ circuit }) => circuit)].map(([circuit, its]): CircuitRow => {
    const types = [...groupedBy(its, ({ lamp }) => typeOf(lamp))].map(([type, those]): TypeRow => ({
      ...switched(entries, lampTypeKey(type), type, those),
      lamps: those.sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true })),
      elsewhere: ofType.get(type)!.length - those.length,
    }));
    const key = circuitKey(circuit);
    return {
      ...switched(entries, key, entry(entries, key)?.name ?? circuit, its),
      circuit,
      types: types.sort((a, b) => a.name.localeCompare(b.name)),
      count: its.length,
    };
  });
  return circuits.sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }));
}

function switched(entries: Entries, key: LightingKey, name: string, lamps: readonly LampRow[]): Row {
  const decided = entry(entries, key);
  return {
    key,
    name,
    off: decided?.off ?? false,
    level: decided?.level ?? 1,
    alone: isAlone(entries, key),
    litLm: sum(lamps.map(({ litLm }) => litLm)),
    fullLm: sum(lamps.map(({ fullLm }) => fullLm)),
  };
}

function lampRow(entries: Entries, source: string, model: Model, lamp: Luminaire): LampRow {
  const key = lampKey(source, lamp.id);
  const decided = entry(entries, key);
  const photometry = photometryOf(entries, source, model, lamp);
  const changed = decided?.level !== undefined && decided.modelLevel !== undefined && decided.modelLevel !== lamp.dim;
  return {
    key,
    name: lamp.name || lamp.id,
    off: decided?.off ?? false,
    level: decided?.level ?? lamp.dim,
    alone: isAlone(entries, key),
    litLm: lamp.fluxLm * litLevel(entries, source, lamp),
    fullLm: lamp.fluxLm,
    source,
    lamp,
    circuit: circuitOf(entries, source, lamp),
    isSet: decided?.level !== undefined,
    ...(photometry && { photometry }),
    ...(changed && { modelLevel: lamp.dim }),
  };
}

const isAlone = (entries: Entries, key: LightingKey): boolean => entry(entries, 'solo')?.includes(key) ?? false;
const sum = (values: readonly number[]): number => values.reduce((total, value) => total + value, 0);
