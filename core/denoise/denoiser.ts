import * as L from '../kernel/assembly/layout';
import { KeptRooms } from '../kernel/kept-rooms';
import type { KernelPool } from '../kernel/pool';
import type { Task } from '../kernel/thread';
import { Network } from './network';
import { readTensors } from './tensor-archive';
import { denoisedTiles, type DenoisedTile } from './tiles';

/** The smaller weights take half the time and see a little less. */
export type Weights = 'small' | 'full';
export type WeightFiles = (weights: Weights) => Promise<Uint8Array>;

const ROWS = 8;
/** Pixels that the network reads at once: it works in about 600 bytes for each. */
export const MOST_PIXELS = 1_100_000;

/**
 * Takes the noise out of the film: radiance, featured by albedo and normal, in; radiance out. The same bits whatever the number of
 * threads or tiles. Its room in the kernel's memory is kept for the next picture.
 */
export class Denoiser {
  private readonly networks = new Map<Weights, Network>();
  private readonly rooms: KeptRooms;

  constructor(
    private readonly pool: KernelPool,
    private readonly files: WeightFiles,
    private readonly mostPixels = MOST_PIXELS,
  ) {
    this.rooms = new KeptRooms(pool.scene.memory);
  }

  /** The film's mean radiance as it is, f32x4 a pixel. Undefined when cancelled; valid until the next call. */
  plain(): Promise<Float32Array | undefined> {
    return this.run((out, height) => [{ kind: 'mean-radiance', height, rows: ROWS, out }]);
  }

  /**
   * The film's radiance without its noise, f32x4 a pixel: rgb in cd/m2 and 1. Undefined when cancelled; valid until the next call.
   * `ownScale`: what the film's light is brought to middle grey by, where it is a piece of a picture.
   */
  async denoised(weights: Weights, ownScale?: number): Promise<Float32Array | undefined> {
    const network = await this.network(weights);
    return this.run((out, height, width) => {
      const scale = ownScale ?? learntScale(this.pool.scene.filmData(), width);
      const tiles = denoisedTiles(width, height, this.mostPixels);
      const working = this.rooms.take('working', Math.max(...tiles.map((t) => network.bytesFor(t.readWidth, t.readHeight))));
      const layers = this.rooms.take('layers', tiles.length * Network.layersBytes);
      return tiles.flatMap((tile, i) => denoiseTile(network, tile, scale, working, layers + i * Network.layersBytes, out));
    });
  }

  private async run(tasks: (out: number, height: number, width: number) => Task[]): Promise<Float32Array | undefined> {
    const { width, height } = this.pool.scene.filmSize;
    const out = this.rooms.take('out', width * height * 16);
    if (!(await this.pool.run(...tasks(out, height, width)))) return undefined;
    return this.pool.scene.memory.floats(out, width * height * 4);
  }

  private async network(weights: Weights): Promise<Network> {
    let network = this.networks.get(weights);
    if (!network) {
      network = new Network(this.pool.scene.memory, readTensors(await this.files(weights)));
      this.networks.set(weights, network);
    }
    return network;
  }
}

function denoiseTile(network: Network, tile: DenoisedTile, scale: number, working: number, layers: number, out: number): Task[] {
  const { left, top, width, height, readLeft, readTop, readWidth, readHeight } = tile;
  const { tasks, input, output } = network.tasks(readWidth, readHeight, working, layers);
  return [
    { kind: 'network-input', height: readHeight, rows: ROWS, left: readLeft, top: readTop, width: readWidth, scale, target: input },
    ...tasks,
    {
      kind: 'network-output', height, rows: ROWS, left, top, width, scale,
      source: output, line: readWidth, inset: left - readLeft, above: top - readTop, out,
    },
  ]; // prettier-ignore
}

/** Middle grey, which the network was taught to meet, and the squares whose mean light is looked at: few samples are too rough by themselves. */
const GREY = 0.18;
const SQUARE = 16;
const DARK = 1e-8;

/** What brings the log mean of the film's luminance to middle grey. */
export function learntScale(film: Float32Array, width: number): number {
  const floats = L.PIXEL_SIZE / 4;
  const height = film.length / floats / width;
  let sum = 0;
  let count = 0;
  for (let y0 = 0; y0 < height; y0 += SQUARE)
    for (let x0 = 0; x0 < width; x0 += SQUARE) {
      let light = 0;
      let samples = 0;
      for (let y = y0; y < Math.min(height, y0 + SQUARE); y++)
        for (let x = x0; x < Math.min(width, x0 + SQUARE); x++) {
          const q = (y * width + x) * floats;
          light += 0.2126 * film[q]! + 0.7152 * film[q + 1]! + 0.0722 * film[q + 2]!;
          samples += film[q + L.PIXEL_COUNT / 4]!;
        }
      const mean = samples > 0 ? light / samples : 0;
      if (!(mean > DARK)) continue;
      sum += Math.log2(mean);
      count++;
    }
  return count > 0 ? GREY / 2 ** (sum / count) : 1;
}
