import type { Point } from '../paint';

export type Colour = readonly [number, number, number];

export function tint(p: Point, colour: Colour, k: number): void {
  p.r = colour[0] * k;
  p.g = colour[1] * k;
  p.b = colour[2] * k;
}

export function blend(p: Point, a: Colour, b: Colour, t: number, k: number): void {
  p.r = (a[0] + (b[0] - a[0]) * t) * k;
  p.g = (a[1] + (b[1] - a[1]) * t) * k;
  p.b = (a[2] + (b[2] - a[2]) * t) * k;
}

/** Lets a colour shine through the present one by a share. */
export function over(p: Point, colour: Colour, share: number): void {
  p.r += (colour[0] - p.r) * share;
  p.g += (colour[1] - p.g) * share;
  p.b += (colour[2] - p.b) * share;
}

/** Distance to the nearest edge of a cell 0..1, in the units of `size`. */
export const edge = (t: number, size: number): number => Math.min(t, 1 - t) * size;

/** A piece of a bond: its column and row, where one is in it (0..1), and how far from its edge, metres. */
export interface Piece {
  column: number;
  row: number;
  x: number;
  y: number;
  edgeM: number;
}

/** Pieces of one size in rows over the repeat, each row shifted by a share of a piece against the one below. */
export function bond(u: number, v: number, columns: number, rows: number, shift: number, pieceM: readonly [number, number]): Piece {
  const row = Math.min(rows - 1, Math.floor(v * rows));
  const along = u * columns + ((row * shift) % 1);
  const column = Math.floor(along) % columns;
  const x = along - Math.floor(along);
  const y = v * rows - row;
  return { column, row, x, y, edgeM: Math.min(edge(x, pieceM[0]), edge(y, pieceM[1])) };
}
