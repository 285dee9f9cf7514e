import type { Mat4 } from '../geometry/mat4';
import { opticsSchema, PLAIN_FINISH, type Finish, type Optics, type Variation } from '../finish/finish';
import { pictureMapsName } from './material-pictures';
import type { Beam } from '../lamp/intensity';
import type { LampForm } from '../lamp/placed-lamp';
import type { WebGrid } from '../lamp/web-grid';
import type { Model } from '../model/model';
import type { SourceMaterial } from '../model/schema';
import { chooseFinish, type Entries, type GroundChoice } from '../project/project';

/** One source as the scene takes it. */
export interface SceneSource {
  id: string;
  model: Model;
}

/** A mesh placed in the world with one finish. */
export interface SceneInstance {
  source: string;
  element: string;
  /** Of the element. */
  class?: string | undefined;
  layer?: string | undefined;
  part: number;
  material: string;
  mesh: string;
  transform: Mat4;
  finish: Finish;
  /** Level of the lamp behind it, for finishes that give light. */
  emissionScale: number;
  /** How this element has the finish differently from others. */
  variation?: Variation | undefined;
  /** Lens of a lamp: seen lit, but the lamp itself gives the light. A number tells which lamp, see `lensNumber`. */
  lens: boolean | number;
}

export interface SceneLamp {
  source: string;
  id: string;
  position: readonly [number, number, number];
  axis: readonly [number, number, number];
  beam: Beam;
  /** Linear Rec.709 of unit luminance. */
  colour: [number, number, number];
  radiusM: number;
  /** Number of its lens, if it has one. */
  lens?: number;
  /** Towards the plane C0, at right angles to the axis. */
  right: readonly [number, number, number];
  /** Of a flat lamp or a tube: lengths are across C0, widths along it. */
  extent?: Exclude<LampForm, { kind: 'point' | 'spot' | 'measured' }>;
  /** Measured; the beam above is then near to it, for pictures that know no more. */
  web?: LampWebInScene;
}

export interface LampWebInScene {
  /** Alike for grids that are alike, also when they were copied. */
  key: string;
  /** cd per lm. */
  grid: WebGrid;
  fluxLm: number;
}

/** What both pictures show: everything is resolved, nothing refers back to the project. */
export interface Scene {
  instances: readonly SceneInstance[];
  lamps: SceneLamp[];
  /** Without: as the model needs it. */
  ground?: GroundChoice;
}

/** The finish chosen for a source material, or a plain one in the model's own colour. */
export function finishOfMaterial(entries: Entries, source: string, material: SourceMaterial): Finish {
  return chooseFinish(entries, source, material).finish ?? plainFinish(source, material);
}

const OPTICS = Object.keys(opticsSchema.entries) as (keyof Optics)[];

function knownOptics(material: SourceMaterial): Partial<Optics> {
  return Object.fromEntries(OPTICS.filter((field) => material[field] !== undefined).map((field) => [field, material[field]]));
}

/** Pictures that lie by coordinates have one repeat a unit. */
function laidOut(texture: NonNullable<SourceMaterial['texture']>): Pick<Finish, 'maps' | 'widthM' | 'heightM'> {
  const { widthM, heightM } = texture.asLaid ? { widthM: 1, heightM: 1 } : texture;
  return { maps: pictureMapsName(texture), widthM, heightM };
}

const plainFinishes = new WeakMap<SourceMaterial, Finish>();

function plainFinish(source: string, material: SourceMaterial): Finish {
  const id = `source.${source}.${material.id}`;
  let finish = plainFinishes.get(material);
  if (finish?.id !== id) {
    const clear = material.opacity < 0.95;
    finish = {
      ...PLAIN_FINISH,
      id,
      name: material.name || material.id,
      family: 'plain',
      baseColour: material.colour,
      ...knownOptics(material),
      opacity: clear ? Math.max(0.05, material.opacity) : 1,
      ...(material.texture && laidOut(material.texture)),
    };
    plainFinishes.set(material, finish);
  }
  return finish;
}
