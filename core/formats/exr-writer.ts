import { zlibSync } from 'fflate';

/**
 * OpenEXR, scan lines, 32-bit floats or 16-bit halves, compressed by ZIP in blocks of 16 lines ("OpenEXR File Layout" and "Technical
 * Introduction to OpenEXR", openexr.com). Written piece by piece, so that no picture has to be in memory as a whole.
 */
export interface ExrChannel {
  /** Layers are told by a dot: `direct.R`. */
  name: string;
  kind: 'half' | 'float';
}

const LINES = 16;
const ZIP = 3;
const MAGIC = 20000630;
const VERSION = 2;
const TYPES = { half: 1, float: 2 } as const;

/** Rows of one picture on their way into a file. Values are given row after row, of each all channels of a pixel in the order given. */
export class ExrWriter {
  private readonly offsets: bigint[] = [];
  private readonly order: readonly number[];
  private rows: Float32Array;
  private held = 0;
  private done = 0;
  private at: number;
  private readonly tableAt: number;

  /** `write` puts bytes at a place of the file. Names of channels must differ. */
  constructor(
    private readonly channels: readonly ExrChannel[],
    private readonly width: number,
    private readonly height: number,
    attributes: Record<string, string>,
    private readonly write: (bytes: Uint8Array, at: number) => void,
  ) {
    // Readers find channels in the order of their names.
    this.order = channels.map((_, i) => i).sort((a, b) => (channels[a]!.name < channels[b]!.name ? -1 : 1));
    this.rows = new Float32Array(LINES * width * channels.length);
    const head = header(this.order.map((i) => channels[i]!), width, height, attributes); // prettier-ignore
    write(head, 0);
    this.tableAt = head.length;
    this.at = head.length + 8 * Math.ceil(height / LINES);
  }

  /** Takes rows from the top on. */
  add(values: Float32Array): void {
    const line = this.width * this.channels.length;
    for (let from = 0; from < values.length; from += line) {
      this.rows.set(values.subarray(from, from + line), this.held++ * line);
      if (this.held === LINES || this.done + this.held === this.height) this.flush();
    }
    if (this.done === this.height) this.end();
  }

  private flush(): void {
    const plain = this.block();
    const packed = zlibSync(predicted(plain), { level: 4 });
    // What does not become smaller is kept as it is.
    const data = packed.length < plain.length ? packed : plain;
    const block = new Uint8Array(8 + data.length);
    const view = new DataView(block.buffer);
    view.setInt32(0, this.done, true);
    view.setInt32(4, data.length, true);
    block.set(data, 8);
    this.write(block, this.at);
    this.offsets.push(BigInt(this.at));
    this.at += block.length;
    this.done += this.held;
    this.held = 0;
  }

  /** Line by line, in it channel by channel. */
  private block(): Uint8Array {
    const { width, channels, order, rows, held } = this;
    const bytesAPixel = channels.reduce((sum, { kind }) => sum + (kind === 'half' ? 2 : 4), 0);
    const out = new Uint8Array(held * width * bytesAPixel);
    const view = new DataView(out.buffer);
    let at = 0;
    for (let y = 0; y < held; y++)
      for (const c of order) {
        const isHalf = channels[c]!.kind === 'half';
        for (let x = 0, i = y * width * channels.length + c; x < width; x++, i += channels.length) {
          if (isHalf) view.setUint16(at, halfOf(rows[i]!), true);
          else view.setFloat32(at, rows[i]!, true);
          at += isHalf ? 2 : 4;
        }
      }
    return out;
  }

  private end(): void {
    const table = new Uint8Array(8 * this.offsets.length);
    const view = new DataView(table.buffer);
    this.offsets.forEach((offset, i) => {
      view.setBigUint64(i * 8, offset, true);
    });
    this.write(table, this.tableAt);
  }
}

/** Bytes at even places, then those at odd ones, each as its difference to the one before. */
function predicted(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length);
  const half = (bytes.length + 1) >> 1;
  for (let i = 0; i < bytes.length; i++) out[(i >> 1) + (i & 1 ? half : 0)] = bytes[i]!;
  for (let i = out.length - 1; i > 0; i--) out[i] = out[i]! - out[i - 1]! + 128;
  return out;
}

const FLOAT = new Float32Array(1);
const BITS = new Uint32Array(FLOAT.buffer);
const MOST_HALF = 65504;

/** The nearest half (IEEE 754 binary16); what is too large is the largest there is. */
export function halfOf(value: number): number {
  FLOAT[0] = Math.min(MOST_HALF, Math.max(-MOST_HALF, value));
  const bits = BITS[0]!;
  const sign = (bits >>> 16) & 0x8000;
  const exponent = ((bits >>> 23) & 0xff) - 112;
  const fraction = bits & 0x7fffff;
  if (Number.isNaN(value)) return 0x7e00;
  if (exponent <= 0) return sign | Math.round(Math.abs(FLOAT[0]) * 2 ** 24);
  // To the nearest, and to even ones in the middle; what carries goes into the exponent.
  const kept = (exponent << 10) | (fraction >>> 13);
  const rest = fraction & 0x1fff;
  return sign | (kept + (rest > 0x1000 || (rest === 0x1000 && kept & 1) ? 1 : 0));
}

function header(channels: readonly ExrChannel[], width: number, height: number, attributes: Record<string, string>): Uint8Array {
  const bytes: number[] = [];
  const int = (value: number) => bytes.push(value & 255, (value >> 8) & 255, (value >> 16) & 255, (value >> 24) & 255);
  const text = (value: string) => bytes.push(...new TextEncoder().encode(value), 0);
  const float = (value: number) => bytes.push(...new Uint8Array(new Float32Array([value]).buffer));
  const attribute = (name: string, type: string, size: number, fill: () => void) => {
    text(name);
    text(type);
    int(size);
    fill();
  };
  int(MAGIC);
  int(VERSION);
  const names = channels.map(({ name }) => new TextEncoder().encode(name).length + 1 + 16);
  attribute('channels', 'chlist', names.reduce((a, b) => a + b, 1), () => {
    for (const { name, kind } of channels) {
      text(name);
      int(TYPES[kind]);
      int(0);
      int(1);
      int(1);
    }
    bytes.push(0);
  }); // prettier-ignore
  attribute('compression', 'compression', 1, () => bytes.push(ZIP));
  for (const name of ['dataWindow', 'displayWindow'])
    attribute(name, 'box2i', 16, () => {
      [0, 0, width - 1, height - 1].forEach(int);
    });
  attribute('lineOrder', 'lineOrder', 1, () => bytes.push(0));
  attribute('pixelAspectRatio', 'float', 4, () => float(1));
  attribute('screenWindowCenter', 'v2f', 8, () => {
    [0, 0].forEach(float);
  });
  attribute('screenWindowWidth', 'float', 4, () => float(1));
  for (const [name, value] of Object.entries(attributes)) {
    const said = new TextEncoder().encode(value);
    attribute(name, 'string', said.length, () => bytes.push(...said));
  }
  bytes.push(0);
  return Uint8Array.from(bytes);
}
