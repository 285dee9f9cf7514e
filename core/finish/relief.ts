/**
 * Surfaces with relief: what their height map says lies below the modelled face, down to the finish's relief. A ray that
 * meets the face goes on into it in even steps until it is under the relief, and the place is then narrowed down by halving
 * (Policarpo, Oliveira & Comba 2005, "Real-Time Relief Mapping on Arbitrary Polygonal Surfaces"). The kernel does the same
 * for light on its way out (assembly/relief.ts), so that stones throw shadows on their joints.
 */
export const RELIEF_STEP = 1 / 256;
export const RELIEF_LEAST_STEPS = 8;
export const RELIEF_MOST_STEPS = 48;
export const RELIEF_HALVINGS = 5;

/** Map coordinates and level (1: the face, 0: the ground) of a ray. */
export interface ReliefPoint {
  s: number;
  t: number;
  level: number;
}

/** Where a ray meets the relief. `ds`, `dt`: how far it goes in repeats on its way from the face to the ground. */
export function descend(height: (s: number, t: number) => number, s: number, t: number, ds: number, dt: number): ReliefPoint {
  const steps = Math.min(RELIEF_MOST_STEPS, Math.max(RELIEF_LEAST_STEPS, Math.ceil(Math.hypot(ds, dt) / RELIEF_STEP)));
  const under = (x: number) => 1 - x <= height(s + ds * x, t + dt * x);
  let [before, after] = [0, 1];
  for (let i = 1; i <= steps; i++) {
    after = i / steps;
    if (under(after)) break;
    before = after;
  }
  for (let i = 0; i < RELIEF_HALVINGS; i++) {
    const middle = (before + after) / 2;
    if (under(middle)) after = middle;
    else before = middle;
  }
  return { s: s + ds * after, t: t + dt * after, level: 1 - after };
}

/** `reliefAt(st, toGround)`: map coordinates of what is seen through the face at `st`; `heightOf(st)` is the map's. */
export const reliefGlsl = (step: number, mostSteps: number): string => /* glsl */ `
vec2 reliefAt(vec2 st, vec2 toGround) {
  float steps = clamp(ceil(length(toGround) / ${step.toFixed(8)}), ${RELIEF_LEAST_STEPS.toFixed(1)}, ${mostSteps.toFixed(1)});
  float before = 0.0;
  float after = 1.0;
  for (float i = 1.0; i <= steps; i++) {
    after = i / steps;
    if (1.0 - after <= heightOf(st + toGround * after)) break;
    before = after;
  }
  for (int i = 0; i < ${String(RELIEF_HALVINGS)}; i++) {
    float middle = (before + after) * 0.5;
    if (1.0 - middle <= heightOf(st + toGround * middle)) after = middle;
    else before = middle;
  }
  return st + toGround * after;
}
`;
