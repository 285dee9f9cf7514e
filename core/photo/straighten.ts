import type { LinearPicture } from './picture';

export type Corner = readonly [number, number];
/** Corners of what is flat in reality, in parts of the picture's width and height: top left, top right, bottom right, bottom left. */
export type Corners = readonly [Corner, Corner, Corner, Corner];

export const WHOLE_PICTURE: Corners = [[0, 0], [1, 0], [1, 1], [0, 1]]; // prettier-ignore

/**
 * The projective map that takes the unit square to four corners (Heckbert, "Fundamentals of Texture Mapping and Image
 * Warping", 1989, section 2.2.3): (x, y) = ((a u + b v + c), (d u + e v + f)) / (g u + h v + 1).
 * Undefined where the corners do not go round a convex shape in their order.
 */
export function squareToCorners(corners: Corners): ((u: number, v: number) => [number, number]) | undefined {
  const turns = corners.map(([x, y], i) => {
    const [x1, y1] = corners[(i + 1) % 4]!;
    const [x2, y2] = corners[(i + 2) % 4]!;
    return (x1 - x) * (y2 - y1) - (y1 - y) * (x2 - x1);
  });
  if (!turns.every((turn) => turn > 1e-6)) return undefined;
  const [[x0, y0], [x1, y1], [x2, y2], [x3, y3]] = corners;
  const [sx, sy] = [x0 - x1 + x2 - x3, y0 - y1 + y2 - y3];
  const [dx1, dx2, dy1, dy2] = [x1 - x2, x3 - x2, y1 - y2, y3 - y2];
  const det = dx1 * dy2 - dx2 * dy1;
  const g = (sx * dy2 - dx2 * sy) / det;
  const h = (dx1 * sy - sx * dy1) / det;
  const [a, b, d, e] = [x1 - x0 + g * x1, x3 - x0 + h * x3, y1 - y0 + g * y1, y3 - y0 + h * y3];
  return (u, v) => {
    const w = g * u + h * v + 1;
    return [(a * u + b * v + x0) / w, (d * u + e * v + y0) / w];
  };
}

/** What lies between the corners, straight and seen from the front; each pixel is the mean of `SUB` x `SUB` places. */
export function straightened(picture: LinearPicture, corners: Corners, width: number, height: number): LinearPicture | undefined {
  const map = squareToCorners(corners);
  if (!map) return undefined;
  const data = new Float32Array(width * height * 3);
  const rgb = new Float32Array(3);
  const sub = picture.width > 2 * width || picture.height > 2 * height ? 3 : 2;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const o = (y * width + x) * 3;
      for (let j = 0; j < sub; j++)
        for (let i = 0; i < sub; i++) {
          const [px, py] = map((x + (i + 0.5) / sub) / width, (y + (j + 0.5) / sub) / height);
          sample(picture, px * picture.width - 0.5, py * picture.height - 0.5, rgb);
          for (let k = 0; k < 3; k++) data[o + k]! += rgb[k]! / (sub * sub);
        }
    }
  return { width, height, data };
}

function sample({ width, height, data }: LinearPicture, x: number, y: number, out: Float32Array): void {
  const cx = Math.min(width - 1, Math.max(0, x));
  const cy = Math.min(height - 1, Math.max(0, y));
  const [x0, y0] = [Math.floor(cx), Math.floor(cy)];
  const [x1, y1] = [Math.min(width - 1, x0 + 1), Math.min(height - 1, y0 + 1)];
  const [fx, fy] = [cx - x0, cy - y0];
  for (let k = 0; k < 3; k++) {
    const top = data[(y0 * width + x0) * 3 + k]! * (1 - fx) + data[(y0 * width + x1) * 3 + k]! * fx;
    const bottom = data[(y1 * width + x0) * 3 + k]! * (1 - fx) + data[(y1 * width + x1) * 3 + k]! * fx;
    out[k] = top * (1 - fy) + bottom * fy;
  }
}
