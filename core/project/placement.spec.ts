import { describe, expect, it } from 'vitest';
import { transformPoint } from '../geometry/mat4';
import { lampFrame } from '../lamp/frame';
import { applyChange, EMPTY_MODEL } from '../model/model';
import { testChange, testElement } from '../model/testing';
import { AS_IT_COMES, matchedPlacement, placedModel, placementByBase, placementTransform, type Placement } from './placement';
import { orderOf, placedSources } from './placed-sources'; // prettier-ignore

const at = (extra: Partial<Placement>): Placement => ({ ...AS_IT_COMES, ...extra });
const near = (got: readonly number[], wanted: readonly number[], digits = 9) => {
  got.forEach((v, i) => {
    expect(v).toBeCloseTo(wanted[i]!, digits);
  });
};

const model = applyChange(
  EMPTY_MODEL,
  testChange({
    elements: [testElement('a', { transform: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 2, 0, 1, 1] }), testElement('b')],
    luminaires: [{ id: 'l', name: 'L', circuit: 'C', position: [0, 1, 2], direction: [1, 0, 0], fluxLm: 1, colourTemperatureK: 3000, beamDeg: 60, dim: 1 }],
    cameras: [{ id: 'c', name: 'C', position: [1, 0, 0], target: [2, 0, 0], focalMm: 35 }],
    camera: { position: [0, 0, 1], target: [0, 1, 1], focalMm: 35 },
    site: { name: 'Here', latitudeDeg: 57, longitudeDeg: -4, elevationM: 4, trueNorthDeg: -12 },
  }),
); // prettier-ignore

describe('a placed model', () => {
  it('is scaled, tipped from y up, turned and moved, with its lamps, cameras and north', () => {
    const placement = at({ position: [10, 20, 30], turnDeg: 90, scale: 2 });
    const placed = placedModel(model, placement);
    near(transformPoint(placed.elements.get('a')!.transform, [1, 0, 0]), [10, 26, 32]);
    near(placed.luminaires.get('l')!.position, [8, 20, 34]);
    near(placed.luminaires.get('l')!.direction, [0, 1, 0]);
    near(placed.cameras.get('c')!.target, [10, 24, 30]);
    near(placed.camera!.target, [8, 20, 32]);
    // Turned anticlockwise by a quarter, what was 12 degrees to the left of y is now 102 to its left.
    expect(placed.site!.trueNorthDeg).toBeCloseTo(-102, 9);
    near(transformPoint(placementTransform(at({ up: 'y' })), [1, 2, 3]), [1, -3, 2]);
    const tops = { z: [0, 0, 1], y: [0, 1, 0], '-y': [0, -1, 0], x: [1, 0, 0], '-x': [-1, 0, 0] } as const;
    for (const [up, axis] of Object.entries(tops)) near(transformPoint(placementTransform(at({ up: up as keyof typeof tops })), axis), [0, 0, 1]); // prettier-ignore
  });

  it('is the model itself when it stands as it comes, and copies only the elements that an edit changed', () => {
    expect(placedModel(model, undefined)).toBe(model);
    const placement = at({ turnDeg: 45 });
    const before = placedModel(model, placement);
    expect(placedModel(model, placement)).toBe(before);
    const edited = applyChange(model, testChange({ elements: [testElement('b', { name: 'edited' })] }));
    const after = placedModel(edited, placement);
    expect(after.elements.get('a')).toBe(before.elements.get('a'));
    expect(after.elements.get('b')!.name).toBe('edited');
  });

  it('comes in the order that was chosen, new ones last', () => {
    const entries = new Map<string, unknown>([['source-order', ['z', 'gone', 'm']]]);
    expect(orderOf(['a', 'm', 'z'], entries)).toEqual(['z', 'm', 'a']);
    expect(placedSources([{ id: 'a', model }, { id: 'z', model }], entries).map((s) => s.id)).toEqual(['z', 'a']); // prettier-ignore
  });
});

it('lamps of a turned source that shine straight down are turned about their axis', () => {
  const down = { ...model.luminaires.get('l')!, direction: [0, 0, -1] as [number, number, number], turnDeg: 20 };
  const lamps = applyChange(EMPTY_MODEL, testChange({ luminaires: [down] }));
  const { direction, turnDeg } = placedModel(lamps, at({ turnDeg: 90 })).luminaires.get('l')!;
  const before = lampFrame(down.direction, 20).right;
  near(lampFrame(direction, turnDeg!).right, [-before[1], before[0], 0]);
});

describe('matching points', () => {
  it('moves a source so that one point of it lies on another', () => {
    expect(matchedPlacement(at({ position: [1, 1, 1], turnDeg: 30 }), [[4, 5, 6]], [[0, 0, 0]])).toEqual(
      at({ position: [-3, -4, -5], turnDeg: 30 }),
    );
  });

  it('turns it about the first by the second', () => {
    const now = at({ position: [3, 0, 0], turnDeg: 10 });
    const own = [[2, 0, 0], [2, 7, 1]] as const; // prettier-ignore
    const world = own.map((p) => transformPoint(placementTransform(now), p));
    const wanted = [[100, 50, 4], [93, 50, 4]] as const; // prettier-ignore
    const placed = placementTransform(matchedPlacement(now, world, wanted));
    near(transformPoint(placed, own[0]), [100, 50, 4]);
    near(transformPoint(placed, own[1]).slice(0, 2), [93, 50]);
  });
});

describe('base points', () => {
  it('lay two files of one map on each other, whatever their origins and axes', () => {
    const other = { eastM: 412_000, northM: 5_310_000, heightM: 4, turnDeg: 30 };
    const own = { eastM: 412_050, northM: 5_310_020, heightM: 6.5, turnDeg: -15 };
    const map = ({ eastM, northM, heightM, turnDeg }: typeof own, [x, y, z]: readonly [number, number, number]) => {
      const turn = (turnDeg * Math.PI) / 180;
      return [eastM + x * Math.cos(turn) - y * Math.sin(turn), northM + x * Math.sin(turn) + y * Math.cos(turn), heightM + z];
    };
    const placed = placementTransform(placementByBase(own, other));
    for (const point of [
      [0, 0, 0],
      [12, -3, 2],
    ] as const)
      near(map(other, transformPoint(placed, point)), map(own, point), 6);
  });
});
