import type { Vec3 } from '../geometry/vec3';
import type { Model } from '../model/model';
import type { BasePoint } from '../model/schema';

/** Beyond this from the origin, single precision is coarser than a millimetre. */
const FAR_M = 10_000;

/**
 * Brings a model that stands far out near the origin, by whole kilometres, and says in its base point where that is. With `before`,
 * the base point of its last revision, it is brought there again, so that an edit does not move everything; so is one that its
 * reader has brought near.
 */
export function nearOrigin(model: Model, before: BasePoint | undefined, broughtNear = false): Model {
  const own = model.basePoint ?? { eastM: 0, northM: 0, heightM: 0, turnDeg: 0 };
  const turn = (own.turnDeg * Math.PI) / 180;
  const toMap = (x: number, y: number) => [
    own.eastM + x * Math.cos(turn) - y * Math.sin(turn),
    own.northM + x * Math.sin(turn) + y * Math.cos(turn),
  ];
  let shift = [0, 0, 0];
  if (before && (broughtNear || isFar(model))) {
    const [east, north] = [before.eastM - own.eastM, before.northM - own.northM];
    shift = [east * Math.cos(turn) + north * Math.sin(turn), -east * Math.sin(turn) + north * Math.cos(turn), before.heightM - own.heightM];
  }
  if (isFar(model, shift)) shift = middleOf(model).map((v) => (Math.abs(v) > FAR_M ? Math.round(v / 1000) * 1000 : 0));
  const [dx, dy, dz] = shift as [number, number, number];
  if (dx === 0 && dy === 0 && dz === 0) return model;
  const near = (p: Vec3) => [p[0] - dx, p[1] - dy, p[2] - dz] as [number, number, number];
  const [eastM, northM] = toMap(dx, dy) as [number, number];
  return {
    ...model,
    elements: new Map(
      [...model.elements].map(([id, e]) => {
        const transform = [...e.transform];
        [dx, dy, dz].forEach((d, k) => (transform[12 + k]! -= d));
        return [id, { ...e, transform }];
      }),
    ),
    luminaires: new Map([...model.luminaires].map(([id, l]) => [id, { ...l, position: near(l.position) }])),
    cameras: new Map([...model.cameras].map(([id, c]) => [id, { ...c, position: near(c.position), target: near(c.target) }])),
    basePoint: { eastM, northM, heightM: own.heightM + dz, turnDeg: own.turnDeg },
  };
}

/** The place that most of a model stands about: the median of its elements' origins. */
function middleOf(model: Model): number[] {
  const places = [...model.elements.values()].map((e) => e.transform);
  return [12, 13, 14].map((k) => places.map((t) => t[k]!).sort((a, b) => a - b)[places.length >> 1] ?? 0);
}

function isFar(model: Model, shift: readonly number[] = [0, 0, 0]): boolean {
  return middleOf(model).some((v, k) => Math.abs(v - shift[k]!) > FAR_M);
}
