import type { MadeMaps } from './photo-messages';

/** Two repeats each way of a map set, lit from the upper left: shows seams, repeat and relief. */
export function paintPreview(canvas: HTMLCanvasElement, { size, base, surface }: MadeMaps): void {
  const side = size * 2;
  const image = new ImageData(side, side);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      // Maps have their first row at the bottom.
      const i = ((size - 1 - (y % size)) * size + (x % size)) * 4;
      const nx = (surface[i]! - 128) / 127;
      const ny = (surface[i + 1]! - 128) / 127;
      const nz = Math.sqrt(Math.max(0, 1 - nx * nx - ny * ny));
      const lit = Math.max(0, -0.5 * nx + 0.5 * ny + 0.707 * nz) / 0.707;
      const o = (y * side + x) * 4;
      for (let k = 0; k < 3; k++) image.data[o + k] = base[i + k]! * (0.35 + 0.65 * lit);
      image.data[o + 3] = 255;
    }
  canvas.width = canvas.height = side;
  canvas.getContext('2d')!.putImageData(image, 0, 0);
}
