import { describe, expect, it } from 'vitest';
import type { Camera, SavedCamera } from '../../../core/model/schema';
import { FirstLook, type Sight } from './first-look';

const START: Camera = { position: [0, -10, 2], target: [0, 0, 2], focalMm: 26 };
const camera = (x: number): Camera => ({ position: [x, 0, 1], target: [x + 1, 0, 1], focalMm: 35 });
const bounds = (size: number) => () => ({
  min: [0, 0, 0] as [number, number, number],
  max: [size, size, size] as [number, number, number],
});
const model = (own?: Camera, ...kept: Camera[]): { camera?: Camera; cameras: Map<string, SavedCamera> } => ({
  ...(own && { camera: own }),
  cameras: new Map(kept.map((c, i) => [String(i), { ...c, id: String(i), name: 'View' }])),
});
const sight = (sight: Partial<Sight> = {}): Sight => ({
  models: [model()],
  isEmpty: false,
  isWhole: () => true,
  bounds: bounds(4),
  aspect: 1.5,
  ...sight,
});

describe('the first look', () => {
  it('is the author’s, or from the first camera that a model brings', () => {
    expect(new FirstLook(START).at(START, sight({ models: [model(), model(camera(1), camera(2))] }))).toEqual(camera(1));
    expect(new FirstLook(START).at(START, sight({ models: [model(undefined, camera(2), camera(3))] }))).toEqual(camera(2));
    const look = new FirstLook(START);
    expect(look.at(START, sight({ models: [model(START)] }))).toBeUndefined();
    expect(look.at(START, sight())).toBeUndefined();
  });

  it('is at all of what has come, until all of it has', () => {
    const look = new FirstLook(START);
    const half = look.at(START, sight({ isWhole: () => false, bounds: bounds(2) }))!;
    const whole = look.at(half, sight({ bounds: bounds(8) }))!;
    expect(Math.hypot(...whole.position)).toBeGreaterThan(Math.hypot(...half.position));
    expect(look.at(whole, sight({ bounds: bounds(80) }))).toBeUndefined();
  });

  it('leaves whoever has moved where they are; another building is looked at anew', () => {
    const look = new FirstLook(START);
    const moved = { ...START };
    expect(look.at(moved, sight())).toBeUndefined();
    expect(look.at(moved, sight({ isEmpty: true }))).toBeUndefined();
    expect(look.at(moved, sight())).toBeDefined();
    // Nothing is known of it yet.
    expect(new FirstLook(START).at(START, sight({ models: [] }))).toBeUndefined();
    expect(new FirstLook(START).at(START, sight({ bounds: () => undefined }))).toBeUndefined();
  });
});
