/** Colour adjustment, see core/finish/adjust.ts. */
import { INSTANCE_BRIGHTNESS, INSTANCE_HUE, MAT_ADJUSTED, MAT_ADJUSTMENT, MAT_CONTRAST } from './layout';

/** The adjusted colour. */
export let baseR: f32 = 0;
export let baseG: f32 = 0;
export let baseB: f32 = 0;

/** What one element's have and the finish's adjustment make of the colour; the same as core/finish/adjust.ts. */
export function adjust(p: usize, q: usize, red: f32, green: f32, blue: f32): void {
  baseR = red;
  baseG = green;
  baseB = blue;
  const cosine = load<f32>(p, INSTANCE_HUE),
    sine = load<f32>(p, INSTANCE_HUE + 4),
    brightness = load<f32>(p, INSTANCE_BRIGHTNESS);
  if (sine != 0) {
    const y = <f32>0.213 * baseR + <f32>0.715 * baseG + <f32>0.072 * baseB;
    const r = y + cosine * (baseR - y) + sine * (<f32>-0.213 * baseR - <f32>0.715 * baseG + <f32>0.928 * baseB),
      g = y + cosine * (baseG - y) + sine * (<f32>0.143 * baseR + <f32>0.14 * baseG - <f32>0.283 * baseB),
      b = y + cosine * (baseB - y) + sine * (<f32>-0.787 * baseR + <f32>0.715 * baseG + <f32>0.072 * baseB);
    baseR = max<f32>(0, r);
    baseG = max<f32>(0, g);
    baseB = max<f32>(0, b);
  }
  if (brightness != 1) {
    baseR = min<f32>(1, baseR * brightness);
    baseG = min<f32>(1, baseG * brightness);
    baseB = min<f32>(1, baseB * brightness);
  }
  if (!load<i32>(q, MAT_ADJUSTED)) return;
  const contrast = load<f32>(q, MAT_CONTRAST);
  const r = adjustedRow(q + MAT_ADJUSTMENT, contrast),
    g = adjustedRow(q + MAT_ADJUSTMENT + 12, contrast),
    b = adjustedRow(q + MAT_ADJUSTMENT + 24, contrast);
  baseR = r;
  baseG = g;
  baseB = b;
}

function adjustedRow(row: usize, contrast: f32): f32 {
  const value = max<f32>(0, load<f32>(row) * baseR + load<f32>(row, 4) * baseG + load<f32>(row, 8) * baseB);
  return min<f32>(1, contrast == 1 ? value : <f32>0.18 * Mathf.pow(value / <f32>0.18, contrast));
}
