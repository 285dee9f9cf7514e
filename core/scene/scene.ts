import { multiply, translation, type Mat4 } from '../geometry/mat4';
import { turnedKey } from '../geometry/mesh';
import { PLAIN_FINISH, type Finish } from '../finish/finish';
import { beamOf, type Beam } from '../lamp/intensity';
import { lampColour } from '../lamp/colour-temperature';
import type { Model } from '../model/model';
import type { Luminaire, SourceMaterial } from '../model/schema';
import { chooseFinish, entry, findFinish, overrideKey, type Entries } from '../project/project';
import { shownElements } from '../project/visibility';

/** One source as the scene takes it. */
export interface SceneSource {
  id: string;
  model: Model;
}

/** A mesh placed in the world with one finish. */
export interface SceneInstance {
  source: string;
  element: string;
  part: number;
  material: string;
  mesh: string;
  transform: Mat4;
  finish: Finish;
  /** Level of the lamp behind it, for finishes that give light. */
  emissionScale: number;
  /** Lens of a lamp: seen lit, but the lamp itself gives the light. */
  lens: boolean;
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
}

/** What both pictures show: everything is resolved, nothing refers back to the project. */
export interface Scene {
  instances: SceneInstance[];
  lamps: SceneLamp[];
}

const LAMP_RADIUS_M = 0.04;

/** Compiles models and decisions into one scene. */
export function compileScene(sources: readonly SceneSource[], entries: Entries): Scene {
  const instances: SceneInstance[] = [];
  const lamps: SceneLamp[] = [];
  for (const source of sources) {
    const { model } = source;
    const finishes = new Map<string, Finish>();
    for (const material of model.materials.values()) finishes.set(material.id, finishOfMaterial(entries, source.id, material));
    const byElement = new Map<string, Luminaire>();
    for (const luminaire of model.luminaires.values()) {
      if (luminaire.element !== null) byElement.set(luminaire.element, luminaire);
    }
    const shown = shownElements(entries, source.id, model);
    for (const element of model.elements.values()) {
      if (!shown(element)) continue;
      const override = entry(entries, overrideKey(source.id, element.id));
      const own = override && findFinish(entries, override.finish);
      const luminaire = byElement.get(element.id);
      const by = entry(entries, `nudge/${source.id}/${element.id}`);
      const transform = by ? multiply(translation(...by), element.transform) : element.transform;
      const turned = entry(entries, `turned/${source.id}/${element.id}`) === true;
      for (const [part, { mesh, material }] of element.parts.entries()) {
        const finish = own ?? finishes.get(material)!;
        const lens = luminaire !== undefined && finish.emissionCdM2 > 0;
        instances.push({
          source: source.id,
          element: element.id,
          part,
          material,
          mesh: turned ? turnedKey(mesh) : mesh,
          transform,
          finish,
          emissionScale: lens ? luminaire.dim : 1,
          lens,
        });
      }
    }
    for (const luminaire of model.luminaires.values()) {
      const carrier = luminaire.element === null ? undefined : model.elements.get(luminaire.element);
      if (luminaire.dim > 0 && (!carrier || shown(carrier))) lamps.push(lampOf(source.id, luminaire));
    }
  }
  return { instances, lamps };
}

export function lampOf(source: string, luminaire: Luminaire): SceneLamp {
  return {
    source,
    id: luminaire.id,
    position: luminaire.position,
    axis: luminaire.direction,
    beam: beamOf(luminaire),
    colour: lampColour(luminaire.colourTemperatureK),
    radiusM: LAMP_RADIUS_M,
  };
}

/** The finish chosen for a source material, or a plain one in the model's own colour. */
export function finishOfMaterial(entries: Entries, source: string, material: SourceMaterial): Finish {
  return chooseFinish(entries, source, material).finish ?? plainFinish(source, material);
}

function plainFinish(source: string, material: SourceMaterial): Finish {
  const clear = material.opacity < 0.95;
  return {
    ...PLAIN_FINISH,
    id: `source.${source}.${material.id}`,
    name: material.name || material.id,
    family: 'plain',
    baseColour: material.colour,
    opacity: clear ? Math.max(0.05, material.opacity) : 1,
    maps: material.texture ? `image:${material.texture.image}` : null,
    widthM: material.texture?.widthM ?? 1,
    heightM: material.texture?.heightM ?? 1,
  };
}
