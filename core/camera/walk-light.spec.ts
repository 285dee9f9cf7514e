import { describe, expect, it } from 'vitest';
import type { Stop, Walk } from './walk';
import { isLit, WalkLight } from './walk-light';

const at = (x: number, more: Partial<Stop> = {}): Stop => ({ position: [x, 0, 1.6], target: [x + 4, 0, 1.6], focalMm: 28, ...more });
/** Ten metres in ten seconds. */
const walk = (stops: Stop[]): Walk => ({ stops, seconds: 10, eased: false });
const times: Record<string, number> = { noon: 720, dusk: 1120 };
const light = (stops: Stop[]) => new WalkLight(walk(stops), (id) => times[id]);

describe('light along a walk', () => {
  it('is as it is where no stop tells anything', () => {
    const stops = [at(0), at(10)];
    expect(isLit(walk(stops))).toBe(false);
    expect(light(stops).at(5)).toEqual({});
  });

  it('has the time of day run evenly from one stop that tells it to the next, past those that tell none', () => {
    const along = light([at(0, { minutes: 720 }), at(5), at(10, { minutes: 1120 })]);
    expect([0, 2.5, 5, 7.5, 10, 12].map((seconds) => along.at(seconds).minutes)).toEqual([720, 820, 920, 1020, 1120, 1120]);
    expect(light([at(0), at(5, { minutes: 900 }), at(10)]).at(2)).toEqual({});
  });

  it('has the sun run from the time of one condition to that of the next, whose lamps come on where it is reached', () => {
    const along = light([at(0, { condition: 'noon' }), at(10, { condition: 'dusk' })]);
    expect(along.at(5)).toEqual({ condition: 'noon', minutes: 920 });
    expect(along.at(10)).toEqual({ condition: 'dusk', minutes: 1120 });
  });

  it('shows what a stop tells from there on, until another tells otherwise', () => {
    const shown = (layer: string) => ({ visibility: { decisions: { [`layer/s/${layer}`]: false }, isolated: [] }, variants: {} });
    const stops = [at(0), at(5, { shown: shown('Roof') }), at(10, { shown: shown('Site') })];
    expect(isLit(walk(stops))).toBe(true);
    const along = light(stops);
    expect([along.at(1), along.at(6), along.at(10)]).toEqual([{}, { shown: shown('Roof') }, { shown: shown('Site') }]);
  });

  it('stands still while the camera is held, and jumps where one shot is cut to the next', () => {
    const along = light([at(0, { minutes: 600, holdS: 4 }), at(10, { minutes: 700 }), at(20, { by: 'cut', minutes: 900 }), at(20, { minutes: 900 })]);
    expect(along.at(3).minutes).toBe(600);
    expect(along.at(4).minutes).toBeCloseTo(600, 6);
    // Four seconds held, ten gone.
    expect(along.at(14 - 1e-3).minutes).toBeCloseTo(700, 0);
    expect(along.at(14 + 1e-3).minutes).toBe(900);
  }); // prettier-ignore

  it('holds an option until another is told', () => {
    const option = { source: 's', option: 'b' };
    const along = light([at(0), at(5, { option }), at(10)]);
    expect([1, 6, 10].map((seconds) => along.at(seconds))).toEqual([{}, { option }, { option }]);
  });
});
