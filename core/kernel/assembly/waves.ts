/** Waves on water, see core/finish/waves.ts. */

/** Slopes of the surface at the last place asked for, and the variance of the slopes (along and across together) that are too fine to be seen. */
export let alongX: f32 = 0;
export let alongY: f32 = 0;
export let unseen: f32 = 0;

const TURN: f32 = 6.2831853;

/**
 * Slopes along x and y, at a place (m) and time (s), of the waves in a table, seen along a unit direction by a pixel that is so many
 * metres wide there. What repeats within two pixels fades out and counts to what is not seen.
 */
export function waveSlopes(wave: usize, count: i32, x: f32, y: f32, time: f32, dx: f32, dy: f32, dz: f32, pixelM: f32): void {
  alongX = alongY = 0;
  unseen = load<f32>(wave, 20);
  const level = sqrt<f32>(dx * dx + dy * dy);
  const ux: f32 = level > 0 ? dx / level : 1,
    uy: f32 = level > 0 ? dy / level : 0;
  const far = pixelM / max<f32>(<f32>0.002, abs(dz));
  for (let i = 0; i < count; i++, wave += 32) {
    const kx = load<f32>(wave),
      ky = load<f32>(wave, 4),
      amplitude = load<f32>(wave, 8);
    const ahead = (kx * ux + ky * uy) * far,
      aside = (ky * ux - kx * uy) * pixelM;
    const span = sqrt<f32>(ahead * ahead + aside * aside);
    const shown = max<f32>(0, min<f32>(1, TURN / max<f32>(span, <f32>1e-6) - 1));
    unseen += <f32>0.5 * (1 - shown * shown) * amplitude * amplitude * (kx * kx + ky * ky);
    if (shown <= 0) continue;
    const pull = shown * amplitude * Mathf.sin(kx * x + ky * y + load<f32>(wave, 12) - load<f32>(wave, 16) * time);
    alongX -= pull * kx;
    alongY -= pull * ky;
  }
}
