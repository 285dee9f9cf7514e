import * as L from '../kernel/assembly/layout';
import { Blocks } from '../kernel/blocks';
import type { KernelMemory } from '../kernel/memory';
import type { Task } from '../kernel/thread';
import type { Tensor } from './tensor-archive';
import { transformWeights } from './winograd';

/** A layer reads the one before it, or `from`; beside it may lie a layer of half the size, which is enlarged. */
interface Layer {
  name: string;
  from?: string;
  low?: string;
  halved?: boolean;
}

const INPUT = 'input';
/** Colours, albedo and normal. */
const TAUGHT_INPUTS = 9;

/** The network (a U-Net, Ronneberger and others 2015): down four times to half the size, and up again beside what it was on the way. */
const LAYERS: readonly Layer[] = [
  { name: 'enc_conv0', from: INPUT },
  { name: 'enc_conv1', halved: true },
  { name: 'enc_conv2', halved: true },
  { name: 'enc_conv3', halved: true },
  { name: 'enc_conv4', halved: true },
  { name: 'enc_conv5a' },
  { name: 'enc_conv5b' },
  { name: 'dec_conv4a', low: 'enc_conv5b', from: 'enc_conv3' },
  { name: 'dec_conv4b' },
  { name: 'dec_conv3a', low: 'dec_conv4b', from: 'enc_conv2' },
  { name: 'dec_conv3b' },
  { name: 'dec_conv2a', low: 'dec_conv3b', from: 'enc_conv1' },
  { name: 'dec_conv2b' },
  { name: 'dec_conv1a', low: 'dec_conv2b', from: INPUT },
  { name: 'dec_conv1b' },
  { name: 'dec_conv0' },
];

/** Width and height are multiples of this, so that every layer's are even. */
export const NETWORK_STEP = 32;
/** What lies further away than this many pixels says nothing of one; a multiple of NETWORK_STEP. */
export const NETWORK_REACH = 96;

/** One layer's pictures and their channels. */
const sourceOf = (i: number): string => LAYERS[i]!.from ?? LAYERS[i - 1]!.name;

/** The network's weights in the kernel's memory. */
export class Network {
  private readonly weights = new Map<string, { weights: number; bias: number }>();
  private readonly channels = new Map<string, number>([[INPUT, L.NETWORK_INPUTS]]);

  constructor(
    private readonly memory: KernelMemory,
    tensors: ReadonlyMap<string, Tensor>,
  ) {
    for (const [i, { name, low }] of LAYERS.entries()) {
      const [weights, bias] = [tensors.get(`${name}.weight`), tensors.get(`${name}.bias`)];
      if (!weights || !bias) throw new Error(`These weights have no layer ${name}.`);
      const outputs = Math.max(L.NETWORK_OUTPUTS, weights.dims[0]!);
      const inputs = [...this.inputsOf(low, 0), ...this.inputsOf(sourceOf(i), low ? this.channels.get(low)! : 0)];
      this.channels.set(name, outputs);
      const biases = new Float32Array(outputs);
      biases.set(bias.data);
      this.weights.set(name, { weights: place(memory, transformWeights(weights, inputs)), bias: place(memory, biases) });
    }
  }

  /** Bytes that it works in for a picture of this size. */
  bytesFor(width: number, height: number): number {
    return this.plan(width, height).bytes;
  }

  /**
   * What is to be done to a picture of this size, of which `working` bytes are the room: input at `input`, what comes out at `output`.
   * The layers are described at `layers`, `layersBytes` long.
   */
  tasks(width: number, height: number, working: number, layers: number): { tasks: Task[]; input: number; output: number } {
    const { at } = this.plan(width, height);
    const pointer = (name: string | undefined) => (name === undefined ? 0 : working + at.get(name)!);
    const view = this.memory.view();
    const tasks = LAYERS.map(({ name, low, halved }, i): Task => {
      const layer = layers + i * L.LAYER_SIZE;
      const { weights, bias } = this.weights.get(name)!;
      const shrunk = shrinkingBefore(i);
      const write = (offset: number, value: number) => {
        view.setUint32(layer + offset, value, true);
      };
      write(L.LAYER_LOW, pointer(low));
      write(L.LAYER_LOW_CHANNELS, low ? this.channels.get(low)! : 0);
      write(L.LAYER_SOURCE, pointer(sourceOf(i)));
      write(L.LAYER_SOURCE_CHANNELS, this.channels.get(sourceOf(i))!);
      write(L.LAYER_TARGET, pointer(name));
      write(L.LAYER_CHANNELS, this.channels.get(name)!);
      write(L.LAYER_HALVED, halved ? 1 : 0);
      write(L.LAYER_WEIGHTS, weights);
      write(L.LAYER_BIAS, bias);
      write(L.LAYER_WIDTH, width / shrunk);
      write(L.LAYER_HEIGHT, height / shrunk);
      return { kind: 'convolve', height: height / shrunk / 2, rows: 1, layer };
    });
    return { tasks, input: pointer(INPUT), output: pointer(LAYERS.at(-1)!.name) };
  }

  static readonly layersBytes = LAYERS.length * L.LAYER_SIZE;

  /** Where each picture lies; those that nothing reads any more make room. */
  private plan(width: number, height: number): { at: Map<string, number>; bytes: number } {
    const blocks = new Blocks(0, 128);
    const at = new Map<string, number>();
    const take = (name: string, shrunk: number) => {
      at.set(name, blocks.take(((width / shrunk) * (height / shrunk) * this.channels.get(name)!) << 2));
    };
    take(INPUT, 1);
    for (const [i, { name, low, halved }] of LAYERS.entries()) {
      take(name, shrinkingBefore(i) * (halved ? 2 : 1));
      for (const read of [sourceOf(i), low]) if (read !== undefined && lastReader(read) === i) blocks.release(at.get(read)!);
    }
    return { at, bytes: blocks.end };
  }

  /** Which channels of a tensor the kernel's channels of a picture are. */
  private inputsOf(name: string | undefined, first: number): (number | undefined)[] {
    if (name === undefined) return [];
    return Array.from({ length: this.channels.get(name)! }, (_, i) => (name === INPUT && i >= TAUGHT_INPUTS ? undefined : first + i));
  }
}

const lastReader = (name: string): number => LAYERS.findLastIndex((layer, i) => layer.low === name || sourceOf(i) === name);

/** How many times smaller the pictures are that a layer reads. */
function shrinkingBefore(index: number): number {
  let shrunk = 1;
  for (const [i, { low, halved }] of LAYERS.entries()) {
    if (low) shrunk /= 2;
    if (i === index) break;
    if (halved) shrunk *= 2;
  }
  return shrunk;
}

function place(memory: KernelMemory, data: Float32Array): number {
  const at = memory.allocate(data.byteLength);
  memory.write(at, data);
  return at;
}
