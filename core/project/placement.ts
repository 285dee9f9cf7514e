import * as v from 'valibot';
import { compose, multiply, rotationZ, transformPoint, translation, Z_UP, type Mat4 } from '../geometry/mat4';
import { movedFrame } from '../lamp/frame';
import type { Vec3 } from '../geometry/vec3';
import type { Luminaire, BasePoint, Camera, ModelElement } from '../model/schema';
import type { Model } from '../model/model';

const finite = v.pipe(v.number(), v.finite(), v.minValue(-1e7), v.maxValue(1e7));

export const placementSchema = v.strictObject({
  /** Where the source's origin lies in the project, metres. */
  position: v.strictTuple([finite, finite, finite]),
  /** Anticlockwise seen from above. */
  turnDeg: finite,
  /** Above all for files that do not say their unit. */
  scale: v.pipe(finite, v.minValue(1e-6), v.maxValue(1e6)),
  /** Which axis of the source, as it comes, points up. */
  up: v.picklist(['z', 'y', '-y', 'x', '-x']),
});
export type Placement = v.InferOutput<typeof placementSchema>;

export const AS_IT_COMES: Placement = { position: [0, 0, 0], turnDeg: 0, scale: 1, up: 'z' };

const half = Math.SQRT1_2;
/** What brings an axis to z. */
const RAISED: Readonly<Record<Placement['up'], Mat4 | undefined>> = {
  z: undefined,
  y: Z_UP,
  '-y': compose([0, 0, 0], [-half, 0, 0, half], [1, 1, 1]),
  x: compose([0, 0, 0], [0, -half, 0, half], [1, 1, 1]),
  '-x': compose([0, 0, 0], [0, half, 0, half], [1, 1, 1]),
};

const radians = (degrees: number) => (degrees * Math.PI) / 180;

/** From the source's coordinates to the project's. */
export function placementTransform({ position, turnDeg, scale, up }: Placement): Mat4 {
  const turned = multiply(multiply(translation(...position), rotationZ(radians(turnDeg))), compose([0, 0, 0], [], [scale, scale, scale]));
  const raised = RAISED[up];
  return raised ? multiply(turned, raised) : turned;
}

/** Placed copies, so that an edit of one element places that element alone. */
const placedElements = new WeakMap<Placement, WeakMap<ModelElement, ModelElement>>();
const placedModels = new WeakMap<Model, { placement: Placement; placed: Model }>();

/** A model with everything in it moved to where it is placed; without a placement the model itself. */
export function placedModel(model: Model, placement: Placement | undefined): Model {
  if (!placement) return model;
  const known = placedModels.get(model);
  if (known?.placement === placement) return known.placed;
  const m = placementTransform(placement);
  let copies = placedElements.get(placement);
  if (!copies) placedElements.set(placement, (copies = new WeakMap()));
  const elements = new Map<string, ModelElement>();
  for (const [id, element] of model.elements) {
    let copy = copies.get(element);
    if (!copy) copies.set(element, (copy = { ...element, transform: [...multiply(m, element.transform)] }));
    elements.set(id, copy);
  }
  const camera = <T extends Camera>(c: T): T => ({ ...c, position: transformPoint(m, c.position), target: transformPoint(m, c.target) });
  const placed: Model = {
    ...model,
    elements,
    luminaires: new Map(
      [...model.luminaires].map(([id, l]): [string, Luminaire] => {
        const { direction, turnDeg } = movedFrame(m, l.direction, l.turnDeg ?? 0);
        return [id, { ...l, position: [...transformPoint(m, l.position)], direction: [...direction], turnDeg }];
      }),
    ),
    cameras: new Map([...model.cameras].map(([id, c]) => [id, camera(c)])),
    site: model.site && { ...model.site, trueNorthDeg: (model.site.trueNorthDeg - placement.turnDeg) % 360 },
    camera: model.camera && camera(model.camera),
  };
  placedModels.set(model, { placement, placed });
  return placed;
}

/**
 * The placement after a source is moved so that points of it, as it is placed now, come to lie on others: the first pair says
 * the move, a second one the turn about it. Heights of the second pair are not heeded.
 */
export function matchedPlacement(now: Placement, from: readonly Vec3[], to: readonly Vec3[]): Placement {
  const [a, b] = [from[0]!, to[0]!];
  let turn = 0;
  if (from[1] && to[1]) turn = Math.atan2(to[1][1] - b[1], to[1][0] - b[0]) - Math.atan2(from[1][1] - a[1], from[1][0] - a[0]);
  const moved = transformPoint(multiply(multiply(translation(...b), rotationZ(turn)), translation(-a[0], -a[1], -a[2])), now.position);
  return { ...now, position: [...moved], turnDeg: tidy(now.turnDeg + (turn * 180) / Math.PI) };
}

/** The placement that lays a source by its base point onto another by that one's, both as they come. */
export function placementByBase(own: BasePoint, other: BasePoint): Placement {
  const turn = radians(other.turnDeg);
  const [east, north] = [own.eastM - other.eastM, own.northM - other.northM];
  return {
    ...AS_IT_COMES,
    position: [
      east * Math.cos(turn) + north * Math.sin(turn),
      -east * Math.sin(turn) + north * Math.cos(turn),
      own.heightM - other.heightM,
    ],
    turnDeg: tidy(own.turnDeg - other.turnDeg),
  };
}

/** Within -180 and 180, without the last digits' noise. */
function tidy(degrees: number): number {
  const turn = ((((degrees + 180) % 360) + 360) % 360) - 180;
  return Math.round(turn * 1e6) / 1e6;
}
