import type { Drawing } from '../project/style';
import { byHand, paint } from './by-hand';
import { drawLines } from './lines';

/** Makes a developed picture (four values a pixel) what its style asks for: washes, paper, and lines where `mask` has them. */
export function drawOver(
  rgba: Uint8ClampedArray | Uint8Array | Uint16Array,
  { width, height }: { width: number; height: number },
  mask: Float32Array | undefined,
  drawing: Drawing,
): void {
  const { lines, paper, sketch = 0, wash = 0 } = drawing;
  if (wash > 0) paint(rgba, width, height, wash);
  if (lines === 0 && paper === 0) return;
  const drawn = mask ?? new Float32Array(width * height);
  drawLines(rgba, sketch > 0 ? byHand(drawn, width, height, sketch) : drawn, { lines, paper });
}
