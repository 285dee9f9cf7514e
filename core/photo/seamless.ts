import type { LinearPicture } from './picture';

/** Part of the picture's side that is given up so that its ends can be laid over each other. */
export const OVERLAP = 0.22;
/** Pixels either side of the cut over which one end gives way to the other. */
const FEATHER = 3;

/**
 * A picture whose opposite sides fit: each pair of ends is laid over one another and cut where they differ least (minimum
 * error boundary cut: Efros & Freeman, "Image Quilting for Texture Synthesis and Transfer", SIGGRAPH 2001). Smaller than
 * before by the overlap, each way.
 */
export function seamless(picture: LinearPicture): LinearPicture {
  return turned(closed(turned(closed(picture))));
}

/** Makes left and right fit. */
function closed({ width, height, data }: LinearPicture): LinearPicture {
  const overlap = Math.max(2, Math.floor(width * OVERLAP));
  const out = width - overlap;
  const cost = new Float32Array(overlap * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < overlap; x++) {
      const [left, right] = [(y * width + x) * 3, (y * width + out + x) * 3];
      let sum = 0;
      // As the eye sees differences: of roots, not of light.
      for (let k = 0; k < 3; k++) sum += (Math.sqrt(data[left + k]!) - Math.sqrt(data[right + k]!)) ** 2;
      cost[y * overlap + x] = sum;
    }
  const cut = cheapestPath(cost, overlap, height);
  const result = new Float32Array(out * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < out; x++) {
      const o = (y * out + x) * 3;
      const left = (y * width + x) * 3;
      // Left of the cut the other end of the picture goes on, right of it this one begins.
      const begins = x >= overlap ? 1 : Math.min(1, Math.max(0, (x - cut[y]! + FEATHER) / (2 * FEATHER)));
      for (let k = 0; k < 3; k++) result[o + k] = data[left + k]! * begins + (begins < 1 ? data[left + out * 3 + k]! * (1 - begins) : 0);
    }
  return { width: out, height, data: result };
}

/**
 * Column of the cheapest way from the first row to the last, one column a row at most, ending where it begins: so that the
 * cut itself fits when the picture repeats.
 */
export function cheapestPath(cost: Float32Array, width: number, height: number): Int32Array {
  const free = follow(cost, width, height, undefined);
  return follow(cost, width, height, free[height >> 1]);
}

function follow(cost: Float32Array, width: number, height: number, fixed: number | undefined): Int32Array {
  // Away from the sides, where one end is all that there is.
  const [low, high] = [Math.min(FEATHER + 1, width >> 2), width - 1 - Math.min(FEATHER + 1, width >> 2)];
  const total = new Float64Array(width * height).fill(Infinity);
  for (let x = low; x <= high; x++) if (fixed === undefined || x === fixed) total[x] = cost[x]!;
  for (let y = 1; y < height; y++)
    for (let x = low; x <= high; x++) {
      const above = (y - 1) * width + x;
      const best = Math.min(total[above]!, x > low ? total[above - 1]! : Infinity, x < high ? total[above + 1]! : Infinity);
      total[y * width + x] = best + cost[y * width + x]! + 1e-9;
    }
  const path = new Int32Array(height);
  const last = (height - 1) * width;
  let x = fixed ?? low;
  if (fixed === undefined) for (let i = low; i <= high; i++) if (total[last + i]! < total[last + x]!) x = i;
  // Where the fixed end cannot be reached, in very few rows, the path goes straight.
  if (total[last + x] === Infinity) return path.fill(x);
  for (let y = height - 1; y >= 0; y--) {
    path[y] = x;
    if (y === 0) break;
    let next = x;
    for (const i of [x - 1, x + 1]) if (i >= low && i <= high && total[(y - 1) * width + i]! < total[(y - 1) * width + next]!) next = i;
    x = next;
  }
  return path;
}

/** Rows and columns exchanged. */
function turned({ width, height, data }: LinearPicture): LinearPicture {
  const out = new Float32Array(data.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) for (let k = 0; k < 3; k++) out[(x * height + y) * 3 + k] = data[(y * width + x) * 3 + k]!;
  return { width: height, height: width, data: out };
}
