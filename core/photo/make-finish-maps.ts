import type { FinishMaps } from '../finish/maps/paint';
import { deriveMaps, type Derivation } from './derive-maps';
import { evenLight } from './even-light';
import type { LinearPicture } from './picture';
import { OVERLAP, seamless } from './seamless';
import { straightened, type Corners } from './straighten';

/** Everything that a person decides about a photograph of a surface. */
export interface PhotoSettings extends Omit<Derivation, 'widthM' | 'heightM'> {
  corners: Corners;
  /** What lies between the corners in reality, metres. */
  acrossM: number;
  upM: number;
  evenLight: number;
  seamless: boolean;
}

export interface PhotoResult {
  maps: FinishMaps;
  /** Of one repeat. */
  widthM: number;
  heightM: number;
}

export const PHOTO_STEPS = ['straightening', 'evening the light', 'fitting the ends', 'deriving relief'] as const;

/** From a photograph to a map set; `tell` hears which step begins. Undefined: the corners do not go round. */
export function makeFinishMaps(
  photo: LinearPicture,
  settings: PhotoSettings,
  size: number,
  tell: (step: (typeof PHOTO_STEPS)[number]) => void = () => undefined,
): PhotoResult | undefined {
  const { acrossM, upM } = settings;
  tell('straightening');
  // As large as the map, and the strip that fitting the ends will take.
  const long = settings.seamless ? Math.ceil(size / (1 - OVERLAP)) : size;
  const ratio = upM / acrossM;
  const [width, height] = ratio > 1 ? [Math.max(32, Math.round(long / ratio)), long] : [long, Math.max(32, Math.round(long * ratio))];
  const flat = straightened(photo, settings.corners, width, height);
  if (!flat) return undefined;
  tell('evening the light');
  const even = evenLight(flat, settings.evenLight);
  if (settings.seamless) tell('fitting the ends');
  const fitted = settings.seamless ? seamless(even) : even;
  tell('deriving relief');
  const [widthM, heightM] = [(acrossM * fitted.width) / width, (upM * fitted.height) / height];
  return { maps: deriveMaps(fitted, size, { ...settings, widthM, heightM }), widthM, heightM };
}
