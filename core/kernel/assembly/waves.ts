/** Waves on water, see core/finish/waves.ts. */

/** Slopes of the surface at the last place asked for. */
export let alongX: f32 = 0;
export let alongY: f32 = 0;

/** Slopes along x and y, at a place (m) and time (s), of the waves in a table. */
export function waveSlopes(wave: usize, count: i32, x: f32, y: f32, time: f32): void {
  alongX = alongY = 0;
  for (let i = 0; i < count; i++) {
    const kx = load<f32>(wave),
      ky = load<f32>(wave, 4);
    const pull = load<f32>(wave, 8) * Mathf.sin(kx * x + ky * y + load<f32>(wave, 12) - load<f32>(wave, 16) * time);
    alongX -= pull * kx;
    alongY -= pull * ky;
    wave += 32;
  }
}
