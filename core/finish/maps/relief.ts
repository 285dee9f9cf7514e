/** Writes normal x and y (128 is level, +x along u, +y along v) of a height field that repeats, metres, into red and green. */
export function encodeNormalXy(heightsM: Float32Array, size: number, widthM: number, heightM: number, surface: Uint8Array): void {
  const stepX = (2 * widthM) / size;
  const stepY = (2 * heightM) / size;
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const at = (i: number, j: number) => heightsM[((j + size) % size) * size + ((i + size) % size)]!;
      const gx = -(at(x + 1, y) - at(x - 1, y)) / stepX;
      const gy = -(at(x, y + 1) - at(x, y - 1)) / stepY;
      const l = Math.sqrt(gx * gx + gy * gy + 1);
      const i = (y * size + x) * 4;
      surface[i] = Math.round(128 + (gx / l) * 127);
      surface[i + 1] = Math.round(128 + (gy / l) * 127);
    }
}
