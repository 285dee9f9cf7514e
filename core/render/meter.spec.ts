import { describe, expect, it } from 'vitest';
import type { Walk } from '../camera/walk';
import { Denoiser } from '../denoise/denoiser';
import { shippedWeights } from '../denoise/testing';
import { KernelPool } from '../kernel/pool';
import { matt, quad, testScene, uniformSky } from '../kernel/testing';
import { SCREEN_WHITE, whiteOf } from '../image/white-balance';
import { developmentAt, meterWalk, type Exposures } from './meter';
import { MovingPicture } from './moving-picture';

const evAt = (exposures: Exposures, seconds: number) => developmentAt(exposures, seconds).ev100;

/** A roof with walls that stands over half of the way; the other half lies under an even sky. */
const hall = () => {
  const side = (x: number) => quad([x, -5, 0], [x, 5, 0], [x, 5, 4], [x, -5, 4]);
  const parts = [
    quad([-40, -40, 0], [40, -40, 0], [40, 40, 0], [-40, 40, 0]),
    quad([0, -5, 4], [0, 5, 4], [30, 5, 4], [30, -5, 4]),
    quad([0, -5, 0], [30, -5, 0], [30, -5, 4], [0, -5, 4]),
    quad([0, 5, 0], [30, 5, 0], [30, 5, 4], [0, 5, 4]),
    side(30),
  ];
  return testScene(parts.map((mesh) => ({ mesh, finish: matt(0.3) })), uniformSky(3000)); // prettier-ignore
};
const walk: Walk = {
  stops: [
    { position: [-12, 0, 1.6], target: [-20, 0, 1], focalMm: 24 },
    { position: [22, 0, 1.6], target: [29, 0, 1.2], focalMm: 24 },
  ],
  seconds: 10,
  eased: false,
};

describe('a walk’s exposure', () => {
  it('is that of each place: outside less is let in than inside, without a jump between', async () => {
    const pool = new KernelPool(hall(), () => { throw new Error('none'); }, 0); // prettier-ignore
    const exposures = (await meterWalk(new MovingPicture(pool, new Denoiser(pool, shippedWeights)), walk, 16 / 9))!;
    const [outside, inside] = [evAt(exposures, 0), evAt(exposures, 10)];
    expect(outside - inside).toBeGreaterThan(2);
    let most = 0;
    for (let i = 1; i <= 250; i++) most = Math.max(most, Math.abs(evAt(exposures, i / 25) - evAt(exposures, (i - 1) / 25)));
    // Under a sixth of a stop from one picture to the next.
    expect(most).toBeLessThan(1 / 6);
  });

  it('does not adapt across a cut, however near to it', async () => {
    const pool = new KernelPool(hall(), () => { throw new Error('none'); }, 0); // prettier-ignore
    const [outside, inside] = walk.stops as [Walk['stops'][number], Walk['stops'][number]];
    const cut: Walk = {
      ...walk,
      stops: [
        { ...outside, holdS: 2 },
        { ...inside, by: 'cut', holdS: 2 },
      ],
      seconds: 0.1,
    };
    const exposures = (await meterWalk(new MovingPicture(pool, new Denoiser(pool, shippedWeights)), cut, 16 / 9))!;
    const at = exposures.shots[1]!.fromS;
    // A reading's own noise, with one sample a pixel.
    expect(Math.abs(evAt(exposures, at - 0.04) - evAt(exposures, 0))).toBeLessThan(0.5);
    expect(Math.abs(evAt(exposures, at + 0.04) - evAt(exposures, at + 2))).toBeLessThan(0.5);
    expect(evAt(exposures, at - 0.04) - evAt(exposures, at + 0.04)).toBeGreaterThan(2);
  });

  it('goes straight between its readings, and holds at the ends', () => {
    const white = SCREEN_WHITE;
    const shot = (fromS: number, readings: [at: number, ev100: number][], dissolves = false) => ({ fromS, dissolves, readings: readings.map(([at, ev100]) => ({ at, ev100, white })) }); // prettier-ignore
    const exposures = { shots: [shot(0, [[0, 10], [2, 12], [4, 8]])] }; // prettier-ignore
    expect([-1, 0, 1, 2, 3, 4, 9].map((at) => evAt(exposures, at))).toEqual([10, 10, 11, 12, 10, 8, 8]);
    expect(evAt({ shots: [shot(0, [[0, 9]])] }, 2)).toBe(9);
    // At a cut it jumps; while shots dissolve it passes over.
    const cut = (dissolves: boolean) => ({ shots: [shot(0, [[0, 8], [4, 8]]), shot(4, [[4, 14], [8, 14]], dissolves)] }); // prettier-ignore
    expect([3.9, 3.999, 4, 4.1].map((at) => evAt(cut(false), at))).toEqual([8, 8, 14, 14]);
    expect([3.4, 4, 4.6].map((at) => evAt(cut(true), at))).toEqual([8, 11, 14]);
    const lamplit = whiteOf({ kelvin: 2700, tint: 0 });
    const turning = developmentAt(
      {
        shots: [
          {
            fromS: 0,
            dissolves: false,
            readings: [
              { at: 0, ev100: 9, white },
              { at: 2, ev100: 5, white: lamplit },
            ],
          },
        ],
      },
      1,
    );
    expect(turning.white.x).toBeCloseTo((white.x + lamplit.x) / 2, 9);
  });
});
