import { NETWORK_REACH, NETWORK_STEP } from './network';

/** So many mirrored pixels lie about the picture: what the network makes of the outermost ones is a little dark. */
const RIM = 4;

/** A part of a picture: what is kept of it, and what the network reads for that, which reaches beyond the picture's edges. */
export interface DenoisedTile {
  left: number;
  top: number;
  width: number;
  height: number;
  /** Of what is read. */
  readLeft: number;
  readTop: number;
  readWidth: number;
  readHeight: number;
}

/** The length nearest to this that the network reads without a rest: what is beyond it costs a whole step. */
export const wholeSteps = (length: number): number => Math.max(1, Math.round((length + 2 * RIM) / NETWORK_STEP)) * NETWORK_STEP - 2 * RIM;

const step = (length: number): number => Math.ceil(length / NETWORK_STEP) * NETWORK_STEP;

/** Cuts a picture into as few tiles as there are, each read with at most so many pixels. Tiles overlap by the network's reach, so no join is seen. */
export function denoisedTiles(width: number, height: number, mostPixels: number): DenoisedTile[] {
  const cut = (length: number, parts: number) => {
    const core = step(length / parts);
    return Array.from({ length: Math.ceil(length / core) }, (_, i) => {
      const from = i * core;
      const to = Math.min(length, from + core);
      // All tiles' steps count from the rim, or the same pixel would be read in another place of a step.
      const readFrom = Math.max(0, from - NETWORK_REACH) - RIM;
      return {
        from,
        size: to - from,
        readFrom,
        readSize: Math.min(step(length + 2 * RIM), step(to + RIM + NETWORK_REACH)) - RIM - readFrom,
      };
    });
  };
  for (let parts = 1; ; parts++) {
    const [columns, rows] = width >= height ? [parts, Math.ceil((parts * height) / width)] : [Math.ceil((parts * width) / height), parts];
    const tiles = cut(height, rows).flatMap((y) =>
      cut(width, columns).map((x) => ({
        left: x.from,
        top: y.from,
        width: x.size,
        height: y.size,
        readLeft: x.readFrom,
        readTop: y.readFrom,
        readWidth: x.readSize,
        readHeight: y.readSize,
      })),
    );
    const widest = Math.max(...tiles.map((t) => t.readWidth * t.readHeight));
    if (widest <= mostPixels || parts * NETWORK_STEP >= Math.max(width, height)) return tiles;
  }
}
